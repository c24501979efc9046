package author

import (
	"encoding/json"
	"net/http"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/web/ui"
)

// workForm is the form of the Workshop. Its fields come and go with the family and are named as in an
// instrument's document, so that what is refused is shown at its field.
type workForm struct {
	ui.Faults
	Text ui.Texts
}

func newForm(r *http.Request) *workForm { return &workForm{Text: ui.TextsOf(r)} }

// number and whole read fields; what is wrong with one is kept.
func (f *workForm) number(field string, unit length.Unit) length.Typed {
	return f.Number(field, f.Text[field], unit)
}
func (f *workForm) whole(field string) int { return f.Whole(field, f.Text[field]) }

// texts fills the form's fields from an instrument.
func texts(in *instrument.Instrument) map[string]string {
	sp := in.Spec()
	show := func(n length.Number) string { return exercise.Show(in.FormatMain(n)) }
	t := map[string]string{
		"family": string(sp.Family), "was_family": string(sp.Family), "name": sp.Name, "unit": string(sp.Unit),
		"main.division": sp.Main.Written(), "main.from": show(sp.Main.From), "main.to": show(sp.Main.To),
		"main.number_every": strconv.Itoa(sp.Main.NumberEvery), "main.number_step": show(sp.Main.NumberStep),
		"base": show(sp.Base), "zero_error": exercise.Show(in.Format(sp.ZeroError)),
	}
	f := sp.Fine
	whole := func(name string, n int) {
		if n != 0 {
			t[name] = strconv.Itoa(n)
		}
	}
	whole("fine.divisions", f.Divisions)
	whole("fine.spans", f.Spans)
	whole("fine.zeros", f.Zeros)
	whole("fine.number_every", f.NumberEvery)
	whole("fine.number_step", f.NumberStep)
	whole("finer.divisions", sp.Finer.Divisions)
	whole("finer.spans", sp.Finer.Spans)
	if f.Travel.Sign() != 0 {
		t["fine.travel"] = show(f.Travel)
	}
	for unit, step := range f.Steps {
		t["fine.step."+string(unit)] = step.String()
	}
	if f.Down {
		t["fine.runs"] = "down"
	}
	if sp.Main.Reverse {
		t["main.runs"] = "reverse"
	}
	if sp.Main.HalfMarks {
		t["main.half_marks"] = "yes"
	}
	if second, role := in.Second(); second != nil {
		t["second.role"] = string(role)
		e := texts(second)
		for _, field := range secondFields {
			t["second."+field] = e[field]
		}
	}
	return t
}

// secondFields are the fields of a second vernier.
var secondFields = []string{"unit", "main.division", "main.from", "main.to", "main.number_every",
	"fine.divisions", "fine.spans", "fine.number_every", "fine.number_step", "base", "zero_error"}

// second reads the fields of a second vernier.
func (f *workForm) second() *instrument.Spec {
	unit := length.Unit(f.Text["second.unit"])
	division := f.number("second.main.division", unit)
	return &instrument.Spec{Unit: unit, Base: f.number("second.base", unit).Value,
		ZeroError: f.number("second.zero_error", unit).Value,
		Main: instrument.Main{Division: division.Value, Fractional: division.Fraction,
			From: f.number("second.main.from", unit).Value,
			To:   f.number("second.main.to", unit).Value, NumberEvery: f.whole("second.main.number_every")},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: f.whole("second.fine.divisions"),
			Spans:       f.whole("second.fine.spans"),
			NumberEvery: f.whole("second.fine.number_every"), NumberStep: f.whole("second.fine.number_step")}}
}

// addSecond fills the fields of a second vernier that has just been chosen, from a ready one.
func (f *workForm) addSecond() {
	role := instrument.Role(f.Text["second.role"])
	if role == "" || f.Text["second.main.division"] != "" {
		return
	}
	for _, p := range instrument.Patterns() {
		if p.Role != role {
			continue
		}
		if in, err := instrument.New(p); err == nil {
			for k, v := range texts(in) {
				if strings.HasPrefix(k, "second.") {
					f.Text[k] = v
				}
			}
		}
	}
}

// spec reads the form's fields: those that the family has.
func (f *workForm) spec() instrument.Spec {
	unit := length.Unit(f.Text["unit"])
	division := f.number("main.division", unit)
	s := instrument.Spec{
		Name: ui.OneLine(f.Text["name"]), Family: instrument.Family(f.Text["family"]), Unit: unit,
		Main: instrument.Main{
			Division: division.Value, Fractional: division.Fraction,
			From: f.number("main.from", unit).Value, To: f.number("main.to", unit).Value,
			NumberEvery: f.whole("main.number_every"), NumberStep: f.number("main.number_step", unit).Value,
		},
		Base: f.number("base", unit).Value, ZeroError: f.number("zero_error", unit).Value,
	}
	s.Fine.Kind = kindOf(s.Family)
	switch s.Fine.Kind {
	case instrument.Vernier:
		s.Fine.Spans = f.whole("fine.spans")
		if s.Role = instrument.Role(f.Text["second.role"]); s.Role != "" {
			s.Second = f.second()
		}
	case instrument.Drum:
		s.Fine.Travel, s.Fine.Down = f.number("fine.travel", unit).Value, f.Text["fine.runs"] == "down"
		s.Main.Reverse, s.Main.HalfMarks = f.Text["main.runs"] == "reverse", f.Text["main.half_marks"] != ""
		s.Finer = instrument.Finer{Divisions: f.whole("finer.divisions"), Spans: f.whole("finer.spans")}
	case instrument.Dial:
		s.Fine.Travel, s.Fine.Zeros = f.number("fine.travel", unit).Value, f.whole("fine.zeros")
	case instrument.Display:
		s.Fine.Steps = map[length.Unit]length.Number{}
		for _, u := range []length.Unit{length.Millimetre, length.Inch} {
			if step := f.number("fine.step."+string(u), "").Value; step.Sign() != 0 {
				s.Fine.Steps[u] = step
			}
		}
		return s
	case instrument.None:
		return s
	}
	s.Fine.Divisions, s.Fine.NumberEvery, s.Fine.NumberStep = f.whole("fine.divisions"), f.whole("fine.number_every"),
		f.whole("fine.number_step")
	return s
}

// kindOf is the kind of fine scale of a family.
func kindOf(f instrument.Family) instrument.FineKind {
	for _, k := range instrument.Families {
		if k.Family == f {
			return k.Fine
		}
	}
	return instrument.None
}

// press carries out the buttons that change other fields: another family or pattern, a form of the plate,
// or a proposed way.
func (f *workForm) press() {
	if f.Text["do"] == "pattern" || f.Text["was_family"] != "" && f.Text["family"] != f.Text["was_family"] {
		number := ""
		if f.Text["do"] == "pattern" {
			number = f.Text["pattern"]
		}
		f.adopt(patternOf(instrument.Family(f.Text["family"]), number).Spec())
	}
	if n, err := strconv.Atoi(f.Text["use"]); err == nil {
		unit := length.Unit(f.Text["unit"])
		want, division := f.number("want", unit), f.number("want_division", unit)
		ways, err := instrument.Propose(instrument.Family(f.Text["family"]), unit, want.Value, division.Value)
		if err == nil && n >= 0 && n < len(ways) {
			s := ways[n].Spec
			s.Main.Fractional = s.Main.Fractional || division.Fraction
			s.Base, s.ZeroError = f.number("base", unit).Value, f.number("zero_error", unit).Value
			f.adopt(s)
		}
	}
	f.addSecond()
	n, err := strconv.Atoi(strings.TrimSpace(f.Text["fine.divisions"]))
	if err != nil || n < 2 {
		return
	}
	forms := map[string]instrument.Form{"short": {J: 1}, "long": {J: 2}, "retrograde": {J: 1, Retrograde: true}}
	if form, ok := forms[f.Text["form"]]; ok {
		f.Text["fine.spans"] = strconv.Itoa(form.Spans(n))
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
	name := f.Text["name"]
	for k := range f.Text {
		if strings.Contains(k, ".") { // the fields of the scales
			delete(f.Text, k)
		}
	}
	for k, v := range texts(in) {
		f.Text[k] = v
	}
	f.Text["name"], f.Text["at"] = name, ""
}

// position is where the instrument is shown: as typed, moved by a button or the slider, and kept on
// the scale.
func (f *workForm) position(in *instrument.Instrument) length.Number {
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

// edge returns the instrument as it is looked at, from the edge of its beam that the form names, and where
// it stands there. A change of edge keeps the opening.
func (f *workForm) edge(in *instrument.Instrument) (*instrument.Instrument, length.Number) {
	was := f.Text["was_edge"]
	f.Text["was_edge"] = ""
	if second, role := in.Second(); second == nil || role == instrument.Upright {
		return in, f.position(in)
	}
	other := in.Swapped()
	wants := f.Text["edge"]
	f.Text["was_edge"] = wants
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
	in, err := instrument.Parse([]byte(f.Text["last"]))
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
	v.Edges = second != nil && role != instrument.Upright
	return err
}
