package student

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// mine finds the student's own card that a request names. A plain sheet is dealt on first sight; one that is timed, or
// has something to be read first, is not begun by an address.
func (h Handler) mine(r *http.Request) (c sitting.Card, st sitting.State, err error) {
	assignment, err := ui.ID(r, "assignment")
	if err != nil {
		return c, st, err
	}
	n, err := ui.ID(r, "n")
	if err != nil {
		return c, st, err
	}
	student, now := ui.UserOf(r).ID, time.Now()
	if st, err = h.School.Sitting.Stands(r.Context(), student, assignment, now); err != nil {
		return c, st, err
	}
	speak(r, st)
	switch {
	case st.Now() == nil && plain(st.Sheet.Delivery):
		return h.School.Sitting.MyCard(r.Context(), student, assignment, int(n), now)
	case st.Now() == nil:
		return c, st, sitting.ErrNotOpen
	}
	c, err = h.School.Sitting.CardAt(r.Context(), st, student, int(n))
	return c, st, err
}

// elsewhere sends on to the sheet's own page where a card cannot be worked on: it has not begun, or is over.
func elsewhere(w http.ResponseWriter, r *http.Request, st sitting.State, err error) error {
	if errors.Is(err, sitting.ErrNotOpen) || errors.Is(err, sitting.ErrOver) {
		http.Redirect(w, r, fmt.Sprintf("/my/%d", st.ID), http.StatusSeeOther)
		return nil
	}
	return err
}

// address is where a card stands.
func address(c sitting.Card) string { return fmt.Sprintf("/my/%d/%d", c.Assignment, c.N) }

func (h Handler) card(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err != nil {
		return elsewhere(w, r, st, err)
	}
	v := ui.CardView{}
	if r.URL.Query().Has("again") {
		v.Note = text.New("student.card.card")
	}
	if err := h.School.Sitting.See(r.Context(), ui.UserOf(r).ID, ui.UserOf(r).Class, c, time.Now()); err != nil {
		return err
	}
	return h.show(w, r, http.StatusOK, v, c, st, c.Draft)
}

// state is what a student's own card is filled in with. What is not told yet is shown as it was handed in.
func (h Handler) state(
	r *http.Request,
	c sitting.Card,
	st sitting.State,
	boxes exercise.Answer,
) (ui.CardState, error) {
	out := ui.CardState{Said: ui.Said(r), Item: c.Item, Answer: boxes, Figure: r.FormValue("figure"), At: address(c) +
		"/figure", Pixels: st.Sheet.Pixels()}
	if c.Done() {
		out.Answer = c.Answer
		if c.Hidden {
			return out, nil
		}
		out.Result = c.Result
		voice, err := h.School.Sitting.Wording(r.Context(), ui.UserOf(r).ID, c.ID)
		out.Wording = voice
		return out, err
	}
	ladder, err := c.Item.Hints()
	ladder = st.Sheet.HintSteps(ladder)
	out.Hints = ladder[:min(c.Hints, len(ladder))]
	return out, err
}

// show prints a student's own card.
func (h Handler) show(
	w http.ResponseWriter,
	r *http.Request,
	status int,
	v ui.CardView,
	c sitting.Card,
	st sitting.State,
	boxes exercise.Answer,
) error {
	student := ui.UserOf(r).ID
	marks, err := h.School.Sitting.Progress(r.Context(), student, st.ID)
	if err != nil {
		return err
	}
	marks = told(marks)
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", st.ID, n) }
	sheet := fmt.Sprintf("/my/%d", st.ID)
	v.Title, v.Sub, v.Owner, v.Timer = text.Typed(st.Title), text.New("word.practice"), student, timerOf(st)
	v.Rule, v.N, v.Of = ui.NewRule(marks, c.N, at), c.N, len(marks)
	if c.N > 1 {
		v.Before = at(c.N - 1)
	}
	if c.N < len(marks) {
		v.After = at(c.N + 1)
	}
	fill, err := h.state(r, c, st, boxes)
	if err != nil {
		return err
	}
	v.Next = ui.Link{Text: text.New("student.card.see-your-marks"), Href: sheet}
	if n := nextCard(marks, c.N); n != 0 && st.Working() {
		v.Next = ui.Link{Text: text.New("student.card.show.next-card"), Href: at(n)}
	}
	switch {
	case c.Done() && c.Hidden:
		v.Next = ui.Link{Text: text.New("student.card.show.back-sheet"), Href: sheet}
		v.Note = text.New("student.card.show")
	case c.Done():
		if c.CanUndo(st) {
			v.Undo = at(c.N)
		}
	case !st.Working():
		v.Next = ui.Link{Text: text.New("student.card.show.back-sheet"), Href: sheet}
	default:
		v.Action, v.Draft, v.Hand = at(c.N), at(c.N)+"/draft", sheet
		v.Test = st.Test()
		if err := rung(&v, c, st, len(fill.Hints)); err != nil {
			return err
		}
	}
	if err := v.Fill(fill); err != nil {
		return err
	}
	if !c.Hidden {
		v.Stand(c)
	}
	return h.Render(w, r, status, "card", text.Typed(st.Title), v)
}

// rung says what the next rung of help costs, where the sheet offers one.
func rung(v *ui.CardView, c sitting.Card, st sitting.State, taken int) error {
	ladder, err := c.Item.Hints()
	if err != nil {
		return err
	}
	offered := st.Sheet.HintSteps(ladder)
	if taken >= len(offered) {
		return nil
	}
	v.NextHint = text.New("student.card.rung")
	switch cost := st.Sheet.Cost(1); {
	case st.Sheet.Spent(offered[taken : taken+1]):
		v.NextHint = text.New("student.card.all-marks")
	case cost.Sign() > 0:
		v.NextHint = text.New("student.card.costs", "cost", cost)
	}
	return nil
}

func (h Handler) cardPost(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err != nil {
		return elsewhere(w, r, st, err)
	}
	to, student := address(c), ui.UserOf(r).ID
	if c.Done() && r.PostForm.Get("do") == "undo" {
		if err := h.School.Sitting.UndoCheck(r.Context(), student, c, st); err != nil {
			return elsewhere(w, r, st, err)
		}
		http.Redirect(w, r, to, http.StatusSeeOther)
		return nil
	}
	if c.Done() {
		if !c.Hidden {
			to += "?again"
		}
		http.Redirect(w, r, to, http.StatusSeeOther)
		return nil
	}
	a := ui.Written(r, c.Item)
	do := r.PostForm.Get("do")
	switch {
	case do == "later":
		to = "/my"
	case do == "hint" || r.PostForm.Get("moved") != "":
	case st.Test():
		return h.keepAndGo(w, r, c, st, a)
	default:
		return h.check(w, r, c, st, a)
	}
	ui.Move(c.Item, a, r.PostForm.Get("moved"))
	if err := h.School.Sitting.SaveDraft(r.Context(), student, c, st, a); err != nil {
		return elsewhere(w, r, st, err)
	}
	if do == "hint" {
		if err := h.School.Sitting.TakeHint(r.Context(), student, c, st); err != nil {
			return elsewhere(w, r, st, err)
		}
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// keepAndGo keeps what is typed on a card of a test, and goes on to the next. Only what cannot be read at all is handed
// back: that says nothing about right and wrong.
func (h Handler) keepAndGo(
	w http.ResponseWriter,
	r *http.Request,
	c sitting.Card,
	st sitting.State,
	a exercise.Answer,
) error {
	if err := h.School.Sitting.SaveDraft(r.Context(), ui.UserOf(r).ID, c, st, a); err != nil {
		return elsewhere(w, r, st, err)
	}
	if err := exercise.Readable(c.Item, a); err != nil {
		faults := ui.Faults{}
		if err := faults.Take("", err); err != nil {
			return err
		}
		return h.show(w, r, http.StatusUnprocessableEntity, ui.CardView{Errors: faults.By()}, c, st, a)
	}
	v := ui.CardView{}
	// a card that was not touched is passed over
	if some := len(exercise.Empty(c.Item, a)) < len(c.Item.Fields()); some {
		if ready, err := v.Ready(r, c.Item, a); err != nil {
			return err
		} else if !ready {
			return h.show(w, r, http.StatusUnprocessableEntity, v, c, st, a)
		}
	}
	to := fmt.Sprintf("/my/%d", st.ID)
	if c.N < st.Sheet.Cards() {
		to = fmt.Sprintf("/my/%d/%d", st.ID, c.N+1)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// check hands a card in, or says why it cannot be yet.
func (h Handler) check(
	w http.ResponseWriter,
	r *http.Request,
	c sitting.Card,
	st sitting.State,
	a exercise.Answer,
) error {
	student := ui.UserOf(r).ID
	v := ui.CardView{}
	ready, err := v.Ready(r, c.Item, a)
	if err != nil {
		return err
	}
	if !ready {
		if err := h.School.Sitting.SaveDraft(r.Context(), student, c, st, a); err != nil {
			return elsewhere(w, r, st, err)
		}
		return h.show(w, r, http.StatusUnprocessableEntity, v, c, st, a)
	}
	counted, err := h.School.Sitting.Submit(r.Context(), student, c, st, a, time.Now())
	if err != nil {
		return elsewhere(w, r, st, err)
	}
	to := address(c)
	if !counted {
		to += "?again"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// draft keeps what was typed into some boxes of a card, as the page sends it while it is typed, or later when there was
// no connection. What arrives after the end is said to have come too late.
func (h Handler) draft(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err == nil {
		err = h.School.Sitting.SaveDraft(r.Context(), ui.UserOf(r).ID, c, st, ui.Written(r, c.Item))
	}
	switch {
	case errors.Is(err, sitting.ErrOver) || errors.Is(err, sitting.ErrNotOpen):
		w.WriteHeader(http.StatusConflict)
		return nil
	case err != nil:
		return err
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}

// figure brings another figure of a card in sight, or carries out a movement of one: the position is kept
// here, and what goes back is the drawing, never the reading.
func (h Handler) figure(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err != nil {
		return elsewhere(w, r, st, err)
	}
	a := c.Draft
	if r.Method == http.MethodPost && !c.Done() {
		a = ui.Written(r, c.Item)
		ui.Move(c.Item, a, r.PostForm.Get("moved"))
		if err := h.School.Sitting.SaveDraft(r.Context(), ui.UserOf(r).ID, c, st, a); err != nil {
			return elsewhere(w, r, st, err)
		}
	}
	fill, err := h.state(r, c, st, a)
	if err != nil {
		return err
	}
	return h.Figures(w, r, fill)
}
