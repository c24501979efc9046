package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"cavix/core/marking"
)

// Instructor is somebody who builds and teaches.
type Instructor struct {
	ID    int64
	Login string
	Name  string
	Hash  string // of the passphrase
}

// HasInstructors reports whether anybody has been set up yet.
func (s *Store) HasInstructors(ctx context.Context) (bool, error) {
	var n int
	err := s.one(ctx, "SELECT EXISTS (SELECT 1 FROM instructors)", nil, &n)
	return n == 1, err
}

// AddFirstInstructor adds the instructor only when there is none yet; else it is ErrTaken.
func (s *Store) AddFirstInstructor(ctx context.Context, i Instructor) (id int64, err error) {
	err = s.Write(ctx, func(tx *Tx) error {
		var n int
		if err := tx.one("SELECT count(*) FROM instructors", nil, &n); err != nil {
			return err
		}
		if n > 0 {
			return ErrTaken
		}
		id, err = addInstructor(tx, i)
		return err
	})
	return id, err
}

// AddInstructor adds an instructor; a login that exists is ErrTaken.
func (s *Store) AddInstructor(ctx context.Context, i Instructor) (id int64, err error) {
	err = s.Write(ctx, func(tx *Tx) error {
		id, err = addInstructor(tx, i)
		return err
	})
	return id, err
}

func addInstructor(tx *Tx, i Instructor) (int64, error) {
	return tx.insert("INSERT INTO instructors (login, name, hash, created) VALUES (?, ?, ?, ?)", fold(i.Login), i.Name, i.Hash, now())
}

// InstructorByLogin finds an instructor to sign in.
func (s *Store) InstructorByLogin(ctx context.Context, login string) (Instructor, error) {
	var i Instructor
	err := s.one(ctx, "SELECT id, login, name, hash FROM instructors WHERE login = ?", []any{fold(login)}, &i.ID, &i.Login, &i.Name, &i.Hash)
	return i, err
}

// Instructor finds an instructor by id.
func (s *Store) Instructor(ctx context.Context, id int64) (Instructor, error) {
	var i Instructor
	err := s.one(ctx, "SELECT id, login, name, hash FROM instructors WHERE id = ?", []any{id}, &i.ID, &i.Login, &i.Name, &i.Hash)
	return i, err
}

// Class is a group of students that an instructor teaches.
type Class struct {
	ID       int64
	Owner    int64
	Name     string
	Code     string // joining code
	Method   marking.Method
	Students int
	Sheets   int
}

const classColumns = `c.id, c.owner, c.name, c.code, c.method,
	(SELECT count(*) FROM students WHERE class = c.id), (SELECT count(*) FROM assignments WHERE class = c.id)`

func scanClass(r row) (c Class, err error) {
	var method string
	if err := r.Scan(&c.ID, &c.Owner, &c.Name, &c.Code, &method, &c.Students, &c.Sheets); err != nil {
		return c, err
	}
	return c, json.Unmarshal([]byte(method), &c.Method)
}

// SetMethod settles the school of one of an instructor's classes. Sheets given before keep theirs.
func (s *Store) SetMethod(ctx context.Context, owner, class int64, m marking.Method) error {
	b, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return s.Write(ctx, func(tx *Tx) error {
		return tx.change("UPDATE classes SET method = ? WHERE id = ? AND owner = ?", string(b), class, owner)
	})
}

// AddClass adds a class; a joining code that exists is ErrTaken.
func (s *Store) AddClass(ctx context.Context, owner int64, name, code string) (id int64, err error) {
	err = s.Write(ctx, func(tx *Tx) error {
		id, err = tx.insert("INSERT INTO classes (owner, name, code, created) VALUES (?, ?, ?, ?)", owner, name, code, now())
		return err
	})
	return id, err
}

// Classes lists an instructor's classes by name.
func (s *Store) Classes(ctx context.Context, owner int64) ([]Class, error) {
	return all(ctx, s, scanClass, "SELECT "+classColumns+" FROM classes c WHERE c.owner = ? ORDER BY c.name, c.id", owner)
}

// Class finds one of an instructor's classes.
func (s *Store) Class(ctx context.Context, owner, id int64) (Class, error) {
	return only(all(ctx, s, scanClass, "SELECT "+classColumns+" FROM classes c WHERE c.owner = ? AND c.id = ?", owner, id))
}

// ClassByCode finds the class that a joining code belongs to.
func (s *Store) ClassByCode(ctx context.Context, code string) (Class, error) {
	return only(all(ctx, s, scanClass, "SELECT "+classColumns+" FROM classes c WHERE c.code = ?", code))
}

// only takes the single value of a list, or ErrNotFound.
func only[T any](list []T, err error) (T, error) {
	var none T
	if err != nil {
		return none, err
	}
	if len(list) == 0 {
		return none, ErrNotFound
	}
	return list[0], nil
}

// Student is a member of one class.
type Student struct {
	ID        int64
	Class     int64
	ClassName string
	Name      string
	Hash      string // of the passphrase; "" while a new one is to be chosen
}

const studentColumns = "s.id, s.class, c.name, s.name, s.hash FROM students s JOIN classes c ON c.id = s.class"

func scanStudent(r row) (st Student, err error) {
	err = r.Scan(&st.ID, &st.Class, &st.ClassName, &st.Name, &st.Hash)
	return st, err
}

// AddStudent adds a student to a class; a name that exists there is ErrTaken.
func (s *Store) AddStudent(ctx context.Context, class int64, name, hash string) (id int64, err error) {
	err = s.Write(ctx, func(tx *Tx) error {
		id, err = tx.insert("INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, ?, ?)", class, name, fold(name), hash, now())
		return err
	})
	return id, err
}

// StudentByName finds a student of a class to sign in, however the name is spelled.
func (s *Store) StudentByName(ctx context.Context, class int64, name string) (Student, error) {
	return only(all(ctx, s, scanStudent, "SELECT "+studentColumns+" WHERE s.class = ? AND s.folded = ?", class, fold(name)))
}

// Student finds a student by id.
func (s *Store) Student(ctx context.Context, id int64) (Student, error) {
	return only(all(ctx, s, scanStudent, "SELECT "+studentColumns+" WHERE s.id = ?", id))
}

// ClearPassphrase lets a student of one of an instructor's classes choose a new passphrase, by joining
// once more under the same name.
func (s *Store) ClearPassphrase(ctx context.Context, owner, class, student int64) error {
	return s.Write(ctx, func(tx *Tx) error {
		return tx.change("UPDATE students SET hash = '' WHERE id = ? AND class = (SELECT id FROM classes WHERE id = ? AND owner = ?)", student, class, owner)
	})
}

// ChoosePassphrase sets the passphrase of a student whose old one was cleared; else it is ErrTaken.
func (s *Store) ChoosePassphrase(ctx context.Context, student int64, hash string) error {
	return s.Write(ctx, func(tx *Tx) error {
		err := tx.change("UPDATE students SET hash = ? WHERE id = ? AND hash = ''", hash, student)
		if errors.Is(err, ErrNotFound) {
			return ErrTaken
		}
		return err
	})
}

// Students lists the students of one of an instructor's classes by name.
func (s *Store) Students(ctx context.Context, owner, class int64) ([]Student, error) {
	return all(ctx, s, scanStudent, "SELECT "+studentColumns+" WHERE c.owner = ? AND c.id = ? ORDER BY s.folded", owner, class)
}

// when reads a time that may not have come.
func when(seconds *int64) time.Time {
	if seconds == nil {
		return time.Time{}
	}
	return time.Unix(*seconds, 0)
}
