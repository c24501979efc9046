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

// entry is a term with what it is, for who chooses a word for it, and its word in each set: in a sentence and, behind a
// bar, where there is no room for that.
type entry struct {
	term                            Term
	is                              string
	workshop, laboratory, documents string
}

// entries lists the terms in the order in which they are met on an instrument (handbook, "Words").
var entries = []entry{
	{"main scale", "the fixed scale", "main scale", "main scale", "main scale"},
	{"sleeve scale", "the fixed scale of a screw", "sleeve scale", "main scale", "main scale"},
	{"sleeve", "the tube of a screw that carries its scale", "sleeve", "sleeve", "sleeve"},
	{"plate", "what slides along a main scale and carries the vernier's lines",
		"vernier plate", "vernier scale", "plate"},
	{"drum", "what is turned on a screw and carries lines round it", "thimble", "circular scale", "drum"},
	{"face", "the round scale", "dial", "dial", "face"},
	{"pointer", "what points at a line of it", "pointer", "needle", "pointer"},
	{"mark", "a line of the main scale", "mark", "main scale division | division", "mark"},
	{"half mark", "a mark that stands for half of its whole unit", "half mark", "half division", "half mark"},
	{"line", "a line of the fine scale", "line", "division", "line"},
	{"index line", "the long line of a sleeve at which the drum is read",
		"datum line", "reference line", "index line"},
	{"coinciding line", "the line that lines up exactly with a mark",
		"line that lines up", "coinciding division", "coinciding line"},
	{"main reading", "what the main scale says",
		"main reading | main", "main scale reading | M.S.R.", "main reading | main"},
	{"plate line", "the number of a plate's line that counts", "line", "coinciding division | V.C.", "line"},
	{"drum line", "the number of a drum's line that counts", "line", "circular scale reading | C.S.R.", "line"},
	{"face line", "the number of a face's line that counts", "line", "dial division", "line"},
	{"finer line", "the number of the line that counts of a vernier over a drum",
		"vernier line", "vernier coincidence | V.C.", "vernier line"},
	{"fine reading", "what the fine scale says, of any kind",
		"fine reading | fine", "fraction", "fine reading | fine"},
	{"plate reading", "of a plate", "vernier reading | vernier", "fraction | V.C. × L.C.", "fine reading | fine"},
	{"drum reading", "of a drum", "thimble reading | thimble", "fraction | C.S.R. × L.C.", "fine reading | fine"},
	{"face reading", "of a face", "dial reading | dial", "fraction", "fine reading | fine"},
	{"finer reading", "of a vernier over a drum",
		"vernier reading | vernier", "vernier fraction | V.C. × L.C.", "vernier reading | vernier"},
	{"least count", "the smallest step that an instrument shows",
		"least count", "least count | L.C.", "least count"},
	{"pitch", "how far a screw goes in one turn", "pitch", "pitch", "pitch"},
	{"observed reading", "what the instrument shows",
		"reading", "observed reading | O.R.", "observed reading | observed"},
	{"zero error", "what it shows closed, less what it should", "zero error", "zero error | Z.E.", "zero error"},
	{"zero correction", "the same with the other sign",
		"zero correction", "zero correction | Z.C.", "zero correction"},
	{"corrected reading", "the reading without the zero error",
		"corrected reading | corrected", "corrected reading | C.R.", "corrected reading | corrected"},
	{"closed", "with its faces together", "closed", "closed", "closed"},
	{"setting standard", "what a larger micrometer is closed on",
		"setting standard", "standard", "setting standard"},
	{"ratchet", "what keeps the force of a screw the same", "ratchet", "ratchet", "ratchet"},
	{"lock", "what holds a slide or a spindle", "lock", "lock", "lock"},
	{"faces", "what touches the work", "faces", "faces", "faces"},
	{"jaws", "of a caliper", "jaws", "jaws", "jaws"},
	{"limits", "the smallest and the largest good size", "limits", "limits", "limits"},
}

// word reads a word as the list has it.
func word(text string) Word {
	long, short, _ := strings.Cut(text, " | ")
	return Word{long, short}
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
		return word(e.laboratory)
	case Documents:
		return word(e.documents)
	}
	return word(e.workshop)
}

// Marks of typed text: they stand for a brace and for a point between digits, from the private use area of Unicode.
const (
	typedBrace = "\ue000"
	typedPoint = "\ue001"
)

// Typed marks a text that a person typed, as a name, so that it is shown as typed: nothing in it is taken for a term, and no
// point for a decimal sign. Marking it twice does no more.
func Typed(text string) string {
	if !strings.ContainsAny(text, "{.") {
		return text
	}
	return strings.NewReplacer("{", typedBrace, ".", typedPoint).Replace(text)
}

// Untyped takes the marks off again.
func Untyped(text string) string {
	if !strings.ContainsAny(text, typedBrace+typedPoint) {
		return text
	}
	return strings.NewReplacer(typedBrace, "{", typedPoint, ".").Replace(text)
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
		out[i] = About{e.term, e.is, word(e.workshop), word(e.laboratory)}
	}
	return out
}

// Say puts the terms of a text in the set's words. A term stands in braces: "{drum}"; "{a drum}" with its article,
// "{short drum}" in short, "{Drum}" and "{A drum}" at the beginning of a sentence, and an s behind the brace for
// several. What is in braces and no term stays as it is, and so is what Typed marks.
func (s Set) Say(text string) string { return Untyped(s.Put(text)) }

// Put is Say for a text that is gone through once more: what Typed marks stays marked, until Untyped takes the marks off.
func (s Set) Put(text string) string {
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
		says, known := s.name(text[at+1 : end])
		rest := text[end+1:]
		switch {
		case !known:
			b.WriteByte('{')
			text = text[at+1:]
			continue
		case strings.HasPrefix(rest, "s") && !startsWithLetter(rest[1:]):
			says, rest = plural(says), rest[1:]
		}
		b.WriteString(says)
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
