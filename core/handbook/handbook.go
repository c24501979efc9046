// Package handbook holds what a student should know of measuring, a page for each family of instruments and each topic. The
// pages are written in Markdown, with instruments to move among the text. No number of a worked example is written by hand:
// a page names an instrument and a position, and the core works out the rest.
//
// A page begins with its title as a heading of the first level, then lines of "key: value" up to the first empty line:
//
//	group: Instruments                            the heading under which the page is listed
//	about: a plate of lines that slides           a line for the list
//	families: vernier-caliper                     of which it is the page
//	for: instructors                              students do not see it
//	c: Caliper 0.05 mm, 20 over 39, zero -0.15    an instrument, by its pattern; "closed" and method keys may follow
//
// Text between double square brackets is worked out: [[.c.LeastCount]], [[(.c.At "31.40").Sum]]. A line that begins with an
// @ is an instruction:
//
//	@figure c 31.40 Move it by one least count.   an instrument to move, where it stands, and what to do
//	@for main-next-mark main kind:read            what the heading above explains: slips, fields of cards, kinds of card,
//	                                              a slip in one field alone as slip@field
//	@list slips                                   the slips, or the words, as a list
package handbook

import (
	"cmp"
	"embed"
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
)

//go:embed pages/*.md
var files embed.FS

// Page is one page.
type Page struct {
	Name     string // in addresses
	Title    string // may hold terms of package words in braces, as all texts of a page
	Group    string
	About    string
	Families []instrument.Family // of which it is the page
	Parts    []Part

	ForInstructors bool // it is no page for students

	order  int
	places []place
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

// Pages lists the pages in their order. They are read and worked out once; it fails where one of them cannot be, which
// no released program does.
var Pages = sync.OnceValues(func() ([]*Page, error) {
	names, err := fs.Glob(files, "pages/*.md")
	if err != nil {
		return nil, err
	}
	var out []*Page
	for _, name := range names {
		text, err := files.ReadFile(name)
		if err != nil {
			return nil, err
		}
		p, err := read(strings.TrimSuffix(path.Base(name), ".md"), string(text))
		if err != nil {
			return nil, fmt.Errorf("handbook page %s: %w", name, err)
		}
		out = append(out, p)
	}
	slices.SortFunc(out, func(a, b *Page) int { return cmp.Or(cmp.Compare(a.order, b.order), cmp.Compare(a.Name, b.Name)) })
	return out, nil
})

// Find finds a page by its name; nil where there is none.
func Find(name string) *Page {
	pages, _ := Pages()
	i := slices.IndexFunc(pages, func(p *Page) bool { return p.Name == name })
	if i < 0 {
		return nil
	}
	return pages[i]
}

// read reads a page.
func read(name, text string) (*Page, error) {
	p := &Page{Name: name}
	head, body, _ := strings.Cut(text, "\n\n")
	examples := map[string]*Example{}
	for i, line := range strings.Split(head, "\n") {
		if i == 0 {
			p.Title = strings.TrimPrefix(line, "# ")
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
	t, err := template.New(name).Delims("[[", "]]").Option("missingkey=error").Parse(body)
	if err != nil {
		return nil, err
	}
	var worked strings.Builder
	if err := t.Execute(&worked, examples); err != nil {
		return nil, err
	}
	return p, p.lay(worked.String(), examples)
}

// set takes in a line of a page's head.
func (p *Page) set(key, value string, examples map[string]*Example) (err error) {
	switch key {
	case "group":
		p.Group = value
	case "about":
		p.About = value
	case "order":
		_, err = fmt.Sscan(value, &p.order)
	case "for":
		p.ForInstructors = value == "instructors"
	case "families":
		for f := range strings.FieldsSeq(value) {
			p.Families = append(p.Families, instrument.Family(f))
		}
	default:
		examples[key], err = newExample(value)
	}
	return err
}

// lay takes a worked page apart into its parts.
func (p *Page) lay(text string, examples map[string]*Example) error {
	var said strings.Builder
	var heading, anchor string
	end := func() {
		if s := strings.TrimSpace(said.String()); s != "" {
			p.Parts = append(p.Parts, Part{Text: s})
		}
		said.Reset()
	}
	figures := 0
	for line := range strings.Lines(text) {
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
				heading = rest
				anchor = anchorOf(rest)
				line = fmt.Sprintf("## %s {#%s}\n", rest, anchor)
			}
			said.WriteString(line)
		}
	}
	end()
	return nil
}

// newFigure reads what follows @figure: which instrument, where it stands, and what to do with it.
func newFigure(n int, text string, examples map[string]*Example) (*Figure, error) {
	parts := strings.SplitN(text, " ", 3)
	if len(parts) < 3 || examples[parts[0]] == nil {
		return nil, fmt.Errorf("@figure %s: name an instrument, where it stands, and what to do", text)
	}
	e := examples[parts[0]]
	at := e.in.Closed()
	if parts[1] != "closed" {
		var err error
		if at, err = length.Parse(strings.ReplaceAll(parts[1], "_", " ")); err != nil {
			return nil, fmt.Errorf("@figure %s: %w", text, err)
		}
	}
	if _, err := e.in.ReadBy(at, e.method.Between); err != nil {
		return nil, fmt.Errorf("@figure %s: %w", text, err)
	}
	return &Figure{N: n, Instrument: e.in, Method: e.method, At: at, Caption: parts[2]}, nil
}

// anchorOf is a heading as an address names it: its letters and digits, with hyphens between.
func anchorOf(heading string) string {
	words := strings.FieldsFunc(strings.ToLower(heading), func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9')
	})
	return strings.Join(words, "-")
}

// Place is where something is explained: a heading of a page.
type Place struct{ Page, Anchor, Title string }

// Asked is what somebody wants explained of a card.
type Asked struct {
	Kind   string            // of card
	Family instrument.Family // of its instrument; "" where there is none
	Slip   exercise.Code     // that was made; "" where none is known
	Field  string            // that went wrong; "" where none did
}

// Look finds where the handbook explains something: the slip that was made, else the kind of card, else the field, on the
// page of the instrument's family where that has it; else that page as a whole. It is always somewhere.
func Look(a Asked) Place {
	pages, _ := Pages()
	slip := string(a.Slip.Singles()[0])
	for _, key := range []string{slip + "@" + a.Field, slip, "kind:" + a.Kind, a.Field} {
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
