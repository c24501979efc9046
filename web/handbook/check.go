package handbook

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/handbook"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// checked is the page whose check a request asks for; a timed test closes those that show its instruments.
func (h Handler) checked(r *http.Request) (*handbook.Page, error) {
	book, err := handbook.In(ui.Said(r))
	if err != nil {
		return nil, err
	}
	p := book.Find(chi.URLParam(r, "page"))
	if p == nil || len(p.Checks) == 0 {
		return nil, school.ErrNotFound
	}
	if err := h.open(r, p); err != nil {
		return nil, err
	}
	u := ui.UserOf(r)
	if !u.Learns() {
		return p, nil
	}
	var shows []instrument.Family
	for _, b := range p.Checks {
		for _, in := range b.Instruments {
			shows = append(shows, in.Spec().Family)
		}
	}
	test, err := h.School.Sitting.InTest(r.Context(), u.ID, time.Now())
	if err == nil && test.Closes(shows...) {
		err = sitting.ErrInTest
	}
	return p, err
}

// begin leads to the questions of a page's check, with new values every time.
func (h Handler) begin(w http.ResponseWriter, r *http.Request) error {
	p, err := h.checked(r)
	if err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/handbook/%s/check/%d/1", p.Name, 1+rand.IntN(1e6)), http.StatusSeeOther)
	return nil
}

// trial is the check of a page, with the values of a seed, by the conventions of the reader's class.
func (h Handler) trial(r *http.Request) (t ui.Trial, err error) {
	p, err := h.checked(r)
	if err != nil {
		return t, err
	}
	seed, err := ui.ID(r, "seed")
	if err != nil {
		return t, err
	}
	sheet := exercise.Sheet{Blocks: p.Checks, Dealer: exercise.Dealing}
	if u := ui.UserOf(r); u.Learns() {
		if sheet.Method, err = h.School.Roster.StudentSchool(r.Context(), u.ID); err != nil {
			return t, err
		}
		sheet.Method = plain(sheet.Method)
	}
	t = ui.Trial{Title: text.Typed(p.Title), Sub: text.New("handbook.check.sub"), Next: text.New("handbook.check.next"),
		At:   func(n int) string { return fmt.Sprintf("/handbook/%s/check/%d/%d", p.Name, seed, n) },
		Back: ui.Link{Text: text.New("handbook.check.back"), Href: "/handbook/" + p.Name}}
	t.Items, err = sheet.Deal(kinds.All, ui.TrySeed(int(seed)))
	return t, err
}

// question shows a question of a page's check, and marks what is sent.
func (h Handler) question(w http.ResponseWriter, r *http.Request) error {
	t, err := h.trial(r)
	if err != nil {
		return err
	}
	return h.Try(w, r, t)
}

// questionFigure brings another figure of a question in sight, or moves it.
func (h Handler) questionFigure(w http.ResponseWriter, r *http.Request) error {
	t, err := h.trial(r)
	if err != nil {
		return err
	}
	return h.TryFigure(w, r, t)
}
