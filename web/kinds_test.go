package web_test

import (
	"compress/gzip"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school"
	"cavix/store"
)

// A card whose figure is set by hand: dragged, by keys, by its buttons; left and found again as it was; checked.
func TestSettingACard(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("Wren A.")
	const card = "/my/5/4" // a drum
	b.open(card)
	b.wait("document.activeElement.matches('.sight.moves') && document.activeElement._x_dataStack[0].svg")
	drawn := "document.querySelector('.sight.moves .fig').outerHTML"
	moved := `document.querySelector('#views').dataset.moved`
	settled := func(was, why string) string {
		t.Helper()
		b.wait(fmt.Sprintf("%s !== %q && document.querySelector('.kept').textContent === 'saved'", moved, was))
		b.wait("document.querySelector('.sight.moves')._x_dataStack[0].off === 0")
		now := eval[string](b, moved)
		assert.Equal(t, now, eval[string](b, "document.querySelector('form.boxes [type=hidden]').value"), why)
		return now
	}
	first := eval[string](b, drawn)
	b.keys(kb.ArrowRight + kb.ArrowRight + kb.ArrowRight)
	at := settled("", "by keys")
	assert.Equal(t, "30", at, "three least counts, in tenths")
	assert.NotEqual(t, first, eval[string](b, drawn))
	b.click(`.box.position [aria-label="ten least counts less"]`)
	at = settled(at, "by a button")
	assert.Equal(t, "-70v", at, "and the screw was turned back last")
	b.do(chromedp.DragAndDropXY(300, 300, 380, 300, 8))
	at = settled(at, "dragged")
	kept := eval[string](b, drawn)
	b.open(card) // closed and opened again
	b.wait(fmt.Sprintf("%s === %q", moved, at))
	assert.Equal(t, kept, eval[string](b, drawn), "as it was left")
	b.click(".acts .btn-primary")
	b.waitText(".say h2", "must show")
	assert.Empty(t, eval[int](b, "document.querySelectorAll('.sight.moves, .box.position button').length"),
		"nothing moves any more")

	// On the narrow screen, by touch: the buttons are the way, and the page stays as wide as it is.
	n := openBrowser(t, base, 390, 844)
	n.signIn("Wren A.")
	n.open("/my/5/5")
	n.wait("document.querySelector('.sight.moves')?._x_dataStack?.[0].svg")
	n.click(`.box.position [aria-label="one least count more"]`)
	n.wait(moved + " === '10'")
	for _, path := range []string{"/my/5/1", "/my/5/4", "/my/5/5", "/my/5/7", "/my/5/9"} {
		n.open(path)
		n.wait("document.readyState === 'complete'")
		assert.LessOrEqual(t, eval[int](n, "document.documentElement.scrollWidth"), 390, path)
	}
}

// A card with readings to choose from is worked by keys alone, and a repeated reading turns its own figure
// in sight for each box.
func TestChoosingAndRepeating(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Wren A.")
	b.open("/my/5/7")
	b.wait("document.activeElement.type === 'radio'")
	b.keys(" " + kb.ArrowRight + kb.ArrowRight)
	b.waitText(".kept", "saved")
	chosen := eval[string](b, "document.querySelector('input[type=radio]:checked').value")
	b.open("/my/5/7")
	b.wait(fmt.Sprintf("document.querySelector('input[type=radio]:checked')?.value === %q", chosen))
	b.do(run("document.querySelector('input[type=radio]:checked').focus()"))
	b.keys(kb.Enter)
	b.waitText(".acts", "Next card")
	assert.Equal(t, 1, eval[int](b, "document.querySelectorAll('.option.right, .option.wrong').length"),
		"the choice is marked")
	assert.NotEmpty(t, eval[string](b, "document.querySelector('.say h2').textContent"))

	b.open("/my/5/9")
	b.wait("document.activeElement.name === 'r.1.1'")
	seen := map[string]bool{}
	tabs := "[...document.querySelectorAll('.views .nav-link')].map((a) => a.dataset.view)"
	for _, tab := range eval[[]string](b, tabs) {
		b.do(run(fmt.Sprintf("document.querySelector('.views .nav-link[data-view=%q]').click()", tab)))
		b.wait(
			fmt.Sprintf(
				"document.querySelector('#views').dataset.shown === %q && "+
					"!document.querySelector('.view[data-view=%q]').hidden",
				tab,
				tab,
			),
		)
		seen[eval[string](b, "document.querySelector('.view:not([hidden]) .fig').outerHTML")] = true
	}
	assert.Len(t, seen, eval[int](b, "document.querySelectorAll('.views .nav-link').length"),
		"a figure of its own for every reading")
	b.do(run(`document.querySelector('[name="r.1.2"]').focus()`))
	b.waitText(".views .nav-link.active", "2")
	b.fill(`[name="r.1.2"]`, "80.35")
	b.waitText(".kept", "saved")
	b.click(".acts .btn-primary")
	b.waitText(".acts .alert", "Empty")
	b.click("[value=anyway]")
	b.waitText(".say", "")
	b.wait("document.querySelector('.acts a.btn-primary').getBoundingClientRect().bottom < 800")
	assert.Less(t, eval[float64](b, "document.querySelector('.say h2').getBoundingClientRect().bottom"), 800.0,
		"the cause is in sight")
}

// Steps are brought in order by the keys, by their arrows and by their handles, all in sight; the box, which is hidden,
// says their numbers. An order that was never changed can be checked too.
func TestStepsAreMovedByHand(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Wren A.")
	b.open("/my/6/16")
	order := `document.querySelector('.order input').value`
	b.wait("document.querySelectorAll('.order li').length > 3")
	b.do(run("document.querySelector('.order li').focus()"))
	b.keys(kb.ArrowDown)
	b.wait(order + ".startsWith('2 1 3')")
	b.waitText(".kept", "saved")
	box := eval[[]float64](
		b,
		`[...document.querySelectorAll('.order .handle')].flatMap((e) => { const r = e.getBoundingClientRect();
			return [r.x + r.width / 2, r.y + r.height / 2] })`,
	)
	b.do(chromedp.DragAndDropXY(box[0], box[1], box[4], box[5], 8))
	b.wait(order + ".startsWith('1 3 2')")
	b.click(`.order li:nth-child(2) [aria-label^="Earlier"]`)
	b.wait(order + ".startsWith('3 1 2')")
	b.click(`.order li:nth-child(1) [aria-label^="Later"]`)
	b.wait(order + ".startsWith('1 3 2')")
	b.wait("document.querySelector('.kept').textContent === 'saved'")
	b.open("/my/6/16")
	b.wait("document.querySelector('.order li:nth-child(2)').dataset.step === '3' && " + order + ".startsWith('1 3 2')")
	assert.False(t, eval[bool](b, "document.querySelector('.order input').checkVisibility()"),
		"the box is for pages without script")
	b.click(".acts .btn-primary")
	b.waitText(".acts", "Next card")
	b.open("/my/6/17")
	b.wait("document.querySelectorAll('.order .handle').length > 2 && " + order + " === ''")
	b.click(".acts .btn-primary")
	b.waitText(".acts", "Next card")
	assert.True(t, eval[bool](b, order+".startsWith('1 2 3')"))
}

// An instructor writes items of care, changes and takes out those that came with the program; a sheet that is kept
// deals from them, and what is wrong is said at its field with what was typed.
func TestABankIsEdited(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("edits a bank; left out with -short")
	}
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, written := maren.get("/bank/care")
	first := regexp.MustCompile(`action="(/bank/care/[0-9a-f]+)"`).FindStringSubmatch(written)
	require.NotNil(t, first)
	status, _, written := maren.post("/bank/care/new", url.Values{"sort": {"next"}, "lines": {"one\ntwo"},
		"right": {"9"}, "reason": {"kept <b>as typed</b>"}}.Encode())
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	for _, says := range []string{"must be from 3 to 7", "must be the number of a statement",
		"say in up to 300 characters", "kept &lt;b&gt;as typed"} {
		holds(t, written, says)
	}
	_, _, written = maren.post(
		"/bank/care/new",
		url.Values{"sort": {"next"}, "question": {"The sluice pin is still warm from the lathe."},
			"lines": {
				"Let it cool\nMeasure it at once\nPress harder",
			}, "right": {"1"}, "reason": {"Warm work is larger than it will be."}}.Encode(),
	)
	holds(t, written, "The sluice pin is still warm")
	for _, l := range regexp.MustCompile(`action="(/bank/care/[0-9a-f]+)"`).FindAllStringSubmatch(written, -1) {
		maren.post(l[1], "do=retire")
	}
	sheet := url.Values{"title": {"Warm pins"}, "blocks[0].kind": {"care"}, "blocks[0].cards": {"1"}, "do": {"keep"},
		"blocks[0].settings[which]": {"order"}}
	status, _, written = maren.post("/sheets/new", sheet.Encode())
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, written, en("care.check"))
	sheet.Set("blocks[0].settings[which]", "any")
	_, at, _ := maren.post("/sheets/new", sheet.Encode())
	_, _, written = maren.get(at + "/try/1/1")
	holds(t, written, "The sluice pin is still warm from the lathe.")
	maren.post(first[1], "do=forget")
	_, _, written = maren.get(at + "/try/2/1")
	holds(t, written, "The sluice pin is still warm", "the sheet has its own copy")
	_, _, written = as(t, base, "ivo").get("/bank/care")
	assert.NotContains(t, written, "sluice pin is still warm", "another's bank")
	_, at, _ = as(t, base, "Wren A.").get("/bank/care")
	assert.NotEqual(t, "/bank/care", at, "no student's place")
}

// What is served for a figure that is to be set tells neither where it stands nor what it shows.
func TestAFigureThatMovesTellsNoPosition(t *testing.T) {
	long(t)
	t.Parallel()
	wren := as(t, demoSite(t), "Wren A.")
	for _, n := range []int{4, 5} {
		path := fmt.Sprintf("/my/5/%d", n)
		status, _, says := wren.get(path)
		require.Equal(t, http.StatusOK, status)
		motion := regexp.MustCompile(`data-motion="([^"]*)"`).FindStringSubmatch(says)
		require.NotNil(t, motion, path)
		assert.NotRegexp(t, `(?i)position|steps|reading|shows|zero`, motion[1])
		assert.NotRegexp(t, `(?i)expected|indicated|"shown"`, says)
		for _, asked := range []string{"99999999999999999999", "1e6", "-1/0", "x", "NaN", "10"} {
			status, _, _ = wren.post(path+"/figure", "moved="+asked)
			assert.Less(t, status, 500, "%s moved by %s", path, asked)
		}
	}
}

// A card's page with all that it loads stays small, and what is versioned is kept by the browser.
func TestACardWeighsLittle(t *testing.T) {
	long(t)
	t.Parallel()
	wren := as(t, demoSite(t), "Wren A.")
	weigh := func(path string) (int, string, http.Header) {
		t.Helper()
		req, err := http.NewRequest(http.MethodGet, wren.base+path, nil)
		require.NoError(t, err)
		req.Header.Set("Accept-Encoding", "gzip")
		r, err := wren.Do(req)
		require.NoError(t, err)
		b, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		require.Equal(t, http.StatusOK, r.StatusCode, path)
		says := string(b)
		if r.Header.Get("Content-Encoding") == "gzip" {
			z, err := gzip.NewReader(strings.NewReader(says))
			require.NoError(t, err)
			plain, err := io.ReadAll(z)
			require.NoError(t, err)
			says = string(plain)
		}
		return len(b), says, r.Header
	}
	for n := 1; n <= 9; n++ {
		total, page, _ := weigh(fmt.Sprintf("/my/5/%d", n))
		for _, file := range regexp.MustCompile(`(?:src|href)="(/static/[^"]+\.(?:js|css))"`).FindAllStringSubmatch(
			page, -1) {
			size, _, header := weigh(file[1])
			assert.Contains(t, header.Get("Cache-Control"), "immutable", file[1])
			total += size
		}
		assert.Greater(t, total, 20<<10, "something was weighed")
		assert.LessOrEqual(t, total, 90<<10, "card %d: %d bytes", n, total)
	}
}

// A number that is accepted can be read again: what is too long is refused at its field, and no page breaks.
func TestLongNumbersLockNobodyOut(t *testing.T) {
	una := as(t, demoSite(t), "una")
	const (
		long = "1/1329227995784915872903807060280344576"
		nine = "9999999999999999999999999999999999999999"
	)
	document := func(division, to string) string {
		return `{"format":"cavix/instrument","version":1,"name":"Long","family":"vernier-caliper","unit":"mm",
			"main":{"division":"` + division +
			`","from":"0","to":"` + to + `"},"fine":{"kind":"vernier","divisions":20,"spans":39}}`
	}
	for _, tt := range []struct{ document, field string }{
		{document("1", long), "main.to"}, {document(nine, "150"), "main.division"},
		{document("1", "1e999999"), "main.to"},
		{strings.Replace(document("1", "150"), `"150"`, `1e999999`, 1), "main.to"},
	} {
		status, _, says := una.post("/rack/import", url.Values{"document": {tt.document}}.Encode())
		assert.Equal(t, http.StatusUnprocessableEntity, status, tt.field)
		holds(t, says, tt.field)
	}
	_, _, rack := una.get("/rack")
	racked := regexp.MustCompile(`/workshop/(\d+)"`).FindStringSubmatch(rack)
	require.NotNil(t, racked)
	for _, limit := range []string{long, nine, "-" + nine, "1e40"} {
		status, _, _ := una.post(
			"/sheets/new",
			url.Values{"title": {"Long"}, "blocks[0].kind": {"read"}, "blocks[0].cards": {"2"},
				"blocks[0].instruments": {
					racked[1],
				}, "blocks[0].settings[ask]": {"observed"}, "blocks[0].settings[upper]": {limit},
				"blocks[0].settings[lower]": {"1"}, "method.tie": {"unfavourable"}, "do": {"keep"}}.Encode(),
		)
		assert.Equal(t, http.StatusUnprocessableEntity, status, limit)
	}
	for _, path := range []string{"/desk", "/rack", "/sheets/new"} {
		status, _, _ := una.get(path)
		assert.Equal(t, http.StatusOK, status, path)
	}
}

// Help and error pages know who looks: the way on and the way out stand on each.
func TestEveryPageKnowsWhoLooks(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	for _, who := range []string{"maren", "Wren A."} {
		v := as(t, base, who)
		for _, path := range []string{"/help", "/no/such/page"} {
			_, _, says := v.get(path)
			holds(t, says, `action="/signout"`, path, who)
			holds(t, says, `<nav class="nav`, path, who)
		}
	}
}

// A test whose sheet asks for pictures sends no line of a figure until its results are told.
func TestATestOfPictures(t *testing.T) {
	if testing.Short() {
		t.Skip("paints large pictures; left out with -short")
	}
	t.Parallel()
	base, s := demoStore(t)
	set(t, s, "UPDATE assignments SET definition = json_set(definition, '$.mode', 'test', '$.figures', 'pixels'), "+
		"opens = NULL, closes = NULL WHERE id = 8")
	set(t, s, "DELETE FROM sittings WHERE assignment = 8 AND student = 1")
	set(t, s, "DELETE FROM cards WHERE assignment = 8 AND student = 1")
	wren := as(t, base, "Wren A.")
	wren.post("/my/8/begin", "")
	_, at, page := wren.get("/my/8/1")
	require.Equal(t, "/my/8/1", at)
	holds(t, page, `href="data:image/png;base64,`)
	figures := regexp.MustCompile(`(?s)<svg[^>]*class="(?:fig|strip|whole)".*?</svg>`).FindAllString(page, -1)
	assert.GreaterOrEqual(t, len(figures), 3)
	for _, f := range figures {
		assert.NotRegexp(t, "<(line|path|text|circle)", f)
	}
	cards := regexp.MustCompile(`href="/my/8/(\d+)"`).FindAllStringSubmatch(page, -1)
	require.NotEmpty(t, cards)
	set(t, s, "UPDATE cards SET seen = coalesce(seen, (SELECT began FROM sittings WHERE assignment = 8 AND student "+
		"= 1)) WHERE assignment = 8 AND student = 1")
	wren.post("/my/8/hand", "")
	// as a program would have answered
	set(t, s, "UPDATE cards SET half_marks = half_of WHERE assignment = 8 AND student = 1")
	set(t, s, "UPDATE sittings SET handed = began + 9 WHERE assignment = 8 AND student = 1")
	maren := as(t, base, "maren")
	_, _, page = maren.get("/ledger/8")
	holds(t, page, en("class.ledger.too-fast"))
	assert.Equal(t, 1, strings.Count(page, "too fast"))
	_, _, page = maren.get("/ledger/8?show=times")
	holds(t, page, "Show marks")
}

// Practice can be limited to the kinds of card that one can do.
func TestPracticeOfChosenKinds(t *testing.T) {
	t.Parallel()
	base, s := demoStore(t)
	v := as(t, base, "Wren A.")
	room := school.New(s)
	var wren int64
	require.NoError(t, store.One(t.Context(), s, store.Named("wren", "SELECT id FROM students WHERE name = ?"),
		[]any{"Wren A."}, &wren))
	_, _, page := v.get("/practice")
	for _, kind := range []string{"convert", "care"} {
		require.Contains(t, page, fmt.Sprintf(`name="kinds" value="%s"`, kind))
		v.post("/practice/families", "kinds="+kind)
		v.get("/practice/next")
		c, err := room.Sitting.NextCard(t.Context(), wren, 5)
		require.NoError(t, err)
		assert.Equal(t, kind, c.Item.Kind())
		require.NoError(t, room.Sitting.CheckPractice(t.Context(), wren, c, exercise.Answer{}, time.Now()))
	}
	_, _, page = v.get("/practice")
	assert.Regexp(t, `value="care"\s+checked`, page)
}
