package student

import (
	"fmt"
	"net/http"
	"time"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/web/ui"
)

// mine finds the student's own card that a request names, dealing the sheet on first sight.
func (s Seat) mine(r *http.Request) (c classroom.Card, err error) {
	assignment, err := ui.ID(r, "assignment")
	if err != nil {
		return c, err
	}
	n, err := ui.ID(r, "n")
	if err != nil {
		return c, err
	}
	return s.Room.MyCard(r.Context(), ui.UserOf(r).ID, assignment, int(n))
}

// address is where a card stands.
func address(c classroom.Card) string { return fmt.Sprintf("/my/%d/%d", c.Assignment, c.N) }

func (s Seat) card(w http.ResponseWriter, r *http.Request) error {
	c, err := s.mine(r)
	if err != nil {
		return err
	}
	v := ui.CardView{}
	if r.URL.Query().Has("again") {
		v.Note = "This card had been checked before. The first answer counts; here it is."
	}
	return s.show(w, r, http.StatusOK, v, c, c.Draft)
}

// state is what a student's own card is filled in with.
func (s Seat) state(r *http.Request, c classroom.Card, boxes exercise.Answer) (ui.CardState, error) {
	st := ui.CardState{Item: c.Item, Answer: boxes, Result: c.Result, Figure: r.FormValue("figure"), At: address(c) +
		"/figure"}
	if c.Done() {
		st.Answer = c.Answer
		voice, err := s.Room.Voice(r.Context(), ui.UserOf(r).ID, c.ID)
		st.Voice = voice
		return st, err
	}
	ladder, err := c.Item.Hints()
	st.Hints = ladder[:min(c.Hints, len(ladder))]
	return st, err
}

// show prints a student's own card.
func (s Seat) show(w http.ResponseWriter, r *http.Request, status int, v ui.CardView, c classroom.Card,
	boxes exercise.Answer) error {
	student := ui.UserOf(r).ID
	asg, err := s.Room.StudentSheet(r.Context(), student, c.Assignment)
	if err != nil {
		return err
	}
	marks, err := s.Room.Store().Read(r.Context()).Progress(student, asg.ID)
	if err != nil {
		return err
	}
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", asg.ID, n) }
	v.Title, v.Sub = asg.Title, "practice"
	v.Rule, v.N, v.Of = ui.NewRule(marks, c.N, at), c.N, len(marks)
	st, err := s.state(r, c, boxes)
	if err != nil {
		return err
	}
	if c.Done() {
		v.Next = ui.Link{Text: "See your marks", Href: fmt.Sprintf("/my/%d", asg.ID)}
		if n := nextCard(marks, c.N); n != 0 {
			v.Next = ui.Link{Text: "Next card", Href: at(n)}
		}
	} else {
		v.Action, v.Draft = at(c.N), at(c.N)+"/draft"
		ladder, err := c.Item.Hints()
		if err != nil {
			return err
		}
		if len(st.Hints) < len(ladder) {
			v.NextHint = "no marks"
			if cost := asg.Sheet.Cost(1); cost.Sign() > 0 {
				v.NextHint = "−" + cost.String()
			}
		}
	}
	if err := v.Fill(st); err != nil {
		return err
	}
	v.Stand(c)
	return s.Render(w, r, status, "card", asg.Title, v)
}

func (s Seat) cardPost(w http.ResponseWriter, r *http.Request) error {
	c, err := s.mine(r)
	if err != nil {
		return err
	}
	to, student := address(c), ui.UserOf(r).ID
	if c.Done() {
		http.Redirect(w, r, to+"?again", http.StatusSeeOther)
		return nil
	}
	a := ui.Written(r, c.Item)
	switch do := r.PostForm.Get("do"); {
	case do == "later":
		to = "/my"
		err = s.Room.SaveDraft(r.Context(), student, c.ID, a)
	case do == "hint":
		err = s.Room.TakeHint(r.Context(), student, c, a)
	case r.PostForm.Get("moved") != "":
		ui.Move(c.Item, a, r.PostForm.Get("moved"))
		err = s.Room.SaveDraft(r.Context(), student, c.ID, a)
	default:
		return s.check(w, r, c, a)
	}
	if err == nil {
		http.Redirect(w, r, to, http.StatusSeeOther)
	}
	return err
}

// check hands a card in, or says why it cannot be yet.
func (s Seat) check(w http.ResponseWriter, r *http.Request, c classroom.Card, a exercise.Answer) error {
	student := ui.UserOf(r).ID
	v := ui.CardView{}
	ready, err := v.Ready(r, c.Item, a)
	if err != nil {
		return err
	}
	if !ready {
		if err := s.Room.SaveDraft(r.Context(), student, c.ID, a); err != nil {
			return err
		}
		return s.show(w, r, http.StatusUnprocessableEntity, v, c, a)
	}
	counted, err := s.Room.Submit(r.Context(), student, c, a, time.Now())
	if err != nil {
		return err
	}
	to := address(c)
	if !counted {
		to += "?again"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// draft keeps a card half filled in, as the page sends it while it is typed.
func (s Seat) draft(w http.ResponseWriter, r *http.Request) error {
	c, err := s.mine(r)
	if err != nil {
		return err
	}
	if err := s.Room.SaveDraft(r.Context(), ui.UserOf(r).ID, c.ID, ui.Written(r, c.Item)); err != nil {
		return err
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}

// figure brings another figure of a card in sight, or carries out a movement of one: the position is kept
// here, and what goes back is the drawing, never the reading.
func (s Seat) figure(w http.ResponseWriter, r *http.Request) error {
	c, err := s.mine(r)
	if err != nil {
		return err
	}
	a := c.Draft
	if r.Method == http.MethodPost && !c.Done() {
		a = ui.Written(r, c.Item)
		ui.Move(c.Item, a, r.PostForm.Get("moved"))
		if err := s.Room.SaveDraft(r.Context(), ui.UserOf(r).ID, c.ID, a); err != nil {
			return err
		}
	}
	st, err := s.state(r, c, a)
	if err != nil {
		return err
	}
	return s.Figures(w, st)
}
