package rack

import (
	"context"
	"encoding/json"
	"errors"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// mostCopies is the largest number of copies that wait for an instructor.
const mostCopies = 50

// Kinds of copies.
const (
	CopyOfInstrument = "instrument"
	CopyOfSheet      = "sheet"
)

// SentCopy is a copy of an instrument or a sheet that a colleague has sent. Just one of Instrument and Sheet is set, or
// none where this program cannot read the copy.
type SentCopy struct {
	SentCopyRow
	Instrument *instrument.Instrument
	Sheet      *exercise.Sheet
}

func openCopy(c SentCopyRow) SentCopy {
	out := SentCopy{SentCopyRow: c}
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

// SendInstrument sends a copy of an instrument to the colleague who signs in with a name, and returns the colleague's
// name. It returns a refusal.Refusal of the field login if there is no such colleague or too many copies wait there.
func (svc *Service) SendInstrument(ctx context.Context, by access.Actor, id int64, login string) (to string,
	err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		k, err := findRacked(ctx, tx, by.ID, id)
		if err != nil {
			return err
		}
		to, err = send(ctx, tx, by, login, SentCopyRow{Kind: CopyOfInstrument, Title: k.Name, Document: k.Document})
		return err
	})
	return to, err
}

// SendSheet sends a copy of a sheet, with its instruments, as SendInstrument does.
func (svc *Service) SendSheet(ctx context.Context, by access.Actor, id int64, login string) (to string, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		sh, err := FindSheet(ctx, tx, by.ID, id)
		if err != nil {
			return err
		}
		to, err = send(ctx, tx, by, login, SentCopyRow{Kind: CopyOfSheet, Title: sh.Title, Document: sh.Definition})
		return err
	})
	return to, err
}

func send(ctx context.Context, tx *store.Tx, by access.Actor, login string, c SentCopyRow) (to string, err error) {
	if openCopy(c).unread() {
		return "", store.ErrNotFound
	}
	i, err := roster.FindInstructorByLogin(ctx, tx, login)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && !i.Barred.IsZero():
		return "", refusal.New("login", "copies.send")
	case err != nil:
		return "", err
	case i.ID == by.ID:
		return "", refusal.New("login", "copies.your-own-write-name")
	}
	waiting, err := listCopies(ctx, tx, i.ID)
	if err != nil {
		return "", err
	}
	if len(waiting) >= mostCopies {
		return "", refusal.New("login", "copies.copies-waiting-already-ask", "waiting", len(waiting))
	}
	c.Sender, c.Receiver, c.Sent = by.ID, i.ID, by.At
	return i.Name, sendCopy(ctx, tx, c)
}

func (c SentCopy) unread() bool { return c.Instrument == nil && c.Sheet == nil }

// Copies lists the copies that an instructor has been sent and has neither kept nor declined, newest first.
func (svc *Service) Copies(ctx context.Context, instructor int64) ([]SentCopyRow, error) {
	return listCopies(ctx, svc.store, instructor)
}

// Copy finds a copy that an instructor has been sent.
func (svc *Service) Copy(ctx context.Context, instructor, id int64) (SentCopy, error) {
	c, err := findCopy(ctx, svc.store, instructor, id)
	return openCopy(c), err
}

// DeclineCopy removes a copy that an instructor has been sent.
func (svc *Service) DeclineCopy(ctx context.Context, instructor, id int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return deleteCopy(ctx, tx, instructor, id) })
}

// KeepCopy keeps a copy among the instructor's own things, and returns its number there. Nothing that the instructor
// has is changed: what has a name that is taken gets a number behind it, and an instrument that is there already is
// used.
func (svc *Service) KeepCopy(ctx context.Context, instructor, id int64) (kept int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		row, err := findCopy(ctx, tx, instructor, id)
		if err != nil {
			return err
		}
		c := openCopy(row)
		switch {
		case c.Instrument != nil:
			var ids []int64
			if ids, err = keepNumbered(ctx, tx, instructor, []*instrument.Instrument{c.Instrument}); err == nil {
				kept = ids[0]
			}
		case c.Sheet != nil:
			kept, err = keepSheetCopy(ctx, tx, instructor, c)
		default:
			err = store.ErrNotFound
		}
		if err != nil {
			return err
		}
		return deleteCopy(ctx, tx, instructor, id)
	})
	return kept, err
}

// keepSheetCopy keeps a sheet and those of its instruments that its new owner does not have.
func keepSheetCopy(ctx context.Context, tx *store.Tx, owner int64, c SentCopy) (int64, error) {
	rack, err := listRack(ctx, tx, owner)
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
			doc, err := store.JSON(in)
			if err != nil {
				return 0, err
			}
			print := fingerprint(json.RawMessage(doc))
			if byDocument[print] == 0 {
				ids, err := keepNumbered(ctx, tx, owner, []*instrument.Instrument{in})
				if err != nil {
					return 0, err
				}
				byDocument[print] = ids[0]
			}
			racked[i][j] = byDocument[print]
		}
	}
	says, err := store.JSON(racked)
	if err != nil {
		return 0, err
	}
	sheets, err := listSheets(ctx, tx, owner)
	if err != nil {
		return 0, err
	}
	taken := map[string]bool{}
	for _, sh := range sheets {
		taken[sh.Title] = true
	}
	return keepSheet(ctx, tx, owner, SheetRow{Title: freeName(c.Title, taken), Definition: c.Document, Racked: says})
}
