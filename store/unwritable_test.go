package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/store"
	"cavix/store/storetest"
)

func pupil(db *store.DB, ctx context.Context, class int64, name string) error {
	return db.Write(ctx, func(tx *store.Tx) error { return addStudent(ctx, tx, class, name) })
}

// While somebody else holds the file a write waits as long as it may, a page's patience at most, then says so; it is
// done when it can be in time, and not afterwards. Reading goes on.
func TestAWriteWaitsForALock(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "held.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	defer s.Close()
	class := newClass(t, s)
	other, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer other.Close()
	other.SetMaxOpenConns(1)
	hold := func() { _, err := other.Exec("BEGIN IMMEDIATE"); require.NoError(t, err) }
	release := func() { _, err := other.Exec("ROLLBACK"); require.NoError(t, err) }

	hold()
	short, cancel := context.WithTimeout(t.Context(), 400*time.Millisecond)
	defer cancel()
	began := time.Now()
	err = pupil(s, short, class, "too late")
	assert.ErrorIs(t, err, store.ErrHeld)
	assert.ErrorIs(t, err, context.DeadlineExceeded)
	assert.GreaterOrEqual(t, time.Since(began), 300*time.Millisecond, "it waited as long as it might")
	assert.ErrorIs(t, pupil(s, t.Context(), class, "too late too"), store.ErrHeld)
	assert.Less(t, time.Since(began), 3*time.Second, "however long it might")
	assert.ErrorIs(t, s.Writable(t.Context()), store.ErrHeld)
	assert.Empty(t, students(t, s), "reading goes on")
	done := make(chan error, 1)
	go func() { done <- pupil(s, t.Context(), class, "in time") }()
	time.Sleep(300 * time.Millisecond)
	release()
	require.NoError(t, <-done)
	require.NoError(t, s.Writable(t.Context()))
	assert.Equal(t, []string{"in time"}, students(t, s), "what was given up is never done")
}

// On a full disk nothing is half kept and nothing is acknowledged that is not there; as soon as there is room it goes
// on.
func TestAFullDiskKeepsWhatWasAcknowledged(t *testing.T) {
	t.Parallel()
	s, class := newStore(t)
	ctx := t.Context()
	pages := func(most string) {
		storetest.Exec(t, s, "PRAGMA max_page_count = "+most)
	}
	pages("1") // SQLite takes the pages that there are
	var mu sync.Mutex
	kept := map[string]bool{}
	var wg sync.WaitGroup
	full := 0
	for i := range 200 {
		wg.Go(func() {
			name := fmt.Sprintf("%d %s", i, strings.Repeat("long ", 100))
			err := pupil(s, ctx, class, name)
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				kept[name] = true
			} else if assert.ErrorIs(t, err, store.ErrFull) {
				full++
			}
		})
	}
	wg.Wait()
	assert.Positive(t, full)
	// the last of those may have found room
	require.ErrorIs(t, pupil(s, ctx, class, strings.Repeat("long ", 5000)), store.ErrFull)
	assert.ErrorIs(t, s.Writable(ctx), store.ErrFull)
	for _, name := range students(t, s) {
		delete(kept, name)
	}
	assert.Empty(t, kept, "acknowledged and not there")
	pages("1073741823")
	assert.NoError(t, pupil(s, ctx, class, "there is room again"))
	require.NoError(t, s.Writable(ctx))

	storetest.Exec(t, s, "PRAGMA query_only = 1")
	assert.ErrorIs(t, pupil(s, ctx, class, "not writable"), store.ErrReadOnly)
}
