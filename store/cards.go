package store

import (
	"database/sql"
	"strings"
	"time"
)

// Assignment is a sheet as it was given to a class.
type Assignment struct {
	ID         int64
	Class      int64
	ClassName  string
	Title      string
	Definition string // the sheet document, as it was given
	Seed       int64
	Given      time.Time
	Opens      time.Time // zero: at once
	Closes     time.Time // zero: never
	Released   time.Time // when what a test came to was released; zero until then
	Weight     int       // in the total of a term; 0 leaves it out
	Zone       string    // of the class's clock; "" is the server's
	Words      string    // that the class's students see, as a document
	Students   int       // in the class
	Answered   int       // cards answered: by the student who asks, or by all the class
	Half, Of   int64     // twice the marks of the cards answered
	Slip       string    // the most frequent first slip among them, if any
}

func scanAssignment(r row) (a Assignment, err error) {
	var given int64
	var half, of, opens, closes, released *int64
	var slip sql.NullString
	err = r.Scan(&a.ID, &a.Class, &a.ClassName, &a.Title, &a.Definition, &a.Seed, &given, &opens, &closes, &released,
		&a.Weight, &a.Zone, &a.Words, &a.Students, &a.Answered, &half, &of, &slip)
	a.Given, a.Half, a.Of, a.Slip = time.Unix(given, 0), orZero(half), orZero(of), slip.String
	a.Opens, a.Closes, a.Released = when(opens), when(closes), when(released)
	return a, err
}

func orZero(n *int64) int64 {
	if n == nil {
		return 0
	}
	return *n
}

// latest holds for the cards k of a student's latest attempt at a sheet.
const latest = `k.attempt = (SELECT max(t.attempt) FROM sittings t WHERE t.assignment = k.assignment AND t.student = k.student)`

// assignmentColumns are what a sheet was given with.
const assignmentColumns = `SELECT a.id, a.class, c.name, a.title, a.definition, a.seed, a.given, a.opens, a.closes, a.released, a.weight, c.zone, c.words`

// studentsColumns are the same for a student s, with dates of their own.
var studentsColumns = strings.Replace(assignmentColumns, "a.opens, a.closes", ownDate("opens")+", "+ownDate("closes"), 1)

// untallied reads sheets as they were given to a student's class.
var untallied = studentsColumns + `, 0, 0, NULL, NULL, NULL
	FROM assignments a JOIN classes c ON c.id = a.class JOIN students s ON s.class = c.id `

// tally is a column of sheets as they were given: what the answered cards come to of a student's latest attempt that are told.
func tally(what string) string {
	return "(SELECT " + what + " FROM cards k WHERE k.assignment = a.id AND k.answered IS NOT NULL AND " + latest +
		" AND k.student = s.id AND NOT k.hidden)"
}

// tallied reads sheets as they were given, with a tally of all latest attempts, from what each attempt came to, and a slip.
func tallied(slip string) string {
	return assignmentColumns + students + `, coalesce(n.done, 0), n.half, n.full, ` + slip + ` FROM assignments a JOIN classes c ON c.id = a.class
	LEFT JOIN (SELECT t.assignment, sum(t.done) AS done, sum(t.half_marks) AS half, sum(t.half_of) AS full FROM sittings t
		WHERE t.attempt = (SELECT max(l.attempt) FROM sittings l WHERE l.assignment = t.assignment AND l.student = t.student)
		GROUP BY t.assignment) n ON n.assignment = a.id `
}

const (
	students    = `, (SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL)`
	latestFirst = " ORDER BY a.given DESC, a.id DESC"
)

var (
	lately  = tallied("NULL")
	ofClass = tallied(`(SELECT slip FROM cards k WHERE k.assignment = a.id AND slip IS NOT NULL AND ` + latest +
		` GROUP BY slip ORDER BY count(*) DESC, slip LIMIT 1)`)
	ofStudent = studentsColumns + students + ", " + tally("count(*)") + ", " + tally("sum(coalesce(own_half_marks, half_marks))") + ", " +
		tally("sum(half_of)") + `, NULL FROM assignments a JOIN classes c ON c.id = a.class JOIN students s ON s.class = c.id `
)

// Assignments lists the sheets given to one of an instructor's classes, newest first.
func (r *Reader) Assignments(owner, class int64) ([]Assignment, error) {
	return all(r, scanAssignment, ofClass+"WHERE "+taught+" AND c.id = ?"+latestFirst, owner, class)
}

// Assignment finds a sheet given to one of an instructor's classes.
func (r *Reader) Assignment(owner, id int64) (Assignment, error) {
	return only(all(r, scanAssignment, ofClass+"WHERE "+taught+" AND a.id = ?", owner, id))
}

// StudentAssignments lists what a student's class has been given, newest first.
func (r *Reader) StudentAssignments(student int64) ([]Assignment, error) {
	return all(r, scanAssignment, ofStudent+"WHERE s.id = ?"+latestFirst, student)
}

// StudentAssignment finds a sheet that a student's class has been given, without the tally of its cards.
func (r *Reader) StudentAssignment(student, id int64) (Assignment, error) {
	return remember(r.known, settledKey{what: "given", a: student, b: id}, func() (Assignment, error) {
		return only(all(r, scanAssignment, untallied+"WHERE s.id = ? AND a.id = ?", student, id))
	})
}

// SheetOf returns the sheet that a class was given with an assignment, or 0 if it exists no longer.
func (r *Reader) SheetOf(assignment int64) (id int64, err error) {
	return id, r.one("SELECT coalesce(sheet, 0) FROM assignments WHERE id = ?", []any{assignment}, &id)
}

// Give keeps a sheet that a class is given; the same sheet twice is ErrTaken. The sheet is 0 for one that exists no longer.
func (t *Tx) Give(class, sheet int64, title, definition string, seed int64, at time.Time) (int64, error) {
	return t.insert("INSERT INTO assignments (class, sheet, title, definition, seed, given) VALUES (?, nullif(?, 0), ?, ?, ?, ?)",
		class, sheet, title, definition, seed, at.Unix())
}

// SetTimes changes when a sheet that was given can be taken; zero times are at once and never.
func (t *Tx) SetTimes(assignment int64, opens, closes time.Time) error {
	return t.change(
		"UPDATE assignments SET opens = ?, closes = ? WHERE id = ?",
		orNull(opens),
		orNull(closes),
		assignment,
	)
}

// Release tells the students of a sheet that was given what it came to; what is handed in later is told at once.
func (t *Tx) Release(assignment int64, at time.Time) error {
	if err := t.change("UPDATE assignments SET released = ? WHERE id = ?", at.Unix(), assignment); err != nil {
		return err
	}
	_, err := t.Exec("UPDATE cards SET hidden = 0 WHERE assignment = ? AND hidden", assignment)
	return err
}

// orNull is a time as it is kept; a zero time is none.
func orNull(t time.Time) *int64 {
	if t.IsZero() {
		return nil
	}
	n := t.Unix()
	return &n
}

// SetDefinition changes the sheet of an assignment.
func (t *Tx) SetDefinition(assignment int64, definition string) error {
	return t.change("UPDATE assignments SET definition = ? WHERE id = ?", definition, assignment)
}

// Card is a student's card as it is kept.
type Card struct {
	ID         int64
	Assignment int64
	Student    int64
	Name       string // the student's
	Attempt    int    // 1, 2, 3 …
	N          int    // 1, 2, 3 …
	Kind       string // of exercise
	Family     string // of the instrument
	Item       string // the item document
	Draft      string // what stands in the boxes until it is checked, as a JSON object; ""
	Answer     string // what was checked; ""
	Half, Of   int64  // twice the marks
	Slip       string // the first slip of the card
	Answered   time.Time
	Hints      int    // rungs of help taken
	Late       bool   // answered after the sheet had closed
	Hidden     bool   // marked, and not told to the student yet
	Own        *int64 // twice the instructor's own mark, if there is one
	Reason     string // of the instructor's own mark
	Seen       bool   // the student has looked at it
	Undone     bool   // a check of it was undone
	Instrument string // its name, for tables
	LeastCount string // as written, with the unit
	Block      int    // of the sheet, from 1; 0 where that is not known
	Full       int64  // twice the full marks that it is dealt for; only AddCard uses it
}

// Done reports whether the card has been checked.
func (c *Card) Done() bool { return !c.Answered.IsZero() }

func scanCard(r row) (c Card, err error) {
	var draft, answer, slip, reason sql.NullString
	var half, of, answered *int64
	err = r.Scan(&c.ID, &c.Assignment, &c.Student, &c.Name, &c.Attempt, &c.N, &c.Kind, &c.Family, &c.Item, &draft,
		&answer, &half, &of, &slip, &answered, &c.Hints, &c.Late, &c.Hidden, &c.Own, &reason, &c.Seen, &c.Undone)
	c.Draft, c.Answer, c.Slip, c.Reason = draft.String, answer.String, slip.String, reason.String
	c.Half, c.Of, c.Answered = orZero(half), orZero(of), when(answered)
	return c, err
}

const cardColumns = `SELECT k.id, coalesce(k.assignment, 0), k.student, s.name, k.attempt, k.n, k.kind, k.family, k.item,
	k.draft, k.answer, k.half_marks, k.half_of, k.slip, k.answered, k.hints, k.late, k.hidden, k.own_half_marks, k.own_reason,
	k.seen IS NOT NULL, k.undone FROM cards k JOIN students s ON s.id = k.student `

// Card finds one of a student's own cards, of the latest attempt.
func (r *Reader) Card(student, assignment int64, n int) (Card, error) {
	return only(
		all(r, scanCard, cardColumns+"WHERE k.student = ? AND k.assignment = ? AND k.n = ? AND "+latest, student,
			assignment, n),
	)
}

// CardOf finds a card of an attempt of a student in one of an instructor's classes; of the latest where it is 0.
func (r *Reader) CardOf(owner, assignment, student int64, attempt, n int) (Card, error) {
	return only(all(r, scanCard, cardColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? AND k.student = ? AND k.n = ? AND (k.attempt = ? OR ? = 0 AND `+latest+")", owner,
		assignment, student, n, attempt, attempt))
}

// Cards lists every card of a sheet that was given, by student, attempt and number.
func (r *Reader) Cards(assignment int64) ([]Card, error) {
	return all(r, scanCard, cardColumns+"WHERE k.assignment = ? ORDER BY s.folded, k.attempt, k.n", assignment)
}

// Sat lists the cards of one attempt of a student, by number.
func (r *Reader) Sat(student, assignment int64, attempt int) ([]Card, error) {
	return all(
		r,
		scanCard,
		cardColumns+"WHERE k.student = ? AND k.assignment = ? AND k.attempt = ? ORDER BY k.n",
		student,
		assignment,
		attempt,
	)
}

// AddCard keeps a card that was dealt.
func (t *Tx) AddCard(c Card) error {
	_, err := t.insert(
		`INSERT INTO cards (assignment, student, attempt, n, kind, family, item, instrument, least_count, block, half_full)
		VALUES (nullif(?, 0), ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		c.Assignment,
		c.Student,
		c.Attempt,
		c.N,
		c.Kind,
		c.Family,
		c.Item,
		c.Instrument,
		c.LeastCount,
		c.Block,
		c.Full,
	)
	return err
}

// SaveDraft keeps what was typed into some boxes of a student's own card, beside what stands in the others; open is
// false on a card that has been checked or handed in, which stays as it is.
func (t *Tx) SaveDraft(student, card int64, typed string) (open bool, err error) {
	return t.changed(
		"UPDATE cards SET draft = json_patch(coalesce(draft, '{}'), ?) WHERE id = ? AND student = ? AND answered IS NULL",
		typed,
		card,
		student,
	)
}

// TakeHint notes that a student has taken one more rung of help on an own card, up to most.
func (t *Tx) TakeHint(student, card int64, most int) error {
	_, err := t.Exec("UPDATE cards SET hints = min(hints + 1, ?) WHERE id = ? AND student = ? AND answered IS NULL",
		most, card, student)
	return err
}

// SetItem changes what a card asks, or how.
func (t *Tx) SetItem(card int64, item string) error {
	return t.change("UPDATE cards SET item = ? WHERE id = ?", item, card)
}

// Answer is what a student hands in on a card.
type Answer struct {
	Text   string // as a JSON object
	At     time.Time
	Late   bool // after the sheet had closed
	Hidden bool // what it comes to is not told yet
}

// Answered keeps what was checked on a card that was still open; counted is false where it was not.
func (t *Tx) Answered(student, card int64, a Answer) (counted bool, err error) {
	return t.changed(`UPDATE cards SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL
		WHERE id = ? AND student = ? AND answered IS NULL`, a.Text, a.At.Unix(), a.Late, a.Hidden, card, student)
}

// UndoCheck takes a check of a student's card back, once: what was checked is a draft again. Undone is false where the card is not
// checked, was undone before, or has a mark of the instructor's own.
func (t *Tx) UndoCheck(student, card int64) (undone bool, err error) {
	undone, err = t.changed(`UPDATE cards SET draft = answer, answer = NULL, answered = NULL, half_marks = NULL, half_of = NULL, slip = NULL,
		undone = 1 WHERE id = ? AND student = ? AND answered IS NOT NULL AND undone = 0 AND own_half_marks IS NULL`, card, student)
	if err != nil || !undone {
		return false, err
	}
	return true, t.ClearEntries(card)
}

// ClearEntries makes room for what a card comes to anew.
func (t *Tx) ClearEntries(card int64) error {
	_, err := t.Exec("DELETE FROM entries WHERE card = ?", card)
	return err
}

// Marked is what a card came to.
type Marked struct {
	Half, Of int64  // twice the marks, so that halves stay whole
	Slip     string // the first slip of the card; ""
	Entries  []Entry
}

// SetMarks keeps what a card came to. A card that has entries is cleared first.
func (t *Tx) SetMarks(card int64, m Marked) error {
	if err := t.change("UPDATE cards SET half_marks = ?, half_of = ?, half_full = ?, slip = nullif(?, '') WHERE id = ?", m.Half,
		m.Of, m.Of, m.Slip, card); err != nil {
		return err
	}
	return t.addEntries(card, m.Entries)
}

// AnsweredAs keeps an answer with what it came to, on a card that is still open and asks what it asked when
// it was read; counted is false where that is no longer so.
func (t *Tx) AnsweredAs(student int64, c Card, a Answer, m Marked) (counted bool, err error) {
	counted, err = t.changed(
		`UPDATE cards SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL, half_marks = ?,
		half_of = ?, slip = nullif(?, '') WHERE id = ? AND student = ? AND answered IS NULL AND item = ? AND hints = ? AND undone = ?`,
		a.Text,
		a.At.Unix(),
		a.Late,
		a.Hidden,
		m.Half,
		m.Of,
		m.Slip,
		c.ID,
		student,
		c.Item,
		c.Hints,
		c.Undone,
	)
	if err != nil || !counted {
		return false, err
	}
	return true, t.addEntries(c.ID, m.Entries)
}

// addEntries keeps a row for each field, all in one statement; there is one such statement for each number
// of fields, and a card has few.
func (t *Tx) addEntries(card int64, entries []Entry) error {
	if len(entries) == 0 {
		return nil
	}
	var args []any
	for i, e := range entries {
		args = append(
			args,
			card,
			i+1,
			e.Field,
			e.Given,
			e.Expected,
			e.Follows,
			e.Outcome,
			e.Half,
			e.Of,
			e.Slip,
			e.Slips,
			e.Faults,
		)
	}
	_, err := t.Exec(
		"INSERT INTO entries (card, n, field, given, expected, follows, outcome, half_marks, half_of, slip, slips, faults) VALUES "+
			strings.Repeat(", (?, ?, ?, ?, ?, ?, ?, ?, ?, nullif(?, ''), ?, ?)", len(entries))[2:],
		args...)
	return err
}

// Entry is what one field of a card came to.
type Entry struct {
	Card                            int64
	Field, Given, Expected, Follows string
	Outcome                         string
	Half, Of                        int64  // twice the marks
	Slip                            string // the first that explains it; ""
	Slips, Faults                   string // all of them, and what of its form is wrong, as JSON lists
}

func scanEntry(r row) (e Entry, err error) {
	return e, r.Scan(&e.Card, &e.Field, &e.Given, &e.Expected, &e.Follows, &e.Outcome, &e.Half, &e.Of, &e.Slip,
		&e.Slips, &e.Faults)
}

const entryColumns = "SELECT card, field, given, expected, follows, outcome, e.half_marks, e.half_of, coalesce(e.slip, ''), slips, faults FROM entries e "

// Entries lists what the fields of a card came to, in the order of the work.
func (r *Reader) Entries(card int64) ([]Entry, error) {
	return all(r, scanEntry, entryColumns+"WHERE card = ? ORDER BY n", card)
}

// AllEntries lists what the fields of all cards of a sheet that was given came to.
func (r *Reader) AllEntries(assignment int64) ([]Entry, error) {
	return all(r, scanEntry, entryColumns+"JOIN cards k ON k.id = e.card WHERE k.assignment = ? ORDER BY card, e.n",
		assignment)
}

// Tally is how often something was counted under a name.
type Tally struct {
	Name  string
	Count int
}

func scanTally(r row) (t Tally, err error) { return t, r.Scan(&t.Name, &t.Count) }

// StudentSlips counts how often slips were the first on a student's own cards; one card is left out, and practice unless it
// is asked for.
func (r *Reader) StudentSlips(student, but int64, practice bool) ([]Tally, error) {
	return all(
		r,
		scanTally,
		"SELECT slip, count(*) FROM cards WHERE student = ? AND id <> ? AND (? OR assignment IS NOT NULL) AND slip IS NOT NULL AND NOT hidden GROUP BY slip",
		student,
		but,
		practice,
	)
}

// ClassSlips counts how often slips were the first on the cards of all of a student's class; one card is
// left out.
func (r *Reader) ClassSlips(student, but int64) ([]Tally, error) {
	return all(
		r,
		scanTally,
		`SELECT k.slip, count(*) FROM cards k JOIN students o ON o.id = k.student JOIN students s ON s.class = o.class
		WHERE s.id = ? AND k.id <> ? AND k.slip IS NOT NULL AND NOT k.hidden GROUP BY k.slip`,
		student,
		but,
	)
}

// Mark is how one card of a student stands, without what was asked.
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

func scanMark(r row) (m Mark, err error) {
	var half, of, answered *int64
	var slip sql.NullString
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
	m.Done, m.Half, m.Of, m.Slip = answered != nil, orZero(half), orZero(of), slip.String
	return m, err
}

// typed holds where any box of a card's draft has something in it.
const typed = `coalesce(k.draft, '{}') <> '{}' AND EXISTS (SELECT 1 FROM json_each(k.draft) WHERE trim(value) <> '')`

const markColumns = `SELECT k.student, k.assignment, k.attempt, k.n, coalesce(k.own_half_marks, k.half_marks), k.half_of, k.slip,
	k.answered, k.late, k.hidden, ` + typed + " FROM cards k "

// Ledger lists the marks of a class on a sheet: every dealt card, by student, attempt and number.
func (r *Reader) Ledger(owner, assignment int64) ([]Mark, error) {
	return all(r, scanMark, markColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? ORDER BY k.student, k.attempt, k.n`, owner, assignment)
}

// LedgerOf lists one student's marks of an attempt at a sheet, by number.
func (r *Reader) LedgerOf(owner, assignment, student int64, attempt int) ([]Mark, error) {
	return all(r, scanMark, markColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? AND k.student = ? AND k.attempt = ? ORDER BY k.n`, owner, assignment, student, attempt)
}

// Watched is a card of a sheet while a class works on it.
type Watched struct {
	Mark
	Seen, Answered time.Time
}

// Watched lists the cards of all students' latest attempts at a sheet of an instructor's.
func (r *Reader) Watched(owner, assignment int64) ([]Watched, error) {
	return all(r, func(r row) (w Watched, err error) {
		var half, of, seen, answered *int64
		var slip sql.NullString
		err = r.Scan(&w.Student, &w.N, &half, &of, &slip, &seen, &answered, &w.Typed, &w.Attempt)
		w.Half, w.Of, w.Slip, w.Done = orZero(half), orZero(of), slip.String, answered != nil
		w.Seen, w.Answered = when(seen), when(answered)
		return w, err
	}, `SELECT k.student, k.n, coalesce(k.own_half_marks, k.half_marks), k.half_of, k.slip, k.seen, k.answered,
		k.draft IS NOT NULL, k.attempt FROM cards k JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? AND `+latest+" ORDER BY k.student, k.n", owner, assignment)
}

// Pace is when a card of an attempt was first looked at and answered, and when the attempt began and was handed in. A time
// that is not known is zero.
type Pace struct {
	Student                       int64
	Attempt, N                    int
	Earns                         bool // it was given marks
	Seen, Answered, Began, Handed time.Time
}

// Paces lists the cards of all attempts at a sheet of an instructor's, those of an attempt as they were first looked at.
func (r *Reader) Paces(owner, assignment int64) ([]Pace, error) {
	return all(r, func(r row) (p Pace, err error) {
		var seen, answered, began, handed *int64
		err = r.Scan(&p.Student, &p.Attempt, &p.N, &p.Earns, &seen, &answered, &began, &handed)
		p.Seen, p.Answered, p.Began, p.Handed = when(seen), when(answered), when(began), when(handed)
		return p, err
	}, `SELECT k.student, k.attempt, k.n, coalesce(k.own_half_marks, k.half_marks, 0) > 0, k.seen, k.answered, t.began, t.handed FROM cards k
		JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		LEFT JOIN sittings t ON t.assignment = k.assignment AND t.student = k.student AND t.attempt = k.attempt
		WHERE `+taught+` AND a.id = ? ORDER BY k.student, k.attempt, k.seen, k.n`, owner, assignment)
}

// Astray is an entry that a slip explains, as it was given and as it should have been.
type Astray struct {
	Student               int64
	Card                  int // its number
	Slip, Given, Expected string
}

// Astray lists the first slip of every card of all students' latest attempts at a sheet of an instructor's, with the entry
// that it explains.
func (r *Reader) Astray(owner, assignment int64) ([]Astray, error) {
	return all(r, func(r row) (a Astray, err error) {
		return a, r.Scan(&a.Student, &a.Card, &a.Slip, &a.Given, &a.Expected)
	},
		`SELECT k.student, k.n, k.slip, e.given, e.expected FROM cards k JOIN entries e ON e.card = k.id AND e.slip = k.slip
		JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? AND `+latest+" GROUP BY k.id ORDER BY k.id", owner, assignment)
}

// See notes when a student first looks at a card of their own.
func (t *Tx) See(student, card int64, at time.Time) error {
	_, err := t.Exec("UPDATE cards SET seen = ? WHERE id = ? AND student = ? AND seen IS NULL", at.Unix(), card, student)
	return err
}

// Progress lists a student's own marks on a sheet, of the latest attempt, by number.
func (r *Reader) Progress(student, assignment int64) ([]Mark, error) {
	return all(
		r,
		scanMark,
		markColumns+"WHERE k.student = ? AND k.assignment = ? AND "+latest+" ORDER BY k.n",
		student,
		assignment,
	)
}

// AllProgress lists a student's own marks on all sheets, of the latest attempts, by sheet and number.
func (r *Reader) AllProgress(student int64) ([]Mark, error) {
	return all(r, scanMark, markColumns+"WHERE k.student = ? AND k.assignment IS NOT NULL AND "+latest+
		" ORDER BY k.assignment, k.n", student)
}
