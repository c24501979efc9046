package kinds

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
)

// amount is met by a value, and by it with a minus, which is right in value alone: what is wanted has no sign.
type amount struct{ exercise.Exactly }

func (t amount) Meets(e *exercise.Entry) (length.Number, bool) {
	return t.Is, e.Is(t.Is, t.Near) || e.Is(t.Is.Neg(), t.Near)
}

// Faults says that an amount was written with a minus.
func (t amount) Faults(e *exercise.Entry) []exercise.FormFault {
	if e.Value.Sign() < 0 {
		return []exercise.FormFault{exercise.Negative}
	}
	return nil
}

// radiusTarget is met by a radius rounded to its places, or rightly to more.
type radiusTarget struct{ exercise.Rounded }

func (t radiusTarget) Text() string { return t.Is.Text(t.Places) }

// Mark marks an answer: readings by the read table, what follows by the student's own.
func (it *Difference) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	plates := it.plates()
	right := make([][]length.Number, len(plates))
	for i := range it.Indicated {
		for k, p := range plates {
			x, err := it.judgeReading(w, p, i)
			if err != nil {
				return exercise.Result{}, err
			}
			right[k] = append(right[k], x)
		}
	}
	truth := make([]length.Number, len(plates))
	for k, p := range plates {
		var own []length.Number
		var names []string
		for i := range it.Indicated {
			names, own = append(names, p.reading(i)), append(own, w.Value(p.reading(i)))
		}
		truth[k] = it.moved(right[k])
		it.judge(w, p.difference, it.target(truth[k]), it.target(it.moved(own)), w.Can(names...),
			func(due length.Number) causes { return it.differenceCauses(p, own, due) })
	}
	last := truth[0]
	last = it.judgeMean(w, plates, truth, last)
	it.judgeLast(w, plates, last)
	return w.Result(), nil
}

// judge judges what follows from earlier fields, where it can.
func (it *Difference) judge(w *exercise.Working, name string, want, follows exercise.Target, can bool,
	tells func(due length.Number) causes) {
	if !can {
		follows = nil
	}
	w.Judge(name, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
		return tells(due.Value()).named(e)
	})
}

// judgeReading judges one reading and returns the right one.
func (it *Difference) judgeReading(w *exercise.Working, p plate, i int) (length.Number, error) {
	place := it.place(p)
	solutions, err := place.Solutions(p.at[i], nil)
	if err != nil {
		return length.Number{}, err
	}
	x := solutions[0].Observed
	want := solutions[0].Target(slips.Observed, x)
	if len(solutions) > 1 {
		want = exercise.With{Target: want, Also: exercise.Exactly{Is: solutions[1].Observed, Near: it.near()}}
	}
	w.Judge(p.reading(i), want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		return place.Names(slips.Observed, p.at[i], e.Value)
	})
	return x, nil
}

func (it *Difference) near() length.Number { return it.Instrument.LeastCount().Mul(halfCount) }

// signed returns the second reading less the first, or the other way round where the numbers fall.
func (it *Difference) signed(readings []length.Number) length.Number {
	off := readings[1].Sub(readings[0])
	if it.Direction == falling || it.Wants == wantsDeviation && it.Instrument.Spec().Fine.Anticlockwise {
		return off.Neg()
	}
	return off
}

// moved returns how far the scale has moved by its readings.
func (it *Difference) moved(readings []length.Number) length.Number {
	switch it.Wants {
	case wantsTurned:
		return it.Instrument.Around(it.signed(readings))
	case wantsDeviation:
		return it.signed(readings)
	case wantsRunout:
		low, high := bounds(readings)
		return high.Sub(low)
	}
	return it.signed(readings).Abs()
}

// bounds returns the smallest and the largest of readings.
func bounds(readings []length.Number) (low, high length.Number) {
	low, high = readings[0], readings[0]
	for _, x := range readings {
		if x.Less(low) {
			low = x
		}
		if high.Less(x) {
			high = x
		}
	}
	return low, high
}

// target returns the target of a difference.
func (it *Difference) target(x length.Number) exercise.Target {
	exact := it.exactly(x)
	if is, plain := exact.(exercise.Exactly); plain && it.Wants != wantsTurned && it.Wants != wantsDeviation {
		return amount{is}
	}
	return exact
}

// exactly is met by a value as the instrument writes it; a turn is not compared around a circle.
func (it *Difference) exactly(x length.Number) exercise.Target {
	p := it.place(it.plates()[0])
	exact := exercise.Exactly{Is: x, Written: p.Text(slips.Observed, x), Near: it.near()}
	if _, decimal := it.Instrument.Decimals(); decimal || it.Instrument.Unit().Angular() {
		return exact
	}
	return exercise.Fraction{Exactly: exact, Strict: it.Method.Strict()}
}

// differenceCauses predicts the wrong differences of own readings.
func (it *Difference) differenceCauses(p plate, own []length.Number, due length.Number) (out causes) {
	add := func(code exercise.Code, all ...length.Number) {
		for _, x := range all {
			out = append(out, cause{code, plainly(x, it.near())})
		}
	}
	around := it.Instrument.Around
	low, high := bounds(own)
	if it.Wants == wantsRunout {
		add(addedInstead, high.Add(low))
	} else {
		add(secondAlone, own[1])
		add(addedInstead, around(own[0].Add(own[1])))
	}
	if raw := it.signed(own); it.Instrument.Turn().Sign() > 0 && raw.Sign() < 0 {
		add(wrapMissed, raw.Abs(), raw)
	}
	if it.Wants == wantsDeviation || it.Wants == wantsTurned {
		add(orderSwapped, due.Neg())
		if turn := it.Instrument.Turn(); turn.Sign() > 0 {
			add(orderSwapped, turn.Sub(due))
		}
	}
	if e := p.in.ZeroError(); e.Sign() != 0 {
		add(zeroApplied, around(due.Sub(e)), around(due.Add(e)))
	}
	if it.Wants == wantsRunout {
		add(oneSideOnly, high, low.Abs())
		add(halfRunout, due.Mul(oneHalf))
	}
	if it.Instrument.PartBy("") != 0 {
		add(slips.MinutesAsHundredths, slips.Hundredths(due)...)
		both := []length.Number{hundredths(own[0]), hundredths(own[1])}
		add(slips.MinutesAsHundredths, around(it.signed(both)))
	}
	return out
}

// hundredths returns an angle with its minutes written as hundredths of a degree; whole degrees stay.
func hundredths(x length.Number) length.Number {
	if all := slips.Hundredths(x); len(all) > 0 {
		return all[0]
	}
	return x
}

// judgeMean judges the mean of what two plates have turned, and returns the right value of what was found so far.
func (it *Difference) judgeMean(w *exercise.Working, plates []plate, truth []length.Number,
	last length.Number) length.Number {
	if len(plates) < 2 {
		return last
	}
	mean := func(a, b length.Number) length.Number { return a.Add(b).Mul(oneHalf) }
	a, b := w.Value(fieldDifferenceA), w.Value(fieldDifferenceB)
	last = mean(truth[0], truth[1])
	it.judge(w, slips.Mean, it.exactly(last), it.exactly(mean(a, b)), w.Can(fieldDifferenceA, fieldDifferenceB),
		func(due length.Number) (out causes) {
			if !a.Equal(b) {
				out = causes{{meanOfOne, plainly(a, it.near())}, {meanOfOne, plainly(b, it.near())}}
			}
			return append(out, it.hundredthsOf(due)...)
		})
	return last
}

// hundredthsOf predicts an angle whose minutes are written as hundredths.
func (it *Difference) hundredthsOf(x length.Number) (out causes) {
	if it.Instrument.PartBy("") == 0 {
		return nil
	}
	for _, h := range slips.Hundredths(x) {
		out = append(out, cause{slips.MinutesAsHundredths, plainly(h, it.near())})
	}
	return out
}

// judgeLast judges what is found from the difference: half of a turn, a size, a radius.
func (it *Difference) judgeLast(w *exercise.Working, plates []plate, truth length.Number) {
	from := plates[0].difference
	if len(plates) > 1 {
		from = slips.Mean
	}
	own, can := w.Value(from), w.Can(from)
	switch {
	case it.Half:
		half := func(x length.Number) exercise.Target { return it.exactly(x.Mul(oneHalf)) }
		it.judge(w, fieldHalf, half(truth), half(own), can, func(due length.Number) causes {
			return append(causes{{notHalved, plainly(own, it.near())}}, it.hundredthsOf(due)...)
		})
	case it.Wants == wantsDeviation:
		size := func(x length.Number) exercise.Target { return it.sized(it.Standard.Add(x)) }
		it.judge(w, fieldSize, size(truth), size(own), can, func(length.Number) (out causes) {
			out = causes{{standardLeftOut, plainly(own, it.near())}}
			if own.Sign() < 0 {
				out = append(out, cause{signLost, plainly(it.Standard.Add(own.Abs()), it.near())})
			}
			return append(out, cause{signSwapped, plainly(it.Standard.Sub(own), it.near())})
		})
	case it.Wants == wantsSagitta:
		h := own.Abs()
		var follows exercise.Target
		if can && h.Sign() != 0 {
			follows = it.radius(h)
		}
		it.judge(w, fieldRadius, it.radius(truth.Abs()), follows, follows != nil, func(length.Number) causes {
			if h.Sign() == 0 {
				return nil
			}
			return it.radiusCauses(h)
		})
	}
}

// sized is met by a size, written with the decimals of the instrument or the standard.
func (it *Difference) sized(x length.Number) exercise.Target {
	exact := it.exactly(x)
	is, plain := exact.(exercise.Exactly)
	places, decimal := it.Instrument.Decimals()
	if p, finite := it.Standard.Decimals(); plain && decimal && finite {
		is.Written = x.Text(max(p, places))
		if it.Instrument.Tenths(it.Method.Between) {
			is.Written = x.Text(max(p, places+1))
		}
		return is
	}
	return exact
}

// parts of the radius of a curved face by the height h between legs: legs²/(6h) and h/2 (from the chord of a circle
// through three legs at equal distances).
func (it *Difference) radiusParts(h length.Number) (long, half length.Number) {
	return it.Legs.Mul(*it.Legs).Quo(h.MulInt(6)), h.Mul(oneHalf)
}

func (it *Difference) radius(h length.Number) exercise.Target {
	long, half := it.radiusParts(h)
	return radiusTarget{exercise.Rounded{Is: long.Add(half), Places: it.places(), Near: it.near()}}
}

func (it *Difference) radiusCauses(h length.Number) causes {
	long, half := it.radiusParts(h)
	to := func(x length.Number) exercise.Target { return exercise.Rounded{Is: x, Near: it.near()} }
	r := long.Add(half)
	return causes{{legsNotSquared, to(it.Legs.Quo(h.MulInt(6)).Add(half))}, {halfHLeftOut, to(long)},
		{diameterForRadius, to(r.MulInt(2))}, {diameterForRadius, plainly(r.Round(it.places()).MulInt(2), it.near())}}
}

// truths returns the right readings of each plate, and what each has moved.
func (it *Difference) truths() (readings [][]length.Number, moved []length.Number, err error) {
	for _, p := range it.plates() {
		var own []length.Number
		for _, y := range p.at {
			solutions, err := it.place(p).Solutions(y, nil)
			if err != nil {
				return nil, nil, err
			}
			own = append(own, solutions[0].Observed)
		}
		readings, moved = append(readings, own), append(moved, it.moved(own))
	}
	return readings, moved, nil
}

// Predictions are those of the asked fields.
func (it *Difference) Predictions() ([]exercise.Prediction, error) {
	readings, moved, err := it.truths()
	if err != nil {
		return nil, err
	}
	var out []exercise.Prediction
	plates := it.plates()
	last := moved[0]
	if len(plates) > 1 {
		last = moved[0].Add(moved[1]).Mul(oneHalf)
	}
	for _, name := range it.Ask {
		switch {
		case strings.HasPrefix(name, "reading."):
			for k, p := range plates {
				for i, y := range p.at {
					if p.reading(i) != name {
						continue
					}
					solutions, err := it.place(plates[k]).Solutions(y, nil)
					if err != nil {
						return nil, err
					}
					for _, tells := range solutions[0].Predictions(slips.Observed) {
						tells.Field = name
						out = append(out, tells)
					}
				}
			}
		case name == fieldHalf:
			out = append(out, append(causes{{notHalved, plainly(last, it.near())}},
				it.hundredthsOf(last.Mul(oneHalf))...).predictions(name)...)
		case name == fieldSize:
			out = append(out, causes{{standardLeftOut, plainly(last, it.near())},
				{signSwapped, plainly(it.Standard.Sub(last), it.near())}}.predictions(name)...)
		case name == fieldRadius:
			out = append(out, it.radiusCauses(last.Abs()).predictions(name)...)
		case name != slips.Mean:
			for k, p := range plates {
				if p.difference == name {
					out = append(out, it.differenceCauses(p, readings[k], moved[k]).predictions(name)...)
				}
			}
		}
	}
	return out, nil
}
