package kinds

import (
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
)

// The slips of the mean of two opposite plates, in the order in which they are named.
const (
	meanOfOne    exercise.Code = "mean-of-one"
	halfTurnKept exercise.Code = "half-turn-kept"
)

var oppositeSlips = []exercise.Slip{{Code: meanOfOne}, {Code: halfTurnKept}}

var (
	halfCircle = length.Int(180)
	oneHalf    = length.Frac(1, 2)
)

// onB returns how the opposite plate is read.
func (r *Reading) onB() (*slips.Solution, error) {
	p, _ := r.placeOf(slips.Observed + slips.PlateB)
	p.Closed = false
	all, err := p.Solutions(r.atB(), nil)
	if err != nil {
		return nil, err
	}
	return all[0], nil
}

// judgeOpposite judges what is read on the opposite plate, and the mean of both.
func (r *Reading) judgeOpposite(w *exercise.Working, a *slips.Solution) {
	b, err := r.onB()
	if err != nil {
		return // a circle shows every angle
	}
	p, _ := r.placeOf(slips.Observed + slips.PlateB)
	p.Closed = false
	c := slips.NewCauses(p, b, w)
	v := func(step string) length.Number { return w.Value(step + slips.PlateB) }
	for _, step := range []string{slips.Main, slips.FineLine, slips.Observed} {
		want := b.Target(step, b.Step(step))
		follows := want
		if step == slips.Observed {
			x := v(slips.Main).Add(v(slips.FineLine).Mul(w.Value(slips.LeastCount)))
			follows = p.Exactly(step, p.Bring(step, x))
			if !w.Can(slips.Main+slips.PlateB, slips.FineLine+slips.PlateB, slips.LeastCount) {
				follows = nil
			}
		}
		w.Judge(step+slips.PlateB, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
			return c.Of(step, due.Value(), e)
		})
	}
	mean := func(a, b length.Number) exercise.Target {
		return r.place().Exactly(slips.Mean, r.Instrument.Mean(a, b))
	}
	ownA, ownB := w.Value(slips.Observed), v(slips.Observed)
	follows := mean(ownA, ownB)
	if !w.Can(slips.Observed, slips.Observed+slips.PlateB) {
		follows = nil
	}
	w.Judge(slips.Mean, mean(a.Observed, b.Observed), follows,
		func(due exercise.Target, e *exercise.Entry) []exercise.Code {
			return r.meanCauses(ownA, ownB, due.Value()).named(e)
		})
}

// meanCauses predicts the wrong means of what two plates read.
func (r *Reading) meanCauses(a, b, mean length.Number) causes {
	value := func(x length.Number) exercise.Target {
		return r.place().Exactly(slips.Mean, r.Instrument.Around(x))
	}
	out := causes{{meanOfOne, value(a)}, {meanOfOne, value(b.Sub(halfCircle))},
		{halfTurnKept, value(a.Add(b).Mul(oneHalf))}}
	return append(out, dmsCauses(r.Instrument, mean, r.Instrument.Turn())...)
}

// foretellOpposite predicts the wrong entries of a step on the opposite plate, and of the mean.
func (r *Reading) foretellOpposite(step string,
	of func(s *slips.Solution, step string) []exercise.Prediction) []exercise.Prediction {
	b, err := r.onB()
	if err != nil {
		return nil
	}
	if step != slips.Mean {
		_, plain := r.placeOf(step)
		out := of(b, plain)
		for i := range out {
			out[i].Field = step
		}
		return out
	}
	all, err := r.solutions()
	if err != nil {
		return nil
	}
	x, y := all[0].Observed, b.Observed
	return r.meanCauses(x, y, r.Instrument.Mean(x, y)).predictions(step)
}
