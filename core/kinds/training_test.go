package kinds

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/slips"
)

// A sheet that trains a slip names it on most of its cards, also where the sheet on which it was made hardly ever did.
func TestTraining(t *testing.T) {
	if testing.Short() {
		t.Skip("deals hundreds of cards; left out with -short")
	}
	ready := func(name string) []exercise.Block {
		for _, r := range ReadySheets {
			if r.Name == name {
				s, _, err := r.Compose(nil)
				require.NoError(t, err)
				return s.Blocks
			}
		}
		t.Fatal(name)
		return nil
	}
	for slip, from := range map[exercise.Code]string{
		slips.LastLineCounted: "lines", slips.HalfMarkMissed: "drum", slips.ZeroSignFlipped: "zeros",
		slips.MainNextMark:  "mixed",
		slips.FineBackwards: "face",
	} {
		sheet, ok, err := Training(ready(from), exercise.Method{}, slip)
		require.NoError(t, err)
		require.True(t, ok, slip)
		require.NoError(t, sheet.Check(All))
		assert.Equal(t, trainingCards, sheet.Cards())
		items, err := sheet.Deal(All, 77)
		require.NoError(t, err)
		c, err := Cover(items, nil)
		require.NoError(t, err)
		for _, s := range c.Slips {
			if s.Code == slip {
				assert.GreaterOrEqual(t, s.Count(exercise.WithSynonyms), 3, slip)
			}
		}
	}
	_, ok, err := Training(ready("marks"), exercise.Method{}, slips.ZeroSignFlipped)
	require.NoError(t, err)
	assert.False(t, ok, "no zero error is asked there")
}
