// Package exchange carries marks and answers in and out of Cavix: it marks a stack of paper sheets from
// a file. It reads what others wrote strictly, and says by line what it could not read.
package exchange

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"
	"sync"

	"cavix/core/marking"
	"cavix/core/schema"
)

// Cards are the cards of a stack of sheets, by the name that stands on each.
type Cards map[string]*marking.Card

// ParseCards reads a document of cards: format "cavix/cards", version 1, whose cards are item documents by
// name. Whatever cannot be asked comes back as a schema.Refusal with the path of each field.
func ParseCards(data []byte) (Cards, error) {
	var d struct {
		Cards map[string]json.RawMessage `json:"cards"`
	}
	if err := schema.Decode("cards", data, &d); err != nil {
		return nil, err
	}
	out := make(Cards, len(d.Cards))
	var bad schema.Refusal
	for name, item := range d.Cards {
		c, err := marking.Parse(item)
		var r schema.Refusal
		switch {
		case errors.As(err, &r):
			bad = append(bad, r.Within("cards."+name)...)
		case err != nil:
			return nil, err
		}
		out[name] = c
	}
	if bad != nil {
		slices.SortFunc(bad, func(a, b schema.Fault) int { return strings.Compare(a.Field, b.Field) })
		return nil, bad
	}
	return out, nil
}

// MarshalJSON writes the cards as the document that ParseCards reads.
func (c Cards) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]any{"format": "cavix/cards", "version": 1, "cards": map[string]*marking.Card(c)})
}

// BadRow is a row of answers that could not be marked.
type BadRow struct {
	Line   int // of the file, from 1
	Reason string
}

func (b BadRow) String() string { return fmt.Sprintf("line %d: %s", b.Line, b.Reason) }

// fixed are the columns of an answers file that are no steps.
var fixed = []string{"student", "card"}

// row is one line of answers on its way.
type row struct {
	line          int
	student, card string
	answer        marking.Answer
	out           []string
	bad           string
}

// batch is how many rows are read before they are marked together.
const batch = 4096

// MarkBatch reads answers as CSV with a header (student, card, and a column for each step), marks each
// row against its card, and writes as CSV student, card, marks, of, the slip that explains it best, and
// the outcome of each step. Rows that cannot be read are left out and returned, by line. Progress is told
// how many rows are done. The error is for files that cannot be read or written at all.
func MarkBatch(cards Cards, answers io.Reader, marked io.Writer, progress func(done int)) ([]BadRow, error) {
	in := csv.NewReader(answers)
	in.FieldsPerRecord = -1
	in.TrimLeadingSpace = true
	header, err := in.Read()
	if err != nil {
		return nil, fmt.Errorf("the answers have no header: %w", err)
	}
	if len(header) > 0 {
		header[0] = strings.TrimPrefix(header[0], "\ufeff")
	}
	columns, err := readHeader(header)
	if err != nil {
		return nil, err
	}
	out := csv.NewWriter(marked)
	head := []string{"student", "card", "marks", "of", "slip"}
	for _, s := range marking.Steps {
		head = append(head, string(s))
	}
	if err := out.Write(head); err != nil {
		return nil, err
	}
	var bad []BadRow
	for done, more := 0, true; more; {
		var rows []*row
		for len(rows) < batch {
			record, err := in.Read()
			if errors.Is(err, io.EOF) {
				more = false
				break
			}
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				rows = append(rows, &row{line: parse.StartLine, bad: "is no CSV: " + parse.Err.Error()})
				continue
			}
			if err != nil {
				return bad, err
			}
			line, _ := in.FieldPos(0)
			rows = append(rows, readRow(line, record, columns))
		}
		markRows(cards, rows)
		for _, r := range rows {
			if r.bad != "" {
				bad = append(bad, BadRow{r.line, r.bad})
				continue
			}
			if err := out.Write(r.out); err != nil {
				return bad, err
			}
		}
		if done += len(rows); progress != nil && len(rows) > 0 {
			progress(done)
		}
	}
	out.Flush()
	return bad, out.Error()
}

// readHeader checks the names of the columns.
func readHeader(header []string) ([]string, error) {
	columns := make([]string, len(header))
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		if !slices.Contains(fixed, name) && !slices.Contains(marking.Steps, marking.Step(name)) {
			return nil, fmt.Errorf("line 1: %q is no column of answers; use student, card, and steps such as main, fine_line, observed, corrected", h)
		}
		if slices.Contains(columns[:i], name) {
			return nil, fmt.Errorf("line 1: the column %q stands there twice", name)
		}
		columns[i] = name
	}
	for _, f := range fixed {
		if !slices.Contains(columns, f) {
			return nil, fmt.Errorf("line 1: the column %q is missing", f)
		}
	}
	return columns, nil
}

// readRow takes one record apart.
func readRow(line int, record, columns []string) *row {
	r := &row{line: line, answer: marking.Answer{}}
	if len(record) != len(columns) {
		r.bad = fmt.Sprintf("has %d fields, the header %d", len(record), len(columns))
		return r
	}
	for i, text := range record {
		switch columns[i] {
		case "student":
			r.student = text
		case "card":
			r.card = strings.TrimSpace(text)
		default:
			if strings.TrimSpace(text) != "" {
				r.answer[marking.Step(columns[i])] = text
			}
		}
	}
	return r
}

// markRows marks rows on all processors.
func markRows(cards Cards, rows []*row) {
	var wg sync.WaitGroup
	next := make(chan []*row)
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for part := range next {
				for _, r := range part {
					r.mark(cards)
				}
			}
		})
	}
	for part := range slices.Chunk(rows, 64) {
		next <- part
	}
	close(next)
	wg.Wait()
}

func (r *row) mark(cards Cards) {
	if r.bad != "" {
		return
	}
	c, ok := cards[r.card]
	if !ok {
		r.bad = fmt.Sprintf("card: there is no card %q", r.card)
		return
	}
	result, err := c.Mark(r.answer)
	if err != nil {
		r.bad = err.Error()
		return
	}
	slip := ""
	if len(result.Slips) > 0 {
		slip = string(result.Slips[0])
	}
	r.out = []string{r.student, r.card, result.Marks.String(), result.Of.String(), slip}
	for _, s := range marking.Steps {
		outcome := ""
		if st, asked := result.Step(s); asked {
			outcome = string(st.Outcome)
		}
		r.out = append(r.out, outcome)
	}
}
