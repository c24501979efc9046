package kinds

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
)

// Facts stand beside the figure. How the scales are made is for the student to find.
func (it *LeastCount) Facts() exercise.Facts {
	f := exercise.Facts{About: []text.Text{text.Typed(it.Instrument.Name()),
		text.New("least-count.in", "unit", units(it.Instrument.Unit()))}, Task: text.New("least-count.facts.task")}
	if it.From == fromTurns {
		f.Given = []text.Text{text.New("least-count.facts", "turns", it.Turns)}
	}
	if it.Method.UnitRequired() {
		f.Convention = text.New("here.unit")
	}
	return f
}

// Figures are the closed instrument, or a screw before and after its turns.
func (it *LeastCount) Figures() []exercise.Figure {
	in := it.drawn()
	if it.From == fromTurns {
		base := in.Spec().Base
		return []exercise.Figure{{Name: "before", Instrument: in, At: base.Add(*it.Before),
			Caption: text.New("least-count.before")}, {Name: "after", Instrument: in, At: base.Add(*it.After),
			Caption: text.New("least-count.figures.caption", "turns", it.Turns)}}
	}
	return []exercise.Figure{{Name: figureClosed, Instrument: in, At: in.Closed(), Caption: text.Word("closed")}}
}

// Lines lays the fields out in the equations by which they are found.
func (it *LeastCount) Lines() []exercise.Line {
	l := lcLaying{it: it}
	if it.From == fromTurns {
		l.equation(instrument.TravelOfTurn, l.term(lcMoved), op("÷"), given(fmt.Sprint(it.Turns)))
	}
	for _, r := range it.finding().Relations {
		if r.Written == nil {
			l.alone(r.Is)
			continue
		}
		var left []exercise.Term
		for _, written := range r.Written {
			switch {
			case slices.Contains([]string{"×", "÷", "−"}, written):
				left = append(left, op(written))
			case slices.ContainsFunc(lcFields, func(f lcField) bool { return f.name == written }):
				left = append(left, l.term(written))
			default:
				left = append(left, given(written))
			}
		}
		l.equation(r.Is, left...)
	}
	return l.out
}

// lcLaying lays out the equations; a field that has had its box is echoed where it comes again.
type lcLaying struct {
	it  *LeastCount
	had []string
	out []exercise.Line
}

// term is a field where an equation needs it.
func (l *lcLaying) term(name string) exercise.Term {
	switch {
	case slices.Contains(l.had, name):
		return exercise.Term{Echo: name}
	case slices.Contains(l.it.Ask, name):
		l.had = append(l.had, name)
		return box(name)
	}
	for _, f := range lcFields {
		if f.name == name {
			return exercise.Term{Word: f.label()}
		}
	}
	return exercise.Term{}
}

func (l *lcLaying) alone(name string) {
	if slices.Contains(l.it.Ask, name) {
		l.out = append(l.out, lineOf(l.term(name)))
	}
}

// equation adds terms = name, unless nothing of it is asked.
func (l *lcLaying) equation(name string, terms ...exercise.Term) {
	terms = append(terms, op("="), l.term(name))
	if slices.ContainsFunc(terms, func(t exercise.Term) bool { return t.Box != "" }) {
		l.out = append(l.out, lineOf(terms...))
	}
}

// Hints lead from what to count over the first step to the whole working.
func (it *LeastCount) Hints() ([]exercise.Hint, error) {
	d := it.Instrument.Derivation()
	hints := []exercise.Hint{{Text: it.finding().Hint}}
	if len(d) > 1 {
		hints = append(hints, exercise.Hint{Text: text.New("sight.derivation", "steps", d[0]), Shown: it.shown()})
	}
	return append(hints, exercise.Hint{Text: text.New("sight.derivation", "steps", text.Steps(d...)), Shown: it.shown(),
		Worked: true}), nil
}

// shown points at the end of a plate and at the mark opposite.
func (it *LeastCount) shown() []exercise.Pointing {
	in := it.drawn()
	if !in.Traits().HasEdge || in.Form().Retrograde {
		return nil
	}
	end := in.Closed().Sub(in.Spec().Base).Add(in.Spec().Main.Division.MulInt(in.Spec().Fine.MainDivisions))
	return []exercise.Pointing{{Figure: figureClosed, Mark: end, MarkText: text.New("least-count.flag-mark", "mark",
		in.Spec().Fine.MainDivisions), Line: in.Lines(),
		LineText: text.New("flag.line", "line", in.Lines()), Look: in.Lines()}}
}

// Explain puts an answer in words.
func (it *LeastCount) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Shown: it.shown()}
	for _, line := range it.Instrument.Derivation() {
		e.Work = append(e.Work, exercise.Equation{Left: line})
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
			switch {
			case c == slips.PlaceShift && strings.Contains(m.Expected, "/"): // there is no decimal point in it
				return text.New("least-count.tenfold." + sizeOf(m))
			case c == slips.PlaceShift:
				return text.New("slips.point-moved.seen-tenfold-" + sizeOf(m))
			case c == slips.UnitTenfold:
				return text.New("slips.unit-tenfold.seen-" + sizeOf(m))
			case c == slips.UnitInch:
				return text.New("slips.unit-inch.seen", "unit", it.Instrument.Unit())
			}
			return text.New("slips." + string(c) + ".seen")
		})
		if says == nil {
			says = []text.Text{text.New("sight.compare")}
		}
		return wrote(f, m), append(fromOwn(f, m), says...)
	}}.tell(&e)
	return e, nil
}

// sizeOf says whether an entry is larger or smaller than what was expected.
func sizeOf(m exercise.Mark) string {
	expected, err := length.ReadAny(m.Expected)
	if err == nil && expected.Value.Abs().Less(m.Value.Abs()) {
		return "large"
	}
	return "small"
}
