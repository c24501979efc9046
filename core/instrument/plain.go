package instrument

import (
	"fmt"
	"strings"

	"cavix/core/length"
	"cavix/core/refusal"
)

// plainScale is a main scale alone, read at an edge or a pointer.
type plainScale struct{}

func (plainScale) Traits() Traits { return Traits{HasMarks: true, AtIndex: true, BelowZero: true} }

func (plainScale) Complete(*Spec) {}

func (plainScale) Divide(s *Spec, _ bool, _ *refusal.Refusal) (Division, bool) {
	return Division{Interval: s.Main.Division, Lines: 1, Finer: 1}, true
}

func (plainScale) Describe(i *Instrument) string {
	return i.withUnit(i.spec.Main.Division) + " divisions"
}

func (plainScale) Derivation(i *Instrument) []string {
	return []string{"without a fine scale the {least count} is one division: 1 division = " + i.withUnit(i.spec.Main.Division)}
}

func (plainScale) LeastCountWorking(*Instrument) string { return "one division" }

func (plainScale) ZeroStory(i *Instrument, r Reading, _ string) string {
	if r.ZeroError.Sign() == 0 {
		return "It is at 0, so there is no {zero error}."
	}
	return fmt.Sprintf("With nothing to measure it is at %s, which is %s.",
		strings.ReplaceAll(i.FormatMain(r.ZeroError), "-", "−"), shows(r.ZeroError.Sign()))
}

func (plainScale) MarkStands(v View) string {
	switch {
	case v.exact() && v.Reading.Fine.Sign() == 0:
		return fmt.Sprintf("It is at the %s {short mark}", v.Mark)
	case v.Reading.By == Whole || v.tenths():
		return fmt.Sprintf("The last {mark} passed is %s", v.Mark)
	}
	return fmt.Sprintf("The nearest {mark} is %s", v.Mark)
}

func (plainScale) LineStands(View) string { return "" }

func (plainScale) Where(v View) string {
	switch {
	case v.Between == Whole:
		return "Take the last {mark} that is passed."
	case v.tenths():
		return "Take the last {mark} that is passed, and estimate the tenths past it."
	}
	return "Take the nearest {mark}."
}

func (plainScale) FindLine() string              { return "" }
func (plainScale) NumbersRun(*Instrument) string { return "" }
func (plainScale) Index() string                 { return "" }
func (plainScale) Term() string                  { return "" }

func (plainScale) Usuals(length.Unit) []Usual { return []Usual{{}} }

func (plainScale) Propose(w *Wanted, _ Usual) {
	if w.engraved(w.LeastCount) {
		w.Offer(w.scale(w.LeastCount), Fine{}, Finer{}, "", Rank{})
	}
}

func rules() []Spec {
	return []Spec{
		{Name: "Steel rule in mm", Family: Rule, Unit: length.Millimetre,
			Main: Main{Division: length.Int(1), To: length.Int(300), NumberEvery: 10}},
		{Name: "Rule in 1/16 in", Family: Rule, Unit: length.Inch,
			Main: Main{Division: length.Frac(1, 16), To: length.Int(12), NumberEvery: 16, Fractional: true}},
	}
}

func pointerScales() []Spec {
	return []Spec{{Name: "Pointer scale that stands off 0", Family: Pointer, Unit: length.Millimetre,
		Main: Main{Division: length.Int(1), To: length.Int(60), NumberEvery: 10}, ZeroError: length.Int(2)}}
}

func (plainScale) Limits() Limits { return Limits{} }

func (plainScale) Parts() []Part { return nil }
