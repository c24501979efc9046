package roster

import (
	"context"
	"errors"
	"time"

	"cavix/store"
)

// Sessions keeps signed-in sessions for the session manager.
type Sessions struct{ *store.DB }

// Sessions returns where the session manager keeps its sessions.
func (svc *Service) Sessions() Sessions { return Sessions{svc.store} }

// FindCtx returns a session that has not expired.
func (s Sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	found, err := sessions.Get(s, token, func() (kept session, err error) {
		err = store.One(ctx, s, store.Named("roster.FindCtx", "SELECT data, expiry FROM sessions WHERE token = ?"),
			[]any{token}, &kept.data, &kept.expiry)
		if errors.Is(err, store.ErrNotFound) {
			err = nil
		}
		return kept, err
	})
	if err != nil || found.expiry <= store.Now() {
		return nil, false, err
	}
	return found.data, true, nil
}

// sessions remembers sessions by their token.
var sessions = store.NewCache[string, session](10_000)

// session is a session as it is kept.
type session struct {
	data   []byte
	expiry int64 // 0 for one that is not there
}

// CommitCtx keeps a session, and sweeps a few that have expired.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	return s.Write(ctx, func(tx *store.Tx) error {
		sessions.Forget(tx, token)
		if _, err := tx.Exec(ctx, store.Named("roster.CommitCtx",
			"DELETE FROM sessions WHERE token IN (SELECT token FROM sessions WHERE expiry <= ? LIMIT 20)"),
			store.Now()); err != nil {
			return err
		}
		_, err := tx.Exec(ctx,
			store.Named("roster.CommitCtx",
				"INSERT INTO sessions (token, data, expiry) VALUES (?, ?, ?) ON CONFLICT (token) DO UPDATE SET data "+
					"= excluded.data, expiry = excluded.expiry"),
			token,
			data,
			expiry.Unix(),
		)
		return err
	})
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	return s.Write(ctx, func(tx *store.Tx) error {
		sessions.Forget(tx, token)
		_, err := tx.Exec(ctx, store.Named("roster.DeleteCtx", "DELETE FROM sessions WHERE token = ?"), token)
		return err
	})
}

// Find is FindCtx without a context, as the session manager's older interface wants it.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

// Commit is CommitCtx without a context.
func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is DeleteCtx without a context.
func (s Sessions) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
