package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	imagepng "image/png"
	"net/http"
	"path"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
)

// A slow 3G line, as it is commonly measured by: 400 kbit/s either way, 400 ms from a request to its answer.
const (
	slowBytes   = 400_000 / 8
	slowLatency = 400
)

// arrival is how a page came over a line: its bytes with all that it loads, headers included, and when it was first
// seen, when its boxes worked, and when everything had come.
type arrival struct {
	bytes             map[string]int
	seen, used, whole time.Duration
}

// all is the bytes of a page.
func (a arrival) all() (sum int) {
	for _, n := range a.bytes {
		sum += n
	}
	return sum
}

// arrives opens a page as on a first visit, with nothing in the browser's memory.
func (b *browser) arrives(path string, slow bool) arrival {
	b.t.Helper()
	a := arrival{bytes: map[string]int{}}
	names := map[network.RequestID]string{}
	done := make(chan struct{}, 1)
	ctx, stop := chromedp.NewContext(b.ctx)
	defer stop()
	require.NoError(b.t, chromedp.Do(ctx, chromedp.EmulateViewport(390, 844)))
	_, err := chromedp.Call(ctx, network.Enable, network.EnableParams{})
	require.NoError(b.t, err)
	_, err = chromedp.Call(ctx, network.SetBypassServiceWorker, network.SetBypassServiceWorkerParams{Bypass: true})
	require.NoError(b.t, err)
	_, err = chromedp.Call(ctx, network.ClearBrowserCache, struct{}{})
	require.NoError(b.t, err)
	require.NoError(b.t, chromedp.Listen(ctx, func(ev any) {
		switch ev := ev.(type) {
		case *network.EventRequestWillBeSent:
			names[ev.RequestID] = ev.Request.URL
		case *network.EventLoadingFinished:
			a.bytes[names[ev.RequestID]] += int(ev.EncodedDataLength)
			select {
			case done <- struct{}{}:
			default:
			}
		}
	}))
	if slow {
		b.slows(ctx)
	}
	require.NoError(b.t, chromedp.Do(ctx, chromedp.Navigate(b.base+path)))
	for quiet := time.NewTimer(3 * time.Second); ; {
		select {
		case <-done:
			quiet.Reset(3 * time.Second)
			continue
		case <-quiet.C:
		}
		break
	}
	times, err := chromedp.Run(ctx, chromedp.Evaluate[[]float64](`[
		performance.getEntriesByName("first-contentful-paint")[0].startTime,
		performance.getEntriesByType("navigation")[0].domContentLoadedEventEnd,
		Math.max(...performance.getEntriesByType("resource").map((e) => e.responseEnd))]`))
	require.NoError(b.t, err)
	ms := func(n int) time.Duration { return time.Duration(times[n]) * time.Millisecond }
	a.seen, a.used, a.whole = ms(0), ms(1), ms(2)
	return a
}

// slows puts a page on a slow line.
func (b *browser) slows(ctx context.Context) {
	b.t.Helper()
	_, err := chromedp.Call(ctx, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
		MatchedNetworkConditions: []*network.Conditions{{Latency: slowLatency, DownloadThroughput: slowBytes,
			UploadThroughput: slowBytes}}})
	require.NoError(b.t, err)
}

// A check says at once that it is sent, while the line still takes its time.
func TestACheckSaysThatItIsSent(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 390, 844)
	b.open(b.firstCard())
	b.wait("document.querySelector('.cardpage')?._x_dataStack")
	_, err := chromedp.Call(b.ctx, network.Enable, network.EnableParams{})
	require.NoError(t, err)
	b.slows(b.ctx)
	says := eval[string](b, `(() => { document.querySelector(".acts .btn-primary").click();
		return Alpine.$data(document.querySelector(".cardpage")).kept })()`)
	assert.Equal(t, en("script.sending"), says)
	b.wait("document.querySelector('.cause, .acts [role=alert]') && document.readyState === 'complete'")
}

// firstCard is the address of an open card of a sheet.
func (b *browser) firstCard() string {
	b.t.Helper()
	b.signIn("Wren A.")
	b.open("/my")
	return eval[string](b, `[...document.querySelectorAll("main a")].map((a) => a.pathname)
		.find((at) => /^\/my\/\d+/.test(at))`)
}

// A first card comes in at most 90 KB (of 1,024 bytes) with all that it loads, fonts included: the README says so.
func TestAFirstCardIsSmall(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 390, 844)
	a := b.arrives(b.firstCard(), false)
	for name, n := range a.bytes {
		t.Log(name, n)
	}
	require.LessOrEqual(t, a.all(), 90<<10)
}

// BenchmarkFirstCard opens a first card over slow 3G.
func BenchmarkFirstCard(b *testing.B) {
	page := openBrowser(b, demoSite(b), 390, 844)
	at := page.firstCard()
	var seen, used, whole time.Duration
	var bytes int
	for b.Loop() {
		a := page.arrives(at, true)
		seen, used, whole, bytes = seen+a.seen, used+a.used, whole+a.whole, a.all()
	}
	b.ReportMetric(float64(bytes)/1000, "kB")
	b.ReportMetric(seen.Seconds()/float64(b.N), "s-seen")
	b.ReportMetric(used.Seconds()/float64(b.N), "s-used")
	b.ReportMetric(whole.Seconds()/float64(b.N), "s-whole")
	b.ReportMetric(0, "ns/op")
}

// A sheet can be read on, and worked on, while there is no connection; a page that is not at hand leaves what is typed
// where it is, and when one signs out nothing of the sheet stays in the browser.
func TestASheetAtHandWithoutAConnection(t *testing.T) {
	t.Parallel()
	d := newDying(t)
	b := openBrowser(t, "http://"+d.addr, 390, 844)
	at := b.firstCard()
	sheet := path.Dir(at)
	b.open(at)
	b.wait("navigator.serviceWorker.controller")
	b.open(at)
	kept := func(want string) {
		b.t.Helper()
		b.do(run("caches.open('pages').then((c) => c.keys()).then((all) => { " +
			"window.all = all.map((r) => new URL(r.url).pathname).join() })"))
		b.wait(want)
	}
	cards := eval[int](b, "document.querySelectorAll('.rule a').length")
	require.Greater(t, cards, 3)
	for end := time.Now().Add(time.Minute); time.Now().Before(end) && !eval[bool](b, fmt.Sprintf(
		"(window.all ?? '').split(',').length > %d", cards)); time.Sleep(200 * time.Millisecond) {
		kept("window.all !== undefined")
	}

	d.kill()
	other := fmt.Sprintf("%s/%d", sheet, cards)
	b.do(run(fmt.Sprintf("document.querySelector('.rule a[href=%q]').click()", other)))
	b.wait(fmt.Sprintf("location.pathname === %q && document.readyState === 'complete'", other))
	b.waitText("#news", "may not be up to date")
	b.wait("document.querySelector('.fig') && getComputedStyle(document.querySelector('.fig')).display === 'block'")
	box := eval[string](b, "document.querySelector('.box input:not([type=hidden], [type=radio])').name")
	b.fill(fmt.Sprintf("[name=%q]", box), "17")
	b.waitText(".kept", "kept in this browser")
	b.do(run("document.querySelector('.nav-link[href=\"/handbook\"]').click()"))
	b.waitText("#news", "This page stays open")
	value := fmt.Sprintf("document.querySelector('[name=%q]').value", box)
	assert.Equal(t, "17", eval[string](b, value))
	d.start()
	b.waitText(".kept", "saved")

	b.do(run("document.querySelector('form[action=\"/signout\"]').requestSubmit()"))
	b.wait("location.pathname === '/' && document.readyState === 'complete'")
	kept("window.all === ''")
}

// A card that is fetched ahead has not been looked at: the instructor is told only of cards that were.
func TestAheadIsNotSeen(t *testing.T) {
	t.Parallel()
	base, s := demoStore(t)
	v := as(t, base, "Wren A.")
	seen := func() (n int) {
		require.NoError(t, store.One(t.Context(), s, store.Named("seen", "SELECT count(seen) FROM cards"), nil, &n))
		return n
	}
	_, _, page := v.get("/my")
	open := regexp.MustCompile(`href="(/my/\d+)/(\d+)"`).FindStringSubmatch(page)
	require.NotNil(t, open)
	v.get(open[1] + "/1")
	was := seen()
	ask := func(n int, ahead bool) {
		r, err := http.NewRequest(http.MethodGet, fmt.Sprintf("%s%s/%d", base, open[1], n), nil)
		require.NoError(t, err)
		if ahead {
			r.Header.Set("Cavix-Ahead", "yes")
		}
		status, _, _ := v.read(v.Do(r))
		require.Equal(t, http.StatusOK, status)
	}
	for n := 6; n <= 8; n++ {
		ask(n, true)
	}
	assert.Equal(t, was, seen())
	for n := 6; n <= 8; n++ {
		ask(n, false)
	}
	assert.Greater(t, seen(), was)
}

// Who checks a card after the session has ended signs in anew and is back on the card.
func TestBackOnTheCardAfterSigningIn(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	v := newVisitor(t, base)
	for from, want := range map[string]string{base + "/my/14/5?check": "/join?to=%2Fmy%2F14%2F5%3Fcheck", "": "/join",
		"http://elsewhere.test/my/14/5": "/join"} {
		r, err := http.NewRequest(http.MethodPost, base+"/my/14/5", strings.NewReader("main=1"))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("Referer", from)
		v.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		answer, err := v.Do(r)
		require.NoError(t, err)
		_ = answer.Body.Close()
		assert.Equal(t, want, answer.Header.Get("Location"), from)
	}
}

// Without script another view of the instrument is a button of the form: what is typed stays.
func TestAnotherViewWithoutScript(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 1280, 800)
	at := b.firstCard()
	_, err := chromedp.Call(b.ctx, emulation.SetScriptExecutionDisabled,
		emulation.SetScriptExecutionDisabledParams{Value: true})
	require.NoError(t, err)
	b.open(at)
	box := eval[string](b, "document.querySelector('.box input:not([type=hidden], [type=radio])').name")
	b.do(chromedp.SendKeys(chromedp.CSS(fmt.Sprintf("[name=%q]", box)), "23"),
		chromedp.Click(chromedp.CSS(".views .nav-link:not(.active)")))
	b.wait("location.search.startsWith('?figure=') && document.readyState === 'complete'")
	assert.Equal(t, "23", eval[string](b, fmt.Sprintf("document.querySelector('[name=%q]').value", box)))
	assert.True(t, eval[bool](b, "!document.querySelector('.say')"), "and nothing is checked")
}

// The program can be put on the first screen of a phone.
func TestItCanBeInstalled(t *testing.T) {
	t.Parallel()
	v := newVisitor(t, demoSite(t))
	_, _, home := v.get("/")
	at := regexp.MustCompile(`rel="manifest" href="([^"]+)"`).FindStringSubmatch(home)
	require.NotNil(t, at)
	_, _, body := v.get(at[1])
	var app struct {
		Start string `json:"start_url"`
		Icons []struct{ Src, Sizes string }
	}
	require.NoError(t, json.Unmarshal([]byte(body), &app))
	require.NotEmpty(t, app.Icons)
	for _, icon := range app.Icons {
		status, _, png := v.get(path.Dir(at[1]) + "/" + icon.Src)
		require.Equal(t, http.StatusOK, status)
		size, err := imagepng.DecodeConfig(strings.NewReader(png))
		require.NoError(t, err)
		assert.Equal(t, icon.Sizes, fmt.Sprintf("%dx%d", size.Width, size.Height))
	}
	status, _, _ := v.get(app.Start)
	assert.Equal(t, http.StatusOK, status)
}
