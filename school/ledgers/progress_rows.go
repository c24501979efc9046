package ledgers

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/sitting"
	"cavix/store"
)

// PracticeSum sums up the practice of a class, without names.
type PracticeSum struct {
	Students, Cards int
	Half, Of        int64 // twice the marks
}

// readPracticeSum sums up what one of an instructor's classes practised since a time, where the class says that it is
// seen.
func readPracticeSum(ctx context.Context, q store.Queryer, owner, class int64, since time.Time) (s PracticeSum,
	err error) {
	err = store.One(ctx, q, store.Named("ledgers.readPracticeSum",
		`SELECT count(DISTINCT k.student), count(*), coalesce(sum(k.half_marks), 0), coalesce(sum(k.half_of), 0)
		FROM cards k JOIN students st ON st.id = k.student JOIN classes c ON c.id = st.class
		WHERE `+access.Taught+` AND c.id = ? AND c.practice_seen AND k.assignment IS NULL AND k.answered >= ?`),
		[]any{owner, class, since.Unix()}, &s.Students, &s.Cards, &s.Half, &s.Of)
	return s, err
}

// SlipCount counts how often a slip was made.
type SlipCount struct {
	Slip  string
	Cards int
}

// listPracticeSlips lists the slips that a class made most in practice since a time, where the class says that it is
// seen.
func listPracticeSlips(ctx context.Context, q store.Queryer, owner, class int64, since time.Time,
	most int) ([]SlipCount, error) {
	return store.All(ctx, q, func(r store.Row) (s SlipCount, err error) { return s, r.Scan(&s.Slip, &s.Cards) },
		store.Named("ledgers.listPracticeSlips",
			`SELECT k.slip, count(*) FROM cards k JOIN students st ON st.id = k.student JOIN classes c
				ON c.id = st.class
		WHERE `+access.Taught+` AND c.id = ? AND c.practice_seen AND k.assignment IS NULL AND k.answered >= ?
		AND k.slip IS NOT NULL
		GROUP BY k.slip ORDER BY count(*) DESC, k.slip LIMIT ?`), owner, class, since.Unix(), most)
}

// Week holds a student's work in one week, Monday to Sunday.
type Week struct {
	Begins    time.Time
	Cards     int
	Practised int // of the cards
	Half, Of  int64
}

// weekOf is the week of a card's answer, counted from the first Monday of 1970, by a clock that is so many seconds
// ahead.
const weekOf = "(answered + ? + 259200) / 604800"

// tallyWeek is the same of a tally.
const tallyWeek = "(t.quarter * 900 + ? + 259200) / 604800"

func weekBegins(week int64) time.Time { return time.Unix(week*604800-259200, 0).UTC() }

// listWeeks lists what a student did and was told of by week, the oldest first, of the latest weeks up to most;
// practice is left out unless it is asked for.
func listWeeks(ctx context.Context, q store.Queryer, student int64, practice bool, ahead, most int) ([]Week, error) {
	return store.All(ctx, q, func(r store.Row) (w Week, err error) {
		var week int64
		err = r.Scan(&week, &w.Cards, &w.Practised, &w.Half, &w.Of)
		w.Begins = weekBegins(week)
		return w, err
	}, store.Named("ledgers.listWeeks", `SELECT * FROM (SELECT `+weekOf+` AS week, count(*), sum(assignment IS NULL),
		coalesce(sum(coalesce(own_half_marks, half_marks)), 0), coalesce(sum(half_of), 0) FROM cards
		WHERE student = ? AND (? OR assignment IS NOT NULL) AND answered IS NOT NULL AND NOT hidden
		GROUP BY week ORDER BY week DESC LIMIT ?) ORDER BY week`), ahead, student, practice, most)
}

// SlipWeek counts how often a student made a slip in one week.
type SlipWeek struct {
	Slip   string
	Begins time.Time
	Cards  int
}

// listSlipWeeks lists how often a student made each slip, week by week; practice is left out unless it is asked for.
func listSlipWeeks(ctx context.Context, q store.Queryer, student int64, practice bool, ahead int,
	since time.Time) ([]SlipWeek, error) {
	return store.All(ctx, q, func(r store.Row) (s SlipWeek, err error) {
		var week int64
		err = r.Scan(&s.Slip, &week, &s.Cards)
		s.Begins = weekBegins(week)
		return s, err
	}, store.Named("ledgers.listSlipWeeks", "SELECT slip, "+weekOf+` AS week, count(*) FROM cards
		WHERE student = ? AND (? OR assignment IS NOT NULL) AND answered >= ? AND slip IS NOT NULL AND NOT hidden
		GROUP BY slip, week ORDER BY slip, week`), ahead, student, practice, since.Unix())
}

// listClassSlipWeeks lists how often a class made each slip on its sheets, week by week.
func listClassSlipWeeks(ctx context.Context, q store.Queryer, instructor, class int64, ahead int,
	since time.Time) ([]SlipWeek, error) {
	return store.All(ctx, q, func(r store.Row) (s SlipWeek, err error) {
		var week int64
		err = r.Scan(&s.Slip, &week, &s.Cards)
		s.Begins = weekBegins(week)
		return s, err
	}, store.Named("ledgers.listClassSlipWeeks",
		"SELECT t.slip, "+tallyWeek+` AS week, sum(t.cards) FROM assignments a JOIN tallies t ON t.assignment = a.id
		WHERE `+access.TaughtSheet+" AND a.class = ? AND t.quarter >= ? AND t.slip <> '' GROUP BY t.slip, "+
			"week ORDER BY week, t.slip"),
		ahead, instructor, class, since.Unix()/900)
}

// listClassWeeks lists what a class did on its sheets by week, the oldest first, of the latest weeks up to most.
func listClassWeeks(ctx context.Context, q store.Queryer, instructor, class int64, ahead, most int) ([]Week, error) {
	return store.All(ctx, q, func(r store.Row) (w Week, err error) {
		var week int64
		err = r.Scan(&week, &w.Cards, &w.Half, &w.Of)
		w.Begins = weekBegins(week)
		return w, err
	}, store.Named("ledgers.listClassWeeks",
		`SELECT * FROM (SELECT `+tallyWeek+` AS week, sum(t.cards), sum(t.half), sum(t.of)
		FROM assignments a JOIN tallies t ON t.assignment = a.id
		WHERE `+access.TaughtSheet+` AND a.class = ? GROUP BY week ORDER BY week DESC LIMIT ?) ORDER BY week`),
		ahead, instructor, class, most)
}

// FamilySlip tells how often a slip was made on instruments of a family, of all cards answered on them; a slip of "" is
// all of them.
type FamilySlip struct {
	Family, Slip string
	Cards        int
}

// listFamilySlips lists the slips of a class by the families of the instruments on which they were made.
func listFamilySlips(ctx context.Context, q store.Queryer, instructor, class int64) ([]FamilySlip, error) {
	return store.All(ctx, q, func(r store.Row) (s FamilySlip, err error) {
		return s,
			r.Scan(&s.Family, &s.Slip, &s.Cards)
	},
		store.Named("ledgers.listFamilySlips",
			`SELECT t.family, t.slip, sum(t.cards) FROM assignments a JOIN tallies t ON t.assignment = a.id
		WHERE `+access.TaughtSheet+` AND a.class = ? AND t.family <> '' GROUP BY t.family, t.slip`),
		instructor, class)
}

// SlipMaker is a student who has made a slip.
type SlipMaker struct {
	Slip    string
	Student int64
	Name    string
	Cards   int
}

// listSlipMakers lists who in a class made which slips on its sheets, and on how many cards.
func listSlipMakers(ctx context.Context, q store.Queryer, instructor, class int64) ([]SlipMaker, error) {
	return store.All(ctx, q, func(r store.Row) (s SlipMaker, err error) {
		return s,
			r.Scan(&s.Slip, &s.Student, &s.Name, &s.Cards)
	},
		store.Named("ledgers.listSlipMakers",
			`SELECT m.slip, s.id, s.name, m.cards FROM classes c JOIN makers m ON m.class = c.id
				JOIN students s ON s.id = m.student
		WHERE `+access.Taught+` AND c.id = ? AND s.binned IS NULL ORDER BY m.slip, m.cards DESC, s.folded`),
		instructor, class)
}

// listCardNames tells what stands on the cards of a sheet: the kind and instrument of each number, as most of some
// thirty attempts have it.
func listCardNames(ctx context.Context, q store.Queryer, instructor, assignment int64) ([]sitting.CardRow, error) {
	return store.All(ctx, q, func(r store.Row) (c sitting.CardRow, err error) {
		return c, r.Scan(&c.N, &c.Kind, &c.Family, &c.Instrument, &c.Attempt)
	},
		store.Named("ledgers.listCardNames",
			`SELECT k.n, k.kind, k.family, coalesce(nullif(k.instrument, ''),
				unpacked(k.item) ->> '$.body.instrument.name', unpacked(k.item) ->> '$.instrument.name', ''),
		count(*) AS many FROM cards k JOIN assignments a ON a.id = k.assignment
		WHERE `+access.TaughtSheet+` AND a.id = ? AND k.student IN (SELECT student FROM sittings WHERE assignment = ?
		LIMIT 31) GROUP BY 1, 2, 3, 4 ORDER BY k.n, many`), instructor, assignment, assignment)
}
