package web_test

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/school"
	"cavix/school/roster"
	"cavix/store"
	"cavix/store/storetest"
	"cavix/web"
	"cavix/web/account"
)

// nothingKept holds where the browser keeps nothing that was typed.
const nothingKept = "!Object.keys(localStorage).some((key) => key.startsWith('cavix:'))"

// A sheet is composed from a ready one, given, taken by keyboard alone, handed in and released.
func TestFromComposerToRelease(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/sheets/new")
	b.click("#ready summary")
	b.click(`[value="ready.bench"]`)
	b.wait("document.querySelectorAll('.blockline').length === 3")
	assert.Equal(t, "Before the bench", eval[string](b, "document.querySelector('[name=title]').value"))

	// Blocks are moved by keys, copied and taken out; the one in hand stays in hand.
	titles := `[...document.querySelectorAll('.block b')].map((e) => e.textContent)`
	was := eval[[]string](b, titles)
	require.Len(t, was, 3)
	b.do(run("document.querySelector('#down-1').focus()"))
	b.keys(kb.Enter)
	b.wait(fmt.Sprintf("%s[1] === %q && document.activeElement.id === 'down-2'", titles, was[0]))
	b.do(
		run(
			"document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowUp', altKey: true, " +
				"bubbles: true}))",
		),
	)
	b.wait(fmt.Sprintf("%s[0] === %q", titles, was[0]))
	b.click(`[aria-label="Copy block 3"]`)
	b.wait(titles + ".length === 4")
	b.click(`[aria-label="Remove block 4"]`)
	b.wait(titles + ".length === 3")

	// A change of what is asked is in sight at once, and better values are dealt on demand.
	b.do(run("document.querySelector('#block-2').open = true"))
	b.do(run(`document.querySelector('[name="blocks[1].settings[ask]"][value=main]').click()`))
	b.waitText("#block-2 .what", "4 marks each")
	b.do(run(`document.querySelector('[name="blocks[1].settings[ask]"][value=main]').click()`))
	b.waitText("#block-2 .what", "5 marks each")
	b.click(".better")
	b.wait("document.querySelector('[name=effort]').value === '1'")
	b.click(".better")
	b.waitText("#tells", en("author.sheet.dealt-as-well-as"))

	b.do(run("document.querySelector('#taken').open = true; document.querySelector('[name=mode][value=test]').click()"))
	b.wait("document.querySelector('[name=release]')")
	b.do(
		run(
			"document.querySelector('[name=release]').value = 'hand'; " +
				"document.querySelector('[name=release]').dispatchEvent(new Event('input', {bubbles: true}))",
		),
	)
	b.waitText(".told", en("author.composerview.told-when-release"))
	b.do(run("document.querySelector('#task').open = true"))
	b.fill("[name=task]", "Mind the **sign** <script>alert(1)</script>")
	b.wait("document.querySelector('#task .prose strong')")
	assert.Zero(t, eval[int](b, "document.querySelectorAll('.prose script').length"))
	b.click("[value=keep]")
	b.waitText(".keepbar", "Saved")

	b.open("/classes/1")
	b.click(`form[action$="/give"] button`)
	b.waitText(".alert", "The sheet is given")
	ledger := eval[string](b, `document.querySelector('.given a[href^="/ledger/"]').pathname`)
	sheet := strings.Replace(ledger, "/ledger/", "/my/", 1)

	s := openBrowser(t, base, 1280, 800)
	s.signIn("Wren A.")
	s.open(sheet + "/1")
	s.waitText(
		".facts",
		en("student.nothing-told-before-your"),
	) // a test is not begun by an address
	s.wait("document.activeElement.textContent === 'Begin'")
	s.keys(kb.Enter)
	s.waitText(".cardhead", "1 / 10")
	s.wait("document.activeElement.name")
	s.keys("1")
	s.waitText(".kept", "saved")
	s.turn(kb.PageDown)
	s.waitText(".cardhead", "2 / 10")
	s.turn(kb.PageUp)
	s.waitText(".cardhead", "1 / 10")
	s.wait("document.querySelector('.boxes input').value === '1'")
	s.do(run("document.querySelector('.boxes input').focus()"))
	s.keys("x")
	s.do(run("document.querySelector('form.boxes').requestSubmit()"))
	s.waitText(".fault", en("number.not-one-number"))
	s.fill(".boxes input", "1")
	s.do(run("document.querySelector('.boxes .btn-primary').focus()"))
	s.keys(kb.Enter)
	s.waitText(".acts .alert", "Empty") // it is asked about; then it may stay so
	for n := 1; n <= 10; n++ {
		s.waitText(".cardhead", fmt.Sprintf("%d / 10", n))
		s.do(run("document.querySelector('.boxes .btn-primary').focus()"))
		s.keys(kb.Enter)
	}
	s.waitText(".written", "1")
	assert.Zero(t, eval[int](s, "document.querySelectorAll('.right, .wrong, .done, .slip').length"), "nothing is told")
	s.tabTo(en("student.mysheet.hand-it-in-as"))
	s.keys(kb.Enter)
	s.waitText(".alert", "when your instructor releases")
	s.open(sheet + "/1")
	s.waitText(".alert", "what you handed in")
	assert.Zero(t, eval[int](s, "document.querySelectorAll('.box.right, .box.wrong, .say').length"))

	b.open(ledger)
	b.waitText(".givenhow", "1 student is waiting")
	b.click(`form[action$="/release"] button`)
	b.waitText(".alert", "released")
	s.open(sheet + "/1")
	s.waitText(".pts", " of ")
	s.open(sheet)
	s.waitText(".total", "10 of 10 cards done")
}

// Before a test is released nothing that the server sends depends on what is right: the right answer and a wrong one of
// the same length get replies of the same status and size, with the same markup.
func TestATestTellsNothing(t *testing.T) {
	long(t)
	t.Parallel()
	d := newDying(t)
	base, room := "http://"+d.addr, school.New(d.store)
	maren, err := school.New(d.store).Roster.InstructorByLogin(t.Context(), "maren")
	require.NoError(t, err)
	people, err := school.New(d.store).Roster.Students(t.Context(), maren.ID, 1)
	require.NoError(t, err)
	wren := people[slices.IndexFunc(people, func(s roster.Student) bool { return s.Name == "Wren A." })]
	v := as(t, base, "Wren A.")
	v.post("/my/8/begin", "")
	typed := regexp.MustCompile(
		`data-now="\d+"|value="[^"]*"| (checked|selected)|<output[^>]*>[^<]*|<b class="mono">[^<]*`,
	)
	for n := 1; n <= 7; n++ {
		c, _, err := room.Sitting.MyCard(t.Context(), wren.ID, 8, n, time.Now())
		require.NoError(t, err)
		empty, err := c.Item.Mark(nil)
		require.NoError(t, err)
		right, wrong := url.Values{}, url.Values{}
		for _, f := range c.Item.Fields() {
			x := empty.Field(f.Name).Expected
			right.Set(f.Name, x)
			wrong.Set(f.Name, strings.Map(func(r rune) rune {
				if r >= '0' && r <= '9' {
					return '0' + (r-'0'+1)%10
				}
				return r
			}, x))
			if len(f.Options) > 0 {
				other := slices.IndexFunc(f.Options, func(o string) bool { return o != x && len(o) == len(x) })
				require.GreaterOrEqual(t, other, 0)
				wrong.Set(f.Name, f.Options[other])
			}
		}
		replies := func(a url.Values) []string {
			path := fmt.Sprintf("/my/8/%d", n)
			s1, at1, kept := v.post(path+"/draft", a.Encode())
			s2, at2, _ := v.post(path, a.Encode())
			_, _, card := v.get(path)
			_, _, sheet := v.get("/my/8")
			return []string{fmt.Sprint(s1, at1, kept, s2, at2, len(card), len(sheet)), typed.ReplaceAllString(card, ""),
				typed.ReplaceAllString(sheet, "")}
		}
		a, b := replies(wrong), replies(right)
		assert.Equal(t, a[0], b[0], "card %d: status and size", n)
		assert.True(t, a[1] == b[1] && a[2] == b[2], "card %d: the markup of card and sheet", n)
	}
	svg := regexp.MustCompile(`(?s)<svg xmlns.*?</svg>`)
	_, _, mine := v.get("/my/8/1")
	tobin := as(t, base, "Tobin F.")
	tobin.post("/my/8/begin", "")
	_, _, other := tobin.get("/my/8/1")
	assert.NotEqual(t, svg.FindString(mine), svg.FindString(other), "another figure at the next seat")
}

// dying is a server that can be killed and started again at the same address, over the same file.
type dying struct {
	t     *testing.T
	file  string
	addr  string
	srv   *http.Server
	store *store.DB
	cut   atomic.Bool  // the line to the Board
	vain  atomic.Int64 // requests that were sent while it is cut
}

func newDying(t *testing.T) *dying {
	t.Helper()
	data, err := demoData()
	require.NoError(t, err)
	d := &dying{t: t, file: filepath.Join(t.TempDir(), "demo.db"), addr: "127.0.0.1:0"}
	require.NoError(t, os.WriteFile(d.file, data, 0o600))
	d.start()
	t.Cleanup(d.kill)
	return d
}

func (d *dying) start() {
	d.t.Helper()
	var err error
	d.store, err = store.Open(d.t.Context(), d.file)
	require.NoError(d.t, err)
	cfg := web.Config{School: school.New(d.store), Log: slog.New(slog.DiscardHandler)}
	for _, p := range demo.SignIns() {
		cfg.Demo = append(cfg.Demo, account.SignIn(p))
	}
	h, err := web.New(cfg)
	require.NoError(d.t, err)
	l, err := net.Listen("tcp", d.addr)
	require.NoError(d.t, err)
	d.addr, d.srv = l.Addr().String(), &http.Server{Handler: d.line(h)}
	go func(s *http.Server) { _ = s.Serve(l) }(d.srv)
}

// line is what leads to the server: while it is cut, the Board gets nothing through, and what was open breaks.
func (d *dying) line(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasPrefix(r.URL.Path, "/board") {
			h.ServeHTTP(w, r)
			return
		}
		if d.cut.Load() {
			d.vain.Add(1)
			panic(http.ErrAbortHandler)
		}
		ctx, cut := context.WithCancel(r.Context())
		defer cut()
		go func() {
			for ctx.Err() == nil && !d.cut.Load() {
				time.Sleep(20 * time.Millisecond)
			}
			cut()
		}()
		h.ServeHTTP(w, r.WithContext(ctx))
	})
}

func (d *dying) kill() {
	_ = d.srv.Close()
	_ = d.store.Close()
}

// What is typed while the server is gone stays in the browser, is said to be there, and is sent when the server is
// back; neither a second tab nor a closed browser loses anything.
func TestATestWithoutAConnection(t *testing.T) {
	t.Parallel()
	d := newDying(t)
	b := openBrowser(t, "http://"+d.addr, 1280, 800)
	b.signIn("Wren A.")
	b.open("/my/8")
	b.click("form[action$=begin] button")
	b.waitText(".cardhead", "1 / 7")
	b.wait("document.activeElement.name === 'main' || document.activeElement.type === 'radio'")
	box := eval[string](b, "[...document.querySelectorAll('.box input')].map((i) => i.name)[0]")
	value := fmt.Sprintf("document.querySelector('[name=%q]').value", box)
	b.fill(fmt.Sprintf("[name=%q]", box), "41")
	b.waitText(".kept", "saved")

	d.kill()
	b.fill(fmt.Sprintf("[name=%q]", box), "42")
	b.waitText(".kept", "kept in this browser")
	b.keys(kb.Enter) // nothing is left for the error page of a browser
	b.still()
	assert.Equal(t, "/my/8/1", eval[string](b, "location.pathname"))
	assert.Equal(t, "42", eval[string](b, value))
	b.turn(kb.PageDown)
	b.still()
	assert.Equal(t, "/my/8/1", eval[string](b, "location.pathname"))
	d.start()
	b.wait("document.querySelector('.kept').textContent === 'saved'") // by itself, within seconds
	b.wait(nothingKept)

	// Another browser of the same student has it; what is typed in each lands in the same card.
	other := openBrowser(t, "http://"+d.addr, 390, 844)
	other.signIn("Wren A.")
	other.open("/my/8/1")
	other.wait(value + " === '42'")
	boxes := eval[[]string](b, "[...document.querySelectorAll('.box input:not([type=hidden])')].map((i) => i.name)")
	last := boxes[len(boxes)-1]
	other.fill(fmt.Sprintf("[name=%q]", last), "7")
	other.waitText(".kept", "saved")
	b.fill(fmt.Sprintf("[name=%q]", box), "43")
	b.wait("document.querySelector('.kept').textContent === 'saved' && " + nothingKept)
	other.open("/my/8/1")
	other.wait(fmt.Sprintf("%s === '43' && document.querySelector('[name=%q]').value === '7'", value, last))

	// Typed with no server, and the page loaded anew when there is one again: the browser still has it.
	d.kill()
	b.fill(fmt.Sprintf("[name=%q]", box), "44")
	b.waitText(".kept", "kept in this browser")
	d.start()
	b.open("/my/8/1")
	b.wait(value + " === '44'")
	b.wait(nothingKept)
	other.open("/my/8")
	other.waitText(".written", "44")
}

// Somebody who joins while the server is gone is told so; what was typed stays, and joins when the server is back.
func TestJoiningWithoutAConnection(t *testing.T) {
	t.Parallel()
	d := newDying(t)
	b := openBrowser(t, "http://"+d.addr, 390, 844)
	b.open("/join?code=MILL47")
	b.wait("document.querySelector('#join')?._x_dataStack")
	b.fill("[name=name]", "Quill B.")
	b.fill("[name=passphrase]", "bench words")
	d.kill()
	b.click("#join .btn-primary")
	b.waitText("#join [role=status]", en("script.offline"))
	d.start()
	b.click("#join .btn-primary")
	b.wait("location.pathname === '/my'")
}

// A student practises by keys alone: a first card, its reason, checked, the next; what was made shows on the page, and
// a card is never counted in a ledger.
func TestPracticeByKeys(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Isolde M.")
	b.open("/practice")
	b.waitText(".hint", "Practice never counts")
	b.wait("document.activeElement.textContent === 'Begin'")
	b.keys(kb.Enter)
	b.wait("document.querySelector('#why')?.textContent.trim()")
	for n := 1; n <= 3; n++ {
		b.waitText(".cardhead small", fmt.Sprint(n))
		b.wait("document.activeElement.matches('.box input')")
		// Enter goes on, and from the last it sends
		for range eval[int](b, "document.querySelectorAll('.box .in input').length") {
			b.keys("1" + kb.Enter)
		}
		b.waitText(".acts", "Next card")
		b.wait("document.activeElement.matches('.cause h2')")
		b.keys(kb.Tab + kb.Enter)
	}
	b.waitText("#why", "asks for less")
	b.open("/practice")
	b.waitText(".hint", "3 cards so far")
	b.click(".chip")
	b.click(`form[action="/practice/families"] button`)
	b.waitText("form .hint", "Untick all")
	status, _, _ := as(t, b.base, "Wren A.").get("/practice/999")
	assert.Equal(t, http.StatusNotFound, status)
}

// The days of a sheet are meant by the clock of the class, and what cannot be is said at its field.
func TestTimesOnPages(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, says := maren.post("/classes/1/settings", "zone=Atlantis%2FNowhere")
	holds(t, says, "is not a time zone")
	_, _, says = maren.post("/classes/1/settings", "zone=Asia%2FKolkata")
	holds(t, says, "The settings are saved")
	_, _, says = maren.post("/ledger/8/times", url.Values{"opens": {"soon"}, "closes": {""}}.Encode())
	holds(t, says, "must be a day and a time")
	holds(t, says, `value="soon"`, "what was typed stays")
	_, _, says = maren.post("/ledger/8/times", "opens=2026-11-30T09:00&closes=2026-11-30T08:00")
	holds(t, says, en("class.times.later-than-opening"))
	_, _, says = maren.post("/ledger/8/times", "opens=2099-11-30T09:00&closes=2099-12-01T09:00")
	holds(t, says, "Mon 30 Nov 2099, 09:00 to Tue 1 Dec 2099, 09:00")
	wren := as(t, base, "Wren A.")
	_, _, says = wren.get("/my/8")
	holds(t, says, "opens Mon 30 Nov, 09:00")
	assert.NotContains(t, says, "Begin<")
	_, at, _ := wren.post("/my/8/begin", "")
	assert.Equal(t, "/my/8", at, "not before it opens")
	_, at, _ = wren.get("/my/8/1")
	assert.Equal(t, "/my/8", at)
	_, _, says = maren.post("/classes/1/people/1", "do=keep&name=Wren+A.&extra=900")
	holds(t, says, "must be from 0 to 240")
	_, _, says = maren.post("/classes/1/people/1", "do=keep&name=Wren+A.&extra=15")
	holds(t, says, en("class.person.person-notes"))
	status, _, _ := as(t, base, "ivo").post("/classes/1/people/1", "do=keep&name=Wren+A.&extra=15")
	assert.Equal(t, http.StatusNotFound, status)
	status, _, _ = as(t, base, "ivo").post("/ledger/7/release", "")
	assert.Equal(t, http.StatusNotFound, status)
}

// What is closed while a test is taken is said on its first page, and is closed then: the pages of its instruments in
// the handbook, the Bench and practice. Who looks without a test reads on.
func TestAidsAreClosedDuringATest(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	for _, q := range []string{
		"UPDATE assignments SET definition = json_set(definition, '$.mode', 'test', '$.minutes', 30), opens = NULL, " +
			"closes = NULL WHERE id = 8",
		"DELETE FROM sittings WHERE assignment = 8 AND student = 1",
		"DELETE FROM cards WHERE assignment = 8 AND student = 1",
	} {
		storetest.Exec(t, s, q)
	}
	wren, maren := as(t, base, "Wren A."), as(t, base, "maren")
	_, _, page := wren.get("/my/8")
	holds(t, page, "closed for its instruments until you hand it in")
	closed := func(want int) {
		t.Helper()
		for _, path := range []string{"/handbook/vernier", "/handbook/vernier/check/7/1", "/handbook/vernier/1"} {
			status := 0
			if path == "/handbook/vernier/1" {
				status, _, _ = wren.post(path, "")
			} else {
				status, _, page = wren.get(path)
			}
			assert.Equal(t, want, status, path)
		}
	}
	closed(http.StatusOK)
	wren.post("/my/8/begin", "")
	closed(http.StatusForbidden)
	holds(t, page, en("ui.fail.closed-during-your-test"))
	_, _, page = wren.get("/my/bench")
	holds(t, page, "not here until you hand it in")
	status, _, _ := wren.get("/handbook/zero")
	assert.Equal(t, http.StatusOK, status, "what is of no instrument is open")
	status, _, _ = maren.get("/handbook/vernier")
	assert.Equal(t, http.StatusOK, status)
	wren.post("/my/8/hand", "")
	closed(http.StatusOK)
}

// A ready sheet takes the place of the block with which a new sheet begins, also where its title is typed already; a
// block that was changed stays.
func TestAReadySheetTakesThePlaceOfWhatWasBegun(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	for field, blocks := range map[string]int{"[name=title]": 3, "[name='blocks[0].cards']": 4} {
		b.open("/sheets/new")
		b.fill(field, "7")
		b.wait("document.querySelector('main form')._x_dataStack[0].flight === null")
		b.click("#ready summary")
		b.click(`[value="ready.bench"]`)
		b.wait(fmt.Sprintf("document.querySelectorAll('.blockline').length === %d", blocks))
	}
}

// What is typed while an answer is on its way stays, also where the next field is in hand when that answer comes.
func TestWhatIsTypedWhileAnAnswerComesStays(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/workshop/3")
	b.wait("document.querySelector('main form')?._x_dataStack")
	b.do(run(`{ const form = document.querySelector("main form"), name = form.querySelector("[name=name]");
		const type = (says) => { name.value = says; name.dispatchEvent(new Event("input", { bubbles: true })); };
		window.came = 0;
		document.addEventListener("answered", () => { came++; });
		const ask = window.fetch;
		window.fetch = (...what) => {
			window.fetch = ask;
			setTimeout(() => {
				type("Weir caliper");
				form.querySelector("[type=text], [inputmode]").focus();
				name.blur();
			});
			return ask(...what);
		};
		type("Weir calipe") }`))
	b.wait("came > 0")
	for range 5 {
		assert.Equal(t, "Weir caliper", eval[string](b, "document.querySelector('[name=name]').value"))
		time.Sleep(100 * time.Millisecond)
	}
	assert.Equal(t, "Weir caliper", eval[string](b, "document.querySelector('[name=name]').getAttribute('value')"),
		"the server has it")
}

// What is as it was in an answer stays on the page, with what was searched for in it; what is not is drawn anew.
func TestWhatAnAnswerDoesNotChangeStays(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("maren")
	b.open("/workshop/3")
	b.wait("document.querySelector('main form')?._x_dataStack && document.querySelector('.sift')")
	answered := func(field, value string) {
		b.do(run(fmt.Sprintf(`{ window.came = 0; const box = document.querySelector(%q);
			document.addEventListener("answered", () => { came++; }, { once: true });
			box.value = %q; box.dispatchEvent(new Event("input", { bubbles: true })); }`, field, value)))
		b.wait("came > 0")
	}
	b.do(run(`{ const box = document.querySelector(".sift");
		box.value = "caliper"; box.dispatchEvent(new Event("input", { bubbles: true }));
		for (const svg of document.querySelectorAll("svg.fig")) svg.firstElementChild.seen = true; }`))
	const kept = `[...document.querySelectorAll("svg.fig")].map((svg) => !!svg.firstElementChild.seen).join()`
	const found = `[...document.querySelector(".sift + select").options].filter((o) => !o.hidden).length`
	entries := eval[int](b, found)
	answered("[name=name]", "Weir caliper")
	assert.Equal(t, "true,true", eval[string](b, kept))
	assert.Equal(t, "Weir caliper", eval[string](b, "document.querySelector('[name=name]').getAttribute('value')"))
	assert.Equal(t, entries, eval[int](b, found))
	assert.Equal(t, "caliper", eval[string](b, "document.querySelector('.sift').value"))
	answered("[data-press=slide]", "40")
	assert.Equal(t, "false,true", eval[string](b, kept), "open and closed")
	answered("[name=zero_error]", "0.04")
	assert.Equal(t, "false,false", eval[string](b, kept))

	b.open("/sheets/2") // a part that is not where it was is drawn again
	b.wait("document.querySelector('main form')?._x_dataStack")
	const cards = `[...document.querySelectorAll("article")].map((e) => e.querySelector(".foot b").textContent).join()`
	was := eval[string](b, cards)
	require.Contains(t, was, ",")
	b.do(run(`{ const [one, two] = document.querySelectorAll("article");
		[one.dataset.part, two.dataset.part] = [two.dataset.part, one.dataset.part]; }`))
	answered("[name=title]", "Sluice pins again")
	assert.Equal(t, was, eval[string](b, cards))
	assert.Zero(t, eval[int](b, `document.querySelectorAll("[data-part]:empty").length`))
}

// A button that no page has is refused, as other forms that cannot be read are.
func TestAnUnknownReadySheetIsRefused(t *testing.T) {
	t.Parallel()
	maren := as(t, demoSite(t), "maren")
	status, _, _ := maren.post("/sheets/new", "do=ready.nothing")
	assert.Equal(t, http.StatusBadRequest, status)
}
