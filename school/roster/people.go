package roster

import (
	"context"
	"crypto/rand"
	"errors"

	"github.com/alexedwards/argon2id"

	"cavix/school/access"
	"cavix/store"
)

const MostClasses = 60

// cost of a passphrase's hash: 19 MiB, 2 passes, 1 lane (the OWASP recommendation for Argon2id).
var cost = &argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPassphrase returns the salted Argon2id hash of a passphrase.
func HashPassphrase(passphrase string) (string, error) { return argon2id.CreateHash(passphrase, cost) }

// CheckPassphrase compares a passphrase with a hash that HashPassphrase made.
func CheckPassphrase(hash, passphrase string) bool {
	ok, err := argon2id.ComparePasswordAndHash(passphrase, hash)
	return ok && err == nil
}

// SetUp adds the first instructor; ErrSetUp where there is one already.
func (svc *Service) SetUp(ctx context.Context, i Instructor) (id int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		has, err := HasInstructors(ctx, tx)
		if err != nil {
			return err
		}
		if has {
			return ErrSetUp
		}
		i.Keeper = true // somebody must keep the server
		id, err = insertInstructor(ctx, tx, i)
		return err
	})
	return id, err
}

// AddInstructor adds an instructor; a login that exists is ErrLoginTaken.
func (svc *Service) AddInstructor(ctx context.Context, i Instructor) (id int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) (err error) {
		id, err = insertInstructor(ctx, tx, i)
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
func (svc *Service) AddClass(ctx context.Context, owner int64, name, code string) (id int64, err error) {
	err = svc.store.Write(ctx, func(tx *store.Tx) (err error) {
		if err := roomForClass(ctx, tx, owner); err != nil {
			return err
		}
		if code != "" {
			id, err = insertClass(ctx, tx, owner, name, code)
			return err
		}
		id, err = AddClass(ctx, tx, owner, name)
		return err
	})
	return id, err
}

// roomForClass is a Full where an instructor has as many classes as there may be.
func roomForClass(ctx context.Context, tx *store.Tx, owner int64) error {
	has, err := countClasses(ctx, tx, owner)
	return access.RoomFor(has, err, "classes", MostClasses)
}

// AddClass makes a class with a joining code of its own.
func AddClass(ctx context.Context, tx *store.Tx, owner int64, name string) (id int64, err error) {
	if err := roomForClass(ctx, tx, owner); err != nil {
		return 0, err
	}
	for range 100 {
		if id, err = insertClass(ctx, tx, owner, name, newCode()); !errors.Is(err, errCodeTaken) {
			return id, err
		}
	}
	return id, err
}
