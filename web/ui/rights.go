package ui

import (
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"cavix/school"
	"cavix/school/access"
)

// Needs lets instructors through who have a right in the class that the address names, itself or by a sheet or a study.
// Others get access.ErrForbidden, and who does not teach the class school.ErrNotFound.
func (s *Site) Needs(right access.Right) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return s.Page(func(w http.ResponseWriter, r *http.Request) error {
			has, err := s.roleAt(r)
			if err == nil && !right.Allows(has) {
				err = access.ErrForbidden
			}
			if err != nil {
				return err
			}
			next.ServeHTTP(w, r)
			return nil
		})
	}
}

// roleAt is the role of the instructor who asks, in the class that an address names.
func (s *Site) roleAt(r *http.Request) (access.Role, error) {
	me := UserOf(r).ID
	for _, by := range []struct {
		name  string
		class func(id int64) (int64, error)
	}{
		{"class", func(id int64) (int64, error) { return id, nil }},
		{"assignment", func(id int64) (int64, error) { return s.School.Sitting.ClassOf(r.Context(), id) }},
		{"survey", func(id int64) (int64, error) { return s.School.Studies.ClassOfSurvey(r.Context(), id) }},
	} {
		if chi.URLParam(r, by.name) == "" {
			continue
		}
		id, err := ID(r, by.name)
		if err == nil {
			id, err = by.class(id)
		}
		if err != nil {
			return "", err
		}
		return s.School.Access.RoleIn(r.Context(), me, id)
	}
	return "", errNoClass
}

// errNoClass is for an address that names no class; nobody may do there what needs a role.
var errNoClass = fmt.Errorf("the address names no class: %w", school.ErrNotFound)
