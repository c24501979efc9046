package access

import (
	"context"

	"cavix/store"
)

// Service checks rights inside the transaction that they are needed for.
type Service struct{ store *store.DB }

// New returns the rights of a database.
func New(db *store.DB) *Service { return &Service{db} }

// InClass writes in a class where an instructor has a right.
func (svc *Service) InClass(ctx context.Context, right Right, instructor, class int64,
	work func(*store.Tx) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := right.InClass(ctx, tx, instructor, class); err != nil {
			return err
		}
		return work(tx)
	})
}
