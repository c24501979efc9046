package transfer

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"cavix/core/length"
)

// Format is how a table is written: CSV, or a spreadsheet.
type Format string

// The formats, each by the ending of its files.
const (
	CSV  Format = "csv"
	XLSX Format = "xlsx"
)

// Type is the media type of a format.
func (f Format) Type() string {
	if f == XLSX {
		return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	return "text/csv; charset=utf-8"
}

// Table is a table that is written row by row. A cell is a string, an int, a bool (yes or nothing), a length.Number or a
// time. Text stays text in a spreadsheet, whatever it begins with, and numbers stay numbers.
type Table interface {
	Row(cells ...any) error
	Close() error // writes what is left
}

// NewTable begins a table with its header row. Title names the page of a spreadsheet.
func NewTable(f Format, w io.Writer, title string, header ...string) (Table, error) {
	cells := make([]any, len(header))
	for i, h := range header {
		cells[i] = h
	}
	if f == XLSX {
		return newSpreadsheet(w, title, cells)
	}
	t := commaTable{csv.NewWriter(w)}
	return t, t.Row(cells...)
}

type commaTable struct{ out *csv.Writer }

func (t commaTable) Row(cells ...any) error {
	row := make([]string, len(cells))
	for i, c := range cells {
		switch c := c.(type) {
		case string:
			row[i] = kept(c)
		case int:
			row[i] = strconv.Itoa(c)
		case bool:
			row[i] = yes(c)
		case length.Number:
			row[i] = c.String()
		case time.Time:
			row[i] = moment(c)
		default:
			return fmt.Errorf("a cell cannot be a %T", c)
		}
	}
	return t.out.Write(row)
}

func (t commaTable) Close() error {
	t.out.Flush()
	return t.out.Error()
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return ""
}

// moment writes a time in the world's own clock; a zero one is nothing.
func moment(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}

// spreadsheet writes one page of an XLSX file.
type spreadsheet struct {
	file *excelize.File
	out  *excelize.StreamWriter
	to   io.Writer
	row  int
}

func newSpreadsheet(w io.Writer, title string, header []any) (Table, error) {
	f := excelize.NewFile()
	name := sheetName(title)
	if err := f.SetSheetName("Sheet1", name); err != nil {
		return nil, err
	}
	out, err := f.NewStreamWriter(name)
	if err != nil {
		return nil, err
	}
	if err := out.SetPanes(&excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2",
		ActivePane: "bottomRight"}); err != nil {
		return nil, err
	}
	t := &spreadsheet{f, out, w, 0}
	return t, t.Row(header...)
}

// sheetName is a title as spreadsheets allow it: 31 characters, without some signs.
func sheetName(title string) string {
	title = strings.Trim(strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]`, r) || r < ' ' {
			return ' '
		}
		return r
	}, title), "' ")
	if r := []rune(title); len(r) > 31 {
		title = string(r[:31])
	}
	if title == "" {
		return "Cavix"
	}
	return title
}

func (t *spreadsheet) Row(cells ...any) error {
	t.row++
	row := make([]any, len(cells))
	for i, c := range cells {
		switch c := c.(type) {
		case string, int:
			row[i] = c
		case bool:
			row[i] = yes(c)
		case length.Number:
			x, err := strconv.ParseFloat(c.Text(6), 64)
			if err != nil {
				return err
			}
			row[i] = x
		case time.Time:
			row[i] = moment(c)
		default:
			return fmt.Errorf("a cell cannot be a %T", c)
		}
	}
	at, err := excelize.CoordinatesToCellName(1, t.row)
	if err != nil {
		return err
	}
	return t.out.SetRow(at, row)
}

func (t *spreadsheet) Close() error {
	err := t.out.Flush()
	if err == nil {
		_, err = t.file.WriteTo(t.to)
	}
	return errors.Join(err, t.file.Close())
}

// Line is a row of a table that was read, with where it stands in the file.
type Line struct {
	N     int // from 1
	Cells []string
}

// Bounds of a table that is read.
const (
	mostLines    = 40_000
	mostUnzipped = 64 << 20
)

// ReadTable reads a table: the first page of a spreadsheet, or text with commas, semicolons or tabs. Empty rows are passed
// over, a byte-order mark is dropped. The error is for what is no table.
func ReadTable(data []byte) ([]Line, error) {
	if bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		return readSpreadsheet(data)
	}
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	if !utf8.Valid(data) {
		return nil, errors.New("is no UTF-8 text and no XLSX file; save it as one of the two")
	}
	in := csv.NewReader(bytes.NewReader(data))
	in.Comma, in.FieldsPerRecord, in.LazyQuotes, in.TrimLeadingSpace = separator(data), -1, true, true
	var out []Line
	for {
		record, err := in.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("cannot be read: %w", err)
		}
		n, _ := in.FieldPos(0)
		if out = add(out, n, record); len(out) > mostLines {
			return nil, fmt.Errorf("has more than %d rows; split it", mostLines)
		}
	}
}

// add adds a row, unless it is empty.
func add(out []Line, n int, record []string) []Line {
	cells, full := make([]string, len(record)), false
	for i, c := range record {
		cells[i] = strings.Join(strings.Fields(c), " ")
		full = full || cells[i] != ""
	}
	if !full {
		return out
	}
	return append(out, Line{n, cells})
}

func readSpreadsheet(data []byte) (out []Line, err error) {
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{RawCellValue: true, UnzipSizeLimit: mostUnzipped,
		UnzipXMLSizeLimit: mostUnzipped})
	if err != nil {
		return nil, fmt.Errorf("is no XLSX file that can be read: %w", err)
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	pages := f.GetSheetList()
	if len(pages) == 0 {
		return nil, nil
	}
	rows, err := f.Rows(pages[0])
	if err != nil {
		return nil, fmt.Errorf("cannot be read: %w", err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for n := 1; rows.Next(); n++ {
		record, err := rows.Columns()
		if err != nil {
			return nil, fmt.Errorf("row %d cannot be read: %w", n, err)
		}
		if out = add(out, n, record); n > mostLines {
			return nil, fmt.Errorf("has more than %d rows; split it", mostLines)
		}
	}
	return out, rows.Error()
}

// separator is what stands between the columns: that of the three which the first line has most of.
func separator(data []byte) rune {
	first, _ := bufio.NewReader(bytes.NewReader(data)).ReadString('\n')
	best, most := ',', 0
	for _, c := range ",;\t" {
		if n := strings.Count(first, string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}
