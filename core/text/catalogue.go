package text

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"sync/atomic"

	"golang.org/x/text/language"
)

// Catalogue holds the entries of one language.
type Catalogue struct {
	Tag      language.Tag
	Fallback *Catalogue // is asked for what this one lacks; nil for the first

	grammar grammar
	entries map[string]*entry
	terms   map[string]map[Term]noun // by set: "workshop", "laboratory", "documents"
	is      map[Term]string          // what a term is
	order   []Term
}

// entry is one text of a catalogue. It is parsed when it is first printed, since a server prints only a few of them.
type entry struct {
	value string
	file  string
	line  int
	parts atomic.Pointer[[]part]
}

// at returns the file and line of the entry.
func (e *entry) at() string { return fmt.Sprintf("%s:%d", e.file, e.line) }

// partsOf returns the parts of an entry, parsing it on first use. Load has checked that it parses.
func (c *Catalogue) partsOf(e *entry) []part {
	if parts := e.parts.Load(); parts != nil {
		return *parts
	}
	parts, _ := c.parse(e.value)
	e.parts.Store(&parts)
	return parts
}

// part is a piece of an entry: words, or something to put in.
type part struct {
	words    string
	arg      string // name of an argument
	term     Term
	article  string   // before the term, and adjectives with it
	short    bool     // the short word
	form     form     // of the term
	upper    bool     // with a capital
	count    bool     // the argument is a count and stands before the term
	variants []string // one and several of the argument, or by the gender of the term
	span     string   // the name of a span that begins here
	ends     bool     // the innermost span ends here
}

// form is the form in which a noun stands.
type form int

const (
	singular form = iota
	plural
	dativePlural
)

// Load reads the catalogue of a language: all *.txt of a folder. An entry is a line "key: text"; lines that begin with
// a blank go on with it, "#" begins a note to the translator, and "[section]" is put before the keys that follow, with
// a point. The terms of the trade stand in terms.txt, in sections named by the set.
func Load(tag language.Tag, folder fs.FS, fallback *Catalogue) (*Catalogue, error) {
	base, _ := tag.Base()
	g, known := grammars[base.String()]
	if !known {
		g = bare
	}
	c := &Catalogue{Tag: tag, Fallback: fallback, grammar: g, entries: map[string]*entry{},
		terms: map[string]map[Term]noun{}, is: map[Term]string{}}
	names, err := fs.Glob(folder, "*.txt")
	if err != nil {
		return nil, err
	}
	slices.SortFunc(names, func(a, b string) int { // terms first: entries are held to them
		return strings.Compare(termsFirst(a), termsFirst(b))
	})
	for _, name := range names {
		text, err := fs.ReadFile(folder, name)
		if err != nil {
			return nil, err
		}
		if err := c.read(string(text), name); err != nil {
			return nil, err
		}
	}
	return c, nil
}

const termsFile = "terms.txt"

func termsFirst(name string) string {
	if path.Base(name) == termsFile {
		return ""
	}
	return name
}

// read takes in one file.
func (c *Catalogue) read(text, name string) error {
	add := c.add
	if path.Base(name) == termsFile {
		add = c.addTerm
	}
	section, key, value, from := "", "", "", 0
	flush := func() error {
		if key == "" {
			return nil
		}
		k := key
		key = ""
		if err := add(section, k, strings.TrimSpace(value), name, from); err != nil {
			return fmt.Errorf("%s:%d: %s: %w", name, from, k, err)
		}
		return nil
	}
	n := 0
	for line := range strings.Lines(text) {
		n++
		line = strings.TrimRight(line, "\r\n")
		switch {
		case strings.TrimSpace(line) == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, " ") || strings.HasPrefix(line, "\t"):
			if key == "" {
				return fmt.Errorf("%s:%d: nothing stands before this line that it could go on with", name, n)
			}
			value += " " + strings.TrimSpace(line)
		case strings.HasPrefix(line, "["):
			if err := flush(); err != nil {
				return err
			}
			section = strings.Trim(line, "[] ")
		default:
			if err := flush(); err != nil {
				return err
			}
			k, v, found := strings.Cut(line, ":")
			if !found {
				return fmt.Errorf("%s:%d: a line must be key: text", name, n)
			}
			key, value, from = strings.TrimSpace(k), v, n
		}
	}
	return flush()
}

// add takes in an entry.
func (c *Catalogue) add(section, key, value, file string, line int) error {
	if section != "" {
		key = section + "." + key
	}
	if old := c.entries[key]; old != nil {
		return fmt.Errorf("it stands at %s too", old.at())
	}
	if _, err := c.parse(value); err != nil {
		return err
	}
	c.entries[key] = &entry{value: value, file: file, line: line}
	return nil
}

// addTerm takes in a term. Section "about" says what each is.
func (c *Catalogue) addTerm(section, key, value, _ string, _ int) error {
	if section == "about" {
		c.is[Term(key)] = value
		c.order = append(c.order, Term(key))
		return nil
	}
	n, err := c.grammar.noun(value)
	if err != nil {
		return err
	}
	if c.terms[section] == nil {
		c.terms[section] = map[Term]noun{}
	}
	c.terms[section][Term(key)] = n
	return nil
}

// Keys lists the keys of the entries, sorted.
func (c *Catalogue) Keys() []string {
	out := make([]string, 0, len(c.entries))
	for k := range c.entries {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// Has reports whether the catalogue itself has an entry.
func (c *Catalogue) Has(key string) bool { return c.entries[key] != nil }

// At returns where an entry stands, as file and line.
func (c *Catalogue) At(key string) string { return c.entries[key].at() }

// Arguments lists the names of the arguments of an entry, sorted, and those of its spans, as "[link]".
func (c *Catalogue) Arguments(key string) []string {
	var out []string
	for _, p := range c.partsOf(c.entries[key]) {
		switch {
		case p.arg != "":
			out = append(out, p.arg)
		case p.span != "" && !plainSpans[p.span]:
			out = append(out, "["+p.span+"]")
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Terms lists the terms in the order in which they are met on an instrument.
func (c *Catalogue) Terms() []Term {
	if len(c.order) == 0 && c.Fallback != nil {
		return c.Fallback.Terms()
	}
	return c.order
}

// Is says what a term is, for who chooses a word for it.
func (c *Catalogue) Is(t Term) string {
	if is, has := c.is[t]; has || c.Fallback == nil {
		return is
	}
	return c.Fallback.Is(t)
}

// hasTerm reports whether a term has a word here.
func (c *Catalogue) hasTerm(t Term) bool {
	_, has := c.terms["workshop"][t]
	return has
}

// frenchSpaces are the blanks at which a French line never breaks.
var frenchSpaces = strings.NewReplacer(" :", "\u00a0:", " ;", "\u202f;", " !", "\u202f!", " ?", "\u202f?", "« ",
	"«\u00a0", " »", "\u00a0»", "_;", "\u202f;")

// spaced returns the words of an entry with the blanks of its language.
func (c *Catalogue) spaced(words string) string {
	if base, _ := c.Tag.Base(); base.String() == "fr" {
		return frenchSpaces.Replace(words)
	}
	return words
}

// parse takes the text of an entry apart.
func (c *Catalogue) parse(s string) ([]part, error) {
	var out []part
	words := func(w string) {
		if w != "" {
			out = append(out, part{words: c.spaced(w)})
		}
	}
	open := 0
	for {
		at := strings.IndexAny(s, "{[]")
		if at < 0 {
			words(s)
			break
		}
		words(s[:at])
		switch s[at] {
		case ']':
			if open == 0 {
				return nil, fmt.Errorf("a ] without its [")
			}
			out = append(out, part{ends: true})
			open--
			s = s[at+1:]
		case '[':
			name, rest, found := strings.Cut(s[at+1:], ":")
			if !found || strings.ContainsAny(name, " []{}") {
				return nil, fmt.Errorf("a span must be [name: words]")
			}
			out = append(out, part{span: name})
			open++
			s = strings.TrimPrefix(rest, " ")
		default:
			inner, rest, found := strings.Cut(s[at+1:], "}")
			if !found {
				return nil, fmt.Errorf("a { without its }")
			}
			p, err := c.mark(inner)
			if err != nil {
				return nil, fmt.Errorf("{%s}: %w", inner, err)
			}
			out = append(out, p)
			s = rest
		}
	}
	if open != 0 {
		return nil, fmt.Errorf("a [ without its ]")
	}
	return out, nil
}

// mark reads what stands between braces.
func (c *Catalogue) mark(s string) (part, error) {
	name, list, chooses := strings.Cut(s, ":")
	var p part
	if chooses {
		for v := range strings.SplitSeq(list, "|") {
			p.variants = append(p.variants, c.spaced(strings.TrimSpace(v)))
		}
	}
	name = strings.TrimSpace(name)
	if arg, is := strings.CutPrefix(name, "$"); is {
		arg, noun, counts := strings.Cut(arg, " ")
		p.arg, p.upper = lowered(arg)
		if chooses && len(p.variants) != 2 {
			return p, fmt.Errorf("one and several must stand here, with a | between them")
		}
		if counts {
			p.count = true
			return c.nounMark(p, noun)
		}
		return p, nil
	}
	if chooses {
		p.term = Term(name)
		if !c.hasTerm(p.term) {
			return p, fmt.Errorf("%q is no term", name)
		}
		if len(p.variants) != c.grammar.genders {
			return p, fmt.Errorf("%d words must stand here, one for each gender", c.grammar.genders)
		}
		return p, nil
	}
	return c.nounMark(p, name)
}

// nounMark reads a term with its article: "line", "Line", "lines", "short line", "a line", "the $term".
func (c *Catalogue) nounMark(p part, s string) (part, error) {
	if !p.upper {
		s, p.upper = lowered(s)
	}
	var article []string
	for rest := s; ; {
		word, after, more := strings.Cut(rest, " ")
		switch {
		case strings.HasPrefix(rest, "$"):
			p.arg = rest[1:]
			p.article = strings.Join(article, " ")
			return p, c.grammar.check(p.article)
		case c.hasTerm(Term(rest)):
			p.term = Term(rest)
		case c.plural(rest, &p):
		case word == "short" && more:
			p.short = true
			rest = after
			continue
		case more:
			article = append(article, word)
			rest = after
			continue
		default:
			return p, fmt.Errorf("%q is no term", rest)
		}
		p.article = strings.Join(article, " ")
		return p, c.grammar.check(p.article)
	}
}

// plural recognises several of a term: "lines", and in a language with cases "lines.dat".
func (c *Catalogue) plural(s string, p *part) bool {
	f := plural
	if cut, is := strings.CutSuffix(s, ".dat"); is {
		s, f = cut, dativePlural
	}
	one, is := strings.CutSuffix(s, "s")
	if !is || !c.hasTerm(Term(one)) {
		return false
	}
	p.term, p.form = Term(one), f
	return true
}

// lowered takes the capital from the beginning of a word.
func lowered(s string) (low string, had bool) {
	if s == "" || s[0] < 'A' || s[0] > 'Z' {
		return s, false
	}
	return strings.ToLower(s[:1]) + s[1:], true
}
