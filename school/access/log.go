package access

import (
	"context"
)

// Log lists what was changed anywhere, the latest first: by whom, what and when. So many are passed over, and up to
// most are listed.
func (svc *Service) Log(ctx context.Context, keeper int64, skip, most int) ([]Logged, error) {
	if err := KeepsServer(ctx, svc.store, keeper); err != nil {
		return nil, err
	}
	return listLog(ctx, svc.store, skip, most)
}

// Changes lists who changed marks of an instructor's given sheet, the latest first.
func (svc *Service) Changes(ctx context.Context, owner, assignment int64) ([]Change, error) {
	if err := ViewClass.OnSheet(ctx, svc.store, owner, assignment); err != nil {
		return nil, err
	}
	return listChanges(ctx, svc.store, owner, assignment)
}

// RoleIn returns the role of an instructor in a class, or ErrNotFound if they do not teach it.
func (svc *Service) RoleIn(ctx context.Context, instructor, class int64) (role Role, err error) {
	return RoleIn(ctx, svc.store, instructor, class)
}

// PeopleLog lists what was done with the people of a class, the latest first, up to most.
func (svc *Service) PeopleLog(ctx context.Context, instructor, class int64, most int) ([]Change, error) {
	if err := ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listPeopleLog(ctx, svc.store, class, most)
}
