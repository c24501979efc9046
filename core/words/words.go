// Package words knows what a class calls things. Texts of the core name the terms of the trade in braces, as in
// "the last {mark} clear of the {drum}'s edge"; a Set puts them in the words of a class: those of a workshop, those of a
// school laboratory, or its own.
package words

import (
	"cmp"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Term is what code and documents call a thing. It stands in braces in a text.
type Term string

// Base names a set of words that is ready made.
type Base string

// The ready sets. The zero value of Base is the workshop's.
const (
	Workshop   Base = "workshop"
	Laboratory Base = "laboratory"
	// Documents are the words of code and documents themselves, for commands and files.
	Documents Base = "documents"
)

// Bases lists the sets that a class may choose, the default first.
var Bases = []struct {
	Base        Base
	Name, About string
}{
	{Workshop, "Workshop", "sleeve, thimble, vernier plate, datum line, reading"},
	{Laboratory, "Laboratory", "main scale, circular scale, vernier scale, M.S.R., coinciding division"},
}

// Word is what a thing is called: in a sentence, and where there is no room for that.
type Word struct {
	Long  string
	Short string // "" is the long one
}

// entry is a term with its word in each set.
type entry struct {
	term                            Term
	workshop, laboratory, documents Word
	about                           string // what it is, for who chooses a word for it
}

// same is a word that is alike in every set.
func same(t Term, about string) entry {
	w := Word{Long: string(t)}
	return entry{t, w, w, w, about}
}

// entries lists the terms in the order in which they are met on an instrument (handbook, "Words").
var entries = []entry{
	{"main scale", Word{Long: "main scale"}, Word{Long: "main scale"}, Word{Long: "main scale"}, "the fixed scale"},
	{"sleeve scale", Word{Long: "sleeve scale"}, Word{Long: "main scale"}, Word{Long: "main scale"}, "the fixed scale of a screw"},
	same("sleeve", "the tube of a screw that carries its scale"),
	{"plate", Word{Long: "vernier plate"}, Word{Long: "vernier scale"}, Word{Long: "plate"}, "what slides along a main scale and carries the vernier's lines"},
	{"drum", Word{Long: "thimble"}, Word{Long: "circular scale"}, Word{Long: "drum"}, "what is turned on a screw and carries lines round it"},
	{"face", Word{Long: "dial"}, Word{Long: "dial"}, Word{Long: "face"}, "the round scale"},
	{"pointer", Word{Long: "pointer"}, Word{Long: "needle"}, Word{Long: "pointer"}, "what points at a line of it"},
	{"mark", Word{Long: "mark"}, Word{"main scale division", "division"}, Word{Long: "mark"}, "a line of the main scale"},
	{"half mark", Word{Long: "half mark"}, Word{Long: "half division"}, Word{Long: "half mark"}, "a mark that stands for half of its whole unit"},
	{"line", Word{Long: "line"}, Word{Long: "division"}, Word{Long: "line"}, "a line of the fine scale"},
	{"index line", Word{Long: "datum line"}, Word{Long: "reference line"}, Word{Long: "index line"}, "the long line of a sleeve at which the drum is read"},
	{"coinciding line", Word{Long: "line that lines up"}, Word{Long: "coinciding division"}, Word{Long: "coinciding line"}, "the line that stands exactly opposite a mark"},
	{"main reading", Word{"main reading", "main"}, Word{"main scale reading", "M.S.R."}, Word{"main reading", "main"}, "what the main scale says"},
	{"plate line", Word{Long: "line"}, Word{"coinciding division", "V.C."}, Word{Long: "line"}, "the number of a plate's line that counts"},
	{"drum line", Word{Long: "line"}, Word{"circular scale reading", "C.S.R."}, Word{Long: "line"}, "the number of a drum's line that counts"},
	{"face line", Word{Long: "line"}, Word{Long: "dial division"}, Word{Long: "line"}, "the number of a face's line that counts"},
	{"finer line", Word{Long: "vernier line"}, Word{"vernier coincidence", "V.C."}, Word{Long: "vernier line"}, "the number of the line that counts of a vernier over a drum"},
	{"fine reading", Word{"fine reading", "fine"}, Word{Long: "fraction"}, Word{"fine reading", "fine"}, "what the fine scale says, of any kind"},
	{"plate reading", Word{"vernier reading", "vernier"}, Word{"fraction", "V.C. × L.C."}, Word{"fine reading", "fine"}, "of a plate"},
	{"drum reading", Word{"thimble reading", "thimble"}, Word{"fraction", "C.S.R. × L.C."}, Word{"fine reading", "fine"}, "of a drum"},
	{"face reading", Word{"dial reading", "dial"}, Word{Long: "fraction"}, Word{"fine reading", "fine"}, "of a face"},
	{"finer reading", Word{"vernier reading", "vernier"}, Word{"vernier fraction", "V.C. × L.C."}, Word{"vernier reading", "vernier"}, "of a vernier over a drum"},
	{"least count", Word{Long: "least count"}, Word{"least count", "L.C."}, Word{Long: "least count"}, "the smallest step that an instrument shows"},
	same("pitch", "how far a screw goes in one turn"),
	{"observed reading", Word{Long: "reading"}, Word{"observed reading", "O.R."}, Word{"observed reading", "observed"}, "what the instrument shows"},
	{"zero error", Word{Long: "zero error"}, Word{"zero error", "Z.E."}, Word{Long: "zero error"}, "what it shows closed, less what it should"},
	{"zero correction", Word{Long: "zero correction"}, Word{"zero correction", "Z.C."}, Word{Long: "zero correction"}, "the same with the other sign"},
	{"corrected reading", Word{"corrected reading", "corrected"}, Word{"corrected reading", "C.R."}, Word{"corrected reading", "corrected"}, "the reading without the zero error"},
	same("closed", "with its faces together"),
	{"setting standard", Word{Long: "setting standard"}, Word{Long: "standard"}, Word{Long: "setting standard"}, "what a larger micrometer is closed on"},
	same("ratchet", "what keeps the force of a screw the same"),
	same("lock", "what holds a slide or a spindle"),
	same("faces", "what touches the work"),
	same("jaws", "of a caliper"),
	same("limits", "the smallest and the largest good size"),
}

// byTerm finds a term's entry.
var byTerm = func() map[Term]*entry {
	out := make(map[Term]*entry, len(entries))
	for i := range entries {
		out[entries[i].term] = &entries[i]
	}
	return out
}()

// Set is the words of a class: a ready set, and its own words for some terms. The zero value is the workshop's.
type Set struct {
	Base Base            `json:"base,omitempty"`
	Own  map[Term]string `json:"own,omitempty"`
}

// Word returns what the set calls a thing. A term that there is not is its own word.
func (s Set) Word(t Term) Word {
	if own := s.Own[t]; own != "" {
		return Word{Long: own}
	}
	e := byTerm[t]
	if e == nil {
		return Word{Long: string(t)}
	}
	switch s.Base {
	case Laboratory:
		return e.laboratory
	case Documents:
		return e.documents
	}
	return e.workshop
}

// About is a term, what it is, and what the sets call it.
type About struct {
	Term                 Term
	Is                   string
	Workshop, Laboratory Word
}

// List lists the terms.
func List() []About {
	out := make([]About, len(entries))
	for i, e := range entries {
		out[i] = About{e.term, e.about, e.workshop, e.laboratory}
	}
	return out
}

// Say puts the terms of a text in the set's words. A term stands in braces: "{drum}"; "{a drum}" with its article,
// "{short drum}" in short, "{Drum}" and "{A drum}" at the beginning of a sentence, and an s behind the brace for
// several. What is in braces and no term stays as it is.
func (s Set) Say(text string) string {
	if strings.IndexByte(text, '{') < 0 {
		return text
	}
	var b strings.Builder
	for {
		at := strings.IndexByte(text, '{')
		end := strings.IndexByte(text[max(at, 0):], '}')
		if at < 0 || end < 0 {
			return b.String() + text
		}
		end += at
		b.WriteString(text[:at])
		word, known := s.name(text[at+1 : end])
		rest := text[end+1:]
		switch {
		case !known:
			b.WriteByte('{')
			text = text[at+1:]
			continue
		case strings.HasPrefix(rest, "s") && !startsWithLetter(rest[1:]):
			word, rest = plural(word), rest[1:]
		}
		b.WriteString(word)
		text = rest
	}
}

// name resolves what stands between braces.
func (s Set) name(mark string) (word string, known bool) {
	low := strings.ToLower(mark[:min(1, len(mark))]) + mark[min(1, len(mark)):]
	short, is := strings.CutPrefix(low, "short ")
	article, a := strings.CutPrefix(short, "a ")
	e := byTerm[Term(article)]
	if e == nil {
		return "", false
	}
	w := s.Word(e.term)
	word = w.Long
	if is {
		word = cmp.Or(w.Short, w.Long)
	}
	if a {
		if strings.ContainsRune("aeiouAEIOU", rune(word[0])) {
			word = "an " + word
		} else {
			word = "a " + word
		}
	}
	if low != mark {
		r, size := utf8.DecodeRuneInString(word)
		word = string(unicode.ToUpper(r)) + word[size:]
	}
	return word, true
}

func startsWithLetter(s string) bool {
	r, _ := utf8.DecodeRuneInString(s)
	return unicode.IsLetter(r)
}

// plural is several of a thing; of "line that lines up" it is the first word that takes the s.
func plural(word string) string {
	if head, tail, found := strings.Cut(word, " that "); found {
		return plural(head) + " that " + strings.ReplaceAll(tail, "lines up", "line up")
	}
	last := word[len(word)-1]
	switch {
	case strings.HasSuffix(word, "ch"), strings.HasSuffix(word, "sh"), last == 's', last == 'x', last == 'z':
		return word + "es"
	case last == 'y' && len(word) > 1 && !strings.ContainsRune("aeiou", rune(word[len(word)-2])):
		return word[:len(word)-1] + "ies"
	}
	return word + "s"
}

// Plain puts the terms of a text in the words of documents, as commands print them.
func Plain(text string) string { return Set{Base: Documents}.Say(text) }
