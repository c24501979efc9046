package transfer_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/transfer"
)

// A row with more cells than its header is refused by its line, in every table: a decimal comma would cut a number in
// two.
func TestARowLongerThanItsHeader(t *testing.T) {
	for name, read := range map[string]func(string) error{
		"part,reader,repeat,value\nA,1,5,02\nA,1,5,02,7\n": func(s string) error {
			_,
				err := transfer.ReadReadings([]byte(s))
			return err
		},
		"group,value\nA,5.02\nA,5,02\n": func(s string) error {
			_,
				err := transfer.ReadReadings([]byte(s))
			return err
		},
		"version,card,field,given\n1,1,main,12\n1,1,observed,12,06\n": func(s string) error {
			_, err := transfer.ReadWritten([]byte(s))
			return err
		},
		"date,indicated,who\n2026-01-02,0.05,M\n2026-01-03,0,05,M\n": func(s string) error {
			_,
				err := transfer.ReadBook([]byte(s))
			return err
		},
	} {
		assert.ErrorContains(t, read(name), "⟦table.within n=3 ", name)
	}
	list, err := transfer.ReadPeople([]byte("name,group\nWren A.,B\nAshdown, Wren,B\n"))
	require.NoError(t, err)
	assert.Empty(t, list[0].Bad)
	assert.Contains(t, list[1].Bad.String(), "⟦people.people width=2⟧")
	_, err = transfer.ReadReadings([]byte("group;value;;\nA;5,02;;\n"))
	require.NoError(t, err, "empty cells at the end are nothing")
}

// Names that joining would refuse, or that are one name there, are told in the list.
func TestNamesOfAListAreThoseThatJoin(t *testing.T) {
	list, err := transfer.ReadPeople([]byte("Straße\nSTRASSE\nMo\u200bira\nBram \u202eH.\nB0b\nBob\nWren A.\n"))
	require.NoError(t, err)
	for i, says := range []string{"", "first=1", "names.use-letters-digits-signs-b", "names.use-letters-digits-signs-b",
		"", "first=5", ""} {
		if says == "" {
			assert.Empty(t, list[i].Bad)
		} else {
			assert.Contains(t, list[i].Bad.String(), says)
		}
	}
}

// workbook makes a spreadsheet of some cells.
func workbook(t testing.TB, fill func(f *excelize.File)) []byte {
	t.Helper()
	f := excelize.NewFile()
	fill(f)
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	return b.Bytes()
}

// What a spreadsheet holds as text keeps its digits; what it holds as a number is marked, and written without the tail
// of a binary fraction.
func TestDigitsFromASpreadsheet(t *testing.T) {
	var empty bytes.Buffer
	require.NoError(t, transfer.WriteWritten(transfer.XLSX, &empty,
		[]transfer.WrittenRow{{Version: 1, Student: "Wren A.", Card: 1, Field: "observed"}}))
	f, err := excelize.OpenReader(&empty)
	require.NoError(t, err)
	style, err := f.GetCellStyle("Paper", "E2")
	require.NoError(t, err)
	kept, err := f.GetStyle(style)
	require.NoError(t, err)
	assert.Equal(t, 49, kept.NumFmt, "an empty box keeps what is typed into it as text")

	rows, err := transfer.ReadWritten(workbook(t, func(f *excelize.File) {
		require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"version", "student", "card", "field", "given"}))
		require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{1, "Wren A.", 1, "observed", "7.60"}))
		require.NoError(t, f.SetSheetRow("Sheet1", "A3", &[]any{1, "A student with a name of more than twenty letters",
			2, "observed", 31.550000000000001}))
	}))
	require.NoError(t, err)
	assert.Equal(t, "7.60", rows[0].Given)
	assert.False(t, rows[0].Rounded)
	assert.Equal(t, "31.55", rows[1].Given)
	assert.True(t, rows[1].Rounded)
	assert.Equal(t, "A student with a name of more than twenty letters", rows[1].Student)
}

// The days of a logbook are read as spreadsheets keep them and as people write them.
func TestDaysOfALogbook(t *testing.T) {
	day := time.Date(2026, 10, 12, 0, 0, 0, 0, time.UTC)
	for name, data := range map[string][]byte{
		"cells": workbook(t, func(f *excelize.File) {
			require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]any{"date", "indicated", "who", "due"}))
			require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]any{day, 0.05, "Maren", day.AddDate(1, 0, 0)}))
		}),
		"points": []byte("date;indicated;who;due\n12.10.2026;0,05;Maren;12.10.2027\n"),
		"dashes": []byte("date,indicated,who,due\n2026-10-12,0.05,Maren,2027-10-12\n"),
	} {
		list, err := transfer.ReadBook(data)
		require.NoError(t, err, name)
		require.Len(t, list, 1, name)
		assert.Equal(t, day, list[0].At.UTC(), name)
		assert.Equal(t, day.AddDate(1, 0, 0), list[0].Due.UTC(), name)
		assert.True(t, list[0].Closed.Equal(length.Frac(1, 20)), name)
	}
	_, err := transfer.ReadBook([]byte("date,indicated,who\n31.2.2026,0.05,Maren\n"))
	require.ErrorContains(t, err, "⟦table.day n=2 column=date ")
}

// What goes out of a logbook comes in as the same, to the last digit.
func TestALogbookIsExact(t *testing.T) {
	list, err := transfer.ReadBook(
		[]byte("date,indicated,standard,who\n2026-10-12,0.0125,,Maren\n2026-10-12,10.0375,10,Maren\n"))
	require.NoError(t, err)
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper,
		Unit: length.Millimetre, Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, MainDivisions: 19}})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, transfer.WriteBook(transfer.CSV, &b, in, list))
	again, err := transfer.ReadBook(b.Bytes())
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(list[0].Closed, list[0].Standards), fmt.Sprint(again[0].Closed, again[0].Standards))
}

// What is brought in is bounded before it is parsed: rows, columns, cells and what is packed.
func TestBoundsOfATable(t *testing.T) {
	packed := func(name string, size int) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		w, err := z.Create(name)
		require.NoError(t, err)
		for range size >> 20 {
			_, err = w.Write(bytes.Repeat([]byte{' '}, 1<<20))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	many := func() []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for i := range 300 {
			_, err := z.Create(fmt.Sprint(i))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	for says, data := range map[string][]byte{
		"⟦table.add record=":            []byte(strings.Repeat(",", 1_500_000)),
		"⟦table.cell-bytes-row-cell ":   []byte(strings.Repeat(`"`, 5<<20)),
		"⟦table.more-than-rows-split ":  []byte(strings.Repeat("a\n", 50_000)),
		"⟦table.more-than-cells-split ": []byte(strings.Repeat(strings.Repeat("a,", 200)+"\n", 4000)),
		"256": workbook(t,
			func(f *excelize.File) { require.NoError(t, f.SetCellValue("Sheet1", "XFD1", "x")) }),
		"⟦table.unpacks-more-than-mb ":                  packed("xl/worksheets/sheet1.xml", 40<<20),
		"⟦table.holds-files-spreadsheet-most file=300 ": many(),
	} {
		_, err := transfer.ReadTable(data)
		assert.ErrorContains(t, err, says)
	}
}

// rezipped is a workbook with other XML for its first page.
func rezipped(t testing.TB, book, page []byte) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(book), int64(len(book)))
	require.NoError(t, err)
	var b bytes.Buffer
	out := zip.NewWriter(&b)
	for _, f := range z.File {
		w, err := out.Create(f.Name)
		require.NoError(t, err)
		if f.Name == "xl/worksheets/sheet1.xml" {
			_, err = w.Write(page)
			require.NoError(t, err)
			continue
		}
		r, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(w, r)
		require.NoError(t, err)
	}
	require.NoError(t, out.Close())
	return b.Bytes()
}

// FuzzReadSpreadsheet writes the page of a workbook otherwise; as a zip file it is whole, or nothing of it would be
// read.
func FuzzReadSpreadsheet(f *testing.F) {
	book := workbook(f, func(x *excelize.File) {
		_ = x.SetSheetRow("Sheet1", "A1",
			&[]any{"date", 0.05, time.Unix(0, 0)})
	})
	const page = `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` +
		`%s</sheetData></worksheet>`
	for _, rows := range []string{
		`<row r="1"><c r="A1" t="inlineStr"><is><t>date</t></is></c><c r="B1" s="1"><v>45000.5</v></c></row>`,
		`<row r="2"><c r="XFD2"><v>1</v></c></row><row r="1"><c><v>0.30000000000000004</v></c></row>`,
		`<row r="1048576"><c r="A1048576"><v>1</v></c></row>`,
		`<row r="1"><c r="A1" t="s"><v>99</v></c><c r="A1" t="b"><v>1</v></c><c r="B1" t="str"><f>A1</f><v>x</v></c>` +
			`</row>`} {
		f.Add(fmt.Appendf(nil, page, rows))
	}
	f.Fuzz(func(t *testing.T, page []byte) {
		data := rezipped(t, book, page)
		list, err := transfer.ReadTable(data)
		if err != nil {
			return
		}
		for i, l := range list {
			assert.True(t, l.N > 0 && (i == 0 || l.N > list[i-1].N))
		}
		_, _ = transfer.ReadBook(data)
		_, _ = transfer.ReadWritten(data)
	})
}

func FuzzReadTable(f *testing.F) {
	f.Add([]byte("a,b\n\"1\n2\",3\n"))
	f.Add([]byte("date;indicated;who\n12.10.2026;0,05;M\n"))
	f.Add(workbook(f, func(x *excelize.File) {
		_ = x.SetSheetRow("Sheet1", "A1",
			&[]any{"date", 0.05, time.Unix(0, 0)})
	}))
	f.Fuzz(func(t *testing.T, data []byte) {
		list, err := transfer.ReadTable(data)
		if err != nil {
			return
		}
		for i, l := range list {
			assert.True(t, l.N > 0 && (i == 0 || l.N > list[i-1].N))
		}
		if entries, err := transfer.ReadBook(data); err == nil {
			for _, e := range entries {
				assert.False(t, e.At.IsZero())
			}
		}
		_, _ = transfer.ReadWritten(data)
		_, _ = transfer.ReadReadings(data)
	})
}
