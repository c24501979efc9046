package words

import (
	"slices"
	"strings"
	"unicode"

	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/locale"
)

// longest is the number of characters a class's own word may have.
const longest = 40

// Check refuses a set that cannot be spoken, with a refusal.Refusal naming "base" or the term of the word that is
// wrong.
func (s Set) Check() error {
	var bad refusal.Refusal
	if s.Base != "" && s.Base != Workshop && s.Base != Laboratory {
		bad.Add("base", "words.check-base", "first", string(Workshop), "second", string(Laboratory), "base",
			string(s.Base))
	}
	if s.Language != "" && !locale.Speaks(s.Language) {
		bad.Add("language", "words.check-language", "language", s.Language)
	}
	known := map[text.Term]bool{}
	for _, w := range locale.Words(locale.Documents()) {
		known[w.Term] = true
	}
	for _, t := range s.terms() {
		word := s.Own[t]
		switch {
		case !known[t]:
			bad.Add("own."+string(t), "words.check-term")
		case len([]rune(word)) > longest:
			bad.Add("own."+string(t), "words.check-length", "most", longest)
		case strings.TrimSpace(word) == "" || strings.ContainsFunc(word, unspoken):
			bad.Add("own."+string(t), "words.check-letters")
		}
	}
	return bad.Err()
}

// unspoken reports whether a letter cannot stand in a word.
func unspoken(r rune) bool {
	return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune(" .-–'’×/()", r) &&
		!unicode.Is(unicode.Mn, r) &&
		!unicode.Is(unicode.Mc, r)
}

// terms are those with a word of the class's own, in order.
func (s Set) terms() []text.Term {
	out := make([]text.Term, 0, len(s.Own))
	for t := range s.Own {
		out = append(out, t)
	}
	slices.Sort(out)
	return out
}
