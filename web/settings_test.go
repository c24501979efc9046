package web_test

import (
	"net/http"
	"net/url"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// The settings of a class are one form with one Save: what is wrong is marked at its field, everything typed stays,
// nothing is saved; then everything is saved together.
func TestOneFormOfSettings(t *testing.T) {
	if testing.Short() {
		t.Skip("fills a form in a browser")
	}
	t.Parallel()
	base := demoSite(t)
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/classes/1")
	b.click(`a[href="/classes/1/settings"]`)
	b.waitText("h1", "Settings")
	assert.Equal(t, 1, eval[int](b, "document.querySelectorAll('main form button').length"), "one Save")
	b.fill("[name=name]", "Mill parts, Thursday")
	b.do(chromedp.SetValue(chromedp.CSS("[name='method.zero_term']"), "correction"))
	b.click("[name=base][value=laboratory]")
	b.click("[name=joining][value=asked]")
	b.click("[name=guests][value=yes]")
	b.fill("[name=zone]", "Atlantis/Nowhere")
	b.click(".savebar button")
	b.waitText("[role=alert]", "The settings were not saved")
	b.waitText(".settingspage .fault:not([role=alert])", "not a time zone")
	assert.Equal(t, []string{"Mill parts, Thursday", "correction", "laboratory", "asked", "yes", "Atlantis/Nowhere"},
		eval[[]string](b,
			`["name", "method.zero_term", "base", "joining", "guests",
				"zone"].map((n) => document.querySelector("main form").elements[n].value)`))
	b.open("/classes/1")
	b.waitText("h1", "Mill parts, Monday")
	b.open("/classes/1/settings")
	b.fill("[name=name]", "Mill parts, Thursday")
	b.click("[name=joining][value=asked]")
	b.fill("[name=zone]", "Asia/Kolkata")
	b.click(".savebar button")
	b.waitText("[role=status]", "The settings are saved")
	b.open("/classes/1")
	b.waitText("h1", "Mill parts, Thursday")
	b.waitText("#settled", "Asia/Kolkata")
	b.waitText("#settled", en("class.settings.anyone-who-code-once-b"))
}

// A new class takes everything from an old one by the form of the Desk, but only from a class of one's own.
func TestANewClassLikeAnOldOne(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	start := time.Now().AddDate(0, 0, 300)
	status, _, page := maren.post("/classes", "name=Next+year&like=1&start=soon")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holdAll(t, page, "must be a day, such as", `value="soon"`, `value="Next year"`, `value="1" selected`)
	_, _, page = maren.post("/classes", url.Values{"name": {"Next year"}, "like": {"1"},
		"start": {start.Format(time.DateOnly)}}.Encode())
	holdAll(t, page, "no students yet", "First readings", "Sluice pins", "Half-term test",
		"from "+start.Format("Mon 2 Jan 2006"))
	_, at, _ := maren.post("/classes", "name=Plain&like=0&start="+start.Format(time.DateOnly))
	assert.Regexp(t, `^/classes/\d+$`, at)
	status, _, _ = as(t, base, "ivo").post("/classes", "name=Mine&like=1")
	assert.Equal(t, http.StatusNotFound, status)
}
