package web_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A gauge's data line fills a table while it is looked at: begun by keyboard, sent by a device with the token alone, by
// the made-up one, and pasted; what cannot be read is kept apart, what is sent twice counts once.
func TestAGaugesDataLineFillsATable(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/comparators")
	b.fill("[name=title]", "Bolts by the box")
	b.fill("[name=nominal]", "25.00")
	b.fill("[name=lower]", "24.98")
	b.fill("[name=upper]", "25.02")
	b.keys(kb.Enter)
	b.waitText("h1", "Bolts by the box")
	sends := eval[string](b, "document.querySelector('input[readonly]').value")
	device := &http.Client{} // no cookie, no session
	send := func(says string) (int, string) {
		r, err := device.Post(sends, "text/plain", strings.NewReader(says))
		status, _, body := newVisitor(t, base).read(r, err)
		return status, body
	}
	status, said := send("1 +0.01 mm\n2 -0.03 mm\nERR 4\n2 -0.03 mm\n")
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "2 read, 1 again, 1 apart\n", said)
	b.waitText(".compared", "24.97")
	b.waitText(".compared", "scrap")
	b.waitText("#watch", "Not included")
	b.fill("[name=lines]", "+0.05\n-0.01 mm")
	b.click("[value=paste]")
	b.waitText(".compared", "rework")
	b.click("[value=play]")
	b.waitText("#watch", en("survey.comparator.a-made-up-device"))
	b.wait("document.querySelectorAll('.compared tbody tr').length > 6")
	b.click("[value=stop]")
	b.wait("!document.querySelector('#watch').textContent.includes('made-up device is sending')")

	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	for _, path := range []string{"/comparators/1", "/comparators/1/table", "/comparators/1/events"} {
		status, _, _ := ivo.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	rows, err := tableOf(string(maren.file("/comparators/1/table")))
	require.NoError(t, err)
	assert.Equal(t, []string{"1", "0.01", "25.01", "accept"}, rows[1][:4])
	assert.Equal(t, []string{"2", "-0.03", "24.97", "scrap"}, rows[2][:4])
	good := sends
	sends = regexp.MustCompile(`/gauge/.*`).ReplaceAllString(good, "/gauge/NOBODYS")
	status, said = send("1 +0.01 mm\n")
	assert.Equal(t, http.StatusNotFound, status)
	assert.Contains(t, said, "no comparison with this token")
	sends = good
	status, _ = send(strings.Repeat("+0.01\n", 4000))
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	status, said = send(strings.Repeat("+0.01\n", 2001))
	assert.Equal(t, http.StatusConflict, status)
	assert.Contains(t, said, "full")
	r, err := device.Get(sends)
	status, _, _ = newVisitor(t, base).read(r, err)
	assert.Equal(t, http.StatusMethodNotAllowed, status, "nothing can be read by the token")

	_, _, page := maren.post("/comparators", "title=x&nominal=none&unit=ell&places=99")
	holds(t, page, `value="none"`, "what was typed stays")
	_, _, page = maren.post("/comparators/1/drop", "")
	holds(t, page, "Bolts by the box")
	status, _ = send("+0.01")
	assert.Equal(t, http.StatusNotFound, status, "what lies in the bin takes nothing")
}
