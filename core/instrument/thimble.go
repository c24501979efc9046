package instrument

import (
	"fmt"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// thimble is a screw with a sleeve and a thimble round it, which may carry a vernier.
type thimble struct{}

func (thimble) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, AtIndex: true, GoesRound: true, HasThimble: true, Reversible: true}
}

func (thimble) Complete(*Spec) {}

func (thimble) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Finer: 1}
	var ok bool
	out.Interval, out.Lines, ok = checkTurn(s, divided, false, bad)
	checkNumbers(&s.Fine, 5, bad)
	finer := checkFiner(s, &out, bad)
	return out, finer && ok
}

// checkFiner checks the vernier over a thimble.
func checkFiner(s *Spec, out *Division, bad *refusal.Refusal) bool {
	v := s.ThimbleVernier
	if v == (ThimbleVernier{}) {
		return true
	}
	if v.Divisions < 2 || v.Divisions > 50 {
		bad.Add("finer.divisions", "thimble.check-finer", "divisions", v.Divisions)
		return false
	}
	form, ok := FormOf(v.Divisions, v.ThimbleDivisions)
	if room := s.Fine.Divisions - 3; !ok || v.ThimbleDivisions > room { // some of the thimble must be seen beside it
		near := NearestSpans(v.Divisions, max(1, min(v.ThimbleDivisions, room)))
		if near > room || near == v.ThimbleDivisions {
			near = v.Divisions - 1
		}
		if near > room {
			bad.Add("finer.divisions", "thimble.fewer-vernier-lines-needs", "room", room+1, "divisions", v.Divisions,
				"near", near+3)
			return false
		}
		bad.Add("finer.spans",
			"thimble.lines-over-drum-divisions", "divisions", v.Divisions, "spans", v.ThimbleDivisions, "near", near)
		return false
	}
	out.FinerForm, out.Finer = form, v.Divisions
	return true
}

func (thimble) Describe(i *Instrument) text.Text {
	s := i.spec
	made := text.New("thimble.describe", "travel", i.withUnit(s.Fine.Travel), "divisions", s.Fine.Divisions)
	if i.HasFiner() {
		return text.Row(made, text.New("thimble.describe-vernier", "lines", s.ThimbleVernier.Divisions, "spans",
			s.ThimbleVernier.ThimbleDivisions))
	}
	return made
}

func (thimble) Derivation(i *Instrument) []text.Text {
	travel := i.spec.Fine.Travel
	lines := []text.Text{
		text.New("thimble.turns", "ten", i.withUnit(travel.MulInt(10)), "travel", i.withUnit(travel)),
		text.New("thimble.line", "travel", i.withUnit(travel), "lines", i.lines, "worth", i.withUnit(i.LineWorth())),
	}
	if i.HasFiner() {
		lines = append(lines, text.New("thimble.vernier", "lines", i.finer, "worth", i.withUnit(i.LineWorth()),
			"least_count", i.withUnit(i.leastCount)))
	}
	return lines
}

func (thimble) LeastCountWorking(i *Instrument) text.Text { return turnWorking(i) }

func (thimble) ZeroStory(i *Instrument, r Reading) text.Text {
	on := "0"
	if i.spec.Base.Sign() > 0 && i.definition.SetsByStandard {
		on = "standard"
	}
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("thimble.no-zero-error." + on)
	}
	line := text.New("thimble.zero-line", "line", r.Line)
	if i.HasFiner() {
		line = text.New("thimble.zero-line-vernier", "line", r.Line, "vernier_line", r.FinerLine)
	}
	return text.Run(text.New("thimble.zero."+on+"-"+side(sign)), line)
}

func (thimble) MarkStands(v View) text.Text {
	if v.Instrument.spec.Main.Reverse {
		return text.New("thimble.mark-stands", "mark", v.Mark)
	}
	return text.New("thimble.last-mark-can-see", "mark", v.Mark)
}

func (thimble) LineStands(v View) text.Text {
	if v.Instrument.HasFiner() {
		return text.New("thimble.line-stands", "line", v.Line)
	}
	return text.New("thimble.drum-line-index-line", "line", v.Line)
}

func (thimble) Where(v View) text.Text {
	main := v.Instrument.spec.Main
	switch {
	case main.Reverse && main.HalfMarks:
		return text.New("thimble.where-reversed-halves")
	case main.Reverse:
		return text.New("thimble.where-reversed")
	case main.HalfMarks:
		return text.New("thimble.where-halves")
	}
	return text.New("thimble.where")
}

func (thimble) FindLine() text.Text { return text.New("thimble.find-line") }

func (thimble) NumbersRun(i *Instrument) text.Text {
	if i.spec.Fine.Down {
		return text.New("thimble.numbers-run-down")
	}
	return text.New("thimble.numbers-run")
}

func (thimble) MarksAt() text.Text { return text.New("walk.at.drum") }
func (thimble) LinesAt() text.Text { return text.Word("index line") }

func (thimble) Index() text.Term { return "index line" }
func (thimble) Term() string     { return "drum" }

// turnWorking is the least count of what goes round: the interval divided by the lines, and by those of a vernier over
// them.
func turnWorking(i *Instrument) text.Text {
	left := fmt.Sprintf("%s ÷ %d", i.FormatMain(i.scaleInterval), i.lines)
	if i.HasFiner() {
		left += fmt.Sprintf(" ÷ %d", i.finer)
	}
	return text.Numbers(text.Math(left))
}

// DrumMet returns the drum number that the coinciding line of the finer scale meets, from 0 to n−1:
// k + j·k₂, or k − j·k₂ on a vernier in retrograde form.
func (i *Instrument) DrumMet(r Reading) int {
	step := i.finerForm.J * r.FinerLine
	if i.finerForm.Retrograde {
		step = -step
	}
	return ((r.Line+step)%i.lines + i.lines) % i.lines
}

func (thimble) Usuals(unit length.Unit) []Usual {
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(1, 40), Lines: []int{25}}}
	}
	return inUnit(unit, Usual{Division: length.Frac(1, 2), Lines: []int{50}},
		Usual{Division: length.Int(1), Lines: []int{100}})
}

// leastUnderFiner is the smallest number of thimble lines under a vernier.
const leastUnderFiner = 20

func (thimble) Limits() Limits {
	return Limits{Lines: mostLines * 10, Text: text.New("thimble.limits.drum-lines-without-vernier", "least_lines",
		leastLines, "most_lines", mostLines)}
}

func (thimble) Propose(w *Wanted, u Usual) {
	m := w.scale(u.Division)
	m.HalfMarks = w.Unit != length.Inch && w.millimetres(u.Division) == 0.5
	if n, ok := w.lines(u.Division, w.LeastCount, leastLines); ok {
		w.Offer(m, Fine{Divisions: n, Travel: u.Division}, ThimbleVernier{}, text.Text{},
			Rank{u.unusual(n), u.index, 0, 0, n})
	}
	for k, v := range []int{10, 5} {
		n, ok := w.lines(u.Division, w.LeastCount.MulInt(v), leastUnderFiner)
		if !ok {
			continue
		}
		for i, f := range u.forms() {
			w.Offer(m, Fine{Divisions: n, Travel: u.Division}, ThimbleVernier{v, f.MainDivisions(v)},
				text.New("thimble.vernier-form", "form", f.Text()), Rank{u.unusual(n), u.index, k + 1, i, n})
		}
	}
}

// screw is a ready micrometer of a travel a turn and of lines on its thimble.
func screw(name string, f Family, unit length.Unit, travel length.Number, every int, to, base length.Number, lines int,
	v ThimbleVernier) Spec {
	return Spec{Name: name, Family: f, Unit: unit, Base: base, ThimbleVernier: v,
		Main: Main{Division: travel, To: to, NumberEvery: every, HalfMarks: travel.Equal(length.Frac(1, 2))},
		Fine: Fine{Kind: Thimble, Divisions: lines, Travel: travel, NumberEvery: 5}}
}

func micrometers() []Spec {
	mm, in, none := length.Millimetre, length.Inch, ThimbleVernier{}
	half, thou25, zero, one, range25 := length.Frac(1, 2), length.Frac(1, 40), length.Number{}, length.Int(1),
		length.Int(25)
	return []Spec{
		screw("Micrometer 0.01 mm", Micrometer, mm, half, 10, range25, zero, 50, none),
		screw("Micrometer 0.01 mm, 25–50", Micrometer, mm, half, 10, range25, range25, 50, none),
		screw("Screw gauge 0.01 mm, 1 mm a turn", Micrometer, mm, one, 5, range25, zero, 100, none),
		screw("Micrometer 0.001 in", Micrometer, in, thou25, 4, one, zero, 25, none),
		screw("Micrometer 0.002 mm, vernier 5 over 4", Micrometer, mm, half, 10, range25, zero, 50,
			ThimbleVernier{5, 4}),
		screw("Micrometer 0.001 mm, vernier 10 over 9", Micrometer, mm, half, 10, range25, zero, 50,
			ThimbleVernier{10, 9}),
		screw("Micrometer 0.0001 in, vernier 10 over 9", Micrometer, in, thou25, 4, one, zero, 25,
			ThimbleVernier{10, 9}),
	}
}

func depthMicrometers() []Spec {
	ready := func(name string, base int64) Spec {
		s := screw(name, DepthMicrometer, length.Millimetre, length.Frac(1, 2), 10, length.Int(25), length.Int(base),
			50, ThimbleVernier{})
		s.Main.Reverse, s.Fine.Down = true, true
		return s
	}
	return []Spec{ready("Depth micrometer 0.01 mm", 0), ready("Depth micrometer 0.01 mm, rod 25–50", 25)}
}

func insideMicrometers() []Spec {
	return []Spec{screw("Inside micrometer 0.01 mm, head and rod 50", InsideMicrometer, length.Millimetre,
		length.Frac(1, 2), 10, length.Int(13), length.Int(50), 50, ThimbleVernier{})}
}

func (thimble) Parts() []Part {
	return []Part{{MainScale, text.New("part.sleeve-with-scale")}, {ReadAt, text.Word("index line")},
		{FineScale, text.Word("drum")}, {Edge, text.New("part.thimble-edge")}, {Grip, text.New("part.grip")}}
}
