package rack

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/store"
)

// ErrChangedMeanwhile is for a change of something that was itself changed since the page that changes it was opened.
var ErrChangedMeanwhile = errors.New("it was changed in another window since this one was opened")

// stampOf names a state of a document: it is another for every other state.
func stampOf(parts ...string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return hex.EncodeToString(sum[:8])
}

// Stamp names the state of an instrument.
func (k Racked) Stamp() string { return stampOf(k.Document) }

// ReplaceInstrument keeps an instrument in place of one of the Rack, if that is still in the state that the stamp
// names; else it returns ErrChangedMeanwhile.
func (svc *Service) ReplaceInstrument(ctx context.Context, owner, id int64, stamp string,
	in *instrument.Instrument) error {
	doc, err := store.JSON(in)
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		now, err := findRacked(ctx, tx, owner, id)
		if err != nil {
			return err
		}
		if stampOf(now.Document) != stamp {
			return ErrChangedMeanwhile
		}
		_, err = keepInstrument(ctx, tx, owner, RackedRow{ID: id, Name: in.Name(), Document: doc})
		return err
	})
}

// KeepAnother keeps an instrument beside those of the Rack, under a name that none of them has: a number is put behind
// it where that is needed.
func (svc *Service) KeepAnother(ctx context.Context, owner int64, in *instrument.Instrument) (id int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		ids, err := keepNumbered(ctx, tx, owner, []*instrument.Instrument{in})
		if err == nil {
			id = ids[0]
		}
		return err
	})
	return id, err
}

// keepNumbered keeps instruments under names that none of the Rack has.
func keepNumbered(ctx context.Context, tx *store.Tx, owner int64, list []*instrument.Instrument) (ids []int64,
	err error) {
	rack, err := listRack(ctx, tx, owner)
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for _, k := range rack {
		taken[k.Name] = true
	}
	for _, in := range list {
		spec := in.Spec()
		spec.Name = freeName(spec.Name, taken)
		taken[spec.Name] = true
		named, err := instrument.New(spec)
		if err != nil {
			return nil, err
		}
		doc, err := store.JSON(named)
		if err != nil {
			return nil, err
		}
		id, err := keepInstrument(ctx, tx, owner, RackedRow{Name: spec.Name, Document: doc})
		if err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, nil
}

// freeName is a name, or the name with the first number behind it that is not taken.
func freeName(name string, taken map[string]bool) string {
	if !taken[name] {
		return name
	}
	for n := 2; ; n++ {
		number := fmt.Sprintf(" %d", n)
		short := name
		for utf8.RuneCountInString(short)+len(number) > instrument.MaxName {
			_, size := utf8.DecodeLastRuneInString(short)
			short = short[:len(short)-size]
		}
		if !taken[short+number] {
			return short + number
		}
	}
}

// MostAlike is the largest number of similar instruments that can be made at once.
const MostAlike = 40

// MakeAlike adds so many instruments to the Rack that are like one of it. With zeros each has a zero error of its own,
// of either sign and unlike those of the others as far as the scale has enough of them.
func (svc *Service) MakeAlike(ctx context.Context, owner, id int64, count int, zeros bool) error {
	count = min(max(count, 1), MostAlike)
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		k, err := findRacked(ctx, tx, owner, id)
		if err != nil {
			return err
		}
		model := OpenRacked(k)
		if model.Err != nil {
			return model.Err
		}
		list := slices.Repeat([]*instrument.Instrument{model.Instrument}, count)
		if zeros {
			if list, err = withOwnZeros(model.Instrument, uint64(id), count); err != nil {
				return err
			}
		}
		_, err = keepNumbered(ctx, tx, owner, list)
		return err
	})
}

// withOwnZeros makes copies of an instrument with other zero errors than it has.
func withOwnZeros(in *instrument.Instrument, seed uint64, count int) (out []*instrument.Instrument, err error) {
	const most = 12 // least counts; a larger zero error is mended, not carried
	reach := max(1, min((in.Lines()*in.FinerLines()-1)/2, most))
	if !in.HasFine() {
		reach = 3
	}
	has, _ := in.Spec().ZeroError.Quo(in.LeastCount()).Int64()
	var steps []int
	for k := -reach; k <= reach; k++ {
		if k != 0 && int64(k) != has {
			steps = append(steps, k)
		}
	}
	draws := rand.New(rand.NewPCG(seed, 1)) //nolint:gosec // values for exercises
	for n := 0; len(out) < count; n++ {
		if n%len(steps) == 0 {
			draws.Shuffle(len(steps), func(i, j int) { steps[i], steps[j] = steps[j], steps[i] })
		}
		made, err := in.WithZeroError(in.LeastCount().MulInt(steps[n%len(steps)]))
		if err != nil {
			return nil, err
		}
		out = append(out, made)
	}
	return out, nil
}

// EarlierInstrument is an earlier state of an instrument of the Rack.
type EarlierInstrument struct {
	Racked
	Replaced time.Time
}

// EarlierInstruments lists the earlier states of one of an instructor's instruments, the latest first.
func (svc *Service) EarlierInstruments(ctx context.Context, owner, id int64) (out []EarlierInstrument, err error) {
	list, err := listEarlierInstruments(ctx, svc.store, owner, id)
	for _, e := range list {
		out = append(out, EarlierInstrument{OpenRacked(RackedRow{ID: e.ID, Name: e.Name, Document: e.Document,
			Changed: e.Kept}), e.Replaced})
	}
	return out, err
}

// RestoreInstrument brings an earlier state of an instrument back. The state that it has now becomes an earlier one.
func (svc *Service) RestoreInstrument(ctx context.Context, owner, id, state int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		list, err := listEarlierInstruments(ctx, tx, owner, id)
		if err != nil {
			return err
		}
		for _, e := range list {
			if e.ID == state {
				if err := json.Unmarshal([]byte(e.Document), new(instrument.Instrument)); err != nil {
					return fmt.Errorf("earlier state %d: %w", e.ID, err)
				}
				_, err := saveInstrument(ctx, tx, owner, RackedRow{ID: id, Name: e.Name, Document: e.Document})
				return err
			}
		}
		return store.ErrNotFound
	})
}

// ReplaceSheet keeps a sheet in place of the one with its ID, if that is still in the state that the stamp names; else
// it returns ErrChangedMeanwhile.
func (svc *Service) ReplaceSheet(ctx context.Context, owner int64, sh Sheet, stamp string) error {
	row, err := sheetRow(sh)
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		now, err := FindSheet(ctx, tx, owner, sh.ID)
		if err != nil {
			return err
		}
		if stampOf(now.Title, now.Definition) != stamp {
			return ErrChangedMeanwhile
		}
		_, err = keepSheet(ctx, tx, owner, row)
		return err
	})
}

// sheetRow is a sheet that can be dealt, as the store keeps it.
func sheetRow(sh Sheet) (row SheetRow, err error) {
	if err := sh.Definition.Check(kinds.All); err != nil {
		return row, err
	}
	row = SheetRow{ID: sh.ID, Title: sh.Title}
	if row.Definition, err = store.JSON(sh.Definition); err != nil {
		return row, err
	}
	row.Racked, err = store.JSON(sh.Racked)
	return row, err
}

// EarlierSheet is an earlier state of a sheet.
type EarlierSheet struct {
	Sheet
	Replaced time.Time
}

// EarlierSheets lists the earlier states of one of an instructor's sheets, the latest first.
func (svc *Service) EarlierSheets(ctx context.Context, owner, id int64) (out []EarlierSheet, err error) {
	list, err := listEarlierSheets(ctx, svc.store, owner, id)
	for _, e := range list {
		out = append(out, EarlierSheet{openSheet(SheetRow{ID: e.ID, Title: e.Name, Definition: e.Document,
			Racked: e.Racked, Changed: e.Kept}), e.Replaced})
	}
	return out, err
}

// RestoreSheet brings an earlier state of a sheet back. The state that it has now becomes an earlier one.
func (svc *Service) RestoreSheet(ctx context.Context, owner, id, state int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		list, err := listEarlierSheets(ctx, tx, owner, id)
		if err != nil {
			return err
		}
		for _, e := range list {
			if e.ID == state {
				row := SheetRow{ID: id, Title: e.Name, Definition: e.Document, Racked: e.Racked}
				if sh := openSheet(row); sh.Err != nil {
					return fmt.Errorf("earlier state %d: %w", e.ID, sh.Err)
				}
				_, err := saveSheet(ctx, tx, owner, row)
				return err
			}
		}
		return store.ErrNotFound
	})
}
