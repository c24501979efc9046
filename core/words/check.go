package words

import (
	"slices"
	"strings"
	"unicode"

	"cavix/core/refusal"
)

// longest is how many characters a class's own word may have.
const longest = 40

// Check refuses a set that cannot be spoken, with a refusal.Refusal naming "base" or the term of the word that is wrong.
func (s Set) Check() error {
	var bad refusal.Refusal
	if s.Base != "" && s.Base != Workshop && s.Base != Laboratory {
		bad.Add("base", "must be %q or %q; it is %q", Workshop, Laboratory, s.Base)
	}
	for _, t := range s.terms() {
		word := s.Own[t]
		switch {
		case byTerm[t] == nil:
			bad.Add("own."+string(t), "is no term; see the list of words")
		case len([]rune(word)) > longest:
			bad.Add("own."+string(t), "must have at most %d characters", longest)
		case strings.TrimSpace(word) == "" || strings.ContainsFunc(word, unspoken):
			bad.Add("own."+string(t), "must be a word or a few, as “thimble”: letters, digits, spaces, points, hyphens")
		}
	}
	return bad.Err()
}

// unspoken reports whether a letter cannot stand in a word.
func unspoken(r rune) bool {
	return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune(" .-–'’×/()", r) && !unicode.Is(unicode.Mn, r) &&
		!unicode.Is(unicode.Mc, r)
}

// terms are those with a word of the class's own, in order.
func (s Set) terms() []Term {
	out := make([]Term, 0, len(s.Own))
	for t := range s.Own {
		out = append(out, t)
	}
	slices.Sort(out)
	return out
}
