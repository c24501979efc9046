package sitting

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
)

// Given is a sheet as it was given to a class.
type Given struct {
	Assignment
	Sheet     exercise.Sheet
	Marks, Of length.Number // of the cards answered
	Err       error         // why the sheet cannot be read, if it cannot
}

// HasClosed reports whether the closing time of the sheet has gone by.
func (g Given) HasClosed(at time.Time) bool { return !g.Closes.IsZero() && !at.Before(g.Closes) }

// OpenGiven opens a sheet that was given; an error is passed on.
func OpenGiven(a Assignment, err error) (Given, error) {
	if err != nil {
		return Given{}, err
	}
	g := Given{Assignment: a, Marks: length.FromHalves(a.Half), Of: length.FromHalves(a.Of)}
	if g.Sheet, g.Err = kinds.All.ReadSheet([]byte(a.Definition)); g.Err != nil {
		g.Err = fmt.Errorf("given sheet %d: %w", a.ID, g.Err)
	}
	return g, nil
}

// OpenAll opens sheets that were given; an error is passed on.
func OpenAll(list []Assignment, err error) ([]Given, error) {
	out := make([]Given, len(list))
	for i, a := range list {
		out[i], _ = OpenGiven(a, nil)
	}
	return out, err
}

// Whole also fails when the sheet cannot be read.
func Whole(g Given, err error) (Given, error) { return g, errors.Join(err, g.Err) }

// openedSheets keeps given sheets that were read lately, since every box that is typed asks how its sheet is taken.
// What is kept is never changed.
type openedSheets struct {
	mu    sync.Mutex
	sheet map[string]exercise.Sheet // by its document
}

// mostOpened is the number of opened sheets that are kept.
const mostOpened = 200

func (o *openedSheets) given(a Assignment) (Given, error) {
	o.mu.Lock()
	sheet, known := o.sheet[a.Definition]
	o.mu.Unlock()
	if known {
		return Given{Assignment: a, Sheet: sheet}, nil
	}
	g, err := Whole(OpenGiven(a, nil))
	if err == nil {
		o.mu.Lock()
		if o.sheet == nil || len(o.sheet) >= mostOpened {
			o.sheet = map[string]exercise.Sheet{}
		}
		o.sheet[a.Definition] = g.Sheet
		o.mu.Unlock()
	}
	return g, err
}

// GivenTo lists the sheets given to one of an instructor's classes, newest first.
func (svc *Service) GivenTo(ctx context.Context, owner, class int64) ([]Given, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	return OpenAll(listAssignments(ctx, svc.store, owner, class))
}

// GivenSheet finds a sheet given to one of an instructor's classes.
func (svc *Service) GivenSheet(ctx context.Context, owner, id int64) (Given, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, owner, id); err != nil {
		return Given{}, err
	}
	return Whole(OpenGiven(FindAssignment(ctx, svc.store, owner, id)))
}

// StudentSheets lists what a student's class has been given, newest first.
func (svc *Service) StudentSheets(ctx context.Context, student int64) ([]Given, error) {
	return OpenAll(listStudentAssignments(ctx, svc.store, student))
}

// StudentSheet finds a sheet that a student's class has been given.
func (svc *Service) StudentSheet(ctx context.Context, student, id int64) (Given, error) {
	return Whole(OpenGiven(FindStudentAssignment(ctx, svc.store, student, id)))
}

// Give gives a sheet of an instructor's to a class in which they may mark. The sheet is copied, with the class's school
// where the sheet leaves it open: later changes of either leave it alone. Giving the same sheet twice is ErrGiven.
func (svc *Service) Give(ctx context.Context, owner, class, sheet int64, seed uint64, at time.Time) (id int64,
	err error) {
	err = svc.access.InClass(ctx, access.GiveSheet, owner, class, func(tx *store.Tx) error {
		c, err := roster.FindClass(ctx, tx, owner, class)
		if err != nil {
			return err
		}
		school, err := roster.MethodOf(c)
		if err != nil {
			return err
		}
		kept, err := rack.FindSheet(ctx, tx, owner, sheet)
		if err != nil {
			return err
		}
		says, err := asGiven(kept, school)
		if err != nil {
			return err
		}
		id, err = give(ctx, tx, class, sheet, kept.Title, says, int64(seed), at)
		return err
	})
	return id, err
}

// OnSheet writes on a sheet that was given to a class where an instructor has a right.
func (svc *Service) OnSheet(ctx context.Context, right access.Right, instructor, assignment int64,
	work func(*store.Tx, Assignment) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := right.OnSheet(ctx, tx, instructor, assignment); err != nil {
			return err
		}
		a, err := FindAssignment(ctx, tx, instructor, assignment)
		if err != nil {
			return err
		}
		return work(tx, a)
	})
}

// Opened reads a sheet as it was given.
func (svc *Service) Opened(a Assignment) (Given, error) { return svc.opened.given(a) }
