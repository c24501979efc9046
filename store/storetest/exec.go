// Package storetest lays out the rows of a database in tests, as SQL.
package storetest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"cavix/store"
)

// Exec runs a statement in a transaction of its own and returns the id of the row that it inserted last. What
// services remember is forgotten.
func Exec(t testing.TB, db *store.DB, text string, args ...any) (id int64) {
	t.Helper()
	require.NoError(t, db.Write(t.Context(), func(tx *store.Tx) (err error) {
		tx.ForgetEverything()
		id, err = tx.Insert(t.Context(), store.Named("storetest.Exec", text), args...)
		return err
	}))
	return id
}

// Texts returns what a query of one column lists.
func Texts(t testing.TB, db *store.DB, text string, args ...any) []string {
	t.Helper()
	list, err := store.All(t.Context(), db, func(r store.Row) (s string, err error) { return s, r.Scan(&s) },
		store.Named("storetest.Texts", text), args...)
	require.NoError(t, err)
	return list
}
