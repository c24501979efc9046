// Package student is what a student sees: the sheets of the class, the cards, and how they came out.
package student

import (
	"embed"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/text"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves a student's own pages.
type Handler struct{ *ui.Site }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	r.Get("/practice", h.Page(h.practice))
	r.Post("/practice/families", ui.Form(h.Site, h.choosePractice))
	r.Get("/practice/next", h.Page(h.nextPractice))
	r.Get("/practice/{n}", h.Page(h.practiceCard))
	r.Post("/practice/{n}", h.Page(h.practicePost))
	r.Post("/practice/{n}/draft", h.Page(h.practiceDraft))
	r.Get("/practice/{n}/figure", h.Page(h.practiceFigure))
	r.Post("/practice/{n}/figure", h.Page(h.practiceFigure))
	r.Get("/round", h.Page(h.round))
	r.Post("/round", h.Page(h.reply))
	r.Get("/my/way", h.Page(h.way))
	r.Get("/my/way.csv", h.Page(h.export))
	r.Get("/my/bench", h.Page(h.benches))
	r.Get("/my/bench/{key}", h.Page(h.bench))
	r.Get("/my/bench/{key}/hung", h.Page(h.hung))
	r.Post("/my/bench/{key}", h.Page(h.bench))
	r.Get("/my", h.Page(h.sheets))
	r.Get("/my/{assignment}", h.Page(h.sheet))
	r.Post("/my/{assignment}/begin", h.Page(h.begin))
	r.Post("/my/{assignment}/hand", h.Page(h.hand))
	r.Get("/my/{assignment}/{n}", h.Page(h.card))
	r.Post("/my/{assignment}/{n}", h.Page(h.cardPost))
	r.Post("/my/{assignment}/{n}/draft", h.Page(h.draft))
	r.Post("/my/{assignment}/{n}/hint", h.Page(h.hint))
	r.Post("/my/{assignment}/{n}/undo", h.Page(h.undo))
	r.Get("/my/{assignment}/{n}/figure", h.Page(h.figure))
	r.Post("/my/{assignment}/{n}/figure", h.Page(h.figure))
}

// stands tells how a student stands with a sheet, with the marks.
func (h Handler) stands(r *http.Request, student, assignment int64) (sitting.State, error) {
	st, err := h.School.Sitting.Stands(r.Context(), student, assignment, time.Now())
	if err != nil {
		return st, err
	}
	return h.School.Sitting.Score(r.Context(), student, st)
}

// speak has the pages of a sheet speak its own words, where it has some.
func speak(r *http.Request, st sitting.State) {
	ui.Speak(r, roster.In(ui.WordsOf(r), st.Sheet.Delivery.Words))
}

// told are marks as a student may see them: of a card that is not told yet, that something was handed in.
func told(marks []sitting.Mark) []sitting.Mark {
	for i, m := range marks {
		if m.Hidden {
			marks[i] = sitting.Mark{Student: m.Student, Assignment: m.Assignment, Attempt: m.Attempt, N: m.N,
				Typed: true}
		}
	}
	return marks
}

// timeText writes a time on the class's clock.
func timeText(t time.Time, zone string) text.Text { return ui.Weekday(t.In(roster.Clock(zone))) }

// nextCard is the first card after n that is still to do, or else the first before it; 0 when none is.
func nextCard(marks []sitting.Mark, n int) int {
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
