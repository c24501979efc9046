package ui

import (
	"cmp"
	"context"
	"net/http"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/school/studies"
)

// within holds the class, sheet or study that a request names, as InClass, OnSheet and OnStudy have found it.
type within struct {
	class roster.Class
	sheet sitting.Given
	study studies.Survey
	role  access.Role
}

// classID is the class that the address names, itself or by a sheet or a study; 0 where it names none.
func (w within) classID() int64 { return cmp.Or(w.class.ID, w.sheet.Class, w.study.Class) }

type withinKey struct{}

func withinOf(r *http.Request) within {
	found, _ := r.Context().Value(withinKey{}).(within)
	return found
}

// ClassOf returns the class that InClass has found. It panics on a route without InClass.
func ClassOf(r *http.Request) roster.Class {
	c := withinOf(r).class
	found(c.ID)
	return c
}

// SheetOf returns the sheet that OnSheet has found. It panics on a route without OnSheet.
func SheetOf(r *http.Request) sitting.Given {
	g := withinOf(r).sheet
	found(g.ID)
	return g
}

// StudyOf returns the study that OnStudy has found. It panics on a route without OnStudy.
func StudyOf(r *http.Request) studies.Survey {
	sv := withinOf(r).study
	found(sv.ID)
	return sv
}

func found(id int64) {
	if id == 0 {
		panic("the route has no middleware that finds what its address names")
	}
}

// Allows reports whether the instructor who asks has a right in the class that the address names.
func Allows(r *http.Request, right access.Right) bool { return right.Allows(withinOf(r).role) }

// InClass lets instructors through who have a right in the class that the address names. Pages speak its words.
func (s *Site) InClass(right access.Right) func(http.Handler) http.Handler {
	return s.within(right, func(r *http.Request, me int64) (w within, err error) {
		id, err := ID(r, "class")
		if err != nil {
			return w, err
		}
		if w.class, err = s.School.Roster.Class(r.Context(), me, id); err != nil {
			return w, err
		}
		set, err := roster.Words(w.class.Words)
		Speak(r, set)
		w.role = w.class.Role
		return w, err
	})
}

// OnSheet lets instructors through who have a right in the class that was given the sheet of the address.
func (s *Site) OnSheet(right access.Right) func(http.Handler) http.Handler {
	return s.within(right, func(r *http.Request, me int64) (w within, err error) {
		id, err := ID(r, "assignment")
		if err != nil {
			return w, err
		}
		if w.sheet, err = s.School.Sitting.GivenSheet(r.Context(), me, id); err != nil {
			return w, err
		}
		set, err := roster.Words(w.sheet.Words)
		if err != nil {
			return w, err
		}
		Speak(r, roster.In(set, w.sheet.Sheet.Delivery.Words))
		w.role, err = s.School.Access.RoleIn(r.Context(), me, w.sheet.Class)
		return w, err
	})
}

// OnStudy lets instructors through who have a right in the class that was given the study of the address.
func (s *Site) OnStudy(right access.Right) func(http.Handler) http.Handler {
	return s.within(right, func(r *http.Request, me int64) (w within, err error) {
		id, err := ID(r, "survey")
		if err != nil {
			return w, err
		}
		if w.study, err = s.School.Studies.Survey(r.Context(), me, id); err != nil {
			return w, err
		}
		set, err := roster.Words(w.study.Words)
		if err != nil {
			return w, err
		}
		Speak(r, set)
		w.role, err = s.School.Access.RoleIn(r.Context(), me, w.study.Class)
		return w, err
	})
}

// within finds what an address names, checks the right and hands both on. Without the right it is access.ErrForbidden,
// and for who does not teach the class school.ErrNotFound.
func (s *Site) within(right access.Right,
	find func(r *http.Request, me int64) (within, error)) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return s.Page(func(w http.ResponseWriter, r *http.Request) error {
			named, err := find(r, UserOf(r).ID)
			if err == nil && !right.Allows(named.role) {
				err = access.ErrForbidden
			}
			if err != nil {
				return err
			}
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), withinKey{}, named)))
			return nil
		})
	}
}

// Form makes a handler of one that takes a form.
func Form[T any](s *Site, handle func(http.ResponseWriter, *http.Request, T) error) http.HandlerFunc {
	return s.Page(func(w http.ResponseWriter, r *http.Request) error {
		var f T
		if err := Decode(r, &f); err != nil {
			return err
		}
		return handle(w, r, f)
	})
}
