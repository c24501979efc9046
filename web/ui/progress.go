package ui

import (
	"cmp"
	"html/template"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school/ledgers"
	"cavix/school/roster"
)

// ProgressView is a student's way: weeks, and slips over them.
type ProgressView struct {
	Weeks  template.HTML
	Begins []string // of the weeks, as heads of a table
	Slips  []SlipWeeks
	Cards  int
	Whole  bool // practice is among them
}

// SlipWeeks is a slip over the weeks.
type SlipWeeks struct {
	Slip  exercise.Code
	Weeks []int
	All   int
}

const slipsSeen = 12

// WeeksSeen is the number of weeks of progress that a page shows.
const WeeksSeen = 12

// NewProgress shows a student's progress.
func NewProgress(said *text.Printer, p ledgers.Progress) (v ProgressView) {
	v.Whole = p.Practised
	if len(p.Weeks) == 0 {
		return v
	}
	var columns []plot.Column
	begins := make([]time.Time, len(p.Weeks))
	for i, week := range p.Weeks {
		name := said.Say("date.day", "day", week.Begins.Day(), "month", Month(week.Begins))
		begins[i] = week.Begins
		v.Begins = append(v.Begins, name)
		v.Cards += week.Cards
		columns = append(columns, plot.Column{Name: name, Count: week.Cards, Share: Share(week.Half, week.Of)})
	}
	v.Weeks = Plot(plot.Columns(said, columns, said.Say("way.share")), "weeks")
	v.Slips = NewSlipWeeks(p.Slips, begins)
	return v
}

// NewSlipWeeks puts slips beside the weeks, those made most first.
func NewSlipWeeks(list []ledgers.SlipWeek, weeks []time.Time) []SlipWeeks {
	byCode := map[string]*SlipWeeks{}
	for _, s := range list {
		at := slices.IndexFunc(weeks, s.Begins.Equal)
		if at < 0 {
			continue
		}
		row := byCode[s.Slip]
		if row == nil {
			row = &SlipWeeks{Slip: exercise.Code(s.Slip), Weeks: make([]int, len(weeks))}
			byCode[s.Slip] = row
		}
		row.Weeks[at] += s.Cards
		row.All += s.Cards
	}
	out := make([]SlipWeeks, 0, len(byCode))
	for _, row := range byCode {
		out = append(out, *row)
	}
	slices.SortFunc(out, func(a, b SlipWeeks) int {
		return cmp.Or(cmp.Compare(b.All, a.All),
			cmp.Compare(a.Slip, b.Slip))
	})
	return out[:min(slipsSeen, len(out))]
}

// Ahead is by how many seconds a class's clock is ahead of the world's.
func Ahead(zone string) int {
	_, ahead := time.Now().In(roster.Clock(zone)).Zone()
	return ahead
}

// Share returns the share of all marks that was earned, 0 to 1.
func Share(half, of int64) float64 {
	if of == 0 {
		return 0
	}
	return float64(half) / float64(of)
}
