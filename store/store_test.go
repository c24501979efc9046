package store_test

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
	"cavix/store/storetest"
)

// newStore is a database with one instructor and a class.
func newStore(t testing.TB) (db *store.DB, class int64) {
	t.Helper()
	db, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db, newClass(t, db)
}

func newClass(t testing.TB, db *store.DB) int64 {
	t.Helper()
	owner := storetest.Exec(t, db,
		"INSERT INTO instructors (login, name, hash, created) VALUES ('anna', 'Anna', '', 0)")
	return storetest.Exec(t, db, "INSERT INTO classes (owner, name, code, created) VALUES (?, 'Mondays', 'AAAAAA', 0)",
		owner)
}

// addStudent adds a student to a class.
func addStudent(ctx context.Context, tx *store.Tx, class int64, name string) error {
	_, err := tx.Insert(ctx, store.Named("addStudent",
		"INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, '', 0)"), class, name, name)
	return err
}

// students lists the names in the database.
func students(t testing.TB, db *store.DB) []string {
	return storetest.Texts(t, db, "SELECT name FROM students ORDER BY id")
}

// Work that fails, panics or is given up undoes itself alone, though it shares a commit with others.
func TestWritersShareACommitButNotAFate(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	ctx := t.Context()
	gone, cancel := context.WithCancel(ctx)
	cancel()
	boom := errors.New("boom")
	var wg sync.WaitGroup
	errs := make([]error, 400)
	for i := range errs {
		wg.Go(func() {
			c := ctx
			if i%4 == 3 {
				c = gone
			}
			errs[i] = s.Write(c, func(tx *store.Tx) error {
				if err := addStudent(ctx, tx, class, fmt.Sprintf("pupil %d", i)); err != nil {
					return err
				}
				switch i % 4 {
				case 1:
					return boom
				case 2:
					panic("dropped")
				}
				return nil
			})
		})
	}
	wg.Wait()
	for i, err := range errs {
		switch i % 4 {
		case 0:
			assert.NoError(t, err)
		case 1:
			assert.ErrorIs(t, err, boom)
		case 2:
			assert.ErrorContains(t, err, "dropped")
		case 3:
			assert.ErrorIs(t, err, context.Canceled)
		}
	}
	assert.Len(t, students(t, s), 100)
	require.NoError(t, s.Close())
	assert.Error(t, s.Write(ctx, func(*store.Tx) error { return nil }), "closed")
}

// A query that takes long is told by the name of what asked it, and every commit with its size.
func TestSlowQueriesAreNamed(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	var mu sync.Mutex
	var slow []string
	commits := 0
	s.Watch(store.Watcher{
		Commit: func(int, time.Duration, error) { mu.Lock(); defer mu.Unlock(); commits++ },
		Slow:   func(query string, _ time.Duration) { mu.Lock(); defer mu.Unlock(); slow = append(slow, query) },
	})
	storetest.Exec(t, s, `WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 40000)
		INSERT INTO students (class, name, folded, hash, created) SELECT ?, 'n' || i, 'n' || i, '', 0 FROM n`, class)
	all := store.Named("everybody", "SELECT name FROM students ORDER BY name COLLATE people")
	_, err := store.All(t.Context(), s, func(r store.Row) (name string, err error) { return name, r.Scan(&name) }, all)
	require.NoError(t, err)
	mu.Lock()
	defer mu.Unlock()
	assert.Equal(t, 1, commits)
	assert.Contains(t, slow, "everybody")
}

// Who only waits until others are served is not slow: all who may ask at a time hold their turn, and one more waits.
func TestWaitingForATurnIsNotSlow(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	storetest.Exec(t, s, "INSERT INTO students (class, name, folded, hash, created) VALUES (?, 'Ash W.', '', '', 0)",
		class)
	slow := make(chan string, 20)
	s.Watch(store.Watcher{Commit: func(int, time.Duration, error) {},
		Slow: func(query string, _ time.Duration) { slow <- query }})
	var holding, others sync.WaitGroup
	done := make(chan struct{})
	holding.Add(store.Readers)
	for range store.Readers {
		others.Go(func() {
			_, err := store.All(t.Context(), s, func(store.Row) (none struct{}, err error) {
				holding.Done()
				<-done
				return none, nil
			}, store.Named("held", "SELECT id FROM students"))
			assert.NoError(t, err)
		})
	}
	holding.Wait()
	asked := make(chan error, 1)
	go func() {
		var n int
		asked <- store.One(t.Context(), s, store.Named("waits", "SELECT count(*) FROM students"), nil, &n)
	}()
	select {
	case <-asked:
		t.Fatal("there was a turn left")
	case <-time.After(200 * time.Millisecond):
	}
	close(done)
	require.NoError(t, <-asked)
	others.Wait()
	close(slow)
	named := map[string]int{}
	for query := range slow {
		named[query]++
	}
	assert.Equal(t, map[string]int{"held": store.Readers}, named)
}
