package store

import (
	"errors"
	"time"
)

// Practice is how a student practises.
type Practice struct {
	Families     string // chosen to practise on, with spaces between; "" is what is needed most
	Cards        int    // practised in all
	Level        int
	Wrong, Right int    // in a row
	Why          string // the card that is open
}

// Evidence is how often a slip could have happened to a student on a family of instruments, and did, weighted by age.
type Evidence struct {
	Family, Slip string
	Could, Did   float64
	At           int // the card at which it was weighed
}

// Practice reads how a student practises; one who never did has the zero value.
func (r *Reader) Practice(student int64) (p Practice, err error) {
	err = r.one(`SELECT families, cards, level, wrong, "right", why FROM practice WHERE student = ?`, []any{student},
		&p.Families, &p.Cards, &p.Level, &p.Wrong, &p.Right, &p.Why)
	if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return p, err
}

// SetPractice keeps how a student practises.
func (t *Tx) SetPractice(student int64, p Practice) error {
	_, err := t.Exec(
		`INSERT INTO practice (student, families, cards, level, wrong, "right", why) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (student) DO UPDATE SET families = excluded.families, cards = excluded.cards, level = excluded.level,
		wrong = excluded.wrong, "right" = excluded."right", why = excluded.why`,
		student,
		p.Families,
		p.Cards,
		p.Level,
		p.Wrong,
		p.Right,
		p.Why,
	)
	return err
}

// Evidence lists what is known of a student's slips.
func (r *Reader) Evidence(student int64) ([]Evidence, error) {
	return all(r, func(r row) (e Evidence, err error) {
		return e, r.Scan(&e.Family, &e.Slip, &e.Could, &e.Did, &e.At)
	}, "SELECT family, slip, could, did, at FROM evidence WHERE student = ?", student)
}

// SetEvidence keeps what is known of one of a student's slips.
func (t *Tx) SetEvidence(student int64, e Evidence) error {
	_, err := t.Exec(`INSERT INTO evidence (student, family, slip, could, did, at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (student, family, slip) DO UPDATE SET could = excluded.could, did = excluded.did, at = excluded.at`,
		student, e.Family, e.Slip, e.Could, e.Did, e.At)
	return err
}

// Practised finds a card that a student practised, by its number.
func (r *Reader) Practised(student int64, n int) (Card, error) {
	return only(all(r, scanCard, cardColumns+"WHERE k.student = ? AND k.assignment IS NULL AND k.n = ?", student, n))
}

// Open finds the card that a student has begun to practise on, and not checked.
func (r *Reader) Open(student int64) (Card, error) {
	return only(all(r, scanCard, cardColumns+"WHERE k.student = ? AND k.assignment IS NULL AND k.answered IS NULL",
		student))
}

// PractisedLately lists the items that a student practised last, the latest first, up to most.
func (r *Reader) PractisedLately(student int64, most int) ([]string, error) {
	return all(r, func(r row) (s string, err error) { return s, r.Scan(&s) },
		"SELECT item FROM cards WHERE student = ? AND assignment IS NULL ORDER BY n DESC LIMIT ?", student, most)
}

// PracticeMarks lists the marks of the cards that a student practised last, the oldest first, up to most.
func (r *Reader) PracticeMarks(student int64, most int) ([]Mark, error) {
	return all(r, scanPractised, `SELECT * FROM (SELECT n, half_marks, half_of, slip, answered FROM cards
		WHERE student = ? AND assignment IS NULL ORDER BY n DESC LIMIT ?) ORDER BY n`, student, most)
}

func scanPractised(r row) (m Mark, err error) {
	var half, of, answered *int64
	var slip *string
	err = r.Scan(&m.N, &half, &of, &slip, &answered)
	m.Done, m.Half, m.Of = answered != nil, orZero(half), orZero(of)
	if slip != nil {
		m.Slip = *slip
	}
	return m, err
}

// Day is what a student practised on one day.
type Day struct {
	At       time.Time
	Cards    int
	Half, Of int64 // twice the marks
}

// PracticeDays lists what a student practised by day, the oldest first, of the latest days up to most. The days are those
// of a clock that is so many seconds ahead of the world's.
func (r *Reader) PracticeDays(student int64, ahead, most int) ([]Day, error) {
	return all(r, func(r row) (d Day, err error) {
		var day int64
		err = r.Scan(&day, &d.Cards, &d.Half, &d.Of)
		d.At = time.Unix(day*86400, 0).UTC()
		return d, err
	}, `SELECT * FROM (SELECT (answered + ?) / 86400 AS day, count(*), sum(half_marks), sum(half_of) FROM cards
		WHERE student = ? AND assignment IS NULL AND answered IS NOT NULL GROUP BY day ORDER BY day DESC LIMIT ?) ORDER BY day`,
		ahead, student, most)
}
