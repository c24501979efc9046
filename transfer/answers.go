package transfer

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"
	"time"

	"cavix/core/length"
	"cavix/core/slips"
)

// Answer is one field of an answered card, as a row of a tidy table.
type Answer struct {
	Sheet                           string // its title; "practice" for what belongs to none
	Card                            int
	Kind, Instrument, LeastCount    string
	Field, Given, Expected, Outcome string
	Marks, Of                       length.Number
	Slip                            string
	Hints                           int
	Answered                        time.Time
	Attempt                         int
	Late                            bool
}

// ownColumns are the columns of what a student takes home: those of formats.md that are about the student's own answers.
var ownColumns = []string{"sheet", "card", "kind", "instrument", slips.LeastCount, "field", "given", "expected", "outcome",
	"marks", "of", "slip", "hints", "answered_at", "attempt", "late"}

// AnswersWriter writes answers as CSV.
type AnswersWriter struct{ csv *csv.Writer }

// NewAnswersWriter writes the header row.
func NewAnswersWriter(w io.Writer) (*AnswersWriter, error) {
	out := &AnswersWriter{csv.NewWriter(w)}
	return out, out.csv.Write(ownColumns)
}

// Write writes one row.
func (w *AnswersWriter) Write(a Answer) error {
	late := ""
	if a.Late {
		late = "yes"
	}
	return w.csv.Write([]string{kept(a.Sheet), strconv.Itoa(a.Card), a.Kind, kept(a.Instrument), kept(a.LeastCount), a.Field,
		kept(a.Given), kept(a.Expected), a.Outcome, a.Marks.String(), a.Of.String(), a.Slip, strconv.Itoa(a.Hints),
		a.Answered.UTC().Format(time.RFC3339), strconv.Itoa(a.Attempt), late})
}

// Close writes what is left, and tells what went wrong.
func (w *AnswersWriter) Close() error {
	w.csv.Flush()
	return w.csv.Error()
}

// kept is a cell that a spreadsheet takes for what it is: text that looks like a formula has an apostrophe before it, and
// numbers stay numbers.
func kept(cell string) string {
	if cell == "" || !strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return cell
	}
	if _, err := length.Parse(strings.TrimPrefix(cell, "+")); err == nil {
		return cell
	}
	return "'" + cell
}
