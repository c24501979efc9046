package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/slips"
)

func BenchmarkDeal(b *testing.B) {
	sheet := exercise.Sheet{Blocks: []exercise.Block{block("read", 10, "zero=varied", fiftieth(b))},
		Dealer: exercise.Dealing}
	seed := uint64(0)
	for b.Loop() {
		seed++
		_, err := sheet.Deal(kinds.All, seed)
		require.NoError(b, err)
	}
}

func BenchmarkCover(b *testing.B) {
	sheet := exercise.Sheet{Blocks: []exercise.Block{block("read", 10, "zero=varied", fiftieth(b))},
		Dealer: exercise.Dealing}
	items := must(sheet.Deal(kinds.All, 1))
	for b.Loop() {
		_, err := kinds.Cover(items, nil)
		require.NoError(b, err)
	}
}

// telling counts the cards of a pattern's sheets on which all slips are apart, but for those that are alike.
func telling(t *testing.T, p instrument.Spec, dealer int, settings string, seeds uint64) (all, apart, joined int) {
	t.Helper()
	in, err := instrument.New(p)
	require.NoError(t, err)
	known := map[exercise.Code]exercise.Slip{}
	for _, s := range slips.All() {
		known[s.Code] = s
	}
	sheet := exercise.Sheet{Blocks: []exercise.Block{block("read", 10, settings, in)}, Dealer: dealer}
	for seed := range seeds {
		for _, it := range must(sheet.Deal(kinds.All, seed)) {
			ps := exercise.Firsts(must(it.Predictions()))
			shared, other := false, false
			for i, a := range ps {
				for _, b := range ps[i+1:] {
					if a.Field == b.Field && a.Code != b.Code && a.Value.Equal(b.Value) {
						shared = true
						other = other || !known[a.Code].Alike(known[b.Code])
					}
				}
			}
			all++
			if !shared {
				apart++
			}
			if !other {
				joined++
			}
		}
	}
	return all, apart, joined
}

// On instruments with at least 20 lines nearly every card keeps all slips apart that are not alike.
func TestDealtCardsTellSlipsApart(t *testing.T) {
	t.Parallel()
	seeds := uint64(10)
	if testing.Short() {
		seeds = 3
	}
	for _, p := range instrument.Patterns() {
		if must(instrument.New(p)).Lines() < 20 {
			continue
		}
		all, _, joined := telling(t, p, exercise.Dealing, "zero=varied", seeds)
		least := 90
		if must(instrument.New(p)).Spec().Main.NumberEvery == 2 {
			least = 55 // in the first half of its cycle the plate's edge stands at the printed number before
		}
		assert.GreaterOrEqual(t, 100*joined/all, least, p.Name)
	}
}

// A ready sheet of ten cards names every slip that its instruments allow, alone or with slips that are alike.
func TestReadySheetsCoverTheirSlips(t *testing.T) {
	if testing.Short() {
		t.Skip("deals hundreds of sheets; left out with -short")
	}
	t.Parallel()
	const seeds, students = uint64(20), 30
	for _, r := range kinds.ReadySheets {
		sheet, _, err := r.Compose(nil)
		require.NoError(t, err)
		require.Equal(t, 10, sheet.Cards(), r.Name)
		possible := must(sheet.Possible(kinds.All, students))
		covered, missed := 0, map[exercise.Code]int{}
		for seed := range seeds {
			c := must(kinds.Cover(must(sheet.Deal(kinds.All, 1000+seed)), possible))
			whole := true
			for _, s := range c.Slips {
				if s.Count(exercise.WithSynonyms) == 0 {
					whole = false
					missed[s.Code]++
				}
			}
			if whole {
				covered++
			}
		}
		t.Logf("%-10s %3d of %d sheets name every one of %d slips; missed: %v", r.Name, covered, seeds, len(possible),
			missed)
		assert.GreaterOrEqual(t, 100*covered/int(seeds), 95, r.Name)
	}
}
