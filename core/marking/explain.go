package marking

import (
	"fmt"
	"strings"

	"cavix/core/length"
)

// Explanation says in words what an answer came to, and where on the figure to look.
type Explanation struct {
	Headline string     // what happened, in one sentence
	Body     []string   // how to see it, and one piece of advice
	Work     []Equation // the arithmetic, in the class's school

	Step      Step           // the first step that went wrong; "" when none did
	Mark      length.Number  // the main mark that counts
	Line      int            // the line that coincides
	TakenMark *length.Number // the main mark that was taken instead, if one was
	TakenLine *int           // the line that was taken instead, if one was
}

// Equation is one line of working: what is computed, and what it comes to.
type Equation struct{ Left, Right string }

// Name returns the term for a step, as the class uses it.
func (m Method) Name(s Step) string {
	switch s {
	case LeastCount:
		return "least count"
	case Main:
		return "main reading"
	case FineLine:
		return "line"
	case Fine:
		return "fine reading"
	case Observed:
		return "observed reading"
	case ZeroError:
		if m.correction() {
			return "zero correction"
		}
		return "zero error"
	}
	return "corrected reading"
}

// Label returns the term for a step without the word reading, as it stands over a box.
func (m Method) Label(s Step) string { return strings.TrimSuffix(m.Name(s), " reading") }

// Show puts a typographic minus for a hyphen, as numbers are printed for reading.
func Show(s string) string { return strings.ReplaceAll(s, "-", "−") }

// bracket puts a number with a minus in brackets, as it stands after an operator.
func bracket(s string) string {
	if strings.HasPrefix(s, "-") {
		return "(" + Show(s) + ")"
	}
	return s
}

// Work returns the arithmetic of the card in the class's school.
func (c *Card) Work(s Solution) []Equation {
	in, r := c.Instrument, s.shown
	unit := " " + string(in.Unit())
	count := in.FormatMain(in.LeastCount())
	var out []Equation
	if c.Asks(LeastCount) {
		d := in.Spec().Main
		out = append(out, Equation{fmt.Sprintf("%s ÷ %d", d.Written(), in.Spec().Fine.Divisions), count + unit})
	}
	if !c.Closed {
		parts := []string{in.FormatMain(r.Main)}
		if r.Base.Sign() != 0 {
			parts = []string{in.FormatMain(r.Base), bracket(in.FormatMain(r.Main))}
		}
		fine := fmt.Sprintf("%d × %s", r.Line, count)
		if c.Method.Route == "direct" {
			fine = in.Format(r.Fine)
		}
		parts = append(parts, fine)
		out = append(out, Equation{strings.Join(parts, " + "), Show(in.Format(r.Observed)) + unit})
	}
	if c.Closed || c.Asks(ZeroError) {
		out = append(out, c.zeroWork())
	}
	if c.Asks(Corrected) {
		if c.Method.correction() {
			out = append(out, Equation{Show(in.Format(r.Observed)) + " + " + bracket(in.Format(r.ZeroError.Neg())), Show(in.Format(r.Corrected)) + unit})
		} else {
			out = append(out, Equation{Show(in.Format(r.Observed)) + " − " + bracket(in.Format(r.ZeroError)), Show(in.Format(r.Corrected)) + unit})
		}
	}
	return out
}

// zeroWork is the arithmetic of the closed instrument.
func (c *Card) zeroWork() Equation {
	in := c.Instrument
	eq := Equation{Left: in.ZeroWork(c.Method.NegativeZero == "signed-main")}
	if c.Method.correction() {
		eq.Left = "−(" + eq.Left + ")"
		eq.Right = Show(in.Format(in.Spec().ZeroError.Neg()))
	} else {
		eq.Right = Show(in.Format(in.Spec().ZeroError))
	}
	eq.Right += " " + string(in.Unit())
	return eq
}

// Explain puts a result in words: what is right so far, the first step that went wrong, how the two
// differ to the eye, and one sentence of advice.
func (c *Card) Explain(r Result) Explanation {
	s := r.Solution
	e := Explanation{Work: c.Work(s), Mark: s.shown.Main, Line: s.shown.Line}
	c.taken(&r, &e)
	in := c.Instrument
	unit := " " + string(in.Unit())
	var first *StepResult
	rightSoFar := []string{}
	missing := []string{}
	forms := []string{}
	for i := range r.Steps {
		st := &r.Steps[i]
		switch {
		case st.Outcome == Wrong && first == nil:
			first = st
		case st.Outcome == Missing:
			missing = append(missing, c.Method.Name(st.Step))
		case st.Outcome == Form:
			forms = append(forms, c.formText(*st))
		case st.Outcome == Right && first == nil:
			rightSoFar = append(rightSoFar, c.Method.Name(st.Step))
		}
	}
	last := r.Steps[len(r.Steps)-1]
	switch {
	case first != nil:
		e.Step = first.Step
		e.Headline, e.Body = c.explainStep(r, *first)
		if len(rightSoFar) > 0 {
			e.Body = append([]string{"Right so far: " + strings.Join(rightSoFar, ", ") + "."}, e.Body...)
		}
	case len(missing) > 0:
		e.Headline = "Left empty: " + strings.Join(missing, ", ") + "."
		e.Body = []string{"What you filled in is right. The working stands beside."}
	case len(forms) > 0:
		e.Headline = "The values are right; the way of writing is not."
	default:
		e.Headline = fmt.Sprintf("Right: the %s is %s.", c.Method.Name(last.Step), Show(last.Expected)+unitOf(last.Step, unit))
	}
	if len(forms) > 0 {
		e.Body = append(e.Body, strings.Join(forms, " "))
	}
	return e
}

func unitOf(s Step, unit string) string {
	if s == FineLine {
		return ""
	}
	return unit
}

// taken notes the mark or line that was taken instead of the right one, for the figure to show.
func (c *Card) taken(r *Result, e *Explanation) {
	if st, ok := r.Step(Main); ok && st.Outcome == Wrong {
		m, v := c.Instrument.Spec().Main, st.Value
		if v.Quo(m.Division).IsInt() && m.From.Cmp(v) <= 0 && v.Cmp(m.To) <= 0 {
			e.TakenMark = &v
		}
	}
	if st, ok := r.Step(FineLine); ok && st.Outcome == Wrong {
		n := c.Instrument.Spec().Fine.Divisions
		if k, whole := st.Value.Int64(); whole && k >= 0 && k <= int64(n) {
			line := int(k)
			if r.Solution.FromEnd {
				line = n - line
			}
			e.TakenLine = &line
		}
	}
}

// formText says what is wrong with the form of an entry.
func (c *Card) formText(st StepResult) string {
	name := c.Method.Name(st.Step)
	var says []string
	for _, f := range st.Faults {
		switch f {
		case WrongDecimals:
			places, _ := c.Instrument.Decimals()
			switch {
			case st.Step == FineLine:
				says = append(says, "a line is a whole number")
			case places == 0:
				says = append(says, "this instrument reads whole numbers")
			case places == 1:
				says = append(says, "keep the instrument's one decimal place, even when it is 0")
			default:
				says = append(says, fmt.Sprintf("keep the instrument's %d decimal places, even when they are 0", places))
			}
		case NoUnit:
			says = append(says, "write the unit with it")
		case NoSign:
			says = append(says, "write its sign, plus too")
		}
	}
	return fmt.Sprintf("Your %s is worth half: %s.", name, strings.Join(says, ", and "))
}

// explainStep puts the first wrong step in words.
func (c *Card) explainStep(r Result, st StepResult) (string, []string) {
	in, s := c.Instrument, r.Solution
	name := c.Method.Name(st.Step)
	unit := unitOf(st.Step, " "+string(in.Unit()))
	given := strings.TrimSpace(Show(st.Given))
	want := Show(st.Expected)
	if st.Follows != "" {
		want = Show(st.Follows)
	}
	headline := fmt.Sprintf("You wrote %s for the %s; it is %s%s.", given, name, want, unit)
	var body []string
	switch st.Step {
	case FineLine:
		headline = fmt.Sprintf("Line %d stands opposite a mark; you wrote %s.", s.shown.Line, given)
	case Main:
		headline = fmt.Sprintf("The plate's 0 stands %s the %s mark; you wrote %s.", past(s.shown.Line), Show(in.FormatMain(s.shown.Main))+unit, given)
	}
	if st.Follows != "" && st.Follows != st.Expected {
		body = append(body, fmt.Sprintf("From your own earlier entries it would be %s%s.", want, unit))
	}
	if len(st.Slips) == 0 {
		return headline, append(body, c.look(st.Step, s))
	}
	code := st.Slips[0]
	if strings.Contains(string(code), "+") {
		return headline, append(body, "Two slips together give just this value: you "+code.Did()+".")
	}
	body = append(body, c.advice(code, st, s))
	var others []string
	for _, o := range st.Slips[1:] {
		others = append(others, o.Did())
	}
	if len(others) > 0 {
		body = append(body, "The same value would come out if you "+strings.Join(others, ", or ")+".")
	}
	return headline, body
}

// past says how the plate's 0 stands to the mark that counts.
func past(line int) string {
	if line == 0 {
		return "exactly on"
	}
	return "past"
}

// look says where to look for a step whose wrong value no slip explains.
func (c *Card) look(step Step, s Solution) string {
	switch step {
	case Main:
		return "Count to the last main mark at or before the plate's 0 line."
	case FineLine:
		return c.neighbours(s.shown.Line)
	case Fine:
		return "The fine reading is the line's number times the least count."
	case ZeroError:
		return "Close the instrument and read it like any reading: the plate's 0 against the main 0, then the line that coincides."
	case LeastCount:
		return fmt.Sprintf("Divide one main division by the number of plate divisions: %d.", c.Instrument.Spec().Fine.Divisions)
	}
	return "Go through the working line by line."
}

// neighbours says how the lines beside the coinciding one stand. On a direct plate both lean towards
// it, on a retrograde one away from it; either way the next line stands left of its own mark.
func (c *Card) neighbours(k int) string {
	n := c.Instrument.Spec().Fine.Divisions
	leans := "inwards"
	if c.Instrument.Form().Retrograde {
		leans = "outwards"
	}
	switch k {
	case 0:
		return fmt.Sprintf("The plate's 0 stands exactly on a mark, so line %d meets one too; line 0 is the one that counts.", n)
	case n - 1:
		return fmt.Sprintf("Under the lens line %d stands a little to the right of its mark; line %d meets one exactly. The neighbours lean %s.", k-1, k, leans)
	}
	return fmt.Sprintf("Under the lens line %d stands a little to the left of its mark and line %d a little to the right of its own; between them line %d meets one exactly. The neighbours lean %s.", k+1, k-1, k, leans)
}

// advice says for one slip how the right value is seen.
func (c *Card) advice(code Code, st StepResult, s Solution) string {
	in, r := c.Instrument, s.shown
	count := in.FormatMain(in.LeastCount())
	n := in.Spec().Fine.Divisions
	switch code {
	case LastLineCounted:
		return fmt.Sprintf("The plate's 0 stands exactly on a mark, so line 0 and line %d both coincide. Line 0 counts: the fine reading is 0, not %d × %s.", n, n, count)
	case MainNextMark:
		return "That is the mark after the plate's 0. The last mark at or before the 0 line counts; what lies past it is the fine reading."
	case MainMarkMissed:
		return "That is one mark too few. The last mark at or before the plate's 0 line counts."
	case MainAtCoincidence:
		return fmt.Sprintf("That is the mark opposite the coinciding line %d. The main scale is read at the plate's 0 line; the coinciding line gives the fine reading only.", r.Line)
	case MainAtPlateEdge:
		return "That is the mark at the plate's edge. The edge is only where the metal ends: read at the plate's 0 line, which stands further in."
	case ZeroCountedForward:
		return fmt.Sprintf("Closed, the plate's 0 stands left of the main 0: the instrument shows less than nothing, so the zero error is negative. Count the coinciding line back from line %d.", n)
	case BaseLeftOut:
		return fmt.Sprintf("The scale's 0 stands for %s %s on this instrument; add it.", in.FormatMain(r.Base), in.Unit())
	case FineLeftOut:
		return "That is the main reading only; the fine reading is still to be added."
	case LabelTakenAsLine:
		f := in.Spec().Fine
		return fmt.Sprintf("The numbers on this plate grow by %d every %d lines: they do not count lines. Count the lines themselves.", f.NumberStep, f.NumberEvery)
	case LineNotMultiplied:
		return fmt.Sprintf("The number of the line is not yet a length: one line is worth %s %s.", count, in.Unit())
	case PlaceShift:
		return fmt.Sprintf("The fine reading stands one decimal place off: %d × %s = %s.", r.Line, count, in.Format(r.Fine))
	case ZeroNotApplied:
		if c.Method.correction() {
			return "The zero correction is left out: corrected = observed + correction."
		}
		return "The zero error is left out: corrected = observed − zero error."
	case ZeroSignFlipped:
		if st.Step == ZeroError {
			if r.ZeroError.Sign() < 0 {
				return "Closed, the plate's 0 stands left of the main 0: the instrument shows less than nothing, so the zero error is negative."
			}
			return "Closed, the plate's 0 stands right of the main 0: the instrument shows more than nothing, so the zero error is positive."
		}
		if c.Method.correction() {
			return "The correction is added with its own sign."
		}
		return "The zero error is taken away with its sign: taking away a negative one adds it."
	case NeighbourLine:
		if st.Step == ZeroError {
			return "Your value lies one line off. Keep your eye square over the line: from one side the next line seems to coincide (parallax)."
		}
		return c.neighbours(r.Line) + " Keep your eye square over the line: from one side the next one seems to meet (parallax)."
	case UnitTenfold:
		return "Your value is ten times too large or too small: mind centimetres and millimetres."
	case UnitInch:
		return "Your value fits when inches are taken for millimetres, or the other way round."
	case DigitsSwapped:
		return "Two neighbouring digits have changed places."
	case InventedLine:
		return fmt.Sprintf("This instrument shows whole steps of %s %s; a value between two of them does not exist on it.", count, in.Unit())
	case SumSlip:
		if st.Step == Corrected && st.Value.Equal(r.Observed.Add(r.ZeroError)) && !c.Method.correction() {
			return "The parts are right, but the zero error was added. It is taken away with its sign: taking away a negative one adds it."
		}
		return "The parts are right; go over the sum."
	}
	return "You " + code.Did() + "."
}
