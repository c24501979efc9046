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
func Near(a, b string) bool { return newBare(a).near(newBare(b)) }

// Doubles lists pairs of names in a list that may be meant for the same person, by their places, up to most.
func Doubles(list []string, most int) (out [][2]int) {
	all := make([]bare, len(list))
	for i, name := range list {
		all[i] = newBare(name)
	}
	for i, a := range all {
		for j := i + 1; j < len(all); j++ {
			if len(out) == most {
				return out
			}
			if a.near(all[j]) {
				out = append(out, [2]int{i, j})
			}
		}
	}
	return out
}

// bare is a name without what people write now so and now so.
type bare struct {
	joined, sorted string // its words, as they stand and in the order of the alphabet
	letters        []rune // of the joined words
	last           string // word
}

func newBare(name string) (b bare) {
	words := letters(name)
	if len(words) == 0 {
		return b
	}
	b.joined, b.last = strings.Join(words, ""), words[len(words)-1]
	b.letters = []rune(b.joined)
	slices.Sort(words)
	b.sorted = strings.Join(words, "")
	return b
}

func (b bare) near(o bare) bool {
	switch {
	case b.joined == "" || o.joined == "":
		return false
	case b.joined == o.joined || b.sorted == o.sorted:
		return true
	}
	sameFamily := len(b.letters) != len(o.letters) || b.last == o.last // Holl and Hall are two
	return sameFamily && min(len(b.letters), len(o.letters)) >= longName && oneOff(b.letters, o.letters)
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
