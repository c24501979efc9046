package store_test

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
	"cavix/store/storetest"
)

// Whatever text is packed comes back, what is not packed stays as it is, and what is damaged is another text or none.
func TestPackedTexts(t *testing.T) {
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	one := func(query string, args ...any) string {
		t.Helper()
		return storetest.Texts(t, s, query, args...)[0]
	}
	text := `{"format":"cavix/item","version":2,"kind":"read","body":{"indicated":"12.99","ask":["main","observed"]}}`
	for _, text := range []string{"", "x", "Wren’s ⅜ ∅\n", strings.Repeat("11.95 ", 5000),
		strings.Repeat("x", 1<<20), text} {
		assert.Equal(t, text, one("SELECT unpacked(packed(?))", text))
		assert.Equal(t, text, one("SELECT unpacked(packed(packed(?)))", text))
		assert.Equal(t, text, one("SELECT unpacked(?)", text))
		assert.Equal(t, "1", one("SELECT octet_length(packed(?1)) <= octet_length(?1)", text), "%.40s", text)
	}
	for _, as := range []string{"packed(?1)", "?1"} {
		var p store.Packed
		text := strings.Repeat("11.95 ", 50)
		require.NoError(t, store.One(t.Context(), s, store.Named("test", "SELECT "+as), []any{text}, &p))
		assert.Equal(t, text, p.Text)
		assert.Equal(t, []string{"1"}, storetest.Texts(t, s, "SELECT "+as+" = ?2", text, p.Stored), "as it is stored")
	}
	assert.Equal(t, "null", one("SELECT typeof(unpacked(packed(NULL)))"))
	for n := range 20 { // cut off, or with another byte
		for _, damaged := range []string{"substr(packed(?1), 1, ?2)", "substr(packed(?1), 2+?2)",
			"unhex(substr(hex(packed(?1)), 1, 2*?2) || 'FF' || substr(hex(packed(?1)), 2*?2+3))"} {
			assert.NotEqual(t, text, one("SELECT coalesce(nullif(unpacked("+damaged+"), ''), 'no text')", text, n))
		}
	}
}

// What files hold is read by every later version, so the dictionary never changes.
func TestTheDictionaryStaysAsItIs(t *testing.T) {
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	for packed, text := range map[string]string{
		"28B52FFD010001450000000154000526F501": `["main","fine_line","observed","zero_error","corrected"]`,
		"0238013B1500280C6564225D":             `["main","fine_line","observed","zero_error","corrected"]`,
		"0268150034198D1031322E3939428E0001820500085D7D7D": `{"format":"cavix/item","version":2,"kind":"read",` +
			`"body":{"indicated":"12.99","ask":["main","observed"]}}`,
	} {
		assert.Equal(t, []string{text}, storetest.Texts(t, s, "SELECT unpacked(unhex(?))", packed))
	}
	for _, long := range []string{"0281808040", "02FFFFFFFFFF7F"} { // a mebibyte and a byte, and no length at all
		assert.Equal(t, []string{""}, storetest.Texts(t, s, "SELECT unpacked(unhex(?))", long+"0001"))
	}
}
