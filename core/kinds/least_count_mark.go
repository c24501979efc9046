package kinds

import (
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
	switch name {
	case lcCount, lcFiner, lcSpans:
		add("lines-not-spaces", t.Add(length.Int(1)))
	}
	switch name {
	case lcCount:
		last := in.Lines()
		if in.Kind() != instrument.Vernier {
			last-- // there line n is 0 again
		}
		add("number-taken-as-count", length.Int(int64(last/s.Fine.NumberEvery*s.Fine.NumberStep)))
	case lcMain:
		add("step-of-numbers", s.Main.NumberStep)
	case lcFine:
		if in.Kind() == instrument.Vernier {
			quo("ratio-upside-down", v(lcCount).Mul(v(lcMain)), v(lcSpans))
		} else {
			quo("ratio-upside-down", v(lcCount), v(lcPitch))
		}
	case lcPitch:
		if it.From == fromTurns {
			quo("ratio-upside-down", length.Int(int64(it.Turns)), v(lcMoved))
			add("moved-not-divided", v(lcMoved))
		}
	case lcLeast:
		it.leastCauses(v, add, quo)
	}
	if it.isLength(name) {
		out = append(out, it.unitCauses(t)...)
	}
	return out
}

// leastCauses are the slips of the least count itself.
func (it *LeastCount) leastCauses(v func(string) length.Number, add func(exercise.Code, length.Number),
	quo func(exercise.Code, length.Number, length.Number)) {
	d := it.Instrument.Spec().Main.Division
	switch kind := it.Instrument.Kind(); {
	case kind == instrument.None:
		return
	case it.Instrument.HasFiner():
		quo("ratio-upside-down", v(lcFiner), v(lcFine))
	case kind == instrument.Vernier:
		d = v(lcMain)
		quo("ratio-upside-down", v(lcCount), d)
	case kind == instrument.Dial:
		quo("ratio-upside-down", v(lcCount).Mul(v(lcZeros)), v(lcPitch))
	default:
		quo("ratio-upside-down", v(lcCount), v(lcPitch))
	}
	add("division-as-least-count", d)
	if it.Instrument.Kind() == instrument.Vernier || it.Instrument.HasFiner() {
		add("division-as-least-count", v(lcFine))
	}
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
