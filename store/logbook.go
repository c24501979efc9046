package store

import "time"

// LogEntry is an entry of an instrument's book.
type LogEntry struct {
	ID         int64
	Instrument int64
	Day        time.Time
	Entry      string // as a document
	Corrects   int64  // the entry that this one stands for; 0 for none
}

func scanLogEntry(r row) (e LogEntry, err error) {
	var day int64
	var corrects *int64
	err = r.Scan(&e.ID, &e.Instrument, &day, &e.Entry, &corrects)
	e.Day, e.Corrects = time.Unix(day, 0).UTC(), orZero(corrects)
	return e, err
}

// Logbook lists the entries of the books of an instructor's instruments, in the order in which they were made: of one
// instrument, or of all where that is 0.
func (r *Reader) Logbook(owner, instrument int64) ([]LogEntry, error) {
	return all(r, scanLogEntry, `SELECT b.id, b.instrument, b.day, b.entry, b.corrects FROM logbook b JOIN instruments i ON i.id = b.instrument
		WHERE i.owner = ? AND ? IN (0, i.id) ORDER BY b.id`, owner, instrument)
}

// AddLogEntry keeps an entry of a book.
func (t *Tx) AddLogEntry(e LogEntry) (int64, error) {
	return t.insert("INSERT INTO logbook (instrument, day, entry, corrects, made) VALUES (?, ?, ?, nullif(?, 0), ?)", e.Instrument,
		e.Day.Unix(), e.Entry, e.Corrects, now())
}

// RemoveLogEntry deletes an entry of an instrument's book.
func (t *Tx) RemoveLogEntry(instrument, entry int64) error {
	return t.change("DELETE FROM logbook WHERE id = ? AND instrument = ?", entry, instrument)
}

// SetZeroLimit keeps how large the zero error of an instructor's instrument may be; "" for no limit.
func (t *Tx) SetZeroLimit(owner, instrument int64, limit string) error {
	return t.change("UPDATE instruments SET zero_limit = ? WHERE id = ? AND owner = ?", limit, instrument, owner)
}

// ZeroLimits are how large the zero errors of an instructor's instruments may be, by instrument; those without a limit are
// left out.
func (r *Reader) ZeroLimits(owner int64) (map[int64]string, error) {
	out := map[int64]string{}
	_, err := all(r, func(r row) (none struct{}, err error) {
		var id int64
		var limit string
		err = r.Scan(&id, &limit)
		out[id] = limit
		return none, err
	}, "SELECT id, zero_limit FROM instruments WHERE owner = ? AND zero_limit <> ''", owner)
	return out, err
}
