package web_test

import (
	"fmt"
	"log/slog"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/school"
	"cavix/store"
	"cavix/web"
)

// openClass opens a page of the instructor of a class of so many students who have answered so many sheets.
func openClass(t testing.TB, students, sheets int) *browser {
	t.Helper()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "many.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	require.NoError(t, fill(s, students, sheets))
	b := openBrowser(t, site(t, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler)}), 1280, 800)
	b.open("/signin")
	b.fill("[name=name]", "maren")
	b.fill("[name=passphrase]", "skerry-point")
	b.keys(kb.Enter)
	b.wait("location.pathname === '/desk'")
	return b
}

// A long table comes as it is scrolled to, to its end; the Watch keeps its length as it is fetched anew. Without the
// script the same links lead on, and an address leads to a student far down.
func TestLongTablesComeAsTheyAreScrolled(t *testing.T) {
	t.Parallel()
	b := openClass(t, 130, 2)
	rows := func(css string) int { return eval[int](b, fmt.Sprintf("document.querySelectorAll(%q).length", css)) }
	toEnd := func(css string, all int) {
		t.Helper()
		b.wait("document.readyState === 'complete'")
		require.Less(t, rows(css), all)
		b.wait(fmt.Sprintf("(document.querySelector('.rest')?.scrollIntoView(), "+
			"document.querySelectorAll(%q).length >= %d && !document.querySelector('.rest, .coming'))", css, all))
		assert.Equal(t, all, rows(css))
	}
	b.open("/classes/1/ledger")
	b.wait("document.readyState === 'complete'")
	assert.Equal(t, 66, rows(".term tbody tr:not(.rest)"), "of few columns a table has many rows")
	toEnd(".term tbody tr:not(.rest)", 130)
	// rows that came are painted, and can be clicked, once they are in sight
	b.do(run("document.querySelector('.term tbody tr:last-child td a').scrollIntoView()"))
	b.click(".term tbody tr:last-child td a")
	b.wait("location.hash === '#s130'")
	// with whom the address names, and some after
	b.wait("document.querySelectorAll('.ledger tbody tr').length === 130")
	b.open("/ledger/1?show=times")
	toEnd(".ledger tbody tr:not(.rest)", 130)
	assert.Equal(t, 130,
		eval[int](b, "new Set([...document.querySelectorAll('.ledger tbody th')].map((e) => e.textContent)).size"))
	b.open("/wrong/1")
	b.wait("document.querySelectorAll('.wrongcards tbody tr:not(.rest)').length >= 12")
	b.wait("(document.querySelector('.rest')?.scrollIntoView(), " +
		"document.querySelectorAll('.wrongcards tbody tr:not(.rest)').length === 40)")
	b.open("/watch/1")
	toEnd(".watch .rules > li:not(.rest)", 130)
	b.do(run("scrollTo(0, 0); for (const e of document.querySelectorAll('.rules b')) e.textContent = 'earlier'"))
	b.do(run("Alpine.$data(document.querySelector('#watch')).look()"))
	b.wait("document.querySelector('.rules b').textContent === 'Student 000'")
	assert.Equal(t, 130, rows(".watch .rules > li"))
	b.do(run("scrollTo(0, document.body.scrollHeight)"))
	b.wait("[...document.querySelectorAll('.rules b')].at(-1).textContent === 'Student 129'")
	b.open("/ledger/1?shown=all")
	assert.Equal(t, 130, rows(".ledger tbody tr"))
}

// The sheets that a class was given come as they are scrolled past, too, and where nobody scrolls there is a link.
func TestGivenSheetsComeAsTheyAreScrolledPast(t *testing.T) {
	t.Parallel()
	b := openClass(t, 5, 30)
	rows := "document.querySelectorAll('.given tbody tr:not(.rest, .coming)').length"
	b.open("/classes/1")
	b.do(run(`fetch(location).then((r) => r.text()).then((page) => {
		window.sent = new DOMParser().parseFromString(page, "text/html") })`)) // the page itself may have more already
	b.wait("window.sent && document.readyState === 'complete'")
	assert.Equal(t, 12, eval[int](b, "sent.querySelectorAll('.given tbody tr:not(.rest)').length"))
	assert.Equal(t, "?shown=36", eval[string](b, "sent.querySelector('.rest a').getAttribute('href')"))
	b.do(run("scrollTo(0, document.body.scrollHeight)"))
	b.wait(rows + " === 30 && !document.querySelector('.rest, .coming')")
	assert.Equal(t, 30, eval[int](b, "new Set([...document.querySelectorAll('.given td a')].map((a) => a.href)).size"))
	b.open("/classes/1?shown=36")
	assert.Equal(t, 30, eval[int](b, rows))
}

// BenchmarkBrowser opens pages of a class of 300 with 40 sheets and scrolls them to their end, in a browser with this
// processor and with a quarter of it, as a phone of 2017 has. It tells the longest task of each in milliseconds; 50 are
// not felt.
func BenchmarkBrowser(b *testing.B) {
	page := openClass(b, manyStudents, manySheets)
	for _, one := range []struct{ name, path string }{
		{"ledger", "/classes/1/ledger"}, {"sheet", "/ledger/1"}, {"watch", "/watch/1"}, {"wrong", "/wrong/1"},
		{"people", "/classes/1/people"}, {"class", "/classes/1"}, {"desk", "/desk"}, {"composer", "/sheets/1"},
	} {
		for _, slower := range []float64{1, 4} {
			page.slowDown(slower)
			b.Run(fmt.Sprintf("%s/%g", one.name, slower), func(b *testing.B) { scrolled(b, page, one.path) })
		}
	}
}

// slowDown has the browser work as on a processor so many times slower.
func (b *browser) slowDown(times float64) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: times})
	require.NoError(b.t, err)
}

// scrolled opens a page over and over and scrolls it to its end, 60 pixels a frame: as fast as a wheel that is spun.
func scrolled(b *testing.B, page *browser, path string) {
	var worst float64
	for b.Loop() {
		page.open(path)
		page.do(run(`window.longest = 0; new PerformanceObserver((l) => {
			for (const e of l.getEntries()) longest = Math.max(longest, e.duration) })
			.observe({ type: "longtask", buffered: true })`))
		page.do(run(`window.ended = false;
			(function further() {
				const end = document.scrollingElement;
				for (const e of [end, ...document.querySelectorAll(".frozen")]) e.scrollBy(0, 60);
				ended = !document.querySelector(".rest, .coming")
					&& end.scrollTop + innerHeight >= end.scrollHeight - 2;
				if (!ended) requestAnimationFrame(further);
			})()`))
		page.wait("ended")
		time.Sleep(200 * time.Millisecond)
		worst = max(worst, eval[float64](page, "longest"))
	}
	b.ReportMetric(worst, "longest-task-ms")
}

// BenchmarkChange is the time from a change in the composer and in the Workshop until it is painted, in milliseconds,
// in a browser with this processor and with a quarter of it.
func BenchmarkChange(b *testing.B) {
	page := openBrowser(b, demoSite(b), 1280, 800)
	page.signIn("maren")
	for path, field := range map[string]string{"/sheets/1": "title", "/workshop/3": "name"} {
		for _, slower := range []float64{1, 4} {
			page.slowDown(slower)
			b.Run(fmt.Sprintf("%s/%g", path[1:], slower), func(b *testing.B) {
				page.open(path)
				page.wait("document.readyState === 'complete'")
				var took []float64
				for b.Loop() {
					page.do(run(fmt.Sprintf(`(() => {
						const box = document.querySelector("main form [name=%s]"), began = performance.now();
						window.took = 0;
						document.addEventListener("answered", () => requestAnimationFrame(() =>
							setTimeout(() => took = performance.now() - began)), { once: true });
						box.value += "x";
						box.dispatchEvent(new Event("input", { bubbles: true })) })()`, field)))
					page.wait("took > 0")
					took = append(took, eval[float64](page, "took"))
				}
				slices.Sort(took)
				b.ReportMetric(took[len(took)/2], "median-ms")
				b.ReportMetric(0, "ns/op")
			})
		}
	}
}
