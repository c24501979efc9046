package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"
)

// Names of what is noted of the file itself.
const (
	Served    = "served"     // "running" while a server has the file open
	LastCheck = "last-check" // what the last check of the database found
	LastCopy  = "last-copy"  // what the last daily copy came to
)

// Noted returns what is noted under a name, and since when; "" and the zero time where nothing is.
func Noted(ctx context.Context, q Queryer, name string) (value string, at time.Time, err error) {
	var seconds int64
	err = One(ctx, q, Named("store.Noted", "SELECT value, at FROM keeping WHERE name = ?"), []any{name}, &value,
		&seconds)
	if errors.Is(err, ErrNotFound) {
		return "", time.Time{}, nil
	}
	return value, time.Unix(seconds, 0), err
}

// Note keeps a value under a name.
func Note(ctx context.Context, tx *Tx, name, value string, at time.Time) error {
	_, err := tx.Exec(ctx, Named("store.Note", `INSERT INTO keeping (name, value, at) VALUES (?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET value = excluded.value, at = excluded.at`), name, value, at.Unix())
	return err
}

// JSON writes a document as it is kept, of what always encodes: strings, numbers and the core's own types.
func JSON(v any) (string, error) {
	b, err := json.Marshal(v)
	return string(b), err
}

// DamagedRow is the error for a row that is kept and cannot be read. The row stays as it is until somebody removes it.
type DamagedRow struct {
	What string // as "study"
	ID   int64
	Err  error // why it cannot be read
}

func (d DamagedRow) Error() string {
	return fmt.Sprintf("%s %d cannot be read: %s", d.What, d.ID, d.Err)
}

// Unwrap returns why it cannot be read.
func (d DamagedRow) Unwrap() error { return d.Err }

// Kept is a document with the id of its row.
type Kept struct {
	ID       int64
	Document string
}
