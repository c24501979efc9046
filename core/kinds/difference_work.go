package kinds

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
)

// Figures are the instrument at every position, and each plate of a circle by itself.
func (it *Difference) Figures() []exercise.Figure {
	var out []exercise.Figure
	plates := it.plates()
	for i := range it.Indicated {
		for j, p := range plates {
			nth := strings.TrimSpace(fmt.Sprint(i+1, " ", strings.ToUpper(strings.TrimPrefix(p.suffix, "."))))
			f := exercise.Figure{Name: p.reading(i), Instrument: p.in, At: p.at[i],
				Caption: it.field(p.reading(i)).Label, Group: text.New("difference.readings"),
				InGroup: text.Numbers(text.Math(nth))}
			if j > 0 {
				f.Beside = plates[0].reading(i)
			}
			out = append(out, f)
		}
	}
	return out
}

// Facts stand beside the figure.
func (it *Difference) Facts() exercise.Facts {
	f := exercise.Facts{About: about(it.Instrument), Convention: text.Steps(it.place(it.plates()[0]).Convention(nil,
		false)...)}
	unit := it.Instrument.Unit()
	task := it.Wants
	switch {
	case it.Half:
		task = "prism-" + it.Direction
	case it.Wants == wantsTurned:
		task = "turned-" + it.Direction
	case it.Wants == wantsDeviation && it.Instrument.Spec().Fine.Anticlockwise:
		task = "deviation-anticlockwise"
	case it.Wants == wantsDeviation:
		task = "deviation-clockwise"
	}
	f.Task = text.New("difference.task." + task)
	if it.Standard != nil {
		size := text.Math(it.Standard.String())
		f.Given = append(f.Given, text.New("difference.standard", "size", size, "unit", unit))
	}
	if it.Legs != nil {
		f.Given = append(f.Given, text.New("difference.legs", "legs", text.Math(it.Legs.String()), "unit", unit))
	}
	return f
}

// Lines are the readings, then an equation for each thing that follows from them.
func (it *Difference) Lines() []exercise.Line {
	var out []exercise.Line
	asked := func(name string) bool { return slices.Contains(it.Ask, name) }
	known := func(name string) exercise.Term {
		if asked(name) {
			return exercise.Term{Echo: name}
		}
		return exercise.Term{Word: it.field(name).Label}
	}
	for _, name := range it.all() {
		if strings.HasPrefix(name, "reading.") && asked(name) {
			out = append(out, lineOf(box(name)))
		}
	}
	plates := it.plates()
	for _, p := range plates {
		if !asked(p.difference) {
			continue
		}
		if it.Wants == wantsRunout {
			out = append(out, lineOf(box(p.difference)))
			continue
		}
		a, b := known(p.reading(1)), known(p.reading(0))
		if it.signed([]length.Number{length.Int(0), length.Int(1)}).Sign() < 0 {
			a, b = b, a
		}
		if it.Wants == wantsLength || it.Wants == wantsSagitta || it.Instrument.Turn().Sign() > 0 {
			// the larger less the smaller, or over 0: no equation as it stands
			out = append(out, lineOf(box(p.difference)))
			continue
		}
		out = append(out, lineOf(a, op("−"), b, op("="), box(p.difference)))
	}
	from := plates[0].difference
	if len(plates) > 1 {
		from = slips.Mean
		if asked(from) {
			out = append(out, lineOf(op("("), known(fieldDifferenceA), op("+"), known(fieldDifferenceB), op(")"),
				op("÷"), given("2"), op("="), box(from)))
		}
	}
	switch {
	case asked(fieldHalf):
		out = append(out, lineOf(known(from), op("÷"), given("2"), op("="), box(fieldHalf)))
	case asked(fieldSize):
		out = append(out, lineOf(given(it.Standard.String()), op("+"), op("("), known(from), op(")"), op("="),
			box(fieldSize)))
	case asked(fieldRadius):
		out = append(out, lineOf(box(fieldRadius)))
	}
	return out
}

// work is the arithmetic from the readings on.
func (it *Difference) work() ([]exercise.Equation, error) {
	readings, moved, err := it.truths()
	if err != nil {
		return nil, err
	}
	write := func(x length.Number) string { return it.exactly(x).Text() }
	unit := it.Instrument.Unit()
	var out []exercise.Equation
	for k, own := range readings {
		low, high := bounds(own)
		a, b := high, low
		if it.Wants == wantsTurned || it.Wants == wantsDeviation {
			a, b = own[1], own[0]
			if it.signed([]length.Number{length.Int(0), length.Int(1)}).Sign() < 0 {
				a, b = b, a
			}
		}
		left := write(a) + " − " + exercise.Bracket(write(b))
		if it.Instrument.Turn().Sign() > 0 && a.Less(b) {
			left += " + " + unit.With(it.Instrument.Turn().String())
		}
		out = append(out, exercise.Sum(left, unit.With(write(moved[k]))))
	}
	last := moved[0]
	if len(moved) > 1 {
		last = moved[0].Add(moved[1]).Mul(oneHalf)
		out = append(out, exercise.Sum("("+write(moved[0])+" + "+write(moved[1])+") ÷ 2", unit.With(write(last))))
	}
	switch {
	case it.Half:
		out = append(out, exercise.Sum(write(last)+" ÷ 2", unit.With(write(last.Mul(oneHalf)))))
	case it.Wants == wantsDeviation:
		size := it.sized(it.Standard.Add(last)).Text()
		out = append(out, exercise.Sum(it.Standard.String()+" + "+exercise.Bracket(write(last)), unit.With(size)))
	case it.Wants == wantsSagitta:
		h := write(last)
		out = append(out, exercise.Sum(it.Legs.String()+"² ÷ (6 × "+h+") + "+h+" ÷ 2",
			unit.With(it.radius(last.Abs()).Text())))
	}
	return out, nil
}

// Hints lead from how to read over what to do with the readings to the whole working.
func (it *Difference) Hints() ([]exercise.Hint, error) {
	work, err := it.work()
	if err != nil {
		return nil, err
	}
	v := slips.View{Place: it.place(it.plates()[0])}
	return []exercise.Hint{{Text: text.Run(v.Where(), v.FindLine())}, {Text: it.rule()},
		{Text: worked(work), Worked: true}}, nil
}

// rule says what is done with the readings.
func (it *Difference) rule() text.Text {
	rule := it.Wants
	if it.Wants == wantsTurned && it.Instrument.Turn().Sign() > 0 {
		rule = "circle-" + it.Direction
	} else if it.Wants == wantsTurned {
		rule = "turned-" + it.Direction
	}
	return text.New("difference.rule." + rule)
}

// Explain puts an answer in words, and points at the reading that went wrong.
func (it *Difference) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	return explained(it, a, wording)
}

// explain puts the first wrong field in words. Of a reading it is told like any reading, on its figure.
func (it *Difference) explain(e *exercise.Explanation, f exercise.Field, m exercise.Mark,
	wording exercise.Wording) (text.Text, []text.Text) {
	for _, p := range it.plates() {
		for i, y := range p.at {
			if p.reading(i) != f.Name {
				continue
			}
			solutions, err := it.place(p).Solutions(y, nil)
			if err != nil {
				break
			}
			v := solutions[0].View(slips.Observed, m.Value)
			e.Figure, e.Shown = f.Name, []exercise.Pointing{v.Pointing(f.Name)}
			says := wording.Account(m.Slips, v.Advice)
			if says == nil {
				says = []text.Text{v.Stands()}
			}
			return wrote(f, m), says
		}
	}
	says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
		return text.New("difference.advice." + string(c))
	})
	if says == nil {
		says = []text.Text{it.rule()}
	}
	return wrote(f, m), append(fromOwn(f, m), says...)
}
