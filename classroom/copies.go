package classroom

import (
	"context"
	"encoding/json"
	"errors"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/store"
)

// mostCopies is how many copies may wait for an instructor.
const mostCopies = 50

// Kinds of copies.
const (
	CopyOfInstrument = "instrument"
	CopyOfSheet      = "sheet"
)

// SentCopy is a copy of an instrument or a sheet that a colleague has sent. Just one of Instrument and Sheet is set, or none
// where this program cannot read the copy.
type SentCopy struct {
	store.SentCopy
	Instrument *instrument.Instrument
	Sheet      *exercise.Sheet
}

func openCopy(c store.SentCopy) SentCopy {
	out := SentCopy{SentCopy: c}
	if c.Kind == CopyOfInstrument {
		in := new(instrument.Instrument)
		if json.Unmarshal([]byte(c.Document), in) == nil {
			out.Instrument = in
		}
	} else if sh, err := kinds.All.ReadSheet([]byte(c.Document)); err == nil {
		out.Sheet = &sh
	}
	return out
}

// SendInstrument sends a copy of an instrument to the colleague who signs in with a name, and returns the colleague's name. It
// returns a refusal.Refusal of the field login if there is no such colleague or too many copies wait there.
func (r *Room) SendInstrument(ctx context.Context, by Hand, id int64, login string) (to string, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		k, err := tx.Racked(by.ID, id)
		if err != nil {
			return err
		}
		to, err = send(tx, by, login, store.SentCopy{Kind: CopyOfInstrument, Title: k.Name, Document: k.Document})
		return err
	})
	return to, err
}

// SendSheet sends a copy of a sheet, with its instruments, as SendInstrument does.
func (r *Room) SendSheet(ctx context.Context, by Hand, id int64, login string) (to string, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		sh, err := tx.Sheet(by.ID, id)
		if err != nil {
			return err
		}
		to, err = send(tx, by, login, store.SentCopy{Kind: CopyOfSheet, Title: sh.Title, Document: sh.Definition})
		return err
	})
	return to, err
}

func send(tx *store.Tx, by Hand, login string, c store.SentCopy) (to string, err error) {
	if openCopy(c).unread() {
		return "", store.ErrNotFound
	}
	i, err := tx.InstructorByLogin(login)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && !i.Barred.IsZero():
		return "", refusal.New("login", "copies.send")
	case err != nil:
		return "", err
	case i.ID == by.ID:
		return "", refusal.New("login", "copies.your-own-write-name")
	}
	waiting, err := tx.Copies(i.ID)
	if err != nil {
		return "", err
	}
	if len(waiting) >= mostCopies {
		return "", refusal.New("login", "copies.copies-waiting-already-ask", "waiting", len(waiting))
	}
	c.Sender, c.Receiver, c.Sent = by.ID, i.ID, by.At
	return i.Name, tx.SendCopy(c)
}

func (c SentCopy) unread() bool { return c.Instrument == nil && c.Sheet == nil }

// Copies lists the copies that an instructor has been sent and has neither kept nor declined, newest first.
func (r *Room) Copies(ctx context.Context, instructor int64) ([]store.SentCopy, error) {
	return r.read(ctx).Copies(instructor)
}

// Copy finds a copy that an instructor has been sent.
func (r *Room) Copy(ctx context.Context, instructor, id int64) (SentCopy, error) {
	c, err := r.read(ctx).Copy(instructor, id)
	return openCopy(c), err
}

// DeclineCopy removes a copy that an instructor has been sent.
func (r *Room) DeclineCopy(ctx context.Context, instructor, id int64) error {
	return r.store.Write(ctx, func(tx *store.Tx) error { return tx.DropCopy(instructor, id) })
}

// KeepCopy keeps a copy among the instructor's own things, and returns its number there. Nothing that the instructor has is
// changed: what has a name that is taken gets a number behind it, and an instrument that is there already is used.
func (r *Room) KeepCopy(ctx context.Context, instructor, id int64) (kept int64, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		row, err := tx.Copy(instructor, id)
		if err != nil {
			return err
		}
		c := openCopy(row)
		switch {
		case c.Instrument != nil:
			var ids []int64
			if ids, err = keepNumbered(tx, instructor, []*instrument.Instrument{c.Instrument}); err == nil {
				kept = ids[0]
			}
		case c.Sheet != nil:
			kept, err = keepSheetCopy(tx, instructor, c)
		default:
			err = store.ErrNotFound
		}
		if err != nil {
			return err
		}
		return tx.DropCopy(instructor, id)
	})
	return kept, err
}

// keepSheetCopy keeps a sheet and those of its instruments that its new owner does not have.
func keepSheetCopy(tx *store.Tx, owner int64, c SentCopy) (int64, error) {
	rack, err := tx.Rack(owner)
	if err != nil {
		return 0, err
	}
	byDocument := map[string]int64{}
	for _, k := range rack {
		byDocument[fingerprint(json.RawMessage(k.Document))] = k.ID
	}
	racked := make([][]int64, len(c.Sheet.Blocks))
	for i, b := range c.Sheet.Blocks {
		racked[i] = make([]int64, len(b.Instruments))
		for j, in := range b.Instruments {
			doc, err := toJSON(in)
			if err != nil {
				return 0, err
			}
			print := fingerprint(json.RawMessage(doc))
			if byDocument[print] == 0 {
				ids, err := keepNumbered(tx, owner, []*instrument.Instrument{in})
				if err != nil {
					return 0, err
				}
				byDocument[print] = ids[0]
			}
			racked[i][j] = byDocument[print]
		}
	}
	says, err := toJSON(racked)
	if err != nil {
		return 0, err
	}
	sheets, err := tx.Sheets(owner)
	if err != nil {
		return 0, err
	}
	taken := map[string]bool{}
	for _, sh := range sheets {
		taken[sh.Title] = true
	}
	return keepSheet(tx, owner, store.Sheet{Title: freeName(c.Title, taken), Definition: c.Document, Racked: says})
}
