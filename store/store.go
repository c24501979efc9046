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
	read    *pool
	copier  *conn // stays with the file that was opened, whatever becomes of its name
	copying sync.Mutex
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

// openAs is Open with a setting for the connection that writes.
func openAs(ctx context.Context, path string, writing setting) (*DB, error) {
	db := &DB{watcher: &watching{}, read: newPool(path, reading, readers)}
	if err := db.begin(ctx, path, writing); err != nil {
		if db.copier != nil {
			db.copier.Close()
		}
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return db, nil
}

func (db *DB) begin(ctx context.Context, path string, writing setting) error {
	if err := migrate(ctx, path, writing); err != nil {
		return err
	}
	var err error
	if db.copier, err = connect(path, reading); err != nil {
		return err
	}
	// It opens the write-ahead log as it reads: a file that is moved away can be copied from now on.
	if err := db.copier.exec("PRAGMA schema_version"); err != nil {
		return err
	}
	write, err := connect(path, writing)
	if err != nil {
		return err
	}
	db.writer = newWriter(write, db.watcher, &db.caches)
	return nil
}

// migrate brings a file to the newest form. Goose knows drivers of database/sql alone, which cost twice the time of
// every query: nothing else uses one.
func migrate(ctx context.Context, path string, s setting) (err error) {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	options := "_txlock=immediate&" + url.Values{"_pragma": append([]string{
		fmt.Sprintf("busy_timeout=%d", s.patience.Milliseconds())}, s.pragmas...)}.Encode()
	file, err := sql.Open("sqlite", fileURL(path, options))
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, file.Close()) }()
	file.SetMaxOpenConns(1)
	provider, err := goose.NewProvider(goose.DialectSQLite3, file, sub, goose.WithGoMigrations(refold, packCards))
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
		_, _ = file.ExecContext(ctx, "VACUUM") // what is not given back here is used again
	}
	return nil
}

// fileURL names a file with options of the connection.
func fileURL(path, options string) string {
	u := url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: options}
	return u.String()
}

// Settings of connections.
var (
	// durable is that of a server's writer: a commit is on the disk when it returns.
	durable = setting{pragmas: []string{"journal_mode=WAL", "synchronous=FULL", "foreign_keys=1"},
		patience: 200 * time.Millisecond}
	// hasty is the writer's while a file is filled: no commit waits for the disk.
	hasty = setting{pragmas: []string{"journal_mode=WAL", "synchronous=OFF", "foreign_keys=1"},
		patience: 200 * time.Millisecond}
	// reading is for connections that only read. Their page caches are small, 1,000 KiB each, since every commit of the
	// writer invalidates them.
	reading = setting{options: "mode=rw", pragmas: []string{"query_only=1", "cache_size=-1000"},
		patience: 500 * time.Millisecond}
)

// readers is the number of queries that run at a time, two a processor: more would only share those, and each
// connection takes more than a megabyte.
var readers = max(4, 2*runtime.GOMAXPROCS(0))

// Close finishes the writes that wait and closes the database. Closing it again does nothing.
func (db *DB) Close() (err error) {
	db.closing.Do(func() { err = db.close() })
	return err
}

func (db *DB) close() (err error) {
	if db.writer != nil { // else it was only looked at
		err = db.writer.close()
	}
	return errors.Join(err, db.copier.Close(), db.read.close())
}

// ask runs a query when it is its turn: there are as many at a time as connections.
func (db *DB) ask(ctx context.Context, query Query, args []any) (*rows, error) {
	c, err := db.read.take(ctx)
	if err != nil {
		return nil, err
	}
	began := time.Now()
	done := func() {
		db.watcher.query(query.Name, began)
		db.read.give(c)
	}
	r, err := c.query(ctx, query.Text, args)
	if err != nil {
		done()
		return nil, err
	}
	r.done = done
	return r, nil
}

// known returns where answers are remembered; nil where no writer would have them forgotten.
func (db *DB) known() *caches {
	if db.writer == nil {
		return nil
	}
	return &db.caches
}

// Instead returns an error of the caller's own in place of one that is expected, as a name that is taken in place of
// ErrDuplicate. Any other error it returns as it is.
func Instead(err, expected, own error) error {
	if errors.Is(err, expected) {
		return own
	}
	return err
}
