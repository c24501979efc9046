package kinds_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/slips"
)

// A class can be asked every instrument: each list of steps makes a card that can be asked, at a value that is dealt.
func TestRoundsOfEveryInstrument(t *testing.T) {
	for i, p := range instrument.Patterns() {
		in := must(instrument.New(p))
		steps := kinds.RoundSteps(in)
		require.NotEmpty(t, steps, p.Name)
		for j, s := range steps {
			y, err := kinds.RoundValue(in, exercise.Method{Tie: "unfavourable"}, uint64(i*10+j))
			require.NoError(t, err, p.Name)
			it := kinds.NewRound(in, y, s, exercise.Method{Tie: "unfavourable"})
			require.NoError(t, it.Check(), p.Name)
			again := must(kinds.RoundValue(in, exercise.Method{Tie: "unfavourable"}, uint64(i*10+j)))
			assert.True(t, y.Equal(again), "one seed, one value")
			a, _, err := exercise.Student{}.Answer(it, nil)
			require.NoError(t, err)
			r := must(it.Mark(a))
			assert.True(t, r.Marks.Equal(r.Of), "%s: %v", p.Name, s)
		}
	}
}

// A value that tells two slips apart gives each a value of its own, which marking names by it alone.
func TestAValueThatTellsTwoSlipsApart(t *testing.T) {
	caliper, screw := pattern(t, "Caliper 0.05 mm, 20 over 39", "-0.15"), pattern(t, "Micrometer 0.01 mm", "0.02")
	for _, tt := range []struct {
		in    *instrument.Instrument
		steps []string
		a, b  exercise.Code
		found bool
	}{
		{caliper, []string{slips.Observed}, slips.MainNextMark, slips.MainAtCoincidence, true},
		{caliper, []string{slips.Observed}, slips.NeighbourLine, slips.LabelTakenAsLine, true},
		{caliper, []string{slips.Corrected}, slips.ZeroNotApplied, slips.ZeroSignFlipped, true},
		{screw, []string{slips.Observed}, slips.HalfMarkMissed, slips.FineBackwards, true},
		{screw, []string{slips.Observed}, slips.MainAtCoincidence, slips.HalfMarkMissed, false}, // no plate
	} {
		y, found, err := kinds.ApartValue(tt.in, tt.steps, exercise.Method{}, tt.a, tt.b, 7)
		require.NoError(t, err)
		require.Equal(t, tt.found, found, "%s %s", tt.a, tt.b)
		if !found {
			continue
		}
		it := kinds.NewRound(tt.in, y, tt.steps, exercise.Method{})
		for _, code := range []exercise.Code{tt.a, tt.b} {
			a, made, err := exercise.Student{Slips: []exercise.Code{code}, Often: 1}.Answer(it,
				rand.New(rand.NewPCG(1, 1)))
			require.NoError(t, err)
			require.NotEmpty(t, made, code)
			assert.Equal(t, code, must(it.Mark(a)).Slips[0], "%s at %s", code, y)
		}
	}
}

// What somebody took is shown where it is.
func TestWhatWasTaken(t *testing.T) {
	it := kinds.NewRound(pattern(t, "Caliper 0.05 mm, 20 over 39", "0"), number(t, "31.40"), []string{slips.Observed},
		exercise.Method{})
	p, ok, err := kinds.Taken(it, slips.MainNextMark)
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "31", p.Mark.String())
	assert.Equal(t, "32", p.TakenMark.String())
	assert.Nil(t, p.TakenLine)
	p, ok, err = kinds.Taken(it, "main-mark-missed+label-taken-as-line")
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "30", p.TakenMark.String())
	assert.Equal(t, 4, *p.TakenLine)
	_, ok, err = kinds.Taken(it, slips.PlaceShift)
	require.NoError(t, err)
	assert.False(t, ok, "it took no other mark or line")
}
