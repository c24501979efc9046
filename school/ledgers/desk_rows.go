package ledgers

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// listGivenLately lists the sheets given last to the running classes that an instructor teaches, the newest first, up
// to most.
func listGivenLately(ctx context.Context, q store.Queryer, instructor int64, most int) ([]sitting.Assignment, error) {
	return store.All(ctx, q, sitting.ScanAssignment, store.Named("ledgers.listGivenLately",
		sitting.RecentCards+"WHERE "+access.Taught+" AND c.archived IS NULL"+sitting.LatestFirst+" LIMIT ?"),
		instructor, most)
}

// listRunning lists the sheets at which somebody in a class that an instructor teaches has begun since a time and not
// handed in, those that most are at first.
func listRunning(ctx context.Context, q store.Queryer, instructor int64, since time.Time) ([]int64, error) {
	return store.All(ctx, q, func(r store.Row) (id int64, err error) { return id, r.Scan(&id) },
		store.Named("ledgers.listRunning",
			`SELECT t.assignment FROM sittings t JOIN assignments a ON a.id = t.assignment JOIN classes c
				ON c.id = a.class
		WHERE `+access.TaughtSheet+` AND c.archived IS NULL AND t.handed IS NULL AND t.began >= ? AND t.version IS NULL
		GROUP BY t.assignment ORDER BY count(*) DESC, t.assignment DESC`), instructor, since.Unix())
}

// Pending is a sheet of a running class about which something is due.
type Pending struct {
	Assignment, Class int64
	Title, ClassName  string
	Zone              string
	Closes            time.Time // zero: never
	Students          int       // in the class
	Begun             int       // who have begun, or are excused
	Hidden            int       // to whom it is not told what it came to
}

// listPending lists the sheets of an instructor's running classes that close from a time to another, or whose results
// wait, those that close first first.
func listPending(ctx context.Context, q store.Queryer, instructor int64, from, to time.Time, most int) ([]Pending,
	error) {
	return store.All(ctx, q, func(r store.Row) (p Pending, err error) {
		var closes *int64
		err = r.Scan(&p.Assignment, &p.Class, &p.Title, &p.ClassName, &p.Zone, &closes, &p.Students, &p.Begun,
			&p.Hidden)
		p.Closes = store.TimeOf(closes)
		return p, err
	}, store.Named("ledgers.listPending", `SELECT a.id, c.id, a.title, c.name, c.zone, a.closes,
		(SELECT count(*) FROM students WHERE class = c.id AND NOT guest AND gone IS NULL),
		(SELECT count(DISTINCT s.id) FROM students s WHERE s.class = c.id AND s.gone IS NULL AND NOT s.guest AND
			(EXISTS (SELECT 1 FROM sittings t WHERE t.assignment = a.id AND t.student = s.id)
			OR EXISTS (SELECT 1 FROM excused x WHERE x.assignment = a.id AND x.student = s.id))),
		(SELECT count(*) FROM sittings t WHERE t.assignment = a.id AND t.hidden)
		FROM assignments a JOIN classes c ON c.id = a.class
		WHERE `+access.TaughtSheet+` AND c.archived IS NULL AND (a.closes BETWEEN ? AND ?
			OR EXISTS (SELECT 1 FROM sittings t WHERE t.assignment = a.id AND t.hidden))
		ORDER BY a.closes IS NULL OR a.closes < ?, a.closes LIMIT ?`),
		instructor, from.Unix(), to.Unix(), from.Unix(), most)
}

// MadeLately counts a student's slips of one sort on a sheet since a time.
type MadeLately struct {
	Student, Sheet int64
	Slip           string
	Cards          int
}

// listMadeLately lists the slips that were made since a time on sheets of an instructor's running classes, by the
// newest sheets first.
func listMadeLately(ctx context.Context, q store.Queryer, instructor int64, since time.Time) ([]MadeLately, error) {
	return store.All(ctx, q, func(r store.Row) (m MadeLately, err error) {
		return m,
			r.Scan(&m.Student, &m.Sheet, &m.Slip, &m.Cards)
	},
		store.Named("ledgers.listMadeLately",
			`SELECT k.student, k.assignment, k.slip, count(*) FROM assignments a JOIN classes c ON c.id = a.class
		JOIN students s ON s.class = c.id JOIN cards k ON k.student = s.id AND k.assignment = a.id
		WHERE `+access.TaughtSheet+` AND c.archived IS NULL AND a.given >= ? AND s.gone IS NULL AND k.slip IS NOT NULL
		AND k.answered >= ?
		GROUP BY k.student, k.assignment, k.slip ORDER BY k.assignment DESC, k.slip, k.student`),
		instructor, since.AddDate(0, 0, -28).Unix(), since.Unix())
}

// listItemsAnswered lists the item documents of the cards that a student has answered on a sheet since a time.
func listItemsAnswered(ctx context.Context, q store.Queryer, student, assignment int64, since time.Time) ([]string,
	error) {
	return store.All(ctx, q, func(r store.Row) (doc string, err error) { return doc, r.Scan(&doc) },
		store.Named("ledgers.listItemsAnswered",
			"SELECT unpacked(item) FROM cards WHERE student = ? AND assignment = ? AND answered >= ? ORDER BY id"),
		student,
		assignment, since.Unix())
}

// listAnsweredLately counts the students who have answered something since a time on each sheet of an instructor's
// running classes.
func listAnsweredLately(ctx context.Context, q store.Queryer, instructor int64, since time.Time) ([]sitting.Tally,
	[]int64, error) {
	var sheets []int64
	list, err := store.All(ctx, q, func(r store.Row) (t sitting.Tally, err error) {
		var id int64
		err = r.Scan(&id, &t.Name, &t.Count)
		sheets = append(sheets, id)
		return t, err
	}, store.Named("ledgers.listAnsweredLately",
		`SELECT a.id, a.title, count(DISTINCT t.student) FROM assignments a JOIN classes c ON c.id = a.class
		JOIN sittings t ON t.assignment = a.id
		WHERE `+access.TaughtSheet+` AND c.archived IS NULL AND a.given >= ? AND t.done > 0 GROUP BY a.id`), instructor,
		since.AddDate(0, 0, -28).Unix())
	return list, sheets, err
}

// FormLost counts the half marks that a student lost for form since a time, with an example.
type FormLost struct {
	Student         int64
	Times           int
	Given, Expected string
}

// listFormLost lists who lost marks for form alone since a time in an instructor's running classes.
func listFormLost(ctx context.Context, q store.Queryer, instructor int64, since time.Time) ([]FormLost, error) {
	return store.All(ctx, q, func(r store.Row) (f FormLost, err error) {
		return f, r.Scan(&f.Student, &f.Times, &f.Given, &f.Expected)
	},
		store.Named("ledgers.listFormLost",
			`SELECT k.student, count(*), e.value ->> '$.given', e.value ->> '$.expected' FROM assignments a
		JOIN classes c ON c.id = a.class JOIN cards k ON k.assignment = a.id AND k.form = 1
		JOIN students s ON s.id = k.student AND s.class = c.id JOIN json_each(unpacked(k.result)) e
		WHERE `+access.TaughtSheet+` AND c.archived IS NULL AND s.gone IS NULL AND a.given >= ? AND k.answered >= ?
		AND e.value ->> '$.outcome' = 'form' GROUP BY k.student`),
		instructor, since.AddDate(0, 0, -28).Unix(), since.Unix())
}

// findTaughtStudent finds a student of an instructor's classes.
func findTaughtStudent(ctx context.Context, q store.Queryer, instructor, student int64) (roster.Student, error) {
	return store.Only(store.All(ctx, q, roster.ScanStudent, store.Named("ledgers.findTaughtStudent",
		roster.StudentColumns+"WHERE s.id = ? AND "+access.Taught), student, instructor))
}

// readWeekSum sums up what an instructor's running classes answered on sheets in a span of time, to the quarter of an
// hour.
func readWeekSum(ctx context.Context, q store.Queryer, instructor int64, from, to time.Time) (cards int, half, of int64,
	err error) {
	err = store.One(ctx, q, store.Named("ledgers.readWeekSum",
		`SELECT coalesce(sum(t.cards), 0), coalesce(sum(t.half), 0), coalesce(sum(t.of), 0)
		FROM classes c JOIN assignments a ON a.class = c.id JOIN tallies t ON t.assignment = a.id
		WHERE `+access.Taught+` AND c.archived IS NULL AND t.quarter >= ? / 900 AND t.quarter < ? / 900`),
		[]any{instructor, from.Unix(), to.Unix()}, &cards, &half, &of)
	return cards, half, of, err
}
