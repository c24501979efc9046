package sitting

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"errors"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
)

// AddClassLike adds a class that takes everything but the students from another class that the actor owns: its
// settings, its colleagues, and its sheets with their weights. A sheet is given as it now stands on the page Sheets, or
// as the old class had it if it is there no longer. Sheets open, and close if they did, as many days after start as
// they did after the first of them in the old class, at the same time of day.
func (svc *Service) AddClassLike(ctx context.Context, by access.Actor, name string, old int64,
	start time.Time) (id int64, err error) {
	err = svc.access.InClass(ctx, access.CopyClass, by.ID, old, func(tx *store.Tx) error {
		was, err := roster.FindClass(ctx, tx, by.ID, old)
		if err != nil {
			return err
		}
		if id, err = roster.AddClass(ctx, tx, by.ID, name); err != nil {
			return err
		}
		from := was.Name
		was.Name = name
		if err := roster.UpdateClass(ctx, tx, id, was.ClassSettings); err != nil {
			return err
		}
		if err := copyColleagues(ctx, tx, old, id); err != nil {
			return err
		}
		if err := copySheets(ctx, tx, by, was, id, start); err != nil {
			return err
		}
		return by.Log(ctx, tx, id, text.New("log.add-class-like", "from", from))
	})
	return id, err
}

// copyColleagues has the colleagues of one class teach another too.
func copyColleagues(ctx context.Context, tx *store.Tx, from, to int64) error {
	staff, err := roster.ListStaff(ctx, tx, from)
	for _, m := range staff {
		if err == nil && m.Role != access.Owner {
			err = roster.UpdateRole(ctx, tx, to, m.ID, m.Role)
		}
	}
	return err
}

// copySheets gives the sheets of one class to another.
func copySheets(ctx context.Context, tx *store.Tx, by access.Actor, from roster.Class, to int64,
	start time.Time) error {
	list, err := ListTerm(ctx, tx, by.ID, from.ID)
	if err != nil {
		return err
	}
	convention, err := roster.MethodOf(from)
	if err != nil {
		return err
	}
	clock := roster.Clock(from.Zone)
	begins := func(a Assignment) time.Time {
		if a.Opens.IsZero() {
			return midnight(a.Given, clock)
		}
		return a.Opens.In(clock)
	}
	var begun time.Time // when the first sheet of the old class opened
	for _, a := range list {
		if at := begins(a); begun.IsZero() || at.Before(begun) {
			begun = at
		}
	}
	days := daysBetween(begun, start.In(clock))
	for _, a := range list {
		given, err := giveAgain(ctx, tx, by, a, to, convention)
		if err != nil {
			return err
		}
		opens := begins(a).AddDate(0, 0, days)
		var closes time.Time
		if !a.Closes.IsZero() {
			closes = a.Closes.In(clock).AddDate(0, 0, days)
		}
		if err := updateTimes(ctx, tx, given, opens, closes); err != nil {
			return err
		}
		if err := UpdateWeight(ctx, tx, given, a.Weight); err != nil {
			return err
		}
	}
	return nil
}

// giveAgain gives a sheet of one class to another, under a seed of its own.
func giveAgain(ctx context.Context, tx *store.Tx, by access.Actor, a Assignment, class int64,
	convention exercise.Method) (int64, error) {
	id, err := sheetOf(ctx, tx, a.ID)
	if err != nil {
		return 0, err
	}
	kept, err := rack.FindSheet(ctx, tx, by.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return give(ctx, tx, class, 0, a.Title, a.Definition, newSeed(), by.At)
	}
	if err != nil {
		return 0, err
	}
	definition, err := asGiven(kept, convention)
	if err != nil { // a sheet that cannot be read any more
		definition = a.Definition
	}
	return give(ctx, tx, class, id, kept.Title, definition, newSeed(), by.At)
}

// asGiven returns the document of a sheet as a class with a convention is given it.
func asGiven(kept rack.SheetRow, convention exercise.Method) (string, error) {
	def, err := kinds.All.ReadSheet([]byte(kept.Definition))
	if err != nil {
		return "", err
	}
	def.Method = def.Method.Over(convention)
	return store.JSON(def)
}

func newSeed() int64 {
	var b [8]byte
	rand.Read(b[:])
	return int64(binary.NativeEndian.Uint64(b[:]))
}

// midnight returns the beginning of a time's day.
func midnight(t time.Time, clock *time.Location) time.Time {
	y, m, d := t.In(clock).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, clock)
}

// daysBetween counts the days from the day of one time to the day of another.
func daysBetween(from, to time.Time) int {
	day := func(t time.Time) time.Time { y, m, d := t.Date(); return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }
	return int(day(to).Sub(day(from)) / (24 * time.Hour))
}
