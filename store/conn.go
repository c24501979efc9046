package store

import (
	"context"
	"errors"
	"fmt"
	"time"

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
	if err := keepPlans(); err != nil {
		return nil, err
	}
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

// stoppable lets queries be interrupted from now on.
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
