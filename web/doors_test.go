package web_test

import (
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/school"
	"cavix/school/roster"
	"cavix/store"
	"cavix/web"
)

// Spelling the name otherwise, or sending more, is no way round the limit; others behind the same address are not held
// up, and neither is somebody whose browser has signed in before.
func TestGuessingIsSlowedDown(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	known := as(t, base, "maren")
	known.post("/signout", "")
	v := newVisitor(t, base)
	began, tried := time.Now(), 0
	for i := range 25 {
		name := strings.Repeat(" ", i%3) + []string{"maren", "MAREN", "Maren", "ｍaren"}[i%4] + strings.Repeat("\t", i%2)
		form := url.Values{"name": {name}, "passphrase": {fmt.Sprintf("wrong %d", i)}, "code": {fmt.Sprint(i)},
			"login": {fmt.Sprint(i)}, "x": {fmt.Sprint(i)}}
		status, _, says := v.post("/signin?try="+fmt.Sprint(i), form.Encode())
		if status == http.StatusTooManyRequests {
			holds(t, says, "Nothing is locked")
		} else {
			tried++
			assert.Equal(t, http.StatusUnprocessableEntity, status)
		}
	}
	assert.LessOrEqual(t, tried, triesWithin(time.Since(began)))
	status, _, _ := v.post("/signin", "name=ivo&passphrase="+demo.Passphrase)
	assert.Equal(t, http.StatusOK, status, "somebody else behind the same address")
	_, at, _ := known.post("/signin", "name=maren&passphrase="+demo.Passphrase)
	assert.Equal(t, "/desk", at, "a browser that has signed in before")
	began, tried = time.Now(), 0
	for i := range 12 {
		status, _, _ = newVisitor(t, base).post("/join",
			url.Values{"code": {"mill 47"}, "name": {strings.Repeat(" ", i) + "WREN a."}, "do": {"back"},
				"passphrase": {"a wrong one"}}.Encode())
		if status != http.StatusTooManyRequests {
			tried++
		}
	}
	assert.LessOrEqual(t, tried, triesWithin(time.Since(began)), "a student's account too")
}

// triesWithin is how many wrong passphrases are compared within a time: five, then one after 1 s, 2 s, 4 s and so on.
func triesWithin(d time.Duration) (n int) {
	n = 5
	for wait := time.Second; d >= 0; wait *= 2 {
		d -= wait
		n++
	}
	return n
}

// A name that is known and one that is not are answered alike, and at signing in take alike. Joining with a passphrase
// that can be none tells nothing either.
func TestKnownAndUnknownNamesAreAnsweredAlike(t *testing.T) {
	if testing.Short() {
		t.Skip("hashes hundreds of passphrases; left out with -short")
	}
	base, s := demoStore(t)
	hash, err := roster.HashPassphrase(demo.Passphrase) // as dear as in earnest
	require.NoError(t, err)
	set(t, s, "UPDATE instructors SET hash = '"+hash+"'")
	ask := func(path, name string) (int, string, time.Duration) {
		began := time.Now()
		status, _, says := newVisitor(t, base).post(path,
			"code=MILL47&do=back&passphrase=wrong&name="+url.QueryEscape(name))
		_, form, _ := strings.Cut(says, `class="stamp`)
		form, _, _ = strings.Cut(form, "</form>")
		return status, strings.ReplaceAll(form, `"`+name+`"`, "NAME"), time.Since(began)
	}
	for path, pair := range map[string][2]string{"/signin": {"ivo", "ova"}, "/join": {"Tobin F.", "Nobin F."}} {
		status, says, _ := ask(path, pair[0])
		other, same, _ := ask(path, pair[1])
		assert.Equal(t, status, other)
		assert.NotEmpty(t, says)
		assert.Equal(t, says, same, path)
		if path == "/join" {
			continue
		}
		var took [2][]time.Duration
		for range 3 {
			for i, name := range pair {
				_, _, d := ask(path, name)
				took[i] = append(took[i], d)
			}
		}
		// Each compares one hash: it cannot be that one is answered without.
		for i := range took {
			assert.Greater(t, took[i][0]+took[i][1]+took[i][2], 15*time.Millisecond, pair[i])
		}
	}
}

// Joining is bounded for each class, can be shut, and can wait for the instructor.
func TestJoiningIsBounded(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	join := func(name string) (int, string, string, *visitor) {
		v := newVisitor(t, base)
		status, at, says := v.post("/join", url.Values{"code": {"MILL47"}, "name": {name},
			"passphrase": {"tide mill 8"}, "do": {"first"}}.Encode())
		return status, at, says, v
	}
	for name, why := range map[string]string{"Wrеn A.": "mixes", "ash\u200bw": "is invisible",
		"\u202eash": "is invisible", "Wren  a.": "already", "WREN A.": "already", "Wren A․": "already"} {
		status, _, says, _ := join(name)
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%q", name)
		holds(t, says, why, name)
	}
	for _, p := range []string{"", "        ", "a      b", "\t\t\t\t\t\t\t\t\t"} {
		_, _, says := newVisitor(t, base).post("/join", url.Values{"code": {"MILL47"}, "name": {"Ash"},
			"passphrase": {p}, "do": {"first"}}.Encode())
		holds(t, says, "8 to 200 characters", p)
	}

	maren.post("/classes/1/settings", "joining=asked")
	_, _, says, waits := join("Ash W.")
	holds(t, says, "You have asked to join")
	_, _, says = waits.post("/join", "code=MILL47&name=Ash+W.&passphrase=tide+mill+8&do=join")
	holds(t, says, "has not let you in yet")
	join("Birch K.")
	_, _, says = maren.get("/classes/1/people")
	holdAll(t, says, "Wait to be let in", "Ash W.", "Birch K.")
	ids := regexp.MustCompile(`name="student" value="(\d+)" checked`).FindAllStringSubmatch(says, -1)
	require.Len(t, ids, 2)
	maren.post("/classes/1/people/waiting", "do=in&student="+ids[0][1])
	maren.post("/classes/1/people/waiting", "do=away&student="+ids[1][1])
	_, at, _ := waits.post("/join", "code=MILL47&name=Ash+W.&passphrase=tide+mill+8&do=join")
	assert.Equal(t, "/my", at)
	_, _, says = maren.get("/classes/1/people")
	assert.NotContains(t, says, "Birch K.")

	maren.post("/classes/1/settings", "joining=shut")
	_, _, says, _ = join("Cedar M.")
	holds(t, says, "closed to new students")
	maren.post("/classes/1/people/bring", "list="+url.QueryEscape("name,group,extra_minutes\nCedar M.,,\n"))
	_, at, _, _ = join("Cedar M.")
	assert.Equal(t, "/my", at, "who is on a list joins all the same")

	maren.post("/classes/1/settings", "joining=open")
	_, _, says = maren.post("/classes/1/code", "")
	code := regexp.MustCompile(`bigcode">([A-Z0-9]{6})<`).FindStringSubmatch(says)
	require.NotNil(t, code)
	assert.NotEqual(t, "MILL47", code[1])
	_, _, says, _ = join("Dale N.")
	holds(t, says, "No class has this code")
}

// Clearing a passphrase, changing it and signing out elsewhere end the sessions that were begun before.
func TestSessionsEnd(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, elsewhere := as(t, base, "maren"), as(t, base, "maren")
	wren := as(t, base, "Wren A.")
	maren.post("/classes/1/people/1", "do=clear")
	_, at, _ := wren.get("/my")
	assert.Equal(t, "/join", at, "the student whose passphrase was cleared")

	_, _, says := maren.post("/account", "do=change&old=wrong&passphrase=another+eight")
	holds(t, says, en("account.own.own-post"))
	_, _, says = maren.post("/account", "do=change&old="+demo.Passphrase+"&passphrase=short")
	holds(t, says, "8 to 200 characters")
	_, at, says = maren.post("/account", "do=change&old="+demo.Passphrase+"&passphrase=another+eight")
	assert.Equal(t, "/account", at)
	holds(t, says, en("account.own.own-notes"))
	_, at, _ = elsewhere.get("/desk")
	assert.Equal(t, "/signin", at)
	_, at, _ = elsewhere.post("/signin", "name=maren&passphrase=another+eight")
	assert.Equal(t, "/desk", at)
	maren.post("/account", "do=end")
	_, at, _ = elsewhere.get("/desk")
	assert.Equal(t, "/signin", at)
	_, at, _ = maren.get("/desk")
	assert.Equal(t, "/desk", at)

	tobin := as(t, base, "Tobin F.")
	_, at, _ = tobin.post("/account", "do=change&old="+demo.Passphrase+"&passphrase=tide+mill+8")
	assert.Equal(t, "/account", at)
	_, at, _ = newVisitor(t, base).post("/join", "code=MILL47&name=Tobin+F.&do=join&passphrase=tide+mill+8")
	assert.Equal(t, "/my", at)
}

// Three hundred tries at once: a right one is let in soon, and nothing fails on our side.
func TestAFloodOfTriesHoldsNobodyUp(t *testing.T) {
	if testing.Short() {
		t.Skip("hashes hundreds of passphrases; left out with -short")
	}
	base := demoSite(t)
	var wg sync.WaitGroup
	var mu sync.Mutex
	statuses := map[int]int{}
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 300}, Timeout: time.Minute}
	begun := make(chan struct{}, 300)
	for i := range 300 {
		wg.Go(func() {
			form := url.Values{"name": {fmt.Sprint("somebody ", i)}, "passphrase": {"wrong"}}
			req, _ := http.NewRequest(http.MethodPost, base+"/signin", strings.NewReader(form.Encode()))
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			req.Header.Set("X-Forwarded-For", fmt.Sprintf("10.0.%d.1", i%3))
			begun <- struct{}{}
			r, err := client.Do(req)
			if err != nil {
				return
			}
			r.Body.Close()
			mu.Lock()
			statuses[r.StatusCode]++
			mu.Unlock()
		})
	}
	for range 200 {
		<-begun
	}
	began := time.Now()
	_, at, _ := newVisitor(t, base).post("/signin", "name=maren&passphrase="+demo.Passphrase)
	assert.Equal(t, "/desk", at)
	took := time.Since(began)
	wg.Wait()
	t.Logf("a right one took %s beside %v", took, statuses)
	assert.Zero(t, statuses[http.StatusInternalServerError])
	assert.Equal(t, 300, statuses[http.StatusUnprocessableEntity]+statuses[http.StatusTooManyRequests])
}

// Pages answer HEAD, tell watchers how they are, and over HTTPS want nothing else.
func TestWhatWatchersAsk(t *testing.T) {
	long(t)
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	base := site(t, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler), Secure: true})
	for _, path := range []string{"/", "/signin", "/handbook", "/healthz", "/readyz"} {
		full, err := http.Get(base + path)
		require.NoError(t, err)
		require.NoError(t, full.Body.Close())
		head, err := http.Head(base + path)
		require.NoError(t, err)
		require.NoError(t, head.Body.Close())
		assert.Equal(t, full.StatusCode, head.StatusCode, path)
		assert.Equal(t, "max-age=31536000", head.Header.Get("Strict-Transport-Security"))
	}
	v := newVisitor(t, base)
	status, _, says := v.get("/readyz")
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "ready\n", says, "and nothing else to whoever asks")
	require.NoError(t, s.Close())
	status, _, _ = v.get("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, status)
	status, _, says = v.get("/healthz")
	assert.Equal(t, http.StatusOK, status)
	holds(t, says, "ok")
	r, err := http.Head(demoSite(t) + "/signin")
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Empty(t, r.Header.Get("Strict-Transport-Security"))
}

// What is removed lies in the bin, whole, and comes back; what belongs to others is not there.
func TestTheBin(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	_, at, _ := maren.post("/rack/1/drop", "")
	assert.Equal(t, "/bin", at)
	maren.post("/sheets/1/drop", "")
	maren.post("/classes/1/people/2", "do=drop")
	_, _, before := maren.get("/classes/1/ledger")
	assert.NotContains(t, before, "Tobin F.")
	_, _, says := maren.get("/bin")
	holdAll(t, says, "Tobin F.", "instrument", "sheet", "student")
	for _, path := range []string{"/workshop/1", "/sheets/1", "/classes/1/people/2"} {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	_, _, says = ivo.get("/bin")
	assert.NotContains(t, says, "Tobin F.")
	for _, thing := range []string{"sort=instrument&id=1", "sort=sheet&id=1", "sort=student&id=2", "sort=class&id=1",
		"sort=x&id=1"} {
		for _, do := range []string{"back", "remove"} {
			status, _, _ := ivo.post("/bin", thing+"&do="+do)
			assert.Equal(t, http.StatusNotFound, status, thing)
		}
	}
	// The name is free, and taken by somebody else by now.
	tobin := newVisitor(t, base)
	_, at, _ = tobin.post("/join", "code=MILL47&name=Tobin+F.&passphrase=eight+signs&do=join")
	assert.Equal(t, "/my", at)
	_, _, says = maren.post("/bin", "sort=student&id=2&do=back")
	holds(t, says, en("author.bin.from-bin.taken"))
	_, _, says = maren.get("/classes/1/people")
	id := regexp.MustCompile(`/classes/1/people/(\d+)">Tobin F.<`).FindStringSubmatch(says)
	require.NotNil(t, id)
	maren.post("/classes/1/people/"+id[1], "do=drop")
	for _, thing := range []string{"sort=instrument&id=1", "sort=sheet&id=1", "sort=student&id=2"} {
		_, _, says = maren.post("/bin", thing+"&do=back")
		holds(t, says, "back where it was")
	}
	for _, path := range []string{"/workshop/1", "/sheets/1", "/classes/1/people/2", "/ledger/2/2/1"} {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusOK, status, path)
	}
	back := as(t, base, "Tobin F.")
	status, _, _ := back.get("/my")
	assert.Equal(t, http.StatusOK, status)

	maren.post("/classes/1/drop", "")
	for _, path := range []string{"/classes/1", "/classes/1/ledger", "/ledger/2", "/board/1", "/ledger/2/3/1"} {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	_, at, _ = back.get("/my")
	assert.Equal(t, "/join", at)
	_, _, says = maren.get("/desk")
	assert.NotContains(t, says, `href="/classes/1"`)
	maren.post("/bin", "sort=class&id=1&do=back")
	status, _, _ = maren.get("/ledger/2")
	assert.Equal(t, http.StatusOK, status)
	_, _, says = ivo.post("/rack/1/drop", "")
	holds(t, says, en("ui.fail.failures"))
}

// Wherever an address for others is shown or printed, it is said beside it when they cannot open it.
func TestAnAddressOfThisComputerIsSaidToBe(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	const warning = "works only on this computer"
	for _, path := range []string{"/classes/1", "/classes/1/people/slips"} {
		_, _, page := maren.get(path)
		holds(t, page, warning, path)
	}
	_, _, page := maren.post("/keeping/people", "name=Ivy&login=ivy")
	holdAll(t, page, "With this link, Ivy", warning)
	_, _, page = maren.post("/board/1", "do=join")
	holds(t, page, warning)
	r, err := http.NewRequest(http.MethodGet, base+"/classes/1", nil)
	require.NoError(t, err)
	for _, c := range maren.Jar.Cookies(r.URL) {
		r.AddCookie(c)
	}
	r.Host = "mill.example"
	_, _, page = maren.read(maren.Do(r))
	assert.NotContains(t, page, warning)
	holds(t, page, "http://mill.example/join?code=MILL47")
}

// Signing in leads to the page that was asked for, on this site alone; without one to where each begins. Before it,
// students and instructors are shown a door each.
func TestSigningInLeadsToThePageThatWasAskedFor(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	_, at, page := newVisitor(t, base).get("/")
	assert.Equal(t, "/", at)
	holdAll(t, page, `action="/join"`, `href="/signin"`)
	for asked, with := range map[string][]string{"/ledger/2?show=times": {"/signin", "name=maren&passphrase=" +
		demo.Passphrase}, "/my/3/1": {"/join", "code=MILL47&name=Wren+A.&do=join&passphrase=" + demo.Passphrase}} {
		v := newVisitor(t, base)
		_, at, page := v.get(asked)
		require.Equal(t, with[0], at)
		_, _, page = v.post(with[0], with[1]+"x&to="+url.QueryEscape(fields(page).Get("to"))) // a wrong try first
		r, err := v.sent(with[0], with[1]+"&to="+url.QueryEscape(fields(page).Get("to")))
		require.NoError(t, err)
		assert.Equal(t, asked, r.Header.Get("Location"))
	}
	for _, bad := range []string{"//elsewhere.example", "https://elsewhere.example/", "/\\elsewhere.example",
		"javascript:alert(1)", "", "/", strings.Repeat("/a", 900)} {
		r, err := newVisitor(t, base).sent("/signin",
			"name=maren&passphrase="+demo.Passphrase+"&to="+url.QueryEscape(bad))
		require.NoError(t, err)
		assert.Contains(t, []string{"/desk", strings.Repeat("/a", 500)}, r.Header.Get("Location"), bad)
	}
}
