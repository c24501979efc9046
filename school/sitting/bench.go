package sitting

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/school/rack"
	"cavix/store"
)

// Standing is an instrument that a student may move by hand: of a sheet of the class, or one that the instructor
// shares.
type Standing struct {
	Key        string // names it in addresses
	From       string // where it comes from: the title of a sheet; "" where it is shared
	Instrument *instrument.Instrument
}

// StudentBench lists the instruments that a student may move: those that the instructor shares, then those of the
// class's sheets, each once. What a test shows is left out until the test is over for the whole class, and told;
// instruments like those of a timed test are left out while the student takes it.
func (svc *Service) StudentBench(ctx context.Context, student int64) ([]Standing, error) {
	rd := svc.store
	test, err := svc.InTest(ctx, student, time.Now())
	if err != nil {
		return nil, err
	}
	shared, err := rack.ListSharedWith(ctx, rd, student)
	if err != nil {
		return nil, err
	}
	out, err := svc.standing(ctx, rd, student, shared)
	return slices.DeleteFunc(out, func(s Standing) bool { return test.Closes(s.Instrument.Spec().Family) }), err
}

// standing lists all instruments that a student may move while no test is taken.
func (svc *Service) standing(ctx context.Context, rd store.Queryer, student int64,
	shared []rack.RackedRow) (out []Standing, err error) {
	for _, k := range shared {
		if opened := rack.OpenRacked(k); opened.Err == nil {
			out = standing(out, []*instrument.Instrument{opened.Instrument}, "")
		}
	}
	err = svc.ofSheets(ctx, rd, student,
		func(title string, b exercise.Block) { out = standing(out, b.Instruments, title) })
	if err != nil || len(out) > 0 {
		return out, err
	}
	return out, readyBlocks(func(b exercise.Block) { out = standing(out, b.Instruments, "") })
}

// Stand finds an instrument of a student's Bench by its key; store.ErrNotFound where it is not there, and ErrInTest
// where a timed test keeps it closed.
func (svc *Service) Stand(ctx context.Context, student int64, key string) (Standing, error) {
	list, err := svc.StudentBench(ctx, student)
	if err != nil {
		return Standing{}, err
	}
	if i := slices.IndexFunc(list, func(s Standing) bool { return s.Key == key }); i >= 0 {
		return list[i], nil
	}
	test, err := svc.InTest(ctx, student, time.Now())
	if err == nil && len(test.Titles) > 0 {
		err = ErrInTest
	}
	return Standing{}, cmp.Or(err, store.ErrNotFound)
}

// standing adds those of some instruments that are not there yet.
func standing(list []Standing, some []*instrument.Instrument, from string) []Standing {
	for _, in := range some {
		doc, err := json.Marshal(in)
		if err != nil || in.Check() != nil { // what today's rules would not make is not moved
			continue
		}
		key := fmt.Sprintf("%x", sha256.Sum256(doc))[:12]
		if !slices.ContainsFunc(list, func(s Standing) bool { return s.Key == key }) {
			list = append(list, Standing{key, from, in})
		}
	}
	return list
}

// ofSheets hands over the blocks of the sheets that a student's class was given, with the sheet's title, those of
// the newest first. A test that is not yet told keeps its instruments to itself: moved by hand they would tell their
// zero errors.
func (svc *Service) ofSheets(ctx context.Context, rd store.Queryer, student int64,
	add func(title string, b exercise.Block)) error {
	list, err := listStudentAssignments(ctx, rd, student)
	if err != nil {
		return err
	}
	for _, a := range list {
		g, err := svc.opened.given(a)
		if err != nil || untold(g, time.Now()) {
			continue // one that this program cannot read, or a test
		}
		for _, b := range g.Sheet.Blocks {
			b.Method = g.Sheet.Method
			add(a.Title, b)
		}
	}
	return nil
}

// UnreadSheets lists the titles of the sheets that a student's class was given and that cannot be read.
func (svc *Service) UnreadSheets(ctx context.Context, student int64) (titles []string, err error) {
	list, err := listStudentAssignments(ctx, svc.store, student)
	for _, a := range list {
		if _, bad := svc.opened.given(a); bad != nil {
			titles = append(titles, a.Title)
		}
	}
	return titles, err
}

// untold reports whether a sheet is a test that may still be taken by somebody, or is not told yet.
func untold(g Given, at time.Time) bool {
	switch {
	case g.Sheet.Mode != exercise.Test:
		return false
	case g.Sheet.Release == exercise.ReleaseHand:
		return g.Released.IsZero()
	}
	return g.Closes.IsZero() || at.Before(g.Closes)
}

// readyBlocks hands over those of the ready sheets, for a class that was given no sheet yet.
func readyBlocks(add func(exercise.Block)) error {
	for _, ready := range kinds.ReadySheets {
		sheet, _, err := ready.Compose(nil)
		if err != nil {
			return err
		}
		for _, b := range sheet.Blocks {
			b.Method = sheet.Method
			add(b)
		}
	}
	return nil
}
