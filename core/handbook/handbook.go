// Package handbook holds what a student should know of measuring, a page for each family of instruments and each topic.
// The pages are written in Markdown, with instruments to move among the text. No number of a worked example is written
// by hand: a page names an instrument and a position, and the core works out the rest.
//
// The pages stand in locale/<language>/handbook. A translation has the same instruments, calculations and headings, in
// the same order as the English page; a page that a language lacks is shown in English.
//
// A page begins with its title as a heading of the first level, then lines of "key: value" up to the first empty line:
//
//	group: Instruments                            the heading under which the page is listed
//	about: a plate of lines that slides           a line for the list
//	families: vernier-caliper                     of which it is the page
//	for: instructors                              students do not see it
//	c: Caliper 0.05 mm, 20 over 39, zero -0.15    an instrument, by its pattern; "closed" and method keys may follow
//	check: read c ask=main,observed               a question of the check at its foot: a kind of card,
//	                                              its instruments, settings
//
// A translation has the title, group and about; all else of its head, and what its headings explain, is that of the
// English page.
//
// Text between double square brackets is worked out: [[.c.LeastCount]], [[(.c.At "31.40").Sum]]. A line that begins
// with an @ is an instruction:
//
//	@figure c 31.40 Move it by one least count.   an instrument to move, where it stands, and what to do
//	@for main-next-mark main kind:read            what the heading above explains: slips, fields of cards, kinds
//	                                              of card, a slip in one field alone as slip@field
//	@list slips                                   the slips, or the words, as a list
package handbook

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"sync"
	"text/template"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/locale"
)

// Page is one page, in a reader's language and a class's words.
type Page struct {
	Name     string // in addresses
	Title    string
	Group    string
	About    string
	Families []instrument.Family // of which it is the page
	Parts    []Part
	English  bool // it is shown in English, since the reader's language has no translation of it

	ForInstructors bool             // it is no page for students
	Checks         []exercise.Block // the questions of the check at its foot, one card each

	order    int
	named    map[string]string // the instruments of its head, and its checks, as they are written
	checks   []string
	places   []place
	headings []string
	said     *text.Printer
	anchors  []string // of the English page's headings; nil of the English page itself
}

// Part is a piece of a page; just one of its kinds is set.
type Part struct {
	Text   string  // in Markdown
	Figure *Figure // an instrument to move
	List   string  // "slips" or "words": a list of them stands here
}

// Figure is an instrument on a page.
type Figure struct {
	N          int // on its page, from 1
	Instrument *instrument.Instrument
	Method     exercise.Method // by which it is read
	At         length.Number   // the indicated value where it stands at first
	Caption    string          // what to do with it
}

// place is a heading with what it explains.
type place struct {
	keys          []string
	anchor, title string
}

// Figure finds a figure of the page by its number.
func (p *Page) Figure(n int) *Figure {
	for _, part := range p.Parts {
		if part.Figure != nil && part.Figure.N == n {
			return part.Figure
		}
	}
	return nil
}

// Book is all pages, as one printer says them.
type Book struct{ Pages []*Page }

// books are those that have been made. A school's classes share a few sets of words.
var books = struct {
	sync.Mutex
	made map[string]*Book
}{made: map[string]*Book{}}

// mostBooks is the number of books that are kept; one takes 300 KB.
const mostBooks = 24

// In returns the book as a printer says it. It fails where a page cannot be worked out, which no released program does.
func In(p *text.Printer) (*Book, error) {
	books.Lock()
	defer books.Unlock()
	key := p.Key()
	if b := books.made[key]; b != nil {
		return b, nil
	}
	b, err := newBook(p)
	if err != nil {
		return nil, err
	}
	if len(books.made) >= mostBooks {
		clear(books.made)
	}
	books.made[key] = b
	return b, nil
}

func newBook(p *text.Printer) (*Book, error) {
	english, err := fs.Glob(locale.Files, "en/handbook/*.md")
	if err != nil {
		return nil, err
	}
	b := &Book{}
	for _, name := range english {
		own := strings.Replace(name, "en/", p.Tag().String()+"/", 1)
		page, err := open(own, p, nil)
		if own != name {
			var in *Page
			if in, err = open(name, p.English(), nil); err != nil {
				return nil, err
			}
			page, err = open(own, p, in)
			if errors.Is(err, fs.ErrNotExist) {
				page, err = in, nil
				page.English = true
			}
		}
		if err != nil {
			return nil, fmt.Errorf("handbook page %s: %w", own, err)
		}
		b.Pages = append(b.Pages, page)
	}
	slices.SortFunc(b.Pages, func(a, b *Page) int {
		return cmp.Or(cmp.Compare(a.order, b.order),
			cmp.Compare(a.Name, b.Name))
	})
	return b, nil
}

// open reads the page of a file; english is the same page in English, for a translation.
func open(name string, p *text.Printer, english *Page) (*Page, error) {
	body, err := fs.ReadFile(locale.Files, name)
	if err != nil {
		return nil, err
	}
	return read(strings.TrimSuffix(path.Base(name), ".md"), string(body), p, english)
}

// Find finds a page by its name; nil where there is none.
func (b *Book) Find(name string) *Page {
	i := slices.IndexFunc(b.Pages, func(p *Page) bool { return p.Name == name })
	if i < 0 {
		return nil
	}
	return b.Pages[i]
}

// read reads a page.
func read(name, page string, said *text.Printer, english *Page) (*Page, error) {
	p := &Page{Name: name, said: said, named: map[string]string{}}
	examples := map[string]*Example{}
	if english != nil {
		for key, pattern := range english.named {
			var err error
			if examples[key], err = newExample(pattern, said); err != nil {
				return nil, err
			}
		}
		p.anchors, p.Families, p.order, p.ForInstructors = english.headings, english.Families, english.order,
			english.ForInstructors
		p.checks, p.places = english.checks, slices.Clone(english.places)
	}
	head, body, _ := strings.Cut(page, "\n\n")
	for i, line := range strings.Split(head, "\n") {
		if i == 0 {
			p.Title = said.Prose(strings.TrimPrefix(line, "# "))
			continue
		}
		key, value, found := strings.Cut(line, ": ")
		if !found {
			return nil, fmt.Errorf("line %d: %q is no key and value", i+1, line)
		}
		if err := p.set(key, value, examples); err != nil {
			return nil, fmt.Errorf("line %d: %w", i+1, err)
		}
	}
	for _, check := range p.checks {
		b, err := newCheck(check, examples)
		if err != nil {
			return nil, err
		}
		p.Checks = append(p.Checks, b)
	}
	t, err := template.New(name).Delims("[[", "]]").Option("missingkey=error").Parse(body)
	if err != nil {
		return nil, err
	}
	var worked strings.Builder
	if err := t.Execute(&worked, examples); err != nil {
		return nil, err
	}
	if err := p.lay(said.Prose(worked.String()), examples); err != nil {
		return nil, err
	}
	if english != nil && len(p.headings) != len(english.headings) {
		return nil, fmt.Errorf("it has %d headings, the English page %d", len(p.headings), len(english.headings))
	}
	return p, nil
}

// set takes in a line of a page's head.
func (p *Page) set(key, value string, examples map[string]*Example) (err error) {
	switch key {
	case "group":
		p.Group = p.said.Prose(value)
	case "about":
		p.About = p.said.Prose(value)
	case "order":
		_, err = fmt.Sscan(value, &p.order)
	case "for":
		p.ForInstructors = value == "instructors"
	case "families":
		for f := range strings.FieldsSeq(value) {
			p.Families = append(p.Families, instrument.Family(f))
		}
	case "check":
		p.checks = append(p.checks, value)
	default:
		p.named[key] = value
		examples[key], err = newExample(value, p.said)
	}
	return err
}

// lay takes a worked page apart into its parts.
func (p *Page) lay(worked string, examples map[string]*Example) error {
	var said strings.Builder
	var heading, anchor string
	end := func() {
		if s := strings.TrimSpace(said.String()); s != "" {
			p.Parts = append(p.Parts, Part{Text: s})
		}
		said.Reset()
	}
	figures := 0
	for line := range strings.Lines(worked) {
		word, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		switch word {
		case "@figure":
			end()
			figures++
			f, err := newFigure(figures, rest, examples)
			if err != nil {
				return err
			}
			p.Parts = append(p.Parts, Part{Figure: f})
		case "@list":
			end()
			p.Parts = append(p.Parts, Part{List: rest})
		case "@for":
			p.places = append(p.places, place{strings.Fields(rest), anchor, heading})
		default:
			if word == "##" {
				heading, anchor = rest, anchorOf(rest)
				if n := len(p.headings); n < len(p.anchors) { // addresses are the same in every language
					anchor = p.anchors[n]
				}
				p.headings = append(p.headings, anchor)
				for i := range p.places {
					if p.places[i].anchor == anchor {
						p.places[i].title = heading
					}
				}
				line = fmt.Sprintf("## %s {#%s}\n", rest, anchor)
			}
			said.WriteString(line)
		}
	}
	end()
	return nil
}

// newFigure reads what follows @figure: which instrument, where it stands, and what to do with it.
func newFigure(n int, said string, examples map[string]*Example) (*Figure, error) {
	parts := strings.SplitN(said, " ", 3)
	if len(parts) < 3 || examples[parts[0]] == nil {
		return nil, fmt.Errorf("@figure %s: name an instrument, where it stands, and what to do", said)
	}
	e := examples[parts[0]]
	at := e.in.Closed()
	if parts[1] != "closed" {
		var err error
		if at, err = length.Parse(strings.ReplaceAll(parts[1], "_", " ")); err != nil {
			return nil, fmt.Errorf("@figure %s: %w", said, err)
		}
	}
	if _, err := e.in.ReadBy(at, e.method.Between); err != nil {
		return nil, fmt.Errorf("@figure %s: %w", said, err)
	}
	return &Figure{N: n, Instrument: e.in, Method: e.method, At: at, Caption: parts[2]}, nil
}

// newCheck reads a question of a check: a kind of card, then the letters of instruments and settings as key=value, with
// commas for blanks.
func newCheck(said string, examples map[string]*Example) (exercise.Block, error) {
	words := strings.Fields(said)
	b := exercise.Block{Kind: words[0], Cards: 1, Settings: map[string]string{}}
	for _, w := range words[1:] {
		if key, value, is := strings.Cut(w, "="); is {
			b.Settings[key] = strings.ReplaceAll(value, ",", " ")
			continue
		}
		e := examples[w]
		if e == nil {
			return b, fmt.Errorf("check %s: %q is no instrument of this page", said, w)
		}
		b.Instruments = append(b.Instruments, e.in)
	}
	return b, nil
}

// anchorOf is a heading as an address names it: its letters and digits, with hyphens between.
func anchorOf(heading string) string {
	words := strings.FieldsFunc(strings.ToLower(heading), func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9')
	})
	return strings.Join(words, "-")
}

// Place is a heading of a handbook page.
type Place struct{ Page, Anchor, Title string }

// Asked identifies the question that a handbook page should answer: a card and its slip.
type Asked struct {
	Kind   string            // of card
	Family instrument.Family // of its instrument; "" where there is none
	Slip   exercise.Code     // that was made; "" where none is known
	Field  string            // that went wrong; "" where none did
	Way    string            // how it is worked out, where the kind has several: "turns", or by a "drum" or "face"
}

// Look finds where the handbook explains something: the way in which the card is worked out where it has a place of its
// own, else the slip that was made, else the kind of card, else the field, on
// the page of the instrument's family where that has it; else that page as a whole. It is always somewhere.
func (b *Book) Look(a Asked) Place {
	pages := b.Pages
	slip := string(a.Slip.Singles()[0])
	keys := []string{slip + "@" + a.Field, slip, "kind:" + a.Kind, a.Field}
	if a.Way != "" {
		keys = slices.Insert(keys, 1, a.Field+"@"+a.Way, "kind:"+a.Kind+"@"+a.Way)
	}
	for _, key := range keys {
		var found *Place
		for _, p := range pages {
			own := slices.Contains(p.Families, a.Family)
			if pl := p.place(key); pl != nil && (own || found == nil && len(p.Families) == 0) {
				if found = pl; own {
					break
				}
			}
		}
		if found == nil { // on another family's page
			for _, p := range pages {
				if pl := p.place(key); pl != nil && found == nil {
					found = pl
				}
			}
		}
		if found != nil && key != "" {
			return *found
		}
	}
	for _, p := range pages {
		if slices.Contains(p.Families, a.Family) {
			return Place{Page: p.Name, Title: p.Title}
		}
	}
	return Place{}
}

// place is the heading of a page that explains a key, nil where none does.
func (p *Page) place(key string) *Place {
	for _, pl := range p.places {
		if slices.Contains(pl.keys, key) {
			return &Place{p.Name, pl.anchor, pl.title}
		}
	}
	return nil
}
