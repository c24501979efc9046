package store

import (
	"errors"
	"time"

	"cavix/core/names"
)

// Instructor is somebody who builds and teaches.
type Instructor struct {
	ID       int64
	Login    string
	Name     string
	Hash     string    // of the passphrase; "" while one is to be chosen
	Keeper   bool      // keeps the server too
	Entry    int64     // sessions begun under an earlier number are over
	Link     string    // hash of the key with which a passphrase is chosen; "" for none
	Until    time.Time // how long that key is good
	Barred   time.Time // since when they cannot sign in; zero while they can
	Language string    // that they have chosen, as "de"; "" for none
}

func scanInstructor(r row) (i Instructor, err error) {
	var until int64
	var barred *int64
	err = r.Scan(&i.ID, &i.Login, &i.Name, &i.Hash, &i.Keeper, &i.Entry, &i.Link, &until, &barred, &i.Language)
	i.Until, i.Barred = time.Unix(until, 0), when(barred)
	return i, err
}

const instructorColumns = "SELECT id, login, name, hash, keeper, entry, link, link_until, barred, language FROM instructors "

// Instructors lists everybody who teaches here, by name, up to most.
func (r *Reader) Instructors(most int) ([]Instructor, error) {
	return all(r, scanInstructor, instructorColumns+"ORDER BY barred IS NOT NULL, name, id LIMIT ?", most)
}

// InstructorByLink finds the instructor who may choose a passphrase with a key that has this hash.
func (r *Reader) InstructorByLink(hash string, at time.Time) (Instructor, error) {
	return only(all(r, scanInstructor, instructorColumns+"WHERE link <> '' AND link = ? AND link_until > ? AND barred IS NULL", hash, at.Unix()))
}

// SetLink lets an instructor choose a passphrase with a key that has this hash, until a time. The old passphrase is good no
// longer, and all sessions are over.
func (t *Tx) SetLink(instructor int64, hash string, until time.Time) error {
	return t.change("UPDATE instructors SET hash = '', entry = entry + 1, link = ?, link_until = ? WHERE id = ?", hash, until.Unix(), instructor)
}

// SetPassphrase keeps the hash of an instructor's new passphrase; all sessions are over, and so is a key to choose one.
func (t *Tx) SetPassphrase(instructor int64, hash string) error {
	return t.change("UPDATE instructors SET hash = ?, entry = entry + 1, link = '', link_until = 0 WHERE id = ?", hash, instructor)
}

// EndSessions ends all sessions of an instructor.
func (t *Tx) EndSessions(instructor int64) error {
	return t.change("UPDATE instructors SET entry = entry + 1 WHERE id = ?", instructor)
}

// SetLanguage keeps the language that an instructor has chosen.
func (t *Tx) SetLanguage(instructor int64, language string) error {
	return t.change("UPDATE instructors SET language = ? WHERE id = ?", language, instructor)
}

// SetStudentLanguage keeps the language that a student has chosen.
func (t *Tx) SetStudentLanguage(student int64, language string) error {
	return t.change("UPDATE students SET language = ? WHERE id = ?", language, student)
}

// SetKeeper settles whether an instructor keeps the server too.
func (t *Tx) SetKeeper(instructor int64, keeps bool) error {
	return t.change("UPDATE instructors SET keeper = ? WHERE id = ?", keeps, instructor)
}

// SetBarred has an instructor sign in no longer since a time; a zero time lets them in again. All sessions are over.
func (t *Tx) SetBarred(instructor int64, at time.Time) error {
	return t.change("UPDATE instructors SET barred = ?, entry = entry + 1 WHERE id = ?", orNull(at), instructor)
}

// HasInstructors reports whether anybody has been set up yet.
func (r *Reader) HasInstructors() (bool, error) {
	var n int
	err := r.one("SELECT EXISTS (SELECT 1 FROM instructors)", nil, &n)
	return n == 1, err
}

// InstructorByLogin finds an instructor to sign in.
func (r *Reader) InstructorByLogin(login string) (Instructor, error) {
	return only(all(r, scanInstructor, instructorColumns+"WHERE login = ?", names.Fold(login)))
}

// Instructor finds an instructor by id.
func (r *Reader) Instructor(id int64) (Instructor, error) {
	return remember(r.known, settledKey{what: "instructor", a: id}, func() (Instructor, error) {
		return only(all(r, scanInstructor, instructorColumns+"WHERE id = ?", id))
	})
}

// LeaderOf finds the instructor who leads the class that a sheet was given to; ErrNotFound where the class lies in the bin.
func (r *Reader) LeaderOf(assignment int64) (Instructor, error) {
	return only(all(r, scanInstructor, instructorColumns+`WHERE id = (SELECT c.owner FROM assignments a JOIN classes c ON c.id = a.class
		WHERE a.id = ? AND c.binned IS NULL)`, assignment))
}

// AddInstructor adds an instructor; a login that exists is ErrTaken.
func (t *Tx) AddInstructor(i Instructor) (int64, error) {
	return t.insert("INSERT INTO instructors (login, name, hash, keeper, created) VALUES (?, ?, ?, ?, ?)", names.Fold(i.Login), i.Name,
		i.Hash, i.Keeper, now())
}

// Role is what an instructor may do in a class.
type Role string

// The roles, from all to least.
const (
	Leads Role = "leads" // everything
	Marks Role = "marks" // mark, release, ask on the Board, keep people's passphrases and minutes
	Looks Role = "looks" // look only
)

// May reports whether the role is enough for what asks another.
func (r Role) May(what Role) bool {
	rank := map[Role]int{Looks: 1, Marks: 2, Leads: 3}
	return rank[r] > 0 && rank[r] >= rank[what]
}

// taught holds for a class c that the instructor who asks leads, or teaches along in.
const taught = "c.id IN (SELECT class FROM teaching WHERE instructor = ?)"

// Joining is how somebody who is on no list joins a class.
type Joining string

// The ways.
const (
	JoinOpen  Joining = "open"  // with the code
	JoinAsked Joining = "asked" // with the code, and waits to be let in
	JoinShut  Joining = "shut"  // not at all
)

// Class is a group of students that an instructor teaches.
type Class struct {
	ID    int64
	Owner int64
	ClassSettings
	Code     string    // joining code; "" for an instructor who may only look
	Archived time.Time // when it was put away; zero while it runs
	Role     Role      // of the instructor who asks; "" where nobody does
	Students int
	Sheets   int
}

// ClassSettings are what the owner of a class decides about it.
type ClassSettings struct {
	Name     string
	Method   string  // its reading conventions, as a document
	Words    string  // that its students see, as a document
	Practice Sight   // what its instructors see of practice
	Joining  Joining // of those who are on no list
	Guests   bool    // somebody may join a round with a handle only
	Zone     string  // of its clock; "" is the server's
}

// SetClass changes the settings of one of an instructor's classes.
func (t *Tx) SetClass(owner, class int64, s ClassSettings) error {
	return t.change(`UPDATE classes SET name = ?, method = ?, words = ?, practice_seen = ?, joining = ?, guests = ?, zone = ?
		WHERE id = ? AND owner = ?`, s.Name, s.Method, s.Words, s.Practice, s.Joining, s.Guests, s.Zone, class, owner)
}

// Runs reports whether the class has not been put away.
func (c Class) Runs() bool { return c.Archived.IsZero() }

const classColumns = `SELECT c.id, c.owner, c.name, c.code, c.method, c.zone, c.words, c.practice_seen, c.guests, c.joining, c.archived, f.role,
	(SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL),
	(SELECT count(*) FROM assignments WHERE class = c.id) FROM classes c LEFT JOIN teaching f ON f.class = c.id AND f.instructor = ? `

func scanClass(r row) (c Class, err error) {
	var archived *int64
	var role *string
	err = r.Scan(&c.ID, &c.Owner, &c.Name, &c.Code, &c.Method, &c.Zone, &c.Words, &c.Practice, &c.Guests, &c.Joining, &archived, &role,
		&c.Students, &c.Sheets)
	if c.Archived = when(archived); role != nil {
		c.Role = Role(*role)
	}
	if c.Role == Looks { // who may only look brings nobody in
		c.Code = ""
	}
	return c, err
}

// Classes lists the classes that an instructor teaches, by name; those that were put away stand last.
func (r *Reader) Classes(instructor int64) ([]Class, error) {
	return all(r, scanClass, classColumns+"WHERE f.role IS NOT NULL ORDER BY c.archived IS NOT NULL, c.name, c.id", instructor)
}

// CountClasses tells how many classes an instructor has made.
func (r *Reader) CountClasses(owner int64) (n int, err error) {
	return n, r.one("SELECT count(*) FROM classes WHERE owner = ? AND binned IS NULL", []any{owner}, &n)
}

// Class finds a class that an instructor teaches.
func (r *Reader) Class(instructor, id int64) (Class, error) {
	return only(all(r, scanClass, classColumns+"WHERE f.role IS NOT NULL AND c.id = ?", instructor, id))
}

// ClassByCode finds the running class that a joining code belongs to.
func (r *Reader) ClassByCode(code string) (Class, error) {
	return only(all(r, scanClass, classColumns+"WHERE c.code = ? AND c.archived IS NULL AND c.binned IS NULL", 0, code))
}

// AddClass adds a class; a joining code that exists is ErrTaken.
func (t *Tx) AddClass(owner int64, name, code string) (int64, error) {
	id, err := t.insert("INSERT INTO classes (owner, name, code, created) VALUES (?, ?, ?, ?)", owner, name, code, now())
	if err != nil {
		return 0, err
	}
	return id, t.SetRole(id, owner, Leads)
}

// Sight is what the instructors of a class see of what its students practise.
type Sight int

// What they may see.
const (
	SeesNothing Sight = iota
	SeesSum           // of the class, without names
	SeesEach          // student's practice, in their progress and in their data
)

// Student is a member of one class.
type Student struct {
	ID        int64
	Class     int64
	ClassName string
	Name      string
	Hash      string    // of the passphrase; "" while a new one is to be chosen
	Extra     int       // minutes on top of whatever is timed
	Zone      string    // of the class's clock; "" is the server's
	Words     string    // that the class's students see, as a document
	Practice  Sight     // what the class's instructors see of practice
	Guest     bool      // came with a handle only, and is gone when the lesson is over
	Team      string    // group within the class; "" for none
	Gone      time.Time // when they left the class; zero while they are in it
	Waits     bool      // has asked to join, and is not in it yet
	Shut      bool      // the class was put away
	Entry     int64     // sessions begun under an earlier number are over
	Language  string    // that they have chosen, as "de"; "" for none
	Number    string    // the school's own number or address of the student; "" for none
}

// Here reports whether the student is in the class, and the class runs.
func (s Student) Here() bool { return s.Gone.IsZero() && !s.Shut }

const studentColumns = `SELECT s.id, s.class, c.name, s.name, s.hash, s.extra_minutes, c.zone, c.words, c.practice_seen, s.guest,
	s.team, s.gone, s.waits, c.archived IS NOT NULL OR c.binned IS NOT NULL, s.entry, s.number, s.language FROM students s JOIN classes c ON c.id = s.class `

func scanStudent(r row) (st Student, err error) {
	var gone *int64
	err = r.Scan(&st.ID, &st.Class, &st.ClassName, &st.Name, &st.Hash, &st.Extra, &st.Zone, &st.Words, &st.Practice, &st.Guest,
		&st.Team, &gone, &st.Waits, &st.Shut, &st.Entry, &st.Number, &st.Language)
	st.Gone = when(gone)
	return st, err
}

// StudentByName finds a student of a class to sign in, however the name is spelled.
func (r *Reader) StudentByName(class int64, name string) (Student, error) {
	return only(all(r, scanStudent, studentColumns+"WHERE s.class = ? AND s.folded = ?", class, names.Fold(name)))
}

// Student finds a student by id.
func (r *Reader) Student(id int64) (Student, error) {
	return remember(r.known, settledKey{what: "student", a: id}, func() (Student, error) {
		return only(all(r, scanStudent, studentColumns+"WHERE s.id = ?", id))
	})
}

// StudentMethod is the school of a student's class, as a document.
func (r *Reader) StudentMethod(student int64) (method string, err error) {
	return method, r.one("SELECT c.method FROM students s JOIN classes c ON c.id = s.class WHERE s.id = ?", []any{student},
		&method)
}

// Students lists the students who are in a class that an instructor teaches, by name.
func (r *Reader) Students(owner, class int64) ([]Student, error) {
	return all(r, scanStudent, studentColumns+"WHERE "+taught+" AND c.id = ? AND NOT s.guest AND s.gone IS NULL ORDER BY s.folded COLLATE people, s.id", owner, class)
}

// AddStudent adds a student to a class; a name that exists there is ErrTaken.
func (t *Tx) AddStudent(class int64, name, hash string) (int64, error) {
	return t.insert("INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, ?, ?)", class, name,
		names.Fold(name), hash, now())
}

// ClearPassphrase takes the passphrase of a student of a class away, and ends all sessions.
func (t *Tx) ClearPassphrase(class, student int64) error {
	return t.change("UPDATE students SET hash = '', entry = entry + 1 WHERE id = ? AND class = ? AND NOT guest", student, class)
}

// ChangePassphrase keeps the hash of a student's new passphrase; all sessions are over.
func (t *Tx) ChangePassphrase(student int64, hash string) error {
	return t.change("UPDATE students SET hash = ?, entry = entry + 1 WHERE id = ?", hash, student)
}

// ChoosePassphrase sets the passphrase of a student whose old one was cleared; else it is ErrTaken.
func (t *Tx) ChoosePassphrase(student int64, hash string) error {
	err := t.change("UPDATE students SET hash = ? WHERE id = ? AND hash = ''", hash, student)
	if errors.Is(err, ErrNotFound) {
		return ErrTaken
	}
	return err
}

// EndStudentSessions ends all sessions of a student.
func (t *Tx) EndStudentSessions(student int64) error {
	return t.change("UPDATE students SET entry = entry + 1 WHERE id = ?", student)
}
