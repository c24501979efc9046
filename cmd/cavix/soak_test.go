package main

import (
	"bufio"
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/names"
	"cavix/ops"
	"cavix/school"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
	"cavix/store/storetest"
)

// How a class works while its server is ill-treated.
const (
	soakers    = 24 // students
	soakSheets = 30 // each of soakCards cards
	soakCards  = 50
	soakPause  = 20 * time.Millisecond // between two things that a student sends
)

// worked is a class at work on a server of its own: what it was told is kept is noted, to be looked for afterwards.
type worked struct {
	tb      testing.TB
	program string
	data    string
	addr    string
	process *exec.Cmd
	errs    *os.File
	stop    atomic.Bool
	each    time.Duration // how long a student types on a card
	typed   atomic.Int64  // drafts that were acknowledged
	working sync.WaitGroup
	pupils  []*soaker

	teacher http.Client
	reads   []time.Duration // of pages opened while nothing could be written
	unread  []string        // what was met instead of a page

	mu     sync.Mutex
	took   []time.Duration // of submissions that were acknowledged
	failed map[string]int  // what students met besides
}

// soaker is a student at work.
type soaker struct {
	id      int64
	name    string
	client  http.Client
	answers map[place]handed
	drafts  map[place]int // the last that was acknowledged
}

// place is a card of a given sheet.
type place struct {
	sheet int64
	n     int
}

// handed is an answer that the server has acknowledged.
type handed struct {
	main, observed string
	at             time.Time
}

// newWorked fills a file with a class and builds the program; race builds it with the race detector.
func newWorked(t testing.TB, dir string, race bool, students int) *worked {
	t.Helper()
	w := &worked{tb: t, program: filepath.Join(t.TempDir(), "cavix"), data: filepath.Join(dir, "school.db"),
		addr: "127.0.0.1:0", failed: map[string]int{}}
	build := exec.Command("go", "build", "-o", w.program, ".")
	if race {
		build.Args = slices.Insert(build.Args, 2, "-race")
	}
	if _, measured := t.(*testing.B); measured { // as `make build` builds it
		build.Env = append(os.Environ(), "CGO_ENABLED=0")
	}
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)
	w.errs, err = os.Create(filepath.Join(t.TempDir(), "errors"))
	require.NoError(t, err)

	ctx := t.Context()
	s, err := store.Open(ctx, w.data)
	require.NoError(t, err)
	room := school.New(s)
	hash, err := roster.HashPassphrase("tide mill")
	require.NoError(t, err)
	owner, err := room.Roster.SetUp(ctx, roster.Instructor{Login: "maren", Name: "Maren", Hash: hash})
	require.NoError(t, err)
	class, err := room.Roster.AddClass(ctx, owner, "Soaked", "SOAKED")
	require.NoError(t, err)
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper,
		Unit: length.Millimetre, Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, MainDivisions: 39}})
	require.NoError(t, err)
	for i := range students {
		p := &soaker{name: fmt.Sprintf("Pupil %c%c", 'a'+i/26, 'a'+i%26), answers: map[place]handed{},
			drafts: map[place]int{}}
		p.id = storetest.Exec(t, s, "INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, ?, 0)",
			class, p.name, names.Fold(p.name), hash)
		w.pupils = append(w.pupils, p)
	}
	for i := range soakSheets {
		block := exercise.Block{Kind: kinds.All[0].Name(), Cards: soakCards, Instruments: []*instrument.Instrument{in},
			Settings: map[string]string{"ask": "main observed", "awkward": "0"}}
		id, err := room.Rack.KeepSheet(ctx, owner, rack.Sheet{Title: fmt.Sprint("Sheet ", i+1), Racked: [][]int64{nil},
			Definition: exercise.Sheet{Blocks: []exercise.Block{block}, Dealer: exercise.Dealing}})
		require.NoError(t, err)
		_, err = room.Sitting.Give(ctx, owner, class, id, uint64(i), time.Now())
		require.NoError(t, err)
	}
	require.NoError(t, s.Close())
	return w
}

// start serves until the program says where it is; later starts are at the same address.
func (w *worked) start() {
	w.tb.Helper()
	w.process = exec.Command(w.program, "serve", "--addr", w.addr, "--data", w.data)
	w.process.Stderr = w.errs
	out, err := w.process.StdoutPipe()
	require.NoError(w.tb, err)
	require.NoError(w.tb, w.process.Start())
	lines := bufio.NewScanner(out)
	require.True(w.tb, lines.Scan(), "the server does not start")
	found := announced.FindStringSubmatch(lines.Text())
	require.NotNil(w.tb, found, lines.Text())
	w.addr = strings.TrimPrefix(found[1], "http://")
	go func() { _, _ = io.Copy(io.Discard, out) }()
}

// kill ends the program without a word of warning.
func (w *worked) kill() {
	_ = w.process.Process.Kill()
	_ = w.process.Wait() // killed: that is its error
}

// begin signs everybody in and sets them to work.
func (w *worked) begin() {
	w.tb.Helper()
	w.signIn()
	for i, p := range w.pupils {
		w.working.Go(func() { w.work(p, rand.New(rand.NewPCG(uint64(i), 7))) })
	}
}

// signIn signs everybody in, each from an address of their own.
func (w *worked) signIn() {
	w.tb.Helper()
	enter := func(from, path string, form url.Values) http.Client {
		jar, err := cookiejar.New(nil)
		require.NoError(w.tb, err)
		client := http.Client{Jar: jar, Timeout: 25 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: 1},
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		r, err := http.NewRequest(http.MethodPost, "http://"+w.addr+path, strings.NewReader(form.Encode()))
		require.NoError(w.tb, err)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("X-Forwarded-For", from)
		answer, err := client.Do(r)
		require.NoError(w.tb, err)
		require.NoError(w.tb, answer.Body.Close())
		require.Equal(w.tb, http.StatusSeeOther, answer.StatusCode)
		return client
	}
	w.teacher = enter("10.2.0.1", "/signin", url.Values{"name": {"maren"}, "passphrase": {"tide mill"}})
	for i, p := range w.pupils {
		p.client = enter(fmt.Sprintf("10.1.%d.%d", i/200, i%200+1), "/join",
			url.Values{"code": {"SOAKED"}, "name": {p.name}, "passphrase": {"tide mill"}, "do": {"back"}})
	}
}

// read opens the pages of a lesson for a while, in which nothing can be written, and notes how long each took.
func (w *worked) read(long time.Duration) {
	for until := time.Now().Add(long); time.Now().Before(until); {
		for _, page := range []struct {
			by   *http.Client
			path string
		}{{&w.teacher, "/desk"}, {&w.teacher, "/classes/1"}, {&w.teacher, "/classes/1/ledger"},
			{&w.teacher, "/ledger/1"}, {&w.teacher, "/board/1"}, {&w.pupils[0].client, "/my"},
			{&w.pupils[0].client, "/my/1"}, {&w.pupils[0].client, "/my/1/1"}, {&w.pupils[0].client, "/round"}} {
			began := time.Now()
			r, err := page.by.Get("http://" + w.addr + page.path)
			if err == nil {
				_, err = io.Copy(io.Discard, r.Body)
				_ = r.Body.Close()
			}
			w.reads = append(w.reads, time.Since(began))
			if err != nil || r.StatusCode != http.StatusOK {
				w.unread = append(w.unread, fmt.Sprint(page.path, " ", err))
			}
		}
	}
}

// end lets everybody finish what is on its way.
func (w *worked) end() {
	w.stop.Store(true)
	w.working.Wait()
}

func (p *soaker) send(w *worked, path string, form url.Values) (int, error) {
	r, err := p.client.PostForm("http://"+w.addr+path, form)
	if err != nil {
		return 0, err
	}
	_, err = io.Copy(io.Discard, r.Body)
	err = cmp.Or(err, r.Body.Close())
	// It has not begun where it leads elsewhere; whoever looks at a card begins.
	if to := r.Header.Get("Location"); err == nil && to != "" && !strings.HasPrefix(to, path) {
		var card *http.Response
		if card, err = p.client.Get("http://" + w.addr + path); err == nil {
			err = cmp.Or(card.Body.Close(), errors.New("the sheet had not begun"))
		}
	}
	return r.StatusCode, err
}

// work answers card after card. What was not acknowledged is sent again, word for word, until it is.
func (w *worked) work(p *soaker, by *rand.Rand) {
	for sheet := int64(1); sheet <= soakSheets; sheet++ {
		for n := 1; n <= soakCards; n++ {
			at := place{sheet, n}
			path := fmt.Sprintf("/my/%d/%d", sheet, n)
			for draft, until := 1, time.Now().Add(w.each); time.Now().Before(until) && !w.stop.Load(); draft++ {
				if status, err := p.send(w, path+"/draft", url.Values{"main": {fmt.Sprint(draft)}}); err == nil &&
					status == http.StatusNoContent {
					p.drafts[at] = draft
					w.typed.Add(1)
				} else {
					w.met(status, err)
				}
				time.Sleep(soakPause)
			}
			a := handed{main: fmt.Sprint(by.IntN(150)), observed: fmt.Sprintf("%d.%02d", by.IntN(150), 5*by.IntN(20))}
			for a.at.IsZero() && !w.stop.Load() {
				began := time.Now()
				status, err := p.send(w, path, url.Values{"main": {a.main}, "observed": {a.observed}, "do": {"anyway"}})
				if err == nil && status == http.StatusSeeOther {
					a.at = time.Now()
					p.answers[at] = a
					delete(p.drafts, at)
					w.mu.Lock()
					w.took = append(w.took, a.at.Sub(began))
					w.mu.Unlock()
					break
				}
				w.met(status, err)
				time.Sleep(50 * time.Millisecond)
			}
			if w.stop.Load() {
				return
			}
		}
	}
}

// met notes what a student met instead of an acknowledgement.
func (w *worked) met(status int, err error) {
	what := fmt.Sprint("status ", status)
	if err != nil {
		what = "no answer"
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.failed[what]++
}

// lost looks for everything that was acknowledged before a time in a file that is not served, and lists what is not
// there.
func (w *worked) lost(path string, before time.Time) (lost []string, looked int) {
	w.tb.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(w.tb, err)
	defer db.Close()
	kept := map[string]string{}
	rows, err := db.Query("SELECT student, assignment, n, coalesce(unpacked(answer), ''), coalesce(draft, '') " +
		"FROM cards WHERE assignment IS NOT NULL")
	require.NoError(w.tb, err)
	defer rows.Close()
	for rows.Next() {
		var student, sheet, n int64
		var answer, draft string
		require.NoError(w.tb, rows.Scan(&student, &sheet, &n, &answer, &draft))
		kept[fmt.Sprint(student, sheet, n)] = cmp.Or(answer, draft)
	}
	require.NoError(w.tb, rows.Err())
	for _, p := range w.pupils {
		for at, a := range p.answers {
			if a.at.After(before) {
				continue
			}
			looked++
			var got map[string]string
			says := kept[fmt.Sprint(p.id, at.sheet, at.n)]
			if json.Unmarshal([]byte(says), &got) != nil || got["main"] != a.main || got["observed"] != a.observed {
				lost = append(lost, fmt.Sprintf("%s, sheet %d, card %d: %v stands as %q", p.name, at.sheet, at.n, a,
					says))
			}
		}
		if !before.After(time.Now()) {
			continue // of drafts it is not noted when
		}
		for at, draft := range p.drafts {
			looked++
			var got map[string]string
			says := kept[fmt.Sprint(p.id, at.sheet, at.n)]
			err := json.Unmarshal([]byte(says), &got)
			if n, wrong := strconv.Atoi(got["main"]); err != nil || wrong != nil || n < draft {
				lost = append(lost, fmt.Sprintf("%s, sheet %d, card %d: draft %d stands as %q", p.name, at.sheet, at.n,
					draft, says))
			}
		}
	}
	return lost, looked
}

// acknowledged counts the answers that were.
func (w *worked) acknowledged() (n int) {
	for _, p := range w.pupils {
		n += len(p.answers)
	}
	return n
}

// A class works while its server is killed again and again, its file is held by others, its disk runs full, and copies
// are made and put back: nothing that was acknowledged is lost, and every mark is the one that the core gives.
// CAVIX_SOAK is how long, CAVIX_SOAK_REPORT the file for the report, CAVIX_SOAK_RACE builds with the race detector.
func TestSoak(t *testing.T) {
	if testing.Short() {
		t.Skip("ill-treats a server; left out with -short")
	}
	long := 15 * time.Second
	if says := os.Getenv("CAVIX_SOAK"); says != "" {
		var err error
		long, err = time.ParseDuration(says)
		require.NoError(t, err)
	}
	dir := t.TempDir()
	small := smallDisk(t, dir)
	race := os.Getenv("CAVIX_SOAK_RACE") != ""
	w := newWorked(t, dir, race, soakers)
	w.each = long / (soakSheets * soakCards)
	w.start()
	t.Cleanup(w.kill)
	w.begin()
	did := map[string]int{}
	by := rand.New(rand.NewPCG(3, 4))
	began := time.Now()
	pauses := 3 * time.Second
	if long < time.Minute {
		pauses = 1200 * time.Millisecond
	}
	for round := 1; time.Since(began) < long; round++ {
		time.Sleep(pauses + time.Duration(by.Int64N(int64(pauses))))
		switch {
		case round%10 == 4:
			w.hold(2 * time.Second)
			did["file held by another program"]++
		case round%10 == 8 && small:
			w.fill(dir, 2*time.Second)
			did["disk full"]++
		case round%20 == 6:
			w.copyAndPutBack(dir, round)
			did["copied while it was served, put back elsewhere and looked through"]++
		}
		w.kill()
		did["killed without warning"]++
		w.start()
	}
	w.end()
	took := time.Since(began)
	w.kill()
	r, note, err := ops.Check(t.Context(), w.data, ops.Checking{})
	require.NoError(t, err)
	assert.True(t, r.Sound(), r.Faults)
	assert.Empty(t, note)
	lost, looked := w.lost(w.data, time.Now().Add(time.Hour))
	assert.Empty(t, lost)
	assert.GreaterOrEqual(t, r.Answers, w.acknowledged())
	said, err := os.ReadFile(w.errs.Name())
	require.NoError(t, err)
	assert.NotContains(t, string(said), "DATA RACE")
	assert.NotContains(t, string(said), "panic")
	assert.Empty(t, w.unread, "pages are read whatever cannot be written")
	if long >= time.Minute && !race { // on a machine that does nothing else
		assert.Less(t, slices.Max(w.reads), time.Second, "the slowest page while nothing could be written")
	}
	w.report(took, did, small, looked, len(lost), r)
}

// hold has the file held by another program for a while.
func (w *worked) hold(long time.Duration) {
	w.tb.Helper()
	db, err := sql.Open("sqlite", "file:"+w.data+"?_pragma=busy_timeout(10000)")
	require.NoError(w.tb, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	_, err = db.Exec("BEGIN IMMEDIATE")
	require.NoError(w.tb, err)
	w.read(long)
	_, err = db.Exec("ROLLBACK")
	require.NoError(w.tb, err)
}

// copyAndPutBack copies the file while it is served, puts the copy back elsewhere, and looks through it.
func (w *worked) copyAndPutBack(dir string, round int) {
	w.tb.Helper()
	ctx := context.Background()
	copied, back := filepath.Join(dir, fmt.Sprintf("copy-%d.db", round)), filepath.Join(dir, "back.db")
	_, err := ops.Backup(ctx, w.data, copied)
	require.NoError(w.tb, err)
	_, err = ops.Restore(ctx, copied, back, true)
	require.NoError(w.tb, err)
	r, _, err := ops.Check(ctx, back, ops.Checking{})
	require.NoError(w.tb, err)
	assert.True(w.tb, r.Sound(), r.Faults)
	for _, pattern := range []string{"copy-*.db", "back.db*"} {
		files, _ := filepath.Glob(filepath.Join(dir, pattern))
		for _, f := range files {
			_ = os.Remove(f)
		}
	}
}

// smallDisk puts a disk of its own at a folder, where that is allowed: only then can it run full.
func smallDisk(t *testing.T, dir string) bool {
	t.Helper()
	if err := exec.Command("mount", "-t", "tmpfs", "-o", "size=600m", "tmpfs", dir).Run(); err != nil {
		t.Log("no disk of its own could be had, so none runs full:", err)
		return false
	}
	t.Cleanup(func() { _ = exec.Command("umount", "-l", dir).Run() })
	return true
}

// fill has the disk of a folder full for a while.
func (w *worked) fill(dir string, long time.Duration) {
	t := w.tb
	t.Helper()
	path := filepath.Join(dir, "filler")
	f, err := os.Create(path)
	require.NoError(t, err)
	block := make([]byte, 1<<20)
	for err == nil {
		_, err = f.Write(block)
	}
	for one := block[:512]; ; { // to the last bit
		if _, err := f.Write(one); err != nil {
			break
		}
	}
	assert.ErrorIs(t, err, syscall.ENOSPC)
	require.NoError(t, f.Close())
	w.read(long)
	require.NoError(t, os.Remove(path))
}

// report writes what was done and what came of it.
func (w *worked) report(took time.Duration, did map[string]int, small bool, looked, lost int, r ops.Report) {
	w.tb.Helper()
	slices.Sort(w.took)
	share := func(of float64) time.Duration {
		if len(w.took) == 0 {
			return 0
		}
		return w.took[min(len(w.took)-1, int(of*float64(len(w.took))))].Round(100 * time.Microsecond)
	}
	var b strings.Builder
	fmt.Fprintf(&b, "# Soak\n\n%d students at work on one server for %s, while it was ill-treated (`make soak`).\n\n",
		soakers, took.Round(time.Second))
	b.WriteString("| what was done | times |\n|---|---:|\n")
	for _, what := range slices.Sorted(maps.Keys(did)) {
		fmt.Fprintf(&b, "| %s | %d |\n", what, did[what])
	}
	if !small {
		b.WriteString("| disk full: not tried, since no disk of its own could be had | 0 |\n")
	}
	b.WriteString("\n| what came of it | |\n|---|---:|\n")
	fmt.Fprintf(&b, "| answers acknowledged | %d |\n| drafts acknowledged, each over the one before | %d |\n| "+
		"answers and last drafts looked for afterwards | %d |\n| **lost** | **%d** |\n", w.acknowledged(),
		w.typed.Load(), looked, lost)
	fmt.Fprintf(&b, "| answers marked anew, all as the core gives them | %d |\n| faults that `cavix check` found | "+
		"%d |\n", r.Answers, len(r.Faults)+r.More)
	fmt.Fprintf(&b, "| half of the answers acknowledged within | %s |\n| 99 of 100 within | %s |\n", share(.5),
		share(.99))
	if len(w.reads) > 0 {
		slices.Sort(w.reads)
		fmt.Fprintf(&b, "| pages opened while the file was held or the disk full | %d |\n| half of them within | %s "+
			"|\n| the slowest | %s |\n| not opened | %d |\n",
			len(w.reads), w.reads[len(w.reads)/2].Round(100*time.Microsecond),
			w.reads[len(w.reads)-1].Round(time.Millisecond), len(w.unread))
	}
	for _, what := range slices.Sorted(maps.Keys(w.failed)) {
		fmt.Fprintf(&b, "| sent again after: %s | %d |\n", what, w.failed[what])
	}
	w.tb.Log("\n" + b.String())
	if path := os.Getenv("CAVIX_SOAK_REPORT"); path != "" {
		require.NoError(w.tb, os.WriteFile(path, []byte(b.String()), 0o644))
	}
}
