package fonts

import (
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font/sfnt"
)

// missing stands for a letter that the cuts do not hold.
const missing = '?'

// cuts are the fonts, parsed once. They come with the program, so that one that cannot be parsed is a fault of it.
var cuts = sync.OnceValue(func() (out []*sfnt.Font) {
	for _, data := range [][]byte{Text, Bold, Narrow} {
		f, err := sfnt.Parse(data)
		if err != nil {
			panic(err)
		}
		out = append(out, f)
	}
	return out
})

// held remembers of letters whether all cuts hold them.
var held sync.Map // of bool, by rune

// Holds reports whether all cuts hold a letter.
func Holds(r rune) bool {
	if known, ok := held.Load(r); ok {
		return known.(bool)
	}
	holds := true
	for _, f := range cuts() {
		glyph, err := f.GlyphIndex(nil, r)
		holds = holds && err == nil && glyph != 0
	}
	held.Store(r, holds)
	return holds
}

// Printable returns a text with a question mark for each letter that the cuts do not hold. Marks that join letters into one
// sign are left out, so that a sign of several letters becomes one question mark.
func Printable(s string) string {
	if strings.IndexFunc(s, func(r rune) bool { return r > unicode.MaxLatin1 }) < 0 {
		return s
	}
	var out strings.Builder
	was := rune(0)
	for _, r := range s {
		switch {
		case Holds(r):
		case unicode.In(r, unicode.Mn, unicode.Cf, unicode.Variation_Selector):
			continue
		case was == missing:
			continue
		default:
			r = missing
		}
		out.WriteRune(r)
		was = r
	}
	return out.String()
}
