package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"reflect"
	"strconv"
	"sync"
	"time"

	"golang.org/x/sync/semaphore"
	migrating "modernc.org/sqlite"
	"zombiezen.com/go/sqlite"

	"cavix/core/names"
)

// conn is a connection to a file. One goroutine at a time uses it.
type conn struct {
	*sqlite.Conn
	stop       chan struct{} // closed to break off what runs
	statements map[string]*statement
}

// statement is a statement that is prepared once. What is bound to it stays until it is bound anew: were it cleared,
// SQLite would prepare the statement again wherever its plan could depend on a value.
type statement struct {
	*sqlite.Stmt
	running bool // its rows are being read
	once    bool // it is not kept
}

// setting is how a connection opens a file: options of its URL and statements that are run first.
type setting struct {
	options  string
	pragmas  []string
	patience time.Duration // for which it waits for others that hold the file
}

// connect opens a connection. Lists of what has a name are ordered as people look names up: only queries use that
// order, never an index or a table, so that every SQLite program opens the file.
func connect(path string, s setting) (*conn, error) {
	c, err := sqlite.OpenConn(fileURL(path, s.options), sqlite.OpenReadWrite, sqlite.OpenCreate, sqlite.OpenURI)
	if err != nil {
		return nil, err
	}
	c.SetBusyTimeout(s.patience)
	out := &conn{Conn: c, statements: map[string]*statement{}}
	err = errors.Join(
		c.SetCollation("people", names.Compare),
		c.CreateFunction("packed", scalar(pack)), c.CreateFunction("unpacked", scalar(unpack)))
	for _, text := range s.pragmas {
		err = errors.Join(err, out.exec("PRAGMA "+text))
	}
	if err != nil {
		return nil, errors.Join(err, out.Close())
	}
	out.stoppable()
	return out, nil
}

// Close ends the connection.
func (c *conn) Close() error {
	for _, s := range c.statements {
		_ = s.Finalize() // its error is the last step's
	}
	return c.Conn.Close()
}

// stoppable makes way for a query that may be broken off.
func (c *conn) stoppable() {
	c.stop = make(chan struct{})
	c.SetInterrupt(c.stop)
}

// exec runs a statement without parameters.
func (c *conn) exec(text string) error {
	r, err := c.query(context.Background(), text, nil)
	if err != nil {
		return err
	}
	defer r.close()
	for r.next() { // a pragma may return a row
	}
	return r.err
}

// query begins a query, which the end of its context breaks off. The caller closes the rows.
func (c *conn) query(ctx context.Context, text string, args []any) (r *rows, err error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	r = &rows{conn: c, ctx: ctx}
	if r.stmt, err = c.prepared(text); err != nil {
		return nil, err
	}
	if want := r.stmt.BindParamCount(); want != len(args) {
		r.close()
		return nil, fmt.Errorf("%d parameters for the %d of %q", len(args), want, text)
	}
	for i, arg := range args {
		if err := bind(r.stmt.Stmt, i+1, arg); err != nil {
			r.close()
			return nil, fmt.Errorf("parameter %d of %q: %w", i+1, text, err)
		}
	}
	if ctx.Done() != nil {
		r.unhook = context.AfterFunc(ctx, func() { close(c.stop) })
	}
	return r, nil
}

// prepared returns a statement that is ready to be run: the one kept for its text, or, where that is running, another
// of its own.
func (c *conn) prepared(text string) (*statement, error) {
	kept, known := c.statements[text]
	if known && !kept.running {
		kept.running = true
		return kept, nil
	}
	stmt, _, err := c.PrepareTransient(text)
	if err != nil {
		return nil, err
	}
	s := &statement{stmt, true, known}
	if !known {
		c.statements[text] = s
	}
	return s, nil
}

// release has a statement be run again.
func (c *conn) release(s *statement) {
	s.running = false
	if s.once {
		_ = s.Finalize() // its error is the last step's
	} else {
		_ = s.Reset()
	}
}

// rows are the rows that a query returns.
type rows struct {
	conn   *conn
	ctx    context.Context
	stmt   *statement
	unhook func() bool
	done   func() // is called when they are closed
	err    error
}

// next goes to the next row and reports whether there is one.
func (r *rows) next() bool {
	if r.err != nil {
		return false
	}
	var more bool
	more, r.err = r.stmt.Step()
	if r.err != nil && r.ctx.Err() != nil {
		r.err = r.ctx.Err()
	}
	return more
}

// close ends the query. Closing it again does nothing.
func (r *rows) close() {
	if r.stmt == nil {
		return
	}
	r.conn.release(r.stmt)
	r.stmt = nil
	if r.unhook != nil && !r.unhook() {
		<-r.conn.stop
		r.conn.stoppable()
	}
	if r.done != nil {
		r.done()
	}
}

// bind sets a parameter of a statement, by its number from 1.
func bind(stmt *sqlite.Stmt, i int, value any) error {
	switch v := value.(type) {
	case nil:
		stmt.BindNull(i)
	case int64:
		stmt.BindInt64(i, v)
	case int:
		stmt.BindInt64(i, int64(v))
	case string:
		stmt.BindText(i, v)
	case bool:
		stmt.BindBool(i, v)
	case float64:
		stmt.BindFloat(i, v)
	case []byte:
		if v == nil {
			stmt.BindNull(i)
		} else {
			stmt.BindBytes(i, v)
		}
	case time.Time:
		return errors.New("a time is kept in seconds")
	default: // types of those kinds, and pointers to them
		plain, err := driver.DefaultParameterConverter.ConvertValue(value)
		if err != nil {
			return err
		}
		return bind(stmt, i, plain)
	}
	return nil
}

// Scan reads the columns of the row into what dst points to. A pointer to a pointer takes NULL too.
func (r *rows) Scan(dst ...any) error {
	if n := r.stmt.ColumnCount(); n != len(dst) {
		return fmt.Errorf("%d columns are read from %d", len(dst), n)
	}
	for i, d := range dst {
		if err := r.column(i, d); err != nil {
			return fmt.Errorf("column %s: %w", r.stmt.ColumnName(i), err)
		}
	}
	return nil
}

// column reads a column into what dst points to.
func (r *rows) column(i int, dst any) error {
	kind := r.stmt.ColumnType(i)
	switch d := dst.(type) {
	case *int64:
		return into(d, r.whole, i, kind)
	case *string:
		return into(d, r.words, i, kind)
	case *[]byte:
		*d = r.bytes(i, kind)
		return nil
	case sql.Scanner:
		return d.Scan(r.value(i, kind))
	}
	v := reflect.ValueOf(dst).Elem()
	if v.Kind() == reflect.Pointer {
		if kind == sqlite.TypeNull {
			v.SetZero()
			return nil
		}
		to := reflect.New(v.Type().Elem())
		v.Set(to)
		return r.column(i, to.Interface())
	}
	switch {
	case v.CanInt():
		n, err := r.whole(i, kind)
		if err == nil && v.OverflowInt(n) {
			err = fmt.Errorf("%d is too large", n)
		}
		v.SetInt(n)
		return err
	case v.CanUint():
		n, err := r.whole(i, kind)
		v.SetUint(uint64(n)) //nolint:gosec // a seed, which has all 64 bits
		return err
	case v.CanFloat():
		x, err := r.float(i, kind)
		v.SetFloat(x)
		return err
	case v.Kind() == reflect.Bool:
		n, err := r.whole(i, kind)
		v.SetBool(n != 0)
		return err
	case v.Kind() == reflect.String:
		text, err := r.words(i, kind)
		v.SetString(text)
		return err
	}
	return fmt.Errorf("no column is read into a %T", dst)
}

// into reads a column into what dst points to.
func into[T any](dst *T, read func(int, sqlite.ColumnType) (T, error), i int, kind sqlite.ColumnType) (err error) {
	*dst, err = read(i, kind)
	return err
}

var errNull = errors.New("there is no value")

// whole reads a column that holds a whole number.
func (r *rows) whole(i int, kind sqlite.ColumnType) (int64, error) {
	switch kind {
	case sqlite.TypeInteger:
		return r.stmt.ColumnInt64(i), nil
	case sqlite.TypeNull:
		return 0, errNull
	}
	return strconv.ParseInt(r.stmt.ColumnText(i), 10, 64)
}

// float reads a column that holds a number.
func (r *rows) float(i int, kind sqlite.ColumnType) (float64, error) {
	switch kind {
	case sqlite.TypeInteger, sqlite.TypeFloat:
		return r.stmt.ColumnFloat(i), nil
	case sqlite.TypeNull:
		return 0, errNull
	}
	return strconv.ParseFloat(r.stmt.ColumnText(i), 64)
}

// words reads a column as a text.
func (r *rows) words(i int, kind sqlite.ColumnType) (string, error) {
	if kind == sqlite.TypeNull {
		return "", errNull
	}
	return r.stmt.ColumnText(i), nil
}

// bytes reads a column as it lies there; nil for none.
func (r *rows) bytes(i int, kind sqlite.ColumnType) []byte {
	if kind == sqlite.TypeNull {
		return nil
	}
	out := make([]byte, r.stmt.ColumnLen(i))
	r.stmt.ColumnBytes(i, out)
	return out
}

// value reads a column as what it is: a string, a []byte, an int64, a float64 or nil.
func (r *rows) value(i int, kind sqlite.ColumnType) any {
	switch kind {
	case sqlite.TypeInteger:
		return r.stmt.ColumnInt64(i)
	case sqlite.TypeFloat:
		return r.stmt.ColumnFloat(i)
	case sqlite.TypeText:
		return r.stmt.ColumnText(i)
	case sqlite.TypeBlob:
		return r.bytes(i, kind)
	}
	return nil
}

// pool lends connections to those who ask: as many at a time as it may have, the one used last first.
type pool struct {
	path    string
	setting setting
	turns   *semaphore.Weighted
	mu      sync.Mutex
	idle    []*conn
	closed  bool
}

func newPool(path string, s setting, most int) *pool {
	return &pool{path: path, setting: s, turns: semaphore.NewWeighted(int64(most))}
}

// take waits for a turn and lends a connection.
func (p *pool) take(ctx context.Context) (*conn, error) {
	if err := p.turns.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	p.mu.Lock()
	if p.closed {
		p.mu.Unlock()
		p.turns.Release(1)
		return nil, errClosed
	}
	if last := len(p.idle) - 1; last >= 0 {
		c := p.idle[last]
		p.idle = p.idle[:last]
		p.mu.Unlock()
		return c, nil
	}
	p.mu.Unlock()
	c, err := connect(p.path, p.setting)
	if err != nil {
		p.turns.Release(1)
	}
	return c, err
}

// give takes a connection back.
func (p *pool) give(c *conn) {
	p.mu.Lock()
	closed := p.closed
	if !closed {
		p.idle = append(p.idle, c)
	}
	p.mu.Unlock()
	if closed {
		_ = c.Close() // it only read
	}
	p.turns.Release(1)
}

// query asks on a connection of the pool.
func (p *pool) query(ctx context.Context, text string, args []any) (*rows, error) {
	c, err := p.take(ctx)
	if err != nil {
		return nil, err
	}
	r, err := c.query(ctx, text, args)
	if err != nil {
		p.give(c)
		return nil, err
	}
	r.done = func() { p.give(c) }
	return r, nil
}

// close closes the connections that nobody uses, and has each other closed when it comes back.
func (p *pool) close() (err error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.closed = true
	for _, c := range p.idle {
		err = errors.Join(err, c.Close())
	}
	p.idle = nil
	return err
}

// code returns the result code of SQLite in an error.
func code(err error) sqlite.ResultCode {
	var e *migrating.Error
	if errors.As(err, &e) {
		return sqlite.ResultCode(e.Code())
	}
	return sqlite.ErrCode(err)
}

// duplicate turns a broken UNIQUE rule into ErrDuplicate.
func duplicate(err error) error {
	if code(err) == sqlite.ResultConstraintUnique {
		return ErrDuplicate
	}
	return err
}

// unwritable returns an error after which the database takes nothing more of a batch: a full or a failing disk, a file
// that may not be written.
func unwritable(err error) error {
	switch code(err).ToPrimary() {
	case sqlite.ResultFull:
		return errors.Join(ErrFull, err)
	case sqlite.ResultReadOnly:
		return errors.Join(ErrReadOnly, err)
	case sqlite.ResultIOErr, sqlite.ResultNoMem, sqlite.ResultCorrupt, sqlite.ResultNotADB, sqlite.ResultCantOpen:
		return err
	}
	return nil
}

// Busy reports whether somebody else held the database for longer than was waited.
func Busy(err error) bool { return code(err).ToPrimary() == sqlite.ResultBusy }

// Damaged reports whether a file cannot be read as a database: its pages are broken, or it is none.
func Damaged(err error) bool {
	c := code(err).ToPrimary()
	return c == sqlite.ResultCorrupt || c == sqlite.ResultNotADB
}
