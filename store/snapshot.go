package store

import (
	"context"
	"errors"
)

// snapshot queries one connection within a transaction.
type snapshot struct{ conn *conn }

func (s snapshot) ask(ctx context.Context, query Query, args []any) (*rows, error) {
	return s.conn.query(ctx, query.Text, args)
}

func (s snapshot) known() *caches { return nil }

// Snapshot calls look with a Queryer whose queries all see the database at the same moment, whatever is written
// meanwhile. The Queryer is for one goroutine, and ends with the call.
func (db *DB) Snapshot(ctx context.Context, look func(Queryer) error) (err error) {
	c, err := db.read.take(ctx)
	if err != nil {
		return err
	}
	defer db.read.give(c)
	if err := c.exec("BEGIN"); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, c.exec("ROLLBACK")) }()
	return look(snapshot{c})
}
