package roster

import (
	"context"
	"time"

	"cavix/core/names"
	"cavix/school/access"
	"cavix/store"
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

func scanInstructor(r store.Row) (i Instructor, err error) {
	var until int64
	var barred *int64
	err = r.Scan(&i.ID, &i.Login, &i.Name, &i.Hash, &i.Keeper, &i.Entry, &i.Link, &until, &barred, &i.Language)
	i.Until, i.Barred = time.Unix(until, 0), store.TimeOf(barred)
	return i, err
}

const instructorColumns = "SELECT id, login, name, hash, keeper, entry, link, link_until, barred, language FROM " +
	"instructors "

// listInstructors lists everybody who teaches here, by name, up to most.
func listInstructors(ctx context.Context, q store.Queryer, most int) ([]Instructor, error) {
	return store.All(ctx, q, scanInstructor, store.Named("roster.listInstructors",
		instructorColumns+"ORDER BY barred IS NOT NULL, name, id LIMIT ?"), most)
}

// findInstructorByLink finds the instructor who may choose a passphrase with a key that has this hash.
func findInstructorByLink(ctx context.Context, q store.Queryer, hash string, at time.Time) (Instructor, error) {
	return store.Only(store.All(ctx, q, scanInstructor, store.Named("roster.findInstructorByLink",
		instructorColumns+"WHERE link <> '' AND link = ? AND link_until > ? AND barred IS NULL"), hash, at.Unix()))
}

// updateLink lets an instructor choose a passphrase with a key that has this hash, until a time. The old passphrase is
// good no longer, and all sessions are over.
func updateLink(ctx context.Context, tx *store.Tx, instructor int64, hash string, until time.Time) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.updateLink",
		"UPDATE instructors SET hash = '', entry = entry + 1, link = ?, link_until = ? WHERE id = ?"), hash,
		until.Unix(), instructor)
}

// updatePassphrase keeps the hash of an instructor's new passphrase; all sessions are over, and so is a key to choose
// one.
func updatePassphrase(ctx context.Context, tx *store.Tx, instructor int64, hash string) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.updatePassphrase",
		"UPDATE instructors SET hash = ?, entry = entry + 1, link = '', link_until = 0 WHERE id = ?"), hash, instructor)
}

// endSessions ends all sessions of an instructor.
func endSessions(ctx context.Context, tx *store.Tx, instructor int64) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.endSessions", "UPDATE instructors SET entry = entry + 1 WHERE id = ?"),
		instructor)
}

// updateLanguage keeps the language that an instructor has chosen.
func updateLanguage(ctx context.Context, tx *store.Tx, instructor int64, language string) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.updateLanguage", "UPDATE instructors SET language = ? WHERE id = ?"),
		language, instructor)
}

// updateStudentLanguage keeps the language that a student has chosen.
func updateStudentLanguage(ctx context.Context, tx *store.Tx, student int64, language string) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.updateStudentLanguage", "UPDATE students SET language = ? WHERE id = ?"),
		language, student)
}

// updateKeeper settles whether an instructor keeps the server too.
func updateKeeper(ctx context.Context, tx *store.Tx, instructor int64, keeps bool) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.updateKeeper", "UPDATE instructors SET keeper = ? WHERE id = ?"), keeps,
		instructor)
}

// updateBarred has an instructor sign in no longer since a time; a zero time lets them in again. All sessions are over.
func updateBarred(ctx context.Context, tx *store.Tx, instructor int64, at time.Time) error {
	instructors.Forget(tx, instructor)
	return tx.Change(ctx, store.Named("roster.updateBarred",
		"UPDATE instructors SET barred = ?, entry = entry + 1 WHERE id = ?"), store.OrNull(at), instructor)
}

// HasInstructors reports whether anybody has been set up yet.
func HasInstructors(ctx context.Context, q store.Queryer) (bool, error) {
	var n int
	err := store.One(ctx, q, store.Named("roster.HasInstructors", "SELECT EXISTS (SELECT 1 FROM instructors)"), nil, &n)
	return n == 1, err
}

// FindInstructorByLogin finds an instructor to sign in.
func FindInstructorByLogin(ctx context.Context, q store.Queryer, login string) (Instructor, error) {
	return store.Only(store.All(ctx, q, scanInstructor, store.Named("roster.FindInstructorByLogin",
		instructorColumns+"WHERE login = ?"), names.Fold(login)))
}

// instructors remembers who teaches by their id.
var instructors = store.NewCache[int64, Instructor](5_000)

// FindInstructor finds an instructor by id.
func FindInstructor(ctx context.Context, q store.Queryer, id int64) (Instructor, error) {
	return instructors.Get(q, id, func() (Instructor, error) {
		return store.Only(store.All(ctx, q, scanInstructor,
			store.Named("roster.FindInstructor", instructorColumns+"WHERE id = ?"), id))
	})
}

// FindSheetOwner finds the instructor who leads the class that a sheet was given to; ErrNotFound where the class lies
// in the bin.
func FindSheetOwner(ctx context.Context, q store.Queryer, assignment int64) (Instructor, error) {
	return store.Only(store.All(ctx, q, scanInstructor,
		store.Named("roster.FindSheetOwner",
			instructorColumns+`WHERE id = (SELECT c.owner FROM assignments a JOIN classes c ON c.id = a.class
		WHERE a.id = ? AND c.binned IS NULL)`), assignment))
}

// insertInstructor adds an instructor; a login that exists is ErrLoginTaken.
func insertInstructor(ctx context.Context, tx *store.Tx, i Instructor) (int64, error) {
	id, err := tx.Insert(ctx, store.Named("roster.insertInstructor",
		"INSERT INTO instructors (login, name, hash, keeper, created) VALUES (?, ?, ?, ?, ?)"), names.Fold(i.Login),
		i.Name, i.Hash, i.Keeper, store.Now())
	return id, store.Instead(err, store.ErrDuplicate, ErrLoginTaken)
}

// Joining says how people who are on no list join a class.
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
	Code     string      // joining code; "" for an instructor who may only look
	Archived time.Time   // when it was put away; zero while it runs
	Role     access.Role // of the instructor who asks; "" where nobody does
	Students int
	Sheets   int
}

// ClassSettings are the settings of a class, which its owner changes.
type ClassSettings struct {
	Name     string
	Method   string       // its reading conventions, as a document
	Words    string       // that its students see, as a document
	Practice PracticeView // what its instructors see of practice
	Joining  Joining      // of those who are on no list
	Guests   bool         // somebody may join a round with a handle only
	Zone     string       // of its clock; "" is the server's
}

// UpdateClass changes the settings of a class.
func UpdateClass(ctx context.Context, tx *store.Tx, class int64, s ClassSettings) error {
	students.ForgetAll(tx)
	return tx.Change(ctx, store.Named("roster.UpdateClass",
		`UPDATE classes SET name = ?, method = ?, words = ?, practice_seen = ?, joining = ?, guests = ?, zone = ?
		WHERE id = ?`), s.Name, s.Method, s.Words, s.Practice, s.Joining, s.Guests, s.Zone, class)
}

// Runs reports whether the class has not been put away.
func (c Class) Runs() bool { return c.Archived.IsZero() }

const classColumns = `SELECT c.id, c.owner, c.name, c.code, c.method, c.zone, c.words, c.practice_seen, c.guests,
	c.joining, c.archived, f.role,
	(SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL),
	(SELECT count(*) FROM assignments WHERE class = c.id) FROM classes c LEFT JOIN teaching f ON f.class = c.id
	AND f.instructor = ? `

func scanClass(r store.Row) (c Class, err error) {
	var archived *int64
	var role *string
	err = r.Scan(&c.ID, &c.Owner, &c.Name, &c.Code, &c.Method, &c.Zone, &c.Words, &c.Practice, &c.Guests, &c.Joining,
		&archived, &role, &c.Students, &c.Sheets)
	if c.Archived = store.TimeOf(archived); role != nil {
		c.Role = access.Role(*role)
	}
	if c.Role == access.Viewer { // who may only look brings nobody in
		c.Code = ""
	}
	return c, err
}

// ListClasses lists the classes that an instructor teaches, by name; those that were put away stand last.
func ListClasses(ctx context.Context, q store.Queryer, instructor int64) ([]Class, error) {
	return store.All(ctx, q, scanClass,
		store.Named("roster.ListClasses",
			classColumns+"WHERE f.role IS NOT NULL ORDER BY c.archived IS NOT NULL, c.name, c.id"), instructor)
}

// countClasses tells how many classes an instructor has made.
func countClasses(ctx context.Context, q store.Queryer, owner int64) (n int, err error) {
	err = store.One(ctx, q, store.Named("roster.countClasses",
		"SELECT count(*) FROM classes WHERE owner = ? AND binned IS NULL"), []any{owner}, &n)
	return n, err
}

// FindClass finds a class that an instructor teaches.
func FindClass(ctx context.Context, q store.Queryer, instructor, id int64) (Class, error) {
	return store.Only(store.All(ctx, q, scanClass,
		store.Named("roster.FindClass", classColumns+"WHERE f.role IS NOT NULL AND c.id = ?"), instructor, id))
}

// findClassByCode finds the running class that a joining code belongs to.
func findClassByCode(ctx context.Context, q store.Queryer, code string) (Class, error) {
	return store.Only(store.All(ctx, q, scanClass, store.Named("roster.findClassByCode",
		classColumns+"WHERE c.code = ? AND c.archived IS NULL AND c.binned IS NULL"), 0, code))
}

// insertClass adds a class; a joining code that exists is errCodeTaken.
func insertClass(ctx context.Context, tx *store.Tx, owner int64, name, code string) (int64, error) {
	id, err := tx.Insert(ctx, store.Named("roster.insertClass",
		"INSERT INTO classes (owner, name, code, created) VALUES (?, ?, ?, ?)"), owner, name, code, store.Now())
	if err != nil {
		return 0, store.Instead(err, store.ErrDuplicate, errCodeTaken)
	}
	return id, UpdateRole(ctx, tx, id, owner, access.Owner)
}

// PracticeView says how much of their students' practice the instructors of a class see.
type PracticeView int

// What they may see.
const (
	SeesNothing PracticeView = iota
	SeesSum                  // of the class, without names
	SeesEach                 // student's practice, in their progress and in their data
)

// Student is a member of one class.
type Student struct {
	ID        int64
	Class     int64
	ClassName string
	Name      string
	Hash      string       // of the passphrase; "" while a new one is to be chosen
	Extra     int          // minutes on top of whatever is timed
	Zone      string       // of the class's clock; "" is the server's
	Words     string       // that the class's students see, as a document
	Practice  PracticeView // what the class's instructors see of practice
	Guest     bool         // came with a handle only, and is gone when the lesson is over
	Team      string       // group within the class; "" for none
	Left      time.Time    // when they left the class; zero while they are in it
	Waits     bool         // has asked to join, and is not in it yet
	Shut      bool         // the class was put away
	Entry     int64        // sessions begun under an earlier number are over
	Language  string       // that they have chosen, as "de"; "" for none
	Number    string       // the school's own number or address of the student; "" for none
	Owner     int64        // the instructor who leads the class
}

// Here reports whether the student is in the class, and the class runs.
func (s Student) Here() bool { return s.Left.IsZero() && !s.Shut }

const StudentColumns = `SELECT s.id, s.class, c.name, s.name, s.hash, s.extra_minutes, c.zone, c.words, c.practice_seen,
	s.guest,
	s.team, s.gone, s.waits, c.archived IS NOT NULL OR c.binned IS NOT NULL, s.entry, s.number, s.language, c.owner
	FROM students s JOIN classes c ON c.id = s.class `

// ScanStudent reads a row of the students with their class.
func ScanStudent(r store.Row) (st Student, err error) {
	var gone *int64
	err = r.Scan(&st.ID, &st.Class, &st.ClassName, &st.Name, &st.Hash, &st.Extra, &st.Zone, &st.Words, &st.Practice,
		&st.Guest, &st.Team, &gone, &st.Waits, &st.Shut, &st.Entry, &st.Number, &st.Language, &st.Owner)
	st.Left = store.TimeOf(gone)
	return st, err
}

// findStudentByName finds a student of a class to sign in, however the name is spelled.
func findStudentByName(ctx context.Context, q store.Queryer, class int64, name string) (Student, error) {
	return store.Only(store.All(ctx, q, ScanStudent, store.Named("roster.findStudentByName",
		StudentColumns+"WHERE s.class = ? AND s.folded = ?"), class, names.Fold(name)))
}

// students remembers students by their id, with what they see of their class.
var students = store.NewCache[int64, Student](20_000)

// FindStudent finds a student by id.
func FindStudent(ctx context.Context, q store.Queryer, id int64) (Student, error) {
	return students.Get(q, id, func() (Student, error) {
		return store.Only(store.All(ctx, q, ScanStudent,
			store.Named("roster.FindStudent", StudentColumns+"WHERE s.id = ?"), id))
	})
}

// studentMethod is the school of a student's class, as a document.
func studentMethod(ctx context.Context, q store.Queryer, student int64) (method string, err error) {
	err = store.One(ctx, q, store.Named("roster.studentMethod",
		"SELECT c.method FROM students s JOIN classes c ON c.id = s.class WHERE s.id = ?"), []any{student}, &method)
	return method, err
}

// ListStudents lists the students who are in a class that an instructor teaches, by name.
func ListStudents(ctx context.Context, q store.Queryer, owner, class int64) ([]Student, error) {
	return store.All(ctx, q, ScanStudent,
		store.Named("roster.ListStudents",
			StudentColumns+"WHERE "+access.Taught+" AND c.id = ? AND NOT s.guest AND s.gone IS NULL ORDER BY "+
				"s.folded COLLATE people, s.id"), owner, class)
}

// insertStudent adds a student to a class; a name that exists there is ErrNameTaken.
func insertStudent(ctx context.Context, tx *store.Tx, class int64, name, hash string) (int64, error) {
	id, err := tx.Insert(ctx, store.Named("roster.insertStudent",
		"INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, ?, ?)"), class, name,
		names.Fold(name), hash, store.Now())
	return id, store.Instead(err, store.ErrDuplicate, ErrNameTaken)
}

// clearPassphrase takes the passphrase of a student of a class away, and ends all sessions.
func clearPassphrase(ctx context.Context, tx *store.Tx, class, student int64) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.clearPassphrase",
		"UPDATE students SET hash = '', entry = entry + 1 WHERE id = ? AND class = ? AND NOT guest"), student, class)
}

// changePassphrase keeps the hash of a student's new passphrase; all sessions are over.
func changePassphrase(ctx context.Context, tx *store.Tx, student int64, hash string) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.changePassphrase",
		"UPDATE students SET hash = ?, entry = entry + 1 WHERE id = ?"), hash, student)
}

// choosePassphrase sets the passphrase of a student whose old one was cleared; else it is ErrHasPassphrase.
func choosePassphrase(ctx context.Context, tx *store.Tx, student int64, hash string) error {
	students.Forget(tx, student)
	err := tx.Change(ctx, store.Named("roster.choosePassphrase",
		"UPDATE students SET hash = ? WHERE id = ? AND hash = ''"), hash, student)
	return store.Instead(err, store.ErrNotFound, ErrHasPassphrase)
}

// endStudentSessions ends all sessions of a student.
func endStudentSessions(ctx context.Context, tx *store.Tx, student int64) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.endStudentSessions",
		"UPDATE students SET entry = entry + 1 WHERE id = ?"), student)
}
