package web

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"cavix/core/length"
	"cavix/core/marking"
)

// remarkView is a given sheet about to be marked anew: by which method, and what it would change.
type remarkView struct {
	ID        int64
	Title     string
	Settings  []settingView
	Tolerance string
	Errors    map[string]string
	Previewed bool
	Changed   []remarkedView
	All       int
}

// remarkedView is one mark that would change.
type remarkedView struct {
	Student           string
	N                 int
	Before, After, By string
	Up, Own           bool
}

func (s *Server) remark(w http.ResponseWriter, r *http.Request) error {
	owner := userOf(r).instructor
	n, err := id(r, "assignment")
	if err != nil {
		return err
	}
	a, err := s.Store.Assignment(r.Context(), owner.ID, n)
	if err != nil {
		return err
	}
	v := remarkView{ID: a.ID, Title: a.Title}
	m := a.Definition.Method
	status := http.StatusOK
	if r.Method == http.MethodPost {
		f := newForm(r)
		m = f.method()
		if m.Tie == "unfavourable" && a.Definition.Limits == nil {
			f.refuse("method.tie", "needs limits, and this sheet has none")
		}
		if v.Errors = f.errors(); len(v.Errors) > 0 {
			status = http.StatusUnprocessableEntity
		} else if f.Text["do"] == "apply" {
			if err := s.Store.ApplyRemark(r.Context(), owner.ID, n, m, owner.Name, time.Now()); err != nil {
				return err
			}
			http.Redirect(w, r, fmt.Sprintf("/ledger/%d?remarked", n), http.StatusSeeOther)
			return nil
		} else if err := v.preview(s, r, owner.ID, m); err != nil {
			return err
		}
	}
	v.Settings, v.Tolerance = settingsOf(m, false, v.Errors), toleranceText(m)
	return s.render(w, r, status, "remark", "Mark anew", v)
}

func (v *remarkView) preview(s *Server, r *http.Request, owner int64, m marking.Method) error {
	list, err := s.Store.Remark(r.Context(), owner, v.ID, m)
	if err != nil {
		return err
	}
	v.Previewed, v.All = true, len(list)
	for _, c := range list {
		if c.Before.Equal(c.After) {
			continue
		}
		by := c.After.Sub(c.Before)
		sign := "+"
		if by.Sign() < 0 {
			sign = "−"
		}
		v.Changed = append(v.Changed, remarkedView{c.Student, c.N, c.Before.String(), c.After.String(), sign + by.Abs().String(), by.Sign() > 0, c.Own})
	}
	return nil
}

func (s *Server) undoRemark(w http.ResponseWriter, r *http.Request) error {
	n, err := id(r, "assignment")
	if err != nil {
		return err
	}
	i := userOf(r).instructor
	if err := s.Store.UndoRemark(r.Context(), i.ID, n, i.Name, time.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/ledger/%d?undone", n), http.StatusSeeOther)
	return nil
}

// ownMark sets an instructor's own mark on a card, or takes it away.
func (s *Server) ownMark(w http.ResponseWriter, r *http.Request) error {
	v, ids, of, err := s.answered(r)
	if err != nil {
		return err
	}
	f := newForm(r)
	i := userOf(r).instructor
	set := func(half *int64, reason string) error {
		err := s.Store.SetOwnMark(r.Context(), i.ID, ids[0], ids[1], int(ids[2]), half, reason, i.Name, time.Now())
		if err == nil {
			http.Redirect(w, r, fmt.Sprintf("/ledger/%d/%d/%d", ids[0], ids[1], ids[2]), http.StatusSeeOther)
		}
		return err
	}
	if f.Text["do"] == "away" {
		return set(nil, "")
	}
	reason := f.line("reason")
	mark, err := length.ReadTyped(f.Text["mark"])
	half, whole := mark.Value.MulInt(2).Int64()
	switch {
	case err != nil:
		f.refuse("mark", "The mark %s.", err)
	case mark.Unit != "" || !whole || half < 0 || of.Less(mark.Value):
		f.refuse("mark", "The mark must be from 0 to %s, in halves.", of)
	}
	if reason == "" || len([]rune(reason)) > 200 {
		f.refuse("reason", "Say why, in 200 characters at the most: the student sees it.")
	}
	if v.Errors = f.errors(); len(v.Errors) > 0 {
		v.OwnMark, v.OwnReason = strings.TrimSpace(f.Text["mark"]), reason
		return s.render(w, r, http.StatusUnprocessableEntity, "card", v.Title, v)
	}
	return set(&half, reason)
}
