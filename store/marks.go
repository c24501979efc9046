package store

import (
	"time"

	"cavix/core/text"
)

// Wording is what an instructor says of a slip.
type Wording struct {
	Code   string
	Off    bool
	Advice string
	Note   string
}

func scanWording(r row) (w Wording, err error) { return w, r.Scan(&w.Code, &w.Off, &w.Advice, &w.Note) }

// Wordings are an instructor's own words for slips.
func (r *Reader) Wordings(owner int64) ([]Wording, error) {
	return all(r, scanWording, "SELECT code, off, advice, note FROM slip_words WHERE owner = ?", owner)
}

// StudentWordings are the words of the instructor who teaches a student.
func (r *Reader) StudentWordings(student int64) ([]Wording, error) {
	return remember(r.known, settledKey{what: "wordings", a: student}, func() ([]Wording, error) {
		return all(r, scanWording, `SELECT w.code, w.off, w.advice, w.note FROM slip_words w JOIN classes c ON c.owner = w.owner
			JOIN students s ON s.class = c.id WHERE s.id = ?`, student)
	})
}

// ClassWordings are the words of the instructor who leads a class.
func (r *Reader) ClassWordings(class int64) ([]Wording, error) {
	return all(r, scanWording, `SELECT w.code, w.off, w.advice, w.note FROM slip_words w JOIN classes c ON c.owner = w.owner
		WHERE c.id = ?`, class)
}

// SetWording keeps an instructor's words for one slip.
func (t *Tx) SetWording(owner int64, w Wording) error {
	_, err := t.Exec(`INSERT INTO slip_words (owner, code, off, advice, note) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (owner, code) DO UPDATE SET off = excluded.off, advice = excluded.advice, note = excluded.note`,
		owner, w.Code, w.Off, w.Advice, w.Note)
	return err
}

// Remarking is a marking anew of a given sheet, with the sheet as it was before.
type Remarking struct {
	ID         int64
	Definition string
}

// LastRemarking finds the latest marking anew of a given sheet, or ErrNotFound.
func (r *Reader) LastRemarking(assignment int64) (m Remarking, err error) {
	return m, r.one("SELECT id, definition FROM remarkings WHERE assignment = ? ORDER BY id DESC LIMIT 1",
		[]any{assignment}, &m.ID, &m.Definition)
}

// Before is what a card was before it was marked anew.
type Before struct {
	Card     int64
	Item     string
	Result   *string // its entries as a JSON object with the list "steps"; nil when it was not answered yet
	Half, Of *int64
	Slip     *string
}

// Before lists what the cards were before a marking anew.
func (r *Reader) Before(remarking int64) ([]Before, error) {
	return all(r, func(r row) (b Before, err error) {
		return b, r.Scan(&b.Card, &b.Item, &b.Result, &b.Half, &b.Of, &b.Slip)
	},
		"SELECT card, item, result, half_marks, half_of, slip FROM marks_before WHERE remarking = ?", remarking)
}

// AddRemarking notes that a given sheet is marked anew.
func (t *Tx) AddRemarking(assignment int64, before string, at time.Time) (int64, error) {
	return t.insert("INSERT INTO remarkings (assignment, definition, at) VALUES (?, ?, ?)", assignment, before,
		at.Unix())
}

// KeepBefore keeps what a card was before it is marked anew.
func (t *Tx) KeepBefore(remarking int64, b Before) error {
	_, err := t.Exec(
		"INSERT INTO marks_before (remarking, card, item, result, half_marks, half_of, slip) VALUES (?, ?, ?, ?, ?, ?, ?)",
		remarking,
		b.Card,
		b.Item,
		b.Result,
		b.Half,
		b.Of,
		b.Slip,
	)
	return err
}

// DropRemarking forgets a marking anew that was taken back.
func (t *Tx) DropRemarking(id int64) error {
	return t.change("DELETE FROM remarkings WHERE id = ?", id)
}

// SetOwnMark sets an instructor's own mark on an answered card, in halves, with the reason; nil takes it
// away again.
func (t *Tx) SetOwnMark(card int64, half *int64, reason string) error {
	return t.change("UPDATE cards SET own_half_marks = ?, own_reason = ? WHERE id = ? AND answered IS NOT NULL", half,
		reason, card)
}

// Change is a line of the record of changed marks.
type Change struct {
	Who  string
	What text.Text // what was done
	At   time.Time
}

// Log notes a change of marks.
func (t *Tx) Log(assignment int64, c Change) error {
	_, err := t.insert("INSERT INTO changes (assignment, who, what, at) VALUES (?, ?, ?, ?)", assignment, c.Who,
		text.Stored(c.What), c.At.Unix())
	return err
}

// Changes lists who changed marks of an instructor's given sheet, the latest first.
func (r *Reader) Changes(owner, assignment int64) ([]Change, error) {
	return all(r, func(r row) (c Change, err error) {
		var at int64
		err = r.Scan(&c.Who, (*keptText)(&c.What), &at)
		c.At = time.Unix(at, 0)
		return c, err
	}, `SELECT h.who, h.what, h.at FROM changes h JOIN assignments a ON a.id = h.assignment JOIN classes c ON c.id = a.class
		WHERE `+taught+` AND a.id = ? ORDER BY h.id DESC LIMIT 200`, owner, assignment)
}
