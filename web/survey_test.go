package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/school"
	"cavix/school/roster"
	"cavix/store"
	"cavix/transfer"
	"cavix/web"
)

// A survey by keyboard: an instructor plans it, a class of three reads 4 parts twice each, says what is good, and the
// instructor sees how good the readers are.
func TestAClassReadsASurvey(t *testing.T) {
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "survey.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	room := school.New(s)
	hash, err := roster.HashPassphrase("eight signs")
	require.NoError(t, err)
	owner, err := room.Roster.AddInstructor(t.Context(), roster.Instructor{Login: "maren", Name: "Maren", Hash: hash})
	require.NoError(t, err)
	var in *instrument.Instrument
	for _, p := range instrument.Patterns() {
		if p.Name == "Caliper 0.05 mm, 20 over 39" {
			in, err = instrument.New(p)
			require.NoError(t, err)
		}
	}
	require.NotNil(t, in)
	_, err = room.Rack.KeepInstrument(t.Context(), owner, 0, in)
	require.NoError(t, err)
	class, err := room.Roster.AddClass(t.Context(), owner, "Pins", "PINS47")
	require.NoError(t, err)
	names := []string{"Ash W.", "Birk T.", "Cole V."}
	ids := map[string]int64{}
	for _, n := range names {
		ids[n], err = room.Roster.Join(t.Context(), class, n, hash, time.Now())
		require.NoError(t, err)
	}
	b := openBrowser(t, site(t, web.Config{School: room, Log: slog.New(slog.DiscardHandler)}), 1280, 800)
	enter := func(path, form string) {
		b.open("/handbook")
		b.do(run(fmt.Sprintf("fetch(%q, {method: 'POST', body: new URLSearchParams(%q)}).then(() => { "+
			"document.title = 'in' })", path, form)))
		b.wait("document.title === 'in'")
	}
	enter("/signin", "name=maren&passphrase=eight+signs")
	b.open("/surveys/new")
	for css, written := range map[string]string{"[name=title]": "Four pins", "[name=places]": "1",
		"[name=repeats]": "2", "[name=lower]": "11.70", "[name=upper]": "12.30"} {
		b.fill(css, written)
	}
	b.do(run("document.querySelector('[name=who]').value = 'same'"))
	for i, size := range []string{"11.75", "11.95", "12.10", "12.45"} {
		b.fill(fmt.Sprintf("[name=\"parts[%d].name\"]", i), fmt.Sprintf("pin %d", i+1))
		b.fill(fmt.Sprintf("[name=\"parts[%d].size\"]", i), size)
	}
	b.fill("[name=\"parts[4].size\"]", "12.00")
	b.keys(kb.Enter)
	b.waitText("main", "must have a name")
	assert.Equal(t, "12.45", eval[string](b, "document.querySelector('[name=\"parts[3].size\"]').value"),
		"what was typed stays")
	b.do(run("document.querySelector('[name=\"parts[4].size\"]').select()"))
	b.keys(kb.Delete + kb.Enter)
	b.waitText("h1", "Four pins")
	b.waitText("main", "No readings yet")

	sv, err := room.Studies.Survey(t.Context(), owner, 1)
	require.NoError(t, err)
	for _, name := range names {
		enter("/join", url.Values{"code": {"PINS47"}, "name": {name}, "passphrase": {"eight signs"},
			"do": {"back"}}.Encode())
		b.open("/my/surveys/1")
		for n := range sv.Plan.Cells() {
			b.waitText(".cardhead", fmt.Sprintf("%d of 8 read", n))
			if n == 0 {
				b.keys("about 12" + kb.Enter)
				b.wait("document.querySelector('.writedown .fault')?.textContent.length > 10")
				b.wait("document.activeElement.id === 'value'")
				b.do(run("document.activeElement.select()"))
			}
			cell := eval[int](b, "Number(document.querySelector('[name=cell]').value)")
			empty, err := sv.Card(ids[name], cell).Mark(nil)
			require.NoError(t, err)
			b.keys(empty.Fields[0].Expected + kb.Enter)
		}
		b.waitText(".alert", en("survey.reading.everything-is-read"))
		for part := 1; part <= 4; part++ {
			choice := "accept"
			if part == 4 && name != "Cole V." {
				choice = "rework"
			}
			b.do(run(fmt.Sprintf("document.querySelectorAll('.verdict')[%d].querySelector('[value=%s]').click()",
				part-1, choice)))
			b.wait(fmt.Sprintf("document.querySelectorAll('.verdict')[%d].textContent.includes('Verdict on pin %d: "+
				"%s')", part-1, part, choice))
		}
	}
	b.waitText(".surveytable", "your readings say: rework")

	enter("/signin", "name=maren&passphrase=eight+signs")
	b.open("/surveys/1")
	b.waitText("#readers h2", en("survey.survey.how-good-the-readers"))
	b.waitText(".verdictline", "cceptable")
	for row, says := range []string{"Ash W. 8 100 % 4 of 4", "Birk T. 8 100 % 4 of 4", "Cole V. 8 100 % 3 of 4"} {
		got := eval[string](b, fmt.Sprintf(
			"[...document.querySelectorAll('aside table tbody tr')[%d].cells].map((c) => "+
				"c.innerText).join(' ')", row))
		assert.Equal(t, says, strings.ReplaceAll(got, "\u00a0", " "))
	}
	b.do(chromedp.WaitVisible(chromedp.CSS("#readers .readingplot")))
}

// What a survey holds goes out as tables that are read again, as pictures and as a report; nobody else sees it; what
// was read stays; what has ended takes nothing more.
func TestASurveyGoesOut(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("writes every file of a study; left out with -short")
	}
	base := demoSite(t)
	maren, ivo, wren, isolde := as(t, base, "maren"), as(t, base, "ivo"), as(t, base, "Wren A."),
		as(t, base, "Isolde M.")
	for _, path := range []string{"/surveys/1", "/surveys/2", "/surveys/2/table", "/surveys/2/report",
		"/surveys/2/plot/means", "/surveys/2/events", "/surveys/1/students/1"} {
		status, _, _ := ivo.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	status, _, _ := isolde.get("/my/surveys/1")
	assert.Equal(t, http.StatusNotFound, status)
	for path, post := range map[string]string{"/surveys/1": "do=close", "/surveys/1/drop": ""} {
		status, _, _ = ivo.post(path, post)
		assert.Equal(t, http.StatusNotFound, status)
	}
	table := maren.file("/surveys/2/table")
	r, err := transfer.ReadReadings(table)
	require.NoError(t, err)
	require.NotNil(t, r.Study)
	assert.Equal(t, []int{5, 6}, []int{len(r.Study.Parts), len(r.Study.Readers)})
	same, err := transfer.ReadReadings(maren.file("/surveys/2/table?as=xlsx"))
	require.NoError(t, err)
	assert.Equal(t, r, same)
	rows, err := tableOf(string(table))
	require.NoError(t, err)
	assert.Len(t, rows, 61)
	for _, report := range [][]byte{maren.file("/surveys/2/report"), maren.file("/surveys/1/students/1/report"),
		wren.file("/my/surveys/1/report")} {
		assert.True(t, bytes.HasPrefix(report, []byte("%PDF-")))
		assert.Equal(t, 1, bytes.Count(report, []byte("/Type /Page\n")), "one page")
	}
	for _, key := range []string{"groups", "order", "nominal", "often", "means", "ranges"} {
		assert.True(t, bytes.HasPrefix(maren.file("/surveys/2/plot/"+key), []byte("<svg")), key)
	}
	status, _, _ = maren.get("/surveys/2/plot/none")
	assert.Equal(t, http.StatusNotFound, status)

	_, _, page := wren.get("/my/surveys/1")
	form := fields(page)
	holds(t, page, "13 of 15 read", "<dt>"+en("word.mean")+"</dt>")
	_, _, page = wren.post("/my/surveys/1", "cell="+form.Get("cell")+"&value=")
	holds(t, page, en("log.reading"))
	wren.post("/my/surveys/1", "cell="+form.Get("cell")+"&value=7.80")
	wren.post("/my/surveys/1", "cell="+form.Get("cell")+"&value=9.99")
	_, _, page = wren.get("/my/surveys/1")
	holds(t, page, "14 of 15 read")
	assert.NotContains(t, page, "9.99", "a reading that was taken stays as it is")
	for _, odd := range []string{"cell=-1&value=3", "cell=999&value=3", "part=7&verdict=accept", "part=0&verdict=melt",
		"setup=yes&addendum=4&upright=4", "part=0&try=go"} {
		status, _, _ := wren.post("/my/surveys/1", odd)
		assert.Equal(t, http.StatusConflict, status, odd)
	}
	maren.post("/surveys/1", "do=close")
	status, _, page = wren.post("/my/surveys/1", "cell="+fields(page).Get("cell")+"&value=7.80")
	assert.Equal(t, http.StatusConflict, status)
	holds(t, page, "has ended")
	_, at, page := maren.post("/surveys/1/drop", "")
	assert.Equal(t, "/bin", at)
	holds(t, page, "Arbor, five places")
	status, _, _ = wren.get("/my/surveys/1")
	assert.Equal(t, http.StatusNotFound, status)
	maren.post("/bin", "sort=study&id=1")
	status, _, _ = maren.get("/surveys/1")
	assert.Equal(t, http.StatusOK, status, "it is restored")
}

// Parts are tried in both gauges first, on a drawing without a size; the rejected alone are measured, and it is said by
// how much they lie beyond and what becomes of them. What was said of the gauge stays.
func TestPartsAreTriedInTheGauge(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("tries many parts; left out with -short")
	}
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/my/surveys/4")
	status, _, _ := wren.post("/my/surveys/4", "cell=0&value=28.30")
	assert.Equal(t, http.StatusConflict, status, "nothing is measured before it was rejected in the gauge")
	rejected := 0
	for part := range 4 {
		holds(t, page, fmt.Sprintf("%d of 4: try it in both gauges", part+1))
		assert.NotContains(t, page, "28.", "no size is shown")
		holds(t, page, `value="accept" disabled`, "nothing is said before both were tried")
		_, _, page = wren.post("/my/surveys/4", fmt.Sprintf("part=%d&try=go", part))
		goes := strings.Contains(page, ">"+en("option.enters")+"<")
		_, _, page = wren.post("/my/surveys/4", fmt.Sprintf("part=%d&try=no-go", part))
		passes := strings.Count(page, ">"+en("option.enters")+"<")
		if goes {
			passes--
		}
		said := "reject"
		if goes && passes == 0 {
			said = "accept"
		} else {
			rejected++
		}
		wren.post("/my/surveys/4", fmt.Sprintf("part=%d&said=%s", part, said))
		wren.post("/my/surveys/4", fmt.Sprintf("part=%d&said=accept", part))
		_, _, page = wren.get("/my/surveys/4")
	}
	require.Positive(t, rejected)
	holds(t, page, en("survey.parts.in-the-gauge"))
	assert.NotContains(t, page, "▲ wrong")
	holds(t, page, fmt.Sprintf("0 of %d read", rejected))
	for range rejected {
		wren.post("/my/surveys/4", "cell="+fields(page).Get("cell")+"&value=28.30")
		_, _, page = wren.get("/my/surveys/4")
	}
	holds(t, page, en("survey.reading.everything-is-read"))
	part := fields(page).Get("part")
	_, _, page = wren.post("/my/surveys/4", "part="+part+"&verdict=rework&beyond=0.18")
	holds(t, page, "your readings say: scrap")
	holds(t, page, en("survey.parts.right-by-your-readings"))
	status, _, _ = wren.post("/my/surveys/4", "part=9&try=go")
	assert.Equal(t, http.StatusConflict, status)

	maren := as(t, base, "maren")
	_, _, page = maren.get("/gauges?lower=16&upper=16.03&kind=plug&unit=mm&parts=16.03,16.04")
	holds(t, page, "scrap, 0.01 beyond the limit")
	status, _, page = maren.get("/gauges?lower=16&upper=15&kind=plug&parts=wide")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, page, en("gauge.above-lower-limit"))
	holds(t, page, ">wide<", "what was typed stays")
	_, _, page = maren.get("/surveys/new?tried=plug&lower=28&upper=28.12&feature=hole&parts[0].name=a&" +
		"parts[0].size=28.05")
	holds(t, page, `value="28.05"`)
}

// The whole work on a gear: the addendum, the upright scale set to it, four teeth at three places each, the worn one
// found. What was set is told, but nothing of a tooth that is still to be read.
func TestTheTeethOfAGear(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("measures a gear; left out with -short")
	}
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/my/surveys/3")
	holds(t, page, "outside diameter 88.00, pitch diameter 80.00")
	_, _, page = wren.post("/my/surveys/3", "setup=yes&addendum=eight&upright=4")
	holds(t, page, `role="alert"`)
	holds(t, page, `value="eight"`, "what was typed stays")
	_, _, page = wren.post("/my/surveys/3", "setup=yes&addendum=8.00&upright=")
	holds(t, page, "empty")
	_, _, page = wren.post("/my/surveys/3", "setup=yes&addendum=8.00&upright=8.00") // not halved, and set to that
	holds(t, page, "Setting: 1 of 2")
	holds(t, page, "÷ 2")
	assert.NotContains(t, page, "× 0.02")
	_, _, again := wren.post("/my/surveys/3", "setup=yes&addendum=4.00&upright=4.00")
	holds(t, again, "Setting: 1 of 2", "what was set stays")
	for n := range 12 {
		form := fields(page)
		value := "6.28"
		if strings.Contains(page, "tooth 11,") {
			value = "6.02"
		}
		holds(t, page, fmt.Sprintf("%d of 12 read", n))
		wren.post("/my/surveys/3", "cell="+form.Get("cell")+"&value="+value)
		_, _, page = wren.get("/my/surveys/3")
	}
	holds(t, page, en("survey.parts.which-tooth-is-worn"))
	_, _, page = wren.post("/my/surveys/3", "part=4&verdict=6")
	holds(t, page, "your readings say: 11")
	_, _, page = wren.post("/my/surveys/3", "part=4&verdict=11")
	holds(t, page, "Which tooth is worn? 11")
	status, _, _ := wren.post("/my/surveys/3", "part=4&verdict=12")
	assert.Equal(t, http.StatusConflict, status)

	maren := as(t, base, "maren")
	_, _, page = maren.post("/surveys/new", url.Values{"class": {"1"}, "title": {"Teeth"},
		"instrument": {fields(page).Get("none")}, "places": {"3"}}.Encode())
	holds(t, page, en("survey.plan.give"))
}

// A digital instrument is zeroed at the nominal size: what is read and written are deviations, the table gives sizes.
func TestDeviationsFromNominal(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	for _, p := range instrument.Patterns() {
		if p.Family == instrument.Digital {
			p.Name = "Box comparator"
			in, err := instrument.New(p)
			require.NoError(t, err)
			doc, err := json.Marshal(in)
			require.NoError(t, err)
			maren.post("/rack/import", url.Values{"document": {string(doc)}}.Encode())
			break
		}
	}
	_, _, page := maren.get("/surveys/new")
	digital := regexp.MustCompile(`value="(\d+)"[^>]*>Box comparator`).FindStringSubmatch(page)
	require.NotNil(t, digital)
	form := url.Values{"class": {"1"}, "title": {"By deviations"}, "instrument": {digital[1]}, "places": {"1"},
		"repeats": {"1"}, "who": {"same"}, "scatter": {"0"}, "lower": {"24.95"}, "upper": {"25.05"},
		"verdicts": {"two"}, "compare": {"yes"},
		"parts[0].name": {"a"}, "parts[0].size": {"25.03"}}
	_, _, page = maren.post("/surveys/new", form.Encode())
	holds(t, page, en("survey.check-compare"))
	form.Set("nominal", "25.00")
	_, at, page := maren.post("/surveys/new", form.Encode())
	require.Regexp(t, `^/surveys/\d+$`, at, page)
	mine := "/my" + at
	_, _, page = wren.get(mine)
	holds(t, page, "zeroed at 25.00")
	holds(t, page, en("survey.student.deviation"))
	_, _, page = wren.post(mine, "cell=0&value=%2B0.03")
	holds(t, page, "&#43;0.03")
	holds(t, page, "25.03")
	_, _, page = wren.post(mine, "part=0&verdict=accept")
	holds(t, page, en("survey.parts.as-your-readings-have"))
	_, _, page = maren.get(at)
	holds(t, page, "100 %")
	form.Set("instrument", "1")
	_, _, page = maren.post("/surveys/new", form.Encode())
	holds(t, page, en("survey.plan.plan"))
}

// Who has read how much is shown to the instructor as it is read.
func TestASurveyIsSeenAsItIsRead(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	b := openBrowser(t, base, 1280, 800)
	b.signIn("maren")
	b.open("/surveys/1")
	row := "[...document.querySelectorAll('#watch tbody tr')].find((r) => r.textContent.includes('Wren " +
		"A.')).cells[1].textContent"
	b.wait(row + " === '13'")
	_, _, page := wren.get("/my/surveys/1")
	wren.post("/my/surveys/1", "cell="+fields(page).Get("cell")+"&value=7.80")
	b.wait(row + " === '14'")
}
