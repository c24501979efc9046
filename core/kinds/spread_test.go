package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
)

// dealtTo deals a sheet of the newest dealer to so many students of a class.
func dealtTo(t *testing.T, students int, m exercise.Method, b exercise.Block) [][]*kinds.Reading {
	t.Helper()
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Method: m, Blocks: []exercise.Block{b}}
	out := make([][]*kinds.Reading, students)
	for place := range students {
		for _, d := range must(sheet.DealTo(kinds.All, exercise.Seat{Sheet: 7, Student: int64(100 + place),
			Place: place})) {
			out[place] = append(out[place], d.Item.(*kinds.Reading))
		}
	}
	return out
}

// The cards of an instrument are spread over the cycle of its fine scale: no tenth is left out, none but the first,
// where awkward cards stand, holds twice its share.
func TestFineValuesAreSpread(t *testing.T) {
	if testing.Short() {
		t.Skip("deals hundreds of sheets; left out with -short")
	}
	t.Parallel()
	const students = 30
	for _, name := range []string{"Caliper 0.05 mm, 20 over 39", "Dial caliper 0.01 mm, a turn of 1 mm",
		"Micrometer 0.01 mm", "Micrometer 0.001 mm, vernier 10 over 9"} {
		in := built(t, name)
		for _, awkward := range []string{"0", "30"} {
			var tenth [10]float64
			for _, cards := range dealtTo(t, students, exercise.Method{},
				block("read", 10, "zero=varied|awkward="+awkward, in)) {
				for _, it := range cards {
					r, err := in.Read(*it.Indicated)
					require.NoError(t, err)
					tenth[r.Line*10/in.Lines()] += 100.0 / students / 10
				}
			}
			t.Logf("%-40s awkward %2s %%: %4.1f", name, awkward, tenth)
			for i, share := range tenth {
				assert.Greater(t, share, 3.0, "%s, tenth %d of the cycle, awkward %s %%", name, i+1, awkward)
				if i > 0 || awkward == "0" {
					assert.Less(t, share, 20.0, "%s, tenth %d of the cycle, awkward %s %%", name, i+1, awkward)
				}
			}
		}
	}
}

// built makes a ready instrument.
func built(t *testing.T, name string) *instrument.Instrument {
	t.Helper()
	spec, known := instrument.PatternNamed(name)
	require.True(t, known, name)
	return must(instrument.New(spec))
}

// Closed cards with varied zero errors repeat none, and neighbours begin with different ones.
func TestClosedCardsVaryTheZeroError(t *testing.T) {
	in := built(t, "Micrometer 0.01 mm")
	firsts := map[string]bool{}
	for _, cards := range dealtTo(t, 24, exercise.Method{}, block("read", 12, "shape=closed|zero=varied|ask=zero_error",
		in)) {
		had := map[string]bool{}
		for _, it := range cards {
			had[it.Instrument.Spec().ZeroError.String()] = true
		}
		assert.Len(t, had, 12)
		firsts[cards[0].Instrument.Spec().ZeroError.String()] = true
	}
	assert.Len(t, firsts, 24)
}

// Students begin with different instruments where the cards of one are all alike.
func TestLeastCountsBeginWithDifferentInstruments(t *testing.T) {
	b := block("least_count", 3, "", built(t, "Micrometer 0.01 mm"), built(t, "Caliper 0.05 mm, 20 over 39"),
		built(t, "Steel rule in mm"))
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{b}}
	begins := map[string]int{}
	for place := range 30 {
		begins[said(must(sheet.DealTo(kinds.All, exercise.Seat{Sheet: 7, Student: int64(place),
			Place: place}))[0].Item.Facts().About[0])]++
	}
	assert.Len(t, begins, 3)
}

// Where a class settles which of two lines counts, some cards stand just midway; where it does not, none do.
func TestTiesAreDealtWhereTheyAreSettled(t *testing.T) {
	in := built(t, "Micrometer 0.01 mm")
	ties := func(tie string) (n int) {
		for _, cards := range dealtTo(t, 10, exercise.Method{Tie: tie}, block("read", 10, "between=100", in)) {
			for _, it := range cards {
				if steps := it.Indicated.Quo(in.LeastCount()); steps.Sub(steps.Floor()).Equal(length.Frac(1, 2)) {
					n++
				}
			}
		}
		return n
	}
	assert.Zero(t, ties("either"))
	assert.Greater(t, ties("upper"), 25)
}
