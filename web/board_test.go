package web_test

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/slips"
	"cavix/school"
	"cavix/school/sitting"
)

// A Board and four students in five browsers: asked, answered, changed, uncovered, the next. One student reloads, the
// server is killed and comes back, and the Board's line is cut: nothing is lost and nothing doubled.
func TestARoundInFiveBrowsers(t *testing.T) {
	if testing.Short() {
		t.Skip("starts five browsers; left out with -short")
	}
	t.Parallel()
	site := newDying(t)
	board := openBrowser(t, "http://"+site.addr, 1280, 720)
	board.signIn("maren")
	who := []string{"Wren A.", "Tobin F.", "Elspeth O.", "Wren A."}
	var students []*browser
	for i, name := range who {
		b := openBrowser(t, "http://"+site.addr, 390, 844)
		b.signIn(name)
		b.open([]string{"/my", "/round", "/practice", "/handbook/zero"}[i])
		students = append(students, b)
	}
	board.open("/board/1")
	board.wait("document.querySelector('.board')?._x_dataStack")
	board.keys("a")
	board.waitText(".count", "0 of 20")
	for _, i := range []int{0, 2, 3} { // wherever they are, a bar leads there; the one who waits is there already
		students[i].wait("document.querySelector('#roundbar').checkVisibility()")
		students[i].click("#roundbar a")
	}
	answer := func(b *browser, says string) {
		b.waitText(".roundpage h1", en("student.round.show-round"))
		b.wait("document.querySelector('[name=observed]')")
		b.fill("[name=observed]", says)
		b.do(run("document.body.dataset.before = 1; document.querySelector('.roundpage .btn-primary').click()"))
		b.wait("!document.body.dataset.before")
		b.waitText(".cardhead", "sent")
	}
	answer(students[0], "45.25")
	board.waitText(".count", "1 of 20")
	answer(students[1], "46,20")
	board.waitText(".count", "2 of 20")
	answer(students[0], "45.20") // thought again
	students[0].open("/round")
	students[0].wait("document.querySelector('[name=observed]').value === '45.20'")

	site.kill() // in the middle of the round
	site.start()
	answer(students[2], "45.20")
	board.waitText(".count", "3 of 20")
	assert.Equal(t, "45.20", eval[string](students[0], "document.querySelector('[name=observed]').value"))

	// The Board's line is cut; a student answers meanwhile, and the Board finds it when the line is back.
	site.cut.Store(true)
	require.Eventually(t, func() bool { return site.vain.Load() > 2 }, time.Minute, 50*time.Millisecond,
		"the Board tries again and again")
	answer(students[3], "45.20") // the first one again, in a browser of another place: still one answer
	site.cut.Store(false)
	board.waitText(".count", "3 of 20")

	board.keys(" ")
	board.wait("document.querySelector('.answers .plot')")
	rule := eval[string](board, "document.querySelector('.answers .plot').getAttribute('aria-label')")
	assert.Contains(t, rule, "2 wrote 45.20, right")
	assert.Contains(t, rule, "1 wrote 46.20, next mark")
	assert.NotContains(t, rule, "45.25", "what was changed is gone")
	students[1].waitText(".say h2", "46,20")
	students[0].waitText(".say h2", "Right")
	board.keys("2")
	board.waitText(".says", "reading one mark too far")
	board.wait("document.querySelector('.fig .taken')")
	board.keys(" ")
	board.waitText(".equation b", "45")
	board.keys("v") // another value is asked by itself
	board.waitText(".count", "0 of 20")
	students[1].waitText(".cardhead h1", en("student.round.show-round"))
	students[1].wait("document.querySelector('.roundpage .btn-primary') && !document.querySelector('.say')")
	assert.Equal(t, "720", fmt.Sprint(eval[int](board, "document.documentElement.scrollHeight")), "nothing scrolls")
}

// An answer that cannot be read is not "sent": the page says why, and the bar that leads back to the question stays
// until one is.
func TestARefusedAnswerIsNotSent(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	board, student := openBrowser(t, base, 1280, 720), openBrowser(t, base, 390, 844)
	board.signIn("maren")
	student.signIn("Wren A.")
	board.open("/board/1")
	board.wait("document.querySelector('.board')?._x_dataStack")
	board.keys("a")
	for _, tt := range []struct {
		text string
		sent bool
	}{{"a lot", false}, {"45.20", true}, {"a bit more", true}} {
		student.open("/round")
		student.wait("document.querySelector('[name=observed]')")
		student.fill("[name=observed]", tt.text)
		student.do(run("document.body.dataset.before = 1; document.querySelector('.roundpage .btn-primary').click()"))
		student.wait("!document.body.dataset.before && document.readyState === 'complete'")
		assert.Equal(t, tt.sent, strings.Contains(eval[string](student,
			"document.querySelector('.cardhead').textContent"), "sent"), tt.text)
		student.open("/my")
		student.wait("document.querySelector('#roundbar')?._x_dataStack?.[0].stamp")
		student.wait(fmt.Sprintf("document.querySelector('#roundbar').checkVisibility() === %t", !tt.sent))
	}
}

// On each of the usual projectors nothing scrolls, nothing is smaller than 18 px at 1280, and the page keys alone go
// all the way.
func TestTheBoardFitsTheProjector(t *testing.T) {
	t.Parallel()
	for _, size := range [][2]int64{{1280, 720}, {1280, 800}, {1920, 1080}} {
		b := openBrowser(t, demoSite(t), size[0], size[1])
		b.signIn("maren")
		b.open("/board/1")
		b.wait("document.querySelector('.answers .plot') && document.fonts.status === 'loaded'")
		fits := func(when string) {
			t.Helper()
			assert.LessOrEqual(t, eval[int64](b, "document.documentElement.scrollHeight"), size[1], "%v %s", size, when)
			small := eval[[]string](b,
				`[...document.querySelectorAll('.board *')].filter((e) => e.childElementCount === 0
					&& e.textContent.trim()
				&& e.checkVisibility({opacityProperty: true, visibilityProperty: true})
				&& !e.closest('.visually-hidden, option, .more > div, .lens, .fig')).map((e) => {
				const m = e.getScreenCTM?.(), px = parseFloat(getComputedStyle(e).fontSize) * (m ? m.a : 1);
				return [px, e.textContent.trim()]; }).filter(([px]) => px < 17.9).map(String)`)
			assert.Empty(t, small, "%v %s", size, when)
			numerals := eval[float64](b,
				`Math.min(...[...document.querySelectorAll('.board .fig text')]
					.filter((e) => /^\d+$/.test(e.textContent)
				&& !e.closest('.drum-numbers') && e.checkVisibility())
				.map((e) => parseFloat(getComputedStyle(e).fontSize) * e.getScreenCTM().a), 99)`)
			assert.GreaterOrEqual(t, numerals, 17.9, "numerals, %v %s", size, when)
			edges := eval[[]float64](b,
				`(() => { const m = document.querySelector('.board .mat').getBoundingClientRect(),
					on = [...document.querySelectorAll('.board .fig :is(.beam, .sleeve, .drum), .board .lens')]
					.map((e) => e.getBoundingClientRect());
				return [Math.min(...on.map((r) => r.left)) - m.left, m.right - Math.max(...on.map((r) => r.right))];
				})()`)
			assert.LessOrEqual(t, max(edges[0], edges[1]), 2.0, "the instrument reaches both edges of the panel, %v %s",
				size, when)
		}
		fits("uncovered")
		for range 4 {
			b.keys(" ")
		}
		b.waitText(".equation", "45.20")
		assert.Equal(t, 2, eval[int](b, "document.querySelectorAll('.equation .line').length"),
			"broken where the card breaks it")
		b.waitText(".equation .line:nth-child(2)", "45.20") // with which it goes on
		fits("read")
		b.keys("l")
		b.wait("document.querySelector('.board.lensed .lens')")
		fits("lens")
		b.do(run("{ const s = document.querySelector('[name=instrument]'); s.value = [...s.options].find((o) => " +
			"o.text === 'Spindle micrometer, fine').value; s.dispatchEvent(new Event('change', {bubbles: true})) }"))
		b.waitText(".board h1", "Spindle micrometer")
		fits("a drum with its lens")
		b.keys("j")
		b.wait("document.querySelector('.qr')")
		fits("joining")
		b.keys("jla") // not joining, no lens, asked
		b.waitText(".count", "0 of")
		fits("asked")
	}
}

// Guests come in with the code and a handle where the class says so, see the question and nothing else; nobody answers
// for another class, or twice.
func TestWhoAnswersARound(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, ivo, wren, isolde := as(t, base, "maren"), as(t, base, "ivo"), as(t, base, "Wren A."),
		as(t, base, "Isolde M.")
	status, _, _ := ivo.get("/board/1")
	assert.Equal(t, http.StatusNotFound, status)
	status, _, _ = ivo.post("/board/1", "do=ask")
	assert.Equal(t, http.StatusNotFound, status)
	_, at, _ := wren.get("/board/1")
	assert.Equal(t, "/signin", at)
	maren.post("/board/1", "do=ask")

	guest := newVisitor(t, base)
	_, at, page := guest.post("/join", "code=MILL47&name=Gull&do=guest")
	assert.Equal(t, "/join", at)
	holds(t, page, en("account.coming.guest"))
	maren.post("/classes/1/settings", "guests=yes")
	_, at, page = guest.post("/join", "code=MILL47&name=Wren A.&do=guest")
	assert.Equal(t, "/join", at)
	holds(t, page, "has this name already")
	_, at, page = guest.post("/join", "code=mill 47&name=Gull&do=guest")
	assert.Equal(t, "/round", at)
	for _, path := range []string{"/my", "/my/1", "/practice", "/my/bench", "/my/way.csv"} {
		_, at, _ = guest.get(path)
		assert.Equal(t, "/round", at, path)
	}
	id := regexp.MustCompile(`name="round" value="(\d+)"`).FindStringSubmatch(page)[1]
	_, _, page = guest.post("/round", "round="+id+"&observed=abc")
	holds(t, page, `value="abc"`, "what was typed stays")
	guest.post("/round", "round="+id+"&observed=45.20")
	wren.post("/round", "round="+id+"&observed=45.25")
	wren.post("/round", "round="+id+"&observed=46.20")
	isolde.post("/round", "round="+id+"&observed=45.20") // of another class
	_, _, page = maren.get("/board/1")
	holds(t, page, "<b>2</b> of 21")
	assert.NotContains(t, page, "46.20", "nothing is told yet")
	maren.post("/board/1", "do=tell")
	_, _, page = maren.get("/board/1")
	holds(t, page, "1 wrote 45.20, right; 1 wrote 46.20, next mark.")
	wren.post("/round", "round="+id+"&observed=45.20")
	_, _, page = maren.get("/board/1")
	holds(t, page, "1 wrote 46.20", "it is closed")
	_, _, page = maren.get("/classes/1")
	assert.NotContains(t, page, "Gull")
	_, _, page = guest.get("/round")
	holds(t, page, "Right: the reading is 45.20 mm.")
}

// While a sheet runs the Watch says who is stuck and which slip is spreading, follows by itself, hides names for the
// projector, and makes a question to everybody of the slip with one press.
func TestTheWatch(t *testing.T) {
	t.Parallel()
	d := newDying(t)
	room := school.New(d.store)
	ctx := t.Context()
	students, err := school.New(d.store).Roster.Students(ctx, 1, 1)
	require.NoError(t, err)
	const sheet = 8 // a test that nobody has begun: what is typed is not told there
	const practice = 3
	made := 0
	for _, st := range students {
		for n := 1; n <= 10 && made < 4; n++ {
			c, now, err := room.Sitting.MyCard(ctx, st.ID, practice, n, time.Now())
			if err != nil || c.Done() {
				continue
			}
			require.NoError(t, room.Sitting.See(ctx, st.ID, 1, c, time.Now().Add(-time.Minute)))
			a, _, err := exercise.Student{Slips: []exercise.Code{slips.MainNextMark}, Often: 1}.Answer(c.Item,
				rand.New(rand.NewPCG(1, 1)))
			require.NoError(t, err)
			_, err = room.Sitting.Submit(ctx, st.ID, c, now, a, time.Now())
			require.NoError(t, err)
			made++
			break
		}
	}
	require.Equal(t, 4, made)
	var last sitting.Card
	var name string
	for _, st := range students[10:] { // and somebody who has been on a card for ten minutes
		for n := 1; n <= 10 && last.ID == 0; n++ {
			if c, _, err := room.Sitting.MyCard(ctx, st.ID, practice, n, time.Now()); err == nil && !c.Done() {
				require.NoError(t, room.Sitting.See(ctx, st.ID, 1, c, time.Now().Add(-10*time.Minute)))
				last, name = c, st.Name
			}
		}
	}
	require.NotZero(t, last.ID)

	b := openBrowser(t, "http://"+d.addr, 1280, 800)
	b.signIn("maren")
	b.open(fmt.Sprintf("/watch/%d", practice))
	b.waitText(".watch aside", "reading one mark too far")
	b.waitText(".watch aside", name)
	b.waitText(".watch .stuck .wait", fmt.Sprintf("card %d for 10 min", last.N))
	before := eval[int](b, "document.querySelectorAll('.watch .rule a:is(.done, .slip)').length")
	wren := as(t, "http://"+d.addr, "Wren A.")
	for n := 1; n <= 10; n++ {
		wren.post(fmt.Sprintf("/my/%d/%d", practice, n), "main=1&do=anyway")
	}
	b.wait(fmt.Sprintf("document.querySelectorAll('.watch .rule a:is(.done, .slip)').length > %d", before))
	b.click(".watch .headline .acts a")
	b.waitText(".watch .rules", "seat 1")
	assert.NotContains(t, eval[string](b, "document.body.textContent"), name)
	b.click(".watch aside [name=slip]")
	b.wait("location.pathname === '/board/1'")
	b.waitText(".count", "0 of 20")
	_, _, page := wren.get("/round")
	holds(t, page, en("student.round.show-round"))
	ivo := as(t, "http://"+d.addr, "ivo")
	status, _, _ := ivo.get(fmt.Sprintf("/watch/%d", sheet))
	assert.Equal(t, http.StatusNotFound, status)
	status, _, _ = ivo.post(fmt.Sprintf("/watch/%d/round", sheet), "slip=main-next-mark")
	assert.Equal(t, http.StatusNotFound, status)
}

// With the page keys of a clicker alone: asked, uncovered, read step by step, the next value; and by keys something is
// held, with the ratchet and without.
func TestTheBoardByKeysAlone(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/board/1")
	b.waitText(".equation", "main")
	for range 6 { // all that stands there, then another value
		b.keys(kb.PageDown)
	}
	b.wait("!document.querySelector('.count b') && !document.querySelector('.equation .term b')")
	b.keys(kb.PageUp) // nothing to take back: asks
	b.waitText(".count", "0 of 20")
	b.keys(kb.PageDown)
	b.waitText(".answers svg", "")
	b.wait("document.querySelector('.board').dataset.stage === 'told'")
	b.keys(kb.PageDown)
	b.wait("document.querySelectorAll('.equation .term b').length === 1")
	b.keys(kb.PageUp)
	b.wait("document.querySelectorAll('.equation .term b').length === 0")
	// to the next, which is asked by itself
	b.keys(kb.PageDown + kb.PageDown + kb.PageDown + kb.PageDown + kb.PageDown + kb.PageDown)
	b.waitText(".count", "0 of 20")
	b.wait("document.querySelector('.board').dataset.stage === 'open'")
	_, _, page := as(t, b.base, "maren").get("/board/1/rounds")
	assert.Equal(t, 3, strings.Count(page, "Float spindle caliper"))

	b.keys("v")
	b.keys("r")
	b.waitText(".answers", "Held by the ratchet")
	b.keys(kb.ArrowLeft)
	b.waitText(".answers", "keeps turning")
	b.keys("r" + kb.ArrowLeft)
	b.waitText(".answers", en("board.view.pressed-too-hard-number"))
	b.keys("r")
	b.wait("!document.querySelector('.answers').textContent.includes('ratchet')")
}
