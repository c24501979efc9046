package sitting

import (
	"context"

	"cavix/store"
)

// ClassOf is the class that a sheet was given to.
func ClassOf(ctx context.Context, q store.Queryer, assignment int64) (class int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.ClassOf", "SELECT class FROM assignments WHERE id = ?"), []any{assignment}, &class)
	return class, err
}

// ClassOf is the class that a sheet was given to.
func (svc *Service) ClassOf(ctx context.Context, assignment int64) (class int64, err error) {
	return ClassOf(ctx, svc.store, assignment)
}
