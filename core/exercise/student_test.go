package exercise_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/marking"
)

// Students with one slip answer sheets of all families: marking names it.
func TestMarkingNamesTheCause(t *testing.T) {
	var total exercise.Diagnosis
	for i, p := range instrument.Patterns() {
		p.ZeroError = length.Number{}
		in, err := instrument.New(p)
		require.NoError(t, err)
		sheet := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 20, Zero: exercise.ZeroVaried, Awkward: 30, Ask: marking.Steps}
		d, err := sheet.Simulate(3, 0, uint64(i))
		require.NoError(t, err)
		total.Answers, total.First, total.Three = total.Answers+d.Answers, total.First+d.First, total.Three+d.Three
		for code, n := range d.ByCode {
			if n.Three*10 < n.Made*9 {
				t.Errorf("%s on %s: made %d, named %d, taken for %v", code, p.Name, n.Made, n.Three, n.TakenFor)
			}
		}
	}
	require.GreaterOrEqual(t, total.Answers, 10000)
	share := func(n int) float64 { return 100 * float64(n) / float64(total.Answers) }
	t.Logf("%d answers with a slip: named first %.1f %%, in the first three %.1f %%", total.Answers, share(total.First), share(total.Three))
	require.GreaterOrEqual(t, share(total.First), 95.0)
	require.GreaterOrEqual(t, share(total.Three), 99.0)
}

// A sheet of one sum alone cannot tell some slips apart, and says which.
func TestSimulateTellsWhatASheetCannotTell(t *testing.T) {
	in := fiftieth(t)
	sheet := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 10, Zero: exercise.ZeroOwn, Ask: []marking.Step{marking.Corrected}}
	d, err := sheet.Simulate(5, 0.3, 1)
	require.NoError(t, err)
	again, err := sheet.Simulate(5, 0.3, 1)
	require.NoError(t, err)
	require.Equal(t, d, again, "the same seed, the same students")
	require.Less(t, d.First, d.Answers, "noise hides some causes")
	for code, n := range d.ByCode {
		taken := 0
		for _, k := range n.TakenFor {
			taken += k
		}
		require.Equal(t, n.Made, n.First+taken, code)
	}
}

// Whatever a school settles, who reads and works rightly in its way has every mark of the card.
func TestEverySchoolFindsItsOwnReadingRight(t *testing.T) {
	draws := rand.New(rand.NewPCG(15, 4))
	for range 1500 {
		in := instrumenttest.Any(draws)
		var school marking.Method
		for _, s := range marking.Settings {
			require.NoError(t, s.Set(&school, s.Choices[draws.IntN(len(s.Choices))].Value))
		}
		if school.Tie == "unfavourable" {
			school.Tie = "" // needs limits; see the cards of marking
		}
		sheet := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 2, Zero: exercise.ZeroOwn, Awkward: 50, Ask: marking.Steps, Method: school}
		cards, err := sheet.Deal(draws.Uint64())
		require.NoError(t, err)
		for _, c := range cards {
			require.Equal(t, school, c.Method)
			a, made, err := exercise.Student{}.Answer(c, draws)
			require.NoError(t, err)
			require.Empty(t, made)
			if school.Unit == "required" {
				for step, text := range a {
					if step != marking.FineLine && step != marking.FinerLine {
						a[step] = text + " " + string(in.Spec().Unit)
					}
				}
			}
			r, err := c.Mark(a)
			require.NoError(t, err)
			require.Truef(t, r.Marks.Equal(r.Of), "%v of %s under %+v: %+v", a, in.Describe(), school, r)
		}
	}
}
