package roster

import (
	"context"

	"cavix/core/text"
	"cavix/school/access"
	"cavix/store"
)

// DropClass puts a class of an instructor's into the bin, with its people and all their answers.
func (svc *Service) DropClass(ctx context.Context, by access.Actor, class int64) error {
	return svc.access.InClass(ctx, access.RemoveClass, by.ID, class, func(tx *store.Tx) error {
		c, err := FindClass(ctx, tx, by.ID, class)
		if err != nil {
			return err
		}
		if err := BinClass(ctx, tx, class, by.At); err != nil {
			return err
		}
		return access.LogKeeping(ctx, tx,
			access.Change{Who: by.Name, What: text.New("log.drop-class.what", "name", c.Name), At: by.At})
	})
}

// DropStudent puts a student into the bin, with all answers. The log keeps that it was done, without the name.
func (svc *Service) DropStudent(ctx context.Context, by access.Actor, class, student int64) error {
	return svc.access.InClass(ctx, access.RemoveStudent, by.ID, class, func(tx *store.Tx) error {
		if err := BinStudent(ctx, tx, class, student, by.At); err != nil {
			return err
		}
		return by.Log(ctx, tx, class, text.New("log.drop-student"))
	})
}

// RestoreStudent takes a student out of the Bin and back into the class. It returns ErrNameTaken where somebody there
// has the name by now.
func RestoreStudent(ctx context.Context, tx *store.Tx, _, id int64) error {
	st, err := FindBinnedStudent(ctx, tx, id)
	if err != nil {
		return err
	}
	if err := NameFree(ctx, tx, st.Class, st.ID, st.Name); err != nil {
		return err
	}
	return UnbinStudent(ctx, tx, st)
}
