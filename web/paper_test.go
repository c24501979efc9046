package web_test

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
)

// versionCards are the cards of a version, by number.
func versionCards(t *testing.T, v *visitor, sheet, version int) exercise.Cards {
	t.Helper()
	cards, err := kinds.All.ParseCards(v.file(fmt.Sprintf("/ledger/%d/paper/%d/cards", sheet, version)))
	require.NoError(t, err)
	require.NotEmpty(t, cards)
	return cards
}

// rightOn is what is right on a card.
func rightOn(t *testing.T, it exercise.Item) exercise.Answer {
	t.Helper()
	empty, err := it.Mark(nil)
	require.NoError(t, err)
	a := exercise.Answer{}
	for _, m := range empty.Fields {
		a[m.Field] = m.Expected
	}
	return a
}

// A class gets a sheet on paper, a version for each or for each group; a version stays what it is. What comes back is a
// table, which is looked at row by row, brought in whole or not at all, and marked as its student's answers.
func TestPaperForAClass(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("sets many pages; left out with -short")
	}
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, page := maren.get("/ledger/2/paper")
	holds(t, page, "No versions of this sheet have been printed")
	status, _, page := maren.post("/ledger/2/paper", "per=nobody")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, page, en("class.typing.who-shares"))
	_, _, page = maren.post("/ledger/2/paper", "per=group")
	assert.Equal(t, 3, strings.Count(page, "Enter answers</a>"), "three crews")
	first := maren.file("/ledger/2/paper/1/cards")
	_, _, page = maren.post("/ledger/2/paper", "per=group")
	assert.Equal(t, 3, strings.Count(page, "Enter answers</a>"), "the same again")
	_, _, page = maren.post("/ledger/2/paper", "per=student")
	assert.Equal(t, 23, strings.Count(page, "Enter answers</a>"),
		"one for each, and the old ones, which nobody has any more")
	assert.Equal(t, first, maren.file("/ledger/2/paper/1/cards"), "a version stays what it is")
	maren.post("/ledger/2/remark", "do=apply&method.decimals=lenient")
	assert.Len(t, versionCards(t, maren, 2, 1), 10)
	for _, path := range []string{"/ledger/2/paper/0", "/ledger/2/paper/x", "/ledger/2/paper/-1/cards",
		"/ledger/2/paper/99", "/ledger/2/paper/9223372036854775807/cards", "/ledger/9/paper"} {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	for _, path := range []string{"/ledger/2/paper/4", "/ledger/2/paper/4?key", "/ledger/2/paper/4?flash"} {
		assert.True(t, strings.HasPrefix(string(maren.file(path)), "%PDF-"), path)
	}
	_, _, page = maren.get("/ledger/2/paper/type?version=44")
	holds(t, page, "No version 44 of this sheet was printed")

	// The empty table, filled in as one student has it.
	rows, err := tableOf(string(maren.file("/ledger/2/paper/table")))
	require.NoError(t, err)
	assert.Equal(t, []string{"version", "student", "card", "field", "given"}, rows[0])
	const student = "Wren A."
	version := ""
	for _, row := range rows {
		if row[1] == student {
			version = row[0]
		}
	}
	n, err := strconv.Atoi(version)
	require.NoError(t, err)
	cards := versionCards(t, maren, 2, n)
	var filled strings.Builder
	w := csv.NewWriter(&filled)
	require.NoError(t, w.Write(rows[0]))
	for _, row := range rows[1:] {
		if row[1] == student {
			row[4] = rightOn(t, cards[row[2]])[row[3]]
			require.NoError(t, w.Write(row))
		}
	}
	w.Flush()
	bad := filled.String() + "77," + student + ",1,main,3\n" + version + ",Nobody,1,main,3\n" + version + "," +
		student + ",99,main,3\n" +
		version + "," + student + ",1,bottom,3\n" + version + "," + student + ",1,main,three\n"
	_, page = maren.upload("/ledger/2/paper/preview", "file", "back.csv", []byte(bad))
	for _, says := range []string{"5 rows cannot be imported", "no version 77", en("class.written.nobody-name-class"),
		"has 10 cards", "no field “bottom”"} {
		holds(t, page, says)
	}
	status, _, _ = maren.post("/ledger/2/paper/bring", url.Values{"table": {bad}}.Encode())
	assert.Equal(t, http.StatusBadRequest, status, "nothing is brought in past the preview")
	_, _, page = maren.get("/ledger/2/paper")
	assert.NotContains(t, page, "✓", "half a table is never brought in")

	_, page = maren.upload("/ledger/2/paper/preview", "file", "back.csv", []byte(filled.String()))
	holds(t, page, "for 1 student")
	_, _, page = maren.post("/ledger/2/paper/bring", fields(page).Encode())
	holds(t, page, "✓")
	_, page = maren.upload("/ledger/2/paper/preview", "file", "back.csv", []byte(filled.String()))
	holds(t, page, "the same")
	assert.NotContains(t, page, "</b> new")
	// Every box was right: the attempt has all its marks, and the student sees it.
	_, _, mine := as(t, base, student).get("/my/2")
	assert.Regexp(t, `attempt 2:\s*<b>50</b>\s*of 50`, strings.Join(strings.Fields(mine), " "))
	back, err := tableOf(string(maren.file("/ledger/2/paper/table")))
	require.NoError(t, err)
	typed := 0
	for _, row := range back[1:] {
		if row[4] != "" {
			assert.Equal(t, student, row[1])
			typed++
		}
	}
	assert.Equal(t, strings.Count(filled.String(), "\n")-1, typed, "a round trip loses nothing")
}

// A paper is typed back by keyboard alone: the number at its head, then box after box with Enter; what cannot be read
// stays, and behind the last box the next student's paper is there.
func TestPaperTypedBackByKeys(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	maren.post("/ledger/3/paper", "per=student")
	cards := versionCards(t, maren, 3, 2)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/ledger/3/paper")
	b.wait("document.querySelector('.printed')?.textContent.includes('Printed: 20 versions')")
	b.do(run("document.querySelector('[name=version]').focus()"))
	b.keys("2" + kb.Enter)
	b.waitText("h1", "Version 2")
	b.wait("document.activeElement.name?.startsWith('1.')")
	who := eval[string](b, "document.querySelector('[name=student] option:checked').textContent.trim()")
	var last string
	for n := 1; n <= len(cards); n++ {
		it := cards[strconv.Itoa(n)]
		right := rightOn(t, it)
		for _, f := range it.Fields() {
			says := right[f.Name]
			if n == 3 && f.Name == it.Fields()[0].Name {
				says, last = "smudged", says
			}
			b.keys(says + kb.Enter)
		}
	}
	b.waitText("[role=alert]", "1 box cannot be read")
	b.wait("document.activeElement.value === 'smudged'") // the cursor stands where it cannot be read
	b.do(run("document.activeElement.select()"))
	b.keys(last)
	b.do(run("document.querySelector('form[method=post].typing, form[x-data=typing]').requestSubmit()"))
	b.waitText("h1", "Version 3")
	b.open("/ledger/3/paper")
	b.waitText(".versions tbody tr:nth-child(2)", "✓")
	b.waitText(".versions tbody tr:nth-child(2)", who)
	_, _, ledger := maren.get("/ledger/3")
	row := regexp.MustCompile(`(?s)<tr[^>]*>\s*<th[^>]*>[^<]*(?:<[^>]*>)?` + regexp.QuoteMeta(who) +
		`.*?</tr>`).FindString(ledger)
	assert.NotContains(t, row, "▲", "every box was right")
}
