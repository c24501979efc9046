package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/survey"
	"cavix/school/access"
	"cavix/school/studies"
)

// measured is a survey that a class is given, and how many of its pupils have read it.
type measured struct {
	title, with string // its title, and the instrument of the Rack
	day         int
	parts       []madePart
	places      int
	repeats     int
	same        bool
	lower       string
	upper       string
	nominal     string
	readers     int
	gauge       limits.Kind
	gear        *survey.Gear
	rest        int // readings that the first of them has still to take
}

// madePart is a made-up part: its true size in mm, and what is wrong with it.
type madePart struct{ name, size, taper, wear string }

// surveys are those of the first class.
var surveys = []measured{
	{title: "Arbor, five places", with: "Arbor micrometer", day: 44, places: 5, repeats: 3, lower: "7.79",
		upper: "7.85", readers: 9, rest: 2, parts: []madePart{{name: "arbor", size: "7.83", wear: "0.05"}}},
	{title: "Who reads the sluice pins how", with: "Weir shim caliper", day: 42, places: 1, repeats: 2, same: true,
		lower: "11.70", upper: "12.30", nominal: "12.00", readers: 6, parts: []madePart{{"pin 1", "11.76", "", ""},
			{"pin 2", "11.96", "", ""}, {"pin 3", "12.04", "", ""}, {"pin 4", "12.12", "", ""},
			{"pin 5", "12.34", "", ""}}},
	{title: "Wallower, four teeth", with: "Wallower gear vernier", day: 43, places: 3, repeats: 1, lower: "6.14",
		upper: "6.34", gear: &survey.Gear{Outside: length.Int(88), Pitch: length.Int(80), Teeth: 20}, readers: 4,
		rest: 12,
		parts: []madePart{{name: "1", size: "6.28"}, {name: "6", size: "6.26"}, {name: "11", size: "6.02"},
			{name: "16", size: "6.28"}}},
	{title: "Pivot bushes in the plug", with: "Bearing bush, inside nibs", day: 43, places: 1, repeats: 1,
		lower: "28.00", upper: "28.12", gauge: limits.Plug, parts: []madePart{{"bush 1", "28.06", "", ""},
			{"bush 2", "27.90", "", ""}, {"bush 3", "28.10", "", ""}, {"bush 4", "28.24", "", ""}}},
}

// plan is the survey as the program takes it.
func (m measured) plan(in *instrument.Instrument) (survey.Plan, error) {
	p := survey.Plan{Instruments: []*instrument.Instrument{in}, Places: m.places, Repeats: m.repeats, Same: m.same,
		Scatter: 8, Verdicts: "three", Gauge: m.gauge, Gear: m.gear}
	if m.gauge == limits.Plug {
		p.Feature = "hole"
	}
	var bad error
	number := func(says string) length.Number {
		x, err := length.Parse(says)
		if err != nil && says != "" {
			bad = err
		}
		return x
	}
	lower, upper := number(m.lower), number(m.upper)
	p.Lower, p.Upper = &lower, &upper
	if m.nominal != "" {
		nominal := number(m.nominal)
		p.Nominal = &nominal
	}
	for _, d := range m.parts {
		part := survey.Part{Name: d.name, Size: number(d.size), Taper: number(d.taper), Wear: number(d.wear)}
		if d.wear != "" {
			part.Worn = 4
		}
		p.Parts = append(p.Parts, part)
	}
	return p, bad
}

// measure gives the class a survey, and has some of its pupils read it.
func (f *filling) measure(ctx context.Context, m measured, in *instrument.Instrument) error {
	p, err := m.plan(in)
	if err != nil {
		return err
	}
	at := f.day(m.day)
	id, err := f.room.Studies.GiveSurvey(ctx, access.Actor{ID: f.owner, Name: "Skerry Point", At: at}, f.id, m.title, p,
		uint64(7000+m.day))
	if err != nil {
		return fmt.Errorf("%s: %w", m.title, err)
	}
	for i, st := range f.seats[:m.readers] {
		if err := f.read(ctx, id, st, i == 0, m.rest, at.Add(time.Duration(10+i)*time.Minute)); err != nil {
			return err
		}
	}
	return nil
}

// read has a pupil take the readings of a survey, in the order in which they come.
func (f *filling) read(ctx context.Context, id int64, st pupilAt, unready bool, rest int, at time.Time) error {
	s, err := f.room.Studies.StudentSurvey(ctx, st.id, id)
	if err != nil {
		return err
	}
	draws := rand.New(rand.NewPCG(uint64(st.id), uint64(id)))
	if s.Plan.Gear != nil && !unready {
		a, err := answer(s.SetupCard(st.id), "", draws)
		if err != nil {
			return err
		}
		if err := f.room.Studies.SetToothDepth(ctx, st.id, id, a, at); err != nil {
			return err
		}
	}
	order := s.Plan.Order(s.Appraiser(st.id))
	if unready {
		order = order[:len(order)-rest]
	}
	for n, cell := range order {
		slip := exercise.Code("")
		if draws.Float64() < st.often/12 {
			slip = st.habit
		}
		it := s.Card(st.id, cell)
		a, err := answer(it, slip, draws)
		if err != nil {
			return err
		}
		if err := f.room.Studies.Record(ctx, st.id, id, cell, a[it.Fields()[0].Name],
			at.Add(time.Duration(n)*25*time.Second)); err != nil {
			return err
		}
	}
	if unready && rest > 0 {
		return nil
	}
	for part := range s.Plan.Parts {
		var sizes []length.Number
		for place := range s.Plan.Places {
			sizes = append(sizes, s.Plan.True(s.Appraiser(st.id), survey.Cell{Part: part, Place: place}))
		}
		if err := f.room.Studies.Decide(ctx, st.id, id, studies.Verdict{Part: part, Verdict: s.Plan.Verdict(sizes)},
			at.Add(20*time.Minute)); err != nil {
			return err
		}
	}
	return nil
}
