package rack

import (
	"context"
	"time"

	"cavix/store"
)

// BinInstrument puts an instrument of an owner's into the bin; a zero time takes it out again.
func BinInstrument(ctx context.Context, tx *store.Tx, owner, id int64, at time.Time) error {
	return tx.Change(ctx, store.Named("rack.BinInstrument",
		"UPDATE instruments SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?"), store.OrNull(at), id,
		owner, !at.IsZero())
}

// BinSheet puts a sheet of an owner's into the bin; a zero time takes it out again. Classes that were given it keep it.
func BinSheet(ctx context.Context, tx *store.Tx, owner, id int64, at time.Time) error {
	return tx.Change(ctx, store.Named("rack.BinSheet",
		"UPDATE sheets SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?"), store.OrNull(at), id,
		owner, !at.IsZero())
}

// RackedRow is an instrument on an instructor's Rack.
type RackedRow struct {
	ID       int64
	Name     string
	Document string // the instrument document
	Changed  time.Time
	Shared   bool // the owner's students may move it on their Bench
}

func scanRacked(r store.Row) (k RackedRow, err error) {
	var changed int64
	err = r.Scan(&k.ID, &k.Name, &k.Document, &changed, &k.Shared)
	k.Changed = time.Unix(changed, 0)
	return k, err
}

const rackedColumns = "SELECT id, name, document, changed, shared FROM instruments "

// listRack lists an instructor's instruments, those used last first.
func listRack(ctx context.Context, q store.Queryer, owner int64) ([]RackedRow, error) {
	return store.All(ctx, q, scanRacked,
		store.Named("rack.listRack",
			rackedColumns+"WHERE owner = ? AND binned IS NULL ORDER BY used DESC, name COLLATE people, id"), owner)
}

// Part says which part of a list is asked for: what its name holds, its order and a filter. Skip are passed over, up to
// Most are listed.
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

// listRackPart lists a part of an instructor's instruments.
func listRackPart(ctx context.Context, q store.Queryer, owner int64, p Part) ([]RackedRow, error) {
	return store.All(ctx, q, scanRacked,
		store.Named("rack.listRackPart",
			rackedColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(name), lower(?)) > 0)
		AND ? IN ('', CASE WHEN json_valid(document) THEN json_extract(document, '$.family') ELSE ''
		END)`+p.order("name", "changed")),
		owner, p.Holds, p.Holds, p.Filter, p.Most, p.Skip)
}

// markUsed notes that instruments of an instructor's were used.
func markUsed(ctx context.Context, tx *store.Tx, owner int64, instruments []int64, at time.Time) error {
	for _, id := range instruments {
		if _, err := tx.Exec(ctx, store.Named("rack.markUsed",
			"UPDATE instruments SET used = ? WHERE id = ? AND owner = ?"), at.Unix(), id, owner); err != nil {
			return err
		}
	}
	return nil
}

// findRacked finds one of an instructor's instruments.
func findRacked(ctx context.Context, q store.Queryer, owner, id int64) (RackedRow, error) {
	return store.Only(store.All(ctx, q, scanRacked,
		store.Named("rack.findRacked", rackedColumns+"WHERE owner = ? AND id = ? AND binned IS NULL"), owner, id))
}

// countRacked tells how many instruments an instructor has.
func countRacked(ctx context.Context, q store.Queryer, owner int64) (n int, err error) {
	err = store.One(ctx, q, store.Named("rack.countRacked",
		"SELECT count(*) FROM instruments WHERE owner = ? AND binned IS NULL"), []any{owner}, &n)
	return n, err
}

// saveInstrument puts an instrument on the Rack: a new one when its ID is 0, else in place of that one.
func saveInstrument(ctx context.Context, tx *store.Tx, owner int64, k RackedRow) (int64, error) {
	if k.ID == 0 {
		return tx.Insert(ctx, store.Named("rack.saveInstrument",
			"INSERT INTO instruments (owner, name, document, changed, used) VALUES (?, ?, ?, ?, ?)"), owner, k.Name,
			k.Document, store.Now(), store.Now())
	}
	return k.ID, tx.Change(ctx,
		store.Named("rack.saveInstrument",
			"UPDATE instruments SET name = ?, document = ?, changed = ?, used = ? WHERE id = ? AND owner = ? AND "+
				"binned IS NULL"), k.Name, k.Document, store.Now(), store.Now(), k.ID, owner)
}

// share settles whether an instructor's students may move an instrument on their Bench.
func share(ctx context.Context, tx *store.Tx, owner, id int64, shared bool) error {
	return tx.Change(ctx, store.Named("rack.share", "UPDATE instruments SET shared = ? WHERE id = ? AND owner = ?"),
		shared, id, owner)
}

// ListSharedWith lists the instruments that a student's instructor shares, by name.
func ListSharedWith(ctx context.Context, q store.Queryer, student int64) ([]RackedRow, error) {
	return store.All(ctx, q, scanRacked,
		store.Named("rack.ListSharedWith",
			rackedColumns+`WHERE shared AND binned IS NULL AND owner = (SELECT c.owner FROM students s
		JOIN classes c ON c.id = s.class WHERE s.id = ?) ORDER BY used DESC, name COLLATE people, id`), student)
}

// SheetRow is a sheet that an instructor has composed.
type SheetRow struct {
	ID         int64
	Title      string
	Definition string // the sheet document
	Racked     string // the instruments of the Rack that it was composed from, as a JSON list
	Changed    time.Time
}

func scanSheet(r store.Row) (sh SheetRow, err error) {
	var changed int64
	err = r.Scan(&sh.ID, &sh.Title, &sh.Definition, &sh.Racked, &changed)
	sh.Changed = time.Unix(changed, 0)
	return sh, err
}

const sheetColumns = "SELECT id, title, definition, racked, changed FROM sheets "

// listSheets lists an instructor's sheets by title.
func listSheets(ctx context.Context, q store.Queryer, owner int64) ([]SheetRow, error) {
	return store.All(ctx, q, scanSheet,
		store.Named("rack.listSheets",
			sheetColumns+"WHERE owner = ? AND binned IS NULL ORDER BY title COLLATE people, id"), owner)
}

// listSheetsPart lists a part of an instructor's sheets.
func listSheetsPart(ctx context.Context, q store.Queryer, owner int64, p Part) ([]SheetRow, error) {
	return store.All(ctx, q, scanSheet,
		store.Named("rack.listSheetsPart",
			sheetColumns+`WHERE owner = ? AND binned IS NULL AND (? = '' OR instr(lower(title), lower(?)) > 0)
		AND ? IN ('', iif(EXISTS (SELECT 1 FROM assignments a
		WHERE a.sheet = sheets.id), 'given', 'new'))`+p.order("title", "changed")),
		owner, p.Holds, p.Holds, p.Filter, p.Most, p.Skip)
}

// listSheetsNotGiven lists an instructor's sheets that a class has not been given.
func listSheetsNotGiven(ctx context.Context, q store.Queryer, owner, class int64) ([]SheetRow, error) {
	return store.All(ctx, q, scanSheet, store.Named("rack.listSheetsNotGiven",
		sheetColumns+`WHERE owner = ? AND binned IS NULL
		AND id NOT IN (SELECT sheet FROM assignments WHERE class = ? AND sheet IS NOT NULL)
		ORDER BY title COLLATE people, id`), owner, class)
}

// FindSheet finds one of an instructor's sheets.
func FindSheet(ctx context.Context, q store.Queryer, owner, id int64) (SheetRow, error) {
	return store.Only(store.All(ctx, q, scanSheet,
		store.Named("rack.FindSheet", sheetColumns+"WHERE owner = ? AND id = ? AND binned IS NULL"), owner, id))
}

// saveSheet keeps a sheet: a new one when its ID is 0.
func saveSheet(ctx context.Context, tx *store.Tx, owner int64, sh SheetRow) (int64, error) {
	if sh.ID == 0 {
		return tx.Insert(ctx, store.Named("rack.saveSheet",
			"INSERT INTO sheets (owner, title, definition, racked, changed) VALUES (?, ?, ?, ?, ?)"), owner, sh.Title,
			sh.Definition, sh.Racked, store.Now())
	}
	return sh.ID, tx.Change(ctx,
		store.Named("rack.saveSheet",
			"UPDATE sheets SET title = ?, definition = ?, racked = ?, changed = ? WHERE id = ? AND owner = ? AND "+
				"binned IS NULL"),
		sh.Title,
		sh.Definition,
		sh.Racked,
		store.Now(),
		sh.ID,
		owner,
	)
}

// countSheets tells how many sheets an instructor has.
func countSheets(ctx context.Context, q store.Queryer, owner int64) (n int, err error) {
	err = store.One(ctx, q, store.Named("rack.countSheets",
		"SELECT count(*) FROM sheets WHERE owner = ? AND binned IS NULL"), []any{owner}, &n)
	return n, err
}

// RestoreBinnedInstrument takes an instrument of an instructor's out of the Bin.
func RestoreBinnedInstrument(ctx context.Context, tx *store.Tx, instructor, id int64) error {
	return BinInstrument(ctx, tx, instructor, id, time.Time{})
}

// RemoveInstrument deletes a instrument that lies in the Bin for good, with all that belongs to it.
func RemoveInstrument(ctx context.Context, tx *store.Tx, id int64) error {
	return tx.Change(ctx, store.Named("rack.RemoveInstrument",
		"DELETE FROM instruments WHERE binned IS NOT NULL AND id = ?"), id)
}

// RemoveInstruments deletes the instruments for good that came into the Bin before a time.
func RemoveInstruments(ctx context.Context, tx *store.Tx, before time.Time) error {
	_, err := tx.Exec(ctx, store.Named("rack.RemoveInstruments", "DELETE FROM instruments WHERE binned < ?"),
		before.Unix())
	return err
}

// RestoreBinnedSheet takes a sheet of an instructor's out of the Bin.
func RestoreBinnedSheet(ctx context.Context, tx *store.Tx, instructor, id int64) error {
	return BinSheet(ctx, tx, instructor, id, time.Time{})
}

// RemoveSheet deletes a sheet that lies in the Bin for good, with all that belongs to it.
func RemoveSheet(ctx context.Context, tx *store.Tx, id int64) error {
	return tx.Change(ctx, store.Named("rack.RemoveSheet", "DELETE FROM sheets WHERE binned IS NOT NULL AND id = ?"), id)
}

// RemoveSheets deletes the sheets for good that came into the Bin before a time.
func RemoveSheets(ctx context.Context, tx *store.Tx, before time.Time) error {
	_, err := tx.Exec(ctx, store.Named("rack.RemoveSheets", "DELETE FROM sheets WHERE binned < ?"), before.Unix())
	return err
}
