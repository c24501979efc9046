package handbook

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

// Example is an instrument that a page works with. Its methods give what is to be printed, as texts.
type Example struct {
	in     *instrument.Instrument
	method exercise.Method
	said   *text.Printer
}

// newExample reads an instrument as a page's head names it: a pattern's name, then "zero" with a zero error and keys of
// a method with their choices, each behind a comma.
func newExample(pattern string, said *text.Printer) (*Example, error) {
	var spec *instrument.Spec
	for _, p := range instrument.Patterns() {
		if rest, found := strings.CutPrefix(pattern, p.Name); found && (spec == nil || len(p.Name) > len(spec.Name)) &&
			(rest == "" || strings.HasPrefix(rest, ", ")) {
			spec = &p
		}
	}
	if spec == nil {
		return nil, fmt.Errorf("%q is no pattern", pattern)
	}
	e := &Example{said: said}
	for _, more := range strings.Split(strings.TrimPrefix(pattern, spec.Name), ", ")[1:] {
		key, value, _ := strings.Cut(more, " ")
		if key == "zero" {
			zero, err := length.Parse(value)
			if err != nil {
				return nil, err
			}
			spec.ZeroError = zero
			continue
		}
		i := slices.IndexFunc(exercise.MethodSettings, func(s exercise.MethodSetting) bool { return s.Field == key })
		if i < 0 {
			return nil, fmt.Errorf("%q is no setting", key)
		}
		if err := exercise.MethodSettings[i].Set(&e.method, value); err != nil {
			return nil, err
		}
	}
	spec.Name = said.Print(instrument.PatternTitle(spec.Name))
	var err error
	e.in, err = instrument.New(*spec)
	return e, err
}

func (e *Example) length(x length.Number) string {
	return e.number(e.in.Unit().With(e.in.FormatMain(x)))
}

// number writes a number or calculation in the reader's manner.
func (e *Example) number(s string) string { return e.said.Math(text.Math(s)) }

// Made says how its scales are made.
func (e *Example) Made() string { return e.said.Print(e.in.Describe()) }

// Unit is the unit of its scales.
func (e *Example) Unit() string { return string(e.in.Unit()) }

// LeastCount, Division, Turn, Cycle, LineWorth, PlateDivision, Range, Base and Zero are its lengths, with the unit.
func (e *Example) LeastCount() string    { return e.length(e.in.LeastCount()) }
func (e *Example) Division() string      { return e.length(e.in.Spec().Main.Division) }
func (e *Example) Turn() string          { return e.length(e.in.Spec().Fine.Travel) }
func (e *Example) Cycle() string         { return e.length(e.in.ScaleInterval()) }
func (e *Example) LineWorth() string     { return e.length(e.in.LineWorth()) }
func (e *Example) PlateDivision() string { return e.length(e.in.PlateDivision()) }
func (e *Example) Base() string          { return e.length(e.in.Spec().Base) }
func (e *Example) Zero() string {
	return e.number(e.in.Format(e.in.Spec().ZeroError) + " " + e.Unit())
}

// Lines, Spans and FinerLines are its numbers of divisions.
func (e *Example) Lines() int      { return e.in.Spec().Fine.Divisions }
func (e *Example) Spans() int      { return e.in.Spec().Fine.MainDivisions }
func (e *Example) FinerLines() int { return e.in.FinerLines() }

// NumberEvery and NumberStep tell how its fine scale is numbered: how many lines apart, and by how much each number
// grows.
func (e *Example) NumberEvery() int { return e.in.Spec().Fine.NumberEvery }
func (e *Example) NumberStep() int  { return e.in.Spec().Fine.NumberStep }

// Derivation works the least count out, a step each.
func (e *Example) Derivation() []string {
	var out []string
	for _, step := range e.in.Derivation() {
		out = append(out, e.said.Print(step))
	}
	return out
}

// ZeroStory says what it shows closed.
func (e *Example) ZeroStory() string { return e.said.Print(e.in.ZeroStory()) }

// FromEnd and SignedMain are the two ways to count its zero error, as equations.
func (e *Example) FromEnd() string    { return e.closing("from-end") }
func (e *Example) SignedMain() string { return e.closing("signed-main") }

func (e *Example) closing(way string) string {
	place := slips.Place{Instrument: e.in, Method: exercise.Method{NegativeZero: way, ZeroTerm: e.method.ZeroTerm},
		Closed: true}
	solutions, err := place.Solutions(e.in.Closed(), nil)
	if err != nil {
		return ""
	}
	return e.equation(solutions[0].View("", length.Number{}).Closing())
}

func (e *Example) equation(eq exercise.Equation) string {
	return e.said.Print(eq.Left) + " = " + e.said.Print(eq.Right)
}

// Turns are a screw's main readings before and after so many whole turns, how far it moved, and its travel in a turn.
func (e *Example) Turns(from string, turns int) (t Turned, err error) {
	before, err := length.Parse(from)
	travel := e.in.Spec().Fine.Travel
	after := before.Add(travel.MulInt(turns))
	return Turned{e.length(before), e.length(after), e.length(travel.MulInt(turns)),
		e.number(fmt.Sprintf("%s ÷ %d = %s %s", e.in.FormatMain(travel.MulInt(turns)), turns, e.in.FormatMain(travel),
			e.Unit()))}, err
}

// Turned returns the travel of a number of whole turns of a screw.
type Turned struct{ Before, After, Moved, Pitch string }

// At reads it at a value that it indicates.
func (e *Example) At(y string) (Worked, error) {
	at, err := length.Parse(y)
	if err != nil {
		return Worked{}, err
	}
	place := slips.Place{Instrument: e.in, Method: e.method}
	solutions, err := place.Solutions(at, nil)
	if err != nil {
		return Worked{}, err
	}
	return Worked{e, at, solutions[0]}, nil
}

// Worked is an example read at a value.
type Worked struct {
	e  *Example
	at length.Number
	s  *slips.Solution
}

func (w Worked) sight() slips.View { return w.s.View("", length.Number{}) }

func (w Worked) text(step string) string {
	written := slips.Place{Instrument: w.e.in, Method: w.e.method}.Text(step, w.s.Step(step))
	if !slips.IsLine(step) {
		written += " " + w.e.Unit()
	}
	return w.e.number(written)
}

// Main, Line, Fine, FinerLine, Finer, Observed and Corrected are the steps of the reading; lengths have their unit.
func (w Worked) Main() string      { return w.text(slips.Main) }
func (w Worked) Line() string      { return w.text(slips.FineLine) }
func (w Worked) Fine() string      { return w.text(slips.Fine) }
func (w Worked) FinerLine() string { return w.text(slips.FinerLine) }
func (w Worked) Finer() string     { return w.text(slips.Finer) }
func (w Worked) Observed() string  { return w.text(slips.Observed) }
func (w Worked) Corrected() string { return w.text(slips.Corrected) }

// ZeroTerm is the zero error or the correction, whichever the school records, with its sign.
func (w Worked) ZeroTerm() string { return w.text(slips.ZeroError) }

// Sum and Correcting are the arithmetic, as equations.
func (w Worked) Sum() string {
	eq, adds := w.sight().Sum()
	if !adds {
		return w.Observed()
	}
	return w.e.equation(eq)
}

// Correcting takes the zero error away.
func (w Worked) Correcting() string { return w.e.equation(w.sight().Correcting()) }

// Mark and Coincides say which mark and which line count, and why.
func (w Worked) Mark() string      { return w.e.said.Print(w.sight().MarkStands()) }
func (w Worked) Coincides() string { return w.e.said.Print(w.sight().LineStands()) }

// Neighbours says how the lines beside the one that counts stand.
func (w Worked) Neighbours() string { return w.e.said.Print(w.sight().Advice(slips.NeighbourLine)) }

// Opposite is the main mark opposite the coinciding line of a plate.
func (w Worked) Opposite() string { return w.e.length(w.e.in.Opposite(w.s.Shown)) }

// DrumMet is the number of the drum line that the vernier's line meets.
func (w Worked) DrumMet() int { return w.e.in.DrumMet(w.s.Shown) }

// Wrong returns the wrong value of a step that a slip gives here.
func (w Worked) Wrong(step, slip string) (string, error) {
	for _, p := range append(w.s.Predictions(step), w.s.Misreadings(step)...) {
		if p.Code == exercise.Code(slip) {
			return w.e.number(slips.Place{Instrument: w.e.in, Method: w.e.method}.Text(step, p.Value)), nil
		}
	}
	return "", fmt.Errorf("%s cannot be made at %s", slip, w.at)
}

// Displayed returns the number on a display that was zeroed at another value.
func (w Worked) Displayed(from string) (string, error) {
	y, err := length.Parse(from)
	return w.e.number(w.e.in.Format(w.e.in.Displayed(w.at, y)) + " " + w.e.Unit()), err
}

// In returns the number on a display that is switched to another unit.
func (w Worked) In(unit string) (string, error) {
	other, err := w.e.in.InUnit(length.Unit(unit))
	if err != nil {
		return "", err
	}
	at := length.Convert(w.at, w.e.in.Unit(), length.Unit(unit))
	return w.e.number(other.Format(other.Displayed(at, length.Number{})) + " " + unit), nil
}
