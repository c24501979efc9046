package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// counter is the face of a dial indicator: a pointer that goes round, and a small hand that counts its turns.
type counter struct{ dial }

// mostTurns is the largest number of turns that a small hand counts.
const mostTurns = 25

func (counter) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, AtIndex: true, GoesRound: true, Counts: true, Indicates: true}
}

func (counter) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Finer: 1}
	var ok bool
	out.Interval, out.Lines, ok = checkTurn(s, false, false, bad)
	checkNumbers(&s.Fine, 10, bad)
	switch {
	case !ok || !divided:
	case !s.Main.Division.Equal(s.Fine.Travel):
		bad.Add("main.division", "indicator.division", "travel", s.Fine.Travel, "division", s.Main.Division)
		ok = false
	case s.Main.From.Sign() != 0:
		bad.Add("main.from", "indicator.from", "from", s.Main.From)
	case s.Fine.Travel.MulInt(mostTurns).Less(s.Main.To):
		bad.Add("main.to", "indicator.turns", "most_turns", mostTurns, "to", s.Fine.Travel.MulInt(mostTurns))
	}
	return out, noFiner(s, bad) && ok
}

func (counter) Describe(i *Instrument) text.Text {
	return text.New("indicator.describe", "travel", i.withUnit(i.spec.Fine.Travel), "lines", i.spec.Fine.Divisions)
}

func (counter) Derivation(i *Instrument) []text.Text {
	travel := i.withUnit(i.spec.Fine.Travel)
	return []text.Text{text.New("indicator.turn", "travel", travel), text.New("dial.lines", "lines", i.lines, "travel",
		travel, "least_count", i.withUnit(i.leastCount))}
}

func (counter) ZeroStory(_ *Instrument, r Reading) text.Text { return onStandard(r) }

// onStandard says where the pointer of an indicator stands that is set on its standard.
func onStandard(r Reading) text.Text {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("indicator.no-zero-error")
	}
	return text.New("indicator.zero."+side(sign), "line", r.Line)
}

func (counter) MarkStands(v View) text.Text { return text.New("indicator.mark-stands", "mark", v.Mark) }

func (counter) Where(v View) text.Text {
	return text.New("indicator.where", "turn", v.Instrument.withUnit(v.Instrument.scaleInterval))
}

func (counter) NumbersRun(*Instrument) text.Text { return text.New("indicator.numbers-run") }

func (counter) MarksAt() text.Text { return text.New("walk.at.small-hand") }

func (counter) Usuals(unit length.Unit) []Usual {
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(1, 10), Lines: []int{100}},
			{Division: length.Frac(1, 50), Lines: []int{200}}}
	}
	return inUnit(unit, Usual{Division: length.Int(1), Lines: []int{100}},
		Usual{Division: length.Frac(1, 5), Lines: []int{200}})
}

func (counter) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok {
		return
	}
	m := w.scale(u.Division)
	m.To = u.Division.MulInt(10)
	m.NumberEvery = 1
	w.Offer(m, Fine{Divisions: n, Travel: u.Division}, ThimbleVernier{}, text.Text{}, Rank{u.unusual(n), u.index})
}

func (counter) Parts() []Part {
	return []Part{{MainScale, text.New("part.counter")}, {ReadAt, text.Word("pointer")}, {FineScale, text.Word("face")},
		{Bezel, text.New("part.bezel")}, {Plunger, text.New("part.plunger")}}
}

func dialIndicators() []Spec {
	ready := func(name string, unit length.Unit, turn length.Number, turns, lines int) Spec {
		return Spec{Name: name, Family: DialIndicator, Unit: unit,
			Main: Main{Division: turn, To: turn.MulInt(turns), NumberEvery: 1},
			Fine: Fine{Kind: Dial, Divisions: lines, Travel: turn, NumberEvery: 10}}
	}
	mm, in := length.Millimetre, length.Inch
	return []Spec{
		ready("Dial indicator 0.01 mm", mm, length.Int(1), 10, 100),
		ready("Dial indicator 0.001 mm", mm, length.Frac(1, 5), 10, 200),
		ready("Dial indicator 0.001 in", in, length.Frac(1, 10), 10, 100),
		ready("Dial indicator 0.0001 in", in, length.Frac(1, 50), 10, 200),
	}
}

// balance is a face numbered both ways from one 0, without a counter: what counts is on which side the pointer stands,
// and how far.
type balance struct{}

func (balance) Traits() Traits {
	return Traits{HasLines: true, AtIndex: true, Signed: true, Indicates: true, BelowZero: true}
}

// Complete takes what the face shows for the main scale, which it has not.
func (balance) Complete(s *Spec) {
	if s.Main != (Main{}) || s.Fine.Divisions < 2 || s.Fine.Travel.Sign() <= 0 {
		return
	}
	c := s.Fine.Travel.Quo(length.Int(int64(s.Fine.Divisions)))
	most := s.Fine.Travel.Mul(half).Sub(c)
	s.Main = Main{Division: c, From: most.Neg(), To: most, NumberEvery: 10}
}

// most is the largest value that a face shows that is numbered both ways, on either side.
func (i *Instrument) most() length.Number { return i.scaleInterval.Mul(half).Sub(i.leastCount) }

func (balance) Divide(s *Spec, _ bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Finer: 1}
	var ok bool
	out.Interval, out.Lines, ok = checkTurn(s, false, false, bad)
	checkNumbers(&s.Fine, 10, bad)
	if ok && s.Fine.Divisions%2 != 0 {
		bad.Add("fine.divisions", "indicator.even", "divisions", s.Fine.Divisions)
		ok = false
	}
	return out, noFiner(s, bad) && ok
}

func (balance) Describe(i *Instrument) text.Text {
	return text.New("balance.describe", "most", text.Math(i.FormatMain(i.scaleInterval.Mul(half))), "unit",
		i.spec.Unit, "least_count", i.withUnit(i.leastCount))
}

func (balance) Derivation(i *Instrument) []text.Text {
	return []text.Text{text.New("balance.round", "travel", i.withUnit(i.spec.Fine.Travel), "lines", i.lines,
		"least_count", i.withUnit(i.leastCount))}
}

func (balance) Finding(*Instrument) Finding {
	return Finding{
		Quantities: []Quantity{TravelOfTurn, Divisions, TheLeastCount},
		Relations: []Relation{{Is: TheLeastCount, From: []Quantity{TravelOfTurn, Divisions},
			Written: []string{TravelOfTurn, "÷", Divisions}, Value: over(TravelOfTurn, Divisions),
			Inverted: over(Divisions, TravelOfTurn)}},
		Hint: text.New("balance.hint"),
	}
}

func (balance) LeastCountWorking(i *Instrument) text.Text { return turnWorking(i) }

func (balance) ZeroStory(_ *Instrument, r Reading) text.Text { return onStandard(r) }

func (balance) MarkStands(v View) text.Text {
	switch v.Reading.Observed.Sign() {
	case 0:
		return text.New("balance.side.none")
	case -1:
		return text.New("balance.side.left")
	}
	return text.New("balance.side.right")
}

func (balance) LineStands(v View) text.Text { return text.New("balance.line-stands", "line", v.Line) }

func (balance) Where(View) text.Text { return text.New("balance.where") }

func (balance) FindLine() text.Text { return text.New("balance.find-line") }

func (balance) NumbersRun(*Instrument) text.Text { return text.New("balance.numbers-run") }

func (balance) MarksAt() text.Text { return text.Text{} }
func (balance) LinesAt() text.Text { return text.Word("pointer") }

func (balance) Index() text.Term { return "pointer" }
func (balance) Term() string     { return "face" }

func (balance) Usuals(unit length.Unit) []Usual {
	if unit == length.Inch {
		return []Usual{{Division: length.Frac(3, 100), Lines: []int{60}}}
	}
	return inUnit(unit, Usual{Division: length.Frac(4, 5), Lines: []int{80}},
		Usual{Division: length.Frac(1, 5), Lines: []int{100}})
}

func (balance) Limits() Limits {
	return Limits{Lines: mostLines, Cycle: 1, Text: text.New("dial.limits.face-most-lines-turn", "most_lines",
		mostLines)}
}

func (balance) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok || n%2 != 0 {
		return
	}
	w.Offer(Main{}, Fine{Divisions: n, Travel: u.Division}, ThimbleVernier{}, text.Text{}, Rank{u.unusual(n), u.index})
}

func (balance) Parts() []Part {
	return []Part{{ReadAt, text.Word("pointer")}, {FineScale, text.Word("face")}, {Bezel, text.New("part.bezel")},
		{Plunger, text.New("part.lever")}}
}

func balancedIndicators() []Spec {
	ready := func(name string, unit length.Unit, travel length.Number, lines int, anticlockwise bool) Spec {
		return Spec{Name: name, Family: BalancedIndicator, Unit: unit,
			Fine: Fine{Kind: Dial, Divisions: lines, Travel: travel, NumberEvery: 10, Anticlockwise: anticlockwise}}
	}
	mm, in := length.Millimetre, length.Inch
	return []Spec{
		ready("Lever indicator 0.01 mm", mm, length.Frac(4, 5), 80, false),
		ready("Lever indicator 0.002 mm", mm, length.Frac(1, 5), 100, false),
		ready("Lever indicator 0.0005 in", in, length.Frac(3, 100), 60, false),
		ready("Bore gauge 0.01 mm", mm, length.Frac(4, 5), 80, true),
	}
}
