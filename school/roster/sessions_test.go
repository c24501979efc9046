package roster_test

import (
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/school/roster"
	"cavix/store"
)

// Sessions come, change and go.
func TestSessions(t *testing.T) {
	db, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "school.db"))
	require.NoError(t, err)
	defer db.Close()
	ctx, sessions := t.Context(), roster.Sessions{DB: db}
	for n := range 3 {
		require.NoError(t, sessions.CommitCtx(ctx, "live", fmt.Append(nil, n), time.Now().Add(time.Hour)))
		b, ok, err := sessions.FindCtx(ctx, "live")
		require.NoError(t, err)
		require.True(t, ok)
		assert.Equal(t, fmt.Sprint(n), string(b))
	}
	require.NoError(t, sessions.CommitCtx(ctx, "expired", []byte("b"), time.Now().Add(-time.Hour)))
	require.NoError(t, sessions.DeleteCtx(ctx, "live"))
	for _, token := range []string{"live", "expired", "never"} {
		_, ok, err := sessions.FindCtx(ctx, token)
		require.NoError(t, err)
		assert.False(t, ok, token)
	}
}
