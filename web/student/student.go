// Package student is what a student sees: the sheets of the class, the cards, and how they came out.
package student

import (
	"embed"
	"fmt"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/classroom"
	"cavix/store"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Seat is where a student works.
type Seat struct{ *ui.Site }

// Routes adds the pages.
func (s Seat) Routes(r chi.Router) {
	r.Get("/my", s.Page(s.sheets))
	r.Get("/my/{assignment}", s.Page(s.summary))
	r.Get("/my/{assignment}/{n}", s.Page(s.card))
	r.Post("/my/{assignment}/{n}", s.Page(s.cardPost))
	r.Post("/my/{assignment}/{n}/draft", s.Page(s.draft))
	r.Get("/my/{assignment}/{n}/figure", s.Page(s.figure))
	r.Post("/my/{assignment}/{n}/figure", s.Page(s.figure))
}

// sheetLink is a sheet on a student's own page.
type sheetLink struct {
	Title, Class  string
	Given         time.Time
	Cards, Done   int
	Marks, Of     string
	Href, Summary string
	Rule          []ui.RuleMark
}

// sheets lists what a student has been given.
func (s Seat) sheets(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	list, err := s.Room.StudentSheets(r.Context(), student)
	if err != nil {
		return err
	}
	all, err := s.Room.Store().Read(r.Context()).AllProgress(student)
	if err != nil {
		return err
	}
	marks := map[int64][]store.Mark{}
	for _, m := range all {
		marks[m.Assignment] = append(marks[m.Assignment], m)
	}
	var views []sheetLink
	for _, a := range list {
		if a.Err != nil {
			s.Log.Error("a sheet cannot be read", "err", a.Err)
			continue
		}
		views = append(views, newSheetLink(a, marks[a.ID]))
	}
	return s.Render(w, r, http.StatusOK, "my", "Your sheets", views)
}

func newSheetLink(a classroom.Given, marks []store.Mark) sheetLink {
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", a.ID, n) }
	v := sheetLink{Title: a.Title, Class: a.ClassName, Given: a.Given, Cards: a.Sheet.Cards(), Done: a.Answered,
		Marks: a.Marks.String(), Of: a.Of.String(), Href: at(1), Summary: fmt.Sprintf("/my/%d", a.ID)}
	if len(marks) > 0 {
		v.Rule = ui.NewRule(marks, 0, at)
		v.Href = v.Summary
		if n := nextCard(marks, 0); n != 0 {
			v.Href = at(n)
		}
	}
	return v
}

// summaryView is a student's marks on one sheet.
type summaryView struct {
	Title     string
	Marks, Of string
	Done      int
	Cards     []cardLine
	Slips     []ui.SlipCount
	Next      ui.Link
}

// cardLine is one card in a list of marks.
type cardLine struct {
	N               int
	Done, Full      bool
	Marks, Of, Href string
	Slip            string
}

// summary shows a student's marks on a sheet.
func (s Seat) summary(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	if err := s.Room.Deal(r.Context(), student, n); err != nil {
		return err
	}
	a, err := s.Room.StudentSheet(r.Context(), student, n)
	if err != nil {
		return err
	}
	marks, err := s.Room.Store().Read(r.Context()).Progress(student, a.ID)
	if err != nil {
		return err
	}
	v := summaryView{Title: a.Title, Marks: a.Marks.String(), Of: a.Of.String(), Done: a.Answered}
	tally := ui.SlipTally{}
	for _, m := range marks {
		v.Cards = append(v.Cards, cardLine{N: m.N, Done: m.Done, Full: m.Done && m.Half == m.Of,
			Marks: ui.Half(m.Half), Of: ui.Half(m.Of),
			Href: fmt.Sprintf("/my/%d/%d", a.ID, m.N), Slip: m.Slip})
		tally.Add(m.Slip, "")
	}
	v.Slips = tally.Ranked()
	if n := nextCard(marks, 0); n != 0 {
		v.Next = ui.Link{Text: fmt.Sprintf("Go on with card %d", n), Href: fmt.Sprintf("/my/%d/%d", a.ID, n)}
	}
	return s.Render(w, r, http.StatusOK, "summary", a.Title, v)
}

// nextCard is the first card after n that is still to do, or else the first before it; 0 when none is.
func nextCard(marks []store.Mark, n int) int {
	first := 0
	for _, m := range marks {
		if m.Done {
			continue
		}
		if m.N > n {
			return m.N
		}
		if first == 0 {
			first = m.N
		}
	}
	return first
}
