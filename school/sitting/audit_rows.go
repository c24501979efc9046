package sitting

import (
	"context"
	"time"

	"cavix/store"
)

// SheetTitle is the title of a sheet that was given, and the name of its class.
func SheetTitle(ctx context.Context, q store.Queryer, assignment int64) (title, class string, err error) {
	err = store.One(ctx, q, store.Named("sitting.SheetTitle",
		"SELECT a.title, c.name FROM assignments a JOIN classes c ON c.id = a.class WHERE a.id = ?"), []any{assignment},
		&title, &class)
	return title, class, err
}

// LastCard returns the highest number of a card; 0 where there is none.
func LastCard(ctx context.Context, q store.Queryer) (id int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.LastCard", "SELECT coalesce(max(id), 0) FROM cards"), nil, &id)
	return id, err
}

// LastSummed returns the highest number of a sheet that was given, or of a class; 0 where there is none.
func LastSummed(ctx context.Context, q store.Queryer) (id int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.LastSummed", `SELECT max(
		(SELECT coalesce(max(id), 0) FROM assignments), (SELECT coalesce(max(id), 0) FROM classes))`), nil, &id)
	return id, err
}

// ListCardsBetween lists the cards after one of them up to another, whoever they belong to, in the order of their ids.
func ListCardsBetween(ctx context.Context, q store.Queryer, after, to int64) ([]CardRow, error) {
	return store.All(ctx, q, scanCard, store.Named("sitting.ListCardsBetween",
		cardColumns+"WHERE k.id > ? AND k.id <= ? ORDER BY k.id"), after, to)
}

// SummedCard holds the columns of a card that the sums of its sheet are computed from.
type SummedCard struct {
	Student        int64
	Attempt, N     int
	Half, Of, Full int64 // twice the marks that count, twice the full marks of what was marked, and of what was dealt
	Marked         bool  // Of is known
	Slip           string
	Late, Hidden   bool
	Seen, Answered *int64 // seconds since 1970
	Led            *float64
	Block          int
	Kind, Family   string
}

// ListSummedCards lists the cards of a sheet, by student, attempt and number.
func ListSummedCards(ctx context.Context, q store.Queryer, assignment int64) ([]SummedCard, error) {
	return store.All(ctx, q, func(r store.Row) (c SummedCard, err error) {
		var half, of, full *int64
		var slip *string
		err = r.Scan(&c.Student, &c.Attempt, &c.N, &half, &of, &full, &slip, &c.Late, &c.Hidden, &c.Seen, &c.Answered,
			&c.Led, &c.Block, &c.Kind, &c.Family)
		c.Half, c.Of, c.Full, c.Marked = store.OrZero(half), store.OrZero(of), store.OrZero(full), of != nil
		c.Slip = store.TextOf(slip)
		return c, err
	}, store.Named("sitting.ListSummedCards", `SELECT student, attempt, n, coalesce(own_half_marks, half_marks),
		half_of, half_full, slip, late, hidden, seen, answered, led, block, kind, family FROM cards
		WHERE assignment = ? ORDER BY student, attempt, n`), assignment)
}

// State returns the state that the marks of the attempt should hold for the card.
func (c *SummedCard) State() CardState {
	s := CardState{Mark: Mark{N: c.N, Done: c.Answered != nil, Half: c.Half, Of: c.Of, Slip: c.Slip, Late: c.Late,
		Hidden: c.Hidden}, Led: c.Led}
	s.Seen, s.Answered = store.TimeOf(c.Seen), store.TimeOf(c.Answered)
	return s
}

// SummedAttempt is an attempt with its stored sums and card states.
type SummedAttempt struct {
	Student      int64
	Attempt      int
	Began        time.Time
	Cards        int // answered
	Half, Of     int64
	Full         int64
	Late, Hidden bool
	States       []CardState
	Unread       error // why the states cannot be read
}

// ListSummedAttempts lists the attempts at a sheet, by student and attempt.
func ListSummedAttempts(ctx context.Context, q store.Queryer, assignment int64) ([]SummedAttempt, error) {
	return store.All(ctx, q, func(r store.Row) (a SummedAttempt, err error) {
		var began int64
		var states string
		if err := r.Scan(&a.Student, &a.Attempt, &began, &a.Cards, &a.Half, &a.Of, &a.Full, &a.Late, &a.Hidden,
			&states); err != nil {
			return a, err
		}
		a.Began = time.Unix(began, 0)
		a.States, a.Unread = readMarks(states, a.Began)
		return a, nil
	}, store.Named("sitting.ListSummedAttempts", `SELECT t.student, t.attempt, t.began, t.done, t.half_marks, t.half_of,
		t.half_full, t.late, t.hidden, CASE WHEN json_valid(m.cards, 8) THEN json(m.cards) ELSE '?' END FROM sittings t
		LEFT JOIN marks m ON m.assignment = t.assignment AND m.student = t.student AND m.attempt = t.attempt
		WHERE t.assignment = ? ORDER BY t.student, t.attempt`), assignment)
}

// TallyKey identifies a tally of a sheet: cards with the same first slip, answered in the same quarter of an hour.
type TallyKey struct {
	Slip         string
	Quarter      int64
	Block        int
	Kind, Family string
}

// TallyTotals holds the number of cards in a tally, and twice their marks.
type TallyTotals struct{ Cards, Half, Of int64 }

// Tally returns the key of the card's tally and what the card adds to it; false for a card that is not tallied.
func (c *SummedCard) Tally() (TallyKey, TallyTotals, bool) {
	if c.Answered == nil || !c.Marked {
		return TallyKey{}, TallyTotals{}, false
	}
	return TallyKey{c.Slip, *c.Answered / quarter, c.Block, c.Kind, c.Family}, TallyTotals{1, c.Half, c.Of}, true
}

// quarter is a quarter of an hour, in seconds.
const quarter = 900

// ListTallies lists the tallies of a sheet.
func ListTallies(ctx context.Context, q store.Queryer, assignment int64) (map[TallyKey]TallyTotals, error) {
	out := map[TallyKey]TallyTotals{}
	_, err := store.All(ctx, q, func(r store.Row) (t TallyKey, err error) {
		var came TallyTotals
		err = r.Scan(&t.Slip, &t.Quarter, &t.Block, &t.Kind, &t.Family, &came.Cards, &came.Half, &came.Of)
		out[t] = came
		return t, err
	}, store.Named("sitting.ListTallies", `SELECT slip, quarter, block, kind, family, cards, half, of FROM tallies
		WHERE assignment = ?`), assignment)
	return out, err
}

// MakersOff is a slip whose stored counts by student, in a class, differ from the cards.
type MakersOff struct {
	Class int64
	Slip  string
}

// ListMakersOff lists such slips of the classes with after < id <= to, at most so many.
func ListMakersOff(ctx context.Context, q store.Queryer, after, to int64, most int) ([]MakersOff, error) {
	return store.All(ctx, q, func(r store.Row) (m MakersOff, err error) { return m, r.Scan(&m.Class, &m.Slip) },
		store.Named("sitting.ListMakersOff", `WITH counted AS (
		SELECT a.class, k.slip, k.student, count(*) AS cards FROM cards k JOIN assignments a ON a.id = k.assignment
		WHERE a.class > ?1 AND a.class <= ?2 AND k.answered IS NOT NULL AND k.half_of IS NOT NULL AND k.slip IS NOT NULL
		GROUP BY 1, 2, 3), standing AS (SELECT * FROM makers WHERE class > ?1 AND class <= ?2)
		SELECT DISTINCT class, slip FROM (SELECT * FROM (SELECT * FROM counted EXCEPT SELECT * FROM standing)
		UNION ALL SELECT * FROM (SELECT * FROM standing EXCEPT SELECT * FROM counted)) LIMIT ?3`), after, to, most)
}
