package web_test

import (
	"net/http"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// In a browser a check puts an instrument aside: that is said on the Rack, on the Desk, and where it is chosen for a
// sheet or a survey; a further check brings it back, and what it found becomes its zero error with one press.
func TestACheckPutsAnInstrumentAside(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/rack/1/book")
	b.fill("[name=closed]", "-0.10")
	b.do(run("document.querySelector('[name=decision]').value = 'put aside'"))
	b.fill("[name=note]", "fell on the floor")
	b.keys(kb.Enter)
	b.waitText(".alert", en("author.book.show-book"))
	b.waitText(".headline", "put aside")
	b.waitText(".book", "fell on the floor")
	b.open("/rack")
	b.wait("[...document.querySelectorAll('.rack li')].some((li) => li.textContent.includes('Float spindle " +
		"caliper') && li.textContent.includes('put aside'))")
	b.open("/sheets/1")
	b.wait("document.querySelector('.composer').textContent.includes('put aside')")
	b.open("/surveys/new")
	b.wait("[...document.querySelectorAll('[name=instrument] option')].some((o) => o.textContent === 'Float spindle " +
		"caliper – put aside')")

	b.open("/rack/1/book")
	b.fill("[name=closed]", "-0.10")
	b.fill("[name=due]", "01012020")
	b.keys(kb.Enter)
	b.waitText("form .fault", "must be after the day")
	b.do(run("document.querySelector('[name=due]').value = ''; document.querySelector('[name=decision]').value = " +
		"'carry the error'"))
	b.do(run("document.querySelector('#entry form').requestSubmit()"))
	b.wait("!document.querySelector('.headline').textContent.includes('put aside') && " +
		"!!document.querySelector('.alert')")
	b.click("form[action$=takeover] button")
	b.waitText(".headline", "zero error −0.10")
}

// A book goes out as a table and comes in again; a row that cannot stand brings nothing in; entries are corrected, and
// never lost; nobody else's book is there.
func TestALogbookGoesOutAndIn(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	for _, path := range []string{"/rack/2/book", "/rack/2/book/table"} {
		status, _, _ := ivo.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	status, _, _ := ivo.post("/rack/2/book", "day=2026-01-02&closed=0&who=x&condition=clean&decision=in+use")
	assert.Equal(t, http.StatusNotFound, status)
	table := maren.file("/rack/2/book/table")
	rows, err := tableOf(string(table))
	require.NoError(t, err)
	require.Len(t, rows, 4)
	for _, added := range []string{"new", "the same"} { // whatever is brought in twice is there once
		_, page := maren.upload("/rack/1/book/preview", "file", "book.csv", table)
		holds(t, page, "</b> "+added)
		_, _, page = maren.post("/rack/1/book/import", fields(page).Encode())
		holds(t, page, en("author.book.show-book"))
	}
	again, err := tableOf(string(maren.file("/rack/1/book/table")))
	require.NoError(t, err)
	assert.Equal(t, rows, again)
	for says, written := range map[string]string{
		"line 3: date must be": "date,indicated,who\n2026-01-02,0.05,M\nyesterday,0.05,M\n",
		"has no column":        "day,indicated,who\n2026-01-02,0.05,M\n",
		"line 2: indicated":    "date,indicated,who\n2026-01-02,much,M\n",
		"without a unit":       "date,indicated,who\n2026-01-02,0.05 mm,M\n",
		"1.decision":           "date,indicated,who,decision\n2026-01-02,0.05,M,melt\n2026-01-03,0.05,M,in use\n",
	} {
		_, page := maren.upload("/rack/1/book/preview", "file", "book.csv", []byte(written))
		holds(t, page, says)
		holds(t, page, "Nothing was imported")
	}
	_, page := maren.upload("/rack/1/book/preview", "file", "book.csv",
		[]byte("date,indicated,who\n12.10.2026,0.05,M\n"))
	holds(t, page, "2026-10-12")
	_, _, page = maren.get("/rack/2/book?corrects=3")
	form := fields(page)
	assert.Equal(t, "3", form.Get("corrects"))
	assert.Equal(t, "-0.10", form.Get("closed"))
	_, _, page = maren.post("/rack/2/book",
		"corrects=3&day=2026-10-03&closed=-0.05&who=Maren&condition=clean&decision=in+use")
	holds(t, page, en("author.book.in-place-of-an"))
	holds(t, page, ">corrected<", "what was corrected stays in the book")
	_, _, page = maren.post("/rack/2/book",
		"corrects=99&day=2026-10-03&closed=-0.05&who=Maren&condition=clean&decision=in+use")
	assert.NotContains(t, page, en("author.book.show-book"))
	_, _, page = maren.post("/rack/2/limit", "limit=wide")
	assert.NotContains(t, page, en("author.book.show-book"))
	maren.post("/rack/2/limit", "limit=0.02")
	_, _, page = maren.get("/rack/2/book")
	holds(t, page, en("logbook.zero-error-beyond-its"))
}
