package store

import (
	"context"
	"encoding/json"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
)

// Racked is an instrument on an instructor's Rack.
type Racked struct {
	ID         int64
	Instrument *instrument.Instrument
	Changed    time.Time
}

func scanRacked(r row) (k Racked, err error) {
	var doc string
	var changed int64
	if err := r.Scan(&k.ID, &doc, &changed); err != nil {
		return k, err
	}
	k.Changed = time.Unix(changed, 0)
	k.Instrument = new(instrument.Instrument)
	return k, json.Unmarshal([]byte(doc), k.Instrument)
}

// Rack lists an instructor's instruments by name.
func (s *Store) Rack(ctx context.Context, owner int64) ([]Racked, error) {
	return all(ctx, s, scanRacked, "SELECT id, document, changed FROM instruments WHERE owner = ? ORDER BY name, id", owner)
}

// Racked finds one of an instructor's instruments.
func (s *Store) Racked(ctx context.Context, owner, id int64) (Racked, error) {
	return only(all(ctx, s, scanRacked, "SELECT id, document, changed FROM instruments WHERE owner = ? AND id = ?", owner, id))
}

// KeepInstrument puts an instrument on the Rack: a new one when id is 0, else in place of that one.
func (s *Store) KeepInstrument(ctx context.Context, owner, id int64, in *instrument.Instrument) (int64, error) {
	doc, err := json.Marshal(in)
	if err != nil {
		return 0, err
	}
	err = s.Write(ctx, func(tx *Tx) error {
		if id == 0 {
			id, err = tx.insert("INSERT INTO instruments (owner, name, document, changed) VALUES (?, ?, ?, ?)", owner, in.Name(), string(doc), now())
			return err
		}
		return tx.change("UPDATE instruments SET name = ?, document = ?, changed = ? WHERE id = ? AND owner = ?", in.Name(), string(doc), now(), id, owner)
	})
	return id, err
}

// DropInstrument takes an instrument off the Rack. Sheets keep their own copy.
func (s *Store) DropInstrument(ctx context.Context, owner, id int64) error {
	return s.Write(ctx, func(tx *Tx) error {
		return tx.change("DELETE FROM instruments WHERE id = ? AND owner = ?", id, owner)
	})
}

// Sheet is a sheet that an instructor has composed.
type Sheet struct {
	ID         int64
	Title      string
	Definition exercise.Sheet
	Racked     []int64 // the instruments of the Rack that it was composed from
	Changed    time.Time
}

func scanSheet(r row) (sh Sheet, err error) {
	var def, racked string
	var changed int64
	if err := r.Scan(&sh.ID, &sh.Title, &def, &racked, &changed); err != nil {
		return sh, err
	}
	sh.Changed = time.Unix(changed, 0)
	if err := json.Unmarshal([]byte(def), &sh.Definition); err != nil {
		return sh, err
	}
	return sh, json.Unmarshal([]byte(racked), &sh.Racked)
}

// Sheets lists an instructor's sheets by title.
func (s *Store) Sheets(ctx context.Context, owner int64) ([]Sheet, error) {
	return all(ctx, s, scanSheet, "SELECT id, title, definition, racked, changed FROM sheets WHERE owner = ? ORDER BY title, id", owner)
}

// SheetsNotGiven lists an instructor's sheets that a class has not been given.
func (s *Store) SheetsNotGiven(ctx context.Context, owner, class int64) ([]Sheet, error) {
	return all(ctx, s, scanSheet, `SELECT id, title, definition, racked, changed FROM sheets WHERE owner = ?
		AND id NOT IN (SELECT sheet FROM assignments WHERE class = ? AND sheet IS NOT NULL) ORDER BY title, id`, owner, class)
}

// Sheet finds one of an instructor's sheets.
func (s *Store) Sheet(ctx context.Context, owner, id int64) (Sheet, error) {
	return only(all(ctx, s, scanSheet, "SELECT id, title, definition, racked, changed FROM sheets WHERE owner = ? AND id = ?", owner, id))
}

// KeepSheet keeps a sheet: a new one when its ID is 0.
func (s *Store) KeepSheet(ctx context.Context, owner int64, sh Sheet) (int64, error) {
	def, err := json.Marshal(sh.Definition)
	if err != nil {
		return 0, err
	}
	racked, err := json.Marshal(sh.Racked)
	if err != nil {
		return 0, err
	}
	id := sh.ID
	err = s.Write(ctx, func(tx *Tx) error {
		if id == 0 {
			id, err = tx.insert("INSERT INTO sheets (owner, title, definition, racked, changed) VALUES (?, ?, ?, ?, ?)",
				owner, sh.Title, string(def), string(racked), now())
			return err
		}
		return tx.change("UPDATE sheets SET title = ?, definition = ?, racked = ?, changed = ? WHERE id = ? AND owner = ?",
			sh.Title, string(def), string(racked), now(), id, owner)
	})
	return id, err
}
