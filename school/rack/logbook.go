package rack

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/core/refusal"
	"cavix/store"
)

// Book is the book of an instrument of the Rack.
type Book struct {
	Racked
	Entries []logbook.Entry // all that were made, those too that a further one corrects
	Limit   *length.Number  // of its zero error, either way
	State   logbook.State

	Damaged  []LogEntry // entries that cannot be read
	BadLimit string     // the limit as it is kept, where it cannot be read; "" else
}

// mostEntries is the largest number of entries in a book.
const mostEntries = 2000

// Books are the books of an instructor's instruments that can be read, as they stand on a day.
func (svc *Service) Books(ctx context.Context, owner int64, today time.Time) ([]Book, error) {
	rack, err := svc.rack(ctx, owner)
	if err != nil {
		return nil, err
	}
	return books(ctx, svc.store, owner, rack, today)
}

// Book is the book of one of an instructor's instruments.
func (svc *Service) Book(ctx context.Context, owner, id int64, today time.Time) (Book, error) {
	return book(ctx, svc.store, owner, id, today)
}

func book(ctx context.Context, read store.Queryer, owner, id int64, today time.Time) (Book, error) {
	kept, err := findRacked(ctx, read, owner, id)
	if err != nil {
		return Book{}, err
	}
	k := OpenRacked(kept)
	if k.Err != nil {
		return Book{}, store.ErrNotFound
	}
	list, err := books(ctx, read, owner, []Racked{k}, today)
	if err != nil {
		return Book{}, err
	}
	return list[0], nil
}

// books are the books of some of an owner's instruments.
func books(ctx context.Context, read store.Queryer, owner int64, rack []Racked, today time.Time) ([]Book, error) {
	only := int64(0)
	if len(rack) == 1 {
		only = rack[0].ID
	}
	entries, err := listLogbook(ctx, read, owner, only)
	if err != nil {
		return nil, err
	}
	limits, err := listZeroLimits(ctx, read, owner)
	if err != nil {
		return nil, err
	}
	of, damaged := map[int64][]logbook.Entry{}, map[int64][]LogEntry{}
	for _, k := range entries {
		e := logbook.Entry{}
		if json.Unmarshal([]byte(k.Entry), &e) != nil {
			damaged[k.Instrument] = append(damaged[k.Instrument], k)
			continue
		}
		e.ID, e.At, e.Corrects = k.ID, k.Day, k.Corrects
		of[k.Instrument] = append(of[k.Instrument], e)
	}
	var out []Book
	for _, k := range rack {
		if k.Err != nil {
			continue
		}
		b := Book{Racked: k, Entries: of[k.ID], Damaged: damaged[k.ID]}
		if says, there := limits[k.ID]; there {
			if x, err := length.ParseStored(says); err == nil {
				b.Limit = &x
			} else {
				b.BadLimit = says
			}
		}
		b.State = logbook.StateOf(k.Instrument, b.Entries, b.Limit, today)
		out = append(out, b)
	}
	return out, nil
}

// WriteBook adds entries to the book of an instructor's instrument, whole or not at all. What cannot stand is a
// refusal.Refusal, of several entries with their number before the field.
func (svc *Service) WriteBook(ctx context.Context, owner, id int64, list ...logbook.Entry) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		b, err := book(ctx, tx, owner, id, time.Time{})
		if err != nil {
			return err
		}
		return b.write(ctx, tx, list)
	})
}

// write adds entries to a book.
func (b Book) write(ctx context.Context, tx *store.Tx, list []logbook.Entry) error {
	if len(b.Entries)+len(list) > mostEntries {
		return refusal.New("", "logbook.write", "most_entries", mostEntries)
	}
	known := map[int64]bool{}
	for _, e := range b.Entries {
		known[e.ID] = true
	}
	for i, e := range list {
		err := e.Check(b.Instrument)
		if err == nil && e.Corrects != 0 && !known[e.Corrects] {
			err = refusal.New("corrects", "logbook.no-entry-book")
		}
		if err != nil && len(list) > 1 {
			err = refusal.Within(fmt.Sprint(i+1), err)
		}
		if err != nil {
			return err
		}
		says, err := store.JSON(e)
		if err != nil {
			return err
		}
		if _, err := insertLogEntry(ctx, tx, LogEntry{Instrument: b.ID, Day: e.At, Corrects: e.Corrects,
			Entry: says}); err != nil {
			return err
		}
	}
	return nil
}

// ImportBook adds the checks of a table to the book of an instructor's instrument, whole or not at all, but for those
// that are there already. It returns how many were added. What cannot stand is a refusal.Refusal with the number of the
// check before the field.
func (svc *Service) ImportBook(ctx context.Context, owner, id int64, list []logbook.Entry) (added int, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		b, err := book(ctx, tx, owner, id, time.Time{})
		if err != nil {
			return err
		}
		var fresh []logbook.Entry
		for i, what := range logbook.Compare(b.Entries, list) {
			if what != logbook.Same {
				fresh = append(fresh, list[i])
			}
		}
		added = len(fresh)
		return b.write(ctx, tx, fresh)
	})
	return added, err
}

// RemoveDamaged deletes an entry of the book of an instructor's instrument that cannot be read. Any other stays: a
// further entry corrects it.
func (svc *Service) RemoveDamaged(ctx context.Context, owner, id, entry int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		b, err := book(ctx, tx, owner, id, time.Time{})
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(b.Damaged, func(e LogEntry) bool { return e.ID == entry }) {
			return store.ErrNotFound
		}
		return deleteLogEntry(ctx, tx, id, entry)
	})
}

// SetZeroLimit keeps how large the zero error of an instructor's instrument may be; nil for no limit.
func (svc *Service) SetZeroLimit(ctx context.Context, owner, id int64, limit *length.Number) error {
	says := ""
	if limit != nil {
		says = limit.String()
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error { return updateZeroLimit(ctx, tx, owner, id, says) })
}

// TakeOver makes what the last check found the zero error of an instructor's instrument. One that the instrument cannot
// have is a refusal.Refusal.
func (svc *Service) TakeOver(ctx context.Context, owner, id int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		b, err := book(ctx, tx, owner, id, time.Time{})
		if err != nil {
			return err
		}
		if !b.State.Checked {
			return store.ErrNotFound
		}
		in, err := b.Instrument.WithZeroError(b.State.Last.Zero(b.Instrument))
		if err != nil {
			return err
		}
		doc, err := store.JSON(in)
		if err != nil {
			return err
		}
		_, err = saveInstrument(ctx, tx, owner, RackedRow{ID: id, Name: in.Name(), Document: doc})
		return err
	})
}
