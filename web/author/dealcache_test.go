package author

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/kinds"
)

// A sheet is dealt once while only its title is written, and anew when its cards or the seed change. The cache holds a
// few sheets, those that were used last.
func TestASheetIsDealtOnceWhileItsTitleIsWritten(t *testing.T) {
	t.Parallel()
	sheet, _, err := kinds.ReadySheets[0].Compose(nil)
	require.NoError(t, err)
	var d dealCache
	first, err := d.deal(sheet, 7)
	require.NoError(t, err)
	fresh, err := sheet.Deal(kinds.All, 7)
	require.NoError(t, err)
	assert.Equal(t, fresh, first.items)
	possible, err := sheet.Possible(kinds.All, students)
	require.NoError(t, err)
	assert.Equal(t, possible, first.possible)

	again, err := d.deal(sheet, 7)
	require.NoError(t, err)
	assert.Same(t, first, again)
	fewer := sheet
	fewer.Blocks = sheet.Blocks[1:]
	other, err := d.deal(fewer, 7)
	require.NoError(t, err)
	assert.Len(t, other.items, fewer.Cards())

	for seed := range uint64(2 * maxDealt) {
		_, err = d.deal(fewer, 100+seed)
		require.NoError(t, err)
		again, err = d.deal(sheet, 7)
		require.NoError(t, err)
		assert.Same(t, first, again, "it is looked at all the time")
	}
	assert.Len(t, d.last, maxDealt)
	later, err := d.deal(fewer, 7)
	require.NoError(t, err)
	assert.NotSame(t, other, later)
}
