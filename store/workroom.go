package store

import "time"

// Racked is an instrument on an instructor's Rack.
type Racked struct {
	ID       int64
	Name     string
	Document string // the instrument document
	Changed  time.Time
	Shared   bool // the owner's students may move it on their Bench
}

func scanRacked(r row) (k Racked, err error) {
	var changed int64
	err = r.Scan(&k.ID, &k.Name, &k.Document, &changed, &k.Shared)
	k.Changed = time.Unix(changed, 0)
	return k, err
}

const rackedColumns = "SELECT id, name, document, changed, shared FROM instruments "

// Rack lists an instructor's instruments by name.
func (r *Reader) Rack(owner int64) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+"WHERE owner = ? AND binned IS NULL ORDER BY name COLLATE people, id", owner)
}

// RackPart lists an instructor's instruments whose name holds a text, by name: skip are passed over, up to most are listed.
func (r *Reader) RackPart(owner int64, holds string, skip, most int) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(name), lower(?)) > 0)
		ORDER BY name COLLATE people, id LIMIT ? OFFSET ?`, owner, holds, holds, most, skip)
}

// Racked finds one of an instructor's instruments.
func (r *Reader) Racked(owner, id int64) (Racked, error) {
	return only(all(r, scanRacked, rackedColumns+"WHERE owner = ? AND id = ? AND binned IS NULL", owner, id))
}

// CountRacked tells how many instruments an instructor has.
func (r *Reader) CountRacked(owner int64) (n int, err error) {
	return n, r.one("SELECT count(*) FROM instruments WHERE owner = ? AND binned IS NULL", []any{owner}, &n)
}

// KeepInstrument puts an instrument on the Rack: a new one when its ID is 0, else in place of that one.
func (t *Tx) KeepInstrument(owner int64, k Racked) (int64, error) {
	if k.ID == 0 {
		return t.insert("INSERT INTO instruments (owner, name, document, changed) VALUES (?, ?, ?, ?)", owner, k.Name,
			k.Document, now())
	}
	return k.ID, t.change("UPDATE instruments SET name = ?, document = ?, changed = ? WHERE id = ? AND owner = ? AND binned IS NULL",
		k.Name, k.Document, now(), k.ID, owner)
}

// Share settles whether an instructor's students may move an instrument on their Bench.
func (t *Tx) Share(owner, id int64, shared bool) error {
	return t.change("UPDATE instruments SET shared = ? WHERE id = ? AND owner = ?", shared, id, owner)
}

// SharedWith lists the instruments that a student's instructor shares, by name.
func (r *Reader) SharedWith(student int64) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+`WHERE shared AND binned IS NULL AND owner = (SELECT c.owner FROM students s
		JOIN classes c ON c.id = s.class WHERE s.id = ?) ORDER BY name COLLATE people, id`, student)
}

// Sheet is a sheet that an instructor has composed.
type Sheet struct {
	ID         int64
	Title      string
	Definition string // the sheet document
	Racked     string // the instruments of the Rack that it was composed from, as a JSON list
	Changed    time.Time
}

func scanSheet(r row) (sh Sheet, err error) {
	var changed int64
	err = r.Scan(&sh.ID, &sh.Title, &sh.Definition, &sh.Racked, &changed)
	sh.Changed = time.Unix(changed, 0)
	return sh, err
}

const sheetColumns = "SELECT id, title, definition, racked, changed FROM sheets "

// Sheets lists an instructor's sheets by title.
func (r *Reader) Sheets(owner int64) ([]Sheet, error) {
	return all(r, scanSheet, sheetColumns+"WHERE owner = ? AND binned IS NULL ORDER BY title COLLATE people, id", owner)
}

// SheetsPart lists an instructor's sheets whose title holds a text, by title: skip are passed over, up to most are listed.
func (r *Reader) SheetsPart(owner int64, holds string, skip, most int) ([]Sheet, error) {
	return all(r, scanSheet, sheetColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(title), lower(?)) > 0)
		ORDER BY title COLLATE people, id LIMIT ? OFFSET ?`, owner, holds, holds, most, skip)
}

// SheetsNotGiven lists an instructor's sheets that a class has not been given.
func (r *Reader) SheetsNotGiven(owner, class int64) ([]Sheet, error) {
	return all(r, scanSheet, sheetColumns+`WHERE owner = ? AND binned IS NULL
		AND id NOT IN (SELECT sheet FROM assignments WHERE class = ? AND sheet IS NOT NULL) ORDER BY title COLLATE people, id`, owner, class)
}

// Sheet finds one of an instructor's sheets.
func (r *Reader) Sheet(owner, id int64) (Sheet, error) {
	return only(all(r, scanSheet, sheetColumns+"WHERE owner = ? AND id = ? AND binned IS NULL", owner, id))
}

// KeepSheet keeps a sheet: a new one when its ID is 0.
func (t *Tx) KeepSheet(owner int64, sh Sheet) (int64, error) {
	if sh.ID == 0 {
		return t.insert("INSERT INTO sheets (owner, title, definition, racked, changed) VALUES (?, ?, ?, ?, ?)",
			owner, sh.Title, sh.Definition, sh.Racked, now())
	}
	return sh.ID, t.change(
		"UPDATE sheets SET title = ?, definition = ?, racked = ?, changed = ? WHERE id = ? AND owner = ? AND binned IS NULL",
		sh.Title,
		sh.Definition,
		sh.Racked,
		now(),
		sh.ID,
		owner,
	)
}

// CountSheets tells how many sheets an instructor has.
func (r *Reader) CountSheets(owner int64) (n int, err error) {
	return n, r.one("SELECT count(*) FROM sheets WHERE owner = ? AND binned IS NULL", []any{owner}, &n)
}
