package classroom

import (
	"context"
	"encoding/json"
	"fmt"
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
}

// mostEntries is how many entries a book holds.
const mostEntries = 2000

// Books are the books of an instructor's instruments that can be read, as they stand on a day.
func (r *Room) Books(ctx context.Context, owner int64, today time.Time) ([]Book, error) {
	rack, err := r.rack(ctx, owner)
	if err != nil {
		return nil, err
	}
	return r.books(ctx, owner, rack, today)
}

// Book is the book of one of an instructor's instruments.
func (r *Room) Book(ctx context.Context, owner, id int64, today time.Time) (Book, error) {
	k, err := r.Racked(ctx, owner, id)
	if err == nil && k.Err != nil {
		err = store.ErrNotFound
	}
	if err != nil {
		return Book{}, err
	}
	list, err := r.books(ctx, owner, []Racked{k}, today)
	if err != nil {
		return Book{}, err
	}
	return list[0], nil
}

// books are the books of some of an owner's instruments.
func (r *Room) books(ctx context.Context, owner int64, rack []Racked, today time.Time) ([]Book, error) {
	read := r.read(ctx)
	only := int64(0)
	if len(rack) == 1 {
		only = rack[0].ID
	}
	entries, err := read.Logbook(owner, only)
	if err != nil {
		return nil, err
	}
	limits, err := read.ZeroLimits(owner)
	if err != nil {
		return nil, err
	}
	of := map[int64][]logbook.Entry{}
	for _, k := range entries {
		e := logbook.Entry{}
		if err := json.Unmarshal([]byte(k.Entry), &e); err != nil {
			return nil, fmt.Errorf("entry %d of a logbook: %w", k.ID, err)
		}
		e.ID, e.At, e.Corrects = k.ID, k.Day, k.Corrects
		of[k.Instrument] = append(of[k.Instrument], e)
	}
	var out []Book
	for _, k := range rack {
		if k.Err != nil {
			continue
		}
		b := Book{Racked: k, Entries: of[k.ID]}
		if text, there := limits[k.ID]; there {
			x, err := length.Parse(text)
			if err != nil {
				return nil, fmt.Errorf("the limit of instrument %d: %w", k.ID, err)
			}
			b.Limit = &x
		}
		b.State = logbook.StateOf(k.Instrument, b.Entries, b.Limit, today)
		out = append(out, b)
	}
	return out, nil
}

// WriteBook adds entries to the book of an instructor's instrument, whole or not at all. What cannot stand is a
// refusal.Refusal, of several entries with their number before the field.
func (r *Room) WriteBook(ctx context.Context, owner, id int64, list ...logbook.Entry) error {
	b, err := r.Book(ctx, owner, id, time.Time{})
	if err != nil {
		return err
	}
	if len(b.Entries)+len(list) > mostEntries {
		return refusal.New("", "a book holds up to %d entries", mostEntries)
	}
	known := map[int64]bool{}
	for _, e := range b.Entries {
		known[e.ID] = true
	}
	kept := make([]store.LogEntry, len(list))
	for i, e := range list {
		err := e.Check(b.Instrument)
		if err == nil && e.Corrects != 0 && !known[e.Corrects] {
			err = refusal.New("corrects", "is no entry of this book")
		}
		if err != nil && len(list) > 1 {
			err = refusal.Within(fmt.Sprint(i+1), err)
		}
		if err != nil {
			return err
		}
		kept[i] = store.LogEntry{Instrument: id, Day: e.At, Corrects: e.Corrects}
		if kept[i].Entry, err = toJSON(e); err != nil {
			return err
		}
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		for _, e := range kept {
			if _, err := tx.AddLogEntry(e); err != nil {
				return err
			}
		}
		return nil
	})
}

// SetZeroLimit keeps how large the zero error of an instructor's instrument may be; nil for no limit.
func (r *Room) SetZeroLimit(ctx context.Context, owner, id int64, limit *length.Number) error {
	text := ""
	if limit != nil {
		text = limit.String()
	}
	return r.store.Write(ctx, func(tx *store.Tx) error { return tx.SetZeroLimit(owner, id, text) })
}

// TakeOver makes what the last check found the zero error of an instructor's instrument. One that the instrument cannot
// have is a refusal.Refusal.
func (r *Room) TakeOver(ctx context.Context, owner, id int64) error {
	b, err := r.Book(ctx, owner, id, time.Time{})
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
	_, err = r.KeepInstrument(ctx, owner, id, in)
	return err
}
