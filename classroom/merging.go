package classroom

import (
	"context"
	"encoding/json"

	"cavix/core/names"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/store"
)

// Merge makes one of two records of a student: all work of the other record moves to the one that stays, with its passphrase where
// that one has none. Unmerge takes it back.
func (r *Room) Merge(ctx context.Context, by Hand, class, stays, other int64) error {
	return r.withPupil(ctx, by, class, stays, func(tx *store.Tx, st store.Student) (text.Text, error) {
		gone, err := tx.Pupil(class, other)
		if err != nil {
			return text.Text{}, err
		}
		if other == stays {
			return text.Text{}, refusal.New("other", "log.merge")
		}
		moved, err := tx.MoveWork(other, stays)
		if err != nil {
			return text.Text{}, err
		}
		if st.Hash == "" && gone.Hash != "" {
			moved.Hash = gone.Hash
			if err := tx.SetStudentPassphrase(stays, gone.Hash); err != nil {
				return text.Text{}, err
			}
		}
		if st.Number == "" && gone.Number != "" {
			moved.Number, st.Number = gone.Number, gone.Number
			if err := tx.SetPupil(st); err != nil {
				return text.Text{}, err
			}
		}
		if err := tx.BinStudent(class, other, by.At); err != nil {
			return text.Text{}, err
		}
		return text.New("log.merged-record", "name", gone.Name), tx.NoteMerge(other, stays, moved, by.At)
	})
}

// Unmerge parts two records of a student again: what the other one brought along goes back to it.
func (r *Room) Unmerge(ctx context.Context, by Hand, class, stays, other int64) error {
	return r.withPupil(ctx, by, class, stays, func(tx *store.Tx, st store.Student) (text.Text, error) {
		list, err := tx.Merges(stays)
		if err != nil {
			return text.Text{}, err
		}
		for _, m := range list {
			if m.Student == other {
				return text.New("log.unmerge", "name", m.Name), unmerge(tx, st, m)
			}
		}
		return text.Text{}, store.ErrNotFound
	})
}

func unmerge(tx *store.Tx, st store.Student, m store.Merge) error {
	gone, err := tx.BinnedStudent(m.Student)
	if err != nil {
		return err
	}
	if err := nameFree(&tx.Reader, gone.Class, gone.ID, gone.Name); err != nil {
		return err
	}
	if err := tx.UnbinStudent(gone); err != nil {
		return err
	}
	if err := tx.MoveBack(m.Student, m.Into, m.Moved); err != nil {
		return err
	}
	if m.Moved.Hash != "" && st.Hash == m.Moved.Hash {
		if err := tx.SetStudentPassphrase(m.Into, ""); err != nil {
			return err
		}
	}
	if m.Moved.Number != "" && st.Number == m.Moved.Number {
		st.Number = ""
		if err := tx.SetPupil(st); err != nil {
			return err
		}
	}
	return tx.ForgetMerge(m.Student)
}

// Merges lists the records that were merged with a student's of a class.
func (r *Room) Merges(ctx context.Context, class, student int64) ([]store.Merge, error) {
	rd := r.read(ctx)
	if _, err := rd.Pupil(class, student); err != nil {
		return nil, err
	}
	return rd.Merges(student)
}

// NearName returns the student of a class whose name is near to one that nobody there has; not ok where there is none.
func (r *Room) NearName(ctx context.Context, class int64, name string) (st store.Student, ok bool, err error) {
	rd := r.read(ctx)
	list, err := rd.Namesakes(class, 0)
	for _, other := range list {
		if !names.Near(name, other) {
			continue
		}
		if st, err = rd.StudentByName(class, other); err == nil && !st.Guest && st.Here() {
			return st, true, nil
		}
	}
	return store.Student{}, false, err
}

// ListColumns is what each column of the list was that a class imported last, by its head.
func (r *Room) ListColumns(ctx context.Context, instructor, class int64) (map[string]string, error) {
	rd := r.read(ctx)
	if _, err := rd.RoleIn(instructor, class); err != nil {
		return nil, err
	}
	says, err := rd.ListColumns(class)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	return out, json.Unmarshal([]byte(says), &out)
}
