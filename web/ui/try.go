package ui

import (
	"net/http"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/sitting"
)

// Trial is a row of cards that somebody tries; nothing of it is kept.
type Trial struct {
	Title, Sub text.Text
	Items      []exercise.Item
	At         func(n int) string // the address of a card
	Next       text.Text          // what leads to the next card
	Back       Link               // what follows the last card
}

// card is the card of the trial that a request asks for. school.ErrNotFound where there is none.
func (t Trial) card(r *http.Request) (v CardView, st CardState, err error) {
	id, err := ID(r, "n")
	if err != nil || id > int64(len(t.Items)) {
		return v, st, school.ErrNotFound
	}
	n := int(id)
	v = CardView{Title: t.Title, Sub: t.Sub, N: n, Of: len(t.Items), Action: t.At(n), Next: t.Back}
	if n < len(t.Items) {
		v.Next = Link{Text: t.Next, Href: t.At(n + 1)}
	}
	marks := make([]sitting.Mark, len(t.Items))
	for k := range marks {
		marks[k].N = k + 1
	}
	v.Rule = NewRule(marks, n, t.At)
	st = CardState{Said: Said(r), Item: t.Items[n-1], Answer: exercise.Answer{}, Figure: r.FormValue("figure"),
		At: t.At(n) + "/figure", Spoken: r.FormValue("do") == "speak" || r.FormValue("spoken") != ""}
	v.CanSpeak, v.Told = !st.Spoken, st.Spoken
	if r.Method == http.MethodPost {
		st.Answer = Written(r, st.Item)
		Move(st.Item, st.Answer, r.PostForm.Get("moved"))
	}
	return v, st, nil
}

// Try shows a card of a trial, and marks what is sent.
func (s *Site) Try(w http.ResponseWriter, r *http.Request, t Trial) error {
	v, st, err := t.card(r)
	if err != nil {
		return err
	}
	status := http.StatusOK
	if r.Method == http.MethodPost && r.PostForm.Get("moved") == "" && r.PostForm.Get("do") != "speak" {
		ready, err := v.Ready(r, st.Item, st.Answer)
		if err != nil {
			return err
		}
		if ready {
			result, err := st.Item.Mark(st.Answer)
			if err != nil {
				return err
			}
			st.Result = &result
		} else {
			status = http.StatusUnprocessableEntity
		}
	}
	if err := v.Fill(st); err != nil {
		return err
	}
	return s.Render(w, r, status, "card", v.Title, v)
}

// TryFigure brings another figure of a tried card in sight, or moves it.
func (s *Site) TryFigure(w http.ResponseWriter, r *http.Request, t Trial) error {
	_, st, err := t.card(r)
	if err != nil {
		return err
	}
	return s.Figures(w, r, st)
}
