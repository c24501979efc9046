package store

import (
	"slices"
	"time"
)

// Sitting is an attempt of a student at a sheet that was given.
type Sitting struct {
	Assignment int64
	Student    int64
	Attempt    int // 1, 2, 3 …
	Began      time.Time
	Ends       time.Time // when it is over; zero: never
	Handed     time.Time // zero until it is handed in or closed
	Extra      int       // minutes that the student has on top
	More       int       // minutes that this attempt was given after an interruption
	Half, Of   int64     // twice the marks of its cards that are checked and told; only Scored reads them
	Full       int64     // twice the full marks of all its cards; only Scored reads them
	Done       int       // cards answered; only Scored reads them
}

func scanSitting(r row) (s Sitting, err error) {
	var began int64
	var ends, handed, half, of, full, done *int64
	err = r.Scan(&s.Assignment, &s.Student, &s.Attempt, &began, &ends, &handed, &s.Extra, &s.More, &half, &of, &full, &done)
	s.Ends = when(ends)
	s.Began, s.Handed, s.Half, s.Of = time.Unix(began, 0), when(handed), orZero(half), orZero(of)
	s.Full, s.Done = orZero(full), int(orZero(done))
	return s, err
}

const (
	sittingHead    = "SELECT t.assignment, t.student, t.attempt, t.began, t.ends, t.handed, s.extra_minutes, t.more_minutes, "
	sittingTail    = " FROM sittings t JOIN students s ON s.id = t.student "
	sittingColumns = sittingHead + "NULL, NULL, NULL, NULL" + sittingTail
	scoredColumns  = sittingHead + "iif(t.hidden, NULL, t.half_marks), iif(t.hidden, NULL, t.half_of), t.half_full, t.done" + sittingTail
)

// Scored lists a student's attempts at a sheet with their marks, the first first.
func (r *Reader) Scored(student, assignment int64) ([]Sitting, error) {
	return all(r, scanSitting, scoredColumns+"WHERE t.student = ? AND t.assignment = ? ORDER BY t.attempt", student,
		assignment)
}

// Sittings lists a student's attempts at a sheet, the first first, without their marks.
func (r *Reader) Sittings(student, assignment int64) ([]Sitting, error) {
	list, err := remember(r.known, settledKey{what: "sittings", a: student, b: assignment}, func() ([]Sitting, error) {
		return all(r, scanSitting, sittingColumns+"WHERE t.student = ? AND t.assignment = ? ORDER BY t.attempt", student, assignment)
	})
	return slices.Clone(list), err
}

// Over lists attempts that are over by the clock and not handed in, up to most.
func (r *Reader) Over(at time.Time, most int) ([]Sitting, error) {
	return all(
		r,
		scanSitting,
		sittingColumns+"WHERE t.handed IS NULL AND t.ends <= ? ORDER BY t.ends LIMIT ?",
		at.Unix(),
		most,
	)
}

// UnderWay lists the attempts that are not handed in at a sheet, or of a student; 0 stands for any.
func (r *Reader) UnderWay(assignment, student int64) ([]Sitting, error) {
	return all(
		r,
		scanSitting,
		sittingColumns+"WHERE t.handed IS NULL AND ? IN (0, t.assignment) AND ? IN (0, t.student)",
		assignment,
		student,
	)
}

// AtWork reports whether a student may work on an attempt at a time: it is the latest, it is not handed in, its time has
// not gone by, and the student is in the class that was given the sheet, which runs.
func (r *Reader) AtWork(student, assignment int64, attempt int, at time.Time) (may bool, err error) {
	return may, r.one(`SELECT EXISTS (SELECT 1 FROM sittings t JOIN assignments a ON a.id = t.assignment JOIN students s ON s.id = t.student
		JOIN classes c ON c.id = a.class WHERE t.student = ? AND t.assignment = ? AND t.attempt = ? AND t.handed IS NULL
		AND (t.ends IS NULL OR t.ends > ?) AND s.class = a.class AND s.gone IS NULL AND c.archived IS NULL AND c.binned IS NULL
		AND NOT EXISTS (SELECT 1 FROM sittings l WHERE l.assignment = t.assignment AND l.student = t.student AND l.attempt > t.attempt))`,
		[]any{student, assignment, attempt, at.Unix()}, &may)
}

// Place tells where a student sits in the class: how many joined before.
func (r *Reader) Place(student int64) (n int, err error) {
	return n, r.one(
		"SELECT count(*) FROM students o JOIN students s ON s.class = o.class WHERE s.id = ? AND o.id < s.id",
		[]any{student},
		&n,
	)
}

// Sit notes that a student begins an attempt; one that has begun is ErrTaken.
func (t *Tx) Sit(s Sitting) error {
	_, err := t.insert(
		"INSERT INTO sittings (assignment, student, attempt, began, ends) VALUES (?, ?, ?, ?, ?)",
		s.Assignment,
		s.Student,
		s.Attempt,
		s.Began.Unix(),
		orNull(s.Ends),
	)
	return err
}

// SetEnds changes when an attempt is over.
func (t *Tx) SetEnds(s Sitting, ends time.Time) error {
	return t.change("UPDATE sittings SET ends = ? WHERE assignment = ? AND student = ? AND attempt = ?", orNull(ends),
		s.Assignment, s.Student, s.Attempt)
}

// HandIn notes that an attempt is handed in; first is false where it was before.
func (t *Tx) HandIn(student, assignment int64, attempt int, at time.Time) (first bool, err error) {
	return t.changed(
		"UPDATE sittings SET handed = ? WHERE student = ? AND assignment = ? AND attempt = ? AND handed IS NULL",
		at.Unix(),
		student,
		assignment,
		attempt,
	)
}

// SetExtra gives a student of a class minutes on top of whatever is timed.
func (t *Tx) SetExtra(class, student int64, minutes int) error {
	return t.change("UPDATE students SET extra_minutes = ? WHERE id = ? AND class = ? AND NOT guest", minutes, student, class)
}
