package merging

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"cavix/school/sitting"
	"cavix/store"
)

// Moved is the work that was moved from one record of a student to another.
type Moved struct {
	Sheets   []MovedSheet       `json:"sheets,omitempty"`
	Practice []int              `json:"practice,omitempty"` // numbers of the practice cards, as they were
	Behind   int                `json:"behind,omitempty"`   // how far they were moved behind those of the other record
	Rows     map[string][]int64 `json:"rows,omitempty"`     // by table, the ids of what its rows belong to
	Hash     string             `json:"hash,omitempty"`     // of the passphrase that went along; "" for none
	Number   string             `json:"number,omitempty"`   // of the school, that went along
}

// MovedSheet is a sheet whose attempts were moved.
type MovedSheet struct {
	Assignment int64 `json:"assignment"`
	Attempts   []int `json:"attempts"` // as they were numbered
	Behind     int   `json:"behind"`   // added to these numbers
}

// mergedTables are the tables whose rows of a student belong to a round, a study or a sheet. They are moved where the
// other record has none for the same one.
var mergedTables = map[string]string{"replies": "round", "readings": "survey", "verdicts": "survey", "trials": "survey",
	"setups": "survey", "excused": "assignment", "paper_for": "assignment"}

// moveWork moves what a student has done to another record, and returns what was moved.
func moveWork(ctx context.Context, tx *store.Tx, from, to int64) (m Moved, err error) {
	sheets, err := store.All(ctx, tx, func(r store.Row) (s MovedSheet, err error) {
		return s,
			r.Scan(&s.Assignment, &s.Behind)
	},
		store.Named("merging.moveWork",
			`SELECT DISTINCT f.assignment, (SELECT coalesce(max(o.attempt), 0) FROM sittings o
				WHERE o.assignment = f.assignment AND o.student = ?)
		FROM sittings f WHERE f.student = ? ORDER BY f.assignment`), to, from)
	if err != nil {
		return m, err
	}
	number := func(r store.Row) (n int, err error) { return n, r.Scan(&n) }
	for _, s := range sheets {
		if s.Attempts, err = store.All(ctx, tx, number,
			store.Named("merging.moveWork",
				"SELECT attempt FROM sittings WHERE student = ? AND assignment = ? ORDER BY attempt"), from,
			s.Assignment); err != nil {
			return m, err
		}
		if err := moveSheet(ctx, tx, from, to, s, s.Attempts, s.Behind); err != nil {
			return m, err
		}
		m.Sheets = append(m.Sheets, s)
	}
	if m.Practice, err = store.All(ctx, tx, number,
		store.Named("merging.moveWork", "SELECT n FROM cards WHERE student = ? AND assignment IS NULL ORDER BY n"),
		from); err != nil {
		return m, err
	}
	if err := store.One(ctx, tx,
		store.Named("merging.moveWork",
			"SELECT coalesce(max(n), 0) FROM cards WHERE student = ? AND assignment IS NULL"), []any{to},
		&m.Behind); err != nil {
		return m, err
	}
	if _, err := tx.Exec(ctx, store.Named("merging.moveWork",
		"UPDATE cards SET student = ?, n = n + ? WHERE student = ? AND assignment IS NULL"), to, m.Behind,
		from); err != nil {
		return m, err
	}
	m.Rows = map[string][]int64{}
	for table, of := range mergedTables {
		ids, err := store.All(ctx, tx, func(r store.Row) (id int64, err error) { return id, r.Scan(&id) },
			store.Named("merging.moveWork",
				fmt.Sprintf("SELECT DISTINCT f.%[2]s FROM %[1]s f WHERE f.student = ? AND NOT EXISTS (SELECT 1 FROM "+
					"%[1]s o WHERE o.student = ? AND o.%[2]s = f.%[2]s)", table, of)), from, to)
		if err != nil {
			return m, err
		}
		if m.Rows[table] = ids; len(ids) == 0 {
			delete(m.Rows, table)
		}
		if err := moveRows(ctx, tx, table, from, to, ids); err != nil {
			return m, err
		}
	}
	return m, nil
}

// moveSheet gives attempts at a sheet to another student, so many numbers further on.
func moveSheet(ctx context.Context, tx *store.Tx, from, to int64, s MovedSheet, attempts []int, by int) error {
	sitting.ForgetAttempts(tx)
	for _, attempt := range attempts {
		for _, table := range []string{"cards", "sittings"} {
			if _, err := tx.Exec(ctx, store.Named("merging.moveSheet",
				"UPDATE "+table+" SET student = ?, attempt = ? WHERE student = ? AND assignment = ? AND attempt = ?"),
				to, attempt+by, from, s.Assignment, attempt); err != nil {
				return err
			}
		}
	}
	return nil
}

func moveRows(ctx context.Context, tx *store.Tx, table string, from, to int64, ids []int64) error {
	for _, id := range ids {
		if _, err := tx.Exec(ctx, store.Named("merging.moveRows",
			fmt.Sprintf("UPDATE %s SET student = ? WHERE student = ? AND %s = ?", table, mergedTables[table])), to,
			from, id); err != nil {
			return err
		}
	}
	return nil
}

// moveBack gives a student back what was moved to another record.
func moveBack(ctx context.Context, tx *store.Tx, from, to int64, m Moved) error {
	for _, s := range m.Sheets {
		attempts := slices.Clone(s.Attempts)
		for i := range attempts {
			attempts[i] += s.Behind
		}
		if err := moveSheet(ctx, tx, to, from, s, attempts, -s.Behind); err != nil {
			return err
		}
	}
	for _, n := range m.Practice {
		if _, err := tx.Exec(ctx, store.Named("merging.moveBack",
			"UPDATE cards SET student = ?, n = ? WHERE student = ? AND assignment IS NULL AND n = ?"), from, n, to,
			n+m.Behind); err != nil {
			return err
		}
	}
	for table := range mergedTables {
		if err := moveRows(ctx, tx, table, to, from, m.Rows[table]); err != nil {
			return err
		}
	}
	return nil
}

// noteMerge notes that the work of a student was moved to another record.
func noteMerge(ctx context.Context, tx *store.Tx, from, to int64, m Moved, at time.Time) error {
	text, err := json.Marshal(m)
	if err != nil {
		return err
	}
	_, err = tx.Insert(ctx, store.Named("merging.noteMerge",
		"INSERT INTO merges (student, into_student, moved, at) VALUES (?, ?, ?, ?)"), from, to, string(text), at.Unix())
	return err
}

// forgetMerge forgets that.
func forgetMerge(ctx context.Context, tx *store.Tx, from int64) error {
	return tx.Change(ctx, store.Named("merging.forgetMerge", "DELETE FROM merges WHERE student = ?"), from)
}

// Merge is a record of a student whose work was moved to another one.
type Merge struct {
	Student, Into int64
	Name          string // of the record that was moved
	At            time.Time
	Moved         Moved
}

// listMerges lists the records that were moved to a student's, the latest first.
func listMerges(ctx context.Context, q store.Queryer, into int64) ([]Merge, error) {
	return store.All(ctx, q, func(r store.Row) (m Merge, err error) {
		var at int64
		var moved string
		if err := r.Scan(&m.Student, &m.Into, &m.Name, &moved, &at); err != nil {
			return m, err
		}
		m.At = time.Unix(at, 0)
		return m, json.Unmarshal([]byte(moved), &m.Moved)
	}, store.Named("merging.listMerges",
		`SELECT m.student, m.into_student, s.name, m.moved, m.at FROM merges m JOIN students s ON s.id = m.student
		WHERE m.into_student = ? ORDER BY m.at DESC, m.student DESC`), into)
}
