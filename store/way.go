package store

import "time"

// Own is one field of a card that a student has answered and was told of, as the student's own export has it.
type Own struct {
	Sheet    string // its title; "" of practice
	Attempt  int
	Card     int
	Kind     string
	Item     string // the item document
	Field    string
	Given    string
	Expected string
	Outcome  string
	Half, Of int64 // twice the marks
	Slip     string
	Hints    int
	Answered time.Time
	Late     bool
}

// OwnAnswers hands over all that a student answered and was told of, field by field, the oldest first.
func (r *Reader) OwnAnswers(student int64, each func(Own) error) error {
	_, err := all(r, func(r row) (none struct{}, err error) {
		var o Own
		var answered int64
		if err := r.Scan(&o.Sheet, &o.Attempt, &o.Card, &o.Kind, &o.Item, &o.Field, &o.Given, &o.Expected, &o.Outcome, &o.Half,
			&o.Of, &o.Slip, &o.Hints, &answered, &o.Late); err != nil {
			return none, err
		}
		o.Answered = time.Unix(answered, 0).UTC()
		return none, each(o)
	}, `SELECT coalesce(a.title, ''), k.attempt, k.n, k.kind, k.item, e.field, e.given, e.expected, e.outcome, e.half_marks, e.half_of,
		coalesce(e.slip, ''), k.hints, k.answered, k.late
		FROM cards k JOIN entries e ON e.card = k.id LEFT JOIN assignments a ON a.id = k.assignment
		WHERE k.student = ? AND k.answered IS NOT NULL AND NOT k.hidden ORDER BY k.answered, k.id, e.n`, student)
	return err
}

// PracticeSum is what a class practised by itself, without names.
type PracticeSum struct {
	Students, Cards int
	Half, Of        int64 // twice the marks
}

// PracticeSum sums up what one of an instructor's classes practised since a time, where the class says that it is seen.
func (r *Reader) PracticeSum(owner, class int64, since time.Time) (s PracticeSum, err error) {
	return s, r.one(`SELECT count(DISTINCT k.student), count(*), coalesce(sum(k.half_marks), 0), coalesce(sum(k.half_of), 0)
		FROM cards k JOIN students st ON st.id = k.student JOIN classes c ON c.id = st.class
		WHERE c.owner = ? AND c.id = ? AND c.practice_seen AND k.assignment IS NULL AND k.answered >= ?`,
		[]any{owner, class, since.Unix()}, &s.Students, &s.Cards, &s.Half, &s.Of)
}

// SlipCount is how often a slip was made.
type SlipCount struct {
	Slip  string
	Cards int
}

// PracticeSlips lists the slips that a class made most in practice since a time, where the class says that it is seen.
func (r *Reader) PracticeSlips(owner, class int64, since time.Time, most int) ([]SlipCount, error) {
	return all(r, func(r row) (s SlipCount, err error) { return s, r.Scan(&s.Slip, &s.Cards) },
		`SELECT k.slip, count(*) FROM cards k JOIN students st ON st.id = k.student JOIN classes c ON c.id = st.class
		WHERE c.owner = ? AND c.id = ? AND c.practice_seen AND k.assignment IS NULL AND k.answered >= ? AND k.slip IS NOT NULL
		GROUP BY k.slip ORDER BY count(*) DESC, k.slip LIMIT ?`, owner, class, since.Unix(), most)
}

// Week is what a student did in one week of Mondays to Sundays.
type Week struct {
	Begins    time.Time
	Cards     int
	Practised int // of the cards
	Half, Of  int64
}

// weekOf is the week of a card's answer, counted from the first Monday of 1970, by a clock that is so many seconds ahead.
const weekOf = "(answered + ? + 259200) / 604800"

func weekBegins(week int64) time.Time { return time.Unix(week*604800-259200, 0).UTC() }

// Weeks lists what a student did and was told of by week, the oldest first, of the latest weeks up to most.
func (r *Reader) Weeks(student int64, ahead, most int) ([]Week, error) {
	return all(r, func(r row) (w Week, err error) {
		var week int64
		err = r.Scan(&week, &w.Cards, &w.Practised, &w.Half, &w.Of)
		w.Begins = weekBegins(week)
		return w, err
	}, `SELECT * FROM (SELECT `+weekOf+` AS week, count(*), sum(assignment IS NULL),
		coalesce(sum(coalesce(own_half_marks, half_marks)), 0), coalesce(sum(half_of), 0) FROM cards
		WHERE student = ? AND answered IS NOT NULL AND NOT hidden GROUP BY week ORDER BY week DESC LIMIT ?) ORDER BY week`,
		ahead, student, most)
}

// SlipWeek is how often a student made a slip in one week.
type SlipWeek struct {
	Slip   string
	Begins time.Time
	Cards  int
}

// SlipWeeks lists how often a student made each slip, week by week.
func (r *Reader) SlipWeeks(student int64, ahead int, since time.Time) ([]SlipWeek, error) {
	return all(r, func(r row) (s SlipWeek, err error) {
		var week int64
		err = r.Scan(&s.Slip, &week, &s.Cards)
		s.Begins = weekBegins(week)
		return s, err
	}, "SELECT slip, "+weekOf+` AS week, count(*) FROM cards
		WHERE student = ? AND answered >= ? AND slip IS NOT NULL AND NOT hidden GROUP BY slip, week ORDER BY slip, week`,
		ahead, student, since.Unix())
}
