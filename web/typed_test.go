package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"html"
	"io"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// What people typed stands on every page just as they typed it, in the words and numbers of any reader: a class, a
// group, a sheet, an instrument and a student have a name that holds a term in braces, decimals, quotes and a tag.
func TestNamesStandAsTyped(t *testing.T) {
	long(t)
	t.Parallel()
	const name = `{drum} "5,0" 0.02 <b>'`
	base, s := demoStore(t)
	visitors := map[string]*visitor{"": newVisitor(t, base)}
	for who := range everyPage {
		if who != "" {
			visitors[who] = as(t, base, who)
		}
	}
	quoted := "'" + strings.ReplaceAll(name, "'", "''")
	for _, change := range []string{
		"UPDATE classes SET name = " + quoted + "C' WHERE id = 1",
		"UPDATE students SET name = " + quoted + "P' WHERE id = 3",
		"UPDATE students SET team = " + quoted + "G' WHERE class = 1",
		"UPDATE sheets SET title = " + quoted + "S'",
		"UPDATE assignments SET title = " + quoted + "S'",
		"UPDATE instruments SET name = " + quoted + "I', document = json_set(document, '$.name', " + quoted +
			"I') WHERE id = 2",
		"UPDATE cards SET item = packed(replace(unpacked(item), '\"name\":\"Sluice pin caliper\"', " +
			"'\"name\":' || json_quote(" + quoted + "I')))",
	} {
		set(t, s, change)
	}
	unprinted := regexp.MustCompile(`(?:⟦|%!|\{[a-z]+ ?[a-z]*\}[^ ]|\[\{[a-z])[^\n]{0,40}`)
	near := regexp.MustCompile(`"5[.,]0\\?"`)
	met := map[string]int{}
	readers := []string{"en", "de", "es", "fr"}
	if testing.Short() {
		readers = readers[:1]
	}
	for who, paths := range everyPage {
		for _, reader := range readers {
			for _, path := range paths {
				r, err := http.NewRequest(http.MethodGet, base+path, nil)
				require.NoError(t, err)
				r.Header.Set("Accept-Language", reader)
				answer, err := visitors[who].Do(r)
				require.NoError(t, err)
				b, err := io.ReadAll(answer.Body)
				require.NoError(t, err)
				require.NoError(t, answer.Body.Close())
				page := html.UnescapeString(string(b))
				assert.Less(t, answer.StatusCode, http.StatusInternalServerError, path)
				assert.Empty(t, unprinted.FindAllString(strings.ReplaceAll(page, name, ""), -1),
					"%s, %s: every text is printed", path, reader)
				assert.NotContains(t, string(b), "<b>'", "%s, %s: the name is no markup", path, reader)
				for _, at := range near.FindAllStringIndex(page, -1) {
					plain := strings.ReplaceAll(page[max(0, at[0]-8):min(len(page), at[1]+12)], `\"`, `"`)
					if strings.Contains(plain, "…") {
						continue // a chart has room for its beginning only
					}
					assert.Contains(t, plain, name, "%s, %s", path, reader)
				}
				for _, kind := range "CPGSI" {
					met[string(kind)] += strings.Count(page, name+string(kind))
				}
			}
		}
	}
	_, err := visitors["maren"].sent("/ledger/2/paper", "per=all") // now it has a table to fill in
	require.NoError(t, err)
	for _, path := range []string{"/classes/1/people/list", "/classes/1/ledger/table", "/classes/1/answers",
		"/ledger/2/answers", "/ledger/2/paper/table", "/classes/1/people/3/data", "/course/file?class=1&people=on",
		"/rack/2/document", "/sheets/2/document", "/ledger/2/paper/one"} {
		for _, reader := range readers {
			for _, as := range []string{"", "?as=xlsx"} {
				if as != "" && (reader != "en" || !tables.MatchString(path)) {
					continue
				}
				r, err := http.NewRequest(http.MethodGet, base+path+as, nil)
				require.NoError(t, err)
				r.Header.Set("Accept-Language", reader)
				answer, err := visitors["maren"].Do(r)
				require.NoError(t, err)
				data, err := io.ReadAll(answer.Body)
				require.NoError(t, errors.Join(err, answer.Body.Close()))
				require.Equal(t, http.StatusOK, answer.StatusCode, path)
				found := 0
				for _, said := range stringsIn(t, data) {
					for _, at := range near.FindAllStringIndex(said, -1) {
						found++
						assert.Contains(t, said[max(0, at[0]-8):min(len(said), at[1]+12)], name, "%s, %s", path, reader)
					}
				}
				assert.Positive(t, found, "%s, %s", path, reader)
			}
		}
	}
	for _, kind := range slices.Sorted(slices.Values([]string{"C", "P", "G", "S", "I"})) {
		assert.Greater(t, met[kind], 3, kind)
	}
}

// tables are exports that are spreadsheets too.
var tables = regexp.MustCompile(`/(list|table|answers)$`)

// stringsIn lists what an exported file says, cell by cell, string by string: a spreadsheet, an archive of files, JSON,
// CSV or SVG.
func stringsIn(t *testing.T, data []byte) (out []string) {
	t.Helper()
	if book, err := excelize.OpenReader(bytes.NewReader(data)); err == nil {
		for _, sheet := range book.GetSheetList() {
			rows, err := book.GetRows(sheet)
			require.NoError(t, err)
			out = append(out, slices.Concat(rows...)...)
		}
		return out
	}
	if archive, err := zip.NewReader(bytes.NewReader(data), int64(len(data))); err == nil {
		for _, f := range archive.File {
			file, err := f.Open()
			require.NoError(t, err)
			inside, err := io.ReadAll(file)
			require.NoError(t, err)
			out = append(append(out, f.Name), stringsIn(t, inside)...)
		}
		return out
	}
	switch plain := strings.TrimPrefix(string(data), "\ufeff"); {
	case strings.HasPrefix(plain, "{") || strings.HasPrefix(plain, "["):
		var document any
		require.NoError(t, json.Unmarshal([]byte(plain), &document))
		walk(document, func(s string) { out = append(out, s) })
	case strings.HasPrefix(plain, "<"):
		out = append(out, html.UnescapeString(plain))
	default:
		r := csv.NewReader(strings.NewReader(plain))
		r.FieldsPerRecord = -1
		if strings.Count(plain, ";") > strings.Count(plain, ",") {
			r.Comma = ';'
		}
		rows, err := r.ReadAll()
		require.NoError(t, err)
		out = slices.Concat(rows...)
	}
	return out
}

// walk hands out every string of a document.
func walk(document any, each func(string)) {
	switch d := document.(type) {
	case string:
		each(d)
	case []any:
		for _, item := range d {
			walk(item, each)
		}
	case map[string]any:
		for key, item := range d {
			each(key)
			walk(item, each)
		}
	}
}

// The fonts of names come with the program, and the page says which names cannot be printed before anything is.
func TestNamesInEveryScript(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	maren := as(t, base, "maren")
	set(t, s, "UPDATE students SET name = 'שרה 王' WHERE id = 3")
	_, _, page := maren.get("/ledger/2/paper")
	assert.NotContains(t, page, "question mark")
	set(t, s, "UPDATE students SET name = 'สมชาย 🎉' WHERE id = 3")
	_, _, page = maren.get("/ledger/2/paper")
	holdAll(t, page, "สมชาย 🎉", "becomes a question mark")

	style := regexp.MustCompile(`/static/[^"]+/style\.css`).FindString(page)
	_, _, css := maren.get(style)
	fonts := regexp.MustCompile(`names/[a-z-]+\.ttf`).FindAllString(css, -1)
	assert.Len(t, fonts, 6)
	for _, font := range fonts {
		r, err := maren.Get(base + strings.TrimSuffix(style, "style.css") + font)
		require.NoError(t, err)
		data, err := io.ReadAll(r.Body)
		require.NoError(t, errors.Join(err, r.Body.Close()))
		assert.Equal(t, http.StatusOK, r.StatusCode, font)
		assert.Greater(t, len(data), 10_000, font)
	}
	for _, none := range []string{"names/", "names/OFL.LICENSE", "names/../line.go", "names/none.ttf"} {
		status, _, _ := maren.get(strings.TrimSuffix(style, "style.css") + none)
		assert.Equal(t, http.StatusNotFound, status, none)
	}
}
