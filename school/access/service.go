package access

import (
	"context"

	"cavix/store"
)

// Service checks rights.
type Service struct{ store *store.DB }

// New returns the rights of a database.
func New(db *store.DB) *Service { return &Service{db} }

// InClass writes in a class that an instructor teaches, where their role there is enough; else it is ErrForbidden.
func (svc *Service) InClass(ctx context.Context, instructor, class int64, needs Role, work func(*store.Tx) error) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		role, err := RoleIn(ctx, tx, instructor, class)
		if err != nil {
			return err
		}
		if !role.May(needs) {
			return ErrForbidden
		}
		return work(tx)
	})
}
