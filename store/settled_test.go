package store_test

import (
	"database/sql"
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

// What is remembered is never older than what was acknowledged, whoever changes it: who asks after a change sees it, while
// many ask and many change.
func TestWhatIsRememberedIsNeverStale(t *testing.T) {
	path := filepath.Join(t.TempDir(), "school.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	defer s.Close()
	ctx := t.Context()
	var class, student int64
	require.NoError(t, s.Write(ctx, func(tx *store.Tx) error {
		owner, err := tx.AddInstructor(store.Instructor{Login: "a", Name: "A"})
		require.NoError(t, err)
		class, err = tx.AddClass(owner, "Mondays", "AAAAAA")
		require.NoError(t, err)
		student, err = tx.AddStudent(class, "Wren", "hash")
		return err
	}))
	var done atomic.Bool
	var acknowledged atomic.Int64
	var wg sync.WaitGroup
	for range 4 {
		wg.Go(func() {
			for !done.Load() {
				least := acknowledged.Load()
				st, err := s.Read(ctx).Student(student)
				if assert.NoError(t, err) {
					assert.GreaterOrEqual(t, st.Entry, least)
				}
			}
		})
	}
	for range 300 {
		require.NoError(t, s.Write(ctx, func(tx *store.Tx) error { return tx.EndStudentSessions(student) }))
		acknowledged.Add(1)
	}
	done.Store(true)
	wg.Wait()

	// What a transaction has changed itself it sees at once, and what was undone nobody sees.
	_ = s.Write(ctx, func(tx *store.Tx) error {
		require.NoError(t, tx.EndStudentSessions(student))
		st, err := tx.Student(student)
		require.NoError(t, err)
		assert.Equal(t, int64(301), st.Entry)
		return fmt.Errorf("undone")
	})
	st, err := s.Read(ctx).Student(student)
	require.NoError(t, err)
	assert.Equal(t, int64(300), st.Entry)

	// Sessions come, change and go.
	ss := store.Sessions{Store: s}
	for n := range 3 {
		require.NoError(t, ss.CommitCtx(ctx, "t", fmt.Append(nil, n), time.Now().Add(time.Hour)))
		b, ok, err := ss.FindCtx(ctx, "t")
		require.NoError(t, err)
		require.True(t, ok)
		assert.Equal(t, fmt.Sprint(n), string(b))
	}
	require.NoError(t, ss.DeleteCtx(ctx, "t"))
	_, ok, err := ss.FindCtx(ctx, "t")
	require.NoError(t, err)
	assert.False(t, ok)

	// Another program changes the file: it is known within a second.
	other, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer other.Close()
	_, err = other.Exec("UPDATE students SET entry = 900 WHERE id = ?", student)
	require.NoError(t, err)
	assert.Eventually(t, func() bool {
		st, err := s.Read(ctx).Student(student)
		return err == nil && st.Entry == 900
	}, 3*time.Second, 20*time.Millisecond)
}
