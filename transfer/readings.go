package transfer

import (
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"cavix/core/length"
	"cavix/core/survey"
	"cavix/core/text"
)

// Readings are readings from a table: of groups, or of a study of readers.
type Readings struct {
	Decimals int // the most that any of them is written with
	Groups   []string
	Values   []survey.Values // by group; nil for a study
	Study    *survey.Table   // nil for groups
}

// The columns of a table of readings.
const (
	ofGroup = iota
	ofPart
	ofReader
	ofRepeat
	ofValue
)

var readingColumns = strings.Fields("group part reader repeat value")

// mostReadings is the largest number of readings in one table.
const mostReadings = 20_000

// ReadReadings reads a table of readings: the columns group, repeat and value give groups; part, reader, repeat and
// value a study of readers. Names stand in the order in which they first come. Rows without a value are gaps. The error
// names the line of a row that cannot be read.
func ReadReadings(data []byte) (Readings, error) {
	place, rows, err := headed(data)
	if err != nil {
		return Readings{}, err
	}
	if len(rows) == 0 {
		return Readings{}, text.Error("table.read-readings")
	}
	has := func(columns ...int) bool {
		for _, c := range columns {
			if _, there := place[readingColumns[c]]; !there {
				return false
			}
		}
		return true
	}
	r := reader{place: place, seen: map[string]int{}}
	switch {
	case has(ofPart, ofReader, ofValue):
		r.by = []int{ofPart, ofReader}
		r.out.Study = &survey.Table{}
	case has(ofGroup, ofValue):
		r.by = []int{ofGroup}
	default:
		return Readings{}, text.Error("table.columns-group-repeat-value", "join",
			strings.Join(slices.Sorted(maps.Keys(place)), ", "))
	}
	if len(rows) > mostReadings {
		return Readings{}, text.Error("table.more-than-rows", "most_readings", mostReadings)
	}
	for _, l := range rows {
		if err := r.row(l.N, l.Cells); err != nil {
			return Readings{}, err
		}
	}
	return r.out, nil
}

// reader reads rows of readings.
type reader struct {
	out   Readings
	place map[string]int
	by    []int          // the columns that name a cell
	seen  map[string]int // the line on which a repeat was given
}

func (r *reader) cell(cells []string, column int) string {
	if i, there := r.place[readingColumns[column]]; there && i < len(cells) {
		return unkept(cells[i])
	}
	return ""
}

func (r *reader) row(line int, cells []string) error {
	names := make([]string, len(r.by))
	for i, column := range r.by {
		if names[i] = r.cell(cells, column); names[i] == "" {
			return text.Error("table.row", "line", line, "reading_columns", readingColumns[column])
		}
		if len(names[i]) > longName {
			return text.Error("table.line-more-than-characters", "line", line, "reading_columns",
				readingColumns[column], "long_name", longName)
		}
	}
	if repeat := r.cell(cells, ofRepeat); repeat != "" {
		key := strings.Join(append(names, repeat), "\x00")
		if first, twice := r.seen[key]; twice {
			return text.Error("table.line-repeat-already-line", "line", line, "repeat", repeat, "first", first)
		}
		r.seen[key] = line
	}
	cellText := r.cell(cells, ofValue)
	var value *length.Number
	if cellText != "" {
		typed, err := length.ReadTyped(cellText)
		if err != nil {
			return text.Error("table.line-value", "line", line, "err", err)
		}
		if typed.Unit != "" {
			return text.Error("table.line-value-written-without", "line", line, "cell_text", cellText)
		}
		value = &typed.Value
		r.out.Decimals = max(r.out.Decimals, typed.Decimals)
	}
	if r.out.Study == nil {
		g := index(&r.out.Groups, names[0])
		if g == len(r.out.Values) {
			r.out.Values = append(r.out.Values, nil)
		}
		if value != nil {
			r.out.Values[g] = append(r.out.Values[g], *value)
		}
		return nil
	}
	t := r.out.Study
	p, o := index(&t.Parts, names[0]), index(&t.Readers, names[1])
	for len(t.Cells) < len(t.Parts) {
		t.Cells = append(t.Cells, nil)
	}
	for i := range t.Cells {
		for len(t.Cells[i]) < len(t.Readers) {
			t.Cells[i] = append(t.Cells[i], nil)
		}
	}
	if value != nil {
		t.Cells[p][o] = append(t.Cells[p][o], *value)
	}
	return nil
}

// ReadingRow is a reading of a survey, as a row of a table.
type ReadingRow struct {
	Part, Reader string
	Repeat       int
	Value, Given string
	Right        bool
	Slip         string
	At           time.Time
}

// WriteReadings writes readings as a table that ReadReadings takes for a study of readers.
func WriteReadings(f Format, w io.Writer, rows []ReadingRow) error {
	t, err := NewTable(f, w, "Readings", append(slices.Clone(readingColumns[ofPart:]), "given", "right", "slip",
		"read_at")...)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if err := t.Row(r.Part, r.Reader, r.Repeat, r.Value, r.Given, r.Right, r.Slip, r.At); err != nil {
			return err
		}
	}
	return t.Close()
}

// index finds a name in a list, at whose end it is added where it is new.
func index(list *[]string, name string) int {
	if i := slices.Index(*list, name); i >= 0 {
		return i
	}
	*list = append(*list, name)
	return len(*list) - 1
}
