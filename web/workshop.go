package web

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/figure"
)

// workshopView is what the Workshop prints: the form as it was typed, and the last instrument that can
// exist with all that is derived from it.
type workshopView struct {
	Action  string // where the form goes
	Kept    int64  // id on the Rack; 0 for a new one
	Saved   bool   // it was put on the Rack just now
	Changed bool   // the form has been changed since
	Text    map[string]string
	Errors  map[string]string
	Last    string // document of the last good instrument
	LastAt  string // and where it stood
	Stale   bool   // what is shown is the last good one, not what is typed
	Summary string

	Open     figureView
	Closed   template.HTML
	At       string // the indicated value shown
	Slide    int    // the same, in least counts from the closed instrument
	SlideMax int

	LeastCount string
	Unit       length.Unit
	Derivation []string
	Form       string
	Parts      []part
	Zero       zeroView
	Ways       []wayView
	WaysError  string
}

// fieldView is one labelled field of the Workshop's form.
type fieldView struct{ Name, Label, Hint, Value, Error string }

func newField(v workshopView, name, label, hint string) fieldView {
	return fieldView{name, label, hint, v.Text[name], v.Errors[name]}
}

// part is one line of a reading, as the facts panel lists it.
type part struct {
	Name, Value string
	Total       bool
}

// zeroView says what the zero error does.
type zeroView struct {
	Story, FromEnd, SignedMain, Effect string
}

// wayView is a vernier that gives the wanted least count, and the value of the button that takes it.
type wayView struct {
	Name, Over, Spacing, Use string
}

// pattern is the instrument that the Workshop starts from.
func pattern() *instrument.Instrument {
	in, err := instrument.New(instrument.Spec{
		Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main:      instrument.Main{Division: length.Int(1), To: length.Int(150), NumberEvery: 10},
		Fine:      instrument.Fine{Kind: instrument.Vernier, Divisions: 20, Spans: 39, NumberEvery: 4, NumberStep: 2},
		ZeroError: length.Frac(-3, 20),
	})
	if err != nil {
		panic(err) // the pattern is a constant
	}
	return in
}

func (s *Server) workshop(w http.ResponseWriter, r *http.Request) error {
	in, kept := pattern(), int64(0)
	if chi.URLParam(r, "instrument") != "" {
		n, err := id(r, "instrument")
		if err != nil {
			return err
		}
		k, err := s.Store.Racked(r.Context(), userOf(r).instructor.ID, n)
		if err != nil {
			return err
		}
		in, kept = k.Instrument, k.ID
	}
	v := workshopView{Kept: kept, Saved: r.URL.Query().Has("kept"), Text: texts(in)}
	if err := v.show(in, startPosition(in)); err != nil {
		return err
	}
	return s.showWorkshop(w, r, http.StatusOK, v)
}

// startPosition is a place about a third up the scale where some line in the middle coincides.
func startPosition(in *instrument.Instrument) length.Number {
	from, to := in.Range()
	steps := to.Sub(from).Mul(length.Frac(1, 3)).Quo(in.Cycle()).Floor()
	line := in.Spec().Fine.Divisions * 2 / 5
	return from.Sub(in.Spec().ZeroError).Add(in.Cycle().Mul(steps)).Add(in.LeastCount().MulInt(line))
}

// texts fills the form's fields from an instrument.
func texts(in *instrument.Instrument) map[string]string {
	sp := in.Spec()
	show := func(n length.Number) string { return marking.Show(in.FormatMain(n)) }
	return map[string]string{
		"name": sp.Name, "unit": string(sp.Unit),
		"main.division": sp.Main.Written(), "main.from": show(sp.Main.From), "main.to": show(sp.Main.To),
		"main.number_every": strconv.Itoa(sp.Main.NumberEvery), "main.number_step": show(sp.Main.NumberStep),
		"fine.divisions": strconv.Itoa(sp.Fine.Divisions), "fine.spans": strconv.Itoa(sp.Fine.Spans),
		"fine.number_every": strconv.Itoa(sp.Fine.NumberEvery), "fine.number_step": strconv.Itoa(sp.Fine.NumberStep),
		"base": show(sp.Base), "zero_error": marking.Show(in.Format(sp.ZeroError)),
	}
}

// spec reads the form's fields.
func (f *form) spec() instrument.Spec {
	unit := length.Unit(f.Text["unit"])
	division := f.number("main.division", unit)
	return instrument.Spec{
		Name: f.line("name"), Family: instrument.VernierCaliper, Unit: unit,
		Main: instrument.Main{
			Division: division.Value, Fractional: division.Fraction,
			From: f.number("main.from", unit).Value, To: f.number("main.to", unit).Value,
			NumberEvery: f.whole("main.number_every"), NumberStep: f.number("main.number_step", unit).Value,
		},
		Fine: instrument.Fine{
			Kind: instrument.Vernier, Divisions: f.whole("fine.divisions"), Spans: f.whole("fine.spans"),
			NumberEvery: f.whole("fine.number_every"), NumberStep: f.whole("fine.number_step"),
		},
		Base: f.number("base", unit).Value, ZeroError: f.number("zero_error", unit).Value,
	}
}

// workshopPost redraws the form as it stands, and keeps the instrument when it is asked to.
func (s *Server) workshopPost(w http.ResponseWriter, r *http.Request) error {
	f := newForm(r)
	v := workshopView{Text: f.Text, Changed: true}
	if chi.URLParam(r, "instrument") != "" {
		var err error
		if v.Kept, err = id(r, "instrument"); err != nil {
			return err
		}
		if _, err := s.Store.Racked(r.Context(), userOf(r).instructor.ID, v.Kept); err != nil {
			return err
		}
	}
	f.press()
	spec := f.spec()
	in, err := instrument.New(spec)
	if len(f.bad) > 0 { // what cannot be read comes before what cannot exist
		in = nil
	} else if err = f.take(err); err != nil {
		return err
	}
	keep := f.Text["do"] == "keep"
	if keep && spec.Name == "" {
		f.refuse("name", "is missing; give it the name it has in the cupboard")
	}
	good, y := in, length.Number{}
	if good == nil {
		good, y = lastGood(f)
		v.Stale = true
	} else {
		y = f.position(in)
	}
	v.Errors = f.errors()
	if keep && len(v.Errors) == 0 {
		n, err := s.Store.KeepInstrument(r.Context(), userOf(r).instructor.ID, v.Kept, in)
		if err != nil {
			return err
		}
		http.Redirect(w, r, fmt.Sprintf("/workshop/%d?kept", n), http.StatusSeeOther)
		return nil
	}
	if err := v.show(good, y); err != nil {
		return err
	}
	if f.Text["do"] == "ways" || f.Text["want"] != "" {
		v.ways(f)
	}
	status := http.StatusOK
	if len(v.Errors) > 0 {
		status = http.StatusUnprocessableEntity
	}
	return s.showWorkshop(w, r, status, v)
}

func (s *Server) showWorkshop(w http.ResponseWriter, r *http.Request, status int, v workshopView) error {
	v.Action = "/workshop"
	if v.Kept != 0 {
		v.Action = fmt.Sprintf("/workshop/%d", v.Kept)
	}
	return s.render(w, r, status, "workshop", "Workshop", v)
}

// press carries out the buttons that change other fields: a form of the plate, or a proposed way.
func (f *form) press() {
	if use := strings.Split(f.Text["use"], "|"); len(use) == 3 {
		f.Text["main.division"], f.Text["fine.divisions"], f.Text["fine.spans"] = use[0], use[1], use[2]
		f.Text["fine.number_every"], f.Text["fine.number_step"] = "", ""
		f.Text["main.number_every"], f.Text["main.number_step"] = "", ""
		f.fitNumbers()
	}
	n, err := strconv.Atoi(strings.TrimSpace(f.Text["fine.divisions"]))
	if err != nil || n < 2 {
		return
	}
	forms := map[string]instrument.Form{"short": {J: 1}, "long": {J: 2}, "retrograde": {J: 1, Retrograde: true}}
	if form, ok := forms[f.Text["form"]]; ok {
		f.Text["fine.spans"] = strconv.Itoa(form.Spans(n))
	}
}

// fitNumbers brings base and zero error onto the grid of a new least count, where they are off it.
func (f *form) fitNumbers() {
	unit := length.Unit(f.Text["unit"])
	division, err := length.ReadTyped(f.Text["main.division"])
	n, err2 := strconv.Atoi(f.Text["fine.divisions"])
	if err != nil || err2 != nil || n < 2 || division.Value.Sign() <= 0 {
		return
	}
	c := division.Value.Quo(length.Int(int64(n)))
	for _, field := range []string{"base", "zero_error"} {
		x, err := length.ReadTyped(f.Text[field])
		if err != nil {
			continue
		}
		if x.Unit != "" {
			x.Value = length.Convert(x.Value, x.Unit, unit)
		}
		if steps := x.Value.Quo(c); !steps.IsInt() {
			f.Text[field] = marking.Show(steps.Floor().Mul(c).String())
		}
	}
}

// position is where the instrument is shown: as typed, moved by a button or the slider, and kept on
// the scale.
func (f *form) position(in *instrument.Instrument) length.Number {
	unit := in.Unit()
	y := f.number("at", unit).Value
	if strings.TrimSpace(f.Text["at"]) == "" {
		y = startPosition(in)
	}
	if n, err := strconv.Atoi(f.Text["move"]); err == nil && n > -1000 && n < 1000 {
		y = y.Add(in.LeastCount().MulInt(n))
	}
	if n, err := strconv.Atoi(f.Text["slide"]); err == nil {
		y = in.Closed().Add(in.LeastCount().MulInt(n))
	}
	if f.Text["move"] == "close" {
		y = in.Closed()
	}
	_, to := in.Range()
	if y.Less(in.Closed()) {
		return in.Closed()
	}
	if to.Less(y) {
		return to
	}
	return y
}

// lastGood returns the instrument that was shown before what is typed became impossible.
func lastGood(f *form) (*instrument.Instrument, length.Number) {
	in, err := instrument.Parse([]byte(f.Text["last"]))
	if err != nil {
		in = pattern()
	}
	y, err := length.Parse(f.Text["last_at"])
	if err != nil {
		y = startPosition(in)
	}
	if _, err := in.Read(y); err != nil {
		y = startPosition(in)
	}
	return in, y
}

// show fills in all that is derived from the instrument at y.
func (v *workshopView) show(in *instrument.Instrument, y length.Number) error {
	r, err := in.Read(y)
	if err != nil {
		return err
	}
	doc, err := json.Marshal(in)
	if err != nil {
		return err
	}
	v.Last, v.LastAt = string(doc), y.String()
	v.Summary = in.Describe()
	if v.Open, err = newFigure(in, y, looking{id: "open", width: figure.Narrow, line: r.Line}); err != nil {
		return err
	}
	flags, _, err := closedFlags(in)
	if err != nil {
		return err
	}
	shut, err := figure.Lay(in, in.Closed(), figure.Narrow)
	if err != nil {
		return err
	}
	v.Closed = drawing(shut.Scene(figure.Options{Flags: flags}), "closed", "fig")
	v.At = marking.Show(in.Format(y))
	_, to := in.Range()
	v.Slide, v.SlideMax = steps(in, y), steps(in, to)
	v.Unit, v.LeastCount = in.Unit(), in.FormatMain(in.LeastCount())
	v.Derivation, v.Form = in.Derivation(), in.Form().String()

	main := func(name string, n length.Number) part {
		return part{Name: name, Value: marking.Show(in.FormatMain(n))}
	}
	value := func(name string, n length.Number) part { return part{Name: name, Value: marking.Show(in.Format(n))} }
	total := func(p part) part { p.Total = true; return p }
	if r.Base.Sign() != 0 {
		v.Parts = append(v.Parts, main("base", r.Base))
	}
	v.Parts = append(v.Parts, main("main", r.Main), value(fmt.Sprintf("line %d × %s", r.Line, v.LeastCount), r.Fine),
		total(value("observed", r.Observed)), value("zero error", r.ZeroError), total(value("corrected", r.Corrected)))

	v.Zero.Story = in.ZeroStory()
	if r.ZeroError.Sign() != 0 {
		unit := " " + string(in.Unit())
		equals := " = " + marking.Show(in.Format(r.ZeroError)) + unit
		v.Zero.SignedMain = in.ZeroWork(true) + equals
		if back := in.ZeroWork(false) + equals; back != v.Zero.SignedMain {
			v.Zero.FromEnd = back
		}
		v.Zero.Effect = fmt.Sprintf("Every reading comes out %s%s too %s; corrected = observed − (%s).", in.Format(r.ZeroError.Abs()), unit,
			map[bool]string{true: "small", false: "large"}[r.ZeroError.Sign() < 0], marking.Show(in.Format(r.ZeroError)))
	}
	return nil
}

// steps counts least counts from the closed instrument.
func steps(in *instrument.Instrument, y length.Number) int {
	n, _ := y.Sub(in.Closed()).Quo(in.LeastCount()).Floor().Int64()
	return int(n)
}

// ways lists the verniers that give the least count that was asked for.
func (v *workshopView) ways(f *form) {
	unit := length.Unit(f.Text["unit"])
	if strings.TrimSpace(f.Text["want"]) == "" {
		v.WaysError = "Write the least count you want, as 0.02."
		return
	}
	want := f.number("want", unit)
	division := length.Typed{}
	if f.Text["want_division"] != "" {
		division = f.number("want_division", unit)
	}
	if errs := f.errors(); errs["want"] != "" || errs["want_division"] != "" {
		v.WaysError = strings.TrimSpace(errs["want"] + " " + errs["want_division"])
		return
	}
	ways, err := instrument.Propose(instrument.Family(f.Text["family"]), unit, want.Value, division.Value)
	if err != nil {
		v.WaysError = err.Error()
		return
	}
	for i, w := range ways {
		v.Ways = append(v.Ways, wayView{w.Made, w.Remark, strconv.Itoa(i)})
	}
}
