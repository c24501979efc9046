package rounds

import (
	"context"
	"errors"
	"time"

	"cavix/school/access"
	"cavix/store"
)

// Replied is a student's answer to a question that was put to the whole class.
type Replied struct {
	Item, Answer string // the item document, and what was typed, as a JSON object
	Half, Of     int64
	Slip         string
	Answered     time.Time
}

// listRepliesOf lists what a student of a class answered to questions, the oldest first.
func listRepliesOf(ctx context.Context, q store.Queryer, class, student int64) ([]Replied, error) {
	return store.All(ctx, q, func(r store.Row) (a Replied, err error) {
		var at int64
		err = r.Scan(&a.Item, &a.Answer, &a.Half, &a.Of, &a.Slip, &at)
		a.Answered = time.Unix(at, 0).UTC()
		return a, err
	}, store.Named("rounds.listRepliesOf",
		`SELECT o.item, p.answer, p.half_marks, p.half_of, coalesce(p.slip, ''), p.answered FROM replies p
		JOIN rounds o ON o.id = p.round JOIN students s ON s.id = p.student WHERE s.class = ? AND s.id = ?
		ORDER BY o.id`), class, student)
}

// ListRepliesAfter lists answers to a round after a student's, up to most.
func ListRepliesAfter(ctx context.Context, q store.Queryer, round, student int64, most int) ([]Reply, error) {
	return store.All(ctx, q, scanReply, store.Named("rounds.ListRepliesAfter",
		replyColumns+"WHERE round = ? AND student > ? ORDER BY student LIMIT ?"), round, student, most)
}

// Total sums up a student's answers to the questions that were put to the whole class.
type Total struct {
	Student  int64
	Done     int   // questions answered
	Half, Of int64 // twice the marks
}

// ListInClass lists the students' answers to the questions that were put to the whole class.
func ListInClass(ctx context.Context, q store.Queryer, class int64) ([]Total, error) {
	return store.All(ctx, q, func(r store.Row) (s Total, err error) {
		return s,
			r.Scan(&s.Student, &s.Done, &s.Half, &s.Of)
	},
		store.Named("rounds.ListInClass",
			`SELECT p.student, count(*), sum(p.half_marks), sum(p.half_of) FROM rounds o JOIN replies p
				ON p.round = o.id
		WHERE o.class = ? GROUP BY p.student`), class)
}

// RoundRow is a question that a whole class is asked at once.
type RoundRow struct {
	ID       int64
	Class    int64
	Item     string // the item document
	Shown    bool   // the figure stands on students' screens too
	Opened   time.Time
	Closed   time.Time // zero while answers are taken
	Revealed time.Time // when the answers were uncovered; zero until then
}

func scanRound(r store.Row) (o RoundRow, err error) {
	var opened int64
	var closed, told *int64
	err = r.Scan(&o.ID, &o.Class, &o.Item, &o.Shown, &opened, &closed, &told)
	o.Opened, o.Closed, o.Revealed = time.Unix(opened, 0), store.TimeOf(closed), store.TimeOf(told)
	return o, err
}

const roundColumns = "SELECT r.id, r.class, r.item, r.shown, r.opened, r.closed, r.told FROM rounds r "

// findLatestRound is the last round of a class, whoever asks; ErrNotFound where there was none.
func findLatestRound(ctx context.Context, q store.Queryer, class int64) (RoundRow, error) {
	return store.Only(store.All(ctx, q, scanRound, store.Named("rounds.findLatestRound",
		roundColumns+"WHERE r.class = ? ORDER BY r.id DESC LIMIT 1"), class))
}

// listRounds lists the rounds of one of an instructor's classes, the latest first, up to most.
func listRounds(ctx context.Context, q store.Queryer, owner, class int64, most int) ([]RoundRow, error) {
	return store.All(ctx, q, scanRound,
		store.Named("rounds.listRounds",
			roundColumns+`JOIN classes c ON c.id = r.class WHERE `+access.Taught+` AND r.class = ?
		ORDER BY r.id DESC LIMIT ?`), owner, class, most)
}

// findStudentRound is the last round of a student's class.
func findStudentRound(ctx context.Context, q store.Queryer, student int64) (RoundRow, error) {
	return store.Only(store.All(ctx, q, scanRound, store.Named("rounds.findStudentRound",
		roundColumns+`WHERE r.class = (SELECT class FROM students WHERE id = ?)
		ORDER BY r.id DESC LIMIT 1`), student))
}

// insertRound opens a round of a class.
func insertRound(ctx context.Context, tx *store.Tx, class int64, item string, shown bool, at time.Time) (int64, error) {
	return tx.Insert(ctx, store.Named("rounds.insertRound",
		"INSERT INTO rounds (class, item, shown, opened) VALUES (?, ?, ?, ?)"), class, item, shown, at.Unix())
}

// closeRounds takes no more answers to any open round of a class.
func closeRounds(ctx context.Context, tx *store.Tx, class int64, at time.Time) error {
	_, err := tx.Exec(ctx, store.Named("rounds.closeRounds",
		"UPDATE rounds SET closed = ? WHERE class = ? AND closed IS NULL"), at.Unix(), class)
	return err
}

// tellRound uncovers the answers to a round, which is closed then.
func tellRound(ctx context.Context, tx *store.Tx, round int64, at time.Time) error {
	return tx.Change(ctx, store.Named("rounds.tellRound",
		"UPDATE rounds SET closed = coalesce(closed, ?), told = coalesce(told, ?) WHERE id = ?"), at.Unix(), at.Unix(),
		round)
}

// Reply is a student's answer to a round.
type Reply struct {
	Student  int64
	Answer   string // as typed
	Half, Of int64  // twice the marks
	Slip     string // the first that explains it
	Answered time.Time
}

func scanReply(r store.Row) (a Reply, err error) {
	var slip *string
	var answered int64
	err = r.Scan(&a.Student, &a.Answer, &a.Half, &a.Of, &slip, &answered)
	a.Answered = time.Unix(answered, 0)
	a.Slip = store.TextOf(slip)
	return a, err
}

const replyColumns = "SELECT student, answer, half_marks, half_of, slip, answered FROM replies "

// listReplies lists the answers to a round in the order in which they were last changed.
func listReplies(ctx context.Context, q store.Queryer, round int64) ([]Reply, error) {
	return store.All(ctx, q, scanReply,
		store.Named("rounds.listReplies", replyColumns+"WHERE round = ? ORDER BY answered, student"), round)
}

// findReply is a student's answer to a round.
func findReply(ctx context.Context, q store.Queryer, round, student int64) (Reply, error) {
	return store.Only(store.All(ctx, q, scanReply,
		store.Named("rounds.findReply", replyColumns+"WHERE round = ? AND student = ?"), round, student))
}

// countReplies tells how many have answered a round, and how many could: students who are in the class, and guests.
func countReplies(ctx context.Context, q store.Queryer, round int64) (answered, of int, err error) {
	err = store.One(ctx, q, store.Named("rounds.countReplies",
		`SELECT (SELECT count(*) FROM replies WHERE round = r.id),
		(SELECT count(*) FROM students WHERE class = r.class AND gone IS NULL) FROM rounds r
		WHERE r.id = ?`), []any{round}, &answered, &of)
	return answered, of, err
}

// updateReply keeps a student's answer to an open round of their class; the latest counts. It is ErrClosed on one that
// is closed, and for a student who has left the class.
func updateReply(ctx context.Context, tx *store.Tx, round int64, a Reply) error {
	err := tx.Change(ctx, store.Named("rounds.updateReply",
		`INSERT INTO replies (round, student, answer, half_marks, half_of, slip, answered)
		SELECT r.id, s.id, ?, ?, ?, nullif(?, ''), ? FROM rounds r JOIN students s ON s.class = r.class
			WHERE r.id = ? AND r.closed IS NULL AND s.id = ? AND s.gone IS NULL
		ON CONFLICT (round, student) DO UPDATE SET answer = excluded.answer, half_marks = excluded.half_marks,
		half_of = excluded.half_of, slip = excluded.slip, answered = excluded.answered`),
		a.Answer, a.Half, a.Of, a.Slip, a.Answered.Unix(), round, a.Student)
	if errors.Is(err, store.ErrNotFound) {
		return ErrClosed
	}
	return err
}

// boardState returns the state of the Board of one of an instructor's classes; "" where nothing was shown yet.
func boardState(ctx context.Context, q store.Queryer, owner, class int64) (state string, err error) {
	err = store.One(ctx, q, store.Named("rounds.boardState",
		"SELECT coalesce(b.state, '') FROM classes c LEFT JOIN boards b ON b.class = c.id WHERE c.id = ? AND "+
			""+access.Taught), []any{class, owner}, &state)
	return state, err
}

// updateBoard keeps what stands on the Board of a class.
func updateBoard(ctx context.Context, tx *store.Tx, class int64, state string) error {
	return tx.Change(ctx, store.Named("rounds.updateBoard", `INSERT INTO boards (class, state) VALUES (?, ?)
		ON CONFLICT (class) DO UPDATE SET state = excluded.state`), class, state)
}
