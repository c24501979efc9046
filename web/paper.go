package web

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"strconv"

	"cavix/core/instrument"
	"cavix/core/marking"
	"cavix/exchange"
	"cavix/figure"
	"cavix/store"
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
	N       int
	Facts   cardFacts
	Figures []template.HTML // on the work, and closed where the zero error is asked
	Sums    [][]termView
}

// mostValues is the highest number of values, so that it stays short on paper.
const mostValues = 9999

// printed deals the cards of the paper that the address names.
func (s *Server) printed(r *http.Request) (a store.Assignment, values int64, cards []*marking.Card, err error) {
	n, err := id(r, "assignment")
	if err != nil {
		return a, 0, nil, err
	}
	if values, err = id(r, "values"); err != nil {
		return a, 0, nil, err
	}
	if values > mostValues {
		return a, 0, nil, store.ErrNotFound
	}
	if a, err = s.Store.Assignment(r.Context(), userOf(r).instructor.ID, n); err != nil {
		return a, 0, nil, err
	}
	cards, err = a.Definition.Deal(trySeed(int(values)))
	return a, values, cards, err
}

// paper shows a sheet for printing, for those who are absent or have no screen.
func (s *Server) paper(w http.ResponseWriter, r *http.Request) error {
	a, values, cards, err := s.printed(r)
	if err != nil {
		return err
	}
	at := func(n int64) string { return fmt.Sprintf("/ledger/%d/paper/%d", a.ID, n) }
	v := paperView{Title: a.Title, Class: a.ClassName, Ledger: fmt.Sprintf("/ledger/%d", a.ID), Values: values, Here: at(values), Other: at(values%mostValues + 1), Answers: r.URL.Query().Has("answers")}
	for i, c := range cards {
		p, err := newPaperCard(i+1, c, v.Answers)
		if err != nil {
			return err
		}
		v.Cards = append(v.Cards, p)
	}
	return s.render(w, r, http.StatusOK, "paper", a.Title+" on paper", v)
}

// newPaperCard draws a card, with its boxes filled in when the answers are wanted.
func newPaperCard(n int, c *marking.Card, answers bool) (paperCard, error) {
	p := paperCard{N: n, Facts: factsOf(c)}
	draw := func(in *instrument.Instrument, closed bool) error {
		y := c.Position()
		if closed {
			y = in.Closed()
		}
		lay, err := figure.Lay(in, y, figure.Wide)
		if err != nil {
			return err
		}
		p.Figures = append(p.Figures, drawing(lay.Scene(figure.Options{}), fmt.Sprintf("p%d-%d", n, len(p.Figures)), "fig"))
		return nil
	}
	if err := draw(c.Instrument, c.Closed); err != nil {
		return p, err
	}
	if c.Asks(marking.ZeroError) && !c.Closed {
		if err := draw(c.Instrument, true); err != nil {
			return p, err
		}
	}
	written := marking.Answer{}
	if answers {
		solutions, err := c.Solutions()
		if err != nil {
			return p, err
		}
		for _, st := range c.Ask {
			written[st] = marking.Show(c.Text(st, solutions[0].Value(st)))
		}
	}
	for _, sum := range c.Sums() {
		p.Sums = append(p.Sums, newTerms(c, sum, written, nil, nil))
	}
	return p, nil
}

// paperCards gives the cards of a paper as a document, by which its answers are marked as a batch.
func (s *Server) paperCards(w http.ResponseWriter, r *http.Request) error {
	a, values, cards, err := s.printed(r)
	if err != nil {
		return err
	}
	out := exchange.Cards{}
	for i, c := range cards {
		out[strconv.Itoa(i+1)] = c
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="cards-%d-%d.json"`, a.ID, values))
	return json.NewEncoder(w).Encode(out)
}
