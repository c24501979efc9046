package sitting

import (
	"context"
	"slices"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/store"
)

// Marked is the result of a card.
type Marked struct {
	Half, Of int64  // twice the marks, so that halves stay whole
	Slip     string // the first slip of the card; ""
	Fields   []exercise.Mark
}

// led is how far the entry that the card's slip explains is from right, in the unit of the instrument; nil where there
// is none, or it is no number.
func (m Marked) led() *float64 {
	for _, e := range m.Fields {
		if m.Slip == "" || len(e.Slips) == 0 || string(e.Slips[0]) != m.Slip {
			continue
		}
		given, err := length.ReadAny(e.Given)
		want, bad := length.ParseStored(e.Expected)
		if bad != nil {
			var angle length.Typed
			angle, bad = length.ReadAny(e.Expected)
			want = angle.Value
		}
		if err == nil && bad == nil { // else it is left out, or a choice
			by := given.Value.Sub(want).Abs().Float()
			return &by
		}
	}
	return nil
}

// Form reports whether a field lost marks for its form alone.
func (m Marked) Form() bool {
	return slices.ContainsFunc(m.Fields, func(f exercise.Mark) bool { return f.Outcome == exercise.InForm })
}

// UpdateMarks keeps what a card came to, in place of what it came to before.
func UpdateMarks(ctx context.Context, tx *store.Tx, card int64, m Marked) error {
	result, err := store.JSON(m.Fields)
	if err != nil {
		return err
	}
	return tx.Change(ctx, store.Named("sitting.UpdateMarks", `UPDATE cards SET half_marks = ?, half_of = ?,
		half_full = ?, slip = nullif(?, ''), led = ?, form = ?, result = packed(?) WHERE id = ?`), m.Half, m.Of, m.Of,
		m.Slip, m.led(), m.Form(), result, card)
}

// Result is the result of a card as it is kept.
type Result struct {
	Card     int64
	Document string // what each field came to, as a JSON list
}

// ListResults lists the results of the cards of a sheet that was given.
func ListResults(ctx context.Context, q store.Queryer, assignment int64) ([]Result, error) {
	return store.All(ctx, q, func(r store.Row) (k Result, err error) { return k, r.Scan(&k.Card, &k.Document) },
		store.Named("sitting.ListResults", `SELECT id, unpacked(result) FROM cards
			WHERE assignment = ? AND result IS NOT NULL ORDER BY id`), assignment)
}

// Tally is a count with a name.
type Tally struct {
	Name  string
	Count int
}

func scanTally(r store.Row) (t Tally, err error) { return t, r.Scan(&t.Name, &t.Count) }

// listStudentSlips counts how often slips were the first on a student's own cards; one card is left out, and practice
// unless it is asked for.
func listStudentSlips(ctx context.Context, q store.Queryer, student, but int64, practice bool) ([]Tally, error) {
	return store.All(
		ctx, q,
		scanTally,
		store.Named("sitting.listStudentSlips",
			"SELECT slip, count(*) FROM cards WHERE student = ? AND id <> ? AND (? OR assignment IS NOT NULL) AND "+
				"slip IS NOT NULL AND NOT hidden GROUP BY slip"),
		student,
		but,
		practice,
	)
}

// listClassSlips counts how often slips were the first on the cards of all of a student's class; one card is
// left out.
func listClassSlips(ctx context.Context, q store.Queryer, student, but int64) ([]Tally, error) {
	return store.All(
		ctx, q,
		scanTally,
		store.Named("sitting.listClassSlips",
			`SELECT k.slip, count(*) FROM cards k JOIN students o ON o.id = k.student JOIN students s
				ON s.class = o.class
		WHERE s.id = ? AND k.id <> ? AND k.slip IS NOT NULL AND NOT k.hidden GROUP BY k.slip`),
		student,
		but,
	)
}

// Mark is the state of one card of a student, without its item.
type Mark struct {
	Student    int64
	Assignment int64
	Attempt    int
	N          int
	Done       bool
	Half, Of   int64  // twice the marks
	Slip       string // the first slip, if any
	Late       bool   // answered after the sheet had closed
	Hidden     bool   // not told to the student yet
	Typed      bool   // something stands in the boxes of a card that is not done
}

// ScanMark reads a row of what a card came to.
func ScanMark(r store.Row) (m Mark, err error) {
	var half, of, answered *int64
	var slip *string
	err = r.Scan(
		&m.Student,
		&m.Assignment,
		&m.Attempt,
		&m.N,
		&half,
		&of,
		&slip,
		&answered,
		&m.Late,
		&m.Hidden,
		&m.Typed,
	)
	m.Done, m.Half, m.Of, m.Slip = answered != nil, store.OrZero(half), store.OrZero(of), store.TextOf(slip)
	return m, err
}

// typedBoxes holds where any box of a card's draft has something in it.
const typedBoxes = `coalesce(k.draft, '{}') <> '{}' AND EXISTS (SELECT 1 FROM json_each(k.draft)
	WHERE trim(value) <> '')`

// listProgress lists a student's own marks on a sheet, of the latest attempt, by number.
func listProgress(ctx context.Context, q store.Queryer, student, assignment int64) ([]Mark, error) {
	return store.All(
		ctx, q,
		ScanMark,
		store.Named("sitting.listProgress",
			MarkColumns+"WHERE k.student = ? AND k.assignment = ? AND "+Latest+" ORDER BY k.n"),
		student,
		assignment,
	)
}

// listAllProgress lists a student's own marks on all sheets, of the latest attempts, by sheet and number.
func listAllProgress(ctx context.Context, q store.Queryer, student int64) ([]Mark, error) {
	return store.All(ctx, q, ScanMark, store.Named("sitting.listAllProgress",
		MarkColumns+"WHERE k.student = ? AND k.assignment IS NOT NULL AND "+Latest+
			" ORDER BY k.assignment, k.n"), student)
}

const MarkColumns = `SELECT k.student, k.assignment, k.attempt, k.n, coalesce(k.own_half_marks, k.half_marks),
	k.half_of, k.slip,
	k.answered, k.late, k.hidden, ` + typedBoxes + " FROM cards k "
