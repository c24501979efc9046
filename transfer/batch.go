// Package transfer carries marks and answers in and out of Cavix: it marks a stack of paper sheets from
// a file. It reads what others wrote strictly, and says by line what it could not read.
package transfer

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/locale"
)

// BadRow is a row of answers that could not be marked.
type BadRow struct {
	Line   int // of the file, from 1
	Reason string
}

func (b BadRow) String() string { return fmt.Sprintf("line %d: %s", b.Line, b.Reason) }

// fixed are the columns of an answers file that are no fields.
var fixed = []string{"student", "card"}

// row is one line of answers on its way.
type row struct {
	line          int
	student, card string
	answer        exercise.Answer
	out           []string
	bad           string
}

// batch is the number of rows that are read before they are marked together.
const batch = 4096

// fieldsOf lists the fields of all cards, each once.
func fieldsOf(cards exercise.Cards) []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(cards)) {
		for _, f := range cards[name].Fields() {
			if !slices.Contains(out, f.Name) {
				out = append(out, f.Name)
			}
		}
	}
	return out
}

// MarkBatch reads answers as CSV with a header (student, card, and a column for each field), marks each
// row against its card, and writes as CSV student, card, marks, of, the slip that explains it best, and
// the outcome of each field. Rows that cannot be read are left out and returned, by line. Progress is told
// how many rows are done. The error is for files that cannot be read or written at all.
func MarkBatch(cards exercise.Cards, answers io.Reader, marked io.Writer, progress func(done int)) ([]BadRow, error) {
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
	fields := fieldsOf(cards)
	columns, err := readHeader(header, fields)
	if err != nil {
		return nil, err
	}
	out := csv.NewWriter(marked)
	if err := out.Write(append([]string{"student", "card", "marks", "of", "slip"}, fields...)); err != nil {
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
		markRows(cards, fields, rows)
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
func readHeader(header, fields []string) ([]string, error) {
	columns := make([]string, len(header))
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		if !slices.Contains(fixed, name) && !slices.Contains(fields, name) {
			return nil, fmt.Errorf("line 1: %q is no column of answers; use student, card, and the fields of the "+
				"cards: %s",
				h, strings.Join(fields, ", "))
		}
		if slices.Contains(columns[:i], name) {
			return nil, fmt.Errorf("line 1: the column %q is there twice", name)
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
	r := &row{line: line, answer: exercise.Answer{}}
	if len(record) != len(columns) {
		r.bad = fmt.Sprintf("has %d fields, the header %d", len(record), len(columns))
		return r
	}
	for i, says := range record {
		switch columns[i] {
		case "student":
			r.student = says
		case "card":
			r.card = strings.TrimSpace(says)
		default:
			if strings.TrimSpace(says) != "" {
				r.answer[columns[i]] = says
			}
		}
	}
	return r
}

// markRows marks rows on all processors.
func markRows(cards exercise.Cards, fields []string, rows []*row) {
	var wg sync.WaitGroup
	next := make(chan []*row)
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for part := range next {
				for _, r := range part {
					r.mark(cards, fields)
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

func (r *row) mark(cards exercise.Cards, fields []string) {
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
		r.bad = locale.Documents().Print(refusal.Says(err))
		return
	}
	slip := ""
	if len(result.Slips) > 0 {
		slip = string(result.Slips[0])
	}
	r.out = []string{r.student, r.card, result.Marks.String(), result.Of.String(), slip}
	for _, name := range fields {
		outcome := ""
		if m := result.Field(name); m != nil {
			outcome = string(m.Outcome)
		}
		r.out = append(r.out, outcome)
	}
}
