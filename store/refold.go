package store

import (
	"context"
	"database/sql"
	"fmt"

	"github.com/pressly/goose/v3"

	"cavix/core/names"
)

// refoldVersion is the form of the database from which on names are folded as core/names does.
const refoldVersion = 17

// refold brings the folded names of older forms to the one of core/names. Two that have come to be the same, which no
// page would take now, both stay: the later one with its number.
var refold = goose.NewGoMigration(refoldVersion, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	for _, of := range []struct{ list, other, set string }{
		{"SELECT id, name, folded FROM students ORDER BY id",
			"SELECT count(*) FROM students WHERE folded = ? AND id <> ? AND class = (SELECT class FROM students " +
				"WHERE id = ?)",
			"UPDATE students SET folded = ? WHERE id = ?"},
		{"SELECT id, login, login FROM instructors ORDER BY id",
			"SELECT count(*) FROM instructors WHERE login = ? AND id <> ? AND ? > 0",
			"UPDATE instructors SET login = ? WHERE id = ?"},
	} {
		old, err := foldedOtherwise(ctx, tx, of.list)
		if err != nil {
			return err
		}
		for id, folded := range old {
			var taken int
			if err := tx.QueryRowContext(ctx, of.other, folded, id, id).Scan(&taken); err != nil {
				return err
			}
			if taken > 0 {
				folded = fmt.Sprintf("%s %d", folded, id)
			}
			if _, err := tx.ExecContext(ctx, of.set, folded, id); err != nil {
				return err
			}
		}
	}
	return nil
}}, nil)

// foldedOtherwise lists the rows whose folded name is not what it would be now, with that.
func foldedOtherwise(ctx context.Context, tx *sql.Tx, query string) (map[int64]string, error) {
	rows, err := tx.QueryContext(ctx, query)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]string{}
	for rows.Next() {
		var id int64
		var name, folded string
		if err := rows.Scan(&id, &name, &folded); err != nil {
			return nil, err
		}
		if now := names.Fold(name); now != folded {
			out[id] = now
		}
	}
	return out, rows.Err()
}
