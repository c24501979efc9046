package bin

import (
	"context"
	"time"

	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/studies"
	"cavix/store"
)

// Keeps is the time that something stays in the bin before it is removed for good.
const Keeps = 30 * 24 * time.Hour

// mostBinned is the largest number of listed entries of a bin.
const mostBinned = 200

// Bin lists what an instructor has removed and can bring back, the latest first.
func (svc *Service) Bin(ctx context.Context, instructor int64) ([]Binned, error) {
	return listBin(ctx, svc.store, instructor, mostBinned)
}

// Restore takes something of an instructor's out of the bin, to where it was. A student whose name somebody in the
// class has by now is roster.ErrNameTaken.
func (svc *Service) Restore(ctx context.Context, by access.Actor, sort Sort, id int64) error {
	return svc.fromBin(ctx, by, sort, id, text.New("log.bring-back"), func(tx *store.Tx) error {
		return shelves[sort].restore(ctx, tx, by.ID, id)
	})
}

// Remove removes something of an instructor's that lies in the bin for good, with all that is kept of it.
func (svc *Service) Remove(ctx context.Context, by access.Actor, sort Sort, id int64) error {
	return svc.fromBin(ctx, by, sort, id, text.New("log.remove"), func(tx *store.Tx) error {
		return shelves[sort].remove(ctx, tx, id)
	})
}

// fromBin does something with what lies in an instructor's bin; what does not is store.ErrNotFound.
func (svc *Service) fromBin(ctx context.Context, by access.Actor, sort Sort, id int64, said text.Text,
	work func(*store.Tx) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		list, err := listBin(ctx, tx, by.ID, mostBinned)
		if err != nil {
			return err
		}
		for _, b := range list {
			if b.Sort != sort || b.ID != id {
				continue
			}
			if err := work(tx); err != nil {
				return err
			}
			what := text.Typed(b.Name)
			if sort == Student {
				what = text.New("log.of-class", "class", b.Of)
			}
			return access.LogKeeping(ctx, tx,
				access.Change{Who: by.Name, What: text.New("log.bin", "sort", text.New("sort."+string(sort)), "what",
					what, "said", said), At: by.At})
		}
		return store.ErrNotFound
	})
}

// EmptyBins removes for good what has lain in a bin for long enough.
func (svc *Service) EmptyBins(ctx context.Context, at time.Time) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		for _, s := range shelves {
			if err := s.empty(ctx, tx, at.Add(-Keeps)); err != nil {
				return err
			}
		}
		return nil
	})
}

// shelf restores and deletes one sort of thing in the bin.
type shelf struct {
	restore func(ctx context.Context, tx *store.Tx, instructor, id int64) error
	remove  func(ctx context.Context, tx *store.Tx, id int64) error         // for good, with all that belongs to it
	empty   func(ctx context.Context, tx *store.Tx, before time.Time) error // of what came before a time
}

var shelves = map[Sort]shelf{
	Instrument: {rack.RestoreBinnedInstrument, rack.RemoveInstrument, rack.RemoveInstruments},
	Sheet:      {rack.RestoreBinnedSheet, rack.RemoveSheet, rack.RemoveSheets},
	Class:      {roster.RestoreClass, roster.RemoveClass, roster.RemoveClasses},
	Student:    {roster.RestoreStudent, roster.RemoveStudent, roster.RemoveStudents},
	Study:      {studies.RestoreStudy, studies.RemoveStudy, studies.RemoveStudies},
	Comparison: {studies.RestoreComparison, studies.RemoveComparison, studies.RemoveComparisons},
}
