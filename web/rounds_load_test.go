package web_test

import (
	"bufio"
	"context"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/url"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/store"
	"cavix/web"
)

// crowd is a school of classes with students who are signed in.
type crowd struct {
	room    *school.School
	store   *store.DB
	url     string
	owner   int64
	classes []int64
	cookies [][]*http.Cookie // of students, by class
	client  *http.Client
}

// newCrowd seats students in classes. Sessions are put into the store directly: hashing thousands of passphrases is not
// what is measured.
func newCrowd(b *testing.B, classes, students int) *crowd {
	b.Helper()
	s, err := store.Open(b.Context(), filepath.Join(b.TempDir(), "crowd.db"))
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	c := &crowd{store: s, room: school.New(s),
		client: &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 400, MaxConnsPerHost: 0}}}
	ctx := b.Context()
	c.owner, err = c.room.Roster.SetUp(ctx, roster.Instructor{Login: "a", Name: "A"})
	require.NoError(b, err)
	for k := range classes {
		id, err := c.room.Roster.AddClass(ctx, c.owner, fmt.Sprintf("class %d", k), "")
		require.NoError(b, err)
		c.classes = append(c.classes, id)
		settings := roster.Settings{Name: fmt.Sprintf("class %d", k), Joining: roster.JoinOpen, Guests: true}
		require.NoError(b, c.room.Roster.SaveSettings(ctx, access.Actor{ID: c.owner}, id, settings))
	}
	c.url = site(b, web.Config{School: c.room, Log: slog.New(slog.DiscardHandler)})
	for k, id := range c.classes {
		class, err := school.New(s).Roster.Class(ctx, c.owner, id)
		require.NoError(b, err)
		var list []*http.Cookie
		var mu sync.Mutex
		var wg sync.WaitGroup
		for i := range students {
			wg.Go(func() { // guests come in without a passphrase, at addresses of their own
				form := url.Values{"code": {class.Code}, "name": {fmt.Sprintf("g%d", i)}, "do": {"guest"}}
				req, _ := http.NewRequestWithContext(ctx, http.MethodPost, c.url+"/join",
					strings.NewReader(form.Encode()))
				req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				req.Header.Set("X-Forwarded-For", fmt.Sprintf("10.%d.%d.%d", k, i/250, i%250))
				r, err := c.client.Transport.RoundTrip(req)
				if err != nil {
					return
				}
				r.Body.Close()
				mu.Lock()
				defer mu.Unlock()
				list = append(list, r.Cookies()...)
			})
		}
		wg.Wait()
		require.Len(b, list, students)
		c.cookies = append(c.cookies, list)
	}
	return c
}

// ask has a class asked a question.
func (c *crowd) ask(ctx context.Context, class int64, seed uint64) (int64, *kinds.Reading, error) {
	i := slices.IndexFunc(instrument.Patterns(),
		func(s instrument.Spec) bool { return s.Name == "Caliper 0.05 mm, 20 over 39" })
	in, err := instrument.New(instrument.Patterns()[i])
	if err != nil {
		return 0, nil, err
	}
	y, err := kinds.RoundValue(in, exercise.Method{}, seed)
	if err != nil {
		return 0, nil, err
	}
	it := kinds.NewRound(in, y, kinds.RoundSteps(in)[0], exercise.Method{})
	id, err := c.room.Rounds.Open(ctx, c.owner, class, it, true, time.Now())
	return id, it, err
}

// BenchmarkRounds is 300 students who answer 20 rounds, all within three seconds of each: how long after it was sent an
// answer is on the Board, which is told by events as a Board is. Every answer must be kept.
func BenchmarkRounds(b *testing.B) {
	c := newCrowd(b, 1, 300)
	ctx, cancel := context.WithCancel(b.Context())
	defer cancel()
	class := c.classes[0]
	news, stop := c.room.Hub.Listen(hub.Topic{Class: class, What: hub.AnswerNews})
	defer stop()
	var took []time.Duration
	kept := 0
	for b.Loop() {
		for round := range 20 {
			id, it, err := c.ask(ctx, class, uint64(round))
			require.NoError(b, err)
			right, err := it.Mark(nil)
			require.NoError(b, err)
			var mu sync.Mutex
			var wg sync.WaitGroup
			done := make(chan struct{})
			seen := make(chan int, 4096)
			go func() { // the Board: told, it looks how many have answered
				for {
					select {
					case <-news:
						time.Sleep(150 * time.Millisecond) // as the stream settles
						n, _, err := school.New(c.store).Rounds.CountReplies(ctx, 1, id)
						if err == nil {
							seen <- n
						}
						if n == 300 {
							close(done)
							return
						}
					case <-ctx.Done():
						return
					}
				}
			}()
			arrivals := make([]time.Time, 0, 300)
			for _, cookie := range c.cookies[0] {
				wg.Go(func() {
					time.Sleep(time.Duration(rand.IntN(3000)) * time.Millisecond)
					form := url.Values{"round": {fmt.Sprint(id)}, "observed": {right.Fields[0].Expected}}
					req, _ := http.NewRequestWithContext(ctx, http.MethodPost, c.url+"/round",
						strings.NewReader(form.Encode()))
					req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
					req.AddCookie(cookie)
					at := time.Now()
					r, err := c.client.Transport.RoundTrip(req)
					if err != nil {
						return
					}
					r.Body.Close()
					mu.Lock()
					arrivals = append(arrivals, at)
					mu.Unlock()
				})
			}
			counts := []struct {
				n  int
				at time.Time
			}{}
			for open := true; open; {
				select {
				case n := <-seen:
					counts = append(counts, struct {
						n  int
						at time.Time
					}{n, time.Now()})
				case <-done:
					counts = append(counts, struct {
						n  int
						at time.Time
					}{300, time.Now()})
					open = false
				}
			}
			wg.Wait()
			slices.SortFunc(arrivals, time.Time.Compare)
			for i, at := range arrivals { // the ith that was sent is there at the latest when i+1 are
				for _, k := range counts {
					if k.n >= i+1 {
						took = append(took, k.at.Sub(at))
						break
					}
				}
			}
			list, err := school.New(c.store).Rounds.Replies(ctx, 1, id)
			require.NoError(b, err)
			require.Len(b, list, 300)
			kept += len(list)
		}
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)/2].Milliseconds()), "ms-median")
	b.ReportMetric(float64(took[len(took)*99/100].Milliseconds()), "ms-p99")
	b.ReportMetric(float64(kept), "answers-kept")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkStreams is 3,000 open streams of events in 20 classes: what the server needs for them, and how long after a
// round was opened the last student of its class is told.
func BenchmarkStreams(b *testing.B) {
	c := newCrowd(b, 20, 150)
	ctx, cancel := context.WithCancel(b.Context())
	defer cancel()
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	told := make(chan time.Time, 4096)
	var open sync.WaitGroup
	for _, cookies := range c.cookies {
		for _, cookie := range cookies {
			open.Add(1)
			go func() {
				req, _ := http.NewRequestWithContext(ctx, http.MethodGet, c.url+"/round/events", nil)
				req.AddCookie(cookie)
				r, err := c.client.Transport.RoundTrip(req)
				if err != nil {
					open.Done()
					return
				}
				defer r.Body.Close()
				first := true
				for lines := bufio.NewScanner(r.Body); lines.Scan(); {
					if data, is := strings.CutPrefix(lines.Text(), "data: "); is {
						if first {
							first = false
							open.Done()
						} else if strings.HasPrefix(data, string(rounds.Open)) {
							told <- time.Now()
						}
					}
				}
			}()
		}
	}
	open.Wait()
	runtime.GC()
	runtime.ReadMemStats(&after)
	var worst time.Duration
	for b.Loop() {
		for k, class := range c.classes {
			at := time.Now()
			_, _, err := c.ask(ctx, class, uint64(k))
			require.NoError(b, err)
			for range c.cookies[k] {
				worst = max(worst, (<-told).Sub(at))
			}
		}
	}
	// Both ends of every line are in this process: the server's share is half of it or less.
	b.ReportMetric(float64(after.HeapInuse+after.StackInuse-before.HeapInuse-before.StackInuse)/(1<<20), "MB-both-ends")
	b.ReportMetric(float64(worst.Milliseconds()), "ms-last-told")
	b.ReportMetric(0, "ns/op")
}
