package web_test

import (
	"cmp"
	"errors"
	"fmt"
	"image"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/draw"

	"cavix/locale"
)

// views are the main views, as docs/screenshots shows them: who looks, where, and what is done first. Those
// with a plus are only for looking at, when CAVIX_VIEWS picks them.
var views = []struct {
	name, who, path string
	first           func(b *browser)
}{
	{"+sign-in", "", "/signin", nil},
	{"+join", "", "/join?code=MILL47", nil},
	{"desk", "maren", "/desk", nil},
	{"+rack", "maren", "/rack", nil},
	{"workshop", "maren", "/workshop/3", nil},
	{"+workshop-drum", "maren", "/workshop/15", nil},
	{"+workshop-face", "maren", "/workshop/14", nil},
	{"+workshop-two-scales", "maren", "/workshop/17", nil},
	{"+workshop-gear", "maren", "/workshop/18", nil},
	{"+bench", "maren", "/bench/13", nil},
	{"+bench-read", "maren", "/bench/1", func(b *browser) {
		b.fill("[name=object]", "47.3")
		b.click("button[value=object]")
		b.waitText(".held", "touch")
		b.click("button[value=all]")
		b.waitText(".readit", "47.30")
	}},
	{"+bench-inside", "maren", "/bench/3", func(b *browser) {
		b.do(
			run(
				"{ const s = document.querySelector('[name=hold]'); s.value = 'inside'; s.dispatchEvent(new " +
					"Event('input', {bubbles: true})) }",
			),
		)
		b.wait("document.querySelector('.wall')")
	}},
	{"+bench-depth", "maren", "/bench/2", func(b *browser) {
		b.do(
			run(
				"{ const s = document.querySelector('[name=hold]'); s.value = 'depth'; s.dispatchEvent(new " +
					"Event('input', {bubbles: true})) }",
			),
		)
		b.wait("document.querySelector('.wall')")
		b.fill("[name=object]", "31.4")
		b.click("button[value=object]")
		b.waitText(".held", "touch")
	}},
	{"+bench-gear", "maren", "/bench/18", func(b *browser) {
		b.fill("[name=upright]", "7.42")
		b.click("button[value='-1']")
		b.wait("document.querySelector('[name=upright]').value === '7.40'")
	}},
	{"+workshop-ways", "maren", "/workshop/3", func(b *browser) {
		b.fill("[name=want]", "0.03")
		b.click("button[value=ways]")
		b.waitText(".ways", "0.9 mm")
	}},
	{"+workshop-refused", "maren", "/workshop/1", func(b *browser) {
		b.fill(`[name="fine.spans"]`, "37")
		b.waitText(".keepbar", "cannot be built")
	}},
	{"+sheet", "maren", "/sheets/2", nil},
	{"+class", "maren", "/classes/1", nil},
	{"+people", "maren", "/classes/1/people", nil},
	{"+people-import", "maren", "/classes/1/people", func(b *browser) {
		b.do(run("document.querySelector('[name=list]').value = 'name;group;extra minutes\\nWren A.;Tide " +
			"crew;10\\nTobin F.;Tide crew;abc\\nHesper Q.;;\\nBram H.;;'"))
		b.click("form[action$=preview] button")
		b.waitText("h1", "Import a class list")
	}},
	{"+person", "maren", "/classes/1/people/3", nil},
	{"+joining-slips", "maren", "/classes/1/people/slips", nil},
	{"term", "maren", "/classes/1/ledger", nil},
	{"wrong", "maren", "/wrong/2", nil},
	{"+wrong-term", "maren", "/classes/1/wrong", nil},
	{"+ledger", "maren", "/ledger/2", nil},
	{"+ledger-card", "maren", "/ledger/2/3/1", nil},
	{"+paper", "maren", "/ledger/2/paper", func(b *browser) {
		b.click("form[action$=paper] button")
		b.waitText(".printed", "Printed")
	}},
	{"+course", "maren", "/course", nil},
	{"+surveys", "maren", "/surveys", nil},
	{"+gear-setup", "Wren A.", "/my/surveys/3", nil},
	{"+gear-tooth", "Wren A.", "/my/surveys/3", func(b *browser) {
		b.fill("[name=addendum]", "4.00")
		b.fill("[name=upright]", "4.00")
		b.click(".writedown button")
		b.waitText(".cardhead", "0 of 12")
	}},
	{"+trial", "Wren A.", "/my/surveys/4", func(b *browser) {
		b.click("[value=go]")
		b.waitText(".trialform", "after both")
	}},
	{"+gauges", "maren", "/gauges", nil},
	{"+keeping", "maren", "/keeping", func(b *browser) {
		b.click("form[action$=copy] button")
		b.waitText(".alert", "A copy was made")
		b.click("form[action$=check] button")
		b.waitText(".alert", "The database was checked")
	}},
	{"+keeping-people", "maren", "/keeping/people", func(b *browser) {
		b.fill("[name=name]", "Brin Latchford")
		b.fill("[name=login]", "brin")
		b.click("aside .btn-primary")
		b.waitText(".onelink", "Brin Latchford")
	}},
	{"+sheets", "maren", "/sheets", nil},
	{"+welcome", "maren", "/keeping/people", func(b *browser) {
		b.fill("[name=name]", "Tamsin Weir")
		b.fill("[name=login]", "tamsin")
		b.click("aside .btn-primary")
		b.waitText(".onelink", "Tamsin Weir")
		b.do(run("location.assign(document.querySelector('.onelink input').value)"))
		b.waitText("h1", "Welcome")
	}},
	{"+keeping-signins", "maren", "/keeping/signins", nil},
	{"+keeping-log", "maren", "/keeping/log", nil},
	{"+account", "maren", "/account", nil},
	{"+class-settings", "maren", "/classes/1/settings", nil},
	{"+bin", "maren", "/classes/1/people/9", func(b *browser) {
		b.do(run("document.querySelectorAll('aside details').forEach(d => d.open = true)"))
		b.click("[value=drop]")
		b.waitText(".alert", "in the bin")
		b.open("/sheets")
		b.do(run("document.querySelector('.takeaway').open = true"))
		b.click(".takeaway button")
		b.waitText(".alert", "in the bin")
		b.open("/rack")
		b.do(run("document.querySelectorAll('.rack li:nth-child(4) details').forEach(d => d.open = true)"))
		b.click(".rack li:nth-child(4) [action$=drop] button")
		b.waitText(".alert", "in the bin")
	}},
	{"+logbook", "maren", "/rack/2/book", nil},
	{"+comparator", "maren", "/comparators", func(b *browser) {
		for css, says := range map[string]string{"title": "Paddle bolts by the box", "nominal": "25.00",
			"lower": "24.98", "upper": "25.02"} {
			b.fill("[name="+css+"]", says)
		}
		b.click(".planform button")
		b.waitText("h1", "Paddle bolts by the box")
		b.fill("[name=lines]", "+0.01\n0.00\n-0.01\n+0.02\n-0.03\nERR 7\n+0.01\n+0.04\n0.00\n-0.01\n+0.01\n-0.02")
		b.click("[value=paste]")
		b.waitText(".compared", "12")
	}},
	{"+plan", "maren", "/surveys/new", nil},
	{"readers-study", "maren", "/surveys/2", nil},
	{"+survey-class", "maren", "/surveys/1", nil},
	{"+survey-student", "maren", "/surveys/1/students/1", nil},
	{"+mysurveys", "Wren A.", "/my/surveys", nil},
	{"survey", "Wren A.", "/my/surveys/1", nil},
	{"+bench-picture", "maren", "/bench/1", nil},
	{"+typing", "maren", "/ledger/2/paper", func(b *browser) {
		b.click("form[action$=paper] button")
		b.waitText(".printed", "Printed")
		b.click(".versions tr:nth-child(3) a")
		b.waitText("h1", "Version 3")
	}},
	{"my", "Wren A.", "/my", nil},
	{"+my-way", "Wren A.", "/my/way", nil},
	{"+my-laboratory", "Isolde M.", "/my", nil},
	{"+card", "Wren A.", "/my/3/7", func(b *browser) {
		b.fill(`[name=main]`, "8")
	}},
	{"+card-drum", "Elspeth O.", "/my/4/5", nil},
	{"+card-drum-after", "Elspeth O.", "/my/4/1", nil},
	{"+card-dial-after", "Elspeth O.", "/my/4/2", nil},
	{"+card-finer-after", "Elspeth O.", "/my/4/3", nil},
	{"card-after", "Tobin F.", "/my/2/1", nil},
	{"phone", "maren", "/sheets/2/try/1/1", func(b *browser) { // the size of a phone until the next picture
		b.do(chromedp.EmulateViewport(390, 844), run(`{ const f = document.querySelector('form.boxes');
			for (const i of f.querySelectorAll('.box input')) i.value = '1'; f.requestSubmit() }`))
		b.wait("document.querySelector('.cause h2') && document.readyState === 'complete'")
		b.do(chromedp.Sleep(300 * time.Millisecond))
	}},
	{"+card-hints", "Wren A.", "/my/3/8", func(b *browser) {
		b.click("button[value=hint]")
		b.waitText(".hints", "mark")
		b.click("button[value=hint]")
		b.waitText(".hints li:nth-child(2)", "mark")
	}},
	{"+remark", "maren", "/ledger/2/remark", func(b *browser) {
		b.do(run("document.querySelector('[name=\"method.decimals\"]').value = 'lenient'"))
		b.click("button[value=preview]")
		b.waitText("h2", "marks change")
	}},
	{"+card-set", "Wren A.", "/my/5/4", nil},
	{"+card-set-after", "Elspeth O.", "/my/5/4", nil},
	{"+card-vernier-set-after", "Elspeth O.", "/my/5/3", nil},
	{"+card-choose-after", "Elspeth O.", "/my/5/7", func(b *browser) {
		b.click(".option:nth-child(2)")
		b.click(".acts .btn-primary")
		b.waitText(".acts", "Next")
	}},
	{"+card-repeat-after", "Elspeth O.", "/my/5/9", func(b *browser) {
		for i, field := range []string{"r.1.1", "r.1.2"} {
			b.fill(`table [name="`+field+`"]`, fmt.Sprint(83+i))
		}
		b.click(".acts .btn-primary")
		b.click("[value=anyway]")
		b.waitText(".acts", "Next")
	}},
	{"+card-decide", "Wren A.", "/my/6/6", nil},
	{"+card-decide-after", "Elspeth O.", "/my/6/4", nil},
	{"+card-verdict", "Elspeth O.", "/my/6/7", nil},
	{"+card-convert", "Elspeth O.", "/my/6/9", nil},
	{"+card-gauge", "Wren A.", "/my/6/11", nil},
	{"+card-gauge-after", "Elspeth O.", "/my/6/12", func(b *browser) {
		b.fill("[name=go]", "10.00")
		b.click(".acts .btn-primary")
		b.wait("document.querySelector('[value=anyway], .say h2')")
		b.click("[value=anyway]")
		b.waitText(".acts", "Next")
	}},
	{"+card-pick", "Wren A.", "/my/6/13", nil},
	{"+card-pick-after", "Elspeth O.", "/my/6/14", func(b *browser) {
		b.click(".option:nth-child(1)")
		b.click(".acts .btn-primary")
		b.waitText(".acts", "Next")
	}},
	{"+card-gear", "Wren A.", "/my/6/15", nil},
	{"+card-gear-after", "Elspeth O.", "/my/6/15", func(b *browser) {
		b.fill("[name=addendum]", "3.00")
		b.click(`.box.position [aria-label="ten least counts more"]`)
		b.wait("document.querySelector('form.boxes [name=upright]').value === '100'")
		b.click(".acts .btn-primary")
		b.wait("document.querySelector('[value=anyway], .say h2')")
		b.click("[value=anyway]")
		b.waitText(".acts", "Next")
	}},
	{"+card-care", "Wren A.", "/my/6/16", nil},
	{"+card-care-2", "Wren A.", "/my/6/20", nil},
	{"+card-care-after", "Elspeth O.", "/my/6/17", func(b *browser) {
		b.click(".order li:nth-child(2) .btn:nth-of-type(1)")
		b.click(".acts .btn-primary")
		b.wait("document.querySelector('.say h2, .fault')")
	}},
	{"+sheet-decide", "maren", "/sheets/7", nil},
	{"+card-count-after", "Tobin F.", "/my/5/1", nil},
	{"+ledger-kinds", "maren", "/ledger/5", nil},
	{"+card-set-face", "Wren A.", "/my/5/5", nil},
	{"+card-choose", "Wren A.", "/my/5/7", nil},
	{"+card-repeat", "Wren A.", "/my/5/9", nil},
	{"+card-count", "Wren A.", "/my/5/1", nil},
	{"sheet-blocks", "maren", "/sheets/5",
		func(b *browser) { b.do(run("document.querySelector('#block-4').open = true")) }},
	{"+bank", "maren", "/bank/care", nil},
	{"+bank-item", "maren", "/bank/care/new", nil},
	{"+sheet-new", "maren", "/sheets/new", nil},
	{"+sheet-ready", "maren", "/sheets/new", func(b *browser) {
		b.do(run("document.querySelector('[value=\"ready.mixed\"]').click()"))
		b.waitText(".told .mono", "10 cards")
		b.wait("document.querySelectorAll('.blockline').length > 2")
	}},
	{"+sheet-test", "maren", "/sheets/8", func(b *browser) {
		b.do(
			run(
				"document.querySelector('#taken').open = true; document.querySelector('#task').open = true; " +
					"document.querySelector('#taken').scrollIntoView()",
			),
		)
	}},
	{"+ledger-test", "maren", "/ledger/7", nil},
	{"+test-begin", "Wren A.", "/my/8", nil},
	{"test-card", "Wren A.", "/my/8", func(b *browser) {
		b.do(run("document.querySelector('form[action$=begin]').submit()"))
		b.waitText(".cardhead", "1 / 7")
		b.waitText(".timer", "until")
	}},
	{"practice", "Wren A.", "/practice", nil},
	{"+practice-card", "Tobin F.", "/practice/next", nil},
	{"+practice-after", "Tobin F.", "/practice/2", nil},
	{"+test-handed", "Wren A.", "/my/7/2", nil},
	{"+class-give", "maren", "/classes/1", func(b *browser) {
		b.do(
			run(
				"fetch('/sheets/new', {method: 'POST', body: new URLSearchParams({title: 'Weir boards', " +
					"'blocks[0].kind': 'care', 'blocks[0].cards': '2', do: 'keep'})}).then(() => location.reload())",
			),
		)
		b.wait("document.querySelector('form[action$=\"/give\"]')")
		b.do(run("for (const d of document.querySelectorAll('details')) d.open = true"))
	}},
	{"+card-laboratory", "Isolde M.", "/my/9/1", nil},
	{"card-circle", "Isolde M.", "/my/11/1", nil},
	{"+card-turned", "Isolde M.", "/my/11/4", nil},
	{"+card-microscope", "Isolde M.", "/my/12/4", nil},
	{"card-runout", "Isolde M.", "/my/13/4", nil},
	{"+workshop-circle", "ivo", "/workshop?family=angle-circle", nil},
	{"+workshop-protractor", "ivo", "/workshop?family=protractor", nil},
	{"+workshop-indicator", "ivo", "/workshop?family=dial-indicator", nil},
	{"+workshop-lever", "ivo", "/workshop?family=balanced-indicator", nil},
	{"+workshop-spherometer", "ivo", "/workshop?family=spherometer", nil},
	{"+workshop-height", "ivo", "/workshop?family=height-gauge", nil},
	{"board", "maren", "/board/1", func(b *browser) {
		b.do(run("document.documentElement.dataset.bsTheme = 'dark'"))
		b.wait("document.querySelector('.answers .plot')")
		b.keys("   ") // mark, line, sum
		b.wait(`/45[.,]20/.test(document.querySelector(".equation")?.textContent)`)
		b.do(run("document.querySelectorAll('.stacks .btn')[2].click()"))
		b.wait("document.querySelector('.says')?.textContent.trim()")
	}},
	{"+board-open", "maren", "/board/1", nil},
	{"+board-drum", "maren", "/board/1", func(b *browser) {
		b.do(run("{ const s = document.querySelector('[name=instrument]'); s.value = [...s.options].find((o) => " +
			"o.text === 'Arbor micrometer').value; s.dispatchEvent(new Event('change', {bubbles: true})) }"))
		b.waitText(".board h1", "Arbor")
		b.keys("l  ")
		b.waitText(".equation b", ".")
		b.wait("document.querySelector('.scope.upright')")
	}},
	{"+round", "Wren A.", "/round", nil},
	{"watch", "maren", "/watch/3", func(b *browser) {
		wren, tobin, elspeth := as(b.t, b.base, "Wren A."), as(b.t, b.base, "Tobin F."), as(b.t, b.base, "Elspeth O.")
		for n := 1; n <= 10; n++ { // three go on, two of them with the same slip
			for _, v := range []*visitor{wren, tobin, elspeth} {
				card := fmt.Sprintf("/my/3/%d", n)
				if _, _, page := v.get(card); strings.Contains(page, `name="main"`) {
					v.post(card, "main=0&do=anyway")
				}
			}
		}
		b.do(run("location.reload()"))
		b.wait("document.querySelector('.watch')")
	}},
	{"+watch-foot", "maren", "/watch/3", func(b *browser) { b.do(run("scrollTo(0, 9999)")) }},
	{"+board-finer", "maren", "/board/1", func(b *browser) {
		b.do(run("{ const s = document.querySelector('[name=instrument]'); s.value = [...s.options].find((o) => " +
			"o.text === 'Spindle micrometer, fine').value; s.dispatchEvent(new Event('change', {bubbles: true})) }"))
		b.waitText(".board h1", "fine")
		b.keys("l   ")
	}},
	{"+rounds", "maren", "/board/1/rounds", nil},
	{"+board-more", "maren", "/board/1", func(b *browser) {
		b.do(run("document.querySelector('.board .more').open = true"))
	}},
	{"+board-join", "maren", "/board/1", func(b *browser) {
		b.keys("j")
		b.wait("document.querySelector('.qr')")
	}},
	{"+student-bench", "Wren A.", "/my/bench", func(b *browser) {
		b.do(run("document.querySelector('.rack .hang').click()"))
		b.waitText("#benchform, form.bench", "Read it step by step")
		b.click("button[value=all]")
		b.waitText(".readit", "mm")
	}},
	{"+student-benches", "Wren A.", "/my/bench", nil},
	{"+card-laboratory-todo", "Isolde M.", "/my/10/6", nil},
	{"+class-words", "ivo", "/classes/2/settings", func(b *browser) {
		b.do(run("document.querySelector('.wordsform details').open = true; " +
			"document.querySelector('.wordsform').scrollIntoView()"))
	}},
	{"+practice-new", "Isolde M.", "/practice", nil},
	{"+test-look", "Wren A.", "/my/8", nil},
	{"+test-wait", "Wren A.", "/my/7", nil},
	{"+slips", "maren", "/slips", nil},
	{"+marks", "Tobin F.", "/my/2", nil},
	{"+handbook-list", "", "/handbook", nil},
	{"handbook", "", "/handbook/vernier", func(b *browser) {
		b.do(run("document.querySelector('#live1 [value=\"10\"]').click()"))
		b.waitText("#live1 .readit", "line 1")
	}},
	{"+handbook-slips", "Wren A.", "/handbook/slips", nil},
	{"+handbook-cards", "Wren A.", "/handbook/cards", nil},
	{"+bench-circle", "Isolde M.", "/my/bench", func(b *browser) { benchOf(b, "gate") }},
	{"+bench-microscope", "Isolde M.", "/my/bench", func(b *browser) { benchOf(b, "glass") }},
	{"+bench-lever", "Isolde M.", "/my/bench", func(b *browser) { benchOf(b, "shaft") }},
	{"+bench-dial", "Wren A.", "/my/bench", func(b *browser) {
		b.do(run("[...document.querySelectorAll('.rack h2 a')].find((a) => a.textContent.includes('dial')).click()"))
		b.waitText("form.bench", "turned to 0")
		b.click("button[value=close]")
		b.do(run("document.querySelector('[value=all]').click()"))
		b.waitText(".readit", "mm")
	}},
	{"+class-all", "maren", "/classes/1", func(b *browser) {
		b.do(run("for (const d of document.querySelectorAll('details')) d.open = false; scrollTo(0, 700)"))
	}},
	{"+handbook-zero", "Isolde M.", "/handbook/zero#below-zero", nil},
	{"+handbook-micrometer", "Wren A.", "/handbook/micrometer", nil},
	{"+handbook-words", "Isolde M.", "/handbook/words", nil},
	{"+handbook-schools", "Wren A.", "/handbook/schools", nil},
}

// printedPage draws the second page of a sheet on paper, by the reader of PDF that Debian's poppler-utils has.
func printedPage(t *testing.T, base, dir string) {
	t.Helper()
	reader, err := exec.LookPath("pdftoppm")
	if err != nil {
		t.Log("no picture of a page on paper: pdftoppm is not installed")
		return
	}
	maren := as(t, base, "maren")
	maren.post("/ledger/2/paper", "per=all")
	pdf := filepath.Join(t.TempDir(), "paper.pdf")
	require.NoError(t, os.WriteFile(pdf, maren.file("/ledger/2/paper/1"), 0o600))
	require.NoError(t, exec.Command(reader, "-r", "96", "-f", "2", "-l", "2", "-singlefile", "-png", pdf,
		filepath.Join(dir, "paper-page")).Run())
}

// posts sends a form of the page that is open, and waits for the answer.
func (b *browser) posts(path, form string) {
	b.t.Helper()
	b.do(run(fmt.Sprintf("document.title = 'sending'; fetch(%q, {method: 'POST', body: new "+
		"URLSearchParams(%s)}).then(() => { document.title = 'sent' })", path, form)))
	b.wait("document.title === 'sent'")
}

// benchOf puts the instrument on the Bench whose name has a word in it.
func benchOf(b *browser, word string) {
	b.do(run("[...document.querySelectorAll('.rack h2 a')].find((a) => a.textContent.toLowerCase().includes('" + word +
		"')).click()"))
	b.waitText("#benchform, form.bench", "step by step")
}

// TestScreenshots draws docs/screenshots anew, when CAVIX_SCREENSHOTS names the folder. CAVIX_VIEWS picks
// views by a regular expression, CAVIX_SIZE their size, as 390x844, CAVIX_THEME the theme and CAVIX_LANGUAGE the
// language.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("CAVIX_SCREENSHOTS")
	if dir == "" {
		t.Skip("draws only when CAVIX_SCREENSHOTS names a folder")
	}
	var width, height int64
	_, err := fmt.Sscanf(cmp.Or(os.Getenv("CAVIX_SIZE"), "1280x800"), "%dx%d", &width, &height)
	require.NoError(t, err)
	which, err := regexp.Compile(os.Getenv("CAVIX_VIEWS"))
	require.NoError(t, err)
	base := demoSite(t)
	b := openBrowser(t, base, width, height)
	if which.MatchString("paper-page") {
		printedPage(t, base, dir)
	}
	who := ""
	for _, v := range views {
		name, extra := strings.CutPrefix(v.name, "+")
		if !which.MatchString(name) || extra && os.Getenv("CAVIX_VIEWS") == "" {
			continue
		}
		if v.who != who {
			b.signOut()
			if who = v.who; who != "" {
				b.signIn(who)
			}
		}
		if os.Getenv("CAVIX_THEME") == "dark" && !eval[bool](b, "document.documentElement.dataset.bsTheme === 'dark'") {
			b.posts("/theme", "{back: '/help', theme: 'dark'}")
		}
		if language := os.Getenv("CAVIX_LANGUAGE"); language != "" && who != "" {
			b.posts("/account", fmt.Sprintf("{do: 'language', language: %q}", language))
		}
		b.do(chromedp.EmulateViewport(width, height))
		b.open(v.path)
		if v.first != nil {
			v.first(b)
		}
		b.shoot(filepath.Join(dir, name+".png"))
	}
	if which.MatchString("languages") {
		languagesSide(b, filepath.Join(dir, "languages.png"))
	}
}

// languagesSide draws the Desk and a card after checking in each language beside each other, at the size of a laptop
// and of a phone, at half their size.
func languagesSide(b *browser, file string) {
	const wide, high, gap = 640, 400, 8
	out := image.NewRGBA(image.Rect(0, 0, 4*wide+3*gap, 2*high+2*gap+422))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	for row, page := range []struct{ who, path string }{{"maren", "/desk"}, {"Tobin F.", "/my/2/1"}} {
		b.signOut()
		b.signIn(page.who)
		for column, language := range locale.Languages {
			b.posts("/account", fmt.Sprintf("{do: 'language', language: %q}", language))
			x := column * (wide + gap)
			for _, size := range []image.Rectangle{
				image.Rect(x, row*(high+gap), x+wide, row*(high+gap)+high),
				image.Rect(x+row*(195+gap), 2*(high+gap), x+row*(195+gap)+195, 2*(high+gap)+422)} {
				b.do(chromedp.EmulateViewport(int64(2*size.Dx()), int64(2*size.Dy())))
				b.open(page.path)
				shot := filepath.Join(b.t.TempDir(), "shot.png")
				b.shoot(shot)
				f, err := os.Open(shot)
				require.NoError(b.t, err)
				img, err := png.Decode(f)
				require.NoError(b.t, errors.Join(err, f.Close()))
				draw.CatmullRom.Scale(out, size, img, img.Bounds(), draw.Src, nil)
			}
		}
	}
	f, err := os.Create(file)
	require.NoError(b.t, err)
	require.NoError(b.t, errors.Join(png.Encode(f, out), f.Close()))
}
