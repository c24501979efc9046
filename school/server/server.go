package server

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// Ready reports whether the database can be read and written just now. It writes nothing.
func (svc *Service) Ready(ctx context.Context) error {
	err := svc.store.Writable(ctx)
	if err == nil {
		_, err = roster.HasInstructors(ctx, svc.store)
	}
	return err
}

// LastCopy returns what the last daily copy came to; "" where it was made.
func (svc *Service) LastCopy(ctx context.Context, keeper int64) (failed string, err error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return "", err
	}
	failed, _, err = store.Noted(ctx, svc.store, store.LastCopy)
	return failed, err
}

// LastCheck returns what the last check of the database found, as a stored text, and when; "" before the first.
func (svc *Service) LastCheck(ctx context.Context, keeper int64) (found string, at time.Time, err error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return "", at, err
	}
	return store.Noted(ctx, svc.store, store.LastCheck)
}

// Schema returns the form that the database has.
func (svc *Service) Schema(ctx context.Context, keeper int64) (int64, error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return 0, err
	}
	return svc.store.Schema(ctx)
}
