package instrument

import (
	"fmt"

	"cavix/core/length"
	"cavix/core/refusal"
)

// thimble is a screw with a sleeve and a thimble round it, which may carry a vernier.
type thimble struct{}

func (thimble) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, AtIndex: true, GoesRound: true, HasThimble: true}
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
	v := s.Finer
	if v == (Finer{}) {
		return true
	}
	if v.Divisions < 2 || v.Divisions > 50 {
		bad.Add("finer.divisions", "must be a whole number of {line}s from 2 to 50; it is %d", v.Divisions)
		return false
	}
	form, ok := FormOf(v.Divisions, v.Spans)
	if room := s.Fine.Divisions - 3; !ok || v.Spans > room { // some of the thimble must be seen beside it
		near := NearestSpans(v.Divisions, max(1, min(v.Spans, room)))
		if near > room || near == v.Spans {
			near = v.Divisions - 1
		}
		if near > room {
			bad.Add("finer.divisions", "must be %d or fewer: a vernier of %d {line}s needs {a drum} of %d {line}s or more, so that 3 of them stay free",
				room+1, v.Divisions, near+3)
			return false
		}
		bad.Add("finer.spans",
			"%d {line}s over %d {drum} divisions is no vernier: it must cover one division less or one more than a whole multiple of %d, and leave 3 {drum} {line}s free. Nearest that works: %d",
			v.Divisions, v.Spans, v.Divisions, near)
		return false
	}
	out.FinerForm, out.Finer = form, v.Divisions
	return true
}

func (thimble) Describe(i *Instrument) string {
	s := i.spec
	made := fmt.Sprintf("%s %s a turn · %d {line}s on the {drum}", i.FormatMain(s.Fine.Travel), s.Unit, s.Fine.Divisions)
	if i.HasFiner() {
		made += fmt.Sprintf(" · %d {line}s over %d", s.Finer.Divisions, s.Finer.Spans)
	}
	return made
}

func (thimble) Derivation(i *Instrument) []string {
	travel := i.spec.Fine.Travel
	ten := i.withUnit(travel.MulInt(10))
	lines := []string{
		fmt.Sprintf("10 whole turns move the spindle %s: 1 turn = %s ÷ 10 = %s", ten, ten, i.withUnit(travel)),
		fmt.Sprintf("1 {drum} {line} = {pitch} ÷ {line}s: %s ÷ %d = %s", i.withUnit(travel), i.lines, i.withUnit(i.LineWorth())),
	}
	if i.HasFiner() {
		lines = append(lines, fmt.Sprintf("%d {finer line}s share 1 {drum} {line}: %s ÷ %d = %s", i.finer, i.withUnit(i.LineWorth()), i.finer,
			i.withUnit(i.leastCount)))
	}
	return lines
}

func (thimble) LeastCountWorking(i *Instrument) string { return turnWorking(i) }

func (thimble) ZeroStory(i *Instrument, r Reading, back string) string {
	sign := r.ZeroError.Sign()
	drum := "The {drum}'s 0"
	if i.spec.Base.Sign() > 0 && i.definition.SetsByStandard {
		drum = "On the {setting standard}, the {drum}'s 0"
	}
	if sign == 0 {
		return drum + " is at the {index line}, so there is no {zero error}."
	}
	moved := "has passed"
	if sign < 0 {
		moved = "has not reached"
	}
	at := fmt.Sprintf("{Line} %d is at the {index line}%s", r.Line, back)
	if i.HasFiner() {
		at = fmt.Sprintf("{Line} %d is the last one to pass it%s, and {line} %d of the vernier lines up with {a drum} {line}", r.Line, back, r.FinerLine)
	}
	return fmt.Sprintf("%s %s the {index line}, so the reading is %s. %s.", drum, moved, shows(sign), at)
}

func (thimble) MarkStands(v View) string {
	if v.Instrument.spec.Main.Reverse {
		return fmt.Sprintf("The last {mark} hidden under the {drum} is %s", v.Mark)
	}
	return fmt.Sprintf("The last {mark} you can see beside the {drum} is %s", v.Mark)
}

func (thimble) LineStands(v View) string {
	if v.Instrument.HasFiner() {
		return fmt.Sprintf("{Drum} {line} %s is the last one to pass the {index line}", v.Line)
	}
	return fmt.Sprintf("{Drum} {line} %s is at the {index line}", v.Line)
}

func (thimble) Where(v View) string {
	main := v.Instrument.spec.Main
	halves := ""
	if main.HalfMarks {
		halves = ", {half mark}s included"
	}
	if main.Reverse {
		return "Read the last {mark} hidden under the {drum}" + halves + ". Count back from the numbers you can see."
	}
	return "Read the last {mark} you can see beside the {drum}" + halves + "."
}

func (thimble) FindLine() string { return "Then the {drum} {line} at the {index line}." }

func (thimble) NumbersRun(i *Instrument) string {
	if i.spec.Fine.Down {
		return "downwards"
	}
	return "as you look up from below the {index line}"
}

func (thimble) Index() string { return "{index line}" }
func (thimble) Term() string  { return "drum" }

// turnWorking is the least count of what goes round: the interval divided by the lines, and by those of a vernier over them.
func turnWorking(i *Instrument) string {
	left := fmt.Sprintf("%s ÷ %d", i.FormatMain(i.cycle), i.lines)
	if i.HasFiner() {
		left += fmt.Sprintf(" ÷ %d", i.finer)
	}
	return left
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
	return inUnit(unit, Usual{Division: length.Frac(1, 2), Lines: []int{50}}, Usual{Division: length.Int(1), Lines: []int{100}})
}

// leastUnderFiner is how many lines a thimble has at least under a vernier.
const leastUnderFiner = 20

func (thimble) Limits() Limits {
	return Limits{Lines: mostLines * 10, Text: fmt.Sprintf("{a drum} has %d to %d {line}s, with or without a vernier of 5 or 10 {line}s over it",
		leastLines, mostLines)}
}

func (thimble) Propose(w *Wanted, u Usual) {
	m := w.scale(u.Division)
	m.HalfMarks = w.Unit != length.Inch && w.millimetres(u.Division) == 0.5
	if n, ok := w.lines(u.Division, w.LeastCount, leastLines); ok {
		w.Offer(m, Fine{Divisions: n, Travel: u.Division}, Finer{}, "", Rank{u.unusual(n), u.index, 0, 0, n})
	}
	for k, v := range []int{10, 5} {
		n, ok := w.lines(u.Division, w.LeastCount.MulInt(v), leastUnderFiner)
		if !ok {
			continue
		}
		for i, f := range u.forms() {
			w.Offer(m, Fine{Divisions: n, Travel: u.Division}, Finer{v, f.Spans(v)}, fmt.Sprintf("vernier in %s form", f),
				Rank{u.unusual(n), u.index, k + 1, i, n})
		}
	}
}

// screw is a ready micrometer of a travel a turn and of lines on its thimble.
func screw(name string, f Family, unit length.Unit, travel length.Number, every int, to, base length.Number, lines int, v Finer) Spec {
	return Spec{Name: name, Family: f, Unit: unit, Base: base, Finer: v,
		Main: Main{Division: travel, To: to, NumberEvery: every, HalfMarks: travel.Equal(length.Frac(1, 2))},
		Fine: Fine{Kind: Drum, Divisions: lines, Travel: travel, NumberEvery: 5}}
}

func micrometers() []Spec {
	mm, in, none := length.Millimetre, length.Inch, Finer{}
	half, thou25, zero, one, range25 := length.Frac(1, 2), length.Frac(1, 40), length.Number{}, length.Int(1), length.Int(25)
	return []Spec{
		screw("Micrometer 0.01 mm", Micrometer, mm, half, 10, range25, zero, 50, none),
		screw("Micrometer 0.01 mm, 25–50", Micrometer, mm, half, 10, range25, range25, 50, none),
		screw("Screw gauge 0.01 mm, 1 mm a turn", Micrometer, mm, one, 5, range25, zero, 100, none),
		screw("Micrometer 0.001 in", Micrometer, in, thou25, 4, one, zero, 25, none),
		screw("Micrometer 0.002 mm, vernier 5 over 4", Micrometer, mm, half, 10, range25, zero, 50, Finer{5, 4}),
		screw("Micrometer 0.001 mm, vernier 10 over 9", Micrometer, mm, half, 10, range25, zero, 50, Finer{10, 9}),
		screw("Micrometer 0.0001 in, vernier 10 over 9", Micrometer, in, thou25, 4, one, zero, 25, Finer{10, 9}),
	}
}

func depthMicrometers() []Spec {
	ready := func(name string, base int64) Spec {
		s := screw(name, DepthMicrometer, length.Millimetre, length.Frac(1, 2), 10, length.Int(25), length.Int(base), 50, Finer{})
		s.Main.Reverse, s.Fine.Down = true, true
		return s
	}
	return []Spec{ready("Depth micrometer 0.01 mm", 0), ready("Depth micrometer 0.01 mm, rod 25–50", 25)}
}

func insideMicrometers() []Spec {
	return []Spec{screw("Inside micrometer 0.01 mm, head and rod 50", InsideMicrometer, length.Millimetre, length.Frac(1, 2), 10,
		length.Int(13), length.Int(50), 50, Finer{})}
}

func (thimble) Parts() []Part {
	return []Part{{MainScale, "{sleeve} with the {main scale}"}, {ReadAt, "{index line}"}, {FineScale, "{drum}"},
		{Edge, "edge of the {drum}"}, {Grip, "grip, {ratchet} at its end"}}
}
