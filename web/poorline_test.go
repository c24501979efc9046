package web_test

import (
	"testing"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A slow 3G line, as it is commonly measured by: 400 kbit/s either way, 400 ms from a request to its answer.
const (
	slowBytes   = 400_000 / 8
	slowLatency = 400
)

// arrival is how a page came over a line: its bytes with all that it loads, headers included, and when it was first seen,
// when its boxes worked, and when everything had come.
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
		_, err = chromedp.Call(ctx, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
			MatchedNetworkConditions: []*network.Conditions{{Latency: slowLatency, DownloadThroughput: slowBytes,
				UploadThroughput: slowBytes}}})
		require.NoError(b.t, err)
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

// firstCard is the address of an open card of a sheet.
func (b *browser) firstCard() string {
	b.t.Helper()
	b.signIn("Wren A.")
	return eval[string](b, `[...document.querySelectorAll("main a")].map((a) => a.pathname).find((at) => /^\/my\/\d+/.test(at))`)
}

// A first card comes in at most 90 KB with all that it loads, fonts included: the README says so.
func TestAFirstCardIsSmall(t *testing.T) {
	t.Parallel()
	b := openBrowser(t, demoSite(t), 390, 844)
	a := b.arrives(b.firstCard(), false)
	for name, n := range a.bytes {
		t.Log(name, n)
	}
	require.LessOrEqual(t, a.all(), 90_000)
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
