package transfer

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"cavix/core/text"
)

// Line is a row of a table that was read, with where it stands in the file.
type Line struct {
	N     int // from 1
	Cells []string
	// the cells that a spreadsheet holds as numbers, whatever digits were typed; nil where there are none
	Numbers []bool
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
		return text.Error("table.add", "record", len(record), "n", n, "most_columns", mostColumns)
	}
	cells, full := make([]string, len(record)), false
	for i, c := range record {
		if len(c) > mostCell {
			return text.Error("table.cell-bytes-row-cell", "c", len(c), "n", n, "most_cell", mostCell)
		}
		cells[i] = strings.Join(strings.Fields(c), " ")
		full = full || cells[i] != ""
	}
	t.cells += len(cells)
	switch {
	case n > 4*mostLines || len(t.list) == mostLines && full:
		return text.Error("table.more-than-rows-split", "most_lines", mostLines)
	case t.cells > mostCells:
		return text.Error("table.more-than-cells-split", "most_cells", mostCells)
	case full:
		t.list = append(t.list, Line{N: n, Cells: cells})
	}
	return nil
}

// ReadTable reads a table: the first page of a spreadsheet, or cellText with commas, semicolons or tabs. Empty rows are
// passed over, a byte-order mark is dropped. The error is for what is no table, or one beyond the bounds.
func ReadTable(data []byte) ([]Line, error) {
	if bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		return readSpreadsheet(data)
	}
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	if !utf8.Valid(data) {
		return nil, text.Error("table.read-table")
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
			return nil, text.Error("table.cannot-read", "err", err)
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
			return text.Error("table.within", "n", l.N, "i", i+1, "columns", columns)
		}
	}
	return nil
}

func readSpreadsheet(data []byte) (out []Line, err error) {
	if err := boundedZip(data); err != nil {
		return nil, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(data),
		excelize.Options{RawCellValue: true, UnzipSizeLimit: mostUnzipped, UnzipXMLSizeLimit: mostUnzipped})
	if err != nil {
		return nil, text.Error("table.read-spreadsheet", "err", err)
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	pages := f.GetSheetList()
	if len(pages) == 0 {
		return nil, nil
	}
	rows, err := f.Rows(pages[0])
	if err != nil {
		return nil, text.Error("table.cannot-read-b", "err", err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	var t lines
	for n := 1; rows.Next(); n++ {
		record, err := rows.Columns()
		if err != nil {
			return nil, text.Error("table.row-cannot-read", "n", n, "err", err)
		}
		if err := t.add(n, record); err != nil {
			return nil, err
		}
	}
	if err := rows.Error(); err != nil {
		return nil, text.Error("table.cannot-read-b", "err", err)
	}
	return t.list, numbers(f, pages[0], t.list)
}

// boundedZip refuses a spreadsheet that unpacks to more than it may, before it is parsed. What its head says of sizes
// is not believed.
func boundedZip(data []byte) error {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return text.Error("table.bounded-zip", "err", err)
	}
	if len(z.File) > mostEntries {
		return text.Error("table.holds-files-spreadsheet-most", "file", len(z.File), "most_entries", mostEntries)
	}
	left := int64(mostUnzipped)
	for _, entry := range z.File {
		in, err := entry.Open()
		if err != nil {
			return text.Error("table.bounded-zip", "err", err)
		}
		n, err := io.Copy(io.Discard, io.LimitReader(in, left+1))
		if err := errors.Join(err, in.Close()); err != nil {
			return text.Error("table.bounded-zip", "err", err)
		}
		if left -= n; left < 0 {
			return text.Error("table.unpacks-more-than-mb", "most_unzipped", mostUnzipped>>20)
		}
	}
	return nil
}

// numbers marks the cells that a spreadsheet holds as numbers, and writes them as a person would: a spreadsheet keeps
// 31.55 as 31.550000000000001.
func numbers(f *excelize.File, page string, list []Line) error {
	for n := range list {
		l := &list[n]
		for i, cellText := range l.Cells {
			x, err := strconv.ParseFloat(cellText, 64)
			if err != nil {
				continue
			}
			at, err := excelize.CoordinatesToCellName(i+1, l.N)
			if err != nil {
				return err
			}
			kind, err := f.GetCellType(page, at)
			if err != nil {
				return text.Error("table.numbers", "at", at, "err", err)
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
	i, cellText := place[column], ""
	if i < len(l.Cells) {
		cellText = l.Cells[i]
	}
	if l.number(i) {
		if serial, err := strconv.ParseFloat(cellText, 64); err == nil {
			if at, err := excelize.ExcelDateToTime(serial, false); err == nil {
				return at.Truncate(24 * time.Hour), nil
			}
		}
	}
	for _, layout := range []string{time.DateOnly, "2.1.2006"} {
		if at, err := time.Parse(layout, cellText); err == nil {
			return at, nil
		}
	}
	return time.Time{}, text.Error("table.day", "n", l.N, "column", column, "clipped", clipped(cellText))
}

// separator returns the separator of the columns: the one of three that is most frequent in the first line.
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
