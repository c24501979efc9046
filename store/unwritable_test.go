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
)

func pupil(s *store.Store, ctx context.Context, class int64, name string) error {
	return s.Write(ctx, func(tx *store.Tx) error { _, err := tx.AddStudent(class, name, ""); return err })
}

// While somebody else holds the file a write waits as long as it may, a page's patience at most, then says so; it is done when
// it can be in time, and not afterwards. Reading goes on.
func TestAWriteWaitsForALock(t *testing.T) {
	path := filepath.Join(t.TempDir(), "held.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	defer s.Close()
	var class int64
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		owner, err := tx.AddInstructor(store.Instructor{Login: "a", Name: "A"})
		require.NoError(t, err)
		class, err = tx.AddClass(owner, "Mondays", "AAAAAA")
		return err
	}))
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
	people, err := s.Read(t.Context()).Students(1, class)
	require.NoError(t, err, "reading goes on")
	assert.Empty(t, people)
	done := make(chan error, 1)
	go func() { done <- pupil(s, t.Context(), class, "in time") }()
	time.Sleep(300 * time.Millisecond)
	release()
	require.NoError(t, <-done)
	require.NoError(t, s.Writable(t.Context()))
	people, err = s.Read(t.Context()).Students(1, class)
	require.NoError(t, err)
	require.Len(t, people, 1, "what was given up is never done")
	assert.Equal(t, "in time", people[0].Name)
}

// On a full disk nothing is half kept and nothing is acknowledged that is not there; as soon as there is room it goes on.
func TestAFullDiskKeepsWhatWasAcknowledged(t *testing.T) {
	s, class := newStore(t)
	ctx := t.Context()
	pages := func(most string) {
		require.NoError(t, s.Write(ctx, func(tx *store.Tx) error { _, err := tx.Exec("PRAGMA max_page_count = " + most); return err }))
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
	require.ErrorIs(t, pupil(s, ctx, class, strings.Repeat("long ", 5000)), store.ErrFull) // the last of those may have found room
	assert.ErrorIs(t, s.Writable(ctx), store.ErrFull)
	people, err := s.Read(ctx).Students(1, class)
	require.NoError(t, err)
	for _, p := range people {
		delete(kept, p.Name)
	}
	assert.Empty(t, kept, "acknowledged and not there")
	pages("1073741823")
	assert.NoError(t, pupil(s, ctx, class, "there is room again"))
	require.NoError(t, s.Writable(ctx))

	require.NoError(t, s.Write(ctx, func(tx *store.Tx) error { _, err := tx.Exec("PRAGMA query_only = 1"); return err }))
	assert.ErrorIs(t, pupil(s, ctx, class, "not writable"), store.ErrReadOnly)
}
