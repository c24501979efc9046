package transfer

import (
	"archive/zip"
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
)

// Line is a row of a table that was read, with where it stands in the file.
type Line struct {
	N       int // from 1
	Cells   []string
	Numbers []bool // the cells that a spreadsheet holds as numbers, whatever digits were typed; nil where there are none
}

// number reports whether a spreadsheet holds a cell as a number.
func (l Line) number(i int) bool { return i < len(l.Numbers) && l.Numbers[i] }

// Bounds of a table that is read.
const (
	mostLines    = 40_000
	mostColumns  = 256
	mostCells    = 600_000
	mostCell     = 4 << 10  // bytes of one cell
	mostEntries  = 200      // files within a spreadsheet
	mostUnzipped = 32 << 20 // bytes, all together
)

// lines are the rows of a table as they are read, within the bounds.
type lines struct {
	list  []Line
	cells int
}

// add adds a row, unless it is empty.
func (t *lines) add(n int, record []string) error {
	if len(record) > mostColumns {
		return fmt.Errorf("has %d columns in row %d; a table may have %d", len(record), n, mostColumns)
	}
	cells, full := make([]string, len(record)), false
	for i, c := range record {
		if len(c) > mostCell {
			return fmt.Errorf("has a cell of %d bytes in row %d; a cell may have %d", len(c), n, mostCell)
		}
		cells[i] = strings.Join(strings.Fields(c), " ")
		full = full || cells[i] != ""
	}
	t.cells += len(cells)
	switch {
	case n > 4*mostLines || len(t.list) == mostLines && full:
		return fmt.Errorf("has more than %d rows; split it", mostLines)
	case t.cells > mostCells:
		return fmt.Errorf("has more than %d cells; split it", mostCells)
	case full:
		t.list = append(t.list, Line{N: n, Cells: cells})
	}
	return nil
}

// ReadTable reads a table: the first page of a spreadsheet, or text with commas, semicolons or tabs. Empty rows are passed
// over, a byte-order mark is dropped. The error is for what is no table, or one beyond the bounds.
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
	var t lines
	for {
		record, err := in.Read()
		if errors.Is(err, io.EOF) {
			return t.list, nil
		}
		if err != nil {
			return nil, fmt.Errorf("cannot be read: %w", err)
		}
		n, _ := in.FieldPos(0)
		if err := t.add(n, record); err != nil {
			return nil, err
		}
	}
}

// headed reads a table whose first row names its columns. A row with more cells than that is refused by its line: most
// often a decimal comma has cut a number in two.
func headed(data []byte) (place map[string]int, rows []Line, err error) {
	all, err := ReadTable(data)
	if err != nil || len(all) == 0 {
		return nil, nil, err
	}
	place = map[string]int{}
	for i, cell := range all[0].Cells {
		place[strings.ToLower(strings.TrimSpace(cell))] = i
	}
	for _, l := range all[1:] {
		if err := l.within(len(all[0].Cells)); err != nil {
			return nil, nil, err
		}
	}
	return place, all[1:], nil
}

// within refuses a row with something beyond so many columns.
func (l Line) within(columns int) error {
	for i := columns; i < len(l.Cells); i++ {
		if l.Cells[i] != "" {
			return fmt.Errorf("line %d: has %d cells and the header %d; put a number with a decimal comma in quotes, or use semicolons "+
				"between the columns", l.N, i+1, columns)
		}
	}
	return nil
}

func readSpreadsheet(data []byte) (out []Line, err error) {
	if err := boundedZip(data); err != nil {
		return nil, err
	}
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
	var t lines
	for n := 1; rows.Next(); n++ {
		record, err := rows.Columns()
		if err != nil {
			return nil, fmt.Errorf("row %d cannot be read: %w", n, err)
		}
		if err := t.add(n, record); err != nil {
			return nil, err
		}
	}
	if err := rows.Error(); err != nil {
		return nil, fmt.Errorf("cannot be read: %w", err)
	}
	return t.list, numbers(f, pages[0], t.list)
}

// boundedZip refuses a spreadsheet that unpacks to more than it may, before it is parsed. What its head says of sizes is not
// believed.
func boundedZip(data []byte) error {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return fmt.Errorf("is no XLSX file that can be read: %w", err)
	}
	if len(z.File) > mostEntries {
		return fmt.Errorf("holds %d files; a spreadsheet has at most %d", len(z.File), mostEntries)
	}
	left := int64(mostUnzipped)
	for _, entry := range z.File {
		in, err := entry.Open()
		if err != nil {
			return fmt.Errorf("is no XLSX file that can be read: %w", err)
		}
		n, err := io.Copy(io.Discard, io.LimitReader(in, left+1))
		if err := errors.Join(err, in.Close()); err != nil {
			return fmt.Errorf("is no XLSX file that can be read: %w", err)
		}
		if left -= n; left < 0 {
			return fmt.Errorf("unpacks to more than %d MB; split it", mostUnzipped>>20)
		}
	}
	return nil
}

// numbers marks the cells that a spreadsheet holds as numbers, and writes them as a person would: a spreadsheet keeps 31.55
// as 31.550000000000001.
func numbers(f *excelize.File, page string, list []Line) error {
	for n := range list {
		l := &list[n]
		for i, text := range l.Cells {
			x, err := strconv.ParseFloat(text, 64)
			if err != nil {
				continue
			}
			at, err := excelize.CoordinatesToCellName(i+1, l.N)
			if err != nil {
				return err
			}
			kind, err := f.GetCellType(page, at)
			if err != nil {
				return fmt.Errorf("cell %s cannot be read: %w", at, err)
			}
			if kind != excelize.CellTypeUnset && kind != excelize.CellTypeNumber && kind != excelize.CellTypeFormula {
				continue
			}
			if l.Numbers == nil {
				l.Numbers = make([]bool, len(l.Cells))
			}
			l.Numbers[i], l.Cells[i] = true, strconv.FormatFloat(x, 'f', -1, 64)
		}
	}
	return nil
}

// day reads a day from a column: as 2026-11-25, as 25.11.2026, or as a date of a spreadsheet. The error names the line.
func (l Line) day(column string, place map[string]int) (time.Time, error) {
	i, text := place[column], ""
	if i < len(l.Cells) {
		text = l.Cells[i]
	}
	if l.number(i) {
		if serial, err := strconv.ParseFloat(text, 64); err == nil {
			if at, err := excelize.ExcelDateToTime(serial, false); err == nil {
				return at.Truncate(24 * time.Hour), nil
			}
		}
	}
	for _, layout := range []string{time.DateOnly, "2.1.2006"} {
		if at, err := time.Parse(layout, text); err == nil {
			return at, nil
		}
	}
	return time.Time{}, fmt.Errorf("line %d: %s must be written as 2026-11-25 or 25.11.2026; it is %q", l.N, column, clipped(text))
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
