package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// disc is a screw in three legs: a divided disc against an upright scale that goes on below its 0.
type disc struct{ thimble }

func (d disc) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	out, ok := d.thimble.Divide(s, divided, bad)
	if s.Main.From.Sign() >= 0 {
		bad.Add("main.from", "spherometer.from", "from", s.Main.From)
	}
	if ok && divided && !s.Main.Division.Equal(s.Fine.Travel) {
		bad.Add("main.division", "spherometer.division", "travel", s.Fine.Travel, "division", s.Main.Division)
		ok = false
	}
	return out, noFiner(s, bad) && ok
}

func (disc) Describe(i *Instrument) text.Text {
	return text.New("spherometer.describe", "travel", i.withUnit(i.spec.Fine.Travel), "lines", i.spec.Fine.Divisions)
}

func (disc) Derivation(i *Instrument) []text.Text {
	travel := i.spec.Fine.Travel
	return []text.Text{
		text.New("spherometer.turns", "ten", i.withUnit(travel.MulInt(10)), "travel", i.withUnit(travel)),
		text.New("spherometer.line", "travel", i.withUnit(travel), "lines", i.lines, "worth",
			i.withUnit(i.LineWorth())),
	}
}

func (disc) ZeroStory(_ *Instrument, r Reading) text.Text {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("spherometer.no-zero-error")
	}
	return text.New("spherometer.zero."+side(sign), "line", r.Line)
}

func (disc) MarkStands(v View) text.Text { return text.New("spherometer.mark-stands", "mark", v.Mark) }

func (disc) Where(View) text.Text { return text.New("spherometer.where") }

func (disc) FindLine() text.Text { return text.New("spherometer.find-line") }

func (disc) LineStands(v View) text.Text { return text.New("spherometer.line-stands", "line", v.Line) }

func (disc) NumbersRun(i *Instrument) text.Text {
	if i.spec.Fine.Down {
		return text.New("spherometer.numbers-run-right")
	}
	return text.New("spherometer.numbers-run")
}

func (disc) MarksAt() text.Text { return text.New("walk.at.disc") }
func (disc) LinesAt() text.Text { return text.New("part.scale-edge") }

func (disc) Usuals(unit length.Unit) []Usual {
	return inUnit(unit, Usual{Division: length.Int(1), Lines: []int{100}},
		Usual{Division: length.Frac(1, 2), Lines: []int{50, 100}})
}

func (disc) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok {
		return
	}
	m := w.scale(u.Division)
	m.From = m.To.Neg()
	w.Offer(m, Fine{Divisions: n, Travel: u.Division}, ThimbleVernier{}, text.Text{}, Rank{u.unusual(n), u.index})
}

func (disc) Parts() []Part {
	return []Part{{MainScale, text.New("part.upright-scale")}, {ReadAt, text.New("part.scale-edge")},
		{FineScale, text.New("part.disc")}, {Grip, text.New("part.knob")}}
}

func spherometers() []Spec {
	ready := func(name string, pitch length.Number, every, lines int) Spec {
		return Spec{Name: name, Family: Spherometer, Unit: length.Millimetre,
			Main: Main{Division: pitch, From: length.Int(-10), To: length.Int(10), NumberEvery: every},
			Fine: Fine{Kind: Thimble, Divisions: lines, Travel: pitch, NumberEvery: 10}}
	}
	return []Spec{
		ready("Spherometer 0.01 mm", length.Int(1), 5, 100),
		ready("Spherometer 0.01 mm, half a millimetre a turn", length.Frac(1, 2), 10, 50),
		ready("Spherometer 0.005 mm", length.Frac(1, 2), 10, 100),
	}
}
