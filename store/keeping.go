package store

import (
	"errors"
	"time"

	"cavix/core/text"
)

// Names of what is noted of the file itself.
const (
	Served    = "served"     // "running" while a server has the file open
	LastCheck = "last-check" // what the last look through the file found
	LastCopy  = "last-copy"  // what the last daily copy came to
	DeviceKey = "device-key" // signs the cookies of browsers that have signed in before

	EarlierMarked = "earlier-marked" // sheets that the last check found marked by an earlier version's rules
	WholeSheets   = "whole-sheets"   // whose marks changed when all cards of a sheet began to count
)

// Noted is what is noted under a name; "" and the zero time where nothing is.
func (r *Reader) Noted(name string) (value string, at time.Time, err error) {
	var seconds int64
	err = r.one("SELECT value, at FROM keeping WHERE name = ?", []any{name}, &value, &seconds)
	if errors.Is(err, ErrNotFound) {
		return "", time.Time{}, nil
	}
	return value, time.Unix(seconds, 0), err
}

// Note keeps a value under a name.
func (t *Tx) Note(name, value string, at time.Time) error {
	_, err := t.Exec(`INSERT INTO keeping (name, value, at) VALUES (?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET value = excluded.value, at = excluded.at`, name, value, at.Unix())
	return err
}

// LogKeeping notes what was done that is no single class's business.
func (t *Tx) LogKeeping(c Change) error {
	_, err := t.insert("INSERT INTO keeping_log (who, what, at) VALUES (?, ?, ?)", c.Who, text.Stored(c.What), c.At.Unix())
	return err
}

// Logged is a change with where it was made.
type Logged struct {
	Change
	Of string // the class, or the sheet and class; "" for the server
}

// Log lists what was changed anywhere, the latest first: by whom, what and when. So many are passed over, and up to most are
// listed.
func (r *Reader) Log(skip, most int) ([]Logged, error) {
	return all(r, func(r row) (l Logged, err error) {
		var at int64
		err = r.Scan(&l.Who, (*keptText)(&l.What), &at, &l.Of)
		l.At = time.Unix(at, 0)
		return l, err
	}, `SELECT who, what, at, '' FROM keeping_log
		UNION ALL SELECT p.who, p.what, p.at, c.name FROM people_log p JOIN classes c ON c.id = p.class
		UNION ALL SELECT h.who, h.what, h.at, c.name || ', ' || a.title FROM changes h JOIN assignments a ON a.id = h.assignment
			JOIN classes c ON c.id = a.class
		ORDER BY 3 DESC, 1, 2 LIMIT ? OFFSET ?`, most, skip)
}

// SignIn is somebody's coming in, or a try that was refused.
type SignIn struct {
	Role    string
	Name    string // as it is kept, or as it was tried
	Class   string // of a student
	Address string
	Good    bool
	At      time.Time
}

// keptSignIns is how many sign-ins are kept.
const keptSignIns = 5000

// NoteSignIn keeps a sign-in, and lets go of the oldest.
func (t *Tx) NoteSignIn(s SignIn) error {
	id, err := t.insert("INSERT INTO signins (role, name, class, address, good, at) VALUES (?, ?, ?, ?, ?, ?)", s.Role, s.Name, s.Class,
		s.Address, s.Good, s.At.Unix())
	if err != nil || id%100 != 0 {
		return err
	}
	_, err = t.Exec("DELETE FROM signins WHERE id <= ?", id-keptSignIns)
	return err
}

// SignIns lists the latest sign-ins of a role, or of all where it is "", the latest first: skip are passed over.
func (r *Reader) SignIns(role string, skip, most int) ([]SignIn, error) {
	return all(r, func(r row) (s SignIn, err error) {
		var at int64
		err = r.Scan(&s.Role, &s.Name, &s.Class, &s.Address, &s.Good, &at)
		s.At = time.Unix(at, 0)
		return s, err
	}, `SELECT role, name, class, address, good, at FROM signins WHERE ? = '' OR role = ? ORDER BY id DESC LIMIT ? OFFSET ?`, role, role,
		most, skip)
}

// Numbers are how much is kept, for whoever keeps the server.
type Numbers struct{ Instructors, Classes, Students, Cards, Answers int }

// Numbers counts what is kept.
func (r *Reader) Numbers() (n Numbers, err error) {
	return n, r.one(`SELECT (SELECT count(*) FROM instructors), (SELECT count(*) FROM classes), (SELECT count(*) FROM students WHERE NOT guest),
		(SELECT count(*) FROM cards), (SELECT count(*) FROM cards WHERE answered IS NOT NULL)`, nil,
		&n.Instructors, &n.Classes, &n.Students, &n.Cards, &n.Answers)
}

// JoiningOf is how somebody who is on no list joins a class.
func (r *Reader) JoiningOf(class int64) (how Joining, err error) {
	return how, r.one("SELECT joining FROM classes WHERE id = ?", []any{class}, &how)
}
