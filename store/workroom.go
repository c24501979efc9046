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

// Rack lists an instructor's instruments, those used last first.
func (r *Reader) Rack(owner int64) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+"WHERE owner = ? AND binned IS NULL ORDER BY used DESC, name COLLATE people, id", owner)
}

// Part says which part of a list is asked for: what its name holds, its order and a filter. Skip are passed over, up to Most are
// listed.
type Part struct {
	Holds      string
	Newest     bool   // the last changed first, in place of the order of the names
	Filter     string // of instruments a family; of sheets "given" or "new"; "" for none
	Skip, Most int
}

// order is the order of a part by a column of names and one of times.
func (p Part) order(name, at string) string {
	if p.Newest {
		return " ORDER BY " + at + " DESC, id DESC LIMIT ? OFFSET ?"
	}
	return " ORDER BY " + name + " COLLATE people, id LIMIT ? OFFSET ?"
}

// RackPart lists a part of an instructor's instruments.
func (r *Reader) RackPart(owner int64, p Part) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(name), lower(?)) > 0)
		AND ? IN ('', CASE WHEN json_valid(document) THEN json_extract(document, '$.family') ELSE '' END)`+p.order("name", "changed"),
		owner, p.Holds, p.Holds, p.Filter, p.Most, p.Skip)
}

// Use notes that instruments of an instructor's were used.
func (t *Tx) Use(owner int64, instruments []int64, at time.Time) error {
	for _, id := range instruments {
		if _, err := t.Exec("UPDATE instruments SET used = ? WHERE id = ? AND owner = ?", at.Unix(), id, owner); err != nil {
			return err
		}
	}
	return nil
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
		return t.insert("INSERT INTO instruments (owner, name, document, changed, used) VALUES (?, ?, ?, ?, ?)", owner, k.Name,
			k.Document, now(), now())
	}
	return k.ID, t.change("UPDATE instruments SET name = ?, document = ?, changed = ?, used = ? WHERE id = ? AND owner = ? AND binned IS NULL",
		k.Name, k.Document, now(), now(), k.ID, owner)
}

// Share settles whether an instructor's students may move an instrument on their Bench.
func (t *Tx) Share(owner, id int64, shared bool) error {
	return t.change("UPDATE instruments SET shared = ? WHERE id = ? AND owner = ?", shared, id, owner)
}

// SharedWith lists the instruments that a student's instructor shares, by name.
func (r *Reader) SharedWith(student int64) ([]Racked, error) {
	return all(r, scanRacked, rackedColumns+`WHERE shared AND binned IS NULL AND owner = (SELECT c.owner FROM students s
		JOIN classes c ON c.id = s.class WHERE s.id = ?) ORDER BY used DESC, name COLLATE people, id`, student)
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

// SheetsPart lists a part of an instructor's sheets.
func (r *Reader) SheetsPart(owner int64, p Part) ([]Sheet, error) {
	return all(r, scanSheet, sheetColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(title), lower(?)) > 0)
		AND ? IN ('', iif(EXISTS (SELECT 1 FROM assignments a WHERE a.sheet = sheets.id), 'given', 'new'))`+p.order("title", "changed"),
		owner, p.Holds, p.Holds, p.Filter, p.Most, p.Skip)
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
