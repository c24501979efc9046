// Package store keeps everything in one SQLite file: people, instruments, sheets, classes and the
// students' cards. It knows rows and SQL, and no rule: what is kept as a document stays text here. Queries
// are plain database/sql, written out beside the type they fill, and each names the person it is asked
// for. All writes go through one writer that commits waiting work together, so that many students can
// hand in at once and each answer is on disk before it is confirmed.
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
	ErrNotFound = errors.New("not found")     // or not this person's to see
	ErrTaken    = errors.New("already taken") // a name or code that must be the only one
	ErrNewer    = errors.New("the database was written by a newer version of Cavix; this one would not read all of it")
	ErrInUse    = errors.New("another program has the database open")
	ErrHeld     = errors.New("another program holds the database, and did not let go in time")
	ErrFull     = errors.New("the disk is full")
	ErrReadOnly = errors.New("the database may not be written")
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct {
	read    *sql.DB
	queries sync.Map            // of *sql.Stmt on read, by their text: each is prepared once
	reading *semaphore.Weighted // who asks: as many at a time as there are connections
	copier  *sql.Conn           // of read: stays with the file that was opened, whatever becomes of its name
	write   *sql.DB
	writer  *writer
	watcher *watching
	settled settled
	closing sync.Once
}

// Open opens the database file, makes it when it is not there, and brings it to the newest form. One that a newer program
// has brought to a form of its own is ErrNewer, and is left alone.
func Open(ctx context.Context, path string) (*Store, error) {
	write, err := open(path, durable+"_txlock=immediate&_pragma=busy_timeout(200)", 1)
	if err != nil {
		return nil, err
	}
	s := &Store{write: write, watcher: &watching{}, reading: semaphore.NewWeighted(int64(readers))}
	if err := s.begin(ctx, path); err != nil {
		write.Close()
		if s.read != nil {
			s.read.Close()
		}
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return s, nil
}

func (s *Store) begin(ctx context.Context, path string) error {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.write, sub, goose.WithGoMigrations(refold))
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
	if s.read, err = open(path, durable+"_pragma=query_only(1)&_pragma=busy_timeout(500)&mode=rw", readers+1); err != nil {
		return err
	}
	if s.copier, err = s.read.Conn(ctx); err != nil {
		return err
	}
	s.writer, err = newWriter(ctx, s.write, s.watcher, &s.settled)
	return err
}

// fileURL names a file with options of the connection.
func fileURL(path, options string) string {
	u := url.URL{Scheme: "file", Opaque: (&url.URL{Path: path}).EscapedPath(), RawQuery: options}
	return u.String()
}

// durable are the options of every connection of a server: a commit is on the disk when it returns.
const durable = "_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(1)&"

// readers are how many queries are asked at a time, two a processor: more would only share those, and each connection takes
// more than a megabyte. One more belongs to the copier.
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

// Lists of what has a name are ordered as people look names up. Only queries use this order, never an index or a table: the file stays one that
// every SQLite program opens.
func init() { sqlite.MustRegisterCollationUtf8("people", names.Compare) }

// Close finishes the writes that wait and closes the database. Closing it again does nothing.
func (s *Store) Close() (err error) {
	s.closing.Do(func() { err = s.close() })
	return err
}

func (s *Store) close() error {
	if s.writer == nil { // only looked at
		return errors.Join(s.copier.Close(), s.read.Close())
	}
	return errors.Join(s.writer.close(), s.copier.Close(), s.read.Close(), s.write.Close())
}

// Reader asks queries: on its own, or as part of a transaction.
type Reader struct {
	ctx   context.Context
	stmt  func(query string) (*sql.Stmt, error) // prepared once
	watch *watching
	known *settled            // nil within a transaction
	turns *semaphore.Weighted // nil within a transaction
}

// turn waits until a query can be asked: what is measured of it begins then.
func (r *Reader) turn() (end func(), err error) {
	if r.turns != nil {
		if err := r.turns.Acquire(r.ctx, 1); err != nil {
			return nil, err
		}
	}
	began := time.Now()
	return func() {
		r.watch.query(began)
		if r.turns != nil {
			r.turns.Release(1)
		}
	}, nil
}

// Read returns a reader outside any transaction.
func (s *Store) Read(ctx context.Context) *Reader {
	return &Reader{ctx, func(text string) (*sql.Stmt, error) {
		if q, ok := s.queries.Load(text); ok {
			return q.(*sql.Stmt), nil
		}
		q, err := s.read.PrepareContext(ctx, text)
		if err != nil {
			return nil, err
		}
		if first, taken := s.queries.LoadOrStore(text, q); taken {
			return first.(*sql.Stmt), q.Close()
		}
		return q, nil
	}, s.watcher, s.remembering(), s.reading}
}

// remembering is where answers are remembered; nil where nobody would have them forgotten.
func (s *Store) remembering() *settled {
	if s.writer == nil {
		return nil
	}
	return &s.settled
}

// one reads a single row into dst; no row is ErrNotFound.
func (r *Reader) one(query string, args []any, dst ...any) error {
	end, err := r.turn()
	if err != nil {
		return err
	}
	defer end()
	q, err := r.stmt(query)
	if err != nil {
		return err
	}
	err = q.QueryRowContext(r.ctx, args...).Scan(dst...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// all reads every row of a query with scan.
func all[T any](r *Reader, scan func(row) (T, error), query string, args ...any) ([]T, error) {
	end, err := r.turn()
	if err != nil {
		return nil, err
	}
	defer end()
	q, err := r.stmt(query)
	if err != nil {
		return nil, err
	}
	rows, err := q.QueryContext(r.ctx, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		v, err := scan(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, rows.Err()
}

// only takes the single value of a list, or ErrNotFound.
func only[T any](list []T, err error) (T, error) {
	var none T
	if err != nil {
		return none, err
	}
	if len(list) == 0 {
		return none, ErrNotFound
	}
	return list[0], nil
}

// row is what one row can be scanned from.
type row interface{ Scan(dst ...any) error }

// taken turns a broken UNIQUE rule into ErrTaken.
func taken(err error) error {
	var e *sqlite.Error
	if errors.As(err, &e) && e.Code() == sqlite3.SQLITE_CONSTRAINT_UNIQUE {
		return ErrTaken
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

func now() int64 { return time.Now().Unix() }

// when reads a time that may not have come.
func when(seconds *int64) time.Time {
	if seconds == nil {
		return time.Time{}
	}
	return time.Unix(*seconds, 0)
}
