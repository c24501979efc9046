package web_test

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/ops"
	"cavix/school"
	"cavix/store"
	"cavix/web"
	"cavix/web/account"
)

// demoData is a database of the demo, filled once. Its people's passphrases are hashed cheaply: some 500 sign-ins would
// take a good part of the tests' time.
var demoData = sync.OnceValues(func() ([]byte, error) {
	dir, err := os.MkdirTemp("", "")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	file := filepath.Join(dir, "demo.db")
	hash, err := argon2id.CreateHash(demo.Passphrase, &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1,
		SaltLength: 16, KeyLength: 32})
	if err != nil {
		return nil, err
	}
	ctx := context.Background()
	if err := store.Fill(ctx, file, func(s *store.DB) error {
		if err := demo.Fill(ctx, s, time.Now()); err != nil {
			return err
		}
		return s.Write(ctx, func(tx *store.Tx) error {
			_, err := tx.Exec(ctx, store.Named("cheaper", "UPDATE students SET hash = ?"), hash)
			_, bad := tx.Exec(ctx, store.Named("cheaper", "UPDATE instructors SET hash = ?"), hash)
			return errors.Join(err, bad)
		})
	}); err != nil {
		return nil, err
	}
	return os.ReadFile(file)
})

// demoSite serves a copy of the demo data and returns its address.
func demoSite(t testing.TB) string {
	t.Helper()
	base, _ := demoStore(t)
	return base
}

// demoStore serves a copy of the demo data and returns its address and the store under it.
func demoStore(t testing.TB) (base string, s *store.DB) {
	t.Helper()
	base, s, _ = demoFile(t)
	return base, s
}

// demoFile is demoStore with the path of the file.
func demoFile(t testing.TB) (base string, s *store.DB, file string) {
	t.Helper()
	data, err := demoData()
	require.NoError(t, err)
	file = filepath.Join(t.TempDir(), "demo.db")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	s, err = store.Open(t.Context(), file)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	log := slog.New(slog.NewTextHandler(testWriter{t}, nil))
	cfg := web.Config{School: school.New(s), Log: log, Version: "test",
		Supervisor: &ops.Supervisor{Path: file, Copies: filepath.Join(filepath.Dir(file), "copies"), Keep: 7, Store: s,
			Log: log, Jobs: ops.NewJobs(log)}}
	for _, d := range demo.SignIns() {
		cfg.Demo = append(cfg.Demo, account.SignIn(d))
	}
	return site(t, cfg), s, file
}

// site serves a configuration.
func site(t testing.TB, cfg web.Config) string {
	t.Helper()
	h, err := web.New(cfg)
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return srv.URL
}

// testWriter writes the server's log into the test's.
type testWriter struct{ t testing.TB }

func (w testWriter) Write(b []byte) (int, error) { w.t.Logf("%s", b); return len(b), nil }

// chromium is one Chromium for all tests; it is started by the first that needs it and ended by TestMain.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path := ""
	for _, name := range []string{"chromium-headless-shell", "chromium", "chromium-browser", "google-chrome"} {
		if p, err := exec.LookPath(name); err == nil {
			path = p
			break
		}
	}
	if path == "" {
		return nil, errors.New("there is no Chromium: `make test` installs it")
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("hide-scrollbars", true), chromedp.Flag("disable-gpu-compositing", true),
		chromedp.Flag("disable-features", "IsolateOrigins,site-per-process,SpareRendererForSitePerProcess"))
	ctx, end := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, _ = chromedp.NewContext(ctx)
	endChromium = end
	return ctx, chromedp.Do(ctx)
})

// endChromium ends the browser of all tests.
var endChromium = func() {}

func TestMain(m *testing.M) {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(800) // every test has a server of its own: memory for time
	}
	flag.Parse()
	// pages are waited for half of the time
	if runs := 2 * runtime.GOMAXPROCS(0); os.Getenv("CAVIX_SCREENSHOTS") == "" {
		if err := flag.Set("test.parallel", strconv.Itoa(runs)); err != nil {
			panic(err)
		}
	}
	code := m.Run()
	endChromium()
	os.Exit(code)
}

// long leaves a test that opens many pages out of a short run.
func long(t testing.TB) {
	t.Helper()
	if testing.Short() {
		t.Skip("opens many pages; left out with -short")
	}
}

// browser is a page in a profile of its own, as if in a browser of its own.
type browser struct {
	t    testing.TB
	ctx  context.Context
	base string
}

// openBrowser opens a fresh page, with no cookies, on the site at base.
func openBrowser(t testing.TB, base string, width, height int64) *browser {
	t.Helper()
	if testing.Short() {
		t.Skip("needs Chromium; left out with -short")
	}
	ctx, err := chromium()
	require.NoError(t, err)
	ctx, cancel := chromedp.NewContext(ctx, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	b := &browser{t, ctx, base}
	require.NoError(t, chromedp.Do(ctx, chromedp.EmulateViewport(width, height)))
	require.NoError(t, chromedp.Listen(ctx, func(ev any) {
		if _, asks := ev.(*page.EventJavascriptDialogOpening); asks { // a page that is left with changes
			go chromedp.Call(ctx, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true})
		}
	}))
	return b
}

func (b *browser) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, time.Minute)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		b.fail(err)
	}
}

// fail stops the test with a picture of the page beside it.
func (b *browser) fail(err error) {
	b.t.Helper()
	name := filepath.Join(os.TempDir(), strings.ReplaceAll(b.t.Name(), "/", "-")+".png")
	if png, shotErr := chromedp.Run(b.ctx, chromedp.CaptureScreenshot()); shotErr == nil &&
		os.WriteFile(name, png, 0o644) == nil {
		b.t.Logf("the page is in %s", name)
	}
	require.NoError(b.t, err)
}

func (b *browser) open(path string) { b.t.Helper(); b.do(chromedp.Navigate(b.base + path)) }

// click presses the mouse on an element once nothing moves it any more: where a page is still drawn anew, it would be
// pressed where the element was.
func (b *browser) click(css string) {
	b.t.Helper()
	b.wait(fmt.Sprintf(`(() => {
		const r = document.querySelector(%q)?.getBoundingClientRect(), now = r && [r.x, r.y].join(), was = window.lay;
		window.lay = now;
		return now && now === was })()`, css))
	b.do(chromedp.Click(chromedp.CSS(css)))
}

// fill puts a text into a field, as typed after selecting what stood there.
func (b *browser) fill(css, says string) {
	b.t.Helper()
	b.do(chromedp.Focus(chromedp.CSS(css)), run(fmt.Sprintf("document.querySelector(%q).select()", css)),
		chromedp.KeyEvent(says))
}

// keys presses keys on whatever has the focus.
func (b *browser) keys(keys string) { b.t.Helper(); b.do(chromedp.KeyEvent(keys)) }

// turn presses a key with Alt, as the one that turns cards.
func (b *browser) turn(key string) {
	b.t.Helper()
	b.do(chromedp.KeyEvent(key, chromedp.KeyModifiers(kb.ModifierAlt)))
}

func run(js string) chromedp.Action[chromedp.Void] { return chromedp.Evaluate[chromedp.Void](js) }

// eval returns the value of a script.
func eval[T any](b *browser, js string) T {
	b.t.Helper()
	v, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](js))
	if err != nil {
		b.fail(fmt.Errorf("%s: %w", js, err))
	}
	return v
}

// wait waits until a script's value is true, also while pages change.
func (b *browser) wait(js string) {
	b.t.Helper()
	var err error
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		var ok bool
		if ok, err = chromedp.Run(b.ctx, chromedp.Evaluate[bool]("!!("+js+")")); err == nil && ok {
			return
		}
	}
	b.fail(fmt.Errorf("waited in vain for %s (%v)", js, err))
}

// still waits until nothing scrolls or moves any more: the page and what has the focus are found in one place five
// times.
func (b *browser) still() {
	b.t.Helper()
	b.wait(`(() => { const a = document.activeElement.getBoundingClientRect(),
		now = [scrollX, scrollY, a.x, a.y].join(), w = window.stillness ??= {};
		w.times = now === w.was ? w.times + 1 : 0; w.was = now;
		if (w.times < 5) return false;
		delete window.stillness; return true })()`)
}

// waitText waits until the element holds the text.
func (b *browser) waitText(css, says string) {
	b.t.Helper()
	b.wait(fmt.Sprintf("document.readyState === 'complete' && document.querySelector(%q)?.textContent.includes(%q)",
		css, says))
}

// signIn presses the button of somebody of the demo.
func (b *browser) signIn(name string) {
	b.t.Helper()
	page := "/signin"
	if strings.Contains(name, " ") {
		page = "/join"
	}
	b.open(page)
	b.do(
		run(
			fmt.Sprintf(
				"[...document.querySelectorAll('.demo form')].find(f => f.elements.name.value === "+
					"%q).querySelector('button').click()",
				name,
			),
		),
	)
	b.wait("location.pathname === '/desk' || location.pathname === '/my'")
}

// signOut signs whoever is signed in out, and waits until that is done: a page that is asked for meanwhile is refused.
func (b *browser) signOut() {
	b.t.Helper()
	b.open("/help")
	b.do(run("document.querySelector('form[action=\"/signout\"]')?.submit()"))
	b.wait("document.readyState === 'complete' && !document.querySelector('form[action=\"/signout\"]')")
}

func (b *browser) shoot(file string) {
	b.t.Helper()
	b.wait("document.readyState === 'complete' && document.fonts.status === 'loaded'")
	b.do(chromedp.Sleep(120 * time.Millisecond))
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	require.NoError(b.t, err)
	require.NoError(b.t, os.WriteFile(file, png, 0o644))
}
