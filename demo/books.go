package demo

import (
	"context"
	"fmt"
	"time"

	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/school"
	"cavix/school/rack"
)

// check is a check of an instrument of the Rack: what it showed closed, and what was decided.
type check struct {
	with      string
	day       int
	closed    string
	condition logbook.Condition
	decision  logbook.Decision
	next      int // days until the next
	note      string
}

// checks fill the logbooks of the first instructor's instruments.
var checks = []check{
	{"Sluice pin caliper", -90, "-0.05", logbook.Clean, logbook.Carry, 45, ""},
	{"Sluice pin caliper", -45, "-0.05", logbook.Clean, logbook.Carry, 45, ""},
	{"Sluice pin caliper", -2, "-0.10", logbook.Clean, logbook.Carry, 90, "reads the same on both edges of the jaws"},
	{"Arbor micrometer", -60, "0.01", logbook.Clean, logbook.InUse, 60, ""},
	{"Arbor micrometer", -3, "0.02", logbook.Stiff, logbook.Carry, 40, "ratchet cleaned, still stiff"},
	{"Weir shim caliper", -30, "-0.06", logbook.Nick, logbook.Aside, 0,
		"a nick in the fixed jaw; back from grinding next week"},
}

// zeroLimits are the largest permitted zero errors, by instrument.
var zeroLimits = map[string]string{"Sluice pin caliper": "0.10", "Arbor micrometer": "0.02",
	"Weir shim caliper": "0.04"}

// checked writes the logbooks.
func checked(ctx context.Context, room *school.School, owner int64, rack map[string]rack.Racked, t term) error {
	for _, c := range checks {
		shown, err := length.Parse(c.closed)
		if err != nil {
			return err
		}
		day := t.day(c.day).UTC().Truncate(24 * time.Hour)
		e := logbook.Entry{At: day, Closed: &shown, Who: "Maren Tollgate", Condition: c.condition, Decision: c.decision,
			Note: c.note}
		if c.next > 0 {
			e.Due = day.AddDate(0, 0, c.next)
		}
		if err := room.Rack.WriteBook(ctx, owner, rack[c.with].ID, e); err != nil {
			return fmt.Errorf("logbook of %s: %w", c.with, err)
		}
	}
	for name, says := range zeroLimits {
		limit, err := length.Parse(says)
		if err != nil {
			return err
		}
		if err := room.Rack.SetZeroLimit(ctx, owner, rack[name].ID, &limit); err != nil {
			return err
		}
	}
	return nil
}
