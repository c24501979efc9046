package web

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"

	"cavix/core/length"
	"cavix/core/marking"
	"cavix/store"
)

// ledgerView is the marks of a class on a sheet.
type ledgerView struct {
	Title, Class string
	ClassHref    string
	Numbers      []int
	Rows         []ledgerRow
	Slips        []slipCount
	Answered     int
	Share        string // marks of the cards answered, in per cent

	ID      int64
	Note    string
	Undo    bool // it has been marked anew, which can be taken back
	Changes []store.Change
}

// ledgerRow is one student's line.
type ledgerRow struct {
	Name      string
	Cells     []cardLine
	Marks, Of string
	Done      int
}

// count adds a slip to a tally, with who made it.
func count(tally map[marking.Code]*slipCount, slip marking.Code, who string) {
	if slip == "" {
		return
	}
	c, ok := tally[slip]
	if !ok {
		c = &slipCount{Slip: slip}
		tally[slip] = c
	}
	c.Count++
	if who != "" && !slices.Contains(c.Who, who) {
		c.Who = append(c.Who, who)
	}
}

// ranked lists a tally, the most frequent first.
func ranked(tally map[marking.Code]*slipCount) []slipCount {
	var out []slipCount
	for _, c := range tally {
		out = append(out, *c)
	}
	slices.SortFunc(out, func(a, b slipCount) int {
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(a.Slip, b.Slip))
	})
	return out
}

// perCent writes a share of marks.
func perCent(marks, of length.Number) string {
	if of.Sign() == 0 {
		return "–"
	}
	return marks.MulInt(100).Quo(of).Text(0) + " %"
}

func (s *Server) ledger(w http.ResponseWriter, r *http.Request) error {
	owner := userOf(r).instructor.ID
	n, err := id(r, "assignment")
	if err != nil {
		return err
	}
	a, err := s.Store.Assignment(r.Context(), owner, n)
	if err != nil {
		return err
	}
	students, err := s.Store.Students(r.Context(), owner, a.Class)
	if err != nil {
		return err
	}
	marks, err := s.Store.Ledger(r.Context(), owner, a.ID)
	if err != nil {
		return err
	}
	v := newLedger(a, students, marks)
	v.ID = a.ID
	if v.Undo, err = s.Store.CanUndo(r.Context(), a.ID); err != nil {
		return err
	}
	if v.Changes, err = s.Store.Changes(r.Context(), owner, a.ID); err != nil {
		return err
	}
	switch q := r.URL.Query(); {
	case q.Has("remarked"):
		v.Note = "The sheet is marked anew. The marks that stood before are kept; one step takes it back."
	case q.Has("undone"):
		v.Note = "The marks stand as before."
	}
	return s.render(w, r, http.StatusOK, "ledger", a.Title+" · Ledger", v)
}

// newLedger lays out the marks of a class.
func newLedger(a store.Assignment, students []store.Student, marks []store.Mark) ledgerView {
	v := ledgerView{Title: a.Title, Class: a.ClassName, ClassHref: fmt.Sprintf("/classes/%d", a.Class), Answered: a.Answered, Share: perCent(a.Marks, a.Of)}
	for n := range a.Definition.Cards {
		v.Numbers = append(v.Numbers, n+1)
	}
	byStudent := map[int64][]store.Mark{}
	for _, m := range marks {
		byStudent[m.Student] = append(byStudent[m.Student], m)
	}
	tally := map[marking.Code]*slipCount{}
	for _, st := range students {
		row := ledgerRow{Name: st.Name, Cells: make([]cardLine, len(v.Numbers))}
		var got, of length.Number
		for _, m := range byStudent[st.ID] {
			if !m.Done || m.N > len(row.Cells) {
				continue
			}
			row.Done++
			got, of = got.Add(m.Marks), of.Add(m.Of)
			count(tally, m.Slip, st.Name)
			row.Cells[m.N-1] = cardLine{N: m.N, Done: true, Full: m.Marks.Equal(m.Of), Marks: m.Marks.String(), Of: m.Of.String(),
				Href: fmt.Sprintf("/ledger/%d/%d/%d", a.ID, st.ID, m.N), Slip: m.Slip}
		}
		row.Marks, row.Of = got.String(), of.String()
		v.Rows = append(v.Rows, row)
	}
	v.Slips = ranked(tally)
	return v
}

// ledgerCard shows an instructor a student's card as it was answered.
func (s *Server) ledgerCard(w http.ResponseWriter, r *http.Request) error {
	v, _, _, err := s.answered(r)
	if err != nil {
		return err
	}
	return s.render(w, r, http.StatusOK, "card", v.Title, v)
}

// answered is a student's card as an instructor sees it, with the numbers of sheet, student and card, and
// its full marks.
func (s *Server) answered(r *http.Request) (v cardView, ids [3]int64, of length.Number, err error) {
	owner := userOf(r).instructor.ID
	for i, name := range []string{"assignment", "student", "n"} {
		if ids[i], err = id(r, name); err != nil {
			return v, ids, of, err
		}
	}
	a, err := s.Store.Assignment(r.Context(), owner, ids[0])
	if err != nil {
		return v, ids, of, err
	}
	card, err := s.Store.StudentCard(r.Context(), owner, a.ID, ids[1], int(ids[2]))
	if err != nil {
		return v, ids, of, err
	}
	st, err := s.Store.Student(r.Context(), ids[1])
	if err != nil {
		return v, ids, of, err
	}
	ledger, err := s.Store.Ledger(r.Context(), owner, a.ID)
	if err != nil {
		return v, ids, of, err
	}
	own := slices.DeleteFunc(ledger, func(m store.Mark) bool { return m.Student != st.ID })
	v = cardView{Title: st.Name, Sub: a.Title + " · " + a.ClassName, N: card.N, Of: len(own), CanMark: card.Done(),
		Rule: newRule(own, card.N, func(n int) string { return fmt.Sprintf("/ledger/%d/%d/%d", a.ID, st.ID, n) }),
		Next: link{"Back to the ledger", fmt.Sprintf("/ledger/%d", a.ID)}}
	var result *marking.Result
	answer := card.Draft
	if card.Done() {
		answer = card.Answer
		m, err := card.Item.Mark(card.Answer)
		if err != nil {
			return v, ids, of, err
		}
		result = &m
		if v.history, err = s.Store.History(r.Context(), st.ID, card.ID); err != nil {
			return v, ids, of, err
		}
		if v.wordings, err = s.Store.Wordings(r.Context(), owner); err != nil {
			return v, ids, of, err
		}
	} else {
		v.Note = "This card is not checked yet."
	}
	if err := v.fill(card.Item, answer, result, nil); err != nil {
		return v, ids, of, err
	}
	v.stand(card)
	if card.Own {
		v.OwnMark, v.OwnReason = card.Marks.String(), card.Reason
	}
	return v, ids, card.Of, nil
}
