// Package classroom holds what people do with Cavix: keep instruments and sheets, give a sheet to a class,
// deal, fill in and submit cards, mark anew and take it back. Each is one function that decides with the
// core inside one transaction of the store; pages and commands only call them.
package classroom

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/semaphore"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/store"
)

// Room is where the use cases are carried out.
type Room struct {
	Hub     *Hub // tells who listens that something has happened in a class
	store   *store.Store
	opened  openedSheets
	stamps  stamps
	dealing *semaphore.Weighted // sheets that are dealt at a time: it takes all of a processor, and memory
}

// New returns a room over a store.
func New(s *store.Store) *Room {
	return &Room{store: s, Hub: NewHub(), dealing: semaphore.NewWeighted(int64(2 * runtime.GOMAXPROCS(0)))}
}

// Store gives the rows themselves, for whoever only lists them.
func (r *Room) Store() *store.Store { return r.store }

// read asks queries outside any transaction.
func (r *Room) read(ctx context.Context) *store.Reader { return r.store.Read(ctx) }

// toJSON writes what always encodes: strings, numbers and the core's own types.
func toJSON(v any) (string, error) {
	b, err := json.Marshal(v)
	return string(b), err
}

// halves is half of a count of half marks.
func halves(n int64) length.Number { return length.Frac(n, 2) }

// twice is how many half marks that is.
func twice(marks length.Number) int64 {
	n, _ := marks.MulInt(2).Floor().Int64()
	return n
}

// Given is a sheet as it was given to a class.
type Given struct {
	store.Assignment
	Sheet     exercise.Sheet
	Marks, Of length.Number // of the cards answered
	Err       error         // why the sheet cannot be read, if it cannot
}

// HasClosed reports whether the closing time of the sheet has gone by.
func (g Given) HasClosed(at time.Time) bool { return !g.Closes.IsZero() && !at.Before(g.Closes) }

func openGiven(a store.Assignment, err error) (Given, error) {
	if err != nil {
		return Given{}, err
	}
	g := Given{Assignment: a, Marks: halves(a.Half), Of: halves(a.Of)}
	if g.Sheet, g.Err = kinds.All.ReadSheet([]byte(a.Definition)); g.Err != nil {
		g.Err = fmt.Errorf("given sheet %d: %w", a.ID, g.Err)
	}
	return g, nil
}

func openAll(list []store.Assignment, err error) ([]Given, error) {
	out := make([]Given, len(list))
	for i, a := range list {
		out[i], _ = openGiven(a, nil)
	}
	return out, err
}

// whole also fails when the sheet cannot be read.
func whole(g Given, err error) (Given, error) { return g, errors.Join(err, g.Err) }

// openedSheets keeps given sheets that were read lately, since every box that is typed asks how its sheet is taken. What
// is kept is never changed.
type openedSheets struct {
	mu    sync.Mutex
	sheet map[string]exercise.Sheet // by its document
}

// mostOpened is how many are kept.
const mostOpened = 200

func (o *openedSheets) given(a store.Assignment) (Given, error) {
	o.mu.Lock()
	sheet, known := o.sheet[a.Definition]
	o.mu.Unlock()
	if known {
		return Given{Assignment: a, Sheet: sheet}, nil
	}
	g, err := whole(openGiven(a, nil))
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
func (r *Room) GivenTo(ctx context.Context, owner, class int64) ([]Given, error) {
	return openAll(r.read(ctx).Assignments(owner, class))
}

// GivenSheet finds a sheet given to one of an instructor's classes.
func (r *Room) GivenSheet(ctx context.Context, owner, id int64) (Given, error) {
	return whole(openGiven(r.read(ctx).Assignment(owner, id)))
}

// StudentSheets lists what a student's class has been given, newest first.
func (r *Room) StudentSheets(ctx context.Context, student int64) ([]Given, error) {
	return openAll(r.read(ctx).StudentAssignments(student))
}

// StudentSheet finds a sheet that a student's class has been given.
func (r *Room) StudentSheet(ctx context.Context, student, id int64) (Given, error) {
	return whole(openGiven(r.read(ctx).StudentAssignment(student, id)))
}

// Give gives a sheet of an instructor's to a class in which they may mark. The sheet is copied, with the class's school where the
// sheet leaves it open: later changes of either leave it alone. Giving the same sheet twice is
// store.ErrTaken.
func (r *Room) Give(ctx context.Context, owner, class, sheet int64, seed uint64, at time.Time) (id int64, err error) {
	err = r.inClass(ctx, owner, class, store.Marks, func(tx *store.Tx) error {
		c, err := tx.Class(owner, class)
		if err != nil {
			return err
		}
		school, err := methodOf(c)
		if err != nil {
			return err
		}
		kept, err := tx.Sheet(owner, sheet)
		if err != nil {
			return err
		}
		says, err := asGiven(kept, school)
		if err != nil {
			return err
		}
		id, err = tx.Give(class, sheet, kept.Title, says, int64(seed), at)
		return err
	})
	return id, err
}

// methodOf reads the school of a class.
func methodOf(c store.Class) (m exercise.Method, err error) {
	return m, json.Unmarshal([]byte(c.Method), &m)
}

// School is how a class settles what teachers settle differently.
func (r *Room) School(c store.Class) (exercise.Method, error) { return methodOf(c) }
