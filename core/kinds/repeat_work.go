package kinds

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/survey"
)

// Figures are the instrument at every reading.
func (it *Repeat) Figures() []exercise.Figure {
	var out []exercise.Figure
	for g, readings := range it.Readings {
		for i, y := range readings {
			out = append(out, exercise.Figure{Name: cell(g, i), Instrument: it.Instrument, At: y,
				Caption: fmt.Sprintf("%s, reading %d", it.Groups[g], i+1)})
		}
	}
	return out
}

// Facts stand beside the figure.
func (it *Repeat) Facts() exercise.Facts {
	f := exercise.Facts{About: about(it.Instrument), Task: "Read it at every place, as often as the table asks."}
	if it.Instrument.Spec().ZeroError.Sign() != 0 {
		f.Given = []string{closedFact(it.Instrument)}
		if it.each() {
			f.Task = "Read it at every place; correct each reading as you write it."
		}
	}
	f.School = strings.Join(it.place().School(nil, false), "; ")
	return f
}

// Lines are a table of the readings with the mean and range of each group, then what is asked over all.
func (it *Repeat) Lines() []exercise.Line {
	right, err := it.truth()
	asked := func(name string) bool { return slices.Contains(it.Ask, name) }
	var out []exercise.Line
	for g, readings := range it.Readings {
		line := exercise.Line{Row: true, Head: it.Groups[g]}
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
	mean := exercise.Term{Word: fieldMean}
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
	v := slips.Sight{Place: it.place()}
	text := ""
	for _, eq := range work {
		text += fmt.Sprintf("%s = %s. ", eq.Left, eq.Right)
	}
	return []exercise.Hint{{Text: strings.TrimSpace(v.Where() + " " + v.FindLine())},
		{
			Text: "The mean is the sum of the readings divided by their number; the range is the largest less the smallest.",
		}, {Text: text, Worked: true}}, nil
}

// work is the arithmetic over all readings.
func (it *Repeat) work() ([]exercise.Equation, error) {
	right, err := it.truth()
	if err != nil {
		return nil, err
	}
	all := survey.All(right)
	write := func(x length.Number) string { return exercise.Show(it.Instrument.FormatBy(x, it.Method.Between)) }
	unit := " " + string(it.Instrument.Unit())
	mean := it.target(fieldMean, all)
	s := all.Sorted()
	out := []exercise.Equation{{Left: fmt.Sprintf("%s ÷ %d", write(all.Sum()), len(all)),
		Right: exercise.Show(mean.Text()) + unit},
		{Left: write(s[len(s)-1]) + " − " + exercise.Bracket(it.Instrument.FormatBy(s[0], it.Method.Between)),
			Right: write(all.Range()) + unit}}
	if e := it.Instrument.Spec().ZeroError; !it.each() && slices.Contains(it.Ask, slips.Corrected) {
		out = append(out, exercise.Equation{Left: exercise.Show(mean.Text()) + " − " +
			exercise.Bracket(it.Instrument.Format(e)),
			Right: exercise.Show(exercise.Rounded{Is: all.Mean().Sub(e), Places: it.places()}.Text()) + unit})
	}
	return out, nil
}

// Explain puts an answer in words, and points at the reading that went wrong.
func (it *Repeat) Explain(a exercise.Answer, voice exercise.Voice) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{}
	if e.Work, err = it.work(); err != nil {
		return e, err
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (string, []string) {
		return it.explain(&e, f, m, voice)
	}}.tell(&e)
	return e, nil
}

// explain puts the first wrong field in words. Of a reading it is told like any reading, on its figure.
func (it *Repeat) explain(e *exercise.Explanation, f exercise.Field, m exercise.Mark, voice exercise.Voice) (string,
	[]string) {
	if rest, reading := strings.CutPrefix(f.Name, "r."); reading {
		g, i := cellOf(rest)
		solutions, err := it.place().Solutions(it.Readings[g][i], nil)
		if err == nil {
			v := solutions[0].Look(it.step(), m.Value)
			e.Figure, e.Shown = f.Name, []exercise.Pointing{v.Pointing(f.Name)}
			says := voice.Account(m.Slips, Did, v.Advice)
			if says == nil {
				says = []string{v.Stands()}
			}
			return wrote(f, m), says
		}
	}
	says := voice.Account(m.Slips, Did, func(c exercise.Code) string { return repeatAdvice[c] })
	if says == nil {
		says = []string{"Go through the sum again, reading by reading."}
	}
	return wrote(f, m), append(fromOwn(f, m), says...)
}
