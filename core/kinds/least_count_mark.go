package kinds

import (
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
)

// Mark marks an answer.
func (it *LeastCount) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	for _, name := range it.all() {
		want := it.target(name, it.value(name))
		follows := want
		if x, needs, can := it.formula(name, w.Value); needs != nil {
			if follows = it.target(name, x); !can || !w.Can(needs...) {
				follows = nil
			}
		}
		w.Judge(name, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
			return it.causes(name, due.Value(), w.Value).named(e)
		})
	}
	return w.Result(), nil
}

// causes are the slips of a field that should hold t, made from the values of the others.
func (it *LeastCount) causes(name string, t length.Number, v func(string) length.Number) causes {
	in, s := it.Instrument, it.Instrument.Spec()
	var out causes
	add := func(code exercise.Code, x length.Number) {
		if !x.Equal(t) {
			out = append(out, cause{code, it.target(name, x)})
		}
	}
	quo := func(code exercise.Code, x, by length.Number) {
		if by.Sign() != 0 {
			add(code, x.Quo(by))
		}
	}
	relation, follows := it.finding().Relation(name)
	if !it.isLength(name) && name != instrument.Zeros {
		add("lines-not-spaces", t.Add(length.Int(1)))
	}
	switch {
	case name == instrument.Divisions:
		last := in.Lines()
		if in.Traits().GoesRound {
			last-- // there line n is 0 again
		}
		add("number-taken-as-count", length.Int(int64(last/s.Fine.NumberEvery*s.Fine.NumberStep)))
	case name == instrument.MainDivision:
		add("step-of-numbers", s.Main.NumberStep)
	case name == instrument.TravelOfTurn && it.From == fromTurns:
		quo("ratio-upside-down", length.Int(int64(it.Turns)), v(lcMoved))
		add("moved-not-divided", v(lcMoved))
	case follows && relation.Inverted != nil:
		x, by := relation.Inverted(v)
		quo("ratio-upside-down", x, by)
	}
	if name == instrument.TheLeastCount {
		for _, whole := range it.finding().Wholes {
			x := it.value(whole)
			if slices.Contains(it.all(), whole) {
				x = v(whole)
			}
			add("division-as-least-count", x)
		}
	}
	if it.isLength(name) {
		out = append(out, it.unitCauses(t)...)
	}
	return out
}

// unitCauses are the slips of unit and decimal point of a length that should be t.
func (it *LeastCount) unitCauses(t length.Number) causes {
	inch, ten := length.Frac(127, 5), length.Int(10)
	near := func(code exercise.Code, x length.Number) cause {
		return cause{code, exercise.Within{Exactly: plainly(x, x.Mul(length.Frac(1, 50))), Of: x,
			By: x.Abs().Mul(length.Frac(1, 50))}}
	}
	var out causes
	if it.Instrument.Unit() != length.Inch {
		out = append(out, cause{slips.UnitTenfold, plainly(t.Mul(ten), length.Number{})},
			cause{slips.UnitTenfold, plainly(t.Quo(ten), length.Number{})})
	}
	return append(out, near(slips.UnitInch, t.Mul(inch)), near(slips.UnitInch, t.Quo(inch)),
		cause{slips.PlaceShift, plainly(t.Mul(ten), length.Number{})},
		cause{slips.PlaceShift, plainly(t.Quo(ten), length.Number{})})
}

// Predictions are those of every asked field.
func (it *LeastCount) Predictions() ([]exercise.Prediction, error) {
	var out []exercise.Prediction
	for _, name := range it.Ask {
		out = append(out, it.causes(name, it.value(name), it.value).predictions(name)...)
	}
	return out, nil
}
