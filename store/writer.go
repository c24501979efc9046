package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"time"
)

// maxBatch bounds how much waiting work goes into one commit.
const maxBatch = 256

// writer is the only one that writes. Work that waits while a commit is on its way to the disk goes
// into the next one together; each piece has its own savepoint, so one that fails undoes only itself.
type writer struct {
	watch   *watching
	caches  *caches
	forgets []func(*caches) // what the batch that is being written has others forget
	version int64           // of the file, as others have changed it
	conn    *conn
	jobs    chan *job
	done    chan struct{}

	held   atomic.Bool  // somebody else holds the file just now
	broken atomic.Value // of failure: why the last work that changed rows could not be kept
	dirty  bool         // rows were changed by the batch that is being written
	mu     sync.RWMutex // guards closed against sends on jobs
	closed bool
}

// job is a piece of work that waits to be written.
type job struct {
	ctx   context.Context
	work  func(*Tx) error
	err   chan error
	taken atomic.Bool // by the writer, or by whoever gives it up: one of them
}

// Waits of the writer for others that hold the file.
const (
	lockPause = 20 * time.Millisecond  // between two tries to have it
	longest   = 30 * time.Second       // in all, while there is work
	patience  = 700 * time.Millisecond // of a piece of work: a page answers within a second
)

// failure is why work could not be kept, nil where it could, and when that was.
type failure struct {
	why error
	at  time.Time
}

// remembersFor is the time for which a failure is reported: its cause may have been removed since.
const remembersFor = 30 * time.Second

// errClosed is for work that comes when the store is closing.
var errClosed = errors.New("the store is closed")

func newWriter(c *conn, watch *watching, known *caches) *writer {
	w := &writer{watch: watch, caches: known, conn: c, jobs: make(chan *job, 4*maxBatch), done: make(chan struct{})}
	go w.run()
	return w
}

// Tx is the transaction that a piece of work reads and writes in. Once begun, the work is not cut off by its context:
// an interrupted statement could take the whole batch with it.
type Tx struct{ w *writer }

func (t *Tx) ask(ctx context.Context, query Query, args []any) (*rows, error) {
	began := time.Now()
	r, err := t.w.conn.query(context.WithoutCancel(ctx), query.Text, args)
	if err != nil {
		return nil, err
	}
	r.done = func() { t.w.watch.query(query.Name, began) }
	return r, nil
}

func (t *Tx) known() *caches { return nil }

// forget has something forgotten once the batch is written.
func (t *Tx) forget(what func(*caches)) { t.w.forgets = append(t.w.forgets, what) }

// Exec runs a statement and returns the number of rows that it changed. A broken UNIQUE rule is ErrDuplicate.
func (t *Tx) Exec(ctx context.Context, query Query, args ...any) (changed int, err error) {
	r, err := t.ask(ctx, query, args)
	if err != nil {
		return 0, err
	}
	defer r.close()
	for r.next() { // what it returns is not asked for
	}
	if r.err != nil {
		return 0, duplicate(r.err)
	}
	changed = t.w.conn.Changes()
	t.w.dirty = t.w.dirty || changed > 0
	return changed, nil
}

// Insert runs an INSERT and returns the id of the new row.
func (t *Tx) Insert(ctx context.Context, query Query, args ...any) (int64, error) {
	if _, err := t.Exec(ctx, query, args...); err != nil {
		return 0, err
	}
	return t.w.conn.LastInsertRowID(), nil
}

// Change runs a statement that must change a row. It returns ErrNotFound where it changes none.
func (t *Tx) Change(ctx context.Context, query Query, args ...any) error {
	does, err := t.Changed(ctx, query, args...)
	if err == nil && !does {
		err = ErrNotFound
	}
	return err
}

// Changed runs a statement and reports whether it changed a row.
func (t *Tx) Changed(ctx context.Context, query Query, args ...any) (bool, error) {
	n, err := t.Exec(ctx, query, args...)
	return n > 0, err
}

// Write does work in a transaction and returns when it is durable, or undone.
func (db *DB) Write(ctx context.Context, work func(*Tx) error) error {
	return db.writer.do(ctx, work)
}

// Writable reports whether work can be kept just now, without keeping any: the file is not held by others, and the last
// work that changed rows, if it is not long ago, was kept.
func (db *DB) Writable(ctx context.Context) error {
	if err := db.Write(ctx, func(*Tx) error { return nil }); err != nil {
		return err
	}
	if last, _ := db.writer.broken.Load().(failure); time.Since(last.at) < remembersFor {
		return last.why
	}
	return nil
}

func (w *writer) do(ctx context.Context, work func(*Tx) error) error {
	j := &job{ctx: ctx, work: work, err: make(chan error, 1)}
	w.mu.RLock()
	if w.closed {
		w.mu.RUnlock()
		return errClosed
	}
	select {
	case w.jobs <- j:
		w.mu.RUnlock()
	case <-ctx.Done():
		w.mu.RUnlock()
		return w.late(ctx)
	}
	waited := time.NewTimer(patience)
	defer waited.Stop()
	for {
		select {
		case err := <-j.err:
			return err
		case <-waited.C:
			if w.held.Load() && j.taken.CompareAndSwap(false, true) {
				return ErrHeld
			}
			waited.Reset(patience / 4)
		case <-ctx.Done():
			if j.taken.CompareAndSwap(false, true) {
				return w.late(ctx) // it was not begun, and never will be
			}
			return <-j.err // the writer answers every piece of work it has taken
		}
	}
}

// late is the error of work that could not begin in time.
func (w *writer) late(ctx context.Context) error {
	if w.held.Load() {
		return fmt.Errorf("%w: %w", ErrHeld, ctx.Err())
	}
	return ctx.Err()
}

func (w *writer) run() {
	defer close(w.done)
	look := time.NewTicker(outsideEvery)
	defer look.Stop()
	w.changedOutside()
	for {
		var first *job
		select {
		case j, ok := <-w.jobs:
			if !ok {
				return
			}
			first = j
		case <-look.C:
			if w.changedOutside() {
				w.caches.clear()
			}
			continue
		}
		batch := []*job{first}
		for more := true; more && len(batch) < maxBatch; {
			select {
			case j, ok := <-w.jobs:
				if more = ok; ok {
					batch = append(batch, j)
				}
			default:
				more = false
			}
		}
		w.commit(batch)
	}
}

// commit writes a batch in one transaction and tells each piece of work how it went.
func (w *writer) commit(batch []*job) {
	began := time.Now()
	results := make([]error, len(batch))
	err := w.begin(batch)
	mine := batch[:0:0]
	for _, j := range batch {
		if j.taken.CompareAndSwap(false, true) {
			mine = append(mine, j) // the others were given up while they waited
		}
	}
	if err == nil {
		for i, j := range mine {
			if results[i] = j.ctx.Err(); results[i] == nil {
				results[i] = w.piece(j)
			}
			if err = unwritable(results[i]); err != nil {
				break // nothing of this batch can be kept
			}
		}
		if err == nil {
			if err = w.conn.exec("COMMIT"); err != nil {
				err = errors.Join(unwritable(err), err)
			}
		}
		if err != nil {
			_ = w.conn.exec("ROLLBACK") // the first error is the one to tell
		}
	}
	for _, forget := range w.forgets { // also where it could not be kept: nothing is lost by asking again
		forget(w.caches)
	}
	w.forgets = w.forgets[:0]
	if w.dirty || err != nil && !errors.Is(err, ErrHeld) {
		w.broken.Store(failure{err, time.Now()})
	}
	w.dirty = false
	w.watch.commit(len(mine), time.Since(began), err)
	for i, j := range mine {
		if err != nil {
			results[i] = fmt.Errorf("writing: %w", err)
		}
		j.err <- results[i]
	}
}

// begin begins a transaction. While somebody else holds the file it waits, for as long as anybody waits for the work.
func (w *writer) begin(batch []*job) error {
	defer w.held.Store(false)
	for end := time.Now().Add(longest); ; {
		err := w.conn.exec("BEGIN IMMEDIATE")
		if !Busy(err) {
			return errors.Join(unwritable(err), err)
		}
		w.held.Store(true)
		if !slices.ContainsFunc(batch, func(j *job) bool { return !j.taken.Load() }) || time.Now().After(end) {
			return errors.Join(ErrHeld, err)
		}
		time.Sleep(lockPause)
	}
}

// piece does one piece of work inside its own savepoint.
func (w *writer) piece(j *job) (err error) {
	if err := w.conn.exec("SAVEPOINT piece"); err != nil {
		return err
	}
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("writing: %v", p)
		}
		if err != nil {
			err = errors.Join(err, w.conn.exec("ROLLBACK TO piece"))
		}
		err = errors.Join(err, w.conn.exec("RELEASE piece"))
	}()
	return j.work(&Tx{w})
}

// close lets the waiting work finish.
func (w *writer) close() error {
	w.mu.Lock()
	if !w.closed {
		w.closed = true
		close(w.jobs)
	}
	w.mu.Unlock()
	<-w.done
	return w.conn.Close()
}
