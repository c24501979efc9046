package transfer

import (
	"archive/zip"
	"encoding/json"
	"io"
	"strings"
	"time"

	"cavix/core/length"
	"cavix/core/slips"
)

// Answer is one field of an answered card, as a row of a tidy table.
type Answer struct {
	Class, Sheet                    string // the sheet's title; "practice" for what belongs to none
	Block, Card                     int    // a block of 0 is not known
	Kind, Instrument, LeastCount    string
	Student                         string
	Field, Given, Expected, Outcome string
	Marks, Of                       length.Number
	Slip                            string
	Hints, Seconds                  int // seconds from first sight; 0 where that is not known
	Answered                        time.Time
	Attempt                         int
	Late                            bool
	Number                          string // the school's own, of the student
}

// answerColumns are those of formats.md.
var answerColumns = []string{"class", "sheet", "block", "card", "kind", "instrument", slips.LeastCount, "student",
	"field", "given", "expected", "outcome", "marks", "of", "slip", "hints", "seconds", "answered_at", "attempt",
	"late", "number"}

// Answers writes answers as a table, one row a field.
type Answers struct{ table Table }

// NewAnswers begins a table of answers.
func NewAnswers(f Format, w io.Writer) (*Answers, error) {
	t, err := NewTable(f, w, "Answers", answerColumns...)
	return &Answers{t}, err
}

// Write writes one row.
func (w *Answers) Write(a Answer) error {
	return w.table.Row(a.Class, a.Sheet, known(a.Block), a.Card, a.Kind, a.Instrument, a.LeastCount, a.Student, a.Field,
		a.Given, a.Expected, a.Outcome, a.Marks, a.Of, a.Slip, a.Hints, known(a.Seconds), a.Answered, a.Attempt, a.Late,
		a.Number)
}

// known is a number, or nothing where it is 0.
func known(n int) any {
	if n == 0 {
		return ""
	}
	return n
}

// Close writes what is left, and tells what went wrong.
func (w *Answers) Close() error { return w.table.Close() }

// Bundle is a zip file that is written part by part.
type Bundle struct{ zip *zip.Writer }

// NewBundle begins a zip file.
func NewBundle(w io.Writer) *Bundle { return &Bundle{zip.NewWriter(w)} }

// File begins a file of the bundle, which ends where the next begins.
func (b *Bundle) File(name string) (io.Writer, error) { return b.zip.Create(name) }

// JSON adds a document.
func (b *Bundle) JSON(name string, v any) error {
	w, err := b.zip.Create(name)
	if err != nil {
		return err
	}
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	return enc.Encode(v)
}

// Close ends the bundle.
func (b *Bundle) Close() error { return b.zip.Close() }

// kept is a cell that a spreadsheet takes for what it is: text that looks like a formula has an apostrophe before it,
// and numbers stay numbers.
func kept(cell string) string {
	if cell == "" || !strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return cell
	}
	if _, err := length.Parse(strings.TrimPrefix(cell, "+")); err == nil {
		return cell
	}
	return "'" + cell
}

// unkept takes the apostrophe away again.
func unkept(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && kept(rest) == cell {
		return rest
	}
	return cell
}
