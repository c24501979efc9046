package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// digits is a display: what it shows is copied.
type digits struct{}

func (digits) Traits() Traits { return Traits{BelowZero: true, Digits: true} }

// Complete takes the step of the unit for the division.
func (digits) Complete(s *Spec) {
	if s.Main.Division.Sign() == 0 {
		s.Main.Division = s.Fine.Steps[s.Unit]
	}
}

func (digits) Divide(s *Spec, _ bool, bad *refusal.Refusal) (Division, bool) {
	out := Division{Interval: s.Main.Division, Lines: 1, Finer: 1}
	step, ok := s.Fine.Steps[s.Unit]
	if !ok || step.Sign() <= 0 {
		bad.Add("fine.step", "display.divide", "unit", s.Unit)
		return out, false
	}
	for unit, step := range s.Fine.Steps {
		if step.Sign() <= 0 {
			bad.Add("fine.step."+string(unit), "display.more-than-0", "step", step)
			ok = false
		}
	}
	out.Interval = step
	return out, ok
}

func (digits) Describe(i *Instrument) text.Text {
	return text.New("display.describe", "least_count", i.withUnit(i.leastCount))
}

func (digits) Derivation(i *Instrument) []text.Text {
	return []text.Text{text.New("display.step", "step", i.withUnit(i.leastCount))}
}

func (digits) LeastCountWorking(*Instrument) text.Text {
	return text.New("display.least-count-working")
}

func (digits) ZeroStory(i *Instrument, r Reading) text.Text {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("display.no-zero-error")
	}
	return text.New("display.zero."+side(sign), "shown", text.Math(i.Format(r.ZeroError)))
}

func (digits) MarkStands(View) text.Text        { return text.New("display.mark-stands") }
func (digits) LineStands(View) text.Text        { return text.Text{} }
func (digits) Where(View) text.Text             { return text.New("display.where") }
func (digits) FindLine() text.Text              { return text.Text{} }
func (digits) MarksAt() text.Text               { return text.Text{} }
func (digits) LinesAt() text.Text               { return text.Text{} }
func (digits) NumbersRun(*Instrument) text.Text { return text.Text{} }
func (digits) Index() text.Term                 { return "" }
func (digits) Term() string                     { return "" }

// NewDisplay returns a display of a step that shows values from one to another, in a unit.
func NewDisplay(name string, unit length.Unit, step, from, to length.Number, fractional bool) (*Instrument, error) {
	return New(Spec{Name: name, Family: Digital, Unit: unit, Main: Main{From: from, To: to, Fractional: fractional},
		Fine: Fine{Kind: Display, Steps: map[length.Unit]length.Number{unit: step}}})
}

// Displayed returns what a display shows at y when it was zeroed at the indicated value from: the signed
// difference, rounded to its step half away from zero.
func (i *Instrument) Displayed(y, from length.Number) length.Number {
	steps := y.Sub(from).Quo(i.leastCount)
	g := steps.Abs().Add(half).Floor()
	if steps.Sign() < 0 {
		g = g.Neg()
	}
	return g.Mul(i.leastCount)
}

// InUnit returns the same display instrument switched to another unit it has a step for. Its zero error
// and base are brought to the new step.
func (i *Instrument) InUnit(unit length.Unit) (*Instrument, error) {
	s := i.spec
	step := s.Fine.Steps[unit]
	if i.traits.HasMarks || step.Sign() <= 0 {
		return nil, text.Error("display.in-unit", "unit", unit)
	}
	convert := func(x length.Number) length.Number { return length.Convert(x, s.Unit, unit) }
	onStep := func(x length.Number) length.Number {
		return convert(x).Quo(step).Add(half).Floor().Mul(step)
	}
	s.Main = Main{Division: step, From: convert(s.Main.From), To: convert(s.Main.To)}
	s.Base, s.ZeroError, s.Unit = onStep(s.Base), onStep(s.ZeroError), unit
	return New(s)
}

func (digits) Usuals(length.Unit) []Usual { return []Usual{{}} }

func (digits) Propose(w *Wanted, _ Usual) {
	w.Offer(Main{Division: w.LeastCount}, Fine{Steps: map[length.Unit]length.Number{w.Unit: w.LeastCount}},
		ThimbleVernier{}, text.Text{}, Rank{})
}

func digitalCalipers() []Spec {
	return []Spec{{Name: "Digital caliper", Family: Digital, Unit: length.Millimetre, Main: Main{To: length.Int(150)},
		Fine: Fine{Kind: Display, Steps: map[length.Unit]length.Number{
			length.Millimetre: length.Frac(1, 100), length.Inch: length.Frac(1, 2000)}}}}
}

func (digits) Limits() Limits { return Limits{} }

func (digits) Parts() []Part { return nil }
