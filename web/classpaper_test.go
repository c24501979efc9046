package web_test

import (
	"errors"
	"io"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Versions A, B and C are dealt out in turn, with the final value alone; what comes back is typed one line a card, or
// as one table of such lines for the class.
func TestVersionsAndLinesOnPaper(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, page := maren.get("/ledger/2/paper")
	holds(t, page, "versions A, B, …")
	r, err := maren.Get(base + "/ledger/2/paper/one?dense=true&size=Letter")
	require.NoError(t, err)
	picture, err := io.ReadAll(r.Body)
	require.NoError(t, errors.Join(err, r.Body.Close()))
	assert.Contains(t, string(picture), "pagepreview")
	_, _, page = maren.post("/ledger/2/paper", "per=versions&versions=40")
	holds(t, page, "must be from 1 to 26")
	_, _, page = maren.post("/ledger/2/paper", "per=versions&versions=3&final=true&dense=true&size=Letter")
	rows := regexp.MustCompile(`<th scope="row" class="n">([A-Z]+)</th>\s*<td>(\d+) students`).FindAllStringSubmatch(
		page, -1)
	require.Len(t, rows, 3)
	assert.Equal(t, "7 7 6", rows[0][2]+" "+rows[1][2]+" "+rows[2][2], "twenty students in turn")
	a := rows[0][1]

	_, _, page = maren.get("/ledger/2/paper/type?version=" + strings.ToLower(a))
	holds(t, page, "Version "+a)
	form := fields(page)
	var boxes []string
	for name := range form {
		if regexp.MustCompile(`^\d+\.`).MatchString(name) {
			boxes = append(boxes, name)
		}
	}
	cards := len(boxes)
	require.Greater(t, cards, 3)
	for _, name := range boxes {
		assert.True(t, strings.HasSuffix(name, ".corrected") || strings.HasSuffix(name, ".observed"),
			"%s is the final value alone", name)
	}
	form.Set("lines", "12.06\n12 13\n-\n")
	form.Set("do", "lines")
	_, _, page = maren.post("/ledger/2/paper/type", form.Encode())
	holds(t, page, "2 entries for 1 boxes")
	form.Set("lines", "12.06\n-\n13.10\n")
	_, _, page = maren.post("/ledger/2/paper/type", form.Encode())
	form = fields(page)
	first := ""
	for _, name := range boxes {
		if strings.HasPrefix(name, "1.") {
			first = name
		}
	}
	assert.Equal(t, "12.06", form.Get(first), "the boxes are filled in, and nothing is marked yet")
	form.Del("lines")
	_, _, _ = maren.post("/ledger/2/paper/type", form.Encode())

	table := "version,student,card,given\n" + a + ",Bram H.,1,12.06\n" + a + ",Bram H.,2,13.00\n"
	_, _, page = maren.post("/ledger/2/paper/preview", url.Values{"table": {table}}.Encode())
	holds(t, page, "13.00")
}
