package access

import (
	"context"
	"fmt"
	"time"

	"cavix/core/text"
	"cavix/store"
)

// LogKeeping notes what was done that is no single class's business.
func LogKeeping(ctx context.Context, tx *store.Tx, c Change) error {
	_, err := tx.Insert(ctx, store.Named("access.LogKeeping",
		"INSERT INTO keeping_log (who, what, at) VALUES (?, ?, ?)"), c.Who, text.Stored(c.What), c.At.Unix())
	return err
}

// Logged is a change with where it was made.
type Logged struct {
	Change
	Of string // the class, or the sheet and class; "" for the server
}

// listLog lists what was changed anywhere, the latest first: by whom, what and when. So many are passed over, and up to
// most are listed.
func listLog(ctx context.Context, q store.Queryer, skip, most int) ([]Logged, error) {
	return store.All(ctx, q, func(r store.Row) (l Logged, err error) {
		var at int64
		err = r.Scan(&l.Who, (*keptText)(&l.What), &at, &l.Of)
		l.At = time.Unix(at, 0)
		return l, err
	}, store.Named("access.listLog", `SELECT who, what, at, '' FROM keeping_log
		UNION ALL SELECT p.who, p.what, p.at, c.name FROM people_log p JOIN classes c ON c.id = p.class
		UNION ALL SELECT h.who, h.what, h.at, c.name || ', ' || a.title FROM changes h JOIN assignments a
		ON a.id = h.assignment
			JOIN classes c ON c.id = a.class
		ORDER BY 3 DESC, 1, 2 LIMIT ? OFFSET ?`), most, skip)
}

// Change is a line of the record of changed marks.
type Change struct {
	Who  string
	What text.Text // what was done
	At   time.Time
}

// Log notes a change of marks.
func Log(ctx context.Context, tx *store.Tx, assignment int64, c Change) error {
	_, err := tx.Insert(ctx, store.Named("access.Log",
		"INSERT INTO changes (assignment, who, what, at) VALUES (?, ?, ?, ?)"), assignment, c.Who, text.Stored(c.What),
		c.At.Unix())
	return err
}

// listChanges lists who changed marks of an instructor's given sheet, the latest first.
func listChanges(ctx context.Context, q store.Queryer, owner, assignment int64) ([]Change, error) {
	return store.All(ctx, q, func(r store.Row) (c Change, err error) {
		var at int64
		err = r.Scan(&c.Who, (*keptText)(&c.What), &at)
		c.At = time.Unix(at, 0)
		return c, err
	}, store.Named("access.listChanges",
		`SELECT h.who, h.what, h.at FROM changes h JOIN assignments a ON a.id = h.assignment JOIN classes c
			ON c.id = a.class
		WHERE `+Taught+` AND a.id = ? ORDER BY h.id DESC LIMIT 200`), owner, assignment)
}

// RoleIn returns the role of an instructor in a class, or ErrNotFound if they do not teach it.
func RoleIn(ctx context.Context, q store.Queryer, instructor, class int64) (role Role, err error) {
	err = store.One(ctx, q, store.Named("access.RoleIn",
		"SELECT role FROM teaching WHERE instructor = ? AND class = ?"), []any{instructor, class}, &role)
	return role, err
}

// logPeople notes what was done with the people of a class.
func logPeople(ctx context.Context, tx *store.Tx, class int64, c Change) error {
	_, err := tx.Insert(ctx, store.Named("access.logPeople",
		"INSERT INTO people_log (class, who, what, at) VALUES (?, ?, ?, ?)"), class, c.Who, text.Stored(c.What),
		c.At.Unix())
	return err
}

// listPeopleLog lists what was done with the people of a class, the latest first, up to most.
func listPeopleLog(ctx context.Context, q store.Queryer, class int64, most int) ([]Change, error) {
	return store.All(ctx, q, func(r store.Row) (c Change, err error) {
		var at int64
		err = r.Scan(&c.Who, (*keptText)(&c.What), &at)
		c.At = time.Unix(at, 0)
		return c, err
	}, store.Named("access.listPeopleLog",
		"SELECT who, what, at FROM people_log WHERE class = ? ORDER BY id DESC LIMIT ?"), class, most)
}

// keptText reads a text that is kept.
type keptText text.Text

// Scan reads what text.Stored has written.
func (t *keptText) Scan(v any) error {
	s, is := v.(string)
	if !is {
		return fmt.Errorf("a text cannot be a %T", v)
	}
	*t = keptText(text.ReadStored(s))
	return nil
}
