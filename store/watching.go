package store

import (
	"runtime"
	"slices"
	"strings"
	"sync/atomic"
	"time"
)

// slow is how long a query takes that is worth a word.
const slow = 100 * time.Millisecond

// Watcher is told what the store does.
type Watcher struct {
	Commit func(pieces int, took time.Duration, err error) // after every commit, kept or not
	Slow   func(query string, took time.Duration)          // after a query that took long, by its name
}

// watching hands on to a watcher, where there is one.
type watching struct{ to atomic.Pointer[Watcher] }

// Watch has a watcher told from now on.
func (s *Store) Watch(w Watcher) { s.watcher.to.Store(&w) }

func (w *watching) commit(pieces int, took time.Duration, err error) {
	if to := w.to.Load(); to != nil {
		to.Commit(pieces, took, err)
	}
}

// query tells of a query that began at a time and ends now, where it took long. Its name is that of the function of this
// package that asked it.
func (w *watching) query(began time.Time) {
	took := time.Since(began)
	if took < slow {
		return
	}
	if to := w.to.Load(); to != nil {
		to.Slow(caller(), took)
	}
}

// general are the functions that ask on behalf of others.
var general = []string{"one", "all", "only", "turn"}

// caller is the function of this package on whose behalf the general ones ask.
func caller() string {
	pcs := make([]uintptr, 12)
	frames := runtime.CallersFrames(pcs[:runtime.Callers(3, pcs)])
	name := "unknown"
	for {
		f, more := frames.Next()
		_, after, ours := strings.Cut(f.Function, "cavix/store.")
		if !ours {
			return name
		}
		after = strings.NewReplacer("(*Reader).", "", "(*Tx).", "", "[...]", "").Replace(after)
		if function, _, _ := strings.Cut(after, ".func"); !slices.Contains(general, function) &&
			!strings.HasPrefix(function, "(*") {
			name = function
		}
		if !more {
			return name
		}
	}
}
