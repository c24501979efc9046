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
)

// newStore is a store with one instructor and a class.
func newStore(t testing.TB) (s *store.Store, class int64) {
	t.Helper()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		owner, err := tx.AddInstructor(store.Instructor{Login: "Anna", Name: "Anna"})
		require.NoError(t, err)
		class, err = tx.AddClass(owner, "Mondays", "AAAAAA")
		return err
	}))
	return s, class
}

// Work that fails, panics or is given up undoes itself alone, though it shares a commit with others.
func TestWritersShareACommitButNotAFate(t *testing.T) {
	s, class := newStore(t)
	ctx := t.Context()
	gone, cancel := context.WithCancel(ctx)
	cancel()
	boom := errors.New("boom")
	add := func(tx *store.Tx, name string) error {
		_, err := tx.Exec("INSERT INTO students (class, name, folded, hash, created) VALUES (?, ?, ?, '', 0)", class,
			name, name)
		return err
	}
	var wg sync.WaitGroup
	errs := make([]error, 400)
	for i := range errs {
		wg.Go(func() {
			c := ctx
			if i%4 == 3 {
				c = gone
			}
			errs[i] = s.Write(c, func(tx *store.Tx) error {
				if err := add(tx, fmt.Sprintf("pupil %d", i)); err != nil {
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
	people, err := s.Read(ctx).Students(1, class)
	require.NoError(t, err)
	assert.Len(t, people, 100)
	require.NoError(t, s.Close())
	assert.Error(t, s.Write(ctx, func(*store.Tx) error { return nil }), "closed")
}

func TestSessionsExpire(t *testing.T) {
	s, _ := newStore(t)
	ctx := t.Context()
	ss := store.Sessions{Store: s}
	require.NoError(t, ss.CommitCtx(ctx, "live", []byte("a"), time.Now().Add(time.Hour)))
	require.NoError(t, ss.CommitCtx(ctx, "dead", []byte("b"), time.Now().Add(-time.Hour)))
	b, ok, err := ss.FindCtx(ctx, "live")
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, "a", string(b))
	_, ok, err = ss.FindCtx(ctx, "dead")
	require.NoError(t, err)
	assert.False(t, ok)
	require.NoError(t, ss.DeleteCtx(ctx, "live"))
	_, ok, _ = ss.FindCtx(ctx, "live")
	assert.False(t, ok)
}

// A query that takes long is told by the name of what asked it, and every commit with its size.
func TestSlowQueriesAreNamed(t *testing.T) {
	s, class := newStore(t)
	var mu sync.Mutex
	var slow []string
	commits := 0
	s.Watch(store.Watcher{
		Commit: func(int, time.Duration, error) { mu.Lock(); defer mu.Unlock(); commits++ },
		Slow:   func(query string, _ time.Duration) { mu.Lock(); defer mu.Unlock(); slow = append(slow, query) },
	})
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		_, err := tx.Exec(`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 40000)
			INSERT INTO students (class, name, folded, hash, created) SELECT ?, 'n' || i, 'n' || i, '', 0 FROM n`, class)
		return err
	}))
	_, err := s.Read(t.Context()).Students(1, class)
	require.NoError(t, err)
	mu.Lock()
	defer mu.Unlock()
	assert.Equal(t, 1, commits)
	assert.Contains(t, slow, "Students")
}

// Who only waits until others are served is not slow: all who may ask at a time hold their turn, and one more waits.
func TestWaitingForATurnIsNotSlow(t *testing.T) {
	s, class := newStore(t)
	var student int64
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) (err error) {
		if student, err = tx.AddStudent(class, "Ash W.", ""); err != nil {
			return err
		}
		r, err := tx.Exec(`INSERT INTO cards (student, attempt, n, kind, family, item, answered, half_marks, half_of)
			VALUES (?, 1, 1, 'read', '', '{}', 1, 2, 2)`, student)
		if err != nil {
			return err
		}
		card, err := r.LastInsertId()
		if err != nil {
			return err
		}
		_, err = tx.Exec(`INSERT INTO entries (card, n, field, given, expected, follows, outcome, half_marks, half_of, slips, faults)
			VALUES (?, 1, 'main', '1', '1', '', 'right', 2, 2, '[]', '[]')`, card)
		return err
	}))
	slow := make(chan string, 20)
	s.Watch(store.Watcher{Commit: func(int, time.Duration, error) {},
		Slow: func(query string, _ time.Duration) { slow <- query }})
	var holding, others sync.WaitGroup
	done := make(chan struct{})
	holding.Add(store.Turns)
	for range store.Turns {
		others.Go(func() {
			assert.NoError(t, s.Read(t.Context()).OwnAnswers(student, func(store.Answered) error {
				holding.Done()
				<-done
				return nil
			}))
		})
	}
	holding.Wait()
	asked := make(chan error, 1)
	go func() {
		_, err := s.Read(t.Context()).Instructors(10)
		asked <- err
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
	assert.Equal(t, map[string]int{"OwnAnswers": store.Turns}, named)
}

// People and what they keep stand in the order in which names are looked up, also part by part.
func TestListsAreOrderedAsNamesAreLookedUp(t *testing.T) {
	s, class := newStore(t)
	people := []string{"Ärmel P.", "Bench 2", "bench 10", "Zoe"}
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		for i := range people {
			name := people[(i+2)%len(people)]
			if _, err := tx.AddStudent(class, name, ""); err != nil {
				return err
			}
			if _, err := tx.KeepSheet(1, store.Sheet{Title: name, Definition: "{}", Racked: "[]"}); err != nil {
				return err
			}
		}
		return nil
	}))
	read := s.Read(t.Context())
	students, err := read.Students(1, class)
	require.NoError(t, err)
	for i, st := range students {
		assert.Equal(t, people[i], st.Name)
	}
	sheets, err := read.SheetsPart(1, store.Part{Skip: 1, Most: 2})
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.Equal(t, []string{"Bench 2", "bench 10"}, []string{sheets[0].Title, sheets[1].Title})
}
