package fonts_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/figure/fonts"
)

// names are written in all the scripts that names are printed in.
var names = []string{"Ελένη Παππά", "Ольга Їжак", "שרה כהן", "محمد علي", "प्रिया शर्मा", "王小明", "さくら 田中", "김민준",
	"Đặng Thị Lan"}

func TestNamesAreSet(t *testing.T) {
	for _, name := range names {
		assert.Equal(t, name, fonts.Printable(name))
		lines := fonts.Set(name, 0)
		require.Len(t, lines, 1, name)
		assert.Greater(t, lines[0].Width, 1.0, name)
		assert.Greater(t, len(lines[0].Outlines()), len([]rune(name))/2, name)
		for _, outline := range lines[0].Outlines() {
			for _, p := range outline {
				require.True(t, p.X > -0.3 && p.X < lines[0].Width+0.3 && p.Y > -1.4 && p.Y < 0.7, "%s: %v", name, p)
			}
		}
	}
	assert.Equal(t, "Noor ?, 3 + 4", fonts.Printable("Noor 👩‍🔧, 3 + 4"))
	assert.Empty(t, fonts.Set("", 0))
}

// Letters of Arabic join, signs of Devanagari stand where they are read, and names from right to left do not turn what
// is around them.
func TestScriptsAreShaped(t *testing.T) {
	drawn := func(s string) [][]fonts.Point { return fonts.Set(s, 0)[0].Outlines() }
	assert.NotEqual(t, drawn("محمد"), drawn("م\u200cح\u200cم\u200cد"), "its letters join")
	assert.NotEqual(t, drawn("क्ष"), drawn("क\u200c्\u200cष"), "two letters become one sign")

	// The name is isolated: what follows it stays behind it. Within a name a number is read after the letters, so left
	// of them.
	isolated, plain := fonts.Set("A \u2068שרה\u2069 · 12", 0)[0], fonts.Set("· 12", 0)[0]
	assert.Equal(t, ends(plain), ends(isolated), "the 2 still ends the line")
	assert.Equal(t, starts(fonts.Set("2026", 0)[0]), starts(fonts.Set("שרה 2026", 0)[0]))
	both := fonts.Set("\u2068שרה 2026\u2069 · 12", 0)[0]
	assert.Equal(t, starts(fonts.Set("2026", 0)[0]), starts(both))
	assert.Equal(t, ends(plain), ends(both))
	assert.Equal(t, starts(fonts.Set("A", 0)[0]), starts(isolated))
	blank := fonts.Set("Ж Ж", 0)[0].Width - fonts.Set("ЖЖ", 0)[0].Width
	assert.InDelta(t, 0.26, blank, 0.05, "a blank is as wide as it is in text")
}

// ends and starts are the last and the first outline of a line, from its end and from its beginning, in tenths of an
// em.
func ends(l fonts.Line) []fonts.Point { return coarse(l.Outlines()[len(l.Outlines())-1], l.Width) }

func starts(l fonts.Line) []fonts.Point { return coarse(l.Outlines()[0], 0) }

func coarse(outline []fonts.Point, from float64) (out []fonts.Point) {
	for _, p := range outline {
		out = append(out, fonts.Point{X: math.Floor(10 * (p.X - from + 1e-6)), Y: math.Floor(10 * (p.Y + 1e-6))})
	}
	return slices.Compact(out)
}

// Lines are broken where a script is broken, and a word that is too long within it; nothing is lost.
func TestLinesAreBroken(t *testing.T) {
	for _, said := range []string{strings.Repeat("Ольга ", 20), strings.Repeat("王小明", 20), strings.Repeat("Ж", 90),
		strings.Repeat("محمد ", 30)} {
		lines := fonts.Set(said, 12)
		assert.Greater(t, len(lines), 2)
		whole := ""
		for _, l := range lines {
			whole += l.Text
			assert.LessOrEqual(t, l.Width, 12.5)
		}
		assert.Equal(t, said, whole)
	}
}

func FuzzSet(f *testing.F) {
	for _, name := range names {
		f.Add(name)
	}
	f.Add("a\u2068\u200d\u0301👩‍🔧\x00\xff")
	f.Fuzz(func(t *testing.T, said string) {
		if len(said) > 400 {
			return
		}
		for _, l := range fonts.Set(said, 8) {
			assert.GreaterOrEqual(t, l.Width, 0.0)
		}
	})
}

func BenchmarkSet(b *testing.B) {
	for b.Loop() {
		fonts.Set("王小明 · Ольга Їжак", 0)
	}
}
