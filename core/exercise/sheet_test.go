package exercise_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/marking"
)

func fiftieth(t testing.TB) *instrument.Instrument {
	t.Helper()
	in, err := instrument.New(instrument.Spec{Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 50, Spans: 49}, ZeroError: length.Frac(-3, 50)})
	require.NoError(t, err)
	return in
}

// The same seed deals the same cards for ever: what students were given does not change under them.
func ExampleSheet_Deal() {
	in, _ := instrument.New(instrument.Spec{Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, Spans: 19}})
	sheet := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 3, Ask: []marking.Step{marking.Observed}, Zero: exercise.ZeroOwn}
	for _, seed := range []uint64{1, 1, 2} {
		cards, _ := sheet.Deal(seed)
		fmt.Println(cards[0].Indicated, cards[1].Indicated, cards[2].Indicated)
	}
	// Output:
	// 100.95 123.25 127.1
	// 100.95 123.25 127.1
	// 84.4 130.25 130.3
}

func TestDealtCardsKeepToTheSheet(t *testing.T) {
	in := fiftieth(t)
	for _, awkward := range []int{0, 30, 100} {
		sheet := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 20, Ask: marking.Steps, Zero: exercise.ZeroVaried, Awkward: awkward}
		cards, err := sheet.Deal(99)
		require.NoError(t, err)
		require.Len(t, cards, 20)
		odd, negative := 0, 0
		for _, c := range cards {
			r, err := c.Instrument.Read(c.Indicated)
			require.NoError(t, err)
			assert.True(t, r.Observed.Equal(c.Indicated), "on the grid")
			assert.True(t, length.Int(5).Less(r.Main) && r.Main.Less(length.Int(145)), "away from the ends: %s", r.Main)
			if r.Line == 0 || r.Line <= 5 || r.Line >= 40 {
				odd++
			}
			if r.ZeroError.Sign() < 0 {
				negative++
			}
			assert.NotZero(t, r.ZeroError.Sign())
		}
		assert.GreaterOrEqual(t, odd, 20*awkward/100)
		assert.True(t, negative > 2 && negative < 18, "zero errors of both signs: %d of 20 negative", negative)
	}
	none := exercise.Sheet{Instruments: []*instrument.Instrument{in}, Cards: 2, Ask: marking.Steps, Zero: exercise.ZeroNone}
	cards, err := none.Deal(1)
	require.NoError(t, err)
	assert.False(t, cards[0].Asks(marking.ZeroError))
	assert.Zero(t, cards[0].Instrument.Spec().ZeroError.Sign())
}

// Any instrument can be dealt from, and what is dealt is stored whole.
func TestDealsFromDrawnVerniers(t *testing.T) {
	draws := rand.New(rand.NewPCG(3, 3))
	for range 150 {
		sheet := exercise.Sheet{Instruments: []*instrument.Instrument{instrumenttest.Vernier(draws)}, Cards: 6, Ask: marking.Steps,
			Zero: []exercise.Zero{exercise.ZeroNone, exercise.ZeroOwn, exercise.ZeroVaried}[draws.IntN(3)], Awkward: draws.IntN(101)}
		cards, err := sheet.Deal(draws.Uint64())
		require.NoError(t, err)
		for _, c := range cards {
			b, err := json.Marshal(c)
			require.NoError(t, err)
			_, err = marking.Parse(b)
			require.NoError(t, err, "%s", b)
		}
	}
}

func TestCheckNamesTheField(t *testing.T) {
	good := exercise.Sheet{Instruments: []*instrument.Instrument{fiftieth(t)}, Cards: 5, Ask: []marking.Step{marking.Main}, Zero: exercise.ZeroOwn}
	require.NoError(t, good.Check())
	for field, spoil := range map[string]func(*exercise.Sheet){
		"instruments": func(s *exercise.Sheet) { s.Instruments = nil },
		"cards":       func(s *exercise.Sheet) { s.Cards = exercise.MaxCards + 1 },
		"ask":         func(s *exercise.Sheet) { s.Ask, s.Zero = []marking.Step{marking.Corrected}, exercise.ZeroNone },
		"zero":        func(s *exercise.Sheet) { s.Zero = "some" },
		"awkward":     func(s *exercise.Sheet) { s.Awkward = -1 },
	} {
		s := good
		spoil(&s)
		assert.ErrorContains(t, s.Check(), field+": ")
		_, err := s.Deal(1)
		assert.Error(t, err)
	}
}
