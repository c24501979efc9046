package ledgers

import (
	"context"
	"time"

	"cavix/school/roster"
	"cavix/store"
)

// Answered is one field of a card that was answered, as tables of answers have it.
type Answered struct {
	Class, Sheet string // its title; "" of practice
	Block, Card  int    // from 1; a block of 0 is not known
	Attempt      int
	Kind, Family string
	Instrument   string // its name, and its least count as written; "" where there is none, or Item tells
	LeastCount   string
	Item         string // the item document of a card that was dealt before its instrument was noted; else ""
	Student      string
	Team         string
	Field        string
	Given        string
	Expected     string
	Outcome      string
	Half, Of     int64 // twice the marks
	Slip         string
	Hints        int
	Seconds      int // from first sight to the answer; 0 where that is not known
	Answered     time.Time
	Late         bool
	Number       string // the school's own, of the student
}

const answered = `SELECT c.name, coalesce(a.title, ''), k.block, k.n, k.attempt, k.kind, k.family, k.instrument,
	k.least_count,
	iif(k.instrument = '' AND k.family <> '', k.item, ''), s.name, s.team, e.field, e.given, e.expected, e.outcome,
	e.half_marks, e.half_of, coalesce(e.slip, ''), k.hints, coalesce(k.answered - k.seen, 0), k.answered, k.late,
	s.number
	FROM cards k JOIN entries e ON e.card = k.id JOIN students s ON s.id = k.student JOIN classes c ON c.id = s.class
	LEFT JOIN assignments a ON a.id = k.assignment WHERE k.answered IS NOT NULL AND `

// answers hands over what was answered, field by field, the oldest first.
func answers(ctx context.Context, q store.Queryer, each func(Answered) error, whose string, args ...any) error {
	_, err := store.All(ctx, q, func(r store.Row) (none struct{}, err error) {
		var o Answered
		var at int64
		if err := r.Scan(&o.Class, &o.Sheet, &o.Block, &o.Card, &o.Attempt, &o.Kind, &o.Family, &o.Instrument,
			&o.LeastCount, &o.Item, &o.Student, &o.Team, &o.Field, &o.Given, &o.Expected, &o.Outcome, &o.Half, &o.Of,
			&o.Slip, &o.Hints,
			&o.Seconds, &at, &o.Late, &o.Number); err != nil {
			return none, err
		}
		o.Answered = time.Unix(at, 0).UTC()
		return none, each(o)
	}, store.Named("ledgers.answers", answered+whose), args...)
	return err
}

// readStudentAnswers hands over all that a student of a class answered; practice only where the class shows each
// student's.
func readStudentAnswers(ctx context.Context, q store.Queryer, class, student int64, each func(Answered) error) error {
	st, err := roster.FindStudent(ctx, q, student)
	if err != nil {
		return err
	}
	return answers(ctx, q, each,
		"s.class = ? AND k.student = ? AND (? OR k.assignment IS NOT NULL) ORDER BY k.answered, k.id, e.n", class,
		student, st.Practice == roster.SeesEach)
}
