package merging

import (
	"context"

	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// Merge makes one of two records of a student: all work of the other record moves to the one that stays, with its
// passphrase where that one has none. Unmerge takes it back.
func (svc *Service) Merge(ctx context.Context, by access.Actor, class, stays, other int64) error {
	return svc.roster.ChangeInClass(ctx, access.MergeStudents, by, class, stays,
		func(tx *store.Tx, st roster.Student) (text.Text, error) {
			gone, err := roster.FindInClass(ctx, tx, class, other)
			if err != nil {
				return text.Text{}, err
			}
			if other == stays {
				return text.Text{}, refusal.New("other", "log.merge")
			}
			moved, err := moveWork(ctx, tx, other, stays)
			if err != nil {
				return text.Text{}, err
			}
			if st.Hash == "" && gone.Hash != "" {
				moved.Hash = gone.Hash
				if err := roster.UpdateStudentPassphrase(ctx, tx, stays, gone.Hash); err != nil {
					return text.Text{}, err
				}
			}
			if st.Number == "" && gone.Number != "" {
				moved.Number, st.Number = gone.Number, gone.Number
				if err := roster.UpdateStudent(ctx, tx, st); err != nil {
					return text.Text{}, err
				}
			}
			if err := roster.BinStudent(ctx, tx, class, other, by.At); err != nil {
				return text.Text{}, err
			}
			return text.New("log.merged-record", "name", gone.Name), noteMerge(ctx, tx, other, stays, moved, by.At)
		})
}

// Unmerge parts two records of a student again: what the other one brought along goes back to it.
func (svc *Service) Unmerge(ctx context.Context, by access.Actor, class, stays, other int64) error {
	return svc.roster.ChangeInClass(ctx, access.MergeStudents, by, class, stays,
		func(tx *store.Tx, st roster.Student) (text.Text, error) {
			list, err := listMerges(ctx, tx, stays)
			if err != nil {
				return text.Text{}, err
			}
			for _, m := range list {
				if m.Student == other {
					return text.New("log.unmerge", "name", m.Name), unmerge(ctx, tx, st, m)
				}
			}
			return text.Text{}, store.ErrNotFound
		})
}

func unmerge(ctx context.Context, tx *store.Tx, st roster.Student, m Merge) error {
	gone, err := roster.FindBinnedStudent(ctx, tx, m.Student)
	if err != nil {
		return err
	}
	if err := roster.NameFree(ctx, tx, gone.Class, gone.ID, gone.Name); err != nil {
		return err
	}
	if err := roster.UnbinStudent(ctx, tx, gone); err != nil {
		return err
	}
	if err := moveBack(ctx, tx, m.Student, m.Into, m.Moved); err != nil {
		return err
	}
	if m.Moved.Hash != "" && st.Hash == m.Moved.Hash {
		if err := roster.UpdateStudentPassphrase(ctx, tx, m.Into, ""); err != nil {
			return err
		}
	}
	if m.Moved.Number != "" && st.Number == m.Moved.Number {
		st.Number = ""
		if err := roster.UpdateStudent(ctx, tx, st); err != nil {
			return err
		}
	}
	return forgetMerge(ctx, tx, m.Student)
}

// Merges lists the records that were merged with a student's of a class.
func (svc *Service) Merges(ctx context.Context, instructor, class, student int64) ([]Merge, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	rd := svc.store
	if _, err := roster.FindInClass(ctx, rd, class, student); err != nil {
		return nil, err
	}
	return listMerges(ctx, rd, student)
}
