package class

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a killed server has printed is removed by the next, what another server keeps is not.
func TestSheetsOfAKilledServerAreRemoved(t *testing.T) {
	at := t.TempDir()
	t.Setenv("TMPDIR", at)
	for name, age := range map[string]time.Duration{folders + "old": time.Hour, folders + "new": 10 * time.Minute,
		"cavix-else": time.Hour} {
		folder := filepath.Join(at, name)
		require.NoError(t, os.Mkdir(folder, 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(folder, "key.pdf"), nil, 0o600))
		require.NoError(t, os.Chtimes(folder, time.Now(), time.Now().Add(-age)))
	}
	removeLeft(time.Now())
	left, err := os.ReadDir(at)
	require.NoError(t, err)
	names := []string{}
	for _, e := range left {
		names = append(names, e.Name())
	}
	assert.Equal(t, []string{"cavix-else", folders + "new"}, names)
}
