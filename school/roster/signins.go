package roster

import (
	"context"

	"cavix/school/access"
)

// SignIns lists the latest sign-ins of a role, or of all where it is "", the latest first: skip are passed over.
func (svc *Service) SignIns(ctx context.Context, keeper int64, role string, skip, most int) ([]SignIn, error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return nil, err
	}
	return listSignIns(ctx, svc.store, role, skip, most)
}
