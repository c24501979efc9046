// Package store keeps everything in one SQLite file. It opens, migrates, copies and checks the file, asks queries and
// writes; it knows no subject and no rule. The queries stand in the packages under school, beside the types that they
// fill. All writes go through one writer that commits waiting work together, so that many students can hand in at once
// and each answer is on disk before it is confirmed.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"runtime"
	"sync"
	"time"

	"github.com/pressly/goose/v3"
	"golang.org/x/sync/semaphore"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"cavix/core/names"
)

// Errors that callers tell apart.
var (
	ErrNotFound  = errors.New("not found") // or not this person's to see
	ErrDuplicate = errors.New("a row that must be the only one of its kind is there already")
	ErrNewer     = errors.New("the database was written by a newer version of Cavix; this one would not read all of it")
	ErrInUse     = errors.New("another program has the database open")
	ErrHeld      = errors.New("another program holds the database, and did not let go in time")
	ErrFull      = errors.New("the disk is full")
	ErrReadOnly  = errors.New("the database may not be written")
)

//go:embed migrations/*.sql
var migrations embed.FS

// DB is an open database file.
type DB struct {
	read    *sql.DB
	queries sync.Map            // of *sql.Stmt on read, by their text: each is prepared once
	reading *semaphore.Weighted // who asks: as many at a time as there are connections
	copier  *sql.Conn           // of read: stays with the file that was opened, whatever becomes of its name
	write   *sql.DB
	writer  *writer
	watcher *watching
	caches  caches
	closing sync.Once
}

// Open opens the database file, makes it when it is not there, and brings it to the newest form. One that a newer
// program has brought to a form of its own is ErrNewer, and is left alone.
func Open(ctx context.Context, path string) (*DB, error) { return openAs(ctx, path, durable) }

// Fill opens a database file, has it filled and closes it. What was written is on the disk when Fill returns, and in
// parts before: a file whose filling was cut off is worth nothing.
func Fill(ctx context.Context, path string, fill func(*DB) error) error {
	db, err := openAs(ctx, path, hasty)
	if err != nil {
		return err
	}
	if err := errors.Join(fill(db), db.Close()); err != nil {
		return err
	}
	return synced(path)
}

// openAs is Open with options for every connection.
func openAs(ctx context.Context, path, options string) (*DB, error) {
	write, err := open(path, options+"_txlock=immediate&_pragma=busy_timeout(200)", 1)
	if err != nil {
		return nil, err
	}
	db := &DB{write: write, watcher: &watching{}, reading: semaphore.NewWeighted(int64(readers))}
	if err := db.begin(ctx, path); err != nil {
		write.Close()
		if db.read != nil {
			db.read.Close()
		}
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return db, nil
}

func (db *DB) begin(ctx context.Context, path string) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db.write, sub, goose.WithGoMigrations(refold, packCards))
	if err != nil {
		return err
	}
	have, newest, err := provider.GetVersions(ctx)
	if err != nil {
		return err
	}
	if have > newest {
		return ErrNewer
	}
	if _, err := provider.Up(ctx); err != nil {
		return err
	}
	if 0 < have && have < packedVersion {
		_, _ = db.write.ExecContext(ctx, "VACUUM") // what is not given back here is used again
	}
	if db.read, err = open(path, durable+"_pragma=query_only(1)&_pragma=busy_timeout(500)&mode=rw",
		readers+1); err != nil {
		return err
	}
	if db.copier, err = db.read.Conn(ctx); err != nil {
		return err
	}
	db.writer, err = newWriter(ctx, db.write, db.watcher, &db.caches)
	return err
}

// fileURL names a file with options of the connection.
func fileURL(path, options string) string {
	u := url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: options}
	return u.String()
}

// durable are the options of every connection of a server: a commit is on the disk when it returns.
const durable = "_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)&"

// hasty are those of every connection while a file is filled: no commit waits for the disk.
const hasty = "_pragma=journal_mode(WAL)&_pragma=synchronous(OFF)&_pragma=foreign_keys(1)&"

// readers is the number of queries that run at a time, two a processor: more would only share those, and each
// connection takes more than a megabyte. One more belongs to the copier.
var readers = max(4, 2*runtime.GOMAXPROCS(0))

func open(path, option string, conns int) (*sql.DB, error) {
	db, err := sql.Open("sqlite", fileURL(path, option))
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(conns)
	db.SetMaxIdleConns(conns)
	return db, nil
}

// Lists of what has a name are ordered as people look names up. Only queries use this order, never an index or a table:
// the file stays one that every SQLite program opens.
func init() { sqlite.MustRegisterCollationUtf8("people", names.Compare) }

// Close finishes the writes that wait and closes the database. Closing it again does nothing.
func (db *DB) Close() (err error) {
	db.closing.Do(func() { err = db.close() })
	return err
}

func (db *DB) close() error {
	if db.writer == nil { // only looked at
		return errors.Join(db.copier.Close(), db.read.Close())
	}
	return errors.Join(db.writer.close(), db.copier.Close(), db.read.Close(), db.write.Close())
}

// ask runs a query when it is its turn: there are as many at a time as connections.
func (db *DB) ask(ctx context.Context, query Query, args []any) (*sql.Rows, func(), error) {
	if err := db.reading.Acquire(ctx, 1); err != nil {
		return nil, nil, err
	}
	began := time.Now()
	done := func() {
		db.watcher.query(query.Name, began)
		db.reading.Release(1)
	}
	stmt, err := db.prepared(ctx, query.Text)
	if err != nil {
		done()
		return nil, nil, err
	}
	rows, err := stmt.QueryContext(ctx, args...)
	if err != nil {
		done()
		return nil, nil, err
	}
	return rows, done, nil
}

// prepared prepares a statement once.
func (db *DB) prepared(ctx context.Context, text string) (*sql.Stmt, error) {
	if known, ok := db.queries.Load(text); ok {
		return known.(*sql.Stmt), nil
	}
	stmt, err := db.read.PrepareContext(ctx, text)
	if err != nil {
		return nil, err
	}
	if first, taken := db.queries.LoadOrStore(text, stmt); taken {
		return first.(*sql.Stmt), stmt.Close()
	}
	return stmt, nil
}

// known returns where answers are remembered; nil where no writer would have them forgotten.
func (db *DB) known() *caches {
	if db.writer == nil {
		return nil
	}
	return &db.caches
}

// duplicate turns a broken UNIQUE rule into ErrDuplicate.
func duplicate(err error) error {
	var e *sqlite.Error
	if errors.As(err, &e) && e.Code() == sqlite3.SQLITE_CONSTRAINT_UNIQUE {
		return ErrDuplicate
	}
	return err
}

// Instead returns an error of the caller's own in place of one that is expected, as a name that is taken in place of
// ErrDuplicate. Any other error it returns as it is.
func Instead(err, expected, own error) error {
	if errors.Is(err, expected) {
		return own
	}
	return err
}

// Busy reports whether somebody else held the database for longer than was waited.
func Busy(err error) bool {
	var e *sqlite.Error
	return errors.As(err, &e) && e.Code()&0xff == sqlite3.SQLITE_BUSY
}

// Damaged reports whether a file cannot be read as a database: its pages are broken, or it is none.
func Damaged(err error) bool {
	var e *sqlite.Error
	return errors.As(err, &e) && (e.Code()&0xff == sqlite3.SQLITE_CORRUPT || e.Code()&0xff == sqlite3.SQLITE_NOTADB)
}
