package store

import (
	"errors"
	"time"

	"cavix/core/names"
)

// Round is a question that a whole class is asked at once.
type Round struct {
	ID     int64
	Class  int64
	Item   string // the item document
	Shown  bool   // the figure stands on students' screens too
	Opened time.Time
	Closed time.Time // zero while answers are taken
	Told   time.Time // when the answers were uncovered; zero until then
}

func scanRound(r row) (o Round, err error) {
	var opened int64
	var closed, told *int64
	err = r.Scan(&o.ID, &o.Class, &o.Item, &o.Shown, &opened, &closed, &told)
	o.Opened, o.Closed, o.Told = time.Unix(opened, 0), when(closed), when(told)
	return o, err
}

const roundColumns = "SELECT r.id, r.class, r.item, r.shown, r.opened, r.closed, r.told FROM rounds r "

// LatestRound is the last round of a class, whoever asks; ErrNotFound where there was none.
func (r *Reader) LatestRound(class int64) (Round, error) {
	return only(all(r, scanRound, roundColumns+"WHERE r.class = ? ORDER BY r.id DESC LIMIT 1", class))
}

// Rounds lists the rounds of one of an instructor's classes, the latest first, up to most.
func (r *Reader) Rounds(owner, class int64, most int) ([]Round, error) {
	return all(r, scanRound, roundColumns+`JOIN classes c ON c.id = r.class WHERE `+taught+` AND r.class = ?
		ORDER BY r.id DESC LIMIT ?`, owner, class, most)
}

// Round finds a round of one of an instructor's classes.
func (r *Reader) Round(owner, id int64) (Round, error) {
	return only(all(r, scanRound, roundColumns+"JOIN classes c ON c.id = r.class WHERE "+taught+" AND r.id = ?", owner, id))
}

// StudentRound is the last round of a student's class.
func (r *Reader) StudentRound(student int64) (Round, error) {
	return only(all(r, scanRound, roundColumns+`WHERE r.class = (SELECT class FROM students WHERE id = ?)
		ORDER BY r.id DESC LIMIT 1`, student))
}

// AddRound opens a round of a class.
func (t *Tx) AddRound(class int64, item string, shown bool, at time.Time) (int64, error) {
	return t.insert("INSERT INTO rounds (class, item, shown, opened) VALUES (?, ?, ?, ?)", class, item, shown, at.Unix())
}

// CloseRounds takes no more answers to any open round of a class.
func (t *Tx) CloseRounds(class int64, at time.Time) error {
	_, err := t.Exec("UPDATE rounds SET closed = ? WHERE class = ? AND closed IS NULL", at.Unix(), class)
	return err
}

// TellRound uncovers the answers to a round, which is closed then.
func (t *Tx) TellRound(round int64, at time.Time) error {
	return t.change("UPDATE rounds SET closed = coalesce(closed, ?), told = coalesce(told, ?) WHERE id = ?", at.Unix(), at.Unix(),
		round)
}

// Reply is what a student answered to a round.
type Reply struct {
	Student  int64
	Answer   string // as typed
	Half, Of int64  // twice the marks
	Slip     string // the first that explains it
	Answered time.Time
}

func scanReply(r row) (a Reply, err error) {
	var slip *string
	var answered int64
	err = r.Scan(&a.Student, &a.Answer, &a.Half, &a.Of, &slip, &answered)
	a.Answered = time.Unix(answered, 0)
	if slip != nil {
		a.Slip = *slip
	}
	return a, err
}

const replyColumns = "SELECT student, answer, half_marks, half_of, slip, answered FROM replies "

// Replies lists the answers to a round in the order in which they were last changed.
func (r *Reader) Replies(round int64) ([]Reply, error) {
	return all(r, scanReply, replyColumns+"WHERE round = ? ORDER BY answered, student", round)
}

// ReplyOf is a student's answer to a round.
func (r *Reader) ReplyOf(round, student int64) (Reply, error) {
	return only(all(r, scanReply, replyColumns+"WHERE round = ? AND student = ?", round, student))
}

// CountReplies tells how many have answered a round, and how many could: students who are in the class, and guests.
func (r *Reader) CountReplies(round int64) (answered, of int, err error) {
	return answered, of, r.one(`SELECT (SELECT count(*) FROM replies WHERE round = r.id),
		(SELECT count(*) FROM students WHERE class = r.class AND gone IS NULL) FROM rounds r WHERE r.id = ?`, []any{round}, &answered, &of)
}

// SetReply keeps a student's answer to an open round of their class; the latest counts. It is ErrTaken on one that is closed,
// and for a student who has left the class.
func (t *Tx) SetReply(round int64, a Reply) error {
	err := t.change(`INSERT INTO replies (round, student, answer, half_marks, half_of, slip, answered)
		SELECT r.id, s.id, ?, ?, ?, nullif(?, ''), ? FROM rounds r JOIN students s ON s.class = r.class
			WHERE r.id = ? AND r.closed IS NULL AND s.id = ? AND s.gone IS NULL
		ON CONFLICT (round, student) DO UPDATE SET answer = excluded.answer, half_marks = excluded.half_marks,
		half_of = excluded.half_of, slip = excluded.slip, answered = excluded.answered`,
		a.Answer, a.Half, a.Of, a.Slip, a.Answered.Unix(), round, a.Student)
	if errors.Is(err, ErrNotFound) {
		return ErrTaken
	}
	return err
}

// Board is what stands on the Board of one of an instructor's classes; "" where nothing was shown yet.
func (r *Reader) Board(owner, class int64) (state string, err error) {
	err = r.one("SELECT coalesce(b.state, '') FROM classes c LEFT JOIN boards b ON b.class = c.id WHERE c.id = ? AND "+taught,
		[]any{class, owner}, &state)
	return state, err
}

// SetBoard keeps what stands on the Board of one of an instructor's classes.
func (t *Tx) SetBoard(owner, class int64, state string) error {
	return t.change(`INSERT INTO boards (class, state) SELECT class, ? FROM teaching WHERE class = ? AND instructor = ? AND role <> 'looks'
		ON CONFLICT (class) DO UPDATE SET state = excluded.state`, state, class, owner)
}

// noSign is the hash of a guest, that no passphrase has.
const noSign = "guest"

// AddGuest adds somebody who joins rounds with a handle only; a name that exists in the class is ErrTaken.
func (t *Tx) AddGuest(class int64, name string) (int64, error) {
	return t.insert("INSERT INTO students (class, name, folded, hash, created, guest) VALUES (?, ?, ?, ?, ?, 1)", class, name,
		names.Fold(name), noSign, now())
}

// DropGuests removes the guests who came before a time, with all that they answered.
func (t *Tx) DropGuests(before time.Time) error {
	_, err := t.Exec("DELETE FROM students WHERE guest AND created < ?", before.Unix())
	return err
}
