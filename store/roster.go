package store

import (
	"time"

	"cavix/core/names"
	"cavix/core/text"
)

// Mentor is an instructor who teaches a class.
type Mentor struct {
	ID          int64
	Login, Name string
	Role        Role
}

// Staff lists who teaches a class, who leads it first.
func (r *Reader) Staff(class int64) ([]Mentor, error) {
	return all(r, func(r row) (m Mentor, err error) { return m, r.Scan(&m.ID, &m.Login, &m.Name, &m.Role) },
		`SELECT i.id, i.login, i.name, f.role FROM staff f JOIN instructors i ON i.id = f.instructor
		WHERE f.class = ? ORDER BY f.role <> 'leads', i.name, i.id`, class)
}

// RoleIn is what an instructor may do in a class; ErrNotFound where they do not teach it.
func (r *Reader) RoleIn(instructor, class int64) (role Role, err error) {
	return role, r.one("SELECT role FROM teaching WHERE instructor = ? AND class = ?", []any{instructor, class}, &role)
}

// ClassOf is the class that a sheet was given to.
func (r *Reader) ClassOf(assignment int64) (class int64, err error) {
	return class, r.one("SELECT class FROM assignments WHERE id = ?", []any{assignment}, &class)
}

// ClassOfSurvey is the class that a study was given to.
func (r *Reader) ClassOfSurvey(survey int64) (class int64, err error) {
	return class, r.one("SELECT class FROM surveys WHERE id = ? AND binned IS NULL", []any{survey}, &class)
}

// SetRole has an instructor teach a class, or changes what they may do there.
func (t *Tx) SetRole(class, instructor int64, role Role) error {
	_, err := t.Exec(`INSERT INTO staff (class, instructor, role) VALUES (?, ?, ?)
		ON CONFLICT (class, instructor) DO UPDATE SET role = excluded.role`, class, instructor, role)
	return err
}

// DropRole has an instructor who does not lead a class teach it no longer.
func (t *Tx) DropRole(class, instructor int64) error {
	return t.change("DELETE FROM staff WHERE class = ? AND instructor = ? AND role <> 'leads'", class, instructor)
}

// Everybody lists all students of a class that an instructor teaches, by name, those too who have left.
func (r *Reader) Everybody(instructor, class int64) ([]Student, error) {
	return all(r, scanStudent, studentColumns+"WHERE "+taught+" AND c.id = ? AND NOT s.guest AND s.binned IS NULL ORDER BY s.gone IS NOT NULL, s.folded",
		instructor, class)
}

// Pupil finds a student of a class.
func (r *Reader) Pupil(class, student int64) (Student, error) {
	return only(all(r, scanStudent, studentColumns+"WHERE s.class = ? AND s.id = ? AND NOT s.guest AND s.binned IS NULL", class, student))
}

// SetPupil keeps a student's name, group, extra minutes and number; a name that exists in the class is ErrTaken.
func (t *Tx) SetPupil(s Student) error {
	return t.change("UPDATE students SET name = ?, folded = ?, team = ?, extra_minutes = ?, number = ? WHERE id = ? AND class = ?",
		s.Name, names.Fold(s.Name), s.Team, s.Extra, s.Number, s.ID, s.Class)
}

// SetGone notes when a student left the class, which ends all their sessions; a zero time brings them back, or lets in one
// who waits.
func (t *Tx) SetGone(class, student int64, at time.Time) error {
	return t.change("UPDATE students SET gone = ?, waits = 0, entry = entry + ? WHERE id = ? AND class = ?", orNull(at), !at.IsZero(), student, class)
}

// SetWaiting has a student who has just joined wait to be let in.
func (t *Tx) SetWaiting(class, student int64, at time.Time) error {
	return t.change("UPDATE students SET gone = ?, waits = 1 WHERE id = ? AND class = ?", at.Unix(), student, class)
}

// SetJoining settles how somebody who is on no list joins a class.
func (t *Tx) SetJoining(class int64, how Joining) error {
	return t.change("UPDATE classes SET joining = ? WHERE id = ?", string(how), class)
}

// SetCode gives a class another joining code; one that exists is ErrTaken.
func (t *Tx) SetCode(class int64, code string) error {
	return t.change("UPDATE classes SET code = ? WHERE id = ?", code, class)
}

// Namesakes lists the names in a class, but for one student's: those who have left and guests too.
func (r *Reader) Namesakes(class, but int64) ([]string, error) {
	return all(r, func(r row) (name string, err error) { return name, r.Scan(&name) },
		"SELECT name FROM students WHERE class = ? AND id <> ? AND binned IS NULL", class, but)
}

// JoinedSince counts who joined a class by themselves since a time, as members or as guests, and who of those is there
// altogether.
func (r *Reader) JoinedSince(class int64, guests bool, since time.Time) (lately, all int, err error) {
	return lately, all, r.one(`SELECT coalesce(sum(created >= ? AND hash <> ''), 0), count(*) FROM students
		WHERE class = ? AND guest = ? AND binned IS NULL`, []any{since.Unix(), class, guests}, &lately, &all)
}

// Move brings a student to another class, with all answers; a name that exists there is ErrTaken.
func (t *Tx) Move(class, student, to int64) error {
	return t.change("UPDATE students SET class = ?, team = '' WHERE id = ? AND class = ?", to, student, class)
}

// DeletePupil removes a student with everything that is kept of them.
func (t *Tx) DeletePupil(class, student int64) error {
	return t.change("DELETE FROM students WHERE id = ? AND class = ?", student, class)
}

// SetArchived puts a class away; a zero time brings it back.
func (t *Tx) SetArchived(class int64, at time.Time) error {
	return t.change("UPDATE classes SET archived = ? WHERE id = ?", orNull(at), class)
}

// LogPeople notes what was done with the people of a class.
func (t *Tx) LogPeople(class int64, c Change) error {
	_, err := t.insert("INSERT INTO people_log (class, who, what, at) VALUES (?, ?, ?, ?)", class, c.Who, text.Stored(c.What), c.At.Unix())
	return err
}

// PeopleLog lists what was done with the people of a class, the latest first, up to most.
func (r *Reader) PeopleLog(class int64, most int) ([]Change, error) {
	return all(r, func(r row) (c Change, err error) {
		var at int64
		err = r.Scan(&c.Who, (*keptText)(&c.What), &at)
		c.At = time.Unix(at, 0)
		return c, err
	}, "SELECT who, what, at FROM people_log WHERE class = ? ORDER BY id DESC LIMIT ?", class, most)
}

// Seat is what a student has done in a class, in numbers: on sheets, and in practice where the class shows each student's.
type Seat struct {
	Student int64
	Cards   int       // answered
	Last    time.Time // answer; zero where there is none
}

// Seats counts what the students of a class have done.
func (r *Reader) Seats(class int64) ([]Seat, error) {
	return all(r, func(r row) (s Seat, err error) {
		var last *int64
		err = r.Scan(&s.Student, &s.Cards, &last)
		s.Last = when(last)
		return s, err
	}, `SELECT s.id, (SELECT coalesce(sum(t.done), 0) FROM sittings t WHERE t.student = s.id)
			+ iif(c.practice_seen = 2, (SELECT count(k.answered) FROM cards k WHERE k.student = s.id AND k.assignment IS NULL), 0),
		(SELECT max(k.answered) FROM cards k WHERE k.student = s.id AND k.answered IS NOT NULL
			AND (k.assignment IS NOT NULL OR c.practice_seen = 2))
		FROM students s JOIN classes c ON c.id = s.class WHERE s.class = ?`, class)
}
