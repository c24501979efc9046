package demo

import (
	"context"
	"fmt"
	"strings"

	"cavix/store"
)

// copying is a class that is copied: the spans of its rows' numbers, and the triggers that are put aside.
type copying struct {
	class    int64
	rows     []rowsOf
	triggers []string // their definitions
}

// rowsOf are the rows of a table that belong to the class: which they are, and the columns that are another's in a
// copy, as SQL of which copy it is (nth), how many seconds later, whose it is, what its class is called and joined by,
// since when it is there, and when it was over.
type rowsOf struct {
	table, where string
	other        map[string]string
	insert       store.Query
}

// beginCopying looks at a class and puts the triggers on its rows aside.
func beginCopying(ctx context.Context, tx *store.Tx, class int64) (copying, error) {
	c := copying{class: class}
	span := func(table, where string) (first, count int64, err error) {
		err = store.One(ctx, tx, store.Named("demo.span",
			"SELECT min(id), max(id) - min(id) + 1 FROM "+table+" WHERE "+where), nil, &first, &count)
		return first, count, err
	}
	of := fmt.Sprint("class = ", class)
	firstStudent, students, err := span("students", of)
	if err != nil {
		return c, err
	}
	firstSheet, sheets, err := span("assignments", of)
	if err != nil {
		return c, err
	}
	onSheets := fmt.Sprintf("assignment BETWEEN %d AND %d", firstSheet, firstSheet+sheets-1)
	firstCard, cards, err := span("cards", onSheets)
	if err != nil {
		return c, err
	}
	shift := func(column string, by int64) string { return fmt.Sprintf("%s + nth * %d", column, by) }
	later := func(column string) string { return column + " + later" }
	student, sheet := shift("student", students), shift("assignment", sheets)
	c.rows = []rowsOf{
		{table: "classes", where: fmt.Sprint("id = ", class), other: map[string]string{"id": shift("id", 1),
			"owner": "whose", "name": "called", "code": "joins", "created": "since", "archived": "over"}},
		{table: "staff", where: of, other: map[string]string{"class": shift("class", 1), "instructor": "whose"}},
		{table: "students", where: fmt.Sprintf("id BETWEEN %d AND %d", firstStudent, firstStudent+students-1),
			other: map[string]string{"id": shift("id", students), "class": shift("class", 1),
				"created": later("created")}},
		{table: "assignments", where: of, other: map[string]string{"id": shift("id", sheets),
			"class": shift("class", 1),
			"sheet": fmt.Sprintf("iif(whose = (SELECT owner FROM classes WHERE id = %d), sheet, NULL)", class),
			"given": later("given"), "opens": later("opens"), "closes": later("closes"),
			"released": later("released")}},
		{table: "sittings", where: onSheets, other: map[string]string{"assignment": sheet, "student": student,
			"began": later("began"), "ends": later("ends"), "handed": later("handed")}},
		{table: "cards", where: fmt.Sprintf("id BETWEEN %d AND %d", firstCard, firstCard+cards-1),
			other: map[string]string{"id": shift("id", cards), "assignment": sheet, "student": student,
				"answered": later("answered"), "seen": later("seen")}},
		{table: "tallies", where: onSheets, other: map[string]string{"assignment": sheet,
			"quarter": "quarter + later / 900"}},
		{table: "makers", where: of, other: map[string]string{"class": shift("class", 1), "student": student}},
		{table: "marks", where: onSheets, other: map[string]string{"assignment": sheet, "student": student,
			"began": later("began")}},
	}
	for i := range c.rows {
		if err := c.rows[i].prepare(ctx, tx); err != nil {
			return c, err
		}
	}
	return c, c.putAside(ctx, tx)
}

// prepare writes the statement that copies the rows.
func (r *rowsOf) prepare(ctx context.Context, tx *store.Tx) error {
	columns, err := store.All(ctx, tx, func(row store.Row) (name string, err error) { return name, row.Scan(&name) },
		store.Named("demo.columns", "SELECT name FROM pragma_table_info(?)"), r.table)
	if err != nil {
		return err
	}
	values := make([]string, len(columns))
	for i, name := range columns {
		if values[i] = r.other[name]; values[i] == "" {
			values[i] = name
		}
	}
	r.insert = store.Named("demo.copy", fmt.Sprintf(`WITH copy (nth, later, whose, called, joins, since, over)
		AS (VALUES (?, ?, ?, ?, ?, ?, ?)) INSERT INTO %s (%s) SELECT %s FROM %s, copy WHERE %s`, r.table,
		strings.Join(columns, ", "), strings.Join(values, ", "), r.table, r.where))
	return nil
}

// putAside drops the triggers on the tables that are copied.
func (c *copying) putAside(ctx context.Context, tx *store.Tx) error {
	type trigger struct{ name, definition string }
	for _, r := range c.rows {
		list, err := store.All(ctx, tx, func(row store.Row) (t trigger, err error) {
			return t, row.Scan(&t.name, &t.definition)
		}, store.Named("demo.triggers", "SELECT name, sql FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = ?"),
			r.table)
		if err != nil {
			return err
		}
		for _, t := range list {
			c.triggers = append(c.triggers, t.definition)
			if _, err := tx.Exec(ctx, store.Named("demo.putAside", "DROP TRIGGER "+t.name)); err != nil {
				return err
			}
		}
	}
	return nil
}

// copied says what is other in a copy. The class itself is the first of its copies, and only gets its dates.
type copied struct {
	nth        int
	later      int64 // seconds
	owner      int64
	name, code string
	since      int64  // when it was made, in seconds since 1970
	over       *int64 // when it was archived; nil for one that runs
}

// write writes a copy.
func (c *copying) write(ctx context.Context, tx *store.Tx, to copied) error {
	if to.nth == 0 {
		_, err := tx.Exec(ctx, store.Named("demo.first", "UPDATE classes SET created = ?, archived = ? WHERE id = ?"),
			to.since, to.over, c.class)
		return err
	}
	for _, r := range c.rows {
		if _, err := tx.Exec(ctx, r.insert, to.nth, to.later, to.owner, to.name, to.code, to.since,
			to.over); err != nil {
			return fmt.Errorf("%s: %w", r.table, err)
		}
	}
	return nil
}

// end puts the triggers back.
func (c *copying) end(ctx context.Context, tx *store.Tx) error {
	for _, definition := range c.triggers {
		if _, err := tx.Exec(ctx, store.Named("demo.putBack", definition)); err != nil {
			return err
		}
	}
	return nil
}
