package web_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
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
