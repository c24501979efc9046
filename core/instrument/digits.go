package instrument

import (
	"fmt"
	"strings"

	"cavix/core/length"
	"cavix/core/refusal"
)

// digits is a display: what it shows is copied.
type digits struct{}

func (digits) Traits() Traits { return Traits{BelowZero: true} }

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
		bad.Add("fine.step", "has no step for %s, the instrument's unit; give one, as 0.01", s.Unit)
		return out, false
	}
	for unit, step := range s.Fine.Steps {
		if step.Sign() <= 0 {
			bad.Add("fine.step."+string(unit), "must be more than 0; it is %s", step)
			ok = false
		}
	}
	out.Interval = step
	return out, ok
}

func (digits) Describe(i *Instrument) string { return "steps of " + i.withUnit(i.leastCount) }

func (digits) Derivation(i *Instrument) []string {
	return []string{"the last digit changes by one step: 1 step = " + i.withUnit(i.leastCount)}
}

func (digits) LeastCountWorking(*Instrument) string { return "one step of the last digit" }

func (digits) ZeroStory(i *Instrument, r Reading, _ string) string {
	if r.ZeroError.Sign() == 0 {
		return "{Closed}, the display shows 0, so there is no {zero error}."
	}
	return fmt.Sprintf("{Closed}, the display shows %s, which is %s.", strings.ReplaceAll(i.Format(r.ZeroError), "-", "−"), shows(r.ZeroError.Sign()))
}

func (digits) MarkStands(View) string        { return "The display is read as it stands" }
func (digits) LineStands(View) string        { return "" }
func (digits) Where(View) string             { return "Copy the display as it stands." }
func (digits) FindLine() string              { return "" }
func (digits) NumbersRun(*Instrument) string { return "" }
func (digits) Index() string                 { return "" }
func (digits) Term() string                  { return "" }

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
		return nil, fmt.Errorf("it cannot show %s", unit)
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
	w.Offer(Main{Division: w.LeastCount}, Fine{Steps: map[length.Unit]length.Number{w.Unit: w.LeastCount}}, Finer{}, "", Rank{})
}

func digitalCalipers() []Spec {
	return []Spec{{Name: "Digital caliper", Family: Digital, Unit: length.Millimetre, Main: Main{To: length.Int(150)},
		Fine: Fine{Kind: Display, Steps: map[length.Unit]length.Number{
			length.Millimetre: length.Frac(1, 100), length.Inch: length.Frac(1, 2000)}}}}
}

func (digits) Limits() Limits { return Limits{} }

func (digits) Parts() []Part { return nil }
