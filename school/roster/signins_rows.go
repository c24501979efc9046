package roster

import (
	"context"
	"time"

	"cavix/store"
)

const DeviceKey = "device-key" // signs the cookies of browsers that have signed in before

// SignIn is somebody's coming in, or a try that was refused.
type SignIn struct {
	Role    string
	Name    string // as it is kept, or as it was tried
	Class   string // of a student
	Address string
	Good    bool
	At      time.Time
}

// keptSignIns is the number of sign-ins that are kept.
const keptSignIns = 5000

// noteSignIn keeps a sign-in, and lets go of the oldest.
func noteSignIn(ctx context.Context, tx *store.Tx, s SignIn) error {
	id, err := tx.Insert(ctx, store.Named("roster.noteSignIn",
		"INSERT INTO signins (role, name, class, address, good, at) VALUES (?, ?, ?, ?, ?, ?)"), s.Role, s.Name,
		s.Class, s.Address, s.Good, s.At.Unix())
	if err != nil || id%100 != 0 {
		return err
	}
	_, err = tx.Exec(ctx, store.Named("roster.noteSignIn", "DELETE FROM signins WHERE id <= ?"), id-keptSignIns)
	return err
}

// listSignIns lists the latest sign-ins of a role, or of all where it is "", the latest first: skip are passed over.
func listSignIns(ctx context.Context, q store.Queryer, role string, skip, most int) ([]SignIn, error) {
	return store.All(ctx, q, func(r store.Row) (s SignIn, err error) {
		var at int64
		err = r.Scan(&s.Role, &s.Name, &s.Class, &s.Address, &s.Good, &at)
		s.At = time.Unix(at, 0)
		return s, err
	}, store.Named("roster.listSignIns",
		`SELECT role, name, class, address, good, at FROM signins WHERE ? = '' OR role = ?
			ORDER BY id DESC LIMIT ? OFFSET ?`), role, role, most, skip)
}

// joiningOf returns the way in which somebody who is on no list joins a class.
func joiningOf(ctx context.Context, q store.Queryer, class int64) (how Joining, err error) {
	err = store.One(ctx, q, store.Named("roster.joiningOf", "SELECT joining FROM classes WHERE id = ?"), []any{class},
		&how)
	return how, err
}
