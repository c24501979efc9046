package store

import (
	"errors"
)

// Instructor is somebody who builds and teaches.
type Instructor struct {
	ID    int64
	Login string
	Name  string
	Hash  string // of the passphrase
}

func scanInstructor(r row) (i Instructor, err error) {
	return i, r.Scan(&i.ID, &i.Login, &i.Name, &i.Hash)
}

const instructorColumns = "SELECT id, login, name, hash FROM instructors "

// HasInstructors reports whether anybody has been set up yet.
func (r *Reader) HasInstructors() (bool, error) {
	var n int
	err := r.one("SELECT EXISTS (SELECT 1 FROM instructors)", nil, &n)
	return n == 1, err
}

// InstructorByLogin finds an instructor to sign in.
func (r *Reader) InstructorByLogin(login string) (Instructor, error) {
	return only(all(r, scanInstructor, instructorColumns+"WHERE login = ?", Fold(login)))
}

// Instructor finds an instructor by id.
func (r *Reader) Instructor(id int64) (Instructor, error) {
	return only(all(r, scanInstructor, instructorColumns+"WHERE id = ?", id))
}

// AddInstructor adds an instructor; a login that exists is ErrTaken.
func (t *Tx) AddInstructor(i Instructor) (int64, error) {
	return t.insert("INSERT INTO instructors (login, name, hash, created) VALUES (?, ?, ?, ?)", Fold(i.Login), i.Name,
		i.Hash, now())
}

// Class is a group of students that an instructor teaches.
type Class struct {
	ID       int64
	Owner    int64
	Name     string
	Code     string // joining code
	Method   string // the class's school, as a document
	Zone     string // of its clock; "" is the server's
	Words    string // that its students see, as a document
	Seen     bool   // its instructor sees in sum what they practise
	Guests   bool   // somebody may join a round with a handle only
	Students int
	Sheets   int
}

const classColumns = `SELECT c.id, c.owner, c.name, c.code, c.method, c.zone, c.words, c.practice_seen, c.guests,
	(SELECT count(*) FROM students WHERE class = c.id AND NOT guest),
	(SELECT count(*) FROM assignments WHERE class = c.id) FROM classes c `

func scanClass(r row) (c Class, err error) {
	return c, r.Scan(&c.ID, &c.Owner, &c.Name, &c.Code, &c.Method, &c.Zone, &c.Words, &c.Seen, &c.Guests, &c.Students, &c.Sheets)
}

// Classes lists an instructor's classes by name.
func (r *Reader) Classes(owner int64) ([]Class, error) {
	return all(r, scanClass, classColumns+"WHERE c.owner = ? ORDER BY c.name, c.id", owner)
}

// Class finds one of an instructor's classes.
func (r *Reader) Class(owner, id int64) (Class, error) {
	return only(all(r, scanClass, classColumns+"WHERE c.owner = ? AND c.id = ?", owner, id))
}

// ClassByCode finds the class that a joining code belongs to.
func (r *Reader) ClassByCode(code string) (Class, error) {
	return only(all(r, scanClass, classColumns+"WHERE c.code = ?", code))
}

// AddClass adds a class; a joining code that exists is ErrTaken.
func (t *Tx) AddClass(owner int64, name, code string) (int64, error) {
	return t.insert("INSERT INTO classes (owner, name, code, created) VALUES (?, ?, ?, ?)", owner, name, code, now())
}

// SetMethod settles the school of one of an instructor's classes.
func (t *Tx) SetMethod(owner, class int64, method string) error {
	return t.change("UPDATE classes SET method = ? WHERE id = ? AND owner = ?", method, class, owner)
}

// SetWords settles the words that the students of one of an instructor's classes see.
func (t *Tx) SetWords(owner, class int64, words string) error {
	return t.change("UPDATE classes SET words = ? WHERE id = ? AND owner = ?", words, class, owner)
}

// SetPracticeSeen settles whether the instructor of a class sees in sum what its students practise.
func (t *Tx) SetPracticeSeen(owner, class int64, seen bool) error {
	return t.change("UPDATE classes SET practice_seen = ? WHERE id = ? AND owner = ?", seen, class, owner)
}

// Student is a member of one class.
type Student struct {
	ID        int64
	Class     int64
	ClassName string
	Name      string
	Hash      string // of the passphrase; "" while a new one is to be chosen
	Extra     int    // minutes on top of whatever is timed
	Zone      string // of the class's clock; "" is the server's
	Words     string // that the class's students see, as a document
	Seen      bool   // the class's instructor sees in sum what it practises
	Guest     bool   // came with a handle only, and is gone when the lesson is over
}

const studentColumns = "SELECT s.id, s.class, c.name, s.name, s.hash, s.extra_minutes, c.zone, c.words, c.practice_seen, s.guest FROM students s JOIN classes c ON c.id = s.class "

func scanStudent(r row) (st Student, err error) {
	return st, r.Scan(&st.ID, &st.Class, &st.ClassName, &st.Name, &st.Hash, &st.Extra, &st.Zone, &st.Words, &st.Seen, &st.Guest)
}

// StudentByName finds a student of a class to sign in, however the name is spelled.
func (r *Reader) StudentByName(class int64, name string) (Student, error) {
	return only(all(r, scanStudent, studentColumns+"WHERE s.class = ? AND s.folded = ?", class, Fold(name)))
}

// Student finds a student by id.
func (r *Reader) Student(id int64) (Student, error) {
	return only(all(r, scanStudent, studentColumns+"WHERE s.id = ?", id))
}

// StudentMethod is the school of a student's class, as a document.
func (r *Reader) StudentMethod(student int64) (method string, err error) {
	return method, r.one("SELECT c.method FROM students s JOIN classes c ON c.id = s.class WHERE s.id = ?", []any{student},
		&method)
}

// Students lists the students of one of an instructor's classes by name.
func (r *Reader) Students(owner, class int64) ([]Student, error) {
	return all(r, scanStudent, studentColumns+"WHERE c.owner = ? AND c.id = ? AND NOT s.guest ORDER BY s.folded", owner, class)
}

// AddStudent adds a student to a class; a name that exists there is ErrTaken.
func (t *Tx) AddStudent(class int64, name, hash string) (int64, error) {
	return t.insert("INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, ?, ?)", class, name,
		Fold(name), hash, now())
}

// ClearPassphrase takes the passphrase of a student of one of an instructor's classes away.
func (t *Tx) ClearPassphrase(owner, class, student int64) error {
	return t.change(
		"UPDATE students SET hash = '' WHERE id = ? AND class = (SELECT id FROM classes WHERE id = ? AND owner = ?)",
		student,
		class,
		owner,
	)
}

// ChoosePassphrase sets the passphrase of a student whose old one was cleared; else it is ErrTaken.
func (t *Tx) ChoosePassphrase(student int64, hash string) error {
	err := t.change("UPDATE students SET hash = ? WHERE id = ? AND hash = ''", hash, student)
	if errors.Is(err, ErrNotFound) {
		return ErrTaken
	}
	return err
}
