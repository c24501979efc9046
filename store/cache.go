package store

import (
	"context"
	"sync"
	"time"
)

// Cache names answers that every request asks for and that seldom change: who is signed in, how far an attempt is. What
// is remembered lies in each DB, so that a Cache is declared once beside its query. Writes forget by key.
type Cache[K comparable, V any] struct{ most int }

// NewCache returns a cache that remembers up to most answers.
func NewCache[K comparable, V any](most int) *Cache[K, V] { return &Cache[K, V]{most} }

// Get returns the answer to a question by its key, and asks where it is not remembered. Errors are not remembered.
// Within a transaction it always asks: a transaction sees what it has changed itself.
func (c *Cache[K, V]) Get(q Queryer, key K, ask func() (V, error)) (V, error) {
	all := q.known()
	if all == nil {
		return ask()
	}
	a := c.answers(all)
	value, known, changes := a.get(key)
	if known {
		return value, nil
	}
	value, err := ask()
	if err == nil {
		a.set(key, value, changes, c.most)
	}
	return value, err
}

// Forget forgets answers once the transaction is kept, before whoever waits for it is told.
func (c *Cache[K, V]) Forget(tx *Tx, keys ...K) {
	tx.forget(func(all *caches) { c.answers(all).forget(keys) })
}

// ForgetAll forgets every answer, as Forget does.
func (c *Cache[K, V]) ForgetAll(tx *Tx) {
	tx.forget(func(all *caches) { c.answers(all).clear() })
}

// ForgetEverything forgets the answers of all caches, after rows were changed from outside the services.
func (t *Tx) ForgetEverything() { t.forget((*caches).clear) }

func (c *Cache[K, V]) answers(all *caches) *answers[K, V] {
	found, ok := all.by.Load(c)
	if !ok {
		found, _ = all.by.LoadOrStore(c, &answers[K, V]{rows: map[K]V{}})
	}
	return found.(*answers[K, V])
}

// caches holds the entries of all caches of a DB.
type caches struct{ by sync.Map } // of *answers, by their *Cache

// clear forgets everything: another program has changed the file.
func (c *caches) clear() {
	c.by.Range(func(_, a any) bool {
		a.(interface{ clear() }).clear()
		return true
	})
}

// answers holds the entries of one Cache.
type answers[K comparable, V any] struct {
	mu      sync.RWMutex
	rows    map[K]V
	changes uint64 // how often something was forgotten
}

func (a *answers[K, V]) get(key K) (value V, known bool, changes uint64) {
	a.mu.RLock()
	defer a.mu.RUnlock()
	value, known = a.rows[key]
	return value, known, a.changes
}

// set remembers an answer, unless something was forgotten since its question was asked: it may be older than that.
func (a *answers[K, V]) set(key K, value V, changes uint64, most int) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.changes != changes {
		return
	}
	if len(a.rows) >= most {
		clear(a.rows)
	}
	a.rows[key] = value
}

func (a *answers[K, V]) forget(keys []K) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.changes++
	for _, k := range keys {
		delete(a.rows, k)
	}
}

func (a *answers[K, V]) clear() {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.changes++
	clear(a.rows)
}

// outsideEvery is the interval at which the writer asks whether another program has changed the file.
const outsideEvery = 500 * time.Millisecond

// changedOutside reports whether another program has changed the file since it was last asked.
func (w *writer) changedOutside() bool {
	r, err := w.conn.query(context.Background(), "PRAGMA data_version", nil)
	if err != nil {
		return true // what is not known is not remembered
	}
	defer r.close()
	var version int64
	if !r.next() || r.Scan(&version) != nil {
		return true
	}
	was := w.version
	w.version = version
	return version != was
}
