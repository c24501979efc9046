package names

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// longName is from how many letters a single letter that differs is taken for a slip of the pen.
const longName = 8

// Near reports whether two names may be meant for the same person: they differ in punctuation, accents, the order of
// their words, or, where they are long, in one letter.
func Near(a, b string) bool {
	x, y := letters(a), letters(b)
	if len(x) == 0 || len(y) == 0 {
		return false
	}
	joined := func(words []string) string { return strings.Join(words, "") }
	if joined(x) == joined(y) {
		return true
	}
	sorted := func(words []string) string {
		out := slices.Clone(words)
		slices.Sort(out)
		return joined(out)
	}
	if sorted(x) == sorted(y) {
		return true
	}
	long, short := []rune(joined(x)), []rune(joined(y))
	sameFamily := len(long) != len(short) || x[len(x)-1] == y[len(y)-1] // Holl and Hall are two
	return min(len(long), len(short)) >= longName && oneOff(long, short) && sameFamily
}

// letters are the words of a name in small letters, without accents and punctuation.
func letters(name string) []string {
	plain := strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r):
			return -1
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			return r
		}
		return ' '
	}, norm.NFD.String(Skeleton(name)))
	return strings.Fields(plain)
}

// oneOff reports whether one letter was changed, added or left out.
func oneOff(a, b []rune) bool {
	if len(a) < len(b) {
		a, b = b, a
	}
	if len(a)-len(b) > 1 {
		return false
	}
	i := 0
	for i < len(b) && a[i] == b[i] {
		i++
	}
	if len(a) == len(b) {
		return slices.Equal(a[min(i+1, len(a)):], b[min(i+1, len(b)):])
	}
	return slices.Equal(a[i+1:], b[i:])
}
