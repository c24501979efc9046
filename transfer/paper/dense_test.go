package paper

import (
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/locale"
)

// readings deals so many cards of reading an instrument.
func readings(t *testing.T, p instrument.Spec, cards int, settings map[string]string) []exercise.Item {
	t.Helper()
	in, err := instrument.New(p)
	require.NoError(t, err)
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: cards,
		Instruments: []*instrument.Instrument{in}, Settings: settings}}}
	items, err := sheet.Deal(kinds.All, 3)
	if err != nil {
		return nil // the family has no such step
	}
	return items
}

// Thirty-six cards for each of twelve trainees are at most 110 pages: four cards a page, on the first page too.
func TestFourCardsAPage(t *testing.T) {
	t.Parallel()
	nth := 1
	if testing.Short() {
		nth = 14
	}
	for i, p := range instrument.Patterns() {
		if i%nth != 0 {
			continue
		}
		items := readings(t, p, 36, map[string]string{"zero": "none", "ask": "main fine_line observed"})
		if items == nil {
			continue
		}
		for _, size := range []Size{A4, Letter} {
			s := Sheet{Title: "Bench test", Class: "Mill parts", Said: locale.English(text.Words{}), Dense: true,
				Size: size}
			d := newDocument(s)
			pieces, err := d.cards(s, Version{Number: 1, For: "Wren A.", Items: items})
			require.NoError(t, err)
			d.flow(pieces)
			require.NoError(t, d.Output(io.Discard))
			if size == A4 {
				assert.LessOrEqual(t, 12*d.PageNo(), 110, p.Name)
			}
			_, high := d.GetPageSize()
			assert.Greater(t, high, d.bottom, p.Name)
		}
	}
}

// The preview shows the first page as it is printed: its cards, each figure once, and none of the cards after it.
func TestPreviewOfPageOne(t *testing.T) {
	spec, known := instrument.PatternNamed("Caliper 0.02 mm, 50 over 49")
	require.True(t, known)
	items := readings(t, spec, 6, map[string]string{"zero": "none", "ask": "observed"})
	s := Sheet{Title: "Bench <test>", Class: "Mill parts", Said: locale.English(text.Words{}), Dense: true,
		Versions: []Version{{Number: 3, Items: items}}}
	page, err := s.Preview()
	require.NoError(t, err)
	says := string(page)
	assert.Equal(t, 4, strings.Count(says, "<svg")-1, "four cards on it, beside the page itself")
	assert.Contains(t, says, "Version C")
	assert.NotContains(t, says, "{", "what a figure shows is said in words")
	assert.Contains(t, says, "Bench &lt;test&gt;")
	assert.NotContains(t, says, "Bench <test>")
}

func TestLabelsOfVersions(t *testing.T) {
	for n, want := range map[int]string{1: "A", 2: "B", 26: "Z", 27: "AA", 52: "AZ", 53: "BA", 703: "AAA"} {
		assert.Equal(t, want, Letters(n))
		got, ok := ReadLabel(" " + strings.ToLower(want))
		assert.True(t, ok)
		assert.Equal(t, n, got)
	}
	assert.Equal(t, "7", Version{Number: 7, For: "Wren A."}.Label())
	for _, bad := range []string{"", "0", "-1", "A1", "ß", strings.Repeat("Z", 40)} {
		_, ok := ReadLabel(bad)
		assert.False(t, ok, bad)
	}
}
