package sitting

import (
	"context"
	"errors"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/store"
)

// ErrInTest is for an aid that is closed while a student takes a timed test: the Bench, practice and the handbook, for
// the instruments of that test.
var ErrInTest = errors.New("this is closed while a timed test is taken")

// InTest is the timed tests that a student is taking whose sheets close the aids. The zero value is none.
type InTest struct {
	Titles   []string // of the sheets
	families []instrument.Family
}

// Closes reports whether the tests close the aids for any of some families of instruments.
func (t InTest) Closes(families ...instrument.Family) bool {
	return slices.ContainsFunc(families, func(f instrument.Family) bool { return slices.Contains(t.families, f) })
}

// InTest finds the timed tests that a student is taking at a time.
func (svc *Service) InTest(ctx context.Context, student int64, at time.Time) (t InTest, err error) {
	rd := svc.store
	list, err := listUnderWay(ctx, rd, 0, student)
	for _, s := range list {
		if s.Ends.IsZero() || !at.Before(s.Ends) {
			continue
		}
		a, bad := FindStudentAssignment(ctx, rd, student, s.Assignment)
		if errors.Is(bad, store.ErrNotFound) { // of a class that the student has left
			continue
		}
		if bad != nil {
			return t, bad
		}
		g, bad := svc.opened.given(a)
		if bad != nil || g.Sheet.Mode != exercise.Test || g.Sheet.Aids == exercise.AidsOpen {
			continue
		}
		t.Titles = append(t.Titles, g.Title)
		for _, b := range g.Sheet.Blocks {
			for _, in := range b.Instruments {
				if f := in.Spec().Family; !slices.Contains(t.families, f) {
					t.families = append(t.families, f)
				}
			}
		}
	}
	return t, err
}
