package web_test

import (
	"fmt"
	"testing"

	"cavix/core/length"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A spectrometer is built from nothing, a sheet is set on it, and a student answers it on a phone: the telescope's two
// positions in degrees and minutes, and the angle between them.
func TestASpectrometerFromNothing(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("ivo")
	b.open("/workshop?family=angle-circle")
	b.waitText("h1", "Workshop")
	b.fill(`[name=name]`, "Alidade circle")
	b.fill(`[name=want]`, "30″")
	b.click(`button[value=ways]`)
	b.waitText(".ways", "over")
	b.click(`.ways button`)
	b.waitText(".follows .big", "0° 00′ 30″")
	b.click(`button[value=keep]`)
	b.waitText(".keepbar", en("author.workshop.rack"))

	b.open("/sheets/new")
	b.do(run(`for (const i of document.querySelectorAll('[name=with]')) i.checked = ` +
		`i.parentElement.textContent.includes('Alidade')`))
	b.do(run(`document.querySelector('button[value="ready.prism"]').click()`))
	b.wait("document.querySelector('[name=title]').value") // the ready sheet has a title of its own
	b.waitText(".previews", "Alidade circle")
	b.fill(`[name=title]`, "Alidade")
	b.click(`button[value=keep]`)
	b.waitText(".keepbar", "Saved")
	b.open("/classes/2")
	b.do(run(`{ const s = document.querySelector('form[action$="/give"] select');
		s.value = [...s.options].find((o) => o.textContent.includes('Alidade')).value }`))
	b.click(`form[action$="/give"] button`)
	b.waitText(".alert", "The sheet is given")

	s := openBrowser(t, base, 390, 844)
	s.signIn("Isolde M.")
	s.waitText(".sheets", "Alidade")
	s.do(run(`[...document.querySelectorAll('.sheets h3 a')].find((a) => a.textContent.includes('Alidade')).click()`))
	s.waitText(".cardhead", "1 / 10")
	boxes := eval[[]string](s, `[...document.querySelectorAll('form.boxes input.form-control, form.boxes .in input')]
		.map((e) => e.name).filter((n) => n)`)
	assert.NotEmpty(t, boxes)
	for _, name := range boxes {
		says := "12 35"
		if name == "fine_line" {
			says = "7"
		}
		s.fill(fmt.Sprintf("[name=%q]", name), says)
	}
	s.do(run("document.querySelector('form.boxes').requestSubmit()"))
	s.waitText(".say", "°")
	assert.Contains(t, eval[string](s, "document.querySelector('.say').textContent"), "′")
}

// An indicator is set on a standard, its bezel turned to 0, and a part put under it: what it then shows is how far the
// part differs. What lies out of its travel is refused at its field.
func TestAnIndicatorIsSetOnAStandard(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Isolde M.")
	b.open("/my/bench")
	benchOf(b, "shaft indicator")
	b.fill("[name=standard]", "25.00")
	b.click("[value=standard]")
	b.click("[value=zero]")
	b.fill("[name=object]", "24.97")
	b.click("[name=do][value=object]")
	b.click("[value=all]")
	b.waitText(".numbers", "−0.03 mm")
	b.fill("[name=object]", "28")
	b.click("[name=do][value=object]")
	b.waitText(".held", en("bench.hold.out-of-travel"))
	b.waitText(".numbers", "−0.03 mm")
}

// Cross-wires stand on one edge of a wire and then on the other: the readings differ by its diameter.
func TestAMicroscopeIsFocusedOnTwoEdges(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	b.signIn("Isolde M.")
	b.open("/my/bench")
	benchOf(b, "sight-glass")
	b.fill("[name=object]", "2.40")
	b.click("[value=all]")
	const shown = `document.querySelector('.numbers').textContent.match(/observed reading\D*([\d.]+)/)?.[1]`
	b.wait(shown)
	read := func(edge, was string) string {
		b.click("[value=" + edge + "]")
		b.wait(fmt.Sprintf("%s !== %q", shown, was))
		return eval[string](b, shown)
	}
	first := read("edge1", eval[string](b, shown))
	second := read("edge2", first)
	from, err := length.Parse(first)
	require.NoError(t, err)
	to, err := length.Parse(second)
	require.NoError(t, err)
	assert.Equal(t, "2.4", to.Sub(from).String())
}

// A class is asked the difference between two positions on the Board: both stand there, the question is on everybody's
// screen, its answers are uncovered, and then its steps.
func TestADifferenceOnTheBoard(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 720)
	b.signIn("ivo")
	b.open("/board/2")
	b.wait("document.querySelector('#board')?._x_dataStack")
	choose := func(name, option string) {
		b.do(run(fmt.Sprintf(`{ const s = document.querySelector('[name=%s]');
			s.value = [...s.options].find((o) => o.text === %q).value;
			s.dispatchEvent(new Event('change', {bubbles: true})) }`, name, option)))
	}
	choose("instrument", "Shaft indicator")
	b.waitText(".board h1", "Shaft")
	choose("asked", en("board.view.difference"))
	b.waitText(".board .made", en("difference.task.deviation-clockwise"))
	b.click(".positions [value='1']")
	b.wait("document.querySelector('.positions .active')?.value === '1'")
	b.keys("a")
	b.waitText(".board .count", "0")
	s := openBrowser(t, base, 390, 844)
	s.signIn("Isolde M.")
	s.open("/round")
	s.wait("document.querySelectorAll('form.boxes .in input').length === 4")
	const boxes = "[...document.querySelectorAll('form.boxes .in input')].map((i) => i.name)"
	for _, name := range eval[[]string](s, boxes) {
		s.fill(fmt.Sprintf("[name=%q]", name), "0.31")
	}
	s.do(run("document.querySelector('form.boxes').requestSubmit()"))
	s.waitText(".cardhead", en("student.round.sent-you-can-change"))
	b.waitText(".board .count b", "1")
	b.keys(" ")
	b.waitText(".answers", "0.31")
	b.keys("    ")
	b.wait("document.querySelectorAll('.equation b').length >= 6")
}
