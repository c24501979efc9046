package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/marking"
)

// Assignment is a sheet as it was given to a class.
type Assignment struct {
	ID         int64
	Class      int64
	ClassName  string
	Title      string
	Definition exercise.Sheet
	Given      time.Time
	Answered   int           // cards answered: by the student who asks, or by all the class
	Students   int           // in the class
	Marks, Of  length.Number // of the cards answered
	Slip       marking.Code  // the most frequent first slip among them, if any
}

// Give gives a sheet to a class, both of the owner. The sheet is copied, with the class's school where the
// sheet leaves it open: later changes of either leave it alone. Giving the same sheet twice is ErrTaken.
func (s *Store) Give(ctx context.Context, owner, class, sheet int64, seed uint64, at time.Time) (id int64, err error) {
	c, err := s.Class(ctx, owner, class)
	if err != nil {
		return 0, err
	}
	sh, err := s.Sheet(ctx, owner, sheet)
	if err != nil {
		return 0, err
	}
	sh.Definition.Method = sh.Definition.Method.Over(c.Method)
	def, err := json.Marshal(sh.Definition)
	if err != nil {
		return 0, err
	}
	err = s.Write(ctx, func(tx *Tx) error {
		id, err = tx.insert("INSERT INTO assignments (class, sheet, title, definition, seed, given) VALUES (?, ?, ?, ?, ?, ?)",
			class, sheet, sh.Title, string(def), int64(seed), at.Unix())
		return err
	})
	return id, err
}

func scanAssignment(r row) (a Assignment, err error) {
	var def string
	var given int64
	var half, of *int64
	var slip sql.NullString
	if err := r.Scan(&a.ID, &a.Class, &a.ClassName, &a.Title, &def, &given, &a.Students, &a.Answered, &half, &of, &slip); err != nil {
		return a, err
	}
	a.Given, a.Marks, a.Of, a.Slip = time.Unix(given, 0), halves(half), halves(of), marking.Code(slip.String)
	return a, json.Unmarshal([]byte(def), &a.Definition)
}

// assignments reads sheets as they were given, with a tally of the answered cards for which whose holds.
func assignments(whose string) string {
	tally := func(what, rest string) string {
		return "(SELECT " + what + " FROM cards k WHERE k.assignment = a.id AND k.answered IS NOT NULL AND " + whose + rest + ")"
	}
	return `SELECT a.id, a.class, c.name, a.title, a.definition, a.given, (SELECT count(*) FROM students WHERE class = c.id), ` +
		tally("count(*)", "") + ", " + tally("sum(coalesce(own_half_marks, half_marks))", "") + ", " + tally("sum(half_of)", "") + ", " +
		tally("slip", " AND slip IS NOT NULL GROUP BY slip ORDER BY count(*) DESC, slip LIMIT 1") +
		" FROM assignments a JOIN classes c ON c.id = a.class "
}

const latestFirst = " ORDER BY a.given DESC, a.id DESC"

// Given lists the sheets given to all of an instructor's classes, newest first.
func (s *Store) Given(ctx context.Context, owner int64) ([]Assignment, error) {
	return all(ctx, s, scanAssignment, assignments("true")+"WHERE c.owner = ?"+latestFirst, owner)
}

// Assignments lists the sheets given to one of an instructor's classes, newest first.
func (s *Store) Assignments(ctx context.Context, owner, class int64) ([]Assignment, error) {
	return all(ctx, s, scanAssignment, assignments("true")+"WHERE c.owner = ? AND c.id = ?"+latestFirst, owner, class)
}

// Assignment finds a sheet given to one of an instructor's classes.
func (s *Store) Assignment(ctx context.Context, owner, id int64) (Assignment, error) {
	return only(all(ctx, s, scanAssignment, assignments("true")+"WHERE c.owner = ? AND a.id = ?", owner, id))
}

// StudentAssignments lists what a student's class has been given, newest first.
func (s *Store) StudentAssignments(ctx context.Context, student int64) ([]Assignment, error) {
	return all(ctx, s, scanAssignment, assignments("k.student = s.id")+"JOIN students s ON s.class = c.id WHERE s.id = ?"+latestFirst, student)
}

// StudentAssignment finds a sheet that a student's class has been given.
func (s *Store) StudentAssignment(ctx context.Context, student, id int64) (Assignment, error) {
	return only(all(ctx, s, scanAssignment, assignments("k.student = s.id")+"JOIN students s ON s.class = c.id WHERE s.id = ? AND a.id = ?", student, id))
}

// Card is a student's card as it is kept.
type Card struct {
	ID         int64
	Assignment int64
	N          int // 1, 2, 3 …
	Item       *marking.Card
	Draft      marking.Answer // what stands in the boxes, until it is checked
	Answer     marking.Answer // what was checked; nil until then
	Marks, Of  length.Number  // what stands: the instructor's own mark where there is one
	Answered   time.Time      // zero until it is
	Hints      int            // rungs of help taken
	Own        bool           // the mark is the instructor's own
	Reason     string         // of the instructor's own mark
}

// Done reports whether the card has been checked.
func (c *Card) Done() bool { return !c.Answered.IsZero() }

// Deal gives a student the cards of a sheet on first sight; afterwards it does nothing. Each student has
// a seed of their own, from the sheet's and their number.
func (s *Store) Deal(ctx context.Context, student, assignment int64) error {
	var def string
	var seed int64
	var dealt int
	err := s.one(ctx, `SELECT a.definition, a.seed, (SELECT count(*) FROM cards WHERE assignment = a.id AND student = s.id)
		FROM assignments a JOIN students s ON s.class = a.class WHERE a.id = ? AND s.id = ?`, []any{assignment, student}, &def, &seed, &dealt)
	if err != nil || dealt > 0 {
		return err
	}
	var sheet exercise.Sheet
	if err := json.Unmarshal([]byte(def), &sheet); err != nil {
		return err
	}
	cards, err := sheet.Deal(StudentSeed(uint64(seed), student))
	if err != nil {
		return err
	}
	items := make([]string, len(cards))
	for i, c := range cards {
		b, err := json.Marshal(c)
		if err != nil {
			return err
		}
		items[i] = string(b)
	}
	return s.Write(ctx, func(tx *Tx) error {
		for i, item := range items {
			if _, err := tx.Exec("INSERT INTO cards (assignment, student, n, item) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING", assignment, student, i+1, item); err != nil {
				return err
			}
		}
		return nil
	})
}

// StudentSeed mixes a sheet's seed with a student's number (the finalizer of SplitMix64, so that
// neighbouring numbers give unrelated seeds).
func StudentSeed(seed uint64, student int64) uint64 {
	z := seed + uint64(student)*0x9e3779b97f4a7c15
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

func scanCard(r row) (c Card, err error) {
	var item string
	var draft, answer sql.NullString
	var half, of, answered, own *int64
	var reason sql.NullString
	if err := r.Scan(&c.ID, &c.Assignment, &c.N, &item, &draft, &answer, &half, &of, &answered, &c.Hints, &own, &reason); err != nil {
		return c, err
	}
	if c.Own, c.Reason = own != nil, reason.String; c.Own {
		half = own
	}
	c.Answered = when(answered)
	c.Marks, c.Of = halves(half), halves(of)
	c.Item = new(marking.Card)
	err = json.Unmarshal([]byte(item), c.Item)
	for text, into := range map[*sql.NullString]*marking.Answer{&draft: &c.Draft, &answer: &c.Answer} {
		if text.Valid {
			err = errors.Join(err, json.Unmarshal([]byte(text.String), into))
		}
	}
	return c, err
}

func halves(n *int64) length.Number {
	if n == nil {
		return length.Number{}
	}
	return length.Frac(*n, 2)
}

const cardColumns = "SELECT k.id, k.assignment, k.n, k.item, k.draft, k.answer, k.half_marks, k.half_of, k.answered, k.hints, k.own_half_marks, k.own_reason FROM cards k "

// Card finds one of a student's own cards.
func (s *Store) Card(ctx context.Context, student, assignment int64, n int) (Card, error) {
	return only(all(ctx, s, scanCard, cardColumns+"WHERE k.student = ? AND k.assignment = ? AND k.n = ?", student, assignment, n))
}

// StudentCard finds a card of a student in one of an instructor's classes.
func (s *Store) StudentCard(ctx context.Context, owner, assignment, student int64, n int) (Card, error) {
	return only(all(ctx, s, scanCard, cardColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE c.owner = ? AND a.id = ? AND k.student = ? AND k.n = ?`, owner, assignment, student, n))
}

// SaveDraft keeps what stands half filled in on a student's own card. On a card that has been checked it does nothing.
func (s *Store) SaveDraft(ctx context.Context, student, card int64, draft marking.Answer) error {
	b, err := json.Marshal(draft)
	if err != nil {
		return err
	}
	return s.Write(ctx, func(tx *Tx) error {
		_, err := tx.Exec("UPDATE cards SET draft = ? WHERE id = ? AND student = ? AND answered IS NULL", string(b), card, student)
		return err
	})
}

// TakeHint notes that a student has taken one more rung of help on an own card, up to most.
func (s *Store) TakeHint(ctx context.Context, student, card int64, most int) error {
	return s.Write(ctx, func(tx *Tx) error {
		_, err := tx.Exec("UPDATE cards SET hints = min(hints + 1, ?) WHERE id = ? AND student = ? AND answered IS NULL", most, card, student)
		return err
	})
}

// Submit keeps an answer with its result on a student's own card; cost is what help took off its marks.
// Of a submission sent twice only the first counts: counted is then false.
func (s *Store) Submit(ctx context.Context, student, card int64, answer marking.Answer, result *marking.Result, cost length.Number, at time.Time) (counted bool, err error) {
	given, err := json.Marshal(answer)
	if err != nil {
		return false, err
	}
	k, err := keptOf(result, cost)
	if err != nil {
		return false, err
	}
	err = s.Write(ctx, func(tx *Tx) error {
		err := tx.change(`UPDATE cards SET answer = ?, result = ?, half_marks = ?, half_of = ?, slip = ?, answered = ?, draft = NULL
			WHERE id = ? AND student = ? AND answered IS NULL`, string(given), k.result, k.half, k.of, k.slip, at.Unix(), card, student)
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		counted = err == nil
		return err
	})
	return counted, err
}

// kept is a result as the database keeps it.
type kept struct {
	result   string
	half, of int64 // twice the marks, so that halves stay whole
	slip     *string
}

func keptOf(r *marking.Result, cost length.Number) (k kept, err error) {
	b, err := r.JSON()
	if err != nil {
		return k, err
	}
	k.result = string(b)
	marks := r.Marks.Sub(cost)
	if marks.Sign() < 0 {
		marks = length.Number{}
	}
	k.half, _ = marks.MulInt(2).Floor().Int64()
	k.of, _ = r.Of.MulInt(2).Int64()
	if len(r.Slips) > 0 {
		first := string(r.Slips[0])
		k.slip = &first
	}
	return k, nil
}

// History is how often slips were the first on a card before: on the student's own, and on all of the
// class. The card itself is left out.
func (s *Store) History(ctx context.Context, student, card int64) (h marking.History, err error) {
	count := func(query string) (map[marking.Code]int, error) {
		type tally struct {
			code string
			n    int
		}
		list, err := all(ctx, s, func(r row) (t tally, err error) { return t, r.Scan(&t.code, &t.n) }, query, student, card)
		out := make(map[marking.Code]int, len(list))
		for _, t := range list {
			out[marking.Code(t.code)] = t.n
		}
		return out, err
	}
	if h.Student, err = count("SELECT slip, count(*) FROM cards WHERE student = ? AND id <> ? AND slip IS NOT NULL GROUP BY slip"); err != nil {
		return h, err
	}
	h.Class, err = count(`SELECT k.slip, count(*) FROM cards k JOIN students o ON o.id = k.student JOIN students s ON s.class = o.class
		WHERE s.id = ? AND k.id <> ? AND k.slip IS NOT NULL GROUP BY k.slip`)
	return h, err
}

// Mark is how one card of a student stands, without what was asked.
type Mark struct {
	Student   int64
	N         int
	Done      bool
	Marks, Of length.Number
	Slip      marking.Code // the first slip, if any
}

func scanMark(r row) (m Mark, err error) {
	var half, of, answered *int64
	var slip sql.NullString
	err = r.Scan(&m.Student, &m.N, &half, &of, &slip, &answered)
	m.Done, m.Marks, m.Of, m.Slip = answered != nil, halves(half), halves(of), marking.Code(slip.String)
	return m, err
}

// Ledger lists the marks of a class on a sheet: every dealt card, by student and number.
func (s *Store) Ledger(ctx context.Context, owner, assignment int64) ([]Mark, error) {
	return all(ctx, s, scanMark, `SELECT k.student, k.n, coalesce(k.own_half_marks, k.half_marks), k.half_of, k.slip, k.answered FROM cards k
		JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE c.owner = ? AND a.id = ? ORDER BY k.student, k.n`, owner, assignment)
}

// Progress lists a student's own marks on a sheet, by number.
func (s *Store) Progress(ctx context.Context, student, assignment int64) ([]Mark, error) {
	return all(ctx, s, scanMark, "SELECT student, n, coalesce(own_half_marks, half_marks), half_of, slip, answered FROM cards WHERE student = ? AND assignment = ? ORDER BY n", student, assignment)
}
