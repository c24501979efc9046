package author

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/web/bench"
	"cavix/web/ui"
)

// workForm is the form of the Workshop. Its fields come and go with the family and are named as in an
// instrument's document, so that what is refused is shown at its field.
type workForm struct {
	ui.Faults `form:"-"`
	Family    string `form:"family"`
	WasFamily string `form:"was_family"`
	Name      string `form:"name"`
	scaleFields
	Second secondFields `form:"second"`

	// What is done with it, and how it is looked at.
	Do           string `form:"do"`
	Pattern      string `form:"pattern"`
	Use          string `form:"use"`
	Form         string `form:"form"`
	Move         string `form:"move"`
	Slide        string `form:"slide"`
	At           string `form:"at"`
	Want         string `form:"want"`
	WantDivision string `form:"want_division"`
	Edge         string `form:"edge"`
	WasEdge      string `form:"was_edge"`
	Names        string `form:"names"`
	Upright      string `form:"upright"`
	Last         string `form:"last"`
	Stamp        string `form:"stamp"` // of the state on the Rack that the form was opened with

	// The scale for which the range and the numbering of the form were proposed.
	WasUnit     string `form:"was_unit"`
	WasDivision string `form:"was_division"`
	WasNumbers  string `form:"was_numbers"`
}

// scaleFields say how the scales of an instrument are made.
type scaleFields struct {
	Unit      string      `form:"unit"`
	Written   string      `form:"written"`
	Base      string      `form:"base"`
	ZeroError string      `form:"zero_error"`
	Main      mainFields  `form:"main"`
	Fine      fineFields  `form:"fine"`
	Finer     finerFields `form:"finer"`
}

type mainFields struct {
	Division    string `form:"division"`
	From        string `form:"from"`
	To          string `form:"to"`
	NumberEvery string `form:"number_every"`
	NumberStep  string `form:"number_step"`
	Runs        string `form:"runs"`
	HalfMarks   string `form:"half_marks"`
}

type fineFields struct {
	Kind        string     `form:"kind"`
	Divisions   string     `form:"divisions"`
	Spans       string     `form:"spans"`
	Travel      string     `form:"travel"`
	Zeros       string     `form:"zeros"`
	NumberEvery string     `form:"number_every"`
	NumberStep  string     `form:"number_step"`
	Runs        string     `form:"runs"`
	Step        stepFields `form:"step"`
}

// stepFields are the steps of a display, by its unit.
type stepFields struct {
	Millimetre string `form:"mm"`
	Inch       string `form:"in"`
}

type finerFields struct {
	Divisions string `form:"divisions"`
	Spans     string `form:"spans"`
}

// secondFields are those of a second vernier.
type secondFields struct {
	Role string `form:"role"`
	scaleFields
}

// formOf is the form of an instrument.
func formOf(in *instrument.Instrument) workForm {
	sp := in.Spec()
	f := workForm{Family: string(sp.Family), WasFamily: string(sp.Family), Name: sp.Name, scaleFields: fieldsOf(in)}
	if second, role := in.Second(); second != nil {
		f.Second = secondFields{Role: string(role), scaleFields: fieldsOf(second)}
	}
	f.noteScale()
	return f
}

// fieldsOf writes the scales of an instrument as a form shows them.
func fieldsOf(in *instrument.Instrument) scaleFields {
	sp := in.Spec()
	show := func(n length.Number) string { return exercise.Show(in.FormatMain(n)) }
	some := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	f := scaleFields{Unit: string(sp.Unit), Written: string(sp.Written), Base: show(sp.Base),
		ZeroError: exercise.Show(in.Format(sp.ZeroError))}
	f.Main = mainFields{Division: sp.Main.Written(), From: show(sp.Main.From), To: show(sp.Main.To),
		NumberEvery: strconv.Itoa(sp.Main.NumberEvery), NumberStep: show(sp.Main.NumberStep)}
	if sp.Main.Reverse {
		f.Main.Runs = "reverse"
	}
	if sp.Main.HalfMarks {
		f.Main.HalfMarks = "yes"
	}
	f.Fine = fineFields{Kind: string(sp.Fine.Kind), Divisions: some(sp.Fine.Divisions),
		Spans: some(sp.Fine.MainDivisions),
		Zeros: some(sp.Fine.Zeros), NumberEvery: some(sp.Fine.NumberEvery), NumberStep: some(sp.Fine.NumberStep)}
	f.Finer = finerFields{Divisions: some(sp.ThimbleVernier.Divisions), Spans: some(sp.ThimbleVernier.ThimbleDivisions)}
	if sp.Fine.Travel.Sign() != 0 {
		f.Fine.Travel = show(sp.Fine.Travel)
	}
	switch {
	case sp.Fine.Down:
		f.Fine.Runs = "down"
	case sp.Fine.Anticlockwise:
		f.Fine.Runs = "anticlockwise"
	}
	if in.Traits().Signed { // it has no main scale
		f.Main = mainFields{}
	}
	for unit, step := range sp.Fine.Steps {
		if unit == length.Inch {
			f.Fine.Step.Inch = step.String()
		} else {
			f.Fine.Step.Millimetre = step.String()
		}
	}
	return f
}

// second reads the fields of a second vernier.
func (f *workForm) second() *instrument.Spec {
	unit := length.Unit(f.Second.Unit)
	division := f.Number("second.main.division", f.Second.Main.Division, unit)
	return &instrument.Spec{Unit: unit, Base: f.Number("second.base", f.Second.Base, unit).Value,
		ZeroError: f.Number("second.zero_error", f.Second.ZeroError, unit).Value,
		Main: instrument.Main{Division: division.Value, Fractional: division.Fraction,
			From:        f.Number("second.main.from", f.Second.Main.From, unit).Value,
			To:          f.Number("second.main.to", f.Second.Main.To, unit).Value,
			NumberEvery: f.Whole("second.main.number_every", f.Second.Main.NumberEvery)},
		Fine: instrument.Fine{Kind: instrument.Family(f.Family).Fine(), Divisions: f.Whole("second.fine.divisions",
			f.Second.Fine.Divisions), MainDivisions: f.Whole("second.fine.spans", f.Second.Fine.Spans),
			NumberEvery: f.Whole("second.fine.number_every", f.Second.Fine.NumberEvery),
			NumberStep:  f.Whole("second.fine.number_step", f.Second.Fine.NumberStep)}}
}

// addSecond fills the fields of a second vernier that has just been chosen, from a ready one.
func (f *workForm) addSecond() {
	role := instrument.Role(f.Second.Role)
	if role == "" || role == instrument.Opposite || f.Second.Main.Division != "" {
		return
	}
	for _, p := range instrument.Patterns() {
		if p.Role != role {
			continue
		}
		if in, err := instrument.New(p); err == nil {
			f.Second = formOf(in).Second
		}
	}
}

// spec reads the form's fields. A partial of the page has those of one chain of scales; the others are empty.
func (f *workForm) spec() instrument.Spec {
	unit := length.Unit(f.Unit)
	division := f.Number("main.division", f.Main.Division, unit)
	s := instrument.Spec{
		Name: ui.OneLine(f.Name), Family: instrument.Family(f.Family), Unit: unit,
		Written: instrument.Written(f.Written),
		Main: instrument.Main{
			Division: division.Value, Fractional: division.Fraction,
			From: f.Number("main.from", f.Main.From, unit).Value, To: f.Number("main.to", f.Main.To, unit).Value,
			NumberEvery: f.Whole("main.number_every", f.Main.NumberEvery), NumberStep: f.Number("main.number_step",
				f.Main.NumberStep, unit).Value,
			Reverse: f.Main.Runs == "reverse", HalfMarks: f.Main.HalfMarks != "",
		},
		Fine: instrument.Fine{
			Kind:      f.kind(),
			Divisions: f.Whole("fine.divisions", f.Fine.Divisions), MainDivisions: f.Whole("fine.spans", f.Fine.Spans),
			Travel: f.Number("fine.travel", f.Fine.Travel, unit).Value, Zeros: f.Whole("fine.zeros", f.Fine.Zeros),
			Down: f.Fine.Runs == "down", Anticlockwise: f.Fine.Runs == "anticlockwise",
			NumberEvery: f.Whole("fine.number_every", f.Fine.NumberEvery), NumberStep: f.Whole("fine.number_step",
				f.Fine.NumberStep),
		},
		ThimbleVernier: instrument.ThimbleVernier{Divisions: f.Whole("finer.divisions", f.Finer.Divisions),
			ThimbleDivisions: f.Whole("finer.spans", f.Finer.Spans)},
		Base: f.Number("base", f.Base, unit).Value, ZeroError: f.Number("zero_error", f.ZeroError,
			unit).Value,
	}
	for u, says := range map[length.Unit]string{length.Millimetre: f.Fine.Step.Millimetre,
		length.Inch: f.Fine.Step.Inch} {
		if step := f.Number("fine.step."+string(u), says, "").Value; step.Sign() != 0 {
			if s.Fine.Steps == nil {
				s.Fine.Steps = map[length.Unit]length.Number{}
			}
			s.Fine.Steps[u] = step
		}
	}
	switch s.Role = instrument.Role(f.Second.Role); s.Role {
	case "":
	case instrument.Opposite:
		s.Second = &instrument.Spec{ZeroError: f.Number("second.zero_error", f.Second.ZeroError, unit).Value}
	default:
		s.Second = f.second()
	}
	return s
}

// kind is the kind of fine scale that is chosen where the family is made with it, or else the usual one.
func (f *workForm) kind() instrument.FineKind {
	family := instrument.Family(f.Family)
	if k := instrument.FineKind(f.Fine.Kind); slices.Contains(family.Kinds(), k) {
		return k
	}
	return family.Fine()
}

// press carries out the buttons that change other fields: another family or pattern, a form of the plate,
// or a proposed way.
func (f *workForm) press() {
	if f.Do == "pattern" || f.WasFamily != "" && f.Family != f.WasFamily {
		name := ""
		if f.Do == "pattern" {
			name = f.Pattern
		}
		f.adopt(patternOf(instrument.Family(f.Family), name).Spec())
	}
	if n, err := strconv.Atoi(f.Use); err == nil {
		unit := length.Unit(f.Unit)
		want, division := f.Number("want", f.Want, unit), f.Number("want_division", f.WantDivision, unit)
		ways, err := instrument.Propose(instrument.Family(f.Family), unit, want.Value, division.Value)
		if err == nil && n >= 0 && n < len(ways) {
			s := ways[n].Spec
			s.Main.Fractional = s.Main.Fractional || division.Fraction
			s.Base, s.ZeroError = f.Number("base", f.Base, unit).Value, f.Number("zero_error", f.ZeroError, unit).Value
			f.adopt(s)
		}
	}
	f.rescale()
	f.addSecond()
	n, err := strconv.Atoi(strings.TrimSpace(f.Fine.Divisions))
	if err != nil || n < 2 {
		return
	}
	forms := map[string]instrument.Form{"short": {J: 1}, "long": {J: 2}, "retrograde": {J: 1, Retrograde: true}}
	if form, ok := forms[f.Form]; ok {
		f.Fine.Spans = strconv.Itoa(form.MainDivisions(n))
	}
}

// adopt puts an instrument into the fields; the name stays, and base and zero error are brought onto its
// grid where they are off it.
func (f *workForm) adopt(s instrument.Spec) {
	in, err := instrument.New(s)
	if err != nil {
		plain := s
		plain.Base, plain.ZeroError = length.Number{}, length.Number{}
		if in, err = instrument.New(plain); err != nil {
			return
		}
		c := in.LeastCount()
		plain.Base = s.Base.Quo(c).Floor().Mul(c)
		plain.ZeroError = s.ZeroError.Quo(c).Floor().Mul(c)
		if onGrid, err := instrument.New(plain); err == nil {
			in = onGrid
		}
	}
	n := formOf(in)
	f.Family, f.WasFamily, f.scaleFields, f.Second, f.At = n.Family, n.WasFamily, n.scaleFields, n.Second, ""
	f.noteScale()
}

// position returns the position in which the instrument is shown: as typed, moved by a button or the slider, and kept
// on the scale.
func (f *workForm) position(in *instrument.Instrument) length.Number {
	unit := in.Unit()
	y := f.Number("at", f.At, unit).Value
	if strings.TrimSpace(f.At) == "" {
		y = bench.Start(in)
	}
	if n, err := strconv.Atoi(f.Move); err == nil && n > -1000 && n < 1000 {
		y = y.Add(in.LeastCount().MulInt(n))
	}
	if n, err := strconv.Atoi(f.Slide); err == nil {
		y = in.Lowest().Add(in.LeastCount().MulInt(n))
	}
	if f.Move == "close" {
		y = in.Closed()
	}
	_, to := in.Range()
	if y.Less(in.Lowest()) {
		return in.Lowest()
	}
	if to.Less(y) {
		return to
	}
	return y
}

// edge returns the instrument as it is looked at, from the edge of its beam that the form names, and where
// it stands there. A change of edge keeps the opening.
func (f *workForm) edge(in *instrument.Instrument) (*instrument.Instrument, length.Number) {
	was := f.WasEdge
	f.WasEdge = ""
	if second, role := in.Second(); second == nil || role == instrument.ToothDepthScale {
		return in, f.position(in)
	}
	other := in.Swapped()
	wants := f.Edge
	f.WasEdge = wants
	switch {
	case wants == "second" && was != "second":
		return other, in.OnSecond(f.position(in))
	case wants == "second":
		return other, f.position(other)
	case was == "second":
		return in, other.OnSecond(f.position(other))
	}
	return in, f.position(in)
}

// lastGood returns the instrument that was shown before what is typed became impossible.
func lastGood(f *workForm) *instrument.Instrument {
	in, err := instrument.Parse([]byte(f.Last))
	if err != nil {
		return patternOf("", "")
	}
	return in
}

// remember keeps the last good instrument in the form.
func (v *workshopView) remember(in *instrument.Instrument) error {
	doc, err := json.Marshal(in)
	v.Last = string(doc)
	second, role := in.Second()
	v.Edges = second != nil && role != instrument.ToothDepthScale
	return err
}
