package kinds

import (
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/survey"
)

// Mark marks an answer: readings by the read table, what is worked out of them by the student's own.
func (it *Repeat) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	right, own := make([]survey.Values, len(it.Readings)), make([]survey.Values, len(it.Readings))
	for g, readings := range it.Readings {
		for i, y := range readings {
			x, err := it.judgeReading(w, cell(g, i), y)
			if err != nil {
				return exercise.Result{}, err
			}
			right[g], own[g] = append(right[g], x), append(own[g], w.Value(cell(g, i)))
		}
	}
	for _, name := range it.all() {
		if !strings.HasPrefix(name, "r.") {
			it.judgeWorked(w, name, right, own)
		}
	}
	return w.Result(), nil
}

// judgeReading judges one reading and returns the right one.
func (it *Repeat) judgeReading(w *exercise.Working, name string, y length.Number) (length.Number, error) {
	solutions, err := it.place().Solutions(y, nil)
	if err != nil {
		return length.Number{}, err
	}
	step := it.step()
	x := solutions[0].Step(step)
	want := solutions[0].Target(step, x)
	if len(solutions) > 1 {
		other := solutions[1].Step(step)
		want = exercise.With{Target: want, Also: exercise.Exactly{Is: other, Near: it.near()}}
	}
	w.Judge(name, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		return it.place().Names(step, y, e.Value)
	})
	return x, nil
}

func (it *Repeat) near() length.Number { return it.Instrument.LeastCount().Mul(halfCount) }

// judgeWorked judges what is worked out of the readings. Nothing follows where one of them is empty.
func (it *Repeat) judgeWorked(w *exercise.Working, name string, right, own []survey.Values) {
	of, needs := it.over(name)
	from := func(all []survey.Values) survey.Values { return survey.All(all[of : of+len(needs)]) }
	var cells []string
	for g := range needs {
		for i := range it.Readings[of+g] {
			cells = append(cells, cell(of+g, i))
		}
	}
	if name == slips.Corrected {
		it.judgeCorrected(w, from(right))
		return
	}
	var want, follows exercise.Target
	if name == fieldOdd {
		want, follows = it.odd(right), it.odd(own)
	} else {
		want, follows = it.target(name, from(right)), it.target(name, from(own))
	}
	if !w.Can(cells...) {
		follows = nil
	}
	mine := from(own)
	if follows == nil {
		mine = from(right)
	}
	w.Judge(name, want, follows, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		return it.causes(name, mine).named(e)
	})
}

// over tells which groups a field is worked out of: from the first, and as many as the list is long.
func (it *Repeat) over(name string) (first int, groups []survey.Values) {
	if _, g, one := strings.Cut(name, "."); one {
		n, _ := strconv.Atoi(g)
		return n - 1, make([]survey.Values, 1)
	}
	return 0, make([]survey.Values, len(it.Readings))
}

// rounded is the target of a value that is rounded, with as many places as the readings or more.
func (it *Repeat) rounded(x length.Number) exercise.Rounded {
	return exercise.Rounded{Is: x, Places: it.places(), Part: it.part(), Near: it.near()}
}

// root is the target of the root of a value, likewise.
func (it *Repeat) root(square length.Number) exercise.Root {
	return exercise.Root{Square: square, Places: it.places(), Part: it.part(), Near: it.near()}
}

// target returns the target of an entry that is computed from readings.
func (it *Repeat) target(name string, ns survey.Values) exercise.Target {
	part, _, _ := strings.Cut(name, ".")
	switch part {
	case fieldMean:
		return it.rounded(ns.Mean())
	case fieldMedian:
		return it.rounded(ns.Median())
	case fieldS:
		return it.root(survey.Over(ns.Squares(), max(1, len(ns)-1)))
	}
	x := ns.Range()
	return exercise.Exactly{Is: x, Written: it.place().Text(slips.Observed, x), Near: it.near()}
}

// judgeCorrected judges the corrected mean: from the true readings, and from the own mean as it is written.
func (it *Repeat) judgeCorrected(w *exercise.Working, right survey.Values) {
	e0 := it.Instrument.Spec().ZeroError
	at := func(x length.Number) exercise.Rounded {
		return it.rounded(x.Sub(e0))
	}
	want, own := at(right.Mean()), at(w.Value(fieldMean))
	var follows exercise.Target = own
	if !w.Can(fieldMean) {
		follows = nil
	}
	w.Judge(slips.Corrected, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
		t := due.Value()
		if e0.Sign() == 0 {
			return []exercise.Code{}
		}
		to := func(x length.Number) exercise.Target {
			return it.rounded(x)
		}
		return causes{{slips.ZeroNotApplied, to(t.Add(e0))}, {slips.ZeroSignFlipped, to(t.Add(e0).Add(e0))},
			{slips.ZeroAppliedTwice, to(t.Sub(e0))}}.named(e)
	})
}

// odd is met by each group whose mean lies furthest from the mean of the others; by none where all are equal.
func (it *Repeat) odd(groups []survey.Values) exercise.Target {
	furthest := []string{}
	for _, g := range survey.Furthest(groups) {
		furthest = append(furthest, it.Groups[g])
	}
	if len(furthest) == 0 {
		furthest = append(furthest, optionNone)
	}
	return exercise.Option{Written: furthest[0], Also: furthest[1:]}
}

// causes are the slips of what is worked out of readings, made from the student's own.
func (it *Repeat) causes(name string, ns survey.Values) causes {
	to := func(x length.Number) exercise.Target { return it.rounded(x) }
	exact := func(x length.Number) exercise.Target { return plainly(x, it.near()) }
	part, _, _ := strings.Cut(name, ".")
	n := len(ns)
	switch part {
	case fieldMean:
		out := causes{{"mean-cut", exercise.Cut{Rounded: it.rounded(ns.Mean())}},
			{"wrong-count", to(survey.Over(ns.Sum(), n+1))}}
		if n > 1 {
			out = append(out, cause{"wrong-count", to(survey.Over(ns.Sum(), n-1))})
			for _, x := range ns {
				out = append(out, cause{"reading-left-out", to(survey.Over(ns.Sum().Sub(x), n-1))})
			}
		}
		return out
	case fieldMedian:
		return causes{{"mean-cut", exercise.Cut{Rounded: it.rounded(ns.Median())}}}
	case fieldRange:
		return causes{{"largest-as-range", exact(ns.Sorted()[n-1])}, {"range-sign", exact(ns.Range().Neg())}}
	case fieldS:
		return causes{{"s-over-n", it.root(survey.Over(ns.Squares(), n))}}
	}
	return nil
}

// truth are the right readings.
func (it *Repeat) truth() ([]survey.Values, error) {
	out := make([]survey.Values, len(it.Readings))
	for g, readings := range it.Readings {
		for _, y := range readings {
			solutions, err := it.place().Solutions(y, nil)
			if err != nil {
				return nil, err
			}
			out[g] = append(out[g], solutions[0].Step(it.step()))
		}
	}
	return out, nil
}

// Predictions are those of the asked fields.
func (it *Repeat) Predictions() ([]exercise.Prediction, error) {
	right, err := it.truth()
	if err != nil {
		return nil, err
	}
	var out []exercise.Prediction
	for _, name := range it.Ask {
		if _, rest, reading := strings.Cut(name, "r."); reading && strings.HasPrefix(name, "r.") {
			g, i := cellOf(rest)
			solutions, err := it.place().Solutions(it.Readings[g][i], nil)
			if err != nil {
				return nil, err
			}
			for _, p := range solutions[0].Predictions(it.step()) {
				p.Field = name
				out = append(out, p)
			}
			continue
		}
		of, groups := it.over(name)
		if name != slips.Corrected && name != fieldOdd {
			out = append(out, it.causes(name,
				survey.All(right[of:of+len(groups)])).predictions(name)...)
		}
	}
	return out, nil
}

// cellOf reads the group and the reading of a cell's name behind its "r.", from 0.
func cellOf(rest string) (g, i int) {
	a, b, _ := strings.Cut(rest, ".")
	g, _ = strconv.Atoi(a)
	i, _ = strconv.Atoi(b)
	return g - 1, i - 1
}
