package fonts

import (
	"slices"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font/sfnt"
)

// missing stands for a letter that no font holds.
const missing = '?'

// cuts are those of Archivo, parsed once. They come with the program, so that one that cannot be parsed is a fault of
// it.
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

// Holds reports whether all cuts of Archivo hold a letter.
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

// Plain reports whether Archivo holds all letters of a text, so that it can be set without outlines.
func Plain(s string) bool {
	return strings.IndexFunc(s, func(r rune) bool { return r > unicode.MaxLatin1 && !Holds(r) }) < 0
}

// Printable returns a text with a question mark for each letter that no font holds. Marks that join such letters into
// one sign are left out, so that a sign of several letters becomes one question mark.
func Printable(s string) string {
	if Plain(s) {
		return s
	}
	var out strings.Builder
	was := rune(0)
	for _, r := range s {
		switch joins := unicode.In(r, unicode.Mn, unicode.Mc, unicode.Cf, unicode.Variation_Selector); {
		case was == missing && joins:
			continue
		case Holds(r) || joins || setting().holds(r):
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

// Unprintable returns those of some texts that hold letters of which no font has a sign, each once, at most a number of
// them.
func Unprintable(texts []string, most int) (out []string) {
	for _, s := range texts {
		if len(out) < most && Printable(s) != s && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out
}

func (s *setter) holds(r rune) bool {
	for _, f := range s.faces {
		if _, holds := f.Font.NominalGlyph(r); holds {
			return true
		}
	}
	return false
}
