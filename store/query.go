package store

import (
	"context"
	"time"
)

// Query is an SQL statement with the name under which it is reported.
type Query struct{ Name, Text string }

// Named returns a statement with its name, as "roster.findClass".
func Named(name, text string) Query { return Query{name, text} }

// Queryer answers queries: a DB as its file stands, a Tx as the transaction has changed it.
type Queryer interface {
	// ask runs a query. The caller closes the rows.
	ask(ctx context.Context, query Query, args []any) (*rows, error)
	// known returns where answers are remembered, or nil where every query is asked anew.
	known() *caches
}

// Row is a row that can be scanned.
type Row interface{ Scan(dst ...any) error }

// All returns every row of a query, each read by scan.
func All[T any](ctx context.Context, q Queryer, scan func(Row) (T, error), query Query, args ...any) ([]T, error) {
	r, err := q.ask(ctx, query, args)
	if err != nil {
		return nil, err
	}
	defer r.close()
	var out []T
	for r.next() {
		v, err := scan(r)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, r.err
}

// One reads the first row of a query into dst. It returns ErrNotFound where there is none.
func One(ctx context.Context, q Queryer, query Query, args []any, dst ...any) error {
	r, err := q.ask(ctx, query, args)
	if err != nil {
		return err
	}
	defer r.close()
	if !r.next() {
		if r.err != nil {
			return r.err
		}
		return ErrNotFound
	}
	return r.Scan(dst...)
}

// Only returns the single value of a list, or ErrNotFound.
func Only[T any](list []T, err error) (T, error) {
	var none T
	if err != nil {
		return none, err
	}
	if len(list) == 0 {
		return none, ErrNotFound
	}
	return list[0], nil
}

// Now returns the time as it is kept, in seconds.
func Now() int64 { return time.Now().Unix() }

// TimeOf returns a time that is kept; the zero time for none.
func TimeOf(seconds *int64) time.Time {
	if seconds == nil {
		return time.Time{}
	}
	return time.Unix(*seconds, 0)
}

// OrNull returns a time as it is kept; nil for the zero time.
func OrNull(t time.Time) *int64 {
	if t.IsZero() {
		return nil
	}
	n := t.Unix()
	return &n
}

// OrZero returns a number that is kept; 0 for none.
func OrZero(n *int64) int64 {
	if n == nil {
		return 0
	}
	return *n
}

// TextOf returns a text that is kept; "" for none.
func TextOf(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
