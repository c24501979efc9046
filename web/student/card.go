package student

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// mine finds the student's own card that a request names. A plain sheet is dealt on first sight; one that is timed, or
// has something to be read first, is not begun by an address.
func (h Handler) mine(r *http.Request) (c sitting.Card, st sitting.State, err error) {
	at, err := cardRef(r)
	if err != nil {
		return c, st, err
	}
	now := time.Now()
	if st, err = h.School.Sitting.Stands(r.Context(), at.Student, at.Assignment, now); err != nil {
		return c, st, err
	}
	speak(r, st)
	switch {
	case st.Now() == nil && plain(st.Sheet.Delivery):
		return h.School.Sitting.MyCard(r.Context(), at.Student, at.Assignment, at.N, now)
	case st.Now() == nil:
		return c, st, sitting.ErrNotOpen
	}
	c, err = h.School.Sitting.CardAt(r.Context(), st, at.Student, at.N)
	return c, st, err
}

// cardRef reads from a request's path which of the student's own cards it is about.
func cardRef(r *http.Request) (at sitting.CardRef, err error) {
	if at.Assignment, err = ui.ID(r, "assignment"); err != nil {
		return at, err
	}
	n, err := ui.ID(r, "n")
	at.N, at.Student = int(n), ui.UserOf(r).ID
	return at, err
}

// redirectIfOver redirects to the page of a sheet that has not begun or is over; other errors are returned.
func redirectIfOver(w http.ResponseWriter, r *http.Request, assignment int64, err error) error {
	if errors.Is(err, sitting.ErrNotOpen) || errors.Is(err, sitting.ErrOver) {
		http.Redirect(w, r, fmt.Sprintf("/my/%d", assignment), http.StatusSeeOther)
		return nil
	}
	return err
}

// address returns the address of a card.
func address(c sitting.Card) string { return fmt.Sprintf("/my/%d/%d", c.Assignment, c.N) }

func (h Handler) card(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err != nil {
		return redirectIfOver(w, r, st.ID, err)
	}
	v, asked := ui.CardView{Told: r.URL.Query().Has("words")}, r.URL.Query()
	switch {
	case asked.Has("again"):
		v.Note = text.New("student.card.card")
	case asked.Has("check") && !c.Done():
		if _, err := v.Ready(r, c.Item, c.Draft); err != nil {
			return err
		}
	}
	if mayKeep(w); !ahead(r) {
		if err := h.School.Sitting.See(r.Context(), ui.UserOf(r).ID, ui.UserOf(r).Class, c, time.Now()); err != nil {
			return err
		}
	}
	return h.show(w, r, v, c, st)
}

// mayKeep tells the browser that it may show a page as it last was while there is no connection.
func mayKeep(w http.ResponseWriter) { w.Header().Set("Cavix-Keep", "yes") }

// ahead reports whether a page is fetched to be shown later: nobody sees it now.
func ahead(r *http.Request) bool { return r.Header.Get("Cavix-Ahead") != "" }

// state returns what a student's own card is filled in with. What is not told yet is shown as it was handed in.
func (h Handler) state(
	r *http.Request,
	c sitting.Card,
	st sitting.State,
	boxes exercise.Answer,
) (ui.CardState, error) {
	out := ui.CardState{Said: ui.Said(r), Item: c.Item, Answer: boxes, Figure: r.FormValue("figure"), At: address(c) +
		"/figure", Pixels: st.Sheet.Pixels(), Spoken: c.Spoken}
	if c.Done() {
		out.Answer = c.Answer
		if c.Hidden {
			return out, nil
		}
		out.Result = c.Result
		wording, err := h.School.Sitting.Wording(r.Context(), ui.UserOf(r).ID, c.ID)
		out.Wording = wording
		return out, err
	}
	hints, err := c.Item.Hints()
	hints = st.Sheet.HintSteps(hints)
	out.Hints = hints[:min(c.Hints, len(hints))]
	return out, err
}

// show prints a student's own card.
func (h Handler) show(w http.ResponseWriter, r *http.Request, v ui.CardView, c sitting.Card, st sitting.State) error {
	student := ui.UserOf(r).ID
	marks, err := h.School.Sitting.Progress(r.Context(), student, st.ID)
	if err != nil {
		return err
	}
	marks = told(marks)
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", st.ID, n) }
	sheet := fmt.Sprintf("/my/%d", st.ID)
	v.Title, v.Sub, v.Owner, v.Timer = text.Typed(st.Title), text.New("word.practice"), student, timerOf(st)
	v.Ahead = st.Working()
	v.Rule, v.N, v.Of = ui.NewRule(marks, c.N, at), c.N, len(marks)
	if c.N > 1 {
		v.Before = at(c.N - 1)
	}
	if c.N < len(marks) {
		v.After = at(c.N + 1)
	}
	fill, err := h.state(r, c, st, c.Draft)
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
			v.Undo = at(c.N) + "/undo"
		}
	case !st.Working():
		v.Next = ui.Link{Text: text.New("student.card.show.back-sheet"), Href: sheet}
	default:
		v.Action, v.Draft, v.Help, v.Hand = at(c.N), at(c.N)+"/draft", at(c.N)+"/hint", sheet
		v.Test, v.CanSpeak = st.Test(), st.Sheet.Spoken && !c.Spoken
		if err := nextHint(&v, c, st, len(fill.Hints)); err != nil {
			return err
		}
	}
	if err := v.Fill(fill); err != nil {
		return err
	}
	if !c.Hidden {
		v.Stand(c)
	}
	return h.Render(w, r, http.StatusOK, "card",
		text.New("student.card.title", "title", st.Title, "n", c.N, "of", len(marks)), v)
}

// nextHint says what the next hint costs, where the sheet offers one.
func nextHint(v *ui.CardView, c sitting.Card, st sitting.State, taken int) error {
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	offered := st.Sheet.HintSteps(hints)
	if taken >= len(offered) {
		return nil
	}
	v.NextHint = text.New("student.card.hint-is-free")
	switch cost := st.Sheet.HintCost; {
	case st.Sheet.Spent(offered[taken : taken+1]):
		v.NextHint = text.New("student.card.all-marks")
	case cost == 1:
		v.NextHint = text.New("student.card.costs-half")
	case cost%2 == 0 && cost > 0:
		v.NextHint = text.New("student.card.costs", "cost", cost/2)
	case cost > 0:
		v.NextHint = text.New("student.card.costs-part", "cost", text.Math(st.Sheet.Cost(1).String()))
	}
	return nil
}

// cardPost takes a card as it is written, and goes on from what outcome of it.
func (h Handler) cardPost(w http.ResponseWriter, r *http.Request) error {
	at, err := cardRef(r)
	if err != nil {
		return err
	}
	do, moved := r.PostFormValue("do"), r.PostFormValue("moved")
	sub := sitting.Submission{DraftOnly: do == "later" || moved != "", AllowEmpty: do == "anyway",
		Read: func(it exercise.Item) exercise.Answer {
			a := ui.Written(r, it)
			ui.Move(it, a, moved)
			return a
		}}
	outcome, next, err := h.School.Sitting.SubmitCard(r.Context(), at, sub, time.Now())
	if err != nil {
		return redirectIfOver(w, r, at.Assignment, err)
	}
	to := fmt.Sprintf("/my/%d/%d", at.Assignment, at.N)
	switch {
	case do == "later":
		to = "/my"
	case outcome == sitting.Incomplete:
		to += "?check"
	case outcome == sitting.AlreadyChecked:
		to += "?again"
	case outcome == sitting.SavedForEnd && next == 0:
		to = fmt.Sprintf("/my/%d", at.Assignment)
	case outcome == sitting.SavedForEnd:
		to = fmt.Sprintf("/my/%d/%d", at.Assignment, next)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// hint saves the draft of a card and shows one more hint, or tells its figure in words.
func (h Handler) hint(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err == nil && !c.Done() {
		err = h.School.Sitting.SaveDraft(r.Context(), ui.UserOf(r).ID, c, st, ui.Written(r, c.Item))
	}
	switch {
	case err != nil || c.Done():
	case r.PostForm.Get("do") == "speak":
		if err = h.School.Sitting.Speak(r.Context(), ui.UserOf(r).ID, c, st); err == nil {
			http.Redirect(w, r, address(c)+"?words", http.StatusSeeOther)
			return nil
		}
	default:
		err = h.School.Sitting.TakeHint(r.Context(), ui.UserOf(r).ID, c, st)
	}
	return redirectToCard(w, r, c, st, err)
}

// undo undoes the check of a card.
func (h Handler) undo(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.mine(r)
	if err == nil && c.Done() {
		err = h.School.Sitting.UndoCheck(r.Context(), ui.UserOf(r).ID, c, st)
	}
	return redirectToCard(w, r, c, st, err)
}

// redirectToCard redirects to a card after an action, or to its sheet if that is over.
func redirectToCard(w http.ResponseWriter, r *http.Request, c sitting.Card, st sitting.State, err error) error {
	if err != nil {
		return redirectIfOver(w, r, st.ID, err)
	}
	http.Redirect(w, r, address(c), http.StatusSeeOther)
	return nil
}

// redirectToFigure redirects to a card with the figure in sight that was asked for by a button of the card's form.
func redirectToFigure(w http.ResponseWriter, r *http.Request, card string) error {
	http.Redirect(w, r, card+"?figure="+url.QueryEscape(r.PostForm.Get("turn")), http.StatusSeeOther)
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
		return redirectIfOver(w, r, st.ID, err)
	}
	a := c.Draft
	if r.Method == http.MethodPost && !c.Done() {
		a = ui.Written(r, c.Item)
		ui.Move(c.Item, a, r.PostForm.Get("moved"))
		if err := h.School.Sitting.SaveDraft(r.Context(), ui.UserOf(r).ID, c, st, a); err != nil {
			return redirectIfOver(w, r, st.ID, err)
		}
	}
	if r.PostForm.Has("turn") {
		return redirectToFigure(w, r, address(c))
	}
	fill, err := h.state(r, c, st, a)
	if err != nil {
		return err
	}
	return h.Figures(w, r, fill)
}
