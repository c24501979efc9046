package web_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The whole path in a browser: an instructor at the mouse, a student at the keyboard alone.
func TestTheWholeWayInABrowser(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("una")

	// Workshop: what is typed is redrawn; what is impossible is explained while the figure stays.
	b.click(`nav a[href="/workshop"]`)
	b.waitText("h1", "Workshop")
	b.fill(`[name=name]`, "Quay caliper")
	b.fill(`[name="fine.spans"]`, "37")
	b.waitText(`[id="err-fine.spans"]`, "is not a vernier")
	assert.Equal(t, 21, eval[int](b, "document.querySelectorAll('.sight .fine-mark').length"),
		"the last good figure stays")
	assert.Equal(t, "37", eval[string](b, `document.querySelector('[name="fine.spans"]').value`))
	b.click(`button[value=short]`)
	b.waitText(".follows", "20 vernier plate divisions cover 19 main divisions")
	b.fill(`[name=at]`, "31.4")
	b.waitText(".follows", "line 8 × 0.05")
	b.click(`button[name=move][value="1"]`)
	b.waitText(".follows", "line 9 × 0.05")
	assert.Equal(t, "31.45", eval[string](b, `document.querySelector('[name=at]').value`))
	b.do(
		run(
			`{ const s = document.querySelector('input.pos'); s.value = 200; s.dispatchEvent(new Event('input',
				{bubbles: true})) }`,
		),
	)
	b.waitText(".follows", "10.00")
	b.fill(`[name=want]`, "0.02")
	b.click(`button[value=ways]`)
	b.waitText(".ways", "50 lines over 49 main divisions")
	b.click(`.ways button`)
	b.waitText(".follows .big", "0.02 mm")
	b.fill(`[name="zero_error"]`, "-0.06")
	b.waitText(".follows", "−(50 − 47) × 0.02 = −0.06 mm")
	b.click(`button[value=keep]`)
	b.waitText(".keepbar", en("author.workshop.rack"))

	// Compose a sheet, with a preview of real cards, and give it.
	b.open("/sheets/new")
	b.do(
		run(
			`for (const i of document.querySelectorAll('[name="blocks[0].instruments"]')) i.checked = ` +
				`i.parentElement.textContent.includes('Quay')`,
		),
	)
	b.fill(`[name=title]`, "Quay readings")
	b.fill(`[name="blocks[0].cards"]`, "2")
	b.waitText(".previews", "1 · Read it, step by step · Quay caliper")
	first := eval[string](b, "document.querySelector('.cards dl').textContent")
	b.click(`button[value=others]`)
	b.wait(fmt.Sprintf("document.querySelector('.cards dl').textContent !== %q", first))
	b.click(`button[value=keep]`)
	b.waitText(".keepbar", "Saved")
	b.open("/desk")
	b.fill(`form[action="/classes"] [name=name]`, "Quay class")
	b.keys("\r")
	b.waitText("h1", "Quay class")
	code := eval[string](b, "document.querySelector('.bigcode').textContent")
	assert.LessOrEqual(
		t,
		eval[float64](b, `document.querySelector('form[action$="/give"] button').getBoundingClientRect().right`),
		1252.0,
	)
	assert.Greater(t, eval[float64](b, `document.querySelector('form[action$="/give"] select').offsetWidth`), 150.0)
	b.click(`form[action$="/give"] button`)
	b.waitText(".alert", "The sheet is given")
	ledger := eval[string](b, `document.querySelector('a[href^="/ledger/"]').pathname`)

	// A student joins and works a card with the keyboard alone.
	s := openBrowser(t, base, 1280, 800)
	s.open("/join?code=" + code)
	s.waitText("h1", "Students")
	s.keys("Fen R." + kb.Tab + "long passphrase" + kb.Enter)
	s.waitText("h1", "Your sheets")
	s.tabTo("Begin")
	s.keys(kb.Enter)
	s.waitText(".cardhead", "1 / 2")
	s.wait("document.activeElement.name === 'main'")
	x := `Number(document.querySelector('.lensbar input').value)`
	before := eval[float64](s, x)
	s.do(run("document.querySelector('.lensbar input').focus()"))
	s.keys(kb.ArrowRight + kb.ArrowRight)
	assert.Greater(t, eval[float64](s, x), before, "arrow keys move the lens")
	card := eval[string](s, "location.pathname")
	s.do(run("document.querySelector('[name=main]').focus()"))
	s.keys("12" + kb.Tab + "3")
	s.waitText(".kept", "saved")
	s.open(card) // closed and opened again
	s.wait(
		"document.querySelector('[name=main]')?.value === '12' && document.querySelector('[name=fine_line]').value " +
			"=== '3'",
	)
	s.wait("document.activeElement.name === 'observed'")
	s.keys("abc")
	s.do(run("document.querySelector('form.boxes').requestSubmit()"))
	s.waitText(".fault", "contains no number")
	s.wait("document.activeElement.name === 'observed'")
	answers := s.right()
	s.fill("[name=main]", answers["main"])
	s.keys(kb.Tab + answers["line"] + "9" + kb.Tab) // a wrong line, and what follows from it
	s.fill("[name=observed]", answers["observed"])
	s.fill("[name=zero_error]", "−0,06")
	s.wait(fmt.Sprintf("[...document.querySelectorAll('output.echo')].some((e) => e.textContent === %q)",
		answers["observed"]))
	s.fill("[name=corrected]", answers["corrected"])
	s.keys(kb.Enter)
	s.waitText(".say", "You wrote "+answers["line"]+"9.")
	assert.Equal(t, "right", s.outcome("main"))
	assert.Equal(t, "wrong", s.outcome("fine_line"))
	assert.Contains(t, eval[string](s, "document.querySelector('.sight').textContent"), "line "+answers["line"])
	s.wait("document.activeElement.matches('.cause h2')")
	s.keys(kb.Tab + kb.Enter)
	s.waitText(".cardhead", "2 / 2")

	// The instructor sees the answer in the ledger, as it was given.
	b.open(ledger)
	b.waitText(".ledger", "Fen R.")
	b.click(".ledger td a")
	b.waitText(".say", "You wrote "+answers["line"]+"9.")
	assert.Equal(t, "−0,06", eval[string](b, "document.querySelector('[name=zero_error]').value"))
}

// right reads the figure in sight by geometry, as the eye does it, and fills in the card's equations.
func (b *browser) right() map[string]string {
	b.t.Helper()
	return eval[map[string]string](b, `(() => {
		const svg = document.querySelector('.view:not([hidden]) .fig');
		const x = (e) => { const m = e.getCTM(); return e.x1.baseVal.value * m.a + m.e; };
		const main = [...svg.querySelectorAll('.main-mark')].map(x),
		fine = [...svg.querySelectorAll('.fine-mark')].map(x);
		const off = (f) => Math.min(...main.map((m) => Math.abs(m - f)));
		let line = 0;
		for (let k = 1; k < fine.length - 1; k++) if (off(fine[k]) < off(fine[line])) line = k;
		const label = [...svg.querySelectorAll('text')].filter((t) => t.y.baseVal[0].value < 150)
		.map((t) => [Number(t.textContent), t.x.baseVal[0].value * t.getCTM().a + t.getCTM().e])[0];
		const mark = label[0] + Math.floor((fine[0] + 1e-3 - label[1]) / (main[1] - main[0]));
		const observed = mark + line / 50;
		return { main: String(mark), line: String(line), observed: observed.toFixed(2),
		corrected: (observed + 0.06).toFixed(2) };
	})()`)
}

// outcome is the class of a checked box.
func (b *browser) outcome(step string) string {
	return eval[string](b, fmt.Sprintf("document.querySelector('[name=%s]').closest('.box').classList[1]", step))
}

// tabTo presses Tab until what has the focus holds the text.
func (b *browser) tabTo(says string) {
	b.t.Helper()
	for range 30 {
		b.keys(kb.Tab)
		if strings.Contains(eval[string](b, "document.activeElement.textContent"), says) {
			return
		}
	}
	require.Fail(b.t, "Tab never comes to "+says)
}

// After the back button, and in a second tab that is behind, a card that was checked stays as it was checked.
func TestBackAndASecondTab(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("Wren A.")
	const card = "/my/3/9"
	b.open(card)
	b.fill("[name=main]", "12")
	b.waitText(".kept", "saved")
	other := as(t, base, "Wren A.") // the second tab
	_, _, says := other.get(card)
	holds(t, says, `name="main" value="12"`, "what the first tab keeps shows in the second")
	b.open("/my")
	b.do(run("history.back()"))
	b.wait(fmt.Sprintf("location.pathname === %q && document.querySelector('[name=main]')?.value === '12'", card))
	_, _, says = other.post(card, "main=13&do=anyway")
	holds(t, says, "of 6")
	b.fill("[name=main]", "14")
	b.do(run("document.querySelector('form.boxes').requestSubmit()"))
	b.waitText(".alert", en("student.card.card"))
	assert.Equal(t, "13", eval[string](b, "document.querySelector('[name=main]').value"))
	b.do(run("history.back()"))
	b.open(card)
	assert.True(t, eval[bool](b, "document.querySelector('[name=main]').readOnly"), "nothing more can be typed")
}
