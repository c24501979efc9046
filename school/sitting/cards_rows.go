package sitting

import (
	"context"
	"strings"
	"time"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
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

// ScanAssignment reads a row of the sheets that were given.
func ScanAssignment(r store.Row) (a Assignment, err error) {
	var given int64
	var half, of, opens, closes, released *int64
	var slip *string
	err = r.Scan(&a.ID, &a.Class, &a.ClassName, &a.Title, &a.Definition, &a.Seed, &given, &opens, &closes, &released,
		&a.Weight, &a.Zone, &a.Words, &a.Students, &a.Answered, &half, &of, &slip)
	a.Given, a.Half, a.Of, a.Slip = time.Unix(given, 0), store.OrZero(half), store.OrZero(of), store.TextOf(slip)
	a.Opens, a.Closes, a.Released = store.TimeOf(opens), store.TimeOf(closes), store.TimeOf(released)
	return a, err
}

// Latest holds for the cards k of a student's latest attempt at a sheet.
const Latest = `k.attempt = (SELECT max(t.attempt) FROM sittings t WHERE t.assignment = k.assignment
	AND t.student = k.student)`

// assignmentColumns are what a sheet was given with.
const assignmentColumns = `SELECT a.id, a.class, c.name, a.title, a.definition, a.seed, a.given, a.opens, a.closes,
	a.released, a.weight, c.zone, c.words`

// studentsColumns are the same for a student s, with dates of their own.
var studentsColumns = strings.Replace(assignmentColumns, "a.opens, a.closes", ownDate("opens")+", "+ownDate("closes"),
	1)

// untallied reads sheets as they were given, without the tally of their cards.
const untallied = assignmentColumns + `, 0, 0, NULL, NULL, NULL FROM assignments a JOIN classes c ON c.id = a.class `

// tally is a column of sheets as they were given: what the answered cards come to of a student's latest attempt that
// are told.
func tally(what string) string {
	return "(SELECT " + what + " FROM cards k WHERE k.assignment = a.id AND k.answered IS NOT NULL AND " + Latest +
		" AND k.student = s.id AND NOT k.hidden)"
}

// tallied reads sheets as they were given, with a tally of all latest attempts, from what each attempt came to, and a
// slip.
func tallied(slip string) string {
	return assignmentColumns + students + `, coalesce(n.done, 0), n.half, n.full, ` + slip +
		` FROM assignments a JOIN classes c ON c.id = a.class
	LEFT JOIN (SELECT t.assignment, sum(t.done) AS done, sum(t.half_marks) AS half, sum(t.half_of) AS full
	FROM sittings t
		WHERE t.attempt = (SELECT max(l.attempt) FROM sittings l WHERE l.assignment = t.assignment
		AND l.student = t.student)
		GROUP BY t.assignment) n ON n.assignment = a.id `
}

const (
	students    = `, (SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL)`
	LatestFirst = " ORDER BY a.given DESC, a.id DESC"
)

var (
	RecentCards = tallied("NULL")
	ofClass     = tallied(`(SELECT slip FROM cards k WHERE k.assignment = a.id AND slip IS NOT NULL AND ` + Latest +
		` GROUP BY slip ORDER BY count(*) DESC, slip LIMIT 1)`)
	ofStudent = studentsColumns + students + ", " + tally("count(*)") + ", " +
		tally("sum(coalesce(own_half_marks, half_marks))") + ", " +
		tally("sum(half_of)") + `, NULL FROM assignments a JOIN classes c ON c.id = a.class JOIN students s
			ON s.class = c.id `
)

// listAssignments lists the sheets given to one of an instructor's classes, newest first.
func listAssignments(ctx context.Context, q store.Queryer, owner, class int64) ([]Assignment, error) {
	return store.All(ctx, q, ScanAssignment, store.Named("sitting.listAssignments",
		ofClass+"WHERE "+access.Taught+" AND c.id = ?"+LatestFirst), owner, class)
}

// FindAssignment finds a sheet given to one of an instructor's classes.
func FindAssignment(ctx context.Context, q store.Queryer, owner, id int64) (Assignment, error) {
	return store.Only(store.All(ctx, q, ScanAssignment, store.Named("sitting.FindAssignment",
		ofClass+"WHERE "+access.Taught+" AND a.id = ?"), owner, id))
}

// listStudentAssignments lists what a student's class has been given, newest first.
func listStudentAssignments(ctx context.Context, q store.Queryer, student int64) ([]Assignment, error) {
	return store.All(ctx, q, ScanAssignment, store.Named("sitting.listStudentAssignments",
		ofStudent+"WHERE s.id = ?"+LatestFirst), student)
}

// givenSheet is a sheet as a class was given it, with the dates that groups and students have of their own.
type givenSheet struct {
	Assignment
	dates []SheetDates
}

// givenSheets remembers sheets that were given by their id.
var givenSheets = store.NewCache[int64, givenSheet](5_000)

// FindStudentAssignment finds a sheet that a student's class has been given, with the student's own dates and without
// the tally of its cards.
func FindStudentAssignment(ctx context.Context, q store.Queryer, student, id int64) (Assignment, error) {
	st, err := roster.FindStudent(ctx, q, student)
	if err != nil {
		return Assignment{}, err
	}
	g, err := givenSheets.Get(q, id, func() (g givenSheet, err error) {
		g.Assignment, err = store.Only(store.All(ctx, q, ScanAssignment, store.Named("sitting.FindStudentAssignment",
			untallied+"WHERE a.id = ?"), id))
		if err == nil {
			g.dates, err = store.All(ctx, q, scanDates, store.Named("sitting.FindStudentAssignment",
				datesColumns+"WHERE d.assignment = ?"), id)
		}
		return g, err
	})
	if err != nil {
		return Assignment{}, err
	}
	if g.Class != st.Class {
		return Assignment{}, store.ErrNotFound
	}
	g.ClassName, g.Zone, g.Words = st.ClassName, st.Zone, st.Words
	return g.datesFor(st), nil
}

// datesFor returns the sheet with the dates that it has for a student: their own, those of their group, or those of the
// class.
func (g givenSheet) datesFor(st roster.Student) Assignment {
	a, own := g.Assignment, SheetDates{}
	for _, d := range g.dates {
		if d.Student == 0 && d.Team == st.Team && st.Team != "" {
			own = d
		}
	}
	for _, d := range g.dates {
		if d.Student == st.ID {
			own.Opens, own.Closes = orTime(d.Opens, own.Opens), orTime(d.Closes, own.Closes)
		}
	}
	a.Opens, a.Closes = orTime(own.Opens, a.Opens), orTime(own.Closes, a.Closes)
	return a
}

// orTime returns the first of two times, or the second where the first is not set.
func orTime(first, second time.Time) time.Time {
	if first.IsZero() {
		return second
	}
	return first
}

// sheetOf returns the sheet that a class was given with an assignment, or 0 if it exists no longer.
func sheetOf(ctx context.Context, q store.Queryer, assignment int64) (id int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.sheetOf", "SELECT coalesce(sheet, 0) FROM assignments WHERE id = ?"),
		[]any{assignment}, &id)
	return id, err
}

// give keeps a sheet that a class is given; the same sheet twice is ErrGiven. The sheet is 0 for one that exists no
// longer.
func give(ctx context.Context, tx *store.Tx, class, sheet int64, title, definition string, seed int64,
	at time.Time) (int64, error) {
	id, err := tx.Insert(ctx, store.Named("sitting.give",
		"INSERT INTO assignments (class, sheet, title, definition, seed, given) VALUES (?, nullif(?, 0), ?, ?, ?, ?)"),
		class, sheet, title, definition, seed, at.Unix())
	return id, store.Instead(err, store.ErrDuplicate, ErrGiven)
}

// updateTimes changes when a sheet that was given can be taken; zero times are at once and never.
func updateTimes(ctx context.Context, tx *store.Tx, assignment int64, opens, closes time.Time) error {
	givenSheets.Forget(tx, assignment)
	return tx.Change(ctx,
		store.Named("sitting.updateTimes", "UPDATE assignments SET opens = ?, closes = ? WHERE id = ?"),
		store.OrNull(opens),
		store.OrNull(closes),
		assignment,
	)
}

// Release tells the students of a sheet that was given what it came to; what is handed in later is told at once.
func Release(ctx context.Context, tx *store.Tx, assignment int64, at time.Time) error {
	givenSheets.Forget(tx, assignment)
	if err := tx.Change(ctx, store.Named("sitting.Release", "UPDATE assignments SET released = ? WHERE id = ?"),
		at.Unix(), assignment); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, store.Named("sitting.Release",
		"UPDATE cards SET hidden = 0 WHERE assignment = ? AND hidden"), assignment)
	return err
}

// UpdateDefinition changes the sheet of an assignment.
func UpdateDefinition(ctx context.Context, tx *store.Tx, assignment int64, definition string) error {
	givenSheets.Forget(tx, assignment)
	return tx.Change(ctx, store.Named("sitting.UpdateDefinition", "UPDATE assignments SET definition = ? WHERE id = ?"),
		definition, assignment)
}

// CardRow is a student's card as it is kept.
type CardRow struct {
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
	Hints      int    // hints taken
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
func (c *CardRow) Done() bool { return !c.Answered.IsZero() }

func scanCard(r store.Row) (c CardRow, err error) {
	var draft, answer, slip, reason *string
	var half, of, answered *int64
	err = r.Scan(&c.ID, &c.Assignment, &c.Student, &c.Name, &c.Attempt, &c.N, &c.Kind, &c.Family, &c.Item, &draft,
		&answer, &half, &of, &slip, &answered, &c.Hints, &c.Late, &c.Hidden, &c.Own, &reason, &c.Seen, &c.Undone)
	c.Draft, c.Answer, c.Slip, c.Reason = store.TextOf(draft), store.TextOf(answer), store.TextOf(slip),
		store.TextOf(reason)
	c.Half, c.Of, c.Answered = store.OrZero(half), store.OrZero(of), store.TimeOf(answered)
	return c, err
}

const cardColumns = `SELECT k.id, coalesce(k.assignment, 0), k.student, s.name, k.attempt, k.n, k.kind, k.family,
	k.item,
	k.draft, k.answer, k.half_marks, k.half_of, k.slip, k.answered, k.hints, k.late, k.hidden, k.own_half_marks,
	k.own_reason,
	k.seen IS NOT NULL, k.undone FROM cards k JOIN students s ON s.id = k.student `

// findCard finds one of a student's own cards, of the latest attempt.
func findCard(ctx context.Context, q store.Queryer, student, assignment int64, n int) (CardRow, error) {
	return store.Only(
		store.All(ctx, q, scanCard,
			store.Named("sitting.findCard",
				cardColumns+"WHERE k.student = ? AND k.assignment = ? AND k.n = ? AND "+Latest), student, assignment,
			n),
	)
}

// FindCard finds a card of an attempt of a student in one of an instructor's classes; of the latest where it is 0.
func FindCard(ctx context.Context, q store.Queryer, owner, assignment, student int64, attempt, n int) (CardRow, error) {
	return store.Only(store.All(ctx, q, scanCard,
		store.Named("sitting.FindCard",
			cardColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+access.Taught+` AND a.id = ? AND k.student = ? AND k.n = ? AND (k.attempt = ? OR ? = 0
		AND `+Latest+")"), owner,
		assignment, student, n, attempt, attempt))
}

// ListCards lists every card of a sheet that was given, by student, attempt and number.
func ListCards(ctx context.Context, q store.Queryer, assignment int64) ([]CardRow, error) {
	return store.All(ctx, q, scanCard,
		store.Named("sitting.ListCards", cardColumns+"WHERE k.assignment = ? ORDER BY s.folded, k.attempt, k.n"),
		assignment)
}

// ListSat lists the cards of one attempt of a student, by number.
func ListSat(ctx context.Context, q store.Queryer, student, assignment int64, attempt int) ([]CardRow, error) {
	return store.All(
		ctx, q,
		scanCard,
		store.Named("sitting.ListSat",
			cardColumns+"WHERE k.student = ? AND k.assignment = ? AND k.attempt = ? ORDER BY k.n"),
		student,
		assignment,
		attempt,
	)
}

// InsertCard keeps a card that was dealt.
func InsertCard(ctx context.Context, tx *store.Tx, c CardRow) error {
	_, err := tx.Insert(ctx,
		store.Named("sitting.InsertCard",
			`INSERT INTO cards (assignment, student, attempt, n, kind, family, item, instrument, least_count, block,
				half_full)
		VALUES (nullif(?, 0), ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`),
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
	return store.Instead(err, store.ErrDuplicate, errBegun)
}

// saveDraft keeps what was typed into some boxes of a student's own card, beside what stands in the others; open is
// false on a card that has been checked or handed in, which stays as it is.
func saveDraft(ctx context.Context, tx *store.Tx, student, card int64, typed string) (open bool, err error) {
	return tx.Changed(ctx,
		store.Named("sitting.saveDraft",
			"UPDATE cards SET draft = json_patch(coalesce(draft, '{}'), ?) WHERE id = ? AND student = ? AND "+
				"answered IS NULL"),
		typed,
		card,
		student,
	)
}

// takeHint notes that a student has taken one more hint on an own card, up to most.
func takeHint(ctx context.Context, tx *store.Tx, student, card int64, most int) error {
	_, err := tx.Exec(ctx, store.Named("sitting.takeHint",
		"UPDATE cards SET hints = min(hints + 1, ?) WHERE id = ? AND student = ? AND answered IS NULL"), most, card,
		student)
	return err
}

// UpdateItem changes what a card asks, or how.
func UpdateItem(ctx context.Context, tx *store.Tx, card int64, item string) error {
	return tx.Change(ctx, store.Named("sitting.UpdateItem", "UPDATE cards SET item = ? WHERE id = ?"), item, card)
}

// Answer is a student's answer to a card, as it is handed in.
type Answer struct {
	Text   string // as a JSON object
	At     time.Time
	Late   bool // after the sheet had closed
	Hidden bool // what it comes to is not told yet
}

// answered keeps what was checked on a card that was still open; counted is false where it was not.
func answered(ctx context.Context, tx *store.Tx, student, card int64, a Answer) (counted bool, err error) {
	return tx.Changed(ctx, store.Named("sitting.answered",
		`UPDATE cards SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL
		WHERE id = ? AND student = ? AND answered IS NULL`), a.Text, a.At.Unix(), a.Late, a.Hidden, card, student)
}

// undoCheck takes a check of a student's card back, once: what was checked is a draft again. Undone is false where the
// card is not checked, was undone before, or has a mark of the instructor's own.
func undoCheck(ctx context.Context, tx *store.Tx, student, card int64) (undone bool, err error) {
	undone, err = tx.Changed(ctx,
		store.Named("sitting.undoCheck",
			`UPDATE cards SET draft = answer, answer = NULL, answered = NULL, half_marks = NULL, half_of = NULL,
				slip = NULL,
		undone = 1 WHERE id = ? AND student = ? AND answered IS NOT NULL AND undone = 0
		AND own_half_marks IS NULL`), card, student)
	if err != nil || !undone {
		return false, err
	}
	return true, ClearEntries(ctx, tx, card)
}

// ClearEntries makes room for what a card comes to anew.
func ClearEntries(ctx context.Context, tx *store.Tx, card int64) error {
	_, err := tx.Exec(ctx, store.Named("sitting.ClearEntries", "DELETE FROM entries WHERE card = ?"), card)
	return err
}

// Marked is the result of a card.
type Marked struct {
	Half, Of int64  // twice the marks, so that halves stay whole
	Slip     string // the first slip of the card; ""
	Entries  []Entry
}

// UpdateMarks keeps what a card came to. A card that has entries is cleared first.
func UpdateMarks(ctx context.Context, tx *store.Tx, card int64, m Marked) error {
	if err := tx.Change(ctx, store.Named("sitting.UpdateMarks",
		"UPDATE cards SET half_marks = ?, half_of = ?, half_full = ?, slip = nullif(?, '') WHERE id = ?"), m.Half, m.Of,
		m.Of, m.Slip, card); err != nil {
		return err
	}
	return addEntries(ctx, tx, card, m.Entries)
}

// answeredAs keeps an answer with what it came to, on a card that is still open and asks what it asked when
// it was read; counted is false where that is no longer so.
func answeredAs(ctx context.Context, tx *store.Tx, student int64, c CardRow, a Answer, m Marked) (counted bool,
	err error) {
	counted, err = tx.Changed(ctx,
		store.Named("sitting.answeredAs",
			`UPDATE cards SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL, half_marks = ?,
		half_of = ?, slip = nullif(?, '') WHERE id = ? AND student = ? AND answered IS NULL AND item = ? AND hints = ?
		AND undone = ?`),
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
	return true, addEntries(ctx, tx, c.ID, m.Entries)
}

// addEntries keeps a row for each field, all in one statement; there is one such statement for each number
// of fields, and a card has few.
func addEntries(ctx context.Context, tx *store.Tx, card int64, entries []Entry) error {
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
	_, err := tx.Exec(ctx,
		store.Named("sitting.addEntries",
			"INSERT INTO entries (card, n, field, given, expected, follows, outcome, half_marks, half_of, slip, "+
				"slips, faults) VALUES "+
				strings.Repeat(", (?, ?, ?, ?, ?, ?, ?, ?, ?, nullif(?, ''), ?, ?)", len(entries))[2:]),
		args...)
	return err
}

// Entry is the result of one field of a card.
type Entry struct {
	Card                            int64
	Field, Given, Expected, Follows string
	Outcome                         string
	Half, Of                        int64  // twice the marks
	Slip                            string // the first that explains it; ""
	Slips, Faults                   string // all of them, and what of its form is wrong, as JSON lists
}

func scanEntry(r store.Row) (e Entry, err error) {
	return e, r.Scan(&e.Card, &e.Field, &e.Given, &e.Expected, &e.Follows, &e.Outcome, &e.Half, &e.Of, &e.Slip,
		&e.Slips, &e.Faults)
}

const entryColumns = "SELECT card, field, given, expected, follows, outcome, e.half_marks, e.half_of, " +
	"coalesce(e.slip, ''), slips, faults FROM entries e "

// listEntries lists what the fields of a card came to, in the order of the work.
func listEntries(ctx context.Context, q store.Queryer, card int64) ([]Entry, error) {
	return store.All(ctx, q, scanEntry, store.Named("sitting.listEntries", entryColumns+"WHERE card = ? ORDER BY n"),
		card)
}

// ListAllEntries lists what the fields of all cards of a sheet that was given came to.
func ListAllEntries(ctx context.Context, q store.Queryer, assignment int64) ([]Entry, error) {
	return store.All(ctx, q, scanEntry, store.Named("sitting.ListAllEntries",
		entryColumns+"JOIN cards k ON k.id = e.card WHERE k.assignment = ? ORDER BY card, e.n"), assignment)
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

const MarkColumns = `SELECT k.student, k.assignment, k.attempt, k.n, coalesce(k.own_half_marks, k.half_marks),
	k.half_of, k.slip,
	k.answered, k.late, k.hidden, ` + typedBoxes + " FROM cards k "

// PaceRow is when a card of an attempt was first looked at and answered, and when the attempt began and was handed in.
// A time that is not known is zero.
type PaceRow struct {
	Student                       int64
	Attempt, N                    int
	Earns                         bool // it was given marks
	Seen, Answered, Began, Handed time.Time
}

// ListPaces lists the cards of all attempts at a sheet of an instructor's, those of an attempt as they were first
// looked at.
func ListPaces(ctx context.Context, q store.Queryer, owner, assignment int64) ([]PaceRow, error) {
	return store.All(ctx, q, func(r store.Row) (p PaceRow, err error) {
		var seen, answered, began, handed *int64
		err = r.Scan(&p.Student, &p.Attempt, &p.N, &p.Earns, &seen, &answered, &began, &handed)
		p.Seen, p.Answered, p.Began, p.Handed = store.TimeOf(seen), store.TimeOf(answered), store.TimeOf(began),
			store.TimeOf(handed)
		return p, err
	}, store.Named("sitting.ListPaces",
		`SELECT k.student, k.attempt, k.n, coalesce(k.own_half_marks, k.half_marks, 0) > 0, k.seen, k.answered, t.began,
			t.handed FROM cards k
		JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		LEFT JOIN sittings t ON t.assignment = k.assignment AND t.student = k.student AND t.attempt = k.attempt
		WHERE `+access.Taught+` AND a.id = ? ORDER BY k.student, k.attempt, k.seen, k.n`), owner, assignment)
}

// see notes when a student first looks at a card of their own.
func see(ctx context.Context, tx *store.Tx, student, card int64, at time.Time) error {
	_, err := tx.Exec(ctx, store.Named("sitting.see",
		"UPDATE cards SET seen = ? WHERE id = ? AND student = ? AND seen IS NULL"), at.Unix(), card, student)
	return err
}

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
