package roster

import (
	"context"
	"time"

	"cavix/store"
)

// JoinAsGuest lets somebody into the rounds of a class with a handle only, where the class allows that;
// store.ErrNotFound where it does not, ErrNameTaken for a name that is there.
func (svc *Service) JoinAsGuest(ctx context.Context, code, name string, at time.Time) (id int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		c, err := findClassByCode(ctx, tx, code)
		if err != nil {
			return err
		}
		if !c.Guests {
			return store.ErrNotFound
		}
		if _, err := mayJoin(ctx, tx, c.ID, true, at); err != nil {
			return err
		}
		if err := NameFree(ctx, tx, c.ID, 0, name); err != nil {
			return err
		}
		id, err = insertGuest(ctx, tx, c.ID, name)
		return err
	})
	return id, err
}

// guestsStay is the time after which a guest is removed: longer than any lesson.
const guestsStay = 12 * time.Hour

// DropGuests removes guests whose lesson is over.
func (svc *Service) DropGuests(ctx context.Context, at time.Time) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return deleteGuests(ctx, tx, at.Add(-guestsStay)) })
}
