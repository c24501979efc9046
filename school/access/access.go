package access

import (
	"context"
	"errors"
	"time"

	"cavix/core/text"
	"cavix/store"
)

// Taught holds for a class c that the instructor who asks leads, or teaches along in, and TaughtSheet for a sheet a of
// such a class.
const (
	Taught      = "c.id IN (SELECT class FROM teaching WHERE instructor = ?)"
	TaughtSheet = "a.class IN (SELECT class FROM teaching WHERE instructor = ?)"
)

// Logging runs work and records it in the audit log of the server, in one transaction.
func (svc *Service) Logging(ctx context.Context, by Actor, said text.Text, work func(*store.Tx) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := work(tx); err != nil {
			return err
		}
		return LogKeeping(ctx, tx, Change{Who: by.Name, What: said, At: by.At})
	})
}

// ErrForbidden is for what an instructor's role in a class does not allow.
var ErrForbidden = errors.New("this role may not do that")

// Actor is an instructor who does something with the people of a class, and when: what is done is logged under the
// name.
type Actor struct {
	ID   int64
	Name string
	At   time.Time
}

// Log records what an actor did in the audit log of a class.
func (h Actor) Log(ctx context.Context, tx *store.Tx, class int64, what text.Text) error {
	return logPeople(ctx, tx, class, Change{Who: h.Name, What: what, At: h.At})
}
