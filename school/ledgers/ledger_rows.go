package ledgers

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// listSheetMarks lists the marks of a class on a sheet: every dealt card, by student, attempt and number.
func listSheetMarks(ctx context.Context, q store.Queryer, owner, assignment int64) (out []sitting.Mark, err error) {
	attempts, err := sitting.ListAttempts(ctx, q, owner, assignment)
	for _, a := range attempts {
		for _, c := range a.Cards {
			out = append(out, c.Mark)
		}
	}
	return out, err
}

// listLedgerOf lists one student's marks of an attempt at a sheet, by number.
func listLedgerOf(ctx context.Context, q store.Queryer, owner, assignment, student int64, attempt int) ([]sitting.Mark,
	error) {
	return store.All(ctx, q, sitting.ScanMark,
		store.Named("ledgers.listLedgerOf",
			sitting.MarkColumns+`JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class
		WHERE `+access.Taught+` AND a.id = ? AND k.student = ? AND k.attempt = ? ORDER BY k.n`), owner, assignment,
		student, attempt)
}

// listWatched lists the cards of all students' latest attempts at a sheet of an instructor's.
func listWatched(ctx context.Context, q store.Queryer, owner, assignment int64) (out []sitting.CardState, err error) {
	attempts, err := sitting.ListAttempts(ctx, q, owner, assignment)
	if err != nil {
		return nil, err
	}
	typed, err := sitting.ListTyped(ctx, q, assignment)
	for i, a := range attempts {
		if i+1 < len(attempts) && attempts[i+1].Student == a.Student {
			continue
		}
		for _, c := range a.Cards {
			c.Typed = typed[sitting.CardKey{Student: a.Student, Attempt: a.Attempt, N: c.N}]
			out = append(out, c)
		}
	}
	return out, err
}

// Score holds the marks of one attempt at a sheet.
type Score struct {
	Assignment, Student int64
	Attempt             int
	Done                int   // cards answered
	Half, Of            int64 // twice the marks of the cards answered
	Full                int64 // twice the full marks of all its cards
	Late, Hidden        bool  // a card was late; what it came to is not told yet
	HandedIn            bool  // by the student, by the clock, or as it was entered from paper
}

const scoreColumns = `SELECT assignment, student, attempt, done, half_marks, half_of, half_full, late, hidden,
	handed IS NOT NULL
	FROM sittings `

func scanScore(r store.Row) (s Score, err error) {
	return s, r.Scan(&s.Assignment, &s.Student, &s.Attempt, &s.Done, &s.Half, &s.Of, &s.Full, &s.Late, &s.Hidden,
		&s.HandedIn)
}

// listScores lists the attempts at all sheets of a class that an instructor teaches, by sheet, student and attempt.
func listScores(ctx context.Context, q store.Queryer, instructor, class int64) ([]Score, error) {
	return store.All(ctx, q, scanScore, store.Named("ledgers.listScores", scoreColumns+`WHERE assignment IN
		(SELECT id FROM assignments a
			WHERE `+access.TaughtSheet+` AND a.class = ?) ORDER BY assignment, student, attempt`),
		instructor, class)
}

// listScoresOf lists one student's.
func listScoresOf(ctx context.Context, q store.Queryer, instructor, class, student int64) ([]Score, error) {
	return store.All(ctx, q, scanScore, store.Named("ledgers.listScoresOf", scoreColumns+`WHERE student = ?
		AND assignment IN (SELECT id FROM assignments a WHERE `+access.TaughtSheet+` AND a.class = ?)
		ORDER BY assignment, attempt`), student, instructor, class)
}

// listSheetScores lists the attempts at a sheet, by student and attempt.
func listSheetScores(ctx context.Context, q store.Queryer, assignment int64) ([]Score, error) {
	return store.All(ctx, q, scanScore, store.Named("ledgers.listSheetScores", scoreColumns+
		"WHERE assignment = ? ORDER BY student, attempt"), assignment)
}

// Excuse is somebody who is excused from a sheet.
type Excuse struct {
	Assignment, Student int64
	Reason              string
}

// listExcuses lists who is excused from the sheets of a class that an instructor teaches.
func listExcuses(ctx context.Context, q store.Queryer, instructor, class int64) ([]Excuse, error) {
	return store.All(ctx, q, func(r store.Row) (e Excuse, err error) {
		return e,
			r.Scan(&e.Assignment, &e.Student, &e.Reason)
	},
		store.Named("ledgers.listExcuses",
			`SELECT x.assignment, x.student, x.reason FROM excused x JOIN assignments a ON a.id = x.assignment
		WHERE `+access.TaughtSheet+" AND a.class = ?"), instructor, class)
}

// updateExcuse excuses a student from a sheet, with the reason; "" takes it back.
func updateExcuse(ctx context.Context, tx *store.Tx, e Excuse) error {
	if e.Reason == "" {
		_, err := tx.Exec(ctx, store.Named("ledgers.updateExcuse",
			"DELETE FROM excused WHERE assignment = ? AND student = ?"), e.Assignment, e.Student)
		return err
	}
	_, err := tx.Exec(ctx, store.Named("ledgers.updateExcuse",
		`INSERT INTO excused (assignment, student, reason) VALUES (?, ?, ?)
		ON CONFLICT (assignment, student) DO UPDATE SET reason = excluded.reason`), e.Assignment, e.Student, e.Reason)
	return err
}

// listLately lists how often the students of a class made each slip since a time, as far as they were told: on sheets,
// and in practice where the class shows each student's.
func listLately(ctx context.Context, q store.Queryer, class int64, since time.Time) ([]StudentSlip, error) {
	return store.All(ctx, q, func(r store.Row) (s StudentSlip, err error) {
		return s,
			r.Scan(&s.Student, &s.Slip, &s.Cards)
	},
		store.Named("ledgers.listLately",
			`SELECT k.student, k.slip, count(*) FROM students s JOIN classes c ON c.id = s.class
		JOIN cards k ON k.student = s.id AND (k.assignment IS NOT NULL OR c.practice_seen = 2) WHERE s.class = ?
		AND k.slip IS NOT NULL AND NOT k.hidden AND k.answered >= ? GROUP BY k.student, k.slip`), class, since.Unix())
}

// StudentSlip counts how often a student made a slip.
type StudentSlip struct {
	Student int64
	Slip    string
	Cards   int
}

// listMovedStudents lists the students who have answered sheets of a class that an instructor teaches and are in
// another by now.
func listMovedStudents(ctx context.Context, q store.Queryer, instructor, class int64) ([]roster.Student, error) {
	return store.All(ctx, q, roster.ScanStudent, store.Named("ledgers.listMovedStudents",
		// The span of the class's sheets is found in the index: few students have a sheet within it.
		roster.StudentColumns+`WHERE s.class <> ? AND s.binned IS NULL AND EXISTS (SELECT 1 FROM sittings t
		JOIN assignments a ON a.id = t.assignment WHERE t.student = s.id
		AND t.assignment >= (SELECT min(id) FROM assignments WHERE class = ?)
		AND t.assignment <= (SELECT max(id) FROM assignments WHERE class = ?)
		AND `+access.TaughtSheet+` AND a.class = ?)
		AND s.class IN (SELECT class FROM teaching WHERE instructor = ?)
		ORDER BY s.folded COLLATE people, s.id`), class, class, class, instructor, class, instructor)
}

// SlipBlock is a block of a sheet on whose cards a slip was made.
type SlipBlock struct {
	Assignment int64
	Block      int // from 1; 0 where that is not known
	Kind       string
	Cards      int
}

// listSlipBlocks lists the blocks of a class's sheets on whose cards a slip was made, those where it was made most
// first.
func listSlipBlocks(ctx context.Context, q store.Queryer, instructor, class int64, slip string, most int) ([]SlipBlock,
	error) {
	return store.All(ctx, q, func(r store.Row) (b SlipBlock, err error) {
		return b, r.Scan(&b.Assignment, &b.Block, &b.Kind, &b.Cards)
	},
		store.Named("ledgers.listSlipBlocks",
			`SELECT t.assignment, t.block, t.kind, sum(t.cards) FROM tallies t JOIN assignments a ON a.id = t.assignment
		WHERE `+access.TaughtSheet+` AND a.class = ? AND t.slip = ? GROUP BY t.assignment, t.block, t.kind
		ORDER BY sum(t.cards) DESC, t.assignment DESC, t.block LIMIT ?`), instructor, class, slip, most)
}

// listUnweighed lists cards of sheets after one of them whose full marks are not worked out, in the order of their ids,
// up to most: the id and the item alone.
func listUnweighed(ctx context.Context, q store.Queryer, after int64, most int) ([]sitting.CardRow, error) {
	return store.All(ctx, q, func(r store.Row) (c sitting.CardRow, err error) { return c, r.Scan(&c.ID, &c.Item) },
		store.Named("ledgers.listUnweighed", `SELECT id, unpacked(item) FROM cards
		WHERE half_full IS NULL AND assignment IS NOT NULL AND id > ? ORDER BY id LIMIT ?`), after, most)
}

// updateFull sets twice the full marks of a card.
func updateFull(ctx context.Context, tx *store.Tx, card, full int64) error {
	return tx.Change(ctx, store.Named("ledgers.updateFull", "UPDATE cards SET half_full = ? WHERE id = ?"), full, card)
}

// listClassesAnswered lists the classes outside the bin in which a sheet was begun.
func listClassesAnswered(ctx context.Context, q store.Queryer) ([]roster.Class, error) {
	return store.All(ctx, q, func(r store.Row) (c roster.Class, err error) {
		return c,
			r.Scan(&c.ID, &c.Owner, &c.Name)
	}, store.Named("ledgers.listClassesAnswered", `SELECT c.id, c.owner, c.name
		FROM classes c WHERE c.binned IS NULL AND EXISTS (SELECT 1 FROM assignments a JOIN sittings t
		ON t.assignment = a.id
		WHERE a.class = c.id) ORDER BY c.id`))
}
