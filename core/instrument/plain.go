package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// plainScale is a main scale alone, read at an edge or a pointer.
type plainScale struct{}

func (plainScale) Traits() Traits { return Traits{HasMarks: true, AtIndex: true, BelowZero: true} }

func (plainScale) Complete(*Spec) {}

func (plainScale) Divide(s *Spec, _ bool, _ *refusal.Refusal) (Division, bool) {
	return Division{Interval: s.Main.Division, Lines: 1, Finer: 1}, true
}

func (plainScale) Describe(i *Instrument) text.Text {
	return text.New("plain.describe", "division", i.withUnit(i.spec.Main.Division))
}

func (plainScale) Derivation(i *Instrument) []text.Text {
	return []text.Text{text.New("plain.division", "division", i.withUnit(i.spec.Main.Division))}
}

func (plainScale) LeastCountWorking(*Instrument) text.Text {
	return text.New("plain.least-count-working")
}

func (plainScale) ZeroStory(i *Instrument, r Reading) text.Text {
	sign := r.ZeroError.Sign()
	if sign == 0 {
		return text.New("plain.no-zero-error")
	}
	return text.New("plain.zero."+side(sign), "shown", text.Math(i.FormatMain(r.ZeroError)))
}

func (plainScale) MarkStands(v View) text.Text {
	switch {
	case v.exact() && v.Reading.Fine.Sign() == 0:
		return text.New("plain.mark-stands", "mark", v.Mark)
	case v.Reading.By == Whole || v.tenths():
		return text.New("plain.last-mark-passed", "mark", v.Mark)
	}
	return text.New("plain.nearest-mark", "mark", v.Mark)
}

func (plainScale) LineStands(View) text.Text { return text.Text{} }

func (plainScale) Where(v View) text.Text {
	switch {
	case v.Between == Whole:
		return text.New("plain.where")
	case v.tenths():
		return text.New("plain.take-last-mark-passed")
	}
	return text.New("plain.take-nearest-mark")
}

func (plainScale) FindLine() text.Text              { return text.Text{} }
func (plainScale) NumbersRun(*Instrument) text.Text { return text.Text{} }
func (plainScale) MarksAt() text.Text               { return text.New("walk.at.edge") }
func (plainScale) LinesAt() text.Text               { return text.Text{} }
func (plainScale) Index() text.Term                 { return "" }
func (plainScale) Term() string                     { return "" }

func (plainScale) Usuals(length.Unit) []Usual { return []Usual{{}} }

func (plainScale) Propose(w *Wanted, _ Usual) {
	if w.engraved(w.LeastCount) {
		w.Offer(w.scale(w.LeastCount), Fine{}, ThimbleVernier{}, text.Text{}, Rank{})
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
