package classroom

import (
	"context"
	"time"

	"cavix/core/text"
	"cavix/store"
)

// BinKeeps is how long something lies in the bin before it is removed for good.
const BinKeeps = 30 * 24 * time.Hour

// mostBinned is how much of a bin is listed.
const mostBinned = 200

// Bin lists what an instructor has removed and can bring back, the latest first.
func (r *Room) Bin(ctx context.Context, instructor int64) ([]store.Binned, error) {
	return r.read(ctx).Bin(instructor, mostBinned)
}

// DropInstrument puts an instrument of an instructor's into the bin. Sheets keep their own copy.
func (r *Room) DropInstrument(ctx context.Context, by Hand, id int64) error {
	return r.binned(ctx, by, text.New("log.drop-instrument"), func(tx *store.Tx) error { return tx.BinInstrument(by.ID, id, by.At) })
}

// DropSheet puts a sheet of an instructor's into the bin. Classes that were given it keep it, with all answers.
func (r *Room) DropSheet(ctx context.Context, by Hand, id int64) error {
	return r.binned(ctx, by, text.New("log.drop-sheet"), func(tx *store.Tx) error { return tx.BinSheet(by.ID, id, by.At) })
}

// DropClass puts a class of an instructor's into the bin, with its people and all their answers.
func (r *Room) DropClass(ctx context.Context, by Hand, class int64) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		c, err := tx.Class(by.ID, class)
		if err != nil {
			return err
		}
		if err := tx.BinClass(by.ID, class, by.At); err != nil {
			return err
		}
		return tx.LogKeeping(store.Change{Who: by.Name, What: text.New("log.drop-class.what", "name", c.Name), At: by.At})
	})
}

// DropStudent puts a student into the bin, with all answers. The log keeps that it was done, without the name.
func (r *Room) DropStudent(ctx context.Context, by Hand, class, student int64) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		if err := tx.BinStudent(class, student, by.At); err != nil {
			return err
		}
		return by.log(tx, class, text.New("log.drop-student"))
	})
}

// DropSurvey puts a study of a class into the bin, with all its readings. Who gave it may do that, and who leads the class;
// anybody else gets ErrMayNot.
func (r *Room) DropSurvey(ctx context.Context, by Hand, id int64) error {
	return r.onSurvey(ctx, by, id, func(tx *store.Tx, s store.Survey) error {
		role, err := tx.RoleIn(by.ID, s.Class)
		if err != nil {
			return err
		}
		if s.Owner != by.ID && !role.May(store.Leads) {
			return ErrMayNot
		}
		if err := tx.BinSurvey(id, by.At); err != nil {
			return err
		}
		return by.log(tx, s.Class, text.New("log.drop-survey", "title", s.Title))
	})
}

// DropComparison puts one of an instructor's comparisons into the bin, with all that was sent to it.
func (r *Room) DropComparison(ctx context.Context, by Hand, id int64) error {
	return r.binned(ctx, by, text.New("log.drop-comparison"), func(tx *store.Tx) error { return tx.BinComparison(by.ID, id, by.At) })
}

func (r *Room) binned(ctx context.Context, by Hand, said text.Text, work func(*store.Tx) error) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if err := work(tx); err != nil {
			return err
		}
		return tx.LogKeeping(store.Change{Who: by.Name, What: said, At: by.At})
	})
}

// BringBack takes something of an instructor's out of the bin, to where it was. A student whose name somebody in the class
// has by now is store.ErrTaken.
func (r *Room) BringBack(ctx context.Context, by Hand, sort store.Sort, id int64) error {
	return r.fromBin(ctx, by, sort, id, text.New("log.bring-back"), func(tx *store.Tx) error {
		switch sort {
		case store.BinInstrument:
			return tx.BinInstrument(by.ID, id, time.Time{})
		case store.BinSheet:
			return tx.BinSheet(by.ID, id, time.Time{})
		case store.BinClass:
			return tx.BinClass(by.ID, id, time.Time{})
		case store.BinStudy:
			return tx.BinSurvey(id, time.Time{})
		case store.BinComparison:
			return tx.BinComparison(by.ID, id, time.Time{})
		}
		st, err := tx.BinnedStudent(id)
		if err != nil {
			return err
		}
		if err := nameFree(&tx.Reader, st.Class, st.ID, st.Name); err != nil {
			return err
		}
		return tx.UnbinStudent(st)
	})
}

// Remove removes something of an instructor's that lies in the bin for good, with all that is kept of it.
func (r *Room) Remove(ctx context.Context, by Hand, sort store.Sort, id int64) error {
	return r.fromBin(ctx, by, sort, id, text.New("log.remove"), func(tx *store.Tx) error { return tx.Remove(sort, id) })
}

// fromBin does something with what lies in an instructor's bin; what does not is store.ErrNotFound.
func (r *Room) fromBin(ctx context.Context, by Hand, sort store.Sort, id int64, said text.Text, work func(*store.Tx) error) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		list, err := tx.Bin(by.ID, mostBinned)
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
			if sort == store.BinStudent {
				what = text.New("log.of-class", "class", b.Of)
			}
			return tx.LogKeeping(store.Change{Who: by.Name, What: text.New("log.bin", "sort", text.New("sort."+string(sort)), "what", what, "said", said), At: by.At})
		}
		return store.ErrNotFound
	})
}

// EmptyBins removes for good what has lain in a bin for long enough.
func (r *Room) EmptyBins(ctx context.Context, at time.Time) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		return tx.EmptyBins(at.Add(-BinKeeps))
	})
}
