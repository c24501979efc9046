package store

import (
	"context"
	"errors"

	"zombiezen.com/go/sqlite"
)

// Readers is how many queries are asked at a time, for a test that takes them all.
var Readers = readers

// Prepared counts what SQLite is asked to prepare on a new connection to a file, while query is run as often as there
// are arguments.
func Prepared(path string, query string, args ...[]any) (counts []int, err error) {
	c, err := connect(path, setting{})
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, c.Close()) }()
	n := 0
	err = c.SetAuthorizer(sqlite.AuthorizeFunc(func(sqlite.Action) sqlite.AuthResult {
		n++ // it is asked as a statement is prepared, and never else
		return sqlite.AuthResultOK
	}))
	for _, a := range args {
		if err != nil {
			return nil, err
		}
		n = 0
		var r *rows
		if r, err = c.query(context.Background(), query, a); err == nil {
			for r.next() {
			}
			r.close()
			counts, err = append(counts, n), r.err
		}
	}
	return counts, err
}
