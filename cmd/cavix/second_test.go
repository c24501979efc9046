package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/ops"
)

func gopath(t *testing.T) string {
	t.Helper()
	out, err := exec.Command("go", "env", "GOPATH").Output()
	require.NoError(t, err)
	return strings.TrimSpace(string(out))
}

// When the last but one of the pieces that a replica is made of was written: the last one began after it, so it holds
// all that was acknowledged until then.
func lastCopied(t *testing.T, replica string) time.Time {
	t.Helper()
	pieces, err := filepath.Glob(filepath.Join(replica, "ltx", "0", "*.ltx"))
	require.NoError(t, err)
	require.Greater(t, len(pieces), 1)
	slices.Sort(pieces) // named by what they hold
	piece, err := os.Stat(pieces[len(pieces)-2])
	require.NoError(t, err)
	return piece.ModTime()
}

// A second machine has what this one has acknowledged, to the last copying: while a class works the file is replicated
// to a folder, both programs are killed, and the file is put together elsewhere from the folder alone.
func TestASecondMachine(t *testing.T) {
	if testing.Short() {
		t.Skip("replicates a server at work; left out with -short")
	}
	replicator, err := exec.LookPath("litestream")
	if err != nil {
		if replicator = filepath.Join(gopath(t), "bin", "litestream"); !assert.FileExists(t, replicator,
			"`make test` installs it") {
			return
		}
	}
	dir := t.TempDir()
	w := newWorked(t, dir, false, soakers)
	w.each = 30 * time.Millisecond
	config, replica := filepath.Join(dir, "replicate.yml"), filepath.Join(t.TempDir(), "second")
	// As in deploy/litestream.yml, with this test's places.
	require.NoError(t, os.WriteFile(config,
		[]byte(fmt.Sprintf("dbs:\n  - path: %s\n    replicas:\n      - type: file\n        path: %s\n        "+
			"sync-interval: 500ms\n", w.data, replica)), 0o600))
	w.start()
	t.Cleanup(w.kill)
	replicating := exec.Command(replicator, "replicate", "-config", config)
	require.NoError(t, replicating.Start())
	t.Cleanup(func() { _ = replicating.Process.Kill() })
	w.begin()
	time.Sleep(8 * time.Second)
	died := time.Now()
	require.NoError(t, replicating.Process.Kill())
	w.kill()
	w.end()
	_ = replicating.Wait() // killed: that is its error

	elsewhere := filepath.Join(t.TempDir(), "elsewhere.db")
	out, err := exec.Command(replicator, "restore", "-config", config, "-o", elsewhere, w.data).CombinedOutput()
	require.NoError(t, err, "%s", out)
	r, note, err := ops.Check(t.Context(), elsewhere, ops.Checking{Replica: true})
	require.NoError(t, err)
	assert.True(t, r.Sound(), r.Faults)
	assert.Contains(t, note, "what was written last is not in it", "it is said")
	copied := lastCopied(t, replica)
	lost, looked := w.lost(elsewhere, copied)
	require.Greater(t, looked, 500)
	assert.Empty(t, lost, "acknowledged before the last copying began")
	all, _ := w.lost(elsewhere, died)
	t.Logf("%d answers were acknowledged; of the last %v %d are not on the second machine, of all before none",
		w.acknowledged(), died.Sub(copied).Round(time.Millisecond), len(all))

	// It serves on, and says what it comes from.
	w.data = elsewhere
	w.start()
	said, err := os.ReadFile(w.errs.Name())
	require.NoError(t, err)
	require.Eventually(t, func() bool { said, _ = os.ReadFile(w.errs.Name()); return len(said) > 0 }, 5*time.Second,
		20*time.Millisecond)
	assert.Contains(t, string(said), "what was written last is not in it")
}
