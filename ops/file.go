// Package ops is what whoever runs the server does with the file: opens it with care, copies it and puts copies back,
// looks through it, and watches it while it is served. It knows files and when to refuse; what stands in the file is
// the store's business, and what is right about it the use cases'.
package ops

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"runtime/debug"
	"time"

	"cavix/school"
	"cavix/store"
)

// Errors that commands tell apart: both are wrong use, and are put right by another flag.
var (
	ErrNoFile = errors.New("there is no such file")
	ErrEmpty  = errors.New("the file is empty")
)

// Opening says how a file is opened to be served.
type Opening struct {
	Path   string
	New    bool   // a file that is missing or empty becomes a new school
	Copies string // the folder for a copy before the file is brought to a newer form
	Log    *slog.Logger
}

// Open opens a file to be served. A missing or empty one is refused unless a new school is wanted; one that a newer
// program has written is store.ErrNewer. Before the file is brought to a newer form a copy is made. What is odd about
// the file is said in the log: that others could read it, or that it was copied from a running server without its log.
func Open(ctx context.Context, o Opening) (*store.DB, error) {
	info, err := os.Stat(o.Path)
	switch {
	case errors.Is(err, fs.ErrNotExist) && store.HasLog(o.Path):
		return nil, fmt.Errorf("the file is gone, but its log %s-wal is there; bring both together, or put a copy "+
			"back (cavix restore)", o.Path)
	case errors.Is(err, fs.ErrNotExist):
		if !o.New {
			return nil, ErrNoFile
		}
		return fresh(ctx, o.Path)
	case err != nil:
		return nil, err
	case info.IsDir():
		return nil, fmt.Errorf("%s is a folder, not a database file", o.Path)
	case info.Size() == 0 && !store.HasLog(o.Path):
		if !o.New {
			return nil, ErrEmpty
		}
		return fresh(ctx, o.Path)
	}
	if err := reach(o.Path); err != nil {
		return nil, err
	}
	if err := before(ctx, o); err != nil {
		return nil, advised(o.Path, err)
	}
	if info.Mode().Perm()&0o077 != 0 {
		if err := os.Chmod(o.Path, 0o600); err != nil {
			return nil, fmt.Errorf("others can read %s, and that cannot be changed: %w", o.Path, err)
		}
		o.Log.Warn("others could read the database file; now only its owner can", "file", o.Path)
	}
	began := time.Now()
	s, err := store.Open(store.Telling(ctx, func(done, of int) {
		if time.Since(began) > migrationSaid {
			began = time.Now()
			o.Log.Info("migrating the cards", "done", done, "of", of)
		}
	}), o.Path)
	if err != nil {
		return nil, advised(o.Path, err)
	}
	if err := school.New(s).Ledgers.FinishUpgrade(ctx, time.Now()); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// fresh begins a new school, in a file that only its owner reads.
func fresh(ctx context.Context, path string) (*store.DB, error) {
	if err := private(path); err != nil {
		return nil, err
	}
	s, err := store.Open(ctx, path)
	if err != nil {
		return nil, err
	}
	return s, school.New(s).Ledgers.FinishUpgrade(ctx, time.Now())
}

// migrationSaid is the time after which it is said again how far a long migration has come.
const migrationSaid = 2 * time.Second

// private makes an empty file that only its owner reads.
func private(path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

// Fill makes a database file and has it filled, faster than a file that is served could be: no commit waits for the
// disk. It spends memory on that too. The file is closed, and on the disk, when Fill returns.
func Fill(ctx context.Context, path string, fill func(*store.DB) error) error {
	if err := private(path); err != nil {
		return err
	}
	defer debug.SetGCPercent(debug.SetGCPercent(filling))
	return store.Fill(ctx, path, func(s *store.DB) error {
		if err := school.New(s).Ledgers.FinishUpgrade(ctx, time.Now()); err != nil {
			return err
		}
		return fill(s)
	})
}

// filling is the percentage by which memory may grow between two collections while a file is filled.
const filling = 4000

// before looks at a file before it is opened, and copies it where it will be brought to a newer form.
func before(ctx context.Context, o Opening) (err error) {
	logged := store.HasLog(o.Path)
	s, err := store.Inspect(ctx, o.Path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	have, err := s.Schema(ctx)
	if err != nil {
		return err
	}
	switch newest := store.NewestSchema(); {
	case have > newest:
		return store.ErrNewer
	case have == 0 && !o.New:
		return ErrEmpty
	case have > 0 && have < newest:
		to := filepath.Join(o.Copies, fmt.Sprintf("%s-before-form-%d-%s.db", stem(o.Path), newest,
			time.Now().Format(stampFormat)))
		c, err := copied(ctx, s, to)
		if err != nil {
			return fmt.Errorf("no copy can be made before the file is migrated to schema version %d: %w", newest, err)
		}
		o.Log.Info("copied before the file is migrated", "copy", to, "size", c.Size, "from", have, "to", newest)
		return nil
	}
	if left, err := leftBehind(ctx, s, logged); left != "" || err != nil {
		o.Log.Warn(left, "file", o.Path)
		return err
	}
	return nil
}

// leftBehind tells whether a file was taken from under a running server without its write-ahead log, in words; "" where
// it was not. A server notes in the file itself that it has it open.
func leftBehind(ctx context.Context, s *store.DB, logged bool) (string, error) {
	if logged {
		return "", nil
	}
	if have, err := s.Schema(ctx); err != nil || have < store.NewestSchema() {
		return "", err
	}
	served, since, err := store.Noted(ctx, s, store.Served)
	if err != nil || served == "" {
		return "", err
	}
	latest, err := s.Latest(ctx)
	return fmt.Sprintf("this file was taken from a server that was running (since %s), without its write-ahead log: "+
		"what was written last is not in it. The latest thing in it is of %s", Moment(since), Moment(latest)), err
}

// Moment writes when something was kept last, for people.
func Moment(t time.Time) string {
	if t.IsZero() {
		return "no time: it is empty"
	}
	return t.Format("2 Jan 2006, 15:04:05")
}

// stampFormat is the format of a time in a file's name.
const stampFormat = "20060102-150405"

// stem is a file's name without its folder and ending.
func stem(path string) string {
	name := filepath.Base(path)
	return name[:len(name)-len(filepath.Ext(name))]
}

// OpenedFile is a database that is opened beside a server, or while there is none.
type OpenedFile struct {
	*store.DB
	path   string
	logged bool // a log stood beside the file
}

// OpenFile opens a file for a command.
func OpenFile(ctx context.Context, path string) (*OpenedFile, error) {
	logged := store.HasLog(path)
	s, err := store.Open(ctx, path)
	return &OpenedFile{s, path, logged}, err
}

// Close closes the file. Where a killed server had left its log, which is in the file now, the file is whole, and says
// so.
func (a *OpenedFile) Close() error {
	if err := a.DB.Close(); err != nil || !a.logged || store.HasLog(a.path) {
		return err
	}
	s, err := store.Open(context.Background(), a.path)
	if err != nil {
		return err
	}
	ctx := context.Background()
	err = s.Write(ctx, func(tx *store.Tx) error { return store.Note(ctx, tx, store.Served, "", time.Now()) })
	return errors.Join(err, s.Close())
}
