package sitting

import (
	"context"
	"errors"
	"time"

	"cavix/store"
)

// Practice holds a student's choices for practice.
type Practice struct {
	Families string // chosen to practise on, with spaces between; "" is what is needed most
	Kinds    string // of cards, chosen alike; "" is all
	Cards    int    // practised in all
	Why      string // the card that is open
}

// findPractice reads how a student practises; one who never did has the zero value.
func findPractice(ctx context.Context, q store.Queryer, student int64) (p Practice, err error) {
	err = store.One(ctx, q, store.Named("sitting.findPractice",
		"SELECT families, kinds, cards, why FROM practice WHERE student = ?"), []any{student}, &p.Families, &p.Kinds,
		&p.Cards, &p.Why)
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return p, err
}

// updatePractice keeps how a student practises.
func updatePractice(ctx context.Context, tx *store.Tx, student int64, p Practice) error {
	_, err := tx.Exec(ctx, store.Named("sitting.updatePractice",
		`INSERT INTO practice (student, families, kinds, cards, why) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (student) DO UPDATE SET families = excluded.families, kinds = excluded.kinds,
		cards = excluded.cards, why = excluded.why`), student, p.Families, p.Kinds, p.Cards, p.Why)
	return err
}

// PastRow is a card that a student has answered, as far as it tells of the student.
type PastRow struct {
	Card     int64
	Family   string // of its instrument; "" where there is none
	Told     *string
	Item     string // the item document, where what it could tell is not worked out yet
	Hints    int
	Slip     string // the first that was made
	Right    bool   // nothing went wrong on it, whatever help was taken
	Answered time.Time
	Half, Of int64
	Practice bool // it belongs to no sheet
}

// listPast lists the cards that a student answered last and was told of, the oldest first, up to most.
func listPast(ctx context.Context, q store.Queryer, student int64, most int) ([]PastRow, error) {
	return store.All(ctx, q, func(r store.Row) (p PastRow, err error) {
		var answered int64
		var slip *string
		err = r.Scan(&p.Card, &p.Family, &p.Told, &p.Item, &p.Hints, &slip, &p.Half, &p.Of, &answered, &p.Practice,
			&p.Right)
		p.Answered = time.Unix(answered, 0)
		p.Slip = store.TextOf(slip)
		return p, err
	}, store.Named("sitting.listPast",
		`SELECT * FROM (SELECT id, family, unpacked(told), iif(told IS NULL, unpacked(item), ''), hints, slip,
			coalesce(half_marks, 0),
			coalesce(half_of, 0), answered, assignment IS NULL,
		NOT EXISTS (SELECT 1 FROM json_each(unpacked(result))
			WHERE value ->> '$.outcome' NOT IN ('right', 'carried'))
		FROM cards WHERE student = ? AND answered IS NOT NULL AND NOT hidden
		ORDER BY answered DESC, id DESC LIMIT ?) ORDER BY answered, id`), student, most)
}

// updateTold keeps the slips that a card could tell.
func updateTold(ctx context.Context, tx *store.Tx, card int64, told string) error {
	return tx.Change(ctx, store.Named("sitting.updateTold", "UPDATE cards SET told = packed(?) WHERE id = ?"), told,
		card)
}

// ForgetTold has what the cards of a given sheet could tell worked out anew.
func ForgetTold(ctx context.Context, tx *store.Tx, assignment int64) error {
	_, err := tx.Exec(ctx, store.Named("sitting.ForgetTold", "UPDATE cards SET told = NULL WHERE assignment = ?"),
		assignment)
	return err
}

// findPractised finds a card that a student practised, by its number.
func findPractised(ctx context.Context, q store.Queryer, student int64, n int) (CardRow, error) {
	return store.Only(store.All(ctx, q, scanCard,
		store.Named("sitting.findPractised", cardColumns+"WHERE k.student = ? AND k.assignment IS NULL AND k.n = ?"),
		student, n))
}

// findOpenPractice finds the card that a student has begun to practise on, and not checked.
func findOpenPractice(ctx context.Context, q store.Queryer, student int64) (CardRow, error) {
	return store.Only(store.All(ctx, q, scanCard, store.Named("sitting.findOpenPractice",
		cardColumns+"WHERE k.student = ? AND k.assignment IS NULL AND k.answered IS NULL"), student))
}

// listPractisedLately lists the items that a student practised last, the latest first, up to most.
func listPractisedLately(ctx context.Context, q store.Queryer, student int64, most int) ([]string, error) {
	return store.All(ctx, q, func(r store.Row) (s string, err error) { return s, r.Scan(&s) },
		store.Named("sitting.listPractisedLately",
			"SELECT unpacked(item) FROM cards WHERE student = ? AND assignment IS NULL ORDER BY n DESC LIMIT ?"),
		student, most)
}

// listPracticeMarks lists the marks of the cards that a student practised last, the oldest first, up to most.
func listPracticeMarks(ctx context.Context, q store.Queryer, student int64, most int) ([]Mark, error) {
	return store.All(ctx, q, scanPractised, store.Named("sitting.listPracticeMarks",
		`SELECT * FROM (SELECT n, half_marks, half_of, slip, answered FROM cards
		WHERE student = ? AND assignment IS NULL ORDER BY n DESC LIMIT ?) ORDER BY n`), student, most)
}

func scanPractised(r store.Row) (m Mark, err error) {
	var half, of, answered *int64
	var slip *string
	err = r.Scan(&m.N, &half, &of, &slip, &answered)
	m.Done, m.Half, m.Of = answered != nil, store.OrZero(half), store.OrZero(of)
	m.Slip = store.TextOf(slip)
	return m, err
}

// Day sums up a student's practice on one day.
type Day struct {
	At       time.Time
	Cards    int
	Half, Of int64 // twice the marks
}

// listPracticeDays lists what a student practised by day, the oldest first, of the latest days up to most. The days are
// those of a clock that is so many seconds ahead of the world's.
func listPracticeDays(ctx context.Context, q store.Queryer, student int64, ahead, most int) ([]Day, error) {
	return store.All(ctx, q, func(r store.Row) (d Day, err error) {
		var day int64
		err = r.Scan(&day, &d.Cards, &d.Half, &d.Of)
		d.At = time.Unix(day*86400, 0).UTC()
		return d, err
	}, store.Named("sitting.listPracticeDays",
		`SELECT * FROM (SELECT (answered + ?) / 86400 AS day, count(*), sum(half_marks), sum(half_of) FROM cards
		WHERE student = ? AND assignment IS NULL AND answered IS NOT NULL GROUP BY day ORDER BY day DESC LIMIT ?)
		ORDER BY day`),
		ahead, student, most)
}
