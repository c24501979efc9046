package ops_test

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/ops"
	"cavix/school/schooltest"
	"cavix/store"
	"cavix/store/storetest"
)

// school is a file with answers in it, as it is served.
func school(t *testing.T) (path string, s *store.DB) {
	t.Helper()
	made := schooltest.New(t)
	c := made.Card(made.Pupil, 1)
	made.Submit(c, made.Right(c))
	require.NoError(t, made.DB.Close())
	s, err := ops.Open(t.Context(), ops.Opening{Path: made.Path, Log: slog.Default()})
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return made.Path, s
}

// wholeSchool is the demo, in which there is something of everything.
func wholeSchool(t *testing.T) (path string, s *store.DB) {
	t.Helper()
	path = filepath.Join(t.TempDir(), "school.db")
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Fill(t.Context(), s, time.Now()))
	return path, s
}

func attended(t *testing.T, path string, s *store.DB) *ops.Supervisor {
	t.Helper()
	a := &ops.Supervisor{Path: path, Copies: filepath.Join(filepath.Dir(path), "copies"), Keep: 2, Store: s,
		Log: slog.Default(), Jobs: ops.NewJobs(slog.Default())}
	require.NoError(t, a.Begin(t.Context()))
	return a
}

// add keeps one more student, so that something stands in the log alone.
func add(t *testing.T, s *store.DB, name string) {
	t.Helper()
	storetest.Exec(t, s, "INSERT INTO students (class, name, folded, hash, created) VALUES (1, ?, ?, '', unixepoch())",
		name, name)
}

// people counts the students of a file that is not served.
func people(t *testing.T, path string) (n int) {
	t.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.QueryRow("SELECT count(*) FROM students").Scan(&n))
	return n
}

// A copy that is made while the file is written has everything; a plain copy lacks the log, and the check finds it.
func TestACopyHasWhatAPlainOneLacks(t *testing.T) {
	if testing.Short() {
		t.Skip("fills the demo; left out with -short")
	}
	t.Parallel()
	path, s := school(t)
	attended(t, path, s)
	stop, stopped := make(chan struct{}), make(chan struct{})
	go func() { // a server at work
		defer close(stopped)
		for n := 0; ; n++ {
			select {
			case <-stop:
				return
			default:
				storetest.Exec(t, s, "INSERT INTO students (class, name, folded, hash, created) VALUES (1, ?, ?, "+
					"'', 0)",
					fmt.Sprintf("late %d", n), fmt.Sprintf("late %d", n))
				time.Sleep(time.Millisecond)
			}
		}
	}()
	made, err := ops.Backup(t.Context(), path, filepath.Join(t.TempDir(), "copy.db"))
	close(stop)
	<-stopped
	require.NoError(t, err)
	r, note, err := ops.Check(t.Context(), made.Path, ops.Checking{})
	require.NoError(t, err)
	assert.True(t, r.Sound(), r.Faults)
	assert.Empty(t, note)
	assert.Positive(t, r.Answers)
	info, err := os.Stat(made.Path)
	require.NoError(t, err)
	assert.Equal(t, made.Size, info.Size())
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	assert.NoFileExists(t, made.Path+"-wal")

	add(t, s, "The last one")
	plain := filepath.Join(t.TempDir(), "plain.db")
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(plain, content, 0o600))
	r, _, err = ops.Check(t.Context(), plain, ops.Checking{})
	require.NoError(t, err)
	require.False(t, r.Sound())
	assert.Contains(t, r.Faults[0], "without its write-ahead log")
	r, note, err = ops.Check(t.Context(), plain, ops.Checking{Replica: true})
	require.NoError(t, err)
	assert.True(t, r.Sound(), "of a replica it is no fault")
	assert.Contains(t, note, "without its write-ahead log", "but it is said")
	r, _, err = ops.Check(t.Context(), path, ops.Checking{})
	require.NoError(t, err)
	assert.True(t, r.Sound(), "the file itself, while it is served")

	again, err := ops.Backup(t.Context(), path, made.Path)
	assert.ErrorContains(t, err, "is there already", again)
	require.NoError(t, s.Close())
	full, err := ops.Backup(t.Context(), path, filepath.Join(t.TempDir(), "after.db"))
	require.NoError(t, err)
	assert.Equal(t, people(t, path), people(t, full.Path))
}

// The check tells of a mark that the core would not give, of what cannot be read, of rows that hang loose and of broken
// pages.
func TestTheCheckFindsWhatIsWrong(t *testing.T) {
	if testing.Short() {
		t.Skip("looks through a school again and again; left out with -short")
	}
	t.Parallel()
	path, s := wholeSchool(t)
	require.NoError(t, s.Close())
	sound, err := os.ReadFile(path)
	require.NoError(t, err)
	for change, found := range map[string]string{
		"UPDATE cards SET half_marks = half_marks + 1 WHERE id = (SELECT min(id) FROM cards WHERE answered IS NOT " +
			"NULL AND half_marks < half_of)": "the core gives",
		`UPDATE cards SET result = replace(unpacked(result), '"outcome":"right"',
			'"outcome":"wrong"')`: "the core says",
		"UPDATE sittings SET done = done + 1 WHERE attempt " +
			"= 1": "the sums are not those of the cards",
		"UPDATE cards SET item = '{}' WHERE id = 1":                               "card 1",
		"UPDATE instruments SET document = '{}' WHERE id = 1":                     "instrument 1 cannot be read",
		"UPDATE assignments SET definition = 'x' WHERE id = 1":                    "given sheet 1 cannot be read",
		"UPDATE instruments SET zero_limit = '1/0' WHERE id = 1":                  "zero limit of instrument 1",
		"UPDATE logbook SET entry = '{\"closed\":\"x\"}' WHERE id = 1":            "logbook entry 1",
		"UPDATE readings SET value = '7..1' WHERE cell = 1 AND survey = 1":        "reading 2 cannot be read",
		"UPDATE readings SET cell = 999 WHERE cell = 1 AND survey = 1":            "there is no reading 1000",
		"UPDATE surveys SET plan = '{}' WHERE id = 1":                             "study 1 cannot be read",
		"INSERT INTO setups (survey, student, answer, at) VALUES (1, 1, '[]', 0)": "what was set cannot be read",
		"INSERT INTO comparisons (owner, title, plan, token, made) VALUES (1, 'x', '[]', 't', " +
			"0)": "comparison 1 cannot be read",
		"INSERT INTO comparisons (owner, title, plan, token, made) VALUES (1, 'x', '{}', 't', 0); INSERT INTO " +
			"compared (comparison, line, deviation, at) VALUES (1, 'x', '-', 0)": "line of a comparison 1",
		"UPDATE rounds SET item = '{}' WHERE id = 1":            "round 1 cannot be read",
		"UPDATE papers SET cards = '[{}]' WHERE version = 1":    "version 1 on paper",
		"INSERT INTO boards (class, state) VALUES (2, '7')":     "Board of class 2",
		"UPDATE classes SET words = '{\"own\":3}' WHERE id = 1": "words of class 1",
		"UPDATE classes SET method = '[]' WHERE id = 1":         "convention of class 1",
		"INSERT INTO bank (owner, kind, replaces, body, retired, changed) VALUES (1, 'care', '', '{}', 0, " +
			"0)": "care question 1",
		"PRAGMA foreign_keys = 0; INSERT INTO staff (class, instructor, role) VALUES (999, 1, " +
			"'leads')": "belong to no row",
		"UPDATE cards SET answer = '{\"main\":\"much\"}' WHERE id = (SELECT min(id) FROM " +
			"cards WHERE result IS NOT NULL)": "cannot be marked",
	} {
		bad := filepath.Join(t.TempDir(), "bad.db")
		require.NoError(t, os.WriteFile(bad, sound, 0o600))
		db, err := sql.Open("sqlite", bad)
		require.NoError(t, err)
		_, err = db.Exec(change)
		require.NoError(t, err, change)
		require.NoError(t, db.Close())
		r, _, err := ops.Check(t.Context(), bad, ops.Checking{})
		require.NoError(t, err, change)
		require.NotEmpty(t, r.Faults, change)
		assert.Contains(t, fmt.Sprint(r.Faults), found, change)
	}
	torn := bytes.Clone(sound)
	for i := len(torn) / 2; i < len(torn)/2+9000; i++ {
		torn[i] = 0xA5
	}
	bad := filepath.Join(t.TempDir(), "torn.db")
	require.NoError(t, os.WriteFile(bad, torn, 0o600))
	r, _, err := ops.Check(t.Context(), bad, ops.Checking{})
	assert.True(t, err != nil || !r.Sound())
	_, err = ops.Backup(t.Context(), bad, filepath.Join(t.TempDir(), "copy.db"))
	assert.Error(t, err, "and a copy of it is no copy")
	for name, content := range map[string]string{
		"text.db": "this is no database, but it is long enough to be looked at as one. ", "none": ""} {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
		_, _, err := ops.Check(t.Context(), path, ops.Checking{})
		assert.Error(t, err, name)
	}
}

// A copy comes back only where nothing newer is lost unasked, and what stood there is put beside.
func TestRestoreLosesNothing(t *testing.T) {
	if testing.Short() {
		t.Skip("looks through a school again and again; left out with -short")
	}
	path, s := school(t)
	first, err := ops.Backup(t.Context(), path, filepath.Join(t.TempDir(), "first.db"))
	require.NoError(t, err)
	before := people(t, first.Path)
	_, err = ops.Restore(t.Context(), first.Path, path, true)
	assert.ErrorIs(t, err, store.ErrInUse, "while it is served, whatever is allowed")
	time.Sleep(time.Until(first.Latest.Add(1100 * time.Millisecond))) // times are kept to the second
	add(t, s, "The last one")
	require.NoError(t, s.Close())
	_, err = ops.Restore(t.Context(), first.Path, path, false)
	assert.ErrorIs(t, err, ops.ErrNewerThere)
	assert.Equal(t, before+1, people(t, path), "nothing was touched")
	done, err := ops.Restore(t.Context(), first.Path, path, true)
	require.NoError(t, err)
	assert.Equal(t, before, people(t, path))
	assert.Equal(t, before+1, people(t, done.Before))
	_, err = ops.Restore(t.Context(), filepath.Join(t.TempDir(), "none.db"), path, true)
	assert.ErrorIs(t, err, ops.ErrNoFile)

	// The log of a file that is gone is not taken for the copy's.
	require.NoError(t, os.Remove(path))
	require.NoError(t, os.WriteFile(path+"-wal", []byte("somebody else's"), 0o600))
	_, err = ops.Open(t.Context(), ops.Opening{Path: path, New: true, Log: slog.Default()})
	assert.ErrorContains(t, err, "-wal")
	_, err = ops.Restore(t.Context(), first.Path, path, false)
	require.NoError(t, err)
	assert.NoFileExists(t, path+"-wal")
	assert.Equal(t, before, people(t, path))
}

// A file is opened with care: none is made unasked, a newer one is left alone, an older one is copied first.
func TestOpenTakesCare(t *testing.T) {
	dir := t.TempDir()
	var said bytes.Buffer
	log := slog.New(slog.NewTextHandler(&said, nil))
	o := ops.Opening{Path: filepath.Join(dir, "none.db"), Copies: filepath.Join(dir, "copies"), Log: log}
	_, err := ops.Open(t.Context(), o)
	assert.ErrorIs(t, err, ops.ErrNoFile)
	assert.NoFileExists(t, o.Path)
	require.NoError(t, os.WriteFile(o.Path, nil, 0o600))
	_, err = ops.Open(t.Context(), o)
	assert.ErrorIs(t, err, ops.ErrEmpty)
	o.New = true
	s, err := ops.Open(t.Context(), o)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	o.New = false
	require.NoError(t, os.Chmod(o.Path, 0o644))
	s, err = ops.Open(t.Context(), o)
	require.NoError(t, err)
	info, err := os.Stat(o.Path)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	assert.Contains(t, said.String(), "others could read")
	require.NoError(t, s.Close())

	db, err := sql.Open("sqlite", o.Path)
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = ops.Open(t.Context(), o)
	assert.ErrorIs(t, err, store.ErrNewer)
	_, err = store.Open(t.Context(), o.Path)
	assert.ErrorIs(t, err, store.ErrNewer)

	old, err := os.ReadFile("../testdata/first-schema.db")
	require.NoError(t, err)
	o.Path = filepath.Join(dir, "old.db")
	require.NoError(t, os.WriteFile(o.Path, old, 0o600))
	r, _, err := ops.Check(t.Context(), o.Path, ops.Checking{})
	require.NoError(t, err)
	assert.True(t, r.Sound(), r.Faults)
	assert.Equal(t, 9, r.Answers)
	untouched, err := os.ReadFile(o.Path)
	require.NoError(t, err)
	assert.Equal(t, old, untouched, "looking changes nothing")
	s, err = ops.Open(t.Context(), o)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	copies, err := filepath.Glob(filepath.Join(dir, "copies", "old-before-form-*.db"))
	require.NoError(t, err)
	require.Len(t, copies, 1)
	assert.Equal(t, people(t, o.Path), people(t, copies[0]))
}

// A file that is taken away under the server is noticed, and what was kept until then is written beside.
func TestAFileThatVanishesIsRescued(t *testing.T) {
	if testing.Short() {
		t.Skip("waits for seconds to pass; left out with -short")
	}
	path, s := school(t)
	a := attended(t, path, s)
	ended := make(chan error, 1)
	go func() { ended <- a.Attend(t.Context()) }()
	add(t, s, "The last one")
	count := people(t, path)
	require.NoError(t, os.Remove(path))
	select {
	case err := <-ended:
		require.ErrorIs(t, err, ops.ErrVanished)
		rescued, globbed := filepath.Glob(path + ".rescued-*")
		require.NoError(t, globbed)
		require.Len(t, rescued, 1, err)
		assert.Contains(t, err.Error(), rescued[0])
		assert.Equal(t, count, people(t, rescued[0]))
		assert.NoFileExists(t, path+"-wal")
	case <-time.After(20 * time.Second):
		t.Fatal("nobody noticed")
	}
}

// Daily copies are made at once where there is none, and the oldest go, as does what was left of one that was broken
// off; what is not ours stays.
func TestDailyCopies(t *testing.T) {
	path, s := school(t)
	a := attended(t, path, s)
	ctx, cancel := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() { ended <- a.Attend(ctx) }()
	require.Eventually(t, func() bool { list, _ := a.List(); return len(list) == 1 }, time.Minute,
		20*time.Millisecond)
	cancel()
	require.NoError(t, <-ended)
	kept := func() (names []string) {
		t.Helper()
		list, err := a.List()
		require.NoError(t, err)
		for _, c := range list {
			names = append(names, filepath.Base(c.Path))
		}
		return names
	}
	in := func(name string) string { return filepath.Join(a.Copies, name) }
	require.NoError(t, os.Rename(in(kept()[0]), in("school-daily-20260301-060000.db")))
	left := []string{"school-daily-20260302-060000.db.part", "school-daily-20260302-060000.db.part-journal"}
	others := []string{"school-daily-notes.db", "school-daily-notes.db.part", "mill-daily-20260302-060000.db.part"}
	for _, name := range slices.Concat([]string{"school-daily-20260228-060000.db"}, left, others) {
		require.NoError(t, os.WriteFile(in(name), nil, 0o600))
	}
	made, err := a.CopyNow(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{filepath.Base(made.Path), "school-daily-20260301-060000.db"}, kept(), "the two newest")
	for _, name := range left {
		assert.NoFileExists(t, in(name))
	}
	for _, name := range others {
		assert.FileExists(t, in(name))
	}
	r, err := a.CheckNow(t.Context())
	require.NoError(t, err)
	assert.True(t, r.Sound(), r.Faults)
	value, _, err := store.Noted(t.Context(), s, store.LastCheck)
	require.NoError(t, err)
	assert.Contains(t, value, "log.checked")
	bytes, err := a.DiskLeft()
	require.NoError(t, err)
	assert.Positive(t, bytes)
	assert.Positive(t, a.Size())
}
