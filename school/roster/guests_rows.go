package roster

import (
	"context"
	"time"

	"cavix/core/names"
	"cavix/store"
)

// noSign is the hash of a guest, that no passphrase has.
const noSign = "guest"

// insertGuest adds somebody who joins rounds with a handle only; a name that exists in the class is ErrNameTaken.
func insertGuest(ctx context.Context, tx *store.Tx, class int64, name string) (int64, error) {
	id, err := tx.Insert(ctx, store.Named("roster.insertGuest",
		"INSERT INTO students (class, name, folded, hash, created, guest) VALUES (?, ?, ?, ?, ?, 1)"), class, name,
		names.Fold(name), noSign, store.Now())
	return id, store.Instead(err, store.ErrDuplicate, ErrNameTaken)
}

// deleteGuests removes the guests who came before a time, with all that they answered.
func deleteGuests(ctx context.Context, tx *store.Tx, before time.Time) error {
	students.ForgetAll(tx)
	_, err := tx.Exec(ctx, store.Named("roster.deleteGuests", "DELETE FROM students WHERE guest AND created < ?"),
		before.Unix())
	return err
}
