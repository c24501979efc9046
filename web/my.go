package web

import (
	"fmt"
	"net/http"
	"time"

	"cavix/core/marking"
)

// sheetLink is a sheet on a student's own page.
type sheetLink struct {
	Title, Class  string
	Given         time.Time
	Cards, Done   int
	Marks, Of     string
	Href, Summary string
	Rule          []ruleMark
}

// my lists what a student has been given.
func (s *Server) my(w http.ResponseWriter, r *http.Request) error {
	student := userOf(r).student
	list, err := s.Store.StudentAssignments(r.Context(), student.ID)
	if err != nil {
		return err
	}
	views := make([]sheetLink, len(list))
	for i, a := range list {
		marks, err := s.Store.Progress(r.Context(), student.ID, a.ID)
		if err != nil {
			return err
		}
		at := func(n int) string { return fmt.Sprintf("/my/%d/%d", a.ID, n) }
		v := sheetLink{Title: a.Title, Class: a.ClassName, Given: a.Given, Cards: a.Definition.Cards, Done: a.Answered,
			Marks: a.Marks.String(), Of: a.Of.String(), Href: at(1), Summary: fmt.Sprintf("/my/%d", a.ID)}
		if len(marks) > 0 {
			v.Rule = newRule(marks, 0, at)
			v.Href = v.Summary
			if n := nextCard(marks, 0); n != 0 {
				v.Href = at(n)
			}
		}
		views[i] = v
	}
	return s.render(w, r, http.StatusOK, "my", "Your sheets", views)
}

// summaryView is a student's marks on one sheet.
type summaryView struct {
	Title     string
	Marks, Of string
	Done      int
	Cards     []cardLine
	Slips     []slipCount
	Next      link
}

// cardLine is one card in a list of marks.
type cardLine struct {
	N               int
	Done, Full      bool
	Marks, Of, Href string
	Slip            marking.Code
}

// slipCount says how often a slip was the first on a card.
type slipCount struct {
	Slip  marking.Code
	Count int
	Who   []string
}

// mySheet shows a student's marks on a sheet.
func (s *Server) mySheet(w http.ResponseWriter, r *http.Request) error {
	student := userOf(r).student.ID
	n, err := id(r, "assignment")
	if err != nil {
		return err
	}
	a, err := s.Store.StudentAssignment(r.Context(), student, n)
	if err != nil {
		return err
	}
	if err := s.Store.Deal(r.Context(), student, a.ID); err != nil {
		return err
	}
	marks, err := s.Store.Progress(r.Context(), student, a.ID)
	if err != nil {
		return err
	}
	v := summaryView{Title: a.Title, Marks: a.Marks.String(), Of: a.Of.String(), Done: a.Answered}
	tally := map[marking.Code]*slipCount{}
	for _, m := range marks {
		v.Cards = append(v.Cards, cardLine{N: m.N, Done: m.Done, Full: m.Done && m.Marks.Equal(m.Of), Marks: m.Marks.String(), Of: m.Of.String(),
			Href: fmt.Sprintf("/my/%d/%d", a.ID, m.N), Slip: m.Slip})
		count(tally, m.Slip, "")
	}
	v.Slips = ranked(tally)
	if n := nextCard(marks, 0); n != 0 {
		v.Next = link{fmt.Sprintf("Go on with card %d", n), fmt.Sprintf("/my/%d/%d", a.ID, n)}
	}
	return s.render(w, r, http.StatusOK, "summary", a.Title, v)
}
