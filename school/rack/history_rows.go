package rack

import (
	"context"
	"time"

	"cavix/store"
)

// EarlierState is an instrument or a sheet as it was before a change.
type EarlierState struct {
	ID       int64
	Name     string
	Document string // the instrument document, or the definition of the sheet
	Racked   string // of a sheet: which instruments of the Rack it was composed from
	Kept     time.Time
	Replaced time.Time
}

func scanEarlierState(r store.Row) (s EarlierState, err error) {
	var kept, replaced int64
	err = r.Scan(&s.ID, &s.Name, &s.Document, &s.Racked, &kept, &replaced)
	s.Kept, s.Replaced = time.Unix(kept, 0), time.Unix(replaced, 0)
	return s, err
}

const earlierColumns = "SELECT e.id, e.name, e.document, e.racked, e.kept, e.replaced FROM earlier_states e "

// listEarlierInstruments lists the earlier states of one of an instructor's instruments, the latest first.
func listEarlierInstruments(ctx context.Context, q store.Queryer, owner, instrument int64) ([]EarlierState, error) {
	return store.All(ctx, q, scanEarlierState, store.Named("rack.listEarlierInstruments",
		earlierColumns+`JOIN instruments i ON i.id = e.instrument
		WHERE i.owner = ? AND i.id = ? AND i.binned IS NULL ORDER BY e.id DESC`), owner, instrument)
}

// listEarlierSheets lists the earlier states of one of an instructor's sheets, the latest first.
func listEarlierSheets(ctx context.Context, q store.Queryer, owner, sheet int64) ([]EarlierState, error) {
	return store.All(ctx, q, scanEarlierState, store.Named("rack.listEarlierSheets",
		earlierColumns+`JOIN sheets s ON s.id = e.sheet
		WHERE s.owner = ? AND s.id = ? AND s.binned IS NULL ORDER BY e.id DESC`), owner, sheet)
}
