package server

import (
	"context"

	"cavix/store"
)

// Shelf is a column that holds documents of one sort.
type Shelf string

// The shelves, by what is kept there. Each names its rows id and document.
const (
	Instruments Shelf = "SELECT id, document FROM instruments"
	SheetsMade  Shelf = "SELECT id, definition AS document FROM sheets"
	SheetsGiven Shelf = "SELECT id, definition AS document FROM assignments"
	RoundsAsked Shelf = "SELECT id, item AS document FROM rounds"
	PlansGiven  Shelf = "SELECT id, plan AS document FROM surveys"
	ZeroBounds  Shelf = "SELECT id, zero_limit AS document FROM instruments WHERE zero_limit <> ''"
	LogEntries  Shelf = "SELECT id, entry AS document FROM logbook"
	Comparisons Shelf = "SELECT id, plan AS document FROM comparisons"
	Deviations  Shelf = "SELECT id, deviation AS document FROM compared WHERE deviation IS NOT NULL"
	Boards      Shelf = "SELECT class AS id, state AS document FROM boards"
	Conventions Shelf = "SELECT id, method AS document FROM classes"
	Terms       Shelf = "SELECT id, words AS document FROM classes"
	CareItems   Shelf = `SELECT id,
		'{"format": "cavix/item", "version": 2, "kind": "' || kind || '", "body": ' || body || '}' AS document
		FROM bank`
	BeforeMarked Shelf = "SELECT id, definition AS document FROM remarkings"
)

// listShelved lists documents of a shelf after one of them, in the order of their ids, up to most. It asks for nobody:
// it is for looking through a whole file.
func listShelved(ctx context.Context, q store.Queryer, from Shelf, after int64, most int) ([]store.Kept, error) {
	return store.All(ctx, q, func(r store.Row) (k store.Kept, err error) { return k, r.Scan(&k.ID, &k.Document) },
		store.Named("server.listShelved",
			"SELECT id, document FROM ("+string(from)+") WHERE id > ? ORDER BY id LIMIT ?"), after, most)
}

// Numbers counts what the database holds.
type Numbers struct{ Instructors, Classes, Students, Cards, Answers int }

// readNumbers counts what is kept.
func readNumbers(ctx context.Context, q store.Queryer) (n Numbers, err error) {
	err = store.One(ctx, q, store.Named("server.readNumbers",
		`SELECT (SELECT count(*) FROM instructors), (SELECT count(*) FROM classes), (SELECT count(*) FROM students
			WHERE NOT guest),
		(SELECT count(*) FROM cards), (SELECT count(*) FROM cards WHERE answered IS NOT NULL)`), nil,
		&n.Instructors, &n.Classes, &n.Students, &n.Cards, &n.Answers)
	return n, err
}
