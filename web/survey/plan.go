package survey

import (
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/web/ui"
)

// partForm is a part as it is typed.
type partForm struct {
	Name  string `form:"name"`
	Size  string `form:"size"`
	Taper string `form:"taper"`
	Round string `form:"round"`
	Wear  string `form:"wear"`
	Worn  string `form:"worn"`
}

// empty reports whether nothing is typed of a part.
func (f partForm) empty() bool {
	return strings.TrimSpace(f.Name+f.Size+f.Taper+f.Round+f.Wear+f.Worn) == ""
}

// planForm is a plan as it is typed.
type planForm struct {
	Class      string     `form:"class"`
	Title      string     `form:"title"`
	Instrument string     `form:"instrument"`
	Places     string     `form:"places"`
	Repeats    string     `form:"repeats"`
	Who        string     `form:"who"` // same or own
	Scatter    string     `form:"scatter"`
	Feature    string     `form:"feature"`
	Lower      string     `form:"lower"`
	Upper      string     `form:"upper"`
	Nominal    string     `form:"nominal"`
	Tried      string     `form:"tried"`   // in a gauge, before they are measured
	Outside    string     `form:"outside"` // of a gear
	Pitch      string     `form:"pitch"`
	Teeth      string     `form:"teeth"`
	Verdicts   string     `form:"verdicts"`
	Compare    string     `form:"compare"`
	Parts      []partForm `form:"parts"`
}

// planView is the form of a plan.
type planView struct {
	Form        planForm
	Classes     []roster.Class
	Instruments []rack.Racked
	Errors      map[string]text.Text
	Rows        []partRow
	Gauges      []limits.Kind
}

type partRow struct {
	partForm
	N     int
	Fault text.Text
}

func (h Handler) planForm(w http.ResponseWriter, r *http.Request) error {
	f := planForm{Class: r.URL.Query().Get("class"), Places: "5", Repeats: "3", Who: "own", Scatter: "6",
		Verdicts: "three", Parts: []partForm{{Name: "1"}}}
	if r.URL.Query().Has("tried") { // from the planner of gauges
		if err := ui.Asked(r, &f); err != nil {
			return err
		}
		f.Parts = f.Parts[:min(len(f.Parts), survey.MaxParts)]
	}
	return h.showPlan(w, r, f, nil)
}

func (h Handler) showPlan(w http.ResponseWriter, r *http.Request, f planForm, errs map[string]text.Text) error {
	me := ui.UserOf(r).ID
	v := planView{Form: f, Errors: errs, Gauges: []limits.Kind{limits.Ring, limits.Snap, limits.Plug}}
	list, err := h.Site.School.Roster.Classes(r.Context(), me)
	if err != nil {
		return err
	}
	for _, c := range list {
		if c.Runs() && access.RunStudy.Allows(c.Role) {
			v.Classes = append(v.Classes, c)
		}
	}
	rack, err := h.Site.School.Rack.Rack(r.Context(), me)
	if err != nil {
		return err
	}
	for _, k := range rack {
		if k.Err == nil {
			v.Instruments = append(v.Instruments, k)
		}
	}
	for i := range survey.MaxParts {
		row := partRow{N: i, Fault: errs[fmt.Sprintf("parts.%d", i)]}
		if i < len(f.Parts) {
			row.partForm = f.Parts[i]
		}
		v.Rows = append(v.Rows, row)
	}
	return h.Render(w, r, ui.Status(errs), "plan", text.New("survey.plan.show-plan"), v)
}

// plan reads the form.
func (f planForm) plan(in *instrument.Instrument, bad *ui.Faults) survey.Plan {
	unit := in.Unit()
	number := func(field, says string) length.Number { return bad.Number(field, says, unit).Value }
	maybe := func(field, says string) *length.Number {
		if strings.TrimSpace(says) == "" {
			return nil
		}
		x := number(field, says)
		return &x
	}
	p := survey.Plan{Instruments: []*instrument.Instrument{in}, Places: bad.Whole("places", f.Places),
		Repeats: bad.Whole("repeats", f.Repeats), Same: f.Who == "same", Scatter: bad.Whole("scatter", f.Scatter),
		Feature: f.Feature, Verdicts: f.Verdicts,
		Gauge: limits.Kind(f.Tried),
		Lower: maybe("lower", f.Lower), Upper: maybe("upper", f.Upper), Nominal: maybe("nominal", f.Nominal)}
	if in.Definition().Paired {
		p.Gear = &survey.Gear{Outside: number("outside", f.Outside), Pitch: number("pitch", f.Pitch),
			Teeth: bad.Whole("teeth", f.Teeth)}
	}
	if f.Compare != "" {
		p.Compare = true
		if !survey.Compares(in) {
			bad.Add("compare", "survey.plan.plan")
		} else if p.Nominal != nil && in.Traits().Digits {
			zeroed, err := in.WithZeroError(p.Nominal.Neg())
			if err != nil {
				bad.Add("nominal", "survey.plan.cannot-zeroed", "err", err)
			} else {
				p.Instruments[0] = zeroed
			}
		}
	}
	if !slices.Contains([]string{"", "shaft", "hole"}, p.Feature) {
		p.Feature = ""
	}
	if !slices.Contains([]string{"", "two", "three"}, p.Verdicts) {
		p.Verdicts = ""
	}
	for i, d := range f.Parts {
		if d.empty() {
			continue
		}
		field := fmt.Sprintf("parts.%d", i)
		if strings.TrimSpace(d.Size) == "" {
			bad.Add(field, "survey.plan.needs-true-size")
		}
		p.Parts = append(p.Parts, survey.Part{Name: ui.OneLine(d.Name), Size: number(field, d.Size),
			Taper: number(field, d.Taper), Round: number(field, d.Round), Wear: number(field, d.Wear),
			Worn: bad.Whole(field, d.Worn)})
	}
	return p
}

// give reads a plan, and gives it to a class.
func (h Handler) give(w http.ResponseWriter, r *http.Request, f planForm) error {
	if len(f.Parts) > survey.MaxParts {
		f.Parts = f.Parts[:survey.MaxParts]
	}
	var bad ui.Faults
	title := ui.OneLine(f.Title)
	bad.Name("title", title)
	var class, id int64
	fmt.Sscan(f.Class, &class)
	fmt.Sscan(f.Instrument, &id)
	k, err := h.Site.School.Rack.Racked(r.Context(), ui.UserOf(r).ID, id)
	if errors.Is(err, school.ErrNotFound) || err == nil && k.Err != nil {
		bad.Add("instrument", "survey.plan.give")
		return h.showPlan(w, r, f, bad.By())
	}
	if err != nil {
		return err
	}
	p := f.plan(k.Instrument, &bad)
	if len(bad.Refusal) == 0 {
		var seed [8]byte
		if _, err := rand.Read(seed[:]); err != nil {
			return err
		}
		n, err := h.Site.School.Studies.GiveSurvey(r.Context(), ui.ActorOf(r), class, title, p,
			binary.LittleEndian.Uint64(seed[:])>>1)
		if errors.Is(err, school.ErrNotFound) || errors.Is(err, access.ErrForbidden) {
			bad.Add("class", "survey.plan.choose-one-teach")
			err = nil
		}
		if err := bad.Take("", err); err != nil {
			return err
		}
		if len(bad.Refusal) == 0 {
			http.Redirect(w, r, fmt.Sprintf("/surveys/%d", n), http.StatusSeeOther)
			return nil
		}
	}
	return h.showPlan(w, r, f, bad.By())
}
