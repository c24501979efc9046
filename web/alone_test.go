package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The vernier's own page: moved by one least count, by keyboard, by the button and by hand, the next line meets a mark,
// and the numbers beside are the server's.
func TestAHandbookFigureIsMoved(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
		b := openBrowser(t, base, size[0], size[1])
		b.open("/handbook/vernier")
		b.waitText("#live1 .readit", "line 0 × 0.05")
		b.do(run("document.querySelector('#live1 .sight.moves').focus()"))
		b.keys(kb.ArrowRight)
		b.waitText("#live1 .readit", "line 1 × 0.05")
		b.waitText("#live1 .readit", "Line 1 lines up with a mark")
		b.click("#live1 button[value='10']")
		b.waitText("#live1 .readit", "line 2 × 0.05")
		b.waitText("#live2 .readit", "line 7 × 0.05") // another one stays where it is
		b.click("#live1 [value=cover]")
		b.waitText("#live1 .readit", en("ui.parts.covered"))
		b.click("#live1 [value=next]")
		b.waitText("#live1 .readit tr:nth-child(1)", "0 mm")
		assert.Contains(t, eval[string](b, "document.querySelector('#live1 .readit').textContent"),
			en("ui.parts.covered"))
		box := eval[[]float64](b, "{ const r = document.querySelector('#live2 "+
			".sight.moves').getBoundingClientRect(); scrollTo(0, scrollY + r.top - 200); const q = "+
			"document.querySelector('#live2 .sight.moves').getBoundingClientRect(); [q.left + q.width / 2, "+
			"q.top + q.height * 0.75] }")
		b.do(chromedp.DragAndDropXY(box[0], box[1], box[0]+60, box[1], 8))
		b.wait("!document.querySelector('#live2 .readit').textContent.includes('47 mm')")
	}
}

// From what went wrong on a card one link leads to where it is explained, and one back to the card, by keyboard alone.
func TestFromAFeedbackToItsPlaceAndBack(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Elspeth O.")
	card := ""
	for n := range 40 { // she turns the sign of the zero error round, but not on every card
		card = fmt.Sprintf("/my/%d/%d", 2+n/10, 1+n%10)
		b.open(card)
		if eval[bool](b, "!!document.querySelector('.say h2')?.textContent.includes('zero error')") {
			break
		}
	}
	b.waitText(".say h2", "zero error")
	b.tabTo("Handbook: ")
	b.keys(kb.Enter)
	b.wait("location.pathname === '/handbook/zero'")
	b.waitText(".handbook .return", en("handbook.handbookpage.back-to-the-card"))
	at := eval[string](b, "document.querySelector(location.hash).textContent")
	assert.Equal(t, "Below zero", at)
	b.tabTo("Back to the card")
	b.keys(kb.Enter)
	b.wait("location.pathname === '" + card + "'")

	stranger := newVisitor(t, b.base)
	for _, from := range []string{"//evil.example", "https://evil.example", "/my/\" onclick=\"x", "javascript:alert(1)",
		"/signout"} {
		_, _, page := stranger.get("/handbook/zero?from=" + url.QueryEscape(from))
		assert.NotContains(t, page, "Back to the card", from)
	}
}

// A student's Bench, by keyboard: taken from the list, closed, moved, read with help, with something of one's own size
// between the faces; and a phone has all of it too.
func TestAStudentsBench(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
		b := openBrowser(t, base, size[0], size[1])
		b.signIn("Wren A.")
		b.open("/my/bench")
		b.tabTo("Arbor micrometer")
		b.keys(kb.Enter)
		b.waitText("form.bench h1", "Arbor micrometer")
		b.do(run("document.querySelector('.sight.moves').focus()"))
		b.keys(kb.Home)
		b.do(run("document.querySelector('[value=all]').click()"))
		b.waitText(".readit tr:nth-child(3)", "0.02 mm")
		b.waitText(".readit", "Thimble line 2 is at the datum line")
		b.fill("[name=object]", "7,40")
		b.do(run("document.querySelector('[value=object]').click()"))
		b.waitText(".held", "touch it")
		b.waitText(".readit tr:nth-child(4)", "7.40 mm")
	}
	// What a test shows cannot be tried out before it is told; what the instructor shares can.
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	_, _, before := wren.get("/my/bench")
	rack := regexp.MustCompile(`action="(/rack/\d+/share)"`).FindAllStringSubmatch(func() string {
		_, _,
			p := maren.get("/rack")
		return p
	}(), -1)
	for _, r := range rack {
		maren.post(r[1], "shared=yes")
	}
	_, _, after := wren.get("/my/bench")
	assert.Greater(t, strings.Count(after, `class="hang `), strings.Count(before, `class="hang `))
}

// A whole sheet in each set of words: cards, help, what is said of an answer, the sheet's own page, the handbook. No
// word of the other set, and no term in its braces.
func TestAWholeSheetInTheClassesWords(t *testing.T) {
	if testing.Short() {
		t.Skip("looks at every page of a sheet; left out with -short")
	}
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	wren := as(t, base, "Wren A.")
	shop := regexp.MustCompile(`\b[Tt]himble|[Dd]atum line|[Vv]ernier plate`)
	lab := regexp.MustCompile(`[Cc]ircular scale|[Rr]eference line|M\.S\.R\.|[Cc]oinciding division`)
	for _, set := range []struct {
		base         string
		spoken, kept *regexp.Regexp
	}{{"laboratory", lab, shop}, {"workshop", shop, lab}} {
		_, at, _ := maren.post("/classes/1/settings", "base="+set.base)
		require.Contains(t, at, "/classes/1")
		said := ""
		cards := 9 // sheet 5: every kind that shows an instrument
		if testing.Short() {
			cards = 2
		}
		for n := 1; n <= cards; n++ {
			card := fmt.Sprintf("/my/5/%d", n)
			_, _, page := wren.get(card)
			said += page
			for range 3 {
				_, _, page = wren.post(card+"/hint", "")
				said += page
			}
			form := fields(page)
			for k := range form {
				if k != "do" {
					form.Set(k, "1")
				}
			}
			form.Set("do", "anyway")
			_, _, page = wren.post(card, form.Encode())
			said += page
		}
		for _, path := range []string{"/my/5", "/my/4/1", "/practice", "/handbook/micrometer", "/handbook/vernier",
			"/handbook/zero"} {
			_, _, page := wren.get(path)
			said += page
		}
		_, _, page := maren.get("/ledger/4/1/1")
		said += page
		assert.Regexp(t, set.spoken, said)
		assert.Empty(t, set.kept.FindAllString(said, 5), "in %s words", set.base)
	}
	_, _, page := maren.post("/classes/1/settings", url.Values{"base": {"workshop"}, "own[drum]": {"<b>"},
		"own[plate]": {"slider"}}.Encode())
	holds(t, page, "must be one or a few words")
	holds(t, page, `value="slider"`, "what was typed stays")
	maren.post("/classes/1/settings", url.Values{"base": {"workshop"}, "own[drum]": {"barrel"}}.Encode())
	_, _, page = wren.get("/handbook/micrometer")
	holds(t, page, "clear of the edge of the barrel")
	_, _, page = newVisitor(t, base).get("/handbook/micrometer")
	holds(t, page, "clear of the edge of the thimble")
}

// A page is read in its reader's manner: with a comma where the browser's language has one, but for what is engraved.
func TestDecimalsOnPages(t *testing.T) {
	long(t)
	t.Parallel()
	v := newVisitor(t, demoSite(t))
	read := func(language string) string {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, v.base+"/handbook/vernier", nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Language", language)
		answer, err := v.Do(r)
		_, _, page := v.read(answer, err)
		return page
	}
	points, commas := read("en"), read("nl,en;q=0.8")
	holdAll(t, points, "one least count, 0.05 mm", "× 0.05")
	holdAll(t, commas, "one least count, 0,05 mm", "× 0,05")
	drawn := regexp.MustCompile(`(?s)<svg.*?</svg>`)
	assert.NotEmpty(t, drawn.FindAllString(points, -1))
	assert.Equal(t, drawn.FindAllString(points, -1), drawn.FindAllString(commas, -1))
}

// What is due, what goes well and what to train stand on a phone without scrolling; a student's way is drawn, and taken
// home as a table of own answers alone, without what a test has not told yet.
func TestAStudentsOwnPage(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 390, 844)
	for _, who := range []string{"Wren A.", "Tobin F.", "Isolde M."} {
		b.signOut()
		b.signIn(who)
		for _, what := range []string{".due, .now section:nth-child(1) .none",
			".now section:nth-child(2) :is(ul, .none)", `.now [href="/practice"]`} {
			b.wait("document.readyState === 'complete'")
			low := eval[float64](b, fmt.Sprintf("document.querySelector(%q).getBoundingClientRect().bottom", what))
			assert.LessOrEqual(t, low, 844.0, "%s: %s", who, what)
		}
	}
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/my/way")
	holds(t, page, en("common.week-by-week"))
	holds(t, page, "Share of the marks by week:")
	_, _, table := wren.get("/my/way.csv")
	rows, err := tableOf(table)
	require.NoError(t, err)
	require.Greater(t, len(rows), 100)
	assert.Equal(t, "class", rows[0][0])
	sheets := map[string]bool{}
	for _, row := range rows[1:] {
		sheets[row[1]] = true
		assert.Contains(t, []string{"right", "carried", "form", "wrong", "missing"}, row[11])
	}
	assert.True(t, sheets["First readings"] && sheets["practice"])
	assert.False(t, sheets["Half-term test"], "its results are not released")

	// What the page of practice promises is so: on no page and in no file of an instructor's stands what this student
	// practised, until the class says otherwise.
	maren := as(t, base, "maren")
	practised := func() (inData, inProgress bool, cards int) {
		t.Helper()
		_, _, page := maren.get("/classes/1/people/1")
		list, err := csv.NewReader(bytes.NewReader(unzipped(t,
			maren.file("/classes/1/people/1/data"))["answers.csv"])).ReadAll()
		require.NoError(t, err)
		_, _, people := maren.get("/classes/1/people")
		found := regexp.MustCompile(`(?s)Wren A\..*?<td class="n">(\d+)</td>`).FindStringSubmatch(people)
		require.NotNil(t, found)
		cards, err = strconv.Atoi(found[1])
		require.NoError(t, err)
		return slices.ContainsFunc(list, func(row []string) bool { return row[1] == "practice" }),
			strings.Contains(page, "sheets and practice together"), cards
	}
	_, _, onSheets := practised()
	_, _, page = maren.get("/classes/1")
	assert.NotContains(t, page, "In the last four weeks")
	for _, tt := range []struct {
		seen, said string
		each       bool
	}{{"0", "Only you see", false}, {"1", "a summary of what the class practises, without names", false},
		{"2", "Your instructors see what you practise", true}, {"0", "Only you see", false}} {
		maren.post("/classes/1/settings", "seen="+tt.seen)
		_, _, page = maren.get("/classes/1")
		assert.Equal(t, tt.seen != "0", strings.Contains(page, "In the last four weeks"), tt.seen)
		_, _, page = wren.get("/practice")
		holds(t, strings.Join(strings.Fields(page), " "), tt.said)
		inData, inProgress, cards := practised()
		assert.Equal(t, []bool{tt.each, tt.each, tt.each}, []bool{inData, inProgress, cards > onSheets}, tt.seen)
	}
	status, _, _ := maren.post("/classes/1/settings", "seen=3")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

// unzipped are the files of a zip, by name.
func unzipped(t *testing.T, data []byte) map[string][]byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	out := map[string][]byte{}
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		out[f.Name], err = io.ReadAll(in)
		require.NoError(t, err)
	}
	return out
}
