package web_test

import (
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
)

// What people typed stands on every page just as they typed it, in the words and numbers of any reader: a class, a group, a sheet, an
// instrument and a student have a name that holds a term in braces, decimals, quotes and a tag.
func TestNamesStandAsTyped(t *testing.T) {
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
		"UPDATE instruments SET name = " + quoted + "I', document = json_set(document, '$.name', " + quoted + "I') WHERE id = 2",
		"UPDATE cards SET item = replace(item, '\"name\":\"Sluice pin caliper\"', '\"name\":' || json_quote(" + quoted + "I'))",
	} {
		set(t, s, change)
	}
	unprinted := regexp.MustCompile(`(?:⟦|%!|\{[a-z]+ ?[a-z]*\}[^ ]|\[\{[a-z])[^\n]{0,40}`)
	near := regexp.MustCompile(`"5[.,]0\\?"`)
	met := map[string]int{}
	for who, paths := range everyPage {
		for _, reader := range []string{"en", "de", "es", "fr"} {
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
				assert.Empty(t, unprinted.FindAllString(strings.ReplaceAll(page, name, ""), -1), "%s, %s: every text is printed", path, reader)
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
	t.Log(met)
	for _, kind := range slices.Sorted(slices.Values([]string{"C", "P", "G", "S", "I"})) {
		assert.Greater(t, met[kind], 3, kind)
	}
}

// The fonts of names come with the program, and the page says which names cannot be printed before anything is.
func TestNamesInEveryScript(t *testing.T) {
	t.Parallel()
	base, s := demoStore(t)
	maren := as(t, base, "maren")
	set(t, s, "UPDATE students SET name = 'שרה 王' WHERE id = 3")
	_, _, page := maren.get("/ledger/2/paper")
	assert.NotContains(t, page, "question mark")
	set(t, s, "UPDATE students SET name = 'สมชาย 🎉' WHERE id = 3")
	_, _, page = maren.get("/ledger/2/paper")
	holdAll(t, page, "สมชาย 🎉", "becomes a question mark")

	style := regexp.MustCompile(`/static/[^"]+/cavix\.css`).FindString(page)
	_, _, css := maren.get(style)
	fonts := regexp.MustCompile(`names/[a-z-]+\.ttf`).FindAllString(css, -1)
	assert.Len(t, fonts, 6)
	for _, font := range fonts {
		r, err := maren.Get(base + strings.TrimSuffix(style, "cavix.css") + font)
		require.NoError(t, err)
		data, err := io.ReadAll(r.Body)
		require.NoError(t, errors.Join(err, r.Body.Close()))
		assert.Equal(t, http.StatusOK, r.StatusCode, font)
		assert.Greater(t, len(data), 10_000, font)
	}
	for _, none := range []string{"names/", "names/OFL.LICENSE", "names/../line.go", "names/none.ttf"} {
		status, _, _ := maren.get(strings.TrimSuffix(style, "cavix.css") + none)
		assert.Equal(t, http.StatusNotFound, status, none)
	}
}
