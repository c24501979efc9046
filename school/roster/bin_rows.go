package roster

import (
	"context"
	"time"

	"cavix/core/names"
	"cavix/store"
)

// BinClass puts a class into the bin, with all that is kept of it; a zero time takes it out again.
func BinClass(ctx context.Context, tx *store.Tx, id int64, at time.Time) error {
	students.ForgetAll(tx)
	return tx.Change(ctx, store.Named("roster.BinClass",
		"UPDATE classes SET binned = ? WHERE id = ? AND (binned IS NULL) = ?"), store.OrNull(at), id, !at.IsZero())
}

// BinStudent puts a student of a class into the bin: they are not there any more, all sessions are over, and the name
// is free for somebody else.
func BinStudent(ctx context.Context, tx *store.Tx, class, id int64, at time.Time) error {
	students.Forget(tx, id)
	return tx.Change(ctx, store.Named("roster.BinStudent",
		`UPDATE students SET binned = ?, gone = coalesce(gone, ?), entry = entry + 1, folded = folded || char(10) || id
		WHERE id = ? AND class = ? AND NOT guest AND binned IS NULL`), at.Unix(), at.Unix(), id, class)
}

// FindBinnedStudent finds a student in the bin.
func FindBinnedStudent(ctx context.Context, q store.Queryer, id int64) (Student, error) {
	return store.Only(store.All(ctx, q, ScanStudent, store.Named("roster.FindBinnedStudent",
		StudentColumns+"WHERE s.id = ? AND s.binned IS NOT NULL"), id))
}

// UnbinStudent takes a student out of the bin and back into the class; a name that has come to be there is
// ErrNameTaken.
func UnbinStudent(ctx context.Context, tx *store.Tx, s Student) error {
	students.Forget(tx, s.ID)
	err := tx.Change(ctx, store.Named("roster.UnbinStudent",
		"UPDATE students SET binned = NULL, gone = NULL, waits = 0, folded = ? WHERE id = ? AND binned IS NOT NULL"),
		names.Fold(s.Name), s.ID)
	return store.Instead(err, store.ErrDuplicate, ErrNameTaken)
}

// RestoreClass takes a class of an instructor's out of the Bin.
func RestoreClass(ctx context.Context, tx *store.Tx, _, id int64) error {
	return BinClass(ctx, tx, id, time.Time{})
}

// RemoveClass deletes a class that lies in the Bin for good, with all that belongs to it.
func RemoveClass(ctx context.Context, tx *store.Tx, id int64) error {
	students.ForgetAll(tx)
	return tx.Change(ctx, store.Named("roster.RemoveClass", "DELETE FROM classes WHERE binned IS NOT NULL AND id = ?"),
		id)
}

// RemoveClasses deletes the classes for good that came into the Bin before a time.
func RemoveClasses(ctx context.Context, tx *store.Tx, before time.Time) error {
	students.ForgetAll(tx)
	_, err := tx.Exec(ctx, store.Named("roster.RemoveClasses", "DELETE FROM classes WHERE binned < ?"), before.Unix())
	return err
}

// RemoveStudent deletes a student that lies in the Bin for good, with all that belongs to it.
func RemoveStudent(ctx context.Context, tx *store.Tx, id int64) error {
	students.ForgetAll(tx)
	return tx.Change(ctx, store.Named("roster.RemoveStudent",
		"DELETE FROM students WHERE binned IS NOT NULL AND id = ?"), id)
}

// RemoveStudents deletes the students for good that came into the Bin before a time.
func RemoveStudents(ctx context.Context, tx *store.Tx, before time.Time) error {
	students.ForgetAll(tx)
	_, err := tx.Exec(ctx, store.Named("roster.RemoveStudents", "DELETE FROM students WHERE binned < ?"), before.Unix())
	return err
}
