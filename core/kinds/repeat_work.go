package kinds

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/survey"
	"cavix/core/text"
)

// Figures are the instrument at every reading.
func (it *Repeat) Figures() []exercise.Figure {
	var out []exercise.Figure
	for g, readings := range it.Readings {
		for i, y := range readings {
			out = append(out, exercise.Figure{Name: cell(g, i), Instrument: it.Instrument, At: y,
				Caption: text.New("repeat.caption", "group", it.group(g), "n", i+1), Group: it.group(g),
				InGroup: text.Numbers(text.Math(fmt.Sprint(i + 1)))})
		}
	}
	return out
}

// Facts stand beside the figure.
func (it *Repeat) Facts() exercise.Facts {
	f := exercise.Facts{About: about(it.Instrument), Task: text.New("repeat.facts.task")}
	if it.Instrument.Spec().ZeroError.Sign() != 0 {
		f.Given = []text.Text{closedFact(it.Instrument)}
		if it.each() {
			f.Task = text.New("repeat.facts")
		}
	}
	f.Convention = text.Steps(it.place().Convention(nil, false)...)
	return f
}

// Lines are a table of the readings with the mean and range of each group, then what is asked over all.
func (it *Repeat) Lines() []exercise.Line {
	right, err := it.truth()
	asked := func(name string) bool { return slices.Contains(it.Ask, name) }
	var out []exercise.Line
	for g, readings := range it.Readings {
		line := exercise.Line{Row: true, Head: it.group(g)}
		for i := range readings {
			switch {
			case asked(cell(g, i)):
				line.Terms = append(line.Terms, box(cell(g, i)))
			case err == nil:
				line.Terms = append(line.Terms, given(it.place().Text(slips.Observed, right[g][i])))
			}
		}
		for _, name := range []string{ofGroup(fieldMean, g), ofGroup(fieldRange, g)} {
			if asked(name) {
				line.Terms = append(line.Terms, box(name))
			}
		}
		out = append(out, line)
	}
	mean := exercise.Term{Word: text.New("repeat.mean")}
	if asked(fieldMean) {
		mean = exercise.Term{Echo: fieldMean}
	}
	for _, name := range []string{fieldMean, fieldMedian, fieldRange, fieldS, fieldOdd} {
		if asked(name) {
			out = append(out, lineOf(box(name)))
		}
	}
	if asked(slips.Corrected) {
		zero := it.Instrument.Format(it.Instrument.Spec().ZeroError)
		out = append(out, lineOf(mean, op("−"), op("("), given(zero), op(")"), op("="), box(slips.Corrected)))
	}
	return out
}

// Hints lead from how to read over the sums to the whole working.
func (it *Repeat) Hints() ([]exercise.Hint, error) {
	work, err := it.work()
	if err != nil {
		return nil, err
	}
	v := slips.View{Place: it.place()}
	return []exercise.Hint{{Text: text.Run(v.Where(), v.FindLine())}, {Text: text.New("repeat.rule")},
		{Text: worked(work), Worked: true}}, nil
}

// work is the arithmetic over all readings.
func (it *Repeat) work() ([]exercise.Equation, error) {
	right, err := it.truth()
	if err != nil {
		return nil, err
	}
	all := survey.All(right)
	write := func(x length.Number) string { return it.Instrument.FormatBy(x, it.Method.Between) }
	with := it.Instrument.Unit().With
	mean := it.target(fieldMean, all)
	s := all.Sorted()
	out := []exercise.Equation{exercise.Sum(fmt.Sprintf("%s ÷ %d", write(all.Sum()), len(all)), with(mean.Text())),
		exercise.Sum(write(s[len(s)-1])+" − "+exercise.Bracket(write(s[0])), with(write(all.Range())))}
	if e := it.Instrument.Spec().ZeroError; !it.each() && slices.Contains(it.Ask, slips.Corrected) {
		out = append(out, exercise.Sum(mean.Text()+" − "+exercise.Bracket(it.Instrument.Format(e)),
			with(it.rounded(all.Mean().Sub(e)).Text())))
	}
	return out, nil
}

// Explain puts an answer in words, and points at the reading that went wrong.
func (it *Repeat) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	return explained(it, a, wording)
}

// explain puts the first wrong field in words. Of a reading it is told like any reading, on its figure.
func (it *Repeat) explain(e *exercise.Explanation, f exercise.Field, m exercise.Mark,
	wording exercise.Wording) (text.Text, []text.Text) {
	if rest, reading := strings.CutPrefix(f.Name, "r."); reading {
		g, i := cellOf(rest)
		solutions, err := it.place().Solutions(it.Readings[g][i], nil)
		if err == nil {
			v := solutions[0].View(it.step(), m.Value)
			e.Figure, e.Shown = f.Name, []exercise.Pointing{v.Pointing(f.Name)}
			says := wording.Account(m.Slips, v.Advice)
			if says == nil {
				says = []text.Text{v.Stands()}
			}
			return wrote(f, m), says
		}
	}
	says := wording.Account(m.Slips, func(c exercise.Code) text.Text { return text.New("repeat.advice-" + string(c)) })
	if says == nil {
		says = []text.Text{text.New("repeat.explain")}
	}
	return wrote(f, m), append(fromOwn(f, m), says...)
}
