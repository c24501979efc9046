package student

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/plot"
	"cavix/store"
	"cavix/transfer"
	"cavix/web/ui"
)

// wayPage is a student's whole way: weeks, sheets, slips.
type wayPage struct {
	Weeks  template.HTML
	Begins []string // of the weeks, as heads of a table
	Slips  []slipRow
	Sheets []sheetLink
	Cards  int
}

// slipRow is a slip over the weeks.
type slipRow struct {
	Did   string
	Weeks []int
	All   int
}

const (
	weeksSeen = 12
	slipsSeen = 12
)

// way shows a student's whole way.
func (s Seat) way(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	read := s.Room.Store().Read(r.Context())
	ahead, err := s.ahead(r, student)
	if err != nil {
		return err
	}
	weeks, err := read.Weeks(student, ahead, weeksSeen)
	if err != nil {
		return err
	}
	v := wayPage{}
	if v.Sheets, err = s.links(r, student); err != nil {
		return err
	}
	var columns []plot.Column
	for _, week := range weeks {
		name := week.Begins.Format("2 Jan")
		v.Begins = append(v.Begins, name)
		v.Cards += week.Cards
		columns = append(columns, plot.Column{Name: name, Count: week.Cards, Share: share(week.Half, week.Of)})
	}
	if len(weeks) > 0 {
		v.Weeks = ui.Plot(plot.Columns(columns, "Share of the marks by week"), "weeks")
		slips, err := read.SlipWeeks(student, ahead, weeks[0].Begins.Add(-24*time.Hour))
		if err != nil {
			return err
		}
		v.Slips = slipRows(slips, weeks)
	}
	return s.Render(w, r, http.StatusOK, "way", "Your way", v)
}

// slipRows puts slips beside the weeks, those made most first.
func slipRows(list []store.SlipWeek, weeks []store.Week) []slipRow {
	byCode := map[string]*slipRow{}
	for _, s := range list {
		at := slices.IndexFunc(weeks, func(w store.Week) bool { return w.Begins.Equal(s.Begins) })
		if at < 0 {
			continue
		}
		row := byCode[s.Slip]
		if row == nil {
			row = &slipRow{Did: kinds.Did(exercise.Code(s.Slip)), Weeks: make([]int, len(weeks))}
			byCode[s.Slip] = row
		}
		row.Weeks[at] += s.Cards
		row.All += s.Cards
	}
	out := make([]slipRow, 0, len(byCode))
	for _, row := range byCode {
		out = append(out, *row)
	}
	slices.SortFunc(out, func(a, b slipRow) int { return cmp.Or(cmp.Compare(b.All, a.All), cmp.Compare(a.Did, b.Did)) })
	return out[:min(slipsSeen, len(out))]
}

func share(half, of int64) float64 {
	if of == 0 {
		return 0
	}
	return float64(half) / float64(of)
}

// ahead is by how many seconds the clock of a student's class is ahead of the world's.
func (s Seat) ahead(r *http.Request, student int64) (int, error) {
	who, err := s.Room.Store().Read(r.Context()).Student(student)
	if err != nil {
		return 0, err
	}
	_, ahead := time.Now().In(classroom.Clock(who.Zone)).Zone()
	return ahead, nil
}

// export hands a student all own answers as CSV.
func (s Seat) export(w http.ResponseWriter, r *http.Request) error {
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="my-answers.csv"`)
	out, err := transfer.NewAnswersWriter(w)
	if err != nil {
		return err
	}
	var item exercise.Item
	last := ""
	err = s.Room.Store().Read(r.Context()).OwnAnswers(ui.UserOf(r).ID, func(o store.Own) error {
		if o.Item != last {
			last = o.Item
			if item, err = kinds.Open([]byte(o.Item)); err != nil {
				item = nil // one that this program cannot read: its answers are there all the same
			}
		}
		a := transfer.Answer{Sheet: cmp.Or(o.Sheet, "practice"), Card: o.Card, Kind: o.Kind, Field: o.Field, Given: o.Given,
			Expected: o.Expected, Outcome: o.Outcome, Marks: ui.Halves(o.Half), Of: ui.Halves(o.Of), Slip: o.Slip, Hints: o.Hints,
			Answered: o.Answered, Attempt: o.Attempt, Late: o.Late}
		if item != nil && len(item.Figures()) > 0 {
			in := item.Figures()[0].Instrument
			a.Instrument, a.LeastCount = in.Name(), fmt.Sprintf("%s %s", in.FormatMain(in.LeastCount()), in.Unit())
		}
		return out.Write(a)
	})
	if err != nil {
		return err
	}
	return out.Close()
}
