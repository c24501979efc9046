package rack

import (
	"context"
	"time"

	"cavix/store"
)

// LogEntry is an entry of an instrument's book.
type LogEntry struct {
	ID         int64
	Instrument int64
	Day        time.Time
	Entry      string // as a document
	Corrects   int64  // the entry that this one stands for; 0 for none
}

func scanLogEntry(r store.Row) (e LogEntry, err error) {
	var day int64
	var corrects *int64
	err = r.Scan(&e.ID, &e.Instrument, &day, &e.Entry, &corrects)
	e.Day, e.Corrects = time.Unix(day, 0).UTC(), store.OrZero(corrects)
	return e, err
}

// listLogbook lists the entries of the books of an instructor's instruments, in the order in which they were made: of
// one instrument, or of all where that is 0.
func listLogbook(ctx context.Context, q store.Queryer, owner, instrument int64) ([]LogEntry, error) {
	return store.All(ctx, q, scanLogEntry,
		store.Named("rack.listLogbook",
			`SELECT b.id, b.instrument, b.day, b.entry, b.corrects FROM logbook b JOIN instruments i
				ON i.id = b.instrument
		WHERE i.owner = ? AND ? IN (0, i.id) ORDER BY b.id`), owner, instrument)
}

// insertLogEntry keeps an entry of a book.
func insertLogEntry(ctx context.Context, tx *store.Tx, e LogEntry) (int64, error) {
	return tx.Insert(ctx, store.Named("rack.insertLogEntry",
		"INSERT INTO logbook (instrument, day, entry, corrects, made) VALUES (?, ?, ?, nullif(?, 0), ?)"), e.Instrument,
		e.Day.Unix(), e.Entry, e.Corrects, store.Now())
}

// deleteLogEntry deletes an entry of an instrument's book.
func deleteLogEntry(ctx context.Context, tx *store.Tx, instrument, entry int64) error {
	return tx.Change(ctx, store.Named("rack.deleteLogEntry", "DELETE FROM logbook WHERE id = ? AND instrument = ?"),
		entry, instrument)
}

// updateZeroLimit keeps how large the zero error of an instructor's instrument may be; "" for no limit.
func updateZeroLimit(ctx context.Context, tx *store.Tx, owner, instrument int64, limit string) error {
	return tx.Change(ctx, store.Named("rack.updateZeroLimit",
		"UPDATE instruments SET zero_limit = ? WHERE id = ? AND owner = ?"), limit, instrument, owner)
}

// listZeroLimits returns how large the zero errors of an instructor's instruments may be, by instrument; those without
// a limit are left out.
func listZeroLimits(ctx context.Context, q store.Queryer, owner int64) (map[int64]string, error) {
	out := map[int64]string{}
	_, err := store.All(ctx, q, func(r store.Row) (none struct{}, err error) {
		var id int64
		var limit string
		err = r.Scan(&id, &limit)
		out[id] = limit
		return none, err
	}, store.Named("rack.listZeroLimits",
		"SELECT id, zero_limit FROM instruments WHERE owner = ? AND zero_limit <> ''"), owner)
	return out, err
}
