package transfer

import (
	"io"
	"strings"
	"time"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/core/text"
)

// bookColumns are those of an instrument's book: a row for each standard, and one for the closed instrument.
var bookColumns = strings.Fields("date check standard indicated zero_error who condition decision due note")

// WriteBook writes the entries of an instrument's book as a table.
func WriteBook(f Format, w io.Writer, in *instrument.Instrument, list []logbook.Entry) error {
	t, err := NewTable(f, w, "Logbook", bookColumns...)
	if err != nil {
		return err
	}
	for _, e := range list {
		due := ""
		if !e.Due.IsZero() {
			due = e.Due.Format(time.DateOnly)
		}
		row := func(check, standard, indicated string) error {
			return t.Row(e.At.Format(time.DateOnly), check, standard, indicated, in.Format(e.Zero(in)), e.Who,
				string(e.Condition), string(e.Decision), due, e.Note)
		}
		if e.Closed != nil {
			if err := row("closed", "", exactly(in, *e.Closed)); err != nil {
				return err
			}
		}
		for _, s := range e.Standards {
			if err := row("standard", exactly(in, s.Size), exactly(in, s.Indicated)); err != nil {
				return err
			}
		}
	}
	return t.Close()
}

// exactly writes a value in the instrument's manner where that is all of it, else in full.
func exactly(in *instrument.Instrument, x length.Number) string {
	cellText := in.Format(x)
	if back, err := length.Parse(cellText); err != nil || !back.Equal(x) {
		return x.String()
	}
	return cellText
}

// ReadBook reads a table as WriteBook writes it; the zero error is worked out anew. Rows of one day that say the same
// besides belong to one check. The error names the line of a row that cannot be read.
func ReadBook(data []byte) ([]logbook.Entry, error) {
	place, rows, err := headed(data)
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, text.Error("table.read-book", "join", strings.Join(bookColumns, ", "))
	}
	for _, c := range []string{"date", "indicated", "who"} {
		if _, there := place[c]; !there {
			return nil, text.Error("table.no-column", "c", c)
		}
	}
	var out []logbook.Entry
	last := ""
	for _, l := range rows {
		cell := func(column string) string {
			if i, there := place[column]; there && i < len(l.Cells) {
				return unkept(l.Cells[i])
			}
			return ""
		}
		e := logbook.Entry{Who: cell("who"), Condition: logbook.Condition(cell("condition")),
			Decision: logbook.Decision(cell("decision")), Note: cell("note")}
		if e.Condition == "" {
			e.Condition = logbook.Clean
		}
		if e.Decision == "" {
			e.Decision = logbook.InUse
		}
		if e.At, err = l.day("date", place); err != nil {
			return nil, err
		}
		if cell("due") != "" {
			if e.Due, err = l.day("due", place); err != nil {
				return nil, err
			}
		}
		indicated, err := plainLength(cell("indicated"))
		if err != nil {
			return nil, text.Error("table.line-indicated", "n", l.N, "err", err)
		}
		key := strings.Join([]string{cell("date"), e.Who, cell("condition"), cell("decision"), cell("due"), e.Note},
			"\x00")
		if key != last || len(out) == 0 {
			out = append(out, e)
		}
		last = key
		now := &out[len(out)-1]
		if cell("standard") == "" {
			now.Closed = &indicated
			continue
		}
		size, err := plainLength(cell("standard"))
		if err != nil {
			return nil, text.Error("table.line-standard", "n", l.N, "err", err)
		}
		now.Standards = append(now.Standards, logbook.Standard{Size: size, Indicated: indicated})
	}
	return out, nil
}

// plainLength reads a number without a unit.
func plainLength(cellText string) (length.Number, error) {
	t, err := length.ReadTyped(cellText)
	if err == nil && t.Unit != "" {
		err = text.Error("table.plain-length")
	}
	return t.Value, err
}
