package store

import (
	"sync/atomic"
	"time"
)

// slow is the duration from which a query is logged.
const slow = 100 * time.Millisecond

// Watcher is told what the store does.
type Watcher struct {
	Commit func(pieces int, took time.Duration, err error) // after every commit, kept or not
	Slow   func(query string, took time.Duration)          // after a query that took long, by its name
	Asked  func(query string, took time.Duration)          // after every query; nil where nobody counts them
}

// watching hands on to a watcher, where there is one.
type watching struct{ to atomic.Pointer[Watcher] }

// Watch has a watcher told from now on.
func (db *DB) Watch(w Watcher) { db.watcher.to.Store(&w) }

func (w *watching) commit(pieces int, took time.Duration, err error) {
	if to := w.to.Load(); to != nil {
		to.Commit(pieces, took, err)
	}
}

// query tells of a query that began at a time and ends now.
func (w *watching) query(name string, began time.Time) {
	to, took := w.to.Load(), time.Since(began)
	if to == nil {
		return
	}
	if to.Asked != nil {
		to.Asked(name, took)
	}
	if took >= slow {
		to.Slow(name, took)
	}
}
