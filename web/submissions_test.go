package web_test

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
	"cavix/web"
)

// connections is how many students hand in at once.
const connections = 64

// BenchmarkSubmissions hands in cards at 64 connections, each marked and on the disk before it is
// confirmed, and beside it one row at a time through a plain chi handler with a transaction of its own, and
// through a bare one that only answers. They take turns in the same run, so that they meet the same disk and
// the same processors; clients and servers share those.
func BenchmarkSubmissions(b *testing.B) {
	cavix, plain, bare := newSeats(b), newPlain(b), newBare(b)
	var rates [3]paces
	for b.Loop() {
		for i, hand := range []func(b *testing.B) paces{plain.run, bare.run, cavix.run} {
			p := hand(b)
			rates[i].took += p.took
			rates[i].each = append(rates[i].each, p.each...)
		}
	}
	plainly, barely, ours := rates[0].rate(), rates[1].rate(), rates[2].rate()
	b.ReportMetric(plainly, "plain/s")
	b.ReportMetric(barely, "bare/s")
	b.ReportMetric(ours, "cavix/s")
	b.ReportMetric(ours/plainly, "of-plain")
	b.ReportMetric(ours/barely, "of-bare")
	b.ReportMetric(float64(rates[2].share(.5).Microseconds())/1000, "p50-ms")
	b.ReportMetric(float64(rates[2].share(.99).Microseconds())/1000, "p99-ms")
	b.ReportMetric(0, "ns/op")
}

// paces are how long all took together, and each.
type paces struct {
	took time.Duration
	each []time.Duration
}

func (p paces) rate() float64 { return float64(len(p.each)) / p.took.Seconds() }

func (p paces) share(of float64) time.Duration {
	slices.Sort(p.each)
	return p.each[int(of*float64(len(p.each)-1))]
}

// perRound is how many cards each connection hands in in a round.
const perRound = 40

// seats are students signed in, with cards to hand in.
type seats struct {
	url     string
	clients []*http.Client
	room    *school.School
	pupils  []int64
	owner   int64
	class   int64
	sheet   func() int64
}

func newSeats(b *testing.B) *seats {
	b.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(b.TempDir(), "load.db"))
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	room := school.New(s)
	e := &seats{room: room}
	e.owner, err = room.Roster.SetUp(ctx, roster.Instructor{Login: "load", Name: "Load"})
	require.NoError(b, err)
	e.class, err = room.Roster.AddClass(ctx, e.owner, "Load", "LOADED")
	require.NoError(b, err)
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper,
		Unit: length.Millimetre, ZeroError: length.Frac(-3, 20),
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, MainDivisions: 39}})
	require.NoError(b, err)
	e.sheet = func() int64 {
		block := exercise.Block{Kind: kinds.All[0].Name(), Cards: perRound, Instruments: []*instrument.Instrument{in},
			Settings: map[string]string{"awkward": "0"}}
		id, err := room.Rack.KeepSheet(ctx, e.owner, rack.Sheet{Title: "Load", Racked: [][]int64{nil},
			Definition: exercise.Sheet{Blocks: []exercise.Block{block}, Dealer: exercise.Dealing}})
		require.NoError(b, err)
		return id
	}
	e.url = site(b, web.Config{School: school.New(s), Log: slog.New(slog.DiscardHandler)})
	hash, err := roster.HashPassphrase("load load")
	require.NoError(b, err)
	for i := range connections {
		name := fmt.Sprintf("Pupil %d", i)
		id, err := room.Roster.Join(ctx, e.class, name, hash, time.Now())
		require.NoError(b, err)
		v := newVisitor(b, e.url)
		v.Transport = &http.Transport{MaxIdleConnsPerHost: 1}
		v.post("/join", "code=LOADED&do=join&passphrase=load+load&name="+url.QueryEscape(name))
		v.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		e.pupils, e.clients = append(e.pupils, id), append(e.clients, &v.Client)
	}
	return e
}

// run deals a fresh sheet to all and measures how long they take to hand it in.
func (e *seats) run(b *testing.B) paces {
	b.Helper()
	ctx := context.Background()
	gift, err := e.room.Sitting.Give(ctx, e.owner, e.class, e.sheet(), 7, time.Now())
	require.NoError(b, err)
	for _, p := range e.pupils {
		_, err := e.room.Sitting.Sit(ctx, p, gift, time.Now())
		require.NoError(b, err)
	}
	return atOnce(b, e.clients, func(n int) (string, url.Values) {
		return fmt.Sprintf("%s/my/%d/%d", e.url, gift, n+1),
			url.Values{"main": {"31"}, "fine_line": {"8"}, "observed": {"31.40"}, "zero_error": {"+0.15"},
				"corrected": {"31.25"}}
	}, http.StatusSeeOther)
}

// plain is the handler that is measured against.
type plain struct {
	url     string
	clients []*http.Client
}

func newPlain(b *testing.B) *plain {
	b.Helper()
	path := filepath.Join(b.TempDir(), "plain.db")
	db, err := sql.Open(
		"sqlite",
		"file:"+path+"?_pragma=busy_timeout(60000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&"+
			"_txlock=immediate",
	)
	require.NoError(b, err)
	_, err = db.Exec(
		"CREATE TABLE answers (id INTEGER PRIMARY KEY, main TEXT, line TEXT, observed TEXT, zero TEXT, corrected TEXT)",
	)
	require.NoError(b, err)
	r := chi.NewRouter()
	r.Post("/answers", func(w http.ResponseWriter, r *http.Request) {
		tx, err := db.BeginTx(r.Context(), nil)
		if err == nil {
			_, err = tx.Exec("INSERT INTO answers (main, line, observed, zero, corrected) VALUES (?, ?, ?, ?, ?)",
				r.PostFormValue("main"), r.PostFormValue("fine_line"), r.PostFormValue("observed"),
				r.PostFormValue("zero_error"), r.PostFormValue("corrected"))
		}
		if err == nil {
			err = tx.Commit()
		}
		if err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		w.WriteHeader(http.StatusCreated)
	})
	srv := httptest.NewServer(r)
	b.Cleanup(func() { srv.Close(); db.Close() })
	p := &plain{url: srv.URL}
	for range connections {
		p.clients = append(p.clients, &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 1}})
	}
	return p
}

func (p *plain) run(b *testing.B) paces {
	b.Helper()
	return atOnce(b, p.clients, func(int) (string, url.Values) {
		return p.url + "/answers", url.Values{"main": {"31"}, "fine_line": {"8"}, "observed": {"31.40"},
			"zero_error": {"+0.15"}, "corrected": {"31.25"}}
	}, http.StatusCreated)
}

// bare is a handler that only answers, with clients of its own.
type bare struct{ plain }

func newBare(b *testing.B) *bare {
	b.Helper()
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.WriteHeader(http.StatusCreated)
		_, _ = io.WriteString(w, "hello")
	}))
	b.Cleanup(srv.Close)
	p := &bare{plain{url: srv.URL}}
	for range connections {
		p.clients = append(p.clients, &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 1}})
	}
	return p
}

// atOnce has every client send its forms, all clients at once, and measures how long that takes.
func atOnce(b *testing.B, clients []*http.Client, form func(n int) (string, url.Values), want int) paces {
	b.Helper()
	var wg sync.WaitGroup
	var failed atomic.Int64
	each := make([]time.Duration, len(clients)*perRound)
	began := time.Now()
	for i, c := range clients {
		wg.Go(func() {
			for n := range perRound {
				at, values := form(n)
				sent := time.Now()
				r, err := c.PostForm(at, values)
				if err != nil {
					failed.Add(1)
					continue
				}
				_, err = io.Copy(io.Discard, r.Body)
				if r.Body.Close() != nil || err != nil || r.StatusCode != want {
					failed.Add(1)
				}
				each[i*perRound+n] = time.Since(sent)
			}
		})
	}
	wg.Wait()
	took := time.Since(began)
	require.Zero(b, failed.Load(), "submissions that were not confirmed")
	return paces{took, each}
}
