package store_test

import (
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
)

var entries = store.NewCache[int64, int64](3)

func entryOf(t testing.TB, q store.Queryer, student int64) (entry int64, err error) {
	return entries.Get(q, student, func() (n int64, err error) {
		return n, store.One(t.Context(), q, store.Named("entry", "SELECT entry FROM students WHERE id = ?"),
			[]any{student}, &n)
	})
}

// What is remembered is never older than what was acknowledged, whoever changes it: who asks after a change sees it,
// while many ask and many change.
func TestWhatIsRememberedIsNeverStale(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "school.db")
	db, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	defer db.Close()
	ctx, class := t.Context(), newClass(t, db)
	var student int64
	require.NoError(t, db.Write(ctx,
		func(tx *store.Tx) error { student = 1; return addStudent(ctx, tx, class, "Wren") }))
	change := func(tx *store.Tx) error {
		entries.Forget(tx, student)
		return tx.Change(ctx, store.Named("change", "UPDATE students SET entry = entry + 1 WHERE id = ?"), student)
	}
	var done atomic.Bool
	var acknowledged atomic.Int64
	var wg sync.WaitGroup
	for range 4 {
		wg.Go(func() {
			for !done.Load() {
				least := acknowledged.Load()
				entry, err := entryOf(t, db, student)
				if assert.NoError(t, err) {
					assert.GreaterOrEqual(t, entry, least)
				}
			}
		})
	}
	for range 300 {
		require.NoError(t, db.Write(ctx, change))
		acknowledged.Add(1)
	}
	done.Store(true)
	wg.Wait()

	// What a transaction has changed itself it sees at once, and what was undone nobody sees.
	undone := errors.New("undone")
	require.ErrorIs(t, db.Write(ctx, func(tx *store.Tx) error {
		require.NoError(t, change(tx))
		entry, err := entryOf(t, tx, student)
		require.NoError(t, err)
		assert.Equal(t, int64(301), entry)
		return undone
	}), undone)
	entry, err := entryOf(t, db, student)
	require.NoError(t, err)
	assert.Equal(t, int64(300), entry)

	// Another program changes the file: it is known within a second.
	other, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer other.Close()
	_, err = other.Exec("UPDATE students SET entry = 900 WHERE id = ?", student)
	require.NoError(t, err)
	assert.Eventually(t, func() bool {
		entry, err := entryOf(t, db, student)
		return err == nil && entry == 900
	}, time.Minute, 20*time.Millisecond)
}

// An answer is asked for once, errors are not remembered, and no more is remembered than may be.
func TestACacheAsksOnceAndHasABound(t *testing.T) {
	t.Parallel()
	db, class := newStore(t)
	for i := range 5 {
		require.NoError(t, db.Write(t.Context(),
			func(tx *store.Tx) error { return addStudent(t.Context(), tx, class, fmt.Sprint(i)) }))
	}
	asked := map[int64]int{}
	names := store.NewCache[int64, string](3)
	ask := func(id int64) error {
		_, err := names.Get(db, id, func() (name string, err error) {
			asked[id]++
			return name, store.One(t.Context(), db, store.Named("name", "SELECT name FROM students WHERE id = ?"),
				[]any{id}, &name)
		})
		return err
	}
	for range 2 {
		require.ErrorIs(t, ask(99), store.ErrNotFound)
		require.NoError(t, ask(1))
	}
	assert.Equal(t, map[int64]int{99: 2, 1: 1}, asked)
	for id := int64(2); id <= 4; id++ {
		require.NoError(t, ask(id))
	}
	require.NoError(t, ask(1))
	assert.Equal(t, 2, asked[1], "there were more than three")
	require.NoError(t, db.Write(t.Context(), func(tx *store.Tx) error { names.ForgetAll(tx); return nil }))
	require.NoError(t, ask(1))
	assert.Equal(t, 3, asked[1])
}
