package rack

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/store"
)

// DropInstrument puts an instrument of an instructor's into the bin. Sheets keep their own copy.
func (svc *Service) DropInstrument(ctx context.Context, by access.Actor, id int64) error {
	return svc.access.Logging(ctx, by, text.New("log.drop-instrument"),
		func(tx *store.Tx) error { return BinInstrument(ctx, tx, by.ID, id, by.At) })
}

// DropSheet puts a sheet of an instructor's into the bin. Classes that were given it keep it, with all answers.
func (svc *Service) DropSheet(ctx context.Context, by access.Actor, id int64) error {
	return svc.access.Logging(ctx, by, text.New("log.drop-sheet"),
		func(tx *store.Tx) error { return BinSheet(ctx, tx, by.ID, id, by.At) })
}

const MostInstruments = 300

const MostSheets = 300

// Racked is an instrument on an instructor's Rack. One that this program cannot read stands there with
// the reason, so that it can be exported, mended and taken off.
type Racked struct {
	ID         int64
	Name       string
	Document   string
	Instrument *instrument.Instrument // nil where it cannot be read
	Err        error                  // why not
	Changed    time.Time
	Shared     bool      // the owner's students may move it on their Bench
	Warning    text.Text // what its book says against using it; nothing where nothing does
}

// OpenRacked opens a row of the Rack: its document as an instrument, or why it cannot be read.
func OpenRacked(k RackedRow) Racked {
	out := Racked{ID: k.ID, Name: k.Name, Document: k.Document, Changed: k.Changed, Shared: k.Shared}
	in := new(instrument.Instrument)
	if err := json.Unmarshal([]byte(k.Document), in); err != nil {
		out.Err = fmt.Errorf("instrument %d: %w", k.ID, err)
		return out
	}
	out.Instrument = in
	return out
}

// Rack lists an instructor's instruments, those used last first, with what their books say against using them today.
func (svc *Service) Rack(ctx context.Context, owner int64) ([]Racked, error) {
	list, err := svc.rack(ctx, owner)
	if err != nil {
		return nil, err
	}
	return list, svc.warn(ctx, owner, list)
}

// warn puts to instruments what their books say against using them today.
func (svc *Service) warn(ctx context.Context, owner int64, list []Racked) error {
	books, err := books(ctx, svc.store, owner, list, time.Now())
	if err != nil {
		return err
	}
	warned := make(map[int64]text.Text, len(books))
	for _, b := range books {
		warned[b.ID] = b.State.Warning()
	}
	for i := range list {
		list[i].Warning = warned[list[i].ID]
	}
	return nil
}

func (svc *Service) rack(ctx context.Context, owner int64) ([]Racked, error) {
	list, err := listRack(ctx, svc.store, owner)
	out := make([]Racked, len(list))
	for i, k := range list {
		out[i] = OpenRacked(k)
	}
	return out, err
}

// RackPart lists a part of an instructor's instruments, with what their books say. More tells whether there are others
// after them.
func (svc *Service) RackPart(ctx context.Context, owner int64, p Part) (part []Racked, more bool, err error) {
	most := p.Most
	p.Most++
	list, err := listRackPart(ctx, svc.store, owner, p)
	if err != nil {
		return nil, false, err
	}
	if more = len(list) > most; more {
		list = list[:most]
	}
	for _, k := range list {
		part = append(part, OpenRacked(k))
	}
	return part, more, svc.warn(ctx, owner, part)
}

// Racked finds one of an instructor's instruments.
func (svc *Service) Racked(ctx context.Context, owner, id int64) (Racked, error) {
	k, err := findRacked(ctx, svc.store, owner, id)
	if err != nil {
		return Racked{}, err
	}
	return OpenRacked(k), nil
}

// KeepInstrument puts an instrument on the Rack: a new one when id is 0, else in place of that one.
func (svc *Service) KeepInstrument(ctx context.Context, owner, id int64, in *instrument.Instrument) (int64, error) {
	doc, err := store.JSON(in)
	if err != nil {
		return 0, err
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) (err error) {
		id, err = keepInstrument(ctx, tx, owner, RackedRow{ID: id, Name: in.Name(), Document: doc})
		return err
	})
	return id, err
}

// keepInstrument keeps an instrument where there is room for it.
func keepInstrument(ctx context.Context, tx *store.Tx, owner int64, k RackedRow) (int64, error) {
	if k.ID == 0 {
		has, err := countRacked(ctx, tx, owner)
		if err := access.RoomFor(has, err, "instruments", MostInstruments); err != nil {
			return 0, err
		}
	}
	return saveInstrument(ctx, tx, owner, k)
}

// UseInstrument notes that an instructor has used an instrument, so that choices show it first.
func (svc *Service) UseInstrument(ctx context.Context, owner, id int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return markUsed(ctx, tx, owner, []int64{id}, time.Now()) })
}

// keepSheet keeps a sheet where there is room for it, and notes that its instruments were used.
func keepSheet(ctx context.Context, tx *store.Tx, owner int64, sh SheetRow) (int64, error) {
	if byBlock, err := readRacked(sh.Racked); err == nil {
		if err := markUsed(ctx, tx, owner, slices.Concat(byBlock...), time.Now()); err != nil {
			return 0, err
		}
	}
	if sh.ID == 0 {
		has, err := countSheets(ctx, tx, owner)
		if err := access.RoomFor(has, err, "sheets", MostSheets); err != nil {
			return 0, err
		}
	}
	return saveSheet(ctx, tx, owner, sh)
}

// Share puts an instrument on the Bench of its owner's students, or takes it away from there.
func (svc *Service) Share(ctx context.Context, owner, id int64, shared bool) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return share(ctx, tx, owner, id, shared) })
}

// Sheet is a sheet that an instructor has composed. One that this program cannot read stands in lists
// with the reason.
type Sheet struct {
	ID         int64
	Title      string
	Definition exercise.Sheet
	Racked     [][]int64 // by block, the instruments of the Rack that it was composed from
	Err        error     // why it cannot be read, if it cannot
	Changed    time.Time
	Stamp      string // of its state, for ReplaceSheet
}

func openSheet(k SheetRow) Sheet {
	out := Sheet{ID: k.ID, Title: k.Title, Changed: k.Changed, Stamp: stampOf(k.Title, k.Definition)}
	if out.Definition, out.Err = kinds.All.ReadSheet([]byte(k.Definition)); out.Err == nil {
		out.Racked, out.Err = readRacked(k.Racked)
	}
	if out.Err != nil {
		out.Err = fmt.Errorf("sheet %d: %w", k.ID, out.Err)
	}
	return out
}

// readRacked reads which instruments a sheet was composed from, also from when a sheet had one block.
func readRacked(says string) ([][]int64, error) {
	var byBlock [][]int64
	if err := json.Unmarshal([]byte(says), &byBlock); err == nil {
		return byBlock, nil
	}
	var one []int64
	err := json.Unmarshal([]byte(says), &one)
	return [][]int64{one}, err
}

// Sheets lists an instructor's sheets by title.
func (svc *Service) Sheets(ctx context.Context, owner int64) ([]Sheet, error) {
	return openSheets(listSheets(ctx, svc.store, owner))
}

// SheetsPart lists a part of an instructor's sheets. More tells whether there are others after them.
func (svc *Service) SheetsPart(ctx context.Context, owner int64, p Part) (part []Sheet, more bool, err error) {
	most := p.Most
	p.Most++
	part, err = openSheets(listSheetsPart(ctx, svc.store, owner, p))
	if more = len(part) > most; more {
		part = part[:most]
	}
	return part, more, err
}

// SheetsNotGiven lists an instructor's sheets that a class has not been given and could be.
func (svc *Service) SheetsNotGiven(ctx context.Context, owner, class int64) ([]Sheet, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	list, err := openSheets(listSheetsNotGiven(ctx, svc.store, owner, class))
	var out []Sheet
	for _, sh := range list {
		if sh.Err == nil {
			out = append(out, sh)
		}
	}
	return out, err
}

func openSheets(list []SheetRow, err error) ([]Sheet, error) {
	out := make([]Sheet, len(list))
	for i, k := range list {
		out[i] = openSheet(k)
	}
	return out, err
}

// Sheet finds one of an instructor's sheets.
func (svc *Service) Sheet(ctx context.Context, owner, id int64) (Sheet, error) {
	k, err := FindSheet(ctx, svc.store, owner, id)
	if err != nil {
		return Sheet{}, err
	}
	return openSheet(k), nil
}

// KeepSheet keeps a sheet that can be dealt: a new one when its ID is 0.
func (svc *Service) KeepSheet(ctx context.Context, owner int64, sh Sheet) (id int64, err error) {
	row, err := sheetRow(sh)
	if err != nil {
		return 0, err
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) (err error) {
		id, err = keepSheet(ctx, tx, owner, row)
		return err
	})
	return id, err
}

// CountRacked tells how many instruments an instructor has.
func (svc *Service) CountRacked(ctx context.Context, owner int64) (n int, err error) {
	return countRacked(ctx, svc.store, owner)
}

// CountSheets tells how many sheets an instructor has.
func (svc *Service) CountSheets(ctx context.Context, owner int64) (n int, err error) {
	return countSheets(ctx, svc.store, owner)
}
