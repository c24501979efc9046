package store

import (
	"context"
	"errors"
	"time"
)

// Sessions keeps signed-in sessions for the session manager.
type Sessions struct{ *Store }

// FindCtx returns a session that has not expired.
func (s Sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	found, err := remember(s.remembering(), settledKey{what: "session", text: token}, func() (kept session, err error) {
		err = s.Read(ctx).one("SELECT data, expiry FROM sessions WHERE token = ?", []any{token}, &kept.data, &kept.expiry)
		if errors.Is(err, ErrNotFound) {
			err = nil
		}
		return kept, err
	})
	if err != nil || found.expiry <= now() {
		return nil, false, err
	}
	return found.data, true, nil
}

// session is a session as it is kept.
type session struct {
	data   []byte
	expiry int64 // 0 for one that is not there
}

// CommitCtx keeps a session, and sweeps a few that have expired.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	return s.Write(ctx, func(tx *Tx) error {
		if _, err := tx.Exec("DELETE FROM sessions WHERE token IN (SELECT token FROM sessions WHERE expiry <= ? LIMIT 20)", now()); err != nil {
			return err
		}
		_, err := tx.Exec(
			"INSERT INTO sessions (token, data, expiry) VALUES (?, ?, ?) ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry",
			token,
			data,
			expiry.Unix(),
		)
		return err
	})
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	return s.Write(ctx, func(tx *Tx) error {
		_, err := tx.Exec("DELETE FROM sessions WHERE token = ?", token)
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
