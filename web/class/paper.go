package class

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"strconv"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/figure"
	"cavix/store"
	"cavix/web/ui"
)

// paperView is a sheet as a class was given it, to be printed: with the values of one number, which stands
// on it, so that the same paper comes out again and its answers can be marked.
type paperView struct {
	Title, Class string
	Ledger       string
	Values       int64
	Here         string // this paper
	Other        string // the same with other values
	Answers      bool   // the boxes are filled in
	Cards        []paperCard
}

// paperCard is one card on paper.
type paperCard struct {
	N int
	ui.CardView
	Figures []paperFigure
}

// paperFigure is a drawing with its caption.
type paperFigure struct {
	Drawing template.HTML
	Caption string
}

// mostValues is the highest number of values, so that it stays short on paper.
const mostValues = 9999

// printed deals the cards of the paper that the address names.
func (o Office) printed(r *http.Request) (a classroom.Given, values int64, items []exercise.Item, err error) {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return a, 0, nil, err
	}
	if values, err = ui.ID(r, "values"); err != nil {
		return a, 0, nil, err
	}
	if values > mostValues {
		return a, 0, nil, store.ErrNotFound
	}
	if a, err = o.given(r, n); err != nil {
		return a, 0, nil, err
	}
	items, err = a.Sheet.Deal(kinds.All, ui.TrySeed(int(values)))
	return a, values, items, err
}

// paper shows a sheet for printing, for those who are absent or have no screen.
func (o Office) paper(w http.ResponseWriter, r *http.Request) error {
	a, values, items, err := o.printed(r)
	if err != nil {
		return err
	}
	at := func(n int64) string { return fmt.Sprintf("/ledger/%d/paper/%d", a.ID, n) }
	v := paperView{Title: a.Title, Class: a.ClassName, Ledger: fmt.Sprintf("/ledger/%d", a.ID), Values: values,
		Here:  at(values),
		Other: at(values%mostValues + 1), Answers: r.URL.Query().Has("answers")}
	for i, it := range items {
		p, err := newPaperCard(i+1, it, v.Answers)
		if err != nil {
			return err
		}
		v.Cards = append(v.Cards, p)
	}
	return o.Render(w, r, http.StatusOK, "paper", a.Title+" on paper", v)
}

// newPaperCard draws a card, with its boxes filled in when the answers are wanted. What is to be moved is
// drawn where it must stand then.
func newPaperCard(n int, it exercise.Item, answers bool) (paperCard, error) {
	p := paperCard{N: n}
	written := exercise.Answer{}
	if answers {
		empty, err := it.Mark(nil)
		if err != nil {
			return p, err
		}
		for _, m := range empty.Fields {
			written[m.Field] = exercise.Show(m.Expected)
		}
	}
	figures := it.Figures()
	for i, f := range figures {
		y := f.At
		if f.Moves && answers {
			y, _ = f.Moved(ui.Moves(it, written, f.Name))
		}
		lay, err := figure.Lay(f.Instrument, y, figure.Wide)
		if err != nil {
			return p, err
		}
		drawn := paperFigure{Drawing: ui.Drawing(lay.Scene(figure.Options{}), fmt.Sprintf("p%d-%d", n, i), "fig")}
		if len(figures) > 1 {
			drawn.Caption = f.Caption
		}
		p.Figures = append(p.Figures, drawn)
	}
	p.CardView.Paper(it, written)
	return p, nil
}

// paperCards gives the cards of a paper as a document, by which its answers are marked as a batch.
func (o Office) paperCards(w http.ResponseWriter, r *http.Request) error {
	a, values, items, err := o.printed(r)
	if err != nil {
		return err
	}
	out := exercise.Cards{}
	for i, it := range items {
		out[strconv.Itoa(i+1)] = it
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="cards-%d-%d.json"`, a.ID, values))
	return json.NewEncoder(w).Encode(out)
}
