package transfer

import (
	"archive/zip"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/klauspost/compress/flate"
	"github.com/xuri/excelize/v2"

	"cavix/core/length"
)

// Format is the file format of a table: CSV, or a spreadsheet.
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

// Table is a table that is written row by row. A cell is a string, an int, a bool (yes or nothing), a length.Number or
// a time. Text stays text in a spreadsheet, whatever it begins with, and numbers stay numbers.
type Table interface {
	Row(cells ...any) error
	Close() error // writes what is left
}

// NewTable begins a table with its header row. Title names the page of a spreadsheet.
func NewTable(f Format, w io.Writer, title string, header ...string) (Table, error) {
	return newTable(f, w, title, "", header)
}

// newTable is NewTable with a column in which a spreadsheet keeps what is typed as text, digit for digit; "" for none.
func newTable(f Format, w io.Writer, title, typed string, header []string) (Table, error) {
	cells := make([]any, len(header))
	for i, h := range header {
		cells[i] = h
	}
	if f == XLSX {
		return newSpreadsheet(w, title, slices.Index(header, typed), cells)
	}
	// else spreadsheets take letters of other scripts for those of theirs
	if _, err := io.WriteString(w, "\ufeff"); err != nil {
		return nil, err
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
	last []any // cells of the row written last, to be used again

	typed int // the column in which what is typed stays text; -1 for none
	text  int // the style of its cells
}

func newSpreadsheet(w io.Writer, title string, typed int, header []any) (Table, error) {
	f := excelize.NewFile().SetZipWriter(quickZip)
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
	t := &spreadsheet{file: f, out: out, to: w, typed: typed}
	const asText = 49 // the format "@" of ECMA-376, 18.8.30
	if t.text, err = f.NewStyle(&excelize.Style{NumFmt: asText}); err != nil {
		return nil, err
	}
	return t, t.Row(header...)
}

// quickZip is a zip writer that compresses in a third of the usual time.
func quickZip(w io.Writer) excelize.ZipWriter {
	z := zip.NewWriter(w)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
		return flate.NewWriter(w, flate.BestSpeed)
	})
	return z
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

func (t *spreadsheet) Row(cells ...any) (err error) {
	t.row++
	t.last = append(t.last[:0], make([]any, len(cells))...)
	row := t.last
	for i, c := range cells {
		switch c := c.(type) {
		case string:
			if c != "" || i == t.typed {
				row[i] = c
			}
		case int:
			row[i] = c
		case bool:
			if c {
				row[i] = yes(c)
			}
		case length.Number:
			if n, whole := c.Int64(); whole {
				row[i] = n
			} else if row[i], err = strconv.ParseFloat(c.Text(6), 64); err != nil {
				return err
			}
		case time.Time:
			row[i] = moment(c)
		default:
			return fmt.Errorf("a cell cannot be a %T", c)
		}
		if i == t.typed && t.row > 1 {
			row[i] = excelize.Cell{StyleID: t.text, Value: row[i]}
		}
	}
	return t.out.SetRow("A"+strconv.Itoa(t.row), row)
}

func (t *spreadsheet) Close() error {
	err := t.out.Flush()
	if err == nil {
		_, err = t.file.WriteTo(t.to)
	}
	return errors.Join(err, t.file.Close())
}
