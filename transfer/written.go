package transfer

import (
	"io"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/transfer/paper"
)

// WrittenRow is one box of a sheet on paper, as it was typed back.
type WrittenRow struct {
	Line    int // of the file, from 1
	Version int
	Student string // name; "" where only one has the version
	Card    int
	Field   string
	Given   string
	Rounded bool      // a spreadsheet held it as a number: noughts at its end are lost
	Bad     text.Text // why the row cannot stand; nothing if it can
}

// MostWritten is the largest number of boxes in one file.
const MostWritten = 50_000

// writtenColumns are the columns of a table of what was written on paper.
var writtenColumns = []string{"version", "student", "card", "field", "given"}

// ReadWritten reads a table of what was written on paper: the columns version, student, card, field and given, in any
// order, with a header row. Without a field a row holds a whole line of a card; see Apart. Rows whose box is empty are
// left out; those that cannot stand say why.
func ReadWritten(data []byte) ([]WrittenRow, error) {
	place, rows, err := headed(data)
	if err != nil {
		return nil, err
	}
	if place == nil {
		return nil, text.Error("written.read-written")
	}
	for _, c := range writtenColumns {
		if _, there := place[c]; !there && c != "student" && c != "field" {
			return nil, text.Error("written.no-column-its-first", "c", c, "join", strings.Join(writtenColumns, ", "))
		}
	}
	var out []WrittenRow
	for _, l := range rows {
		cell := func(column string) string {
			if i, there := place[column]; there && i < len(l.Cells) {
				return unkept(l.Cells[i])
			}
			return ""
		}
		if cell("given") == "" {
			continue
		}
		w := WrittenRow{Line: l.N, Student: cut(cell("student"), longName), Field: clipped(cell("field")),
			Given: cell("given"), Rounded: l.number(place["given"])}
		w.Version = w.number("version", cell("version"))
		w.Card = w.number("card", cell("card"))
		if most := 60; len(w.Given) > most && w.Field != "" || len(w.Given) > 10*most {
			w.Bad, w.Given = text.New("written.what-given-more-than", "most", most), clipped(w.Given)
		}
		if out = append(out, w); len(out) > MostWritten {
			return nil, text.Error("written.more-than-rows-split", "most_written", MostWritten)
		}
	}
	return out, nil
}

// number reads a number of a row.
func (w *WrittenRow) number(what, cellText string) int {
	n, err := strconv.Atoi(cellText)
	if label, ok := paper.ReadLabel(cellText); ok && what == "version" {
		n, err = label, nil
	}
	if err != nil || n < 1 || n > 100_000 {
		w.Bad = text.New("written.number", "what", what, "clipped", clipped(cellText))
		return 0
	}
	return n
}

// Check says what is wrong with a row for the card that it is about.
func (w *WrittenRow) Check(items []exercise.Item) {
	switch {
	case !w.Bad.IsZero():
	case w.Card > len(items):
		w.Bad = text.New("written.check", "version", w.Version, "items", len(items))
	default:
		fields := items[w.Card-1].Fields()
		names := make([]string, len(fields))
		for i, f := range fields {
			names[i] = f.Name
		}
		if !slices.Contains(names, w.Field) {
			w.Bad = text.New("written.card-no-field", "card", w.Card, "field", w.Field, "join",
				strings.Join(names, ", "))
			return
		}
		if err := exercise.Readable(items[w.Card-1], exercise.Answer{w.Field: w.Given}); err != nil {
			w.Bad = text.Says(err)
		}
	}
}

// WriteWritten writes a table as ReadWritten reads it.
func WriteWritten(f Format, w io.Writer, rows []WrittenRow) error {
	t, err := newTable(f, w, "Paper", "given", writtenColumns)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if err := t.Row(r.Version, r.Student, r.Card, r.Field, r.Given); err != nil {
			return err
		}
	}
	return t.Close()
}
