package web_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// everyPage are all pages of the demo, by who sees them; "" is a stranger.
var everyPage = map[string][]string{
	"": {"/", "/signin", "/join", "/handbook", "/nowhere"},
	"maren": {"/desk", "/rack", "/workshop/3", "/sheets/2", "/classes/1", "/classes/1/settings", "/rack/2/earlier",
		"/rack/2/send", "/sheets/2/earlier", "/ledger/2", "/ledger/2/3/1", "/workshop/15", "/workshop/18", "/bench/13",
		"/bench/17", "/bench/18", "/bench/1", "/rack/import",
		"/slips", "/handbook/getting-started", "/ledger/2/remark", "/ledger/1/paper", "/ledger/1/paper/type?version=1",
		"/ledger/7", "/sheets/7", "/sheets/8", "/bank/care",
		"/bank/care/new", "/board", "/board/1", "/watch/3", "/sheets/2/try/1/1", "/sheets/4/try/1/2", "/bench/14",
		"/sheets/new", "/classes/1/people", "/classes/1/ledger", "/wrong/2", "/classes/1/wrong",
		"/classes/1/people/1", "/sheets", "/course", "/surveys", "/surveys/new", "/surveys/1", "/surveys/2",
		"/surveys/1/students/1",
		"/rack/2/book", "/gauges", "/comparators", "/keeping", "/keeping/people", "/keeping/signins", "/keeping/log",
		"/bin", "/account"},
	"Wren A.": {"/my", "/my/2", "/my/3/7", "/my/2/1", "/help", "/handbook?q=zero", "/my/7", "/my/8", "/my/7/1",
		"/my/6/16", "/my/6/11", "/practice", "/practice/next", "/practice/1", "/round", "/my/bench", "/my/bench/first",
		"/my/way", "/my/surveys", "/my/surveys/1",
		"/my/surveys/3", "/my/surveys/4", "/handbook", "/handbook/vernier", "/handbook/vernier/check/7/1",
		"/handbook/micrometer", "/handbook/zero", "/handbook/decide", "/handbook/display",
		"/handbook/words", "/handbook/slips", "/account"},
}

// axe looks at the page that is open, and lists what it finds: a rule and the places that break it.
func (b *browser) axe(source, only string) []string {
	b.t.Helper()
	b.wait("document.readyState === 'complete' && document.fonts.status === 'loaded'")
	// A drawing is one picture with a name: what is in it is not looked at line by line.
	b.do(run(source), run(`document.querySelectorAll("svg[role=img]").forEach((drawing) => drawing.replaceChildren())`))
	b.do(run(fmt.Sprintf(`window.axed = null;
		axe.run(document, { resultTypes: ["violations"], preload: false,
			rules: { "target-size": { enabled: true } }%s }).then((r) => {
			window.axed = r.violations.flatMap((v) => v.nodes.slice(0,
			3).map((n) => v.id + ": " + n.target.join(" ") + " " + n.html.slice(0, 160)
				+ " " + (n.any[0]?.message || n.all[0]?.message || n.none[0]?.message || "").slice(0, 200)));
		}); undefined`, only)))
	b.wait("window.axed !== null")
	return eval[[]string](b, "window.axed")
}

// Every page, wide and on a phone: axe-core finds nothing, neither in the light nor in the dark; the page's policy
// holds, no script is refused and nothing fails in the console; on a phone nothing is wider than the screen, and what
// is pressed is large enough for a finger; at twice the size nothing is wider than a screen either.
func TestEveryPage(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(t, err)
	base := demoSite(t)
	for who, paths := range everyPage {
		for part := range slices.Chunk(paths, 20) {
			t.Run(who+part[0], func(t *testing.T) {
				t.Parallel()
				b := openBrowser(t, base, 1280, 844)
				complaints := b.complaints()
				b.open("/handbook")
				b.do(run("document.cookie = 'cavix_theme=light; path=/'"))
				if who != "" {
					b.signIn(who)
				}
				for _, path := range part {
					b.do(chromedp.EmulateViewport(1280, 844))
					if path == "/my/bench/first" { // its key is worked out
						b.open("/my/bench")
						b.do(run("document.querySelector('.rack .hang').click()"))
						b.waitText("form.bench", en("bench.bench.read-it-step-by"))
					} else {
						b.open(path)
					}
					b.wait("document.readyState === 'complete' && document.fonts.status === 'loaded'")
					b.fitsEnlarged(path)
					b.fitsAPhone(path)
					b.fitsSpaced(path)
					b.do(chromedp.EmulateViewport(1280, 844))
					assert.Empty(t, b.axe(string(source), ""), path)
					b.do(chromedp.EmulateViewport(390, 844), run("scrollTo(0, document.body.scrollHeight)"))
					assert.Empty(t, b.axe("", laidOut), "%s on a phone", path)
					b.do(chromedp.EmulateViewport(1280, 844))
					b.do(run(inTheDark))
					assert.Empty(t, b.axe("", `, runOnly: ["color-contrast"]`), "%s in the dark", path)
				}
				assert.Empty(t, complaints())
			})
		}
	}
}

// laidOut has axe look at what depends on how wide a page is laid out; the rest it has looked at on the wide one.
const laidOut = `, runOnly: ["target-size", "scrollable-region-focusable", "link-in-text-block", "bypass",
	"landmark-one-main", "region"]`

// inTheDark turns the page that is open dark, with what changes slowly at its end.
const inTheDark = "document.documentElement.dataset.bsTheme = 'dark'; document.body.offsetTop; " +
	"document.getAnimations().forEach((a) => a.finish())"

// fitsAPhone checks that nothing is wider than a phone, and that what is pressed is large enough for a finger.
func (b *browser) fitsAPhone(path string) {
	b.t.Helper()
	b.do(chromedp.EmulateViewport(390, 844))
	assert.LessOrEqual(b.t, eval[int](b, "document.documentElement.scrollWidth"), 390, path)
	small := eval[[]string](b, `[...document.querySelectorAll('.btn, button:not(.visually-hidden), select, '
		+ 'input:not(.visually-hidden):not([type=hidden]):not([type=checkbox]):not([type=radio])'
		+ ':not([type=range]):not([type=file])')]
		.filter((e) => e.offsetParent && e.getBoundingClientRect().height < 43.5).map((e) => e.outerHTML.slice(0, 80))`)
	assert.Empty(b.t, small, path)
}

// fitsEnlarged checks that nothing is wider than a screen of 1280 on which all is shown at twice or four times its
// size.
func (b *browser) fitsEnlarged(path string) {
	b.t.Helper()
	b.do(chromedp.EmulateViewport(640, 400))
	assert.LessOrEqual(b.t, eval[int](b, "document.documentElement.scrollWidth"), 640, "%s at 200 %%", path)
	b.do(chromedp.EmulateViewport(320, 256))
	assert.LessOrEqual(b.t, eval[int](b, "document.documentElement.scrollWidth"), 320, "%s at 400 %%", path)
}

// fitsSpaced checks that nothing is cut off and nothing wider than a phone where a reader sets letters, words and lines
// as far apart as WCAG 1.4.12 has it.
func (b *browser) fitsSpaced(path string) {
	b.t.Helper()
	b.do(run(`spaced = new CSSStyleSheet();
		spaced.replaceSync("* { line-height: 1.5 !important; letter-spacing: .12em !important }"
			+ " * { word-spacing: .16em !important }"
			+ " p { margin-bottom: 2em !important }");
		document.adoptedStyleSheets = [spaced]`))
	assert.LessOrEqual(b.t, eval[int](b, "document.documentElement.scrollWidth"), 390, "%s spaced", path)
	cut := eval[[]string](b, `[...document.querySelectorAll("main *, header *")].filter((e) => e.offsetParent
		&& [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim())
		&& !e.closest("svg, .visually-hidden, select") && !e.querySelector("svg, #views") && (() => {
			const s = getComputedStyle(e), hides = (o) => o === "hidden" || o === "clip";
			return hides(s.overflowX) && e.scrollWidth > e.clientWidth + 1
				|| hides(s.overflowY) && e.scrollHeight > e.clientHeight + 1;
		})()).map((e) => e.outerHTML.slice(0, 120))`)
	assert.Empty(b.t, cut, "%s spaced", path)
	b.do(run("document.adoptedStyleSheets = []"))
}

// Nothing moves by itself, for whoever wants no motion and for everybody else.
func TestNothingMovesByItself(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Wren A.")
	for _, path := range []string{"/my", "/my/3/7", "/my/2/1", "/practice", "/my/bench"} {
		b.open(path)
		assert.Zero(t, eval[int](b, `[...document.querySelectorAll("*")].filter((e) => {
			const s = getComputedStyle(e);
			return s.transitionDuration.split(", ").some((d) => parseFloat(d) > 0)
				|| parseFloat(s.animationDuration) > 0;
		}).length`), path)
	}
}

// complaints gathers what fails in the console from now on.
func (b *browser) complaints() func() []string {
	var mu sync.Mutex
	var list []string
	require.NoError(b.t, chromedp.Listen(b.ctx, func(ev any) {
		mu.Lock()
		defer mu.Unlock()
		switch e := ev.(type) {
		case *log.EventEntryAdded:
			if !strings.Contains(e.Entry.URL, "/nowhere") {
				list = append(list, e.Entry.Text+" "+e.Entry.URL)
			}
		case *runtime.EventExceptionThrown:
			list = append(list, e.ExceptionDetails.Text)
		}
	}))
	return func() []string {
		b.do(chromedp.EmulateViewport(1280, 800)) // what was on its way has come
		mu.Lock()
		defer mu.Unlock()
		return list
	}
}
