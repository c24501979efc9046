package sitting

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/store"
)

// CardRow is a student's card as it is kept.
type CardRow struct {
	ID         int64
	Assignment int64
	Student    int64
	Name       string // the student's; "" where the student asks for the card
	Attempt    int    // 1, 2, 3 …
	N          int    // 1, 2, 3 …
	Kind       string // of exercise
	Family     string // of the instrument
	Item       string // the item document
	stored     any    // the item as the file holds it
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
	Spoken     bool   // its figure was told in words
	Instrument string // its name, for tables
	LeastCount string // as written, with the unit
	Block      int    // of the sheet, from 1; 0 where that is not known
	Result     string // what its fields came to, as a JSON list; "" before it is checked
	Form       bool   // a field lost marks for its form alone
	Full       int64  // twice the full marks that it is dealt for; only AddCard uses it
}

// Done reports whether the card has been checked.
func (c *CardRow) Done() bool { return !c.Answered.IsZero() }

func scanCard(r store.Row) (c CardRow, err error) {
	var draft, slip, reason *string
	var item, answer, result store.Packed
	var half, of, answered *int64
	err = r.Scan(&c.Name, &c.ID, &c.Assignment, &c.Student, &c.Attempt, &c.N, &c.Kind, &c.Family, &item, &draft,
		&answer, &half, &of, &slip, &answered, &c.Hints, &c.Late, &c.Hidden, &c.Own, &reason, &c.Seen, &c.Undone,
		&c.Spoken, &result, &c.Form)
	c.Item, c.Answer, c.Result, c.stored = item.Text, answer.Text, result.Text, item.Stored
	c.Draft, c.Slip, c.Reason = store.TextOf(draft), store.TextOf(slip), store.TextOf(reason)
	c.Half, c.Of, c.Answered = store.OrZero(half), store.OrZero(of), store.TimeOf(answered)
	return c, err
}

const cardColumns = "SELECT s.name, " + cardFields + "FROM cards k JOIN students s ON s.id = k.student "

const cardFields = `k.id, coalesce(k.assignment, 0), k.student, k.attempt, k.n, k.kind, k.family, k.item, k.draft,
	k.answer, k.half_marks, k.half_of, k.slip, k.answered, k.hints, k.late, k.hidden, k.own_half_marks, k.own_reason,
	k.seen IS NOT NULL, k.undone, k.spoken, k.result, k.form `

// findCard finds a student's own card of an attempt, without the student's name: every submission asks for it.
func findCard(ctx context.Context, q store.Queryer, student, assignment int64, attempt, n int) (CardRow, error) {
	return store.Only(store.All(ctx, q, scanCard,
		store.Named("sitting.findCard", "SELECT '', "+cardFields+
			"FROM cards k WHERE k.student = ? AND k.assignment = ? AND k.attempt = ? AND k.n = ?"),
		student, assignment, attempt, n))
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
				half_full, hints)
		VALUES (nullif(?, 0), ?, ?, ?, ?, ?, packed(?), ?, ?, ?, ?, ?)`),
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
		c.Hints,
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

// speak notes that a student has the figure of an own card told in words.
func speak(ctx context.Context, tx *store.Tx, student, card int64) error {
	_, err := tx.Exec(ctx, store.Named("sitting.speak",
		"UPDATE cards SET spoken = 1 WHERE id = ? AND student = ? AND answered IS NULL"), card, student)
	return err
}

// UpdateItem changes what a card asks, or how.
func UpdateItem(ctx context.Context, tx *store.Tx, card int64, item string) error {
	return tx.Change(ctx, store.Named("sitting.UpdateItem", "UPDATE cards SET item = packed(?) WHERE id = ?"), item,
		card)
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
		`UPDATE cards SET answer = packed(?), answered = ?, late = ?, hidden = ?, draft = NULL
		WHERE id = ? AND student = ? AND answered IS NULL`), a.Text, a.At.Unix(), a.Late, a.Hidden, card, student)
}

// undoCheck takes a check of a student's card back, once: what was checked is a draft again. Undone is false where the
// card is not checked, was undone before, or has a mark of the instructor's own.
func undoCheck(ctx context.Context, tx *store.Tx, student, card int64) (undone bool, err error) {
	return tx.Changed(ctx,
		store.Named("sitting.undoCheck",
			`UPDATE cards SET draft = unpacked(answer), answer = NULL, result = NULL, answered = NULL,
			half_marks = NULL, half_of = NULL,
				slip = NULL, led = NULL, form = 0,
		undone = 1 WHERE id = ? AND student = ? AND answered IS NOT NULL AND undone = 0
		AND own_half_marks IS NULL`), card, student)
}

// answeredAs keeps an answer with what it came to, on a card that is still open, on which the student may work at a
// time, and that asks what it asked when it was read; counted is false where that is no longer so. Result is what its
// fields came to, as a JSON list.
func answeredAs(ctx context.Context, tx *store.Tx, student int64, c CardRow, a Answer, m Marked, result string,
	at time.Time) (counted bool, err error) {
	return tx.Changed(ctx,
		store.Named("sitting.answeredAs",
			`UPDATE cards AS k SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL, half_marks = ?,
		half_of = ?, slip = nullif(?, ''), led = ?, form = ?, result = ?
		WHERE id = ? AND student = ? AND answered IS NULL AND item = ?
		AND hints = ? AND undone = ? AND `+mayWorkOnK),
		store.Pack(a.Text),
		a.At.Unix(),
		a.Late,
		a.Hidden,
		m.Half,
		m.Of,
		m.Slip,
		m.led(),
		m.Form(),
		store.Pack(result),
		c.ID,
		student,
		c.stored,
		c.Hints,
		c.Undone,
		at.Unix(),
	)
}

// see notes when a student first looks at a card of their own.
func see(ctx context.Context, tx *store.Tx, student, card int64, at time.Time) error {
	_, err := tx.Exec(ctx, store.Named("sitting.see",
		"UPDATE cards SET seen = ? WHERE id = ? AND student = ? AND seen IS NULL"), at.Unix(), card, student)
	return err
}
