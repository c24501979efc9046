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
	Slip       string    // the most frequent first slip of all attempts, if any
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

// assignmentColumns selects the columns of a sheet that was given.
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

// tallied reads sheets as they were given, with a tally of all latest attempts and a slip. Where nobody has a second
// attempt, the tally of the sheet is that of its latest attempts; else it is summed up from what each came to.
func tallied(slip string) string {
	sum := func(ready, each string) string {
		return `, iif(EXISTS (SELECT 1 FROM sittings t WHERE t.assignment = a.id AND t.attempt > 1),
			(SELECT sum(t.` + each + `) FROM sittings t WHERE t.assignment = a.id AND t.attempt = (SELECT max(l.attempt)
			FROM sittings l WHERE l.assignment = t.assignment AND l.student = t.student)),
			(SELECT sum(y.` + ready + `) FROM tallies y WHERE y.assignment = a.id))`
	}
	return assignmentColumns + students + ", coalesce(" + sum("cards", "done")[2:] + ", 0)" +
		sum("half", "half_marks") + sum("of", "half_of") + ", " + slip +
		" FROM assignments a JOIN classes c ON c.id = a.class "
}

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

const (
	students    = `, (SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL)`
	LatestFirst = " ORDER BY a.given DESC, a.id DESC"
)

var (
	RecentCards = tallied("NULL")
	ofClass     = tallied(`(SELECT y.slip FROM tallies y WHERE y.assignment = a.id AND y.slip <> ''
		GROUP BY y.slip ORDER BY sum(y.cards) DESC, y.slip LIMIT 1)`)
	ofStudent = studentsColumns + students + ", " + tally("count(*)") + ", " +
		tally("sum(coalesce(own_half_marks, half_marks))") + ", " +
		tally("sum(half_of)") + `, NULL FROM assignments a JOIN classes c ON c.id = a.class JOIN students s
			ON s.class = c.id `
)
