package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// dial is a beam on which whole turns are counted, and a round face with a pointer.
type dial struct{}

func (dial) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, AtIndex: true, GoesRound: true, CountsTurns: true}
}

func (dial) Complete(*Spec) {}

func (dial) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Finer: 1}
	var ok bool
	out.Interval, out.Lines, ok = checkTurn(s, divided, true, bad)
	checkNumbers(&s.Fine, 10, bad)
	return out, noFiner(s, bad) && ok
}

func (dial) Describe(i *Instrument) text.Text {
	s := i.spec
	made := text.New("dial.describe", "division", i.withUnit(s.Main.Division), "travel", i.withUnit(s.Fine.Travel),
		"lines", s.Fine.Divisions)
	if s.Fine.Zeros > 1 {
		return text.Row(made, text.New("dial.describe-zeros", "zeros", s.Fine.Zeros))
	}
	return made
}

func (dial) Derivation(i *Instrument) []text.Text {
	f := i.spec.Fine
	turn := text.New("dial.turn", "travel", i.withUnit(f.Travel))
	if f.Zeros > 1 {
		return []text.Text{
			turn,
			text.New("dial.zeros", "zeros", f.Zeros, "travel", i.withUnit(f.Travel), "cycle",
				i.withUnit(i.scaleInterval)),
			text.New("dial.lines-from-zero", "lines", i.lines, "cycle", i.withUnit(i.scaleInterval), "least_count",
				i.withUnit(i.leastCount)),
		}
	}
	return []text.Text{turn, text.New("dial.lines", "lines", i.lines, "travel", i.withUnit(f.Travel), "least_count",
		i.withUnit(i.leastCount))}
}

func (dial) LeastCountWorking(i *Instrument) text.Text { return turnWorking(i) }

func (dial) ZeroStory(_ *Instrument, r Reading) text.Text {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("dial.no-zero-error")
	}
	return text.New("dial.zero."+side(sign), "line", r.Line)
}

// coarse reports whether only some of the beam's marks count, since a turn covers several.
func (dial) coarse(i *Instrument) bool { return i.spec.Main.Division.Less(i.scaleInterval) }

func (s dial) MarkStands(v View) text.Text {
	if s.coarse(v.Instrument) {
		return text.New("dial.mark-stands", "cycle", v.Instrument.withUnit(v.Instrument.scaleInterval), "mark", v.Mark)
	}
	return text.New("dial.slides-edge-passed", "mark", v.Mark)
}

func (dial) LineStands(v View) text.Text {
	return text.New("dial.line-stands", "line", v.Line)
}

func (s dial) Where(v View) text.Text {
	step := v.Instrument.withUnit(v.Instrument.scaleInterval)
	switch {
	case v.Instrument.spec.Fine.Zeros > 1:
		return text.New("dial.where", "step", step)
	case s.coarse(v.Instrument):
		return text.New("dial.beam-count-whole-steps", "step", step)
	}
	return text.New("dial.read-beam-slides-edge")
}

func (dial) FindLine() text.Text              { return text.New("dial.find-line") }
func (dial) NumbersRun(*Instrument) text.Text { return text.New("dial.numbers-run") }
func (dial) MarksAt() text.Text               { return text.New("walk.at.slide") }
func (dial) LinesAt() text.Text               { return text.Word("pointer") }
func (dial) Index() text.Term                 { return "pointer" }
func (dial) Term() string                     { return "face" }

// A face is divided into a hundred lines where it can be.
func (dial) Usuals(unit length.Unit) []Usual {
	hundred, one := []int{100}, length.Int(1)
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(1, 10), Lines: hundred}, {Division: length.Frac(1, 10), Lines: hundred,
			Beam: length.Frac(1, 20)}}
	}
	return inUnit(unit, Usual{Division: one, Lines: hundred}, Usual{Division: length.Int(2), Lines: hundred, Beam: one,
		Zeros: 2}, Usual{Division: length.Int(5), Lines: hundred, Beam: one},
		Usual{Division: length.Int(10), Lines: hundred, Beam: one})
}

func (dial) Limits() Limits {
	return Limits{Lines: mostLines, Cycle: 1, Text: text.New("dial.limits.face-most-lines-turn", "most_lines",
		mostLines)}
}

func (dial) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	zeros := max(1, u.Zeros)
	if !ok || n/zeros < leastLines || n%zeros != 0 {
		return
	}
	var remark text.Text
	if zeros > 1 {
		remark = text.New("dial.two-zeros")
	}
	beam := u.Beam
	if beam.Sign() == 0 {
		beam = u.Division
	}
	w.Offer(w.scale(beam), Fine{Divisions: n, Travel: u.Division, Zeros: zeros}, ThimbleVernier{}, remark,
		Rank{u.unusual(n), u.index})
}

func dialCalipers() []Spec {
	ready := func(name string, unit length.Unit, d, travel length.Number, every int, to int64, zeros int) Spec {
		return Spec{Name: name, Family: DialCaliper, Unit: unit,
			Main: Main{Division: d, To: length.Int(to), NumberEvery: every},
			Fine: Fine{Kind: Dial, Divisions: 100, Travel: travel, Zeros: zeros, NumberEvery: 10}}
	}
	mm, in, one, tenth := length.Millimetre, length.Inch, length.Int(1), length.Frac(1, 10)
	return []Spec{
		ready("Dial caliper 0.01 mm, a turn of 1 mm", mm, one, one, 10, 150, 1),
		ready("Dial caliper 0.02 mm, two zeros", mm, one, length.Int(2), 10, 150, 2),
		ready("Dial caliper 0.05 mm, a turn of 5 mm", mm, one, length.Int(5), 10, 150, 1),
		ready("Dial caliper 0.001 in", in, tenth, tenth, 10, 6, 1),
		ready("Dial caliper 0.001 in, 0.05 in beam", in, length.Frac(1, 20), tenth, 20, 6, 1),
	}
}

func (dial) Parts() []Part {
	return []Part{{MainScale, text.Word("main scale")}, {Edge, text.New("part.slide-edge")},
		{FineScale, text.Word("face")}, {Slide, text.New("part.slide")}}
}
