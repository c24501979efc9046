package instrument

import (
	"fmt"
	"math"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// vernierScale is a beam along which a plate of lines slides: the line that meets a mark counts.
type vernierScale struct{}

func (vernierScale) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, Coincides: true, HasEdge: true}
}

func (vernierScale) Complete(*Spec) {}

func (vernierScale) Divide(s *Spec, _ bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Interval: s.Main.Division, Lines: 1, Finer: 1}
	f := &s.Fine
	form, ok := FormOf(f.Divisions, f.MainDivisions)
	switch {
	case f.Divisions < 2 || f.Divisions > maxLines:
		bad.Add("fine.divisions", "vernier.divide", "max_lines", maxLines, "divisions", f.Divisions)
		ok = false
	case f.MainDivisions < 1 || f.MainDivisions > maxSpans:
		bad.Add("fine.spans",
			"vernier.whole-number-main-divisions", "max_spans", maxSpans, "spans", f.MainDivisions, "nearest_spans",
			NearestSpans(f.Divisions, max(1, min(f.MainDivisions, maxSpans))))
		ok = false
	case !ok:
		bad.Add("fine.spans",
			"vernier.lines-over-main-divisions", "divisions", f.Divisions, "spans", f.MainDivisions, "nearest_spans",
			NearestSpans(f.Divisions, f.MainDivisions))
	default:
		out.Form, out.Lines = form, f.Divisions
	}
	checkNumbers(f, 5, bad)
	return out, noFiner(s, bad) && ok
}

func (vernierScale) Describe(i *Instrument) text.Text {
	return text.New("vernier.describe", "division", text.Math(i.FormatMain(i.spec.Main.Division)), "unit", i.spec.Unit,
		"divisions", i.spec.Fine.Divisions, "spans", i.spec.Fine.MainDivisions)
}

// Derivation takes the difference between j main divisions and one plate division.
func (vernierScale) Derivation(i *Instrument) []text.Text {
	s := i.spec
	spans := s.Main.Division.MulInt(s.Fine.MainDivisions)
	difference := "vernier.difference"
	if i.form.Retrograde {
		difference = "vernier.difference-retrograde"
	}
	return []text.Text{
		text.New("vernier.covers", "lines", s.Fine.Divisions, "spans", s.Fine.MainDivisions, "division",
			i.withUnit(s.Main.Division), "length", i.withUnit(spans)),
		text.New("vernier.division", "length", i.withUnit(spans), "lines", s.Fine.Divisions, "division",
			i.withUnit(i.PlateDivision())),
		text.New(difference, "n", i.form.J, "main", i.withUnit(s.Main.Division.MulInt(i.form.J)), "division",
			i.withUnit(i.PlateDivision()), "least_count", i.withUnit(i.leastCount)),
	}
}

func (vernierScale) LeastCountWorking(i *Instrument) text.Text {
	return text.Numbers(text.Math(fmt.Sprintf("%s ÷ %d", i.spec.Main.Written(), i.lines)))
}

func (vernierScale) ZeroStory(i *Instrument, r Reading) text.Text {
	where := side(r.ZeroError.Sign())
	if i.Definition().Upright { // it lies above or below, not to one side
		where = "upright-" + where
	}
	switch {
	case r.ZeroError.Sign() == 0:
		return text.New("vernier.no-zero-error", "line", i.lines)
	case r.Line == 0:
		return text.New("vernier.zero-on-mark." + where)
	default:
		return text.New("vernier.zero."+where, "line", r.Line)
	}
}

func (vernierScale) MarkStands(v View) text.Text {
	switch {
	case v.Reading.Line == 0 && v.exact():
		return text.New("vernier.mark-stands", "mark", v.Mark)
	case v.Reading.Line == 0:
		return text.New("vernier.plates-0-mark", "mark", v.Mark)
	}
	return text.New("vernier.plates-0-past-mark", "mark", v.Mark)
}

func (vernierScale) LineStands(v View) text.Text {
	return text.New("vernier.line-stands", "line", v.Line)
}

func (vernierScale) Where(View) text.Text {
	return text.New("vernier.where")
}

func (vernierScale) FindLine() text.Text {
	return text.New("vernier.find-line")
}

func (vernierScale) NumbersRun(i *Instrument) text.Text {
	if i.Definition().Upright {
		return text.New("vernier.numbers-run-up")
	}
	return text.New("vernier.numbers-run")
}

func (vernierScale) MarksAt() text.Text { return text.New("walk.at.plate") }
func (vernierScale) LinesAt() text.Text { return text.Text{} }

func (vernierScale) Index() text.Term { return "" }
func (vernierScale) Term() string     { return "plate" }

// PlateDivision returns the length of one plate division, m·d/n.
func (i *Instrument) PlateDivision() length.Number {
	return i.leastCount.MulInt(i.spec.Fine.MainDivisions)
}

// PlateEdge returns how far the plate's edge stands before its line 0: one and a half plate divisions.
// A student who reads the main scale there takes the wrong mark.
func (i *Instrument) PlateEdge() length.Number {
	return i.PlateDivision().Mul(length.Frac(3, 2))
}

// LineOffset returns where line k stands, measured from the plate's line 0 in the direction of growing
// main numbers. A retrograde plate's lines lie on the other side of its 0, so theirs are negative.
func (i *Instrument) LineOffset(k int) length.Number {
	off := i.PlateDivision().MulInt(k)
	if i.form.Retrograde {
		return off.Neg()
	}
	return off
}

// Opposite returns the value of the main mark that line k of the reading r stands opposite.
// It is exact for the coinciding line alone: M + k·j·d, or M − k·j·d on a retrograde plate.
func (i *Instrument) Opposite(r Reading) length.Number {
	step := i.spec.Main.Division.MulInt(r.Line * i.form.J)
	if i.form.Retrograde {
		return r.Main.Sub(step)
	}
	return r.Main.Add(step)
}

func (vernierScale) Usuals(unit length.Unit) []Usual {
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(1, 16), Lines: []int{8}},
			{Division: length.Frac(1, 40), Lines: []int{25}}, {Division: length.Frac(1, 20), Lines: []int{50}}}
	}
	return inUnit(unit, Usual{Division: length.Int(1), Lines: []int{10, 20, 50}},
		Usual{Division: length.Frac(1, 2), Lines: []int{25}})
}

func (vernierScale) Limits() Limits {
	return Limits{Lines: mostLines, Text: text.New("vernier.limits.plate-most-lines-0", "most_lines", mostLines)}
}

func (v vernierScale) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok {
		return
	}
	for i, f := range u.forms() {
		v.plate(w, u.Division, n, f, Rank{u.unusual(n), u.index, 0, i, n})
	}
}

// plate offers a vernier whose lines can be told apart and whose plate the beam can carry: 0.4 mm between lines, and no
// more than 60 mm or half the beam. A metric one is numbered by tenths of a millimetre where its lines allow it.
func (vernierScale) plate(w *Wanted, d length.Number, n int, f Form, r Rank) {
	m := f.MainDivisions(n)
	if got, _ := FormOf(n, m); got != f {
		return // with few lines some forms are one and the same
	}
	plate := d.MulInt(m)
	spacing := plate.Quo(length.Int(int64(n)))
	most := math.Min(60, w.millimetres(w.reach())/2)
	if w.millimetres(spacing) < 0.4 || w.millimetres(plate) > most {
		return
	}
	r[5] = int(w.millimetres(plate))
	apart, remark := text.Math(spacing.String()), "vernier.lines-apart"
	if w.binary(d) {
		apart = text.Math(spacing.Fraction())
	} else if _, finite := spacing.Decimals(); !finite {
		apart, remark = text.Math(spacing.Round(3).String()), "vernier.lines-about-apart"
	}
	fine := Fine{Divisions: n, MainDivisions: m}
	if tenth := w.tenth(); tenth.Sign() > 0 {
		if every, whole := tenth.Quo(w.LeastCount).Int64(); whole && n%int(every) == 0 {
			fine.NumberEvery, fine.NumberStep = int(every), 1
		}
	}
	w.Offer(w.scale(d), fine, ThimbleVernier{}, text.New(remark, "form", f.Text(), "apart", apart, "unit", w.Unit), r)
}

// plated is a ready vernier: a beam of main divisions d up to a bound, numbered at every so many, and a plate of lines
// over so many of them, of which every numbered one has a number that grows by step.
func plated(name string, unit length.Unit, d length.Number, every int, to int64, lines, spans, numbered,
	step int) Spec {
	return Spec{Name: name, Family: VernierCaliper, Unit: unit,
		Main: Main{Division: d, To: length.Int(to), NumberEvery: every},
		Fine: Fine{Kind: Vernier, Divisions: lines, MainDivisions: spans, NumberEvery: numbered, NumberStep: step}}
}

func vernierCalipers() []Spec {
	mm, in := length.Millimetre, length.Inch
	one, thou25 := length.Int(1), length.Frac(1, 40)
	sixteenths := plated("Caliper 1/128 in, 8 over 7", in, length.Frac(1, 16), 16, 6, 8, 7, 4, 4)
	sixteenths.Main.Fractional = true
	both := plated("Caliper 0.05 mm, inches on the other edge", mm, one, 10, 150, 20, 39, 4, 2)
	inches := plated("", in, thou25, 4, 6, 25, 24, 5, 5)
	both.Role, both.Second = OtherScale, &inches
	nibs := plated("Caliper 0.02 mm, plate for inside work", mm, one, 10, 150, 50, 49, 5, 1)
	inside := plated("", mm, one, 10, 150, 50, 49, 5, 1)
	inside.Base = length.Int(10)
	nibs.Role, nibs.Second = InsidePlate, &inside
	return []Spec{
		both, nibs,
		plated("Caliper 0.1 mm, 10 over 9", mm, one, 10, 150, 10, 9, 1, 1),
		plated("Caliper 0.05 mm, 20 over 19", mm, one, 10, 150, 20, 19, 4, 4),
		plated("Caliper 0.05 mm, 20 over 39", mm, one, 10, 150, 20, 39, 4, 2),
		plated("Caliper 0.02 mm, 50 over 49", mm, one, 10, 150, 50, 49, 5, 1),
		plated("Caliper 0.001 in, 25 over 24", in, thou25, 4, 6, 25, 24, 5, 5),
		plated("Caliper 0.001 in, 50 over 49", in, length.Frac(1, 20), 2, 6, 50, 49, 5, 5),
		sixteenths,
	}
}

func gearToothVerniers() []Spec {
	gear := plated("Gear-tooth vernier 0.02 mm", length.Millimetre, length.Frac(1, 2), 20, 50, 25, 24, 5, 5)
	upright := plated("", length.Millimetre, length.Frac(1, 2), 20, 30, 25, 24, 5, 5)
	gear.Family, gear.Role, gear.Second = GearTooth, ToothDepthScale, &upright
	return []Spec{gear}
}

func heightGauges() []Spec {
	mm, in, one := length.Millimetre, length.Inch, length.Int(1)
	fine := plated("Height gauge 0.02 mm", mm, one, 10, 300, 50, 49, 5, 1)
	inches := plated("Height gauge 0.001 in", in, length.Frac(1, 40), 4, 12, 25, 24, 5, 5)
	round := Spec{Name: "Height gauge 0.01 mm, dial", Unit: mm, Main: Main{Division: one, To: length.Int(300),
		NumberEvery: 10}, Fine: Fine{Kind: Dial, Divisions: 100, Travel: one, NumberEvery: 10}}
	shown := Spec{Name: "Height gauge, display", Unit: mm, Main: Main{To: length.Int(300)}, Fine: Fine{Kind: Display,
		Steps: map[length.Unit]length.Number{mm: length.Frac(1, 100), in: length.Frac(1, 2000)}}}
	return ofFamily(HeightGauge, fine, inches, round, shown)
}

func depthGauges() []Spec {
	mm, one := length.Millimetre, length.Int(1)
	return ofFamily(DepthGauge, plated("Depth gauge 0.05 mm", mm, one, 10, 200, 20, 19, 4, 4),
		plated("Depth gauge 0.02 mm", mm, one, 10, 200, 50, 49, 5, 1))
}

func travellingMicroscopes() []Spec {
	mm := length.Millimetre
	return ofFamily(TravellingMicroscope,
		plated("Travelling microscope 0.01 mm", mm, length.Frac(1, 2), 20, 200, 50, 49, 5, 5),
		plated("Travelling microscope 0.02 mm", mm, length.Int(1), 10, 200, 50, 49, 5, 1))
}

// ofFamily has ready instruments be of a family.
func ofFamily(f Family, all ...Spec) []Spec {
	for i := range all {
		all[i].Family = f
	}
	return all
}

// slider is a plate that slides along a beam without the jaws of a caliper.
type slider struct{ vernierScale }

func (slider) Parts() []Part {
	return []Part{{MainScale, text.Word("main scale")}, {FineZero, text.New("part.its-zero")},
		{FineScale, text.Word("plate")}, {Lock, text.Word("lock")}}
}

func (vernierScale) Parts() []Part {
	return []Part{{MainScale, text.Word("main scale")}, {FineZero, text.New("part.its-zero")},
		{FineScale, text.Word("plate")}, {Lock, text.Word("lock")}, {Jaw, text.New("part.jaw")}}
}
