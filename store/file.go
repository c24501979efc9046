package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"strconv"
	"strings"
	"time"

	"zombiezen.com/go/sqlite"
)

// inspecting is the number of queries that run at a time on a file that is only inspected.
const inspecting = 4

// Inspect opens a database file to look at it: it is not made, not brought to the newest form, and never written. A
// file that has no write-ahead log beside it is not even touched.
func Inspect(ctx context.Context, path string) (*DB, error) {
	if info, err := os.Stat(path); err != nil {
		return nil, err
	} else if info.IsDir() {
		return nil, fmt.Errorf("%s is a folder, not a database file", path)
	}
	look := setting{options: "mode=ro", pragmas: []string{"query_only=1"}, patience: 5 * time.Second}
	if !HasLog(path) {
		look.options += "&immutable=1"
	}
	copier, err := connect(path, look)
	if err != nil {
		return nil, err
	}
	db := &DB{read: newPool(path, look, inspecting), copier: copier, watcher: &watching{}}
	if _, err := db.Schema(ctx); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	return db, nil
}

// HasLog reports whether a write-ahead log stands beside a database file. What was written last is in there alone.
func HasLog(path string) bool {
	_, err := os.Stat(path + "-wal")
	return err == nil
}

// NewestSchema is the form of the database that this program writes.
func NewestSchema() int64 {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		panic(err) // the pattern is well formed
	}
	newest := int64(packedVersion) // the last that is written in Go
	for _, n := range names {
		number, _, _ := strings.Cut(path.Base(n), "_")
		v, _ := strconv.ParseInt(number, 10, 64) // 0 for a file that goose passes over too
		newest = max(newest, v)
	}
	return newest
}

// Schema is the form that the file has; 0 for one without tables. A file that is no database of Cavix is an error.
func (db *DB) Schema(ctx context.Context) (int64, error) {
	var tables, ours int
	var version int64
	err := One(ctx, db, Named("store.tables", `SELECT count(*),
		coalesce(sum(name IN ('goose_db_version', 'instructors')), 0) FROM sqlite_master WHERE type = 'table'`), nil,
		&tables, &ours)
	switch {
	case err != nil:
		return 0, fmt.Errorf("this is no database that can be read: %w", err)
	case tables == 0:
		return 0, nil
	case ours < 2:
		return 0, errors.New("this is a database, but none of Cavix")
	}
	err = One(ctx, db, Named("store.Schema",
		"SELECT coalesce(max(version_id), 0) FROM goose_db_version WHERE is_applied"), nil, &version)
	return version, err
}

// CopyTo writes a copy of the whole database, as it stands at one moment, into a file that is not there yet; the
// database can be written meanwhile. The copy stands on its own: it has no write-ahead log.
func (db *DB) CopyTo(ctx context.Context, to string) error {
	if err := makePrivate(to); err != nil {
		return err
	}
	if err := db.copyTo(to); err != nil {
		return fmt.Errorf("copying to %s: %w", to, err)
	}
	return synced(to)
}

func (db *DB) copyTo(to string) (err error) {
	into, err := connect(to, setting{options: "mode=rw"})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, into.Close()) }()
	db.copying.Lock()
	defer db.copying.Unlock()
	b, err := sqlite.NewBackup(into.Conn, "main", db.copier.Conn, "main")
	if err != nil {
		return err
	}
	// All pages in one step: the copy is of one moment, and writers go on meanwhile in the log.
	_, err = b.Step(-1)
	if err := errors.Join(err, b.Close()); err != nil {
		return err
	}
	return standAlone(into)
}

// standAlone has a copy need no log beside it, and notes that no server has it open.
func standAlone(c *conn) error {
	if err := c.exec("PRAGMA journal_mode = DELETE"); err != nil {
		return err
	}
	err := c.exec("UPDATE keeping SET value = '' WHERE name = 'served'")
	if err != nil && strings.Contains(err.Error(), "no such table") {
		return nil // a copy of an older form
	}
	return err
}

// makePrivate makes a file that only its owner reads; one that is there is an error.
func makePrivate(path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	return f.Close()
}

// synced has a file on the disk before it is counted on.
func synced(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// mostFaults bounds how many faults of a file are listed.
const mostFaults = 20

// Intact looks through all pages of the file and lists what is wrong with them. That indexes say what the rows say,
// and that rows tie, Integrity looks at, which takes several times as long.
func (db *DB) Intact(ctx context.Context) ([]string, error) { return db.faults(ctx, "quick_check") }

// faults lists what a pragma that checks the file finds.
func (db *DB) faults(ctx context.Context, check string) ([]string, error) {
	faults, err := db.texts(ctx, fmt.Sprintf("PRAGMA %s(%d)", check, mostFaults))
	if len(faults) == 1 && faults[0] == "ok" {
		faults = nil
	}
	return faults, err
}

// Integrity looks through the whole file: pages, indexes and the ties between rows. It lists what is wrong.
func (db *DB) Integrity(ctx context.Context) ([]string, error) {
	faults, err := db.faults(ctx, "integrity_check")
	if err != nil {
		return nil, err
	}
	loose, err := db.texts(ctx, `SELECT DISTINCT "table" || ' has rows that belong to no row of ' || parent
		FROM pragma_foreign_key_check LIMIT 20`)
	return append(faults, loose...), err
}

// texts lists what a query of one column returns. It may take long, so that nobody is told of it.
func (db *DB) texts(ctx context.Context, query string) (out []string, _ error) {
	r, err := db.read.query(ctx, query, nil)
	if err != nil {
		return nil, err
	}
	defer r.close()
	for r.next() {
		var text string
		if err := r.Scan(&text); err != nil {
			return nil, err
		}
		out = append(out, text)
	}
	return out, r.err
}

// Checkpoint brings what stands in the write-ahead log into the file itself.
func (db *DB) Checkpoint(ctx context.Context) error {
	r, err := db.read.query(ctx, "PRAGMA wal_checkpoint(TRUNCATE)", nil)
	if err != nil {
		return err
	}
	defer r.close()
	r.next()
	return r.err
}

// Alone opens a file for one that nobody else may have open, brings its log into it, and closes it again. It is
// ErrInUse where somebody has it open.
func Alone(path string) error {
	c, err := connect(path, setting{pragmas: []string{"locking_mode=EXCLUSIVE"}, patience: 500 * time.Millisecond})
	if err != nil {
		return err
	}
	for _, do := range []string{"BEGIN EXCLUSIVE", "COMMIT", "PRAGMA wal_checkpoint(TRUNCATE)"} {
		if err := c.exec(do); err != nil {
			if Busy(err) {
				err = ErrInUse
			}
			return errors.Join(err, c.Close())
		}
	}
	return c.Close()
}

// Latest is when something was last kept in the database: an answer, an instrument, a sheet, a class, a person, or what
// is noted of any. The zero time where it is empty. What the server notes for itself does not count.
func (db *DB) Latest(ctx context.Context) (time.Time, error) {
	queries, err := db.texts(ctx,
		`SELECT 'SELECT max("' || c.name || '") AS at FROM "' || m.name || '"'
		FROM sqlite_master m JOIN pragma_table_info(m.name) c WHERE m.type = 'table'
		AND m.name NOT IN ('sessions', 'signins', 'keeping', 'goose_db_version')
		AND c.type = 'INTEGER' AND c.name IN ('at', 'answered', 'changed', 'created', 'given')`)
	if err != nil || len(queries) == 0 {
		return time.Time{}, err
	}
	var last *int64
	err = One(ctx, db, Named("store.Latest", "SELECT max(at) FROM ("+strings.Join(queries, " UNION ALL ")+")"), nil,
		&last)
	return TimeOf(last), err
}
