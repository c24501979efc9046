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

// A made-up student with one habit answers cards of every ready instrument. Where no other slip gives the same value,
// the habit is named first on at least 95 of 100 cards, and never as one of a pair.
func TestAHabitIsNamed(t *testing.T) {
	t.Parallel()
	seeds := uint64(3)
	if testing.Short() {
		seeds = 1
	}
	habits := []exercise.Code{slips.ZeroEndNotTaken, slips.ZeroCountedBack, slips.NumberOff, slips.LineGluedOn,
		slips.LineAsUnits, slips.ZeroAppliedTwice, slips.PointMoved, slips.RoundedOff, slips.ValueForLine}
	told, named := map[exercise.Code]int{}, map[exercise.Code]int{}
	for i, p := range instrument.Patterns() {
		if testing.Short() && i%2 == 0 {
			continue
		}
		in, err := instrument.New(p)
		require.NoError(t, err)
		for _, ask := range []string{"ask=main fine_line observed zero_error corrected", "ask=observed corrected",
			"ask=zero_error corrected"} {
			sheet := exercise.Sheet{Blocks: []exercise.Block{block("read", 6, "zero=varied|"+ask, in)},
				Dealer: exercise.Dealing}
			if sheet.Check(kinds.All) != nil {
				continue // an instrument that has no such step
			}
			for seed := range seeds {
				for _, it := range must(sheet.Deal(kinds.All, seed)) {
					for _, habit := range habits {
						draws := rand.New(rand.NewPCG(seed, 1))
						a, made, err := exercise.Student{Slips: []exercise.Code{habit}, Often: 1}.Answer(it, draws)
						require.NoError(t, err)
						if made.Code == "" || len(made.Synonyms) > 0 {
							continue
						}
						r, err := it.Mark(a)
						require.NoError(t, err)
						told[habit]++
						if len(r.Slips) > 0 && r.Slips[0] == habit {
							named[habit]++
						}
					}
				}
			}
		}
	}
	for _, habit := range habits {
		t.Logf("%-24s named first on %5d of %5d cards", habit, named[habit], told[habit])
		require.Greater(t, told[habit], 20, habit)
		assert.GreaterOrEqual(t, 100*named[habit], 95*told[habit], habit)
	}
}
