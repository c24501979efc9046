package web_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cardOfEveryKind are cards of the demo's sheets as an instructor tries them, one a kind and two of what has several
// shapes.
var cardOfEveryKind = []string{"/sheets/2/try/1/1", "/sheets/5/try/1/1", "/sheets/5/try/1/3", "/sheets/5/try/1/6",
	"/sheets/5/try/1/9", "/sheets/7/try/1/1", "/sheets/7/try/1/9", "/sheets/7/try/1/11", "/sheets/7/try/1/13",
	"/sheets/7/try/1/15", "/sheets/7/try/1/16", "/sheets/7/try/1/19"}

// differences are cards of angles, of a bore and of runout, on another instructor's sheets.
var differences = []string{"/sheets/12/try/1/1", "/sheets/13/try/1/1", "/sheets/14/try/1/1"}

// place brings an element into the middle of the window and returns where it is.
func (b *browser) place(js string) (x, y float64) {
	b.t.Helper()
	at := eval[[]float64](
		b,
		fmt.Sprintf(`(() => { const e = %s; e.scrollIntoView({block: 'center', behavior: 'instant'});
		const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + Math.min(r.height / 2, 20)] })()`, js),
	)
	return at[0], at[1]
}

// tap puts a finger on an element and takes it off.
func (b *browser) tap(js string) {
	b.t.Helper()
	x, y := b.place(js)
	point := []*input.TouchPoint{{X: x, Y: y}}
	for _, p := range []input.DispatchTouchEventParams{{Type: input.DispatchTouchEventTypeTouchStart,
		TouchPoints: point}, {Type: input.DispatchTouchEventTypeTouchEnd}} {
		if _, err := chromedp.Call(b.ctx, input.DispatchTouchEvent, p); err != nil {
			b.fail(err)
		}
	}
	time.Sleep(400 * time.Millisecond) // no finger types or taps again sooner: two taps at one place are a double tap
}

func (b *browser) press(js string) {
	b.t.Helper()
	x, y := b.place(js)
	b.do(chromedp.MouseClickXY(x, y))
}

// boxesOf are the boxes of a card, in order: their names and how each is filled in.
const boxesOf = `[...new Set([...document
	.querySelectorAll('form.boxes [name]:not([type=hidden]):not(button), form.boxes .position [type=hidden]')]
	.map((e) => e.name + '|' + (e.type === 'hidden' ? 'position' : e.closest('.order') ? 'order' : e.type)))]`

// Every kind of card is filled in and checked by mouse, by finger and by keys alone, and what is wrong is what one sees
// then.
func TestEveryKindByEveryHand(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	for _, hand := range []string{"mouse", "finger", "keys"} {
		t.Run(hand, func(t *testing.T) {
			t.Parallel()
			size := map[string][2]int64{"mouse": {1280, 800}, "finger": {390, 844}, "keys": {1366, 657}}[hand]
			b := openBrowser(t, base, size[0], size[1])
			if hand == "finger" {
				on := emulation.SetTouchEmulationEnabledParams{Enabled: true}
				_, err := chromedp.Call(b.ctx, emulation.SetTouchEmulationEnabled, on)
				require.NoError(t, err)
			}
			at := map[string]func(string){"mouse": b.press, "finger": b.tap,
				"keys": func(js string) { b.do(run(js + ".focus()")) }}[hand]
			b.signIn("maren")
			for i, path := range slices.Concat(cardOfEveryKind, differences) {
				if i == len(cardOfEveryKind) {
					b.signOut()
					b.signIn("ivo")
				}
				b.open(path)
				b.wait("document.querySelector('.cardpage')._x_dataStack && document.querySelector('form.boxes')")
				if hand == "finger" && eval[bool](b,
					"!!document.querySelector('.box:not(.order, .choice) .in input:not([type=hidden])')") {
					b.seesWhatIsRefused(path)
					b.do(run("document.querySelector('[aria-invalid]').value = ''"))
				}
				for _, box := range eval[[]string](b, boxesOf) {
					b.fillBy(hand, at, box)
				}
				if hand == "keys" {
					b.do(run("document.querySelector('.acts .btn-primary').focus()"))
					b.keys(kb.Enter)
				} else {
					at("document.querySelector('.acts .btn-primary')")
				}
				b.wait(
					"document.querySelector('.say h2')?.textContent || document.querySelector('.fault, .acts .alert')",
				)
				assert.Empty(
					t,
					eval[string](b, "document.querySelector('.fault, .acts .alert')?.textContent || ''"),
					path,
				)
				assert.Zero(
					t,
					eval[int](b, "document.querySelectorAll('.box.missing').length"),
					"%s: every box was filled in",
					path,
				)
				b.seesTheCause(path)
			}
		})
	}
}

// fillBy fills one box in: anything will do.
func (b *browser) fillBy(hand string, at func(string), box string) {
	b.t.Helper()
	var name, kind string
	for i, r := range box {
		if r == '|' {
			name, kind = box[:i], box[i+1:]
		}
	}
	el := fmt.Sprintf("document.querySelector('form.boxes [name=%q]')", name)
	switch kind {
	case "position":
		if hand == "keys" {
			b.do(run("document.querySelector('.sight.moves').focus()"))
			b.keys(kb.ArrowRight)
		} else {
			at(`document.querySelector('.box.position [aria-label="one least count more"]')`)
		}
		b.wait(el + ".value")
	case "order":
		if hand == "keys" {
			b.do(run("document.querySelector('.order li').focus()"))
			b.keys(kb.ArrowDown)
		} else {
			at(`document.querySelector('.order [aria-label^="Later"]')`)
		}
		b.wait(el + ".value")
	case "radio":
		at(el)
		if hand == "keys" {
			b.keys(" ")
		}
		b.wait("document.querySelector('form.boxes [type=radio]:checked')")
	case "select-one":
		b.do(run(el + ".focus()")) // the list that opens is the system's
		b.keys(kb.ArrowDown)
		b.wait(el + ".value")
	default:
		at(el)
		b.wait("document.activeElement.name === '" + name + "'")
		b.keys("1")
		b.wait(el + ".value")
	}
}

// Expressions in pages cannot use what is global, though Alpine does not read all of it as it starts.
func TestExpressionsReachNothingGlobal(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.open("/signin")
	b.wait("window.Alpine?.version")
	b.do(run(`window.reached = (what) => {
		const e = document.createElement("div");
		Alpine.addScopeToNode(e, { it: what });
		try { return Alpine.evaluate(e, "it") !== undefined } catch { return false }
	}`))
	for _, global := range []string{"window", "document", "navigator", "localStorage", "fetch", "setTimeout", "JSON",
		"Math", "Reflect", "Intl", "Temporal", "WebAssembly", "HTMLElement", "Image", "webkitURL", "URLSearchParams",
		"Function", "CSS", "crypto"} {
		if eval[bool](b, fmt.Sprintf("typeof %s !== 'undefined'", global)) {
			assert.False(t, eval[bool](b, fmt.Sprintf("reached(%s)", global)), global)
		}
	}
	assert.True(t, eval[bool](b, `reached({ of: "a card" }) && reached([1]) && reached(() => 1)`))
}
