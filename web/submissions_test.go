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
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/store"
	"cavix/web"
)

// connections is how many students hand in at once.
const connections = 64

// BenchmarkSubmissions hands in cards at 64 connections, each marked and on the disk before it is
// confirmed, and beside it one row at a time through a plain chi handler with a transaction of its own.
// The two take turns in the same run, so that they meet the same disk.
func BenchmarkSubmissions(b *testing.B) {
	cavix, plain := newSeats(b), newPlain(b)
	var took [2]time.Duration
	for b.Loop() {
		for i, hand := range []func(b *testing.B) time.Duration{plain.run, cavix.run} {
			took[i] += hand(b)
		}
	}
	const each = connections * perRound
	rate := func(d time.Duration) float64 { return float64(b.N) * each / d.Seconds() }
	b.ReportMetric(rate(took[0]), "plain/s")
	b.ReportMetric(rate(took[1]), "cavix/s")
	b.ReportMetric(rate(took[1])/rate(took[0]), "times")
	b.ReportMetric(0, "ns/op")
}

// perRound is how many cards each connection hands in in a round.
const perRound = 10

// seats are students signed in, with cards to hand in.
type seats struct {
	url     string
	clients []*http.Client
	room    *classroom.Room
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
	room := classroom.New(s)
	e := &seats{room: room}
	e.owner, err = room.SetUp(ctx, store.Instructor{Login: "load", Name: "Load"})
	require.NoError(b, err)
	e.class, err = room.AddClass(ctx, e.owner, "Load", "LOADED")
	require.NoError(b, err)
	in, err := instrument.New(instrument.Spec{Name: "Twentieth", Family: instrument.VernierCaliper,
		Unit: length.Millimetre, ZeroError: length.Frac(-3, 20),
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 20, Spans: 39}})
	require.NoError(b, err)
	e.sheet = func() int64 {
		block := exercise.Block{Kind: kinds.All[0].Name(), Cards: perRound, Instruments: []*instrument.Instrument{in},
			Settings: map[string]string{"awkward": "0"}}
		id, err := room.KeepSheet(ctx, e.owner, classroom.Sheet{Title: "Load", Racked: [][]int64{nil},
			Definition: exercise.Sheet{Blocks: []exercise.Block{block}, Dealer: exercise.Dealing}})
		require.NoError(b, err)
		return id
	}
	e.url = site(b, web.Config{Store: s, Log: slog.New(slog.DiscardHandler)})
	hash, err := classroom.HashPassphrase("load load")
	require.NoError(b, err)
	for i := range connections {
		name := fmt.Sprintf("Pupil %d", i)
		id, err := room.Join(ctx, e.class, name, hash, time.Now())
		require.NoError(b, err)
		v := newVisitor(b, e.url)
		v.Transport = &http.Transport{MaxIdleConnsPerHost: 1}
		v.post("/join", "code=LOADED&do=back&passphrase=load+load&name="+url.QueryEscape(name))
		v.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		e.pupils, e.clients = append(e.pupils, id), append(e.clients, &v.Client)
	}
	return e
}

// run deals a fresh sheet to all and measures how long they take to hand it in.
func (e *seats) run(b *testing.B) time.Duration {
	b.Helper()
	ctx := context.Background()
	gift, err := e.room.Give(ctx, e.owner, e.class, e.sheet(), 7, time.Now())
	require.NoError(b, err)
	for _, p := range e.pupils {
		_, err := e.room.Sit(ctx, p, gift, time.Now())
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
		"file:"+path+"?_pragma=busy_timeout(60000)&_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_txlock=immediate",
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

func (p *plain) run(b *testing.B) time.Duration {
	b.Helper()
	return atOnce(b, p.clients, func(int) (string, url.Values) {
		return p.url + "/answers", url.Values{"main": {"31"}, "fine_line": {"8"}, "observed": {"31.40"},
			"zero_error": {"+0.15"}, "corrected": {"31.25"}}
	}, http.StatusCreated)
}

// atOnce has every client send its forms, all clients at once, and measures how long that takes.
func atOnce(b *testing.B, clients []*http.Client, form func(n int) (string, url.Values), want int) time.Duration {
	b.Helper()
	var wg sync.WaitGroup
	var failed atomic.Int64
	began := time.Now()
	for _, c := range clients {
		wg.Go(func() {
			for n := range perRound {
				at, values := form(n)
				r, err := c.PostForm(at, values)
				if err != nil {
					failed.Add(1)
					continue
				}
				_, err = io.Copy(io.Discard, r.Body)
				if r.Body.Close() != nil || err != nil || r.StatusCode != want {
					failed.Add(1)
				}
			}
		})
	}
	wg.Wait()
	took := time.Since(began)
	require.Zero(b, failed.Load(), "submissions that were not confirmed")
	return took
}
