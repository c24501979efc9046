package store

import (
	"errors"
	"time"
)

// Names of what is noted of the file itself.
const (
	Served    = "served"     // "running" while a server has the file open
	LastCheck = "last-check" // what the last look through the file found
	LastCopy  = "last-copy"  // what the last daily copy came to
	Pulse     = "pulse"      // written to see whether writing works
	DeviceKey = "device-key" // signs the cookies of browsers that have signed in before
)

// Noted is what is noted under a name; "" and the zero time where nothing is.
func (r *Reader) Noted(name string) (value string, at time.Time, err error) {
	var seconds int64
	err = r.one("SELECT value, at FROM keeping WHERE name = ?", []any{name}, &value, &seconds)
	if errors.Is(err, ErrNotFound) {
		return "", time.Time{}, nil
	}
	return value, time.Unix(seconds, 0), err
}

// Note keeps a value under a name.
func (t *Tx) Note(name, value string, at time.Time) error {
	_, err := t.Exec(`INSERT INTO keeping (name, value, at) VALUES (?, ?, ?)
		ON CONFLICT (name) DO UPDATE SET value = excluded.value, at = excluded.at`, name, value, at.Unix())
	return err
}
