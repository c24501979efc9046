package store

import (
	"context"
	"errors"
	"sync"

	"golang.org/x/sync/semaphore"
)

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

// give returns a connection to the pool.
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
