package student

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school/hub"
	"cavix/school/rounds"
	"cavix/web/ui"
)

// roundPage is a question that the class is asked at once, as a student has it.
type roundPage struct {
	ui.CardView
	Stamp string // by which the page knows that it is behind
	ID    int64
	Asked bool // a question is there, answers are taken or were
	Open  bool // answers are taken
	Shown bool // the figure stands here too
	Sent  bool // the student has answered
}

// round shows the class's question: to be answered, answered, closed, or what was right.
func (h Handler) round(w http.ResponseWriter, r *http.Request) error {
	k, a, err := h.School.Rounds.StudentRound(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	return h.showRound(w, r, http.StatusOK, roundPage{Sent: a != nil}, k, a)
}

func (h Handler) showRound(w http.ResponseWriter, r *http.Request, status int, v roundPage, k rounds.Round,
	a exercise.Answer) error {
	v.Title, v.Stamp, v.ID = text.New("student.round.show-round"), k.Stamp().String(), k.ID
	switch k.Stage() {
	case rounds.NoRound:
		return h.Render(w, r, status, "round", v.Title, v)
	case rounds.Open:
		v.Open = true
	}
	v.Asked, v.Shown = true, k.Shown || k.Stage() == rounds.Revealed
	fill := ui.CardState{Said: ui.Said(r), Item: k.Item, Answer: a}
	if v.Open {
		v.Action = "/round"
	}
	if k.Stage() == rounds.Revealed {
		result, err := k.Item.Mark(a)
		if err != nil {
			return err
		}
		fill.Result = &result
		if fill.Wording, err = h.School.Sitting.Wording(r.Context(), ui.UserOf(r).ID, 0); err != nil {
			return err
		}
	}
	if err := v.Fill(fill); err != nil {
		return err
	}
	return h.Render(w, r, status, "round", v.Title, v)
}

// reply keeps what a student answers.
func (h Handler) reply(w http.ResponseWriter, r *http.Request) error {
	user := ui.UserOf(r)
	k, kept, err := h.School.Rounds.StudentRound(r.Context(), user.ID)
	if err != nil {
		return err
	}
	id, err := ui.FormID(r, "round")
	if err != nil || k.ID == 0 {
		http.Redirect(w, r, "/round", http.StatusSeeOther)
		return nil //nolint:nilerr // what belongs to no round leads back to the one that is there
	}
	a := ui.Written(r, k.Item)
	err = h.School.Rounds.Reply(r.Context(), user.ID, user.Class, id, a, time.Now())
	var bad refusal.Refusal
	switch {
	case errors.As(err, &bad):
		v := roundPage{Sent: kept != nil} // what is refused now was not sent
		v.Errors = refusal.By(bad)
		return h.showRound(w, r, http.StatusUnprocessableEntity, v, k, a)
	case err != nil && !errors.Is(err, rounds.ErrClosed):
		return err
	}
	http.Redirect(w, r, "/round", http.StatusSeeOther)
	return nil
}

// Streams adds the addresses that stay open.
func (h Handler) Streams(r chi.Router) {
	r.Get("/round/events", h.Page(h.roundEvents))
}

// roundEvents tells a student's pages of rounds as they come and go.
func (h Handler) roundEvents(w http.ResponseWriter, r *http.Request) error {
	class := ui.UserOf(r).Class
	return h.Stream(w, r, hub.Topic{Class: class, What: hub.RoundNews},
		func(ctx context.Context) (ui.Snapshot, error) {
			st, err := h.School.Rounds.ClassStamp(ctx, class)
			return ui.Snapshot{ID: st.String(), Data: st.String()}, err
		})
}
