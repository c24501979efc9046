// Package handbook shows the pages of the handbook to everybody: worked texts, with instruments to move by hand among
// them.
package handbook

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"

	"cavix/core/exercise"
	"cavix/core/handbook"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/locale"
	"cavix/school"
	"cavix/school/sitting"
	"cavix/web/bench"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves the handbook.
type Handler struct{ *ui.Site }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	r.Get("/help", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "/handbook", http.StatusMovedPermanently)
	})
	r.Get("/handbook", h.Page(h.contents))
	r.Get("/handbook/{page}", h.Page(h.page))
	r.Post("/handbook/{page}/{figure}", h.Page(h.figure))
	r.Get("/handbook/{page}/check", h.Page(h.begin))
	r.Get("/handbook/{page}/check/{seed}/{n}", h.Page(h.question))
	r.Post("/handbook/{page}/check/{seed}/{n}", h.Page(h.question))
	r.Get("/handbook/{page}/check/{seed}/{n}/figure", h.Page(h.questionFigure))
	r.Post("/handbook/{page}/check/{seed}/{n}/figure", h.Page(h.questionFigure))
}

// group is a heading of the list of pages.
type group struct {
	Name  string
	Pages []*handbook.Page
}

// shown reports whether a page is for whoever asks.
func shown(r *http.Request) func(*handbook.Page) bool {
	learns := ui.UserOf(r).Learns()
	return func(p *handbook.Page) bool { return !learns || !p.ForInstructors }
}

func groups(r *http.Request) ([]group, error) {
	book, err := handbook.In(ui.Said(r))
	if err != nil {
		return nil, err
	}
	var out []group
	for _, p := range book.Pages {
		if !shown(r)(p) {
			continue
		}
		if len(out) == 0 || out[len(out)-1].Name != p.Group {
			out = append(out, group{Name: p.Group})
		}
		last := &out[len(out)-1]
		last.Pages = append(last.Pages, p)
	}
	return out, nil
}

// contentsView is the list of the pages, or what a search has found.
type contentsView struct {
	Groups []group
	Query  string
	Hits   []hitView
	Whole  bool // the hits have all words of the query
}

// hitView is a place that a search has found.
type hitView struct{ Href, Page, Title, Excerpt string }

// mostHits is the largest number of places that a search shows, and mostSlips that of slips.
const (
	mostHits  = 20
	mostSlips = 5
)

// contents lists the pages, or finds the places that hold the words that the address asks for.
func (s Handler) contents(w http.ResponseWriter, r *http.Request) error {
	list, err := groups(r)
	if err != nil {
		return err
	}
	v := contentsView{Groups: list, Query: ui.Clip(ui.OneLine(r.URL.Query().Get("q")), 100)}
	if v.Query == "" {
		return s.Render(w, r, http.StatusOK, "handbook", text.New("handbook.contents"), v)
	}
	said := ui.Said(r)
	book, err := handbook.In(said)
	if err != nil {
		return err
	}
	hits, whole := book.Search(v.Query, mostHits, shown(r))
	v.Whole = whole
	for _, sl := range kinds.Slips() {
		if len(v.Hits) < mostSlips && handbook.Holds(said.Print(sl.Code.Name()), v.Query) {
			at := book.Look(handbook.Asked{Slip: sl.Code})
			v.Hits = append(v.Hits, hitView{ui.HandbookHref(at, ""), book.Find(at.Page).Title, at.Title,
				said.Say("handbook.slip", "slip", sl.Code.Name())})
		}
	}
	for _, h := range hits {
		at := handbook.Place{Page: h.Page.Name, Anchor: h.Anchor}
		v.Hits = append(v.Hits, hitView{ui.HandbookHref(at, ""), h.Page.Title, h.Title, h.Excerpt})
	}
	return s.Render(w, r, http.StatusOK, "handbook", text.New("handbook.contents"), v)
}

// pageView is a page of the handbook.
type pageView struct {
	Groups       []group
	On           string // its name
	Title, About string
	Parts        []partView
	Back         string // the card that was come from
	Check        bool   // it has questions at its foot
	Before, Next *handbook.Page
}

// partView is a piece of a page; just one of its kinds is set.
type partView struct {
	Text  template.HTML
	Live  *bench.Live
	Slips []slipView
	Words []wordView
}

// slipView is a slip with where it is explained.
type slipView struct {
	Slip        text.Text
	Href, Title string
}

// wordView is a term in the sets of words, and as this reader's class says it.
type wordView locale.Word

// markdown sets a page's text. It is our own, so that nothing has to be taken out of it.
var markdown = goldmark.New(goldmark.WithExtensions(extension.Table),
	goldmark.WithParserOptions(parser.WithAttribute()))

func (h Handler) page(w http.ResponseWriter, r *http.Request) error {
	book, err := handbook.In(ui.Said(r))
	if err != nil {
		return err
	}
	p := book.Find(chi.URLParam(r, "page"))
	if p == nil {
		return school.ErrNotFound
	}
	if err := h.open(r, p); err != nil {
		return err
	}
	list, err := groups(r)
	if err != nil {
		return err
	}
	v := pageView{Groups: list, On: p.Name, Title: p.Title, About: p.About, Back: back(r), Check: len(p.Checks) > 0}
	v.Before, v.Next = beside(book, p, shown(r))
	for _, part := range p.Parts {
		set, err := newPart(ui.Said(r), book, p, part)
		if err != nil {
			return err
		}
		v.Parts = append(v.Parts, set)
	}
	return h.Render(w, r, http.StatusOK, "handbookpage", text.Row(text.Typed(p.Title), text.New("handbook.contents")),
		v)
}

// open is sitting.ErrInTest for a student who takes a timed test, on the pages of its instruments.
func (h Handler) open(r *http.Request, p *handbook.Page) error {
	u := ui.UserOf(r)
	if !shown(r)(p) {
		return school.ErrNotFound
	}
	if !u.Learns() || len(p.Families) == 0 {
		return nil
	}
	test, err := h.School.Sitting.InTest(r.Context(), u.ID, time.Now())
	if err == nil && test.Closes(p.Families...) {
		err = sitting.ErrInTest
	}
	return err
}

// back is the card that a reader came from, where the address names one of the reader's own.
func back(r *http.Request) string {
	from := r.URL.Query().Get("from")
	for _, place := range []string{"/my/", "/practice/", "/sheets/", "/ledger/"} {
		if strings.HasPrefix(from, place) && !strings.ContainsAny(from, "\\\"<> ") && len(from) < 80 {
			return from
		}
	}
	return ""
}

// beside are the pages before and after one.
func beside(book *handbook.Book, p *handbook.Page, shown func(*handbook.Page) bool) (before, next *handbook.Page) {
	var pages []*handbook.Page
	for _, o := range book.Pages {
		if shown(o) {
			pages = append(pages, o)
		}
	}
	for i, o := range pages {
		if o != p {
			continue
		}
		if i > 0 {
			before = pages[i-1]
		}
		if i+1 < len(pages) {
			next = pages[i+1]
		}
	}
	return before, next
}

func newPart(said *text.Printer, book *handbook.Book, p *handbook.Page, part handbook.Part) (v partView, err error) {
	switch {
	case part.Figure != nil:
		live, err := bench.NewLive(stand(said, p, part.Figure))
		v.Live = &live
		return v, err
	case part.List == "slips":
		for _, sl := range kinds.Slips() {
			at := book.Look(handbook.Asked{Slip: sl.Code})
			v.Slips = append(v.Slips, slipView{sl.Code.Name(), ui.HandbookHref(at, ""), at.Title})
		}
	case part.List == "words":
		for _, w := range locale.Words(said) {
			v.Words = append(v.Words, wordView(w))
		}
	default:
		var b bytes.Buffer
		err = markdown.Convert([]byte(part.Text), &b)
		v.Text = template.HTML(b.String()) //nolint:gosec // ships with the program
	}
	return v, err
}

// stand is the Bench on which a figure of a page stands.
func stand(said *text.Printer, p *handbook.Page, f *handbook.Figure) bench.Stand {
	return bench.Stand{Said: said, Instrument: f.Instrument, Method: plain(f.Method), At: &f.At, Caption: f.Caption,
		ID: fmt.Sprint(f.N), Action: fmt.Sprintf("/handbook/%s/%d", p.Name, f.N)}
}

// plain is a method without what needs limits, of which a page has none.
func plain(m exercise.Method) exercise.Method {
	if m.Tie == "unfavourable" {
		m.Tie = ""
	}
	return m
}

// figure answers a movement of one of a page's instruments.
func (h Handler) figure(w http.ResponseWriter, r *http.Request) error {
	book, err := handbook.In(ui.Said(r))
	if err != nil {
		return err
	}
	p := book.Find(chi.URLParam(r, "page"))
	n, err := ui.ID(r, "figure")
	if err != nil || p == nil {
		return school.ErrNotFound
	}
	if err := h.open(r, p); err != nil {
		return err
	}
	f := p.Figure(int(n))
	if f == nil {
		return school.ErrNotFound
	}
	return bench.ServeLive(h.Site, w, r, "handbookpage", stand(ui.Said(r), p, f))
}
