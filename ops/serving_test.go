//go:build unix

package ops_test

import (
	"bytes"
	"context"
	"database/sql"
	"log/slog"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/ops"
	"cavix/store"
)

// One server has a file; a second is told who has it, and takes it as soon as it is free.
func TestOneServerForAFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "one.db")
	first, err := ops.TakeHold(path)
	require.NoError(t, err)
	require.NoError(t, first.Say("http://127.0.0.1:8000"))
	_, err = ops.TakeHold(path)
	require.ErrorIs(t, err, ops.ErrServed)
	assert.ErrorContains(t, err, "http://127.0.0.1:8000")
	assert.ErrorContains(t, err, "stop that one first")
	require.NoError(t, first.Release())
	second, err := ops.TakeHold(path)
	require.NoError(t, err)
	require.NoError(t, second.Release())
}

// What the caretaker does as root stays the service's: a copy that is put in place, and the lock, belong to whom the
// file or its folder does. Who may not write a file is told whose it is.
func TestWhatRootWritesIsTheServices(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root gives files to others")
	}
	const service = 12345
	dir := filepath.Join(t.TempDir(), "lib")
	require.NoError(t, os.Mkdir(dir, 0o700))
	copied := filepath.Join(t.TempDir(), "copy.db")
	s, err := store.Open(t.Context(), copied)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	require.NoError(t, os.Chown(dir, service, service))
	path := filepath.Join(dir, "cavix.db")
	owner := func(file string) uint32 {
		info, err := os.Stat(file)
		require.NoError(t, err)
		return info.Sys().(*syscall.Stat_t).Uid
	}
	_, err = ops.Restore(t.Context(), copied, path, false)
	require.NoError(t, err)
	assert.EqualValues(t, service, owner(path), "as its folder")
	_, err = ops.Restore(t.Context(), copied, path, true)
	require.NoError(t, err)
	h, err := ops.TakeHold(path)
	require.NoError(t, err)
	require.NoError(t, h.Release())
	all, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, f := range all {
		assert.EqualValues(t, service, owner(filepath.Join(dir, f.Name())), f.Name())
	}
}

// A copy of a newer version is not put in place; and of a damaged file it is said which, and what to do.
func TestNewerAndDamagedFilesAreNamed(t *testing.T) {
	dir := t.TempDir()
	newer, path := filepath.Join(dir, "newer.db"), filepath.Join(dir, "cavix.db")
	s, err := store.Open(t.Context(), newer)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	db, err := sql.Open("sqlite", newer)
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = ops.Restore(t.Context(), newer, path, false)
	assert.ErrorIs(t, err, store.ErrNewer)
	assert.NoFileExists(t, path)

	content := bytes.Repeat([]byte("no database at all; "), 500)
	require.NoError(t, os.WriteFile(path, content, 0o600))
	_, err = ops.Open(t.Context(), ops.Opening{Path: path, Copies: dir, Log: slog.New(slog.DiscardHandler)})
	require.Error(t, err)
	assert.ErrorContains(t, err, path)
	assert.ErrorContains(t, err, "cavix restore --from")
	kept, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, content, kept, "it is left as it is")

	// Some pages of a file that opens: nothing says so but a look through all of it, when the server starts.
	b, err := os.ReadFile("../testdata/first-schema.db")
	require.NoError(t, err)
	pages := filepath.Join(dir, "pages.db")
	require.NoError(t, os.WriteFile(pages, b, 0o600))
	s, err = store.Open(t.Context(), pages)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	b, err = os.ReadFile(pages)
	require.NoError(t, err)
	for at := 4 * 4096; at+4096 <= len(b); at += 5 * 4096 {
		copy(b[at:], bytes.Repeat([]byte{0xDE}, 2000))
	}
	require.NoError(t, os.WriteFile(pages, b, 0o600))
	_, _, err = ops.Check(t.Context(), pages, ops.Checking{})
	require.ErrorContains(t, err, pages)
	assert.ErrorContains(t, err, "cavix restore --from")
	_, err = ops.Backup(t.Context(), pages, filepath.Join(dir, "copy.db"))
	require.Error(t, err, "no copy is made of it")
	assert.NoFileExists(t, filepath.Join(dir, "copy.db"))
}

// A job that panics is logged by its name and ends no other; closing tells the rest to end, and waits.
func TestAJobThatPanicsEndsNothingElse(t *testing.T) {
	var said bytes.Buffer
	jobs := ops.NewJobs(slog.New(slog.NewTextHandler(&said, nil)))
	ended, times := false, make(chan int, 10)
	printing := jobs.Start(ops.Task{Name: "printing",
		Work: func(context.Context, *ops.Job) error { panic("a fourth of three") }})
	<-printing.Ended()
	assert.ErrorContains(t, printing.Err(), "a fourth of three")
	jobs.Start(ops.Task{Name: "copies",
		Work: func(ctx context.Context, _ *ops.Job) error { <-ctx.Done(); ended = true; return nil }})
	jobs.Every("closing", time.Millisecond, func(context.Context) error { times <- 1; panic("once more") })
	for range 3 {
		<-times
	}
	go func() {
		for range times {
		}
	}()
	jobs.Close()
	assert.True(t, ended)
	assert.Contains(t, said.String(), "job=printing")
	assert.Contains(t, said.String(), "job=closing")
}

// A queue lets so many jobs run at a time; the next waits, ends with its time, and tells how far it is.
func TestAQueueHasABound(t *testing.T) {
	jobs := ops.NewJobs(slog.New(slog.DiscardHandler))
	defer jobs.Close()
	queue, begun := ops.NewQueue(2), make(chan *ops.Job, 3)
	task := ops.Task{Name: "printing", Queue: queue, Work: func(ctx context.Context, job *ops.Job) error {
		job.Progress(1, 3)
		begun <- job
		<-ctx.Done()
		return ctx.Err()
	}}
	first, second := jobs.Start(task), jobs.Start(task)
	<-begun
	<-begun
	late := task
	late.Longest = 50 * time.Millisecond
	third := jobs.Start(late)
	<-third.Ended()
	require.ErrorIs(t, third.Err(), context.DeadlineExceeded, "its turn did not come")
	assert.Empty(t, begun)
	assert.False(t, first.HasEnded())
	require.NoError(t, first.Err())
	done, of := second.Done()
	assert.Equal(t, []int{1, 3}, []int{done, of})
	first.Stop()
	assert.True(t, first.HasEnded())
	fourth := jobs.Start(task)
	assert.Same(t, fourth, <-begun)
}
