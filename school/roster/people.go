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

// Instructors lists everybody who teaches here, by name, up to most.
func (svc *Service) Instructors(ctx context.Context, keeper int64, most int) ([]Instructor, error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return nil, err
	}
	return listInstructors(ctx, svc.store, most)
}

// HasInstructors reports whether anybody has been set up yet.
func (svc *Service) HasInstructors(ctx context.Context) (bool, error) {
	return HasInstructors(ctx, svc.store)
}

// InstructorByLogin finds an instructor to sign in.
func (svc *Service) InstructorByLogin(ctx context.Context, login string) (Instructor, error) {
	return FindInstructorByLogin(ctx, svc.store, login)
}

// Instructor finds an instructor by id.
func (svc *Service) Instructor(ctx context.Context, id int64) (Instructor, error) {
	return FindInstructor(ctx, svc.store, id)
}

// Classes lists the classes that an instructor teaches, by name; those that were put away stand last.
func (svc *Service) Classes(ctx context.Context, instructor int64) ([]Class, error) {
	return ListClasses(ctx, svc.store, instructor)
}

// Class finds a class that an instructor teaches.
func (svc *Service) Class(ctx context.Context, instructor, id int64) (Class, error) {
	return FindClass(ctx, svc.store, instructor, id)
}

// ClassByCode finds the running class that a joining code belongs to.
func (svc *Service) ClassByCode(ctx context.Context, code string) (Class, error) {
	return findClassByCode(ctx, svc.store, code)
}

// StudentByName finds a student of a class to sign in, however the name is spelled.
func (svc *Service) StudentByName(ctx context.Context, class int64, name string) (Student, error) {
	return findStudentByName(ctx, svc.store, class, name)
}

// Student finds a student by id.
func (svc *Service) Student(ctx context.Context, id int64) (Student, error) {
	return FindStudent(ctx, svc.store, id)
}

// NameList lists the students who are in a class, for a file that leaves the server.
func (svc *Service) NameList(ctx context.Context, instructor, class int64) ([]Student, error) {
	if err := access.DownloadNames.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return ListStudents(ctx, svc.store, instructor, class)
}

// Students lists the students who are in a class that an instructor teaches, by name.
func (svc *Service) Students(ctx context.Context, owner, class int64) ([]Student, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	return ListStudents(ctx, svc.store, owner, class)
}
