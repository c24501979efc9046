package web

import (
	"net/http"

	"cavix/store"
)

// deskView is an instructor's start page.
type deskView struct {
	Classes []store.Class
	Sheets  []store.Sheet
	Given   []givenView
	Racked  int
	Name    string // of a class, as typed
	Errors  map[string]string
}

// givenView is a sheet given to a class, with how far the class is.
type givenView struct {
	store.Assignment
	Cards int // of all students together
	Share string
}

func newGiven(list []store.Assignment) []givenView {
	out := make([]givenView, len(list))
	for i, a := range list {
		out[i] = givenView{a, a.Students * a.Definition.Cards, perCent(a.Marks, a.Of)}
	}
	return out
}

func (s *Server) desk(w http.ResponseWriter, r *http.Request) error {
	return s.showDesk(w, r, http.StatusOK, deskView{})
}

func (s *Server) showDesk(w http.ResponseWriter, r *http.Request, status int, v deskView) error {
	ctx, owner := r.Context(), userOf(r).instructor.ID
	var err error
	if v.Classes, err = s.Store.Classes(ctx, owner); err != nil {
		return err
	}
	if v.Sheets, err = s.Store.Sheets(ctx, owner); err != nil {
		return err
	}
	given, err := s.Store.Given(ctx, owner)
	if err != nil {
		return err
	}
	v.Given = newGiven(given)
	rack, err := s.Store.Rack(ctx, owner)
	if err != nil {
		return err
	}
	v.Racked = len(rack)
	return s.render(w, r, status, "desk", "Desk", v)
}
