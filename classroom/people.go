package classroom

import (
	"context"
	"crypto/rand"
	"errors"

	"github.com/alexedwards/argon2id"

	"cavix/store"
)

// cost of a passphrase's hash: 19 MiB, 2 passes, 1 lane (the OWASP recommendation for Argon2id).
var cost = &argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPassphrase returns the salted Argon2id hash of a passphrase.
func HashPassphrase(passphrase string) (string, error) { return argon2id.CreateHash(passphrase, cost) }

// CheckPassphrase compares a passphrase with a hash that HashPassphrase made.
func CheckPassphrase(hash, passphrase string) bool {
	ok, err := argon2id.ComparePasswordAndHash(passphrase, hash)
	return ok && err == nil
}

// SetUp adds the first instructor; when there is one already it is store.ErrTaken.
func (r *Room) SetUp(ctx context.Context, i store.Instructor) (id int64, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		has, err := tx.HasInstructors()
		if err != nil {
			return err
		}
		if has {
			return store.ErrTaken
		}
		i.Keeper = true // somebody must keep the server
		id, err = tx.AddInstructor(i)
		return err
	})
	return id, err
}

// AddInstructor adds an instructor; a login that exists is store.ErrTaken.
func (r *Room) AddInstructor(ctx context.Context, i store.Instructor) (id int64, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) (err error) {
		id, err = tx.AddInstructor(i)
		return err
	})
	return id, err
}

// codeLetters are those of joining codes: none that is taken for another on a board.
const codeLetters = "ACDEFGHJKMNPQRTUVWXY3479"

// newCode makes a joining code of six letters and digits.
func newCode() string {
	b := make([]byte, 6)
	rand.Read(b)
	for i := range b {
		b[i] = codeLetters[int(b[i])%len(codeLetters)]
	}
	return string(b)
}

// AddClass adds a class with a joining code of its own: the one that is given, or a new one where it is "".
func (r *Room) AddClass(ctx context.Context, owner int64, name, code string) (id int64, err error) {
	err = r.store.Write(ctx, func(tx *store.Tx) (err error) {
		if err := roomForClass(tx, owner); err != nil {
			return err
		}
		if code != "" {
			id, err = tx.AddClass(owner, name, code)
			return err
		}
		id, err = addClass(tx, owner, name)
		return err
	})
	return id, err
}

// roomForClass is a Full where an instructor has as many classes as there may be.
func roomForClass(tx *store.Tx, owner int64) error {
	has, err := tx.CountClasses(owner)
	return room(has, err, "classes", MostClasses)
}

// addClass makes a class with a joining code of its own.
func addClass(tx *store.Tx, owner int64, name string) (id int64, err error) {
	if err := roomForClass(tx, owner); err != nil {
		return 0, err
	}
	for range 100 {
		if id, err = tx.AddClass(owner, name, newCode()); !errors.Is(err, store.ErrTaken) {
			return id, err
		}
	}
	return id, err
}
