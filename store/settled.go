package store

import (
	"context"
	"regexp"
	"slices"
	"sync"
	"sync/atomic"
	"time"
)

// settled remembers rows that every request asks for and that seldom change: who is signed in, what a sheet was given with,
// how far an attempt is. Whatever changes such a row, in this program or in another that has the file open, has all of them
// forgotten; what is remembered is only good for the generation in which it was asked.
type settled struct {
	generation atomic.Uint64
	mu         sync.RWMutex
	rows       map[settledKey]remembered
}

// settledKey names what was asked.
type settledKey struct {
	what string
	a, b int64
	text string
}

type remembered struct {
	generation uint64
	value      any
}

// mostRemembered bounds how many answers are remembered.
const mostRemembered = 20_000

// remember asks a question, or answers it as it was answered before.
func remember[T any](s *settled, key settledKey, ask func() (T, error)) (T, error) {
	if s == nil { // within a transaction, which sees what it has itself changed
		return ask()
	}
	generation := s.generation.Load() // before it is asked: what changes meanwhile has the answer forgotten
	s.mu.RLock()
	known, ok := s.rows[key]
	s.mu.RUnlock()
	if ok && known.generation == generation {
		return known.value.(T), nil
	}
	value, err := ask()
	if err != nil {
		return value, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.rows == nil || len(s.rows) >= mostRemembered {
		s.rows = map[settledKey]remembered{}
	}
	s.rows[key] = remembered{generation, value}
	return value, nil
}

// restless are the tables whose rows are never remembered: those that a class at work changes.
var restless = []string{"cards", "entries", "practice", "evidence", "rounds", "replies", "boards", "signins", "keeping", "keeping_log",
	"changes", "people_log", "remarkings", "marks_before", "readings", "verdicts", "trials", "setups", "papers", "paper_for", "compared", "logbook"}

var changing = regexp.MustCompile(`^\s*(?:INSERT INTO|UPDATE|DELETE FROM)\s+(\w+)`)

// unsettling is what is known of statements, by their text.
var unsettling sync.Map

// unsettles reports whether a statement may change what is remembered.
func unsettles(query string) bool {
	if known, ok := unsettling.Load(query); ok {
		return known.(bool)
	}
	found := changing.FindStringSubmatch(query)
	does := found == nil || !slices.Contains(restless, found[1])
	unsettling.Store(query, does)
	return does
}

// foreignEvery is how often it is looked whether another program has changed the file.
const foreignEvery = 500 * time.Millisecond

// foreign tells whether another program has changed the file since it was last asked.
func (w *writer) foreign() bool {
	s, err := w.stmt("PRAGMA data_version")
	if err != nil {
		return true // what is not known is not remembered
	}
	var version int64
	if err := s.QueryRowContext(context.Background()).Scan(&version); err != nil {
		return true
	}
	was := w.version
	w.version = version
	return version != was
}
