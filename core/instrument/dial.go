package instrument

import (
	"fmt"

	"cavix/core/length"
	"cavix/core/refusal"
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

func (dial) Describe(i *Instrument) string {
	s := i.spec
	made := fmt.Sprintf("%s beam · %s a turn · %d {line}s on the {face}", i.withUnit(s.Main.Division), i.withUnit(s.Fine.Travel),
		s.Fine.Divisions)
	if s.Fine.Zeros > 1 {
		made += fmt.Sprintf(" · %d zeros", s.Fine.Zeros)
	}
	return made
}

func (dial) Derivation(i *Instrument) []string {
	f := i.spec.Fine
	turn := "1 turn of the {pointer} moves the slide " + i.withUnit(f.Travel)
	if f.Zeros > 1 {
		return []string{
			turn,
			fmt.Sprintf("the {face} has %d zeros: from 0 to 0 is %s ÷ %d = %s", f.Zeros, i.withUnit(f.Travel), f.Zeros, i.withUnit(i.cycle)),
			fmt.Sprintf("%d {line}s from 0 to 0: %s ÷ %d = %s", i.lines, i.withUnit(i.cycle), i.lines, i.withUnit(i.leastCount)),
		}
	}
	return []string{turn, fmt.Sprintf("%d {line}s on the {face}: %s ÷ %d = %s", i.lines, i.withUnit(f.Travel), i.lines,
		i.withUnit(i.leastCount))}
}

func (dial) LeastCountWorking(i *Instrument) string { return turnWorking(i) }

func (dial) ZeroStory(_ *Instrument, r Reading, back string) string {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return "The {pointer} is at 0, so there is no {zero error}."
	}
	moved := map[int]string{1: "has passed", -1: "has not reached"}[sign]
	return fmt.Sprintf("The {pointer} %s 0, so the reading is %s. It points to {line} %d%s.", moved, shows(sign), r.Line, back)
}

// coarse reports whether only some of the beam's marks count, since a turn covers several.
func (dial) coarse(i *Instrument) bool { return i.spec.Main.Division.Less(i.cycle) }

func (s dial) MarkStands(v View) string {
	if s.coarse(v.Instrument) {
		return fmt.Sprintf("The last whole step of %s that the slide's edge has passed is %s", v.Instrument.withUnit(v.Instrument.cycle), v.Mark)
	}
	return fmt.Sprintf("The slide's edge has passed %s", v.Mark)
}

func (dial) LineStands(v View) string {
	return fmt.Sprintf("The {pointer} is at {line} %s", v.Line)
}

func (s dial) Where(v View) string {
	step := v.Instrument.withUnit(v.Instrument.cycle)
	switch {
	case v.Instrument.spec.Fine.Zeros > 1:
		return fmt.Sprintf("On the beam, count whole steps of %s, from one 0 of the {face} to the next. The {pointer} shows the rest.", step)
	case s.coarse(v.Instrument):
		return fmt.Sprintf("On the beam, count whole steps of %s, one for each turn. The {pointer} shows the rest.", step)
	}
	return "Read the beam at the slide's edge: the last {mark} you can see. The {pointer} shows the rest."
}

func (dial) FindLine() string              { return "Then the {line} at the {pointer}." }
func (dial) NumbersRun(*Instrument) string { return "clockwise from 0" }
func (dial) Index() string                 { return "{pointer}" }
func (dial) Term() string                  { return "face" }

// A face is divided into a hundred lines where it can be.
func (dial) Usuals(unit length.Unit) []Usual {
	hundred, one := []int{100}, length.Int(1)
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(1, 10), Lines: hundred}, {Division: length.Frac(1, 10), Lines: hundred, Beam: length.Frac(1, 20)}}
	}
	return inUnit(unit, Usual{Division: one, Lines: hundred}, Usual{Division: length.Int(2), Lines: hundred, Beam: one, Zeros: 2},
		Usual{Division: length.Int(5), Lines: hundred, Beam: one}, Usual{Division: length.Int(10), Lines: hundred, Beam: one})
}

func (dial) Limits() Limits {
	return Limits{Lines: mostLines, Cycle: 1, Text: fmt.Sprintf("{a face} has at most %d {line}s, and a turn moves the slide 1 mm or more", mostLines)}
}

func (dial) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	zeros := max(1, u.Zeros)
	if !ok || n/zeros < leastLines || n%zeros != 0 {
		return
	}
	remark := ""
	if zeros > 1 {
		remark = "the half of the {face} tells odd from even"
	}
	beam := u.Beam
	if beam.Sign() == 0 {
		beam = u.Division
	}
	w.Offer(w.scale(beam), Fine{Divisions: n, Travel: u.Division, Zeros: zeros}, Finer{}, remark, Rank{u.unusual(n), u.index})
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
	return []Part{{MainScale, "{main scale}"}, {Edge, "slide's edge"}, {FineScale, "{face}"}, {Slide, "slide"}}
}
