package author

import (
	"bytes"
	"fmt"
	"net/http"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/store"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// cardsOf deals the sheet that the address names to the student of a preview that it names.
func (s Shop) cardsOf(r *http.Request) (sh classroom.Sheet, items []exercise.Item, seed int, err error) {
	if sh, err = s.named(r); err != nil {
		return sh, nil, 0, err
	}
	n, err := ui.ID(r, "seed")
	if err != nil {
		return sh, nil, 0, err
	}
	items, err = sh.Definition.Deal(kinds.All, ui.TrySeed(int(n)))
	return sh, items, int(n), err
}

// tried finds the card of a sheet that a request tries, and how it is shown; nothing of it is kept.
func (s Shop) tried(r *http.Request) (v ui.CardView, st ui.CardState, err error) {
	sh, items, seed, err := s.cardsOf(r)
	if err != nil {
		return v, st, err
	}
	n, err := ui.ID(r, "n")
	if err != nil {
		return v, st, err
	}
	if n > int64(len(items)) {
		return v, st, store.ErrNotFound
	}
	at := func(n int) string { return fmt.Sprintf("/sheets/%d/try/%d/%d", sh.ID, seed, n) }
	v = ui.CardView{Title: text.Typed(sh.Title), Sub: text.New("author.try.tried.sub"), N: int(n), Of: len(items),
		Action: at(int(n)),
		Next:   ui.Link{Text: text.New("author.try.back-sheet"), Href: fmt.Sprintf("/sheets/%d", sh.ID)}}
	if int(n) < len(items) {
		v.Next = ui.Link{Text: text.New("author.try.tried.next-card"), Href: at(int(n) + 1)}
	}
	marks := make([]store.Mark, len(items))
	for k := range marks {
		marks[k].N = k + 1
	}
	v.Rule = ui.NewRule(marks, int(n), at)
	st = ui.CardState{Said: ui.Said(r), Item: items[n-1], Answer: exercise.Answer{}, Figure: r.FormValue("figure"), At: at(int(n)) +
		"/figure"}
	if r.Method == http.MethodPost {
		st.Answer = ui.Written(r, st.Item)
		ui.Move(st.Item, st.Answer, r.PostForm.Get("moved"))
	}
	return v, st, nil
}

// try lets an instructor work a card of a sheet as a student would.
func (s Shop) try(w http.ResponseWriter, r *http.Request) error {
	v, st, err := s.tried(r)
	if err != nil {
		return err
	}
	status := http.StatusOK
	if r.Method == http.MethodPost && r.PostForm.Get("moved") == "" {
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

// tryFigure brings another figure of a tried card in sight, or moves it.
func (s Shop) tryFigure(w http.ResponseWriter, r *http.Request) error {
	_, st, err := s.tried(r)
	if err != nil {
		return err
	}
	return s.Figures(w, r, st)
}

// flash sends cards of a sheet to be cut out: the figure in front, what is right behind.
func (s Shop) flash(w http.ResponseWriter, r *http.Request) error {
	sh, items, seed, err := s.cardsOf(r)
	if err != nil {
		return err
	}
	sheet := paper.Sheet{Title: sh.Title, Said: ui.Said(r), Versions: []paper.Version{{Number: seed, Items: items}}}
	var b bytes.Buffer
	if err := sheet.WriteFlash(&b, func(int) error { return r.Context().Err() }); err != nil {
		return err
	}
	ui.Download(w, sh.Title+" flash cards.pdf", "application/pdf")
	_, err = b.WriteTo(w)
	return err
}
