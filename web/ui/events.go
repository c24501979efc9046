package ui

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"time"

	"cavix/school/hub"
)

// How streams of events are kept alive and from running too fast.
const (
	beat    = 15 * time.Second       // a sign of life, so that nobody in between closes the line
	settle  = 150 * time.Millisecond // news of a moment arrive as one
	patient = 10 * time.Second       // how long a browser may take to take an event
	recheck = 5 * time.Second        // whether who listens still may
)

// MostStreams is the largest number of streams that one person may have open.
const MostStreams = 20

// streams counts the streams that each person has open.
type streams struct {
	mu   sync.Mutex
	open map[User]int
}

// begin counts one more stream of somebody; ok is false where they have as many as they may.
func (s *streams) begin(u User) (end func(), ok bool) {
	who := User{Role: u.Role, ID: u.ID}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.open[who] >= MostStreams {
		return nil, false
	}
	if s.open == nil {
		s.open = map[User]int{}
	}
	s.open[who]++
	return func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		if s.open[who]--; s.open[who] == 0 {
			delete(s.open, who)
		}
	}, true
}

// Snapshot is an event of a stream: its id, with which a browser that was cut off resumes, and its data.
type Snapshot struct{ ID, Data string }

// Stream sends a browser a snapshot at once, unless it knows that one already, and again whenever there is news and it
// has changed, until the browser or the server goes, or who listens may no longer: signed out, left the class, or
// without a role in it. With ?once it sends what it tells now as plain text, for a browser that streams do not reach.
func (s *Site) Stream(w http.ResponseWriter, r *http.Request, topic hub.Topic,
	now func(context.Context) (Snapshot, error)) error {
	if r.URL.Query().Has("once") {
		at, err := now(r.Context())
		if err != nil {
			return err
		}
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		_, err = io.WriteString(w, at.Data)
		return err
	}
	end, ok := s.streams.begin(UserOf(r))
	if !ok {
		w.Header().Set("Retry-After", "30")
		http.Error(w, fmt.Sprintf("you have %d pages open that are kept up to date; close some", MostStreams),
			http.StatusTooManyRequests)
		return nil
	}
	defer end()
	news, stop := s.School.Hub.Listen(topic)
	defer stop()
	known := r.Header.Get("Last-Event-ID")
	first, err := now(r.Context())
	if err != nil {
		return err
	}
	out := http.NewResponseController(w)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("X-Accel-Buffering", "no") // a proxy passes it on as it comes
	send := func(says string) bool {
		_ = out.SetWriteDeadline(time.Now().Add(patient)) // where there is none, the line says so itself
		_, err := w.Write([]byte(says))
		return err == nil && out.Flush() == nil
	}
	if !send("retry: 2000\n\n") || first.ID != known && !send(event(first)) {
		return nil
	}
	known = first.ID
	beats := time.NewTicker(beat)
	defer beats.Stop()
	checks := time.NewTicker(recheck)
	defer checks.Stop()
	for {
		select {
		case <-r.Context().Done():
			return nil
		case <-s.School.Hub.Closed():
			return nil
		case <-checks.C:
			if !s.still(r) {
				return nil
			}
		case <-beats.C:
			if !send(": beat\n\n") {
				return nil
			}
		case <-news:
			select {
			case <-time.After(settle):
			case <-r.Context().Done():
				return nil
			}
			if !s.still(r) {
				return nil
			}
			next, err := now(r.Context())
			if err != nil {
				return nil //nolint:nilerr // what was sent stands; the browser asks again, and is told then
			}
			if next.ID != known && !send(event(next)) {
				return nil
			}
			known = next.ID
		}
	}
}

// event writes a snapshot as an event.
func event(s Snapshot) string {
	return fmt.Sprintf("id: %s\ndata: %s\n\n", s.ID, strings.ReplaceAll(s.Data, "\n", "\ndata: "))
}
