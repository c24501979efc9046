package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sync/semaphore"
	"modernc.org/sqlite"
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
	option := "_pragma=busy_timeout(5000)&_pragma=query_only(1)&mode=ro"
	if !HasLog(path) {
		option += "&immutable=1"
	}
	read, err := open(path, option, inspecting+1)
	if err != nil {
		return nil, err
	}
	db := &DB{read: read, watcher: &watching{}, reading: semaphore.NewWeighted(inspecting)}
	if db.copier, err = read.Conn(ctx); err != nil {
		return nil, errors.Join(err, read.Close())
	}
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
	err := db.read.QueryRowContext(ctx, `SELECT count(*), coalesce(sum(name IN ('goose_db_version', 'instructors')), 0)
		FROM sqlite_master WHERE type = 'table'`).Scan(&tables, &ours)
	switch {
	case err != nil:
		return 0, fmt.Errorf("this is no database that can be read: %w", err)
	case tables == 0:
		return 0, nil
	case ours < 2:
		return 0, errors.New("this is a database, but none of Cavix")
	}
	err = db.read.QueryRowContext(ctx,
		"SELECT coalesce(max(version_id), 0) FROM goose_db_version WHERE is_applied").Scan(&version)
	return version, err
}

// CopyTo writes a copy of the whole database, as it stands at one moment, into a file that is not there yet; the
// database can be written meanwhile. The copy stands on its own: it has no write-ahead log.
func (db *DB) CopyTo(ctx context.Context, to string) error {
	if err := makePrivate(to); err != nil {
		return err
	}
	err := db.copier.Raw(func(c any) error {
		source, ok := c.(interface {
			NewBackup(string) (*sqlite.Backup, error)
		})
		if !ok {
			return errors.New("this driver makes no copies")
		}
		b, err := source.NewBackup(fileURL(to, ""))
		if err != nil {
			return err
		}
		// All pages in one step: the copy is of one moment, and writers go on meanwhile in the log.
		if _, err := b.Step(-1); err != nil {
			return errors.Join(err, b.Finish())
		}
		copied, err := b.Commit()
		if err != nil {
			return err
		}
		return errors.Join(standAlone(ctx, copied), copied.Close())
	})
	if err != nil {
		return fmt.Errorf("copying to %s: %w", to, err)
	}
	return synced(to)
}

// standAlone has a copy need no log beside it, and notes that no server has it open.
func standAlone(ctx context.Context, c driver.Conn) error {
	exec, ok := c.(driver.ExecerContext)
	if !ok {
		return errors.New("this driver makes no copies")
	}
	if _, err := exec.ExecContext(ctx, "PRAGMA journal_mode = DELETE", nil); err != nil {
		return err
	}
	_, err := exec.ExecContext(ctx, "UPDATE keeping SET value = '' WHERE name = 'served'", nil)
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
	faults, err := texts(db.read.QueryContext(ctx, fmt.Sprintf("PRAGMA %s(%d)", check, mostFaults)))
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
	loose, err := texts(db.read.QueryContext(ctx,
		`SELECT DISTINCT "table" || ' has rows that belong to no row of ' || parent
			FROM pragma_foreign_key_check LIMIT 20`))
	return append(faults, loose...), err
}

func texts(rows *sql.Rows, err error) (out []string, _ error) {
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		out = append(out, text)
	}
	return out, rows.Err()
}

// Checkpoint brings what stands in the write-ahead log into the file itself.
func (db *DB) Checkpoint(ctx context.Context) error {
	_, err := db.read.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return err
}

// Alone opens a file for one that nobody else may have open, brings its log into it, and closes it again. It is
// ErrInUse where somebody has it open.
func Alone(ctx context.Context, path string) error {
	db, err := sql.Open("sqlite", fileURL(path, "_pragma=busy_timeout(500)&_pragma=locking_mode(EXCLUSIVE)"))
	if err != nil {
		return err
	}
	db.SetMaxOpenConns(1)
	for _, do := range []string{"BEGIN EXCLUSIVE", "COMMIT", "PRAGMA wal_checkpoint(TRUNCATE)"} {
		if _, err := db.ExecContext(ctx, do); err != nil {
			if Busy(err) {
				err = ErrInUse
			}
			return errors.Join(err, db.Close())
		}
	}
	return db.Close()
}

// Latest is when something was last kept in the database: an answer, an instrument, a sheet, a class, a person, or what
// is noted of any. The zero time where it is empty. What the server notes for itself does not count.
func (db *DB) Latest(ctx context.Context) (time.Time, error) {
	queries, err := texts(db.read.QueryContext(ctx,
		`SELECT 'SELECT max("' || c.name || '") AS at FROM "' || m.name || '"'
		FROM sqlite_master m JOIN pragma_table_info(m.name) c WHERE m.type = 'table'
		AND m.name NOT IN ('sessions', 'signins', 'keeping', 'goose_db_version')
		AND c.type = 'INTEGER' AND c.name IN ('at', 'answered', 'changed', 'created', 'given')`))
	if err != nil || len(queries) == 0 {
		return time.Time{}, err
	}
	var last *int64
	err = db.read.QueryRowContext(ctx, "SELECT max(at) FROM ("+strings.Join(queries, " UNION ALL ")+")").Scan(&last)
	return TimeOf(last), err
}
