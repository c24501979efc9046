package marking

import (
	"fmt"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
)

// Explanation says in words what an answer came to, and where on the figure to look.
type Explanation struct {
	Headline string     // what happened, in one sentence
	Body     []string   // how to see it, and one piece of advice
	Work     []Equation // the arithmetic, in the class's school

	Step      Step          // the first step that went wrong; "" when none did
	Mark      length.Number // the main mark that counts
	Line      int           // the line that coincides, or stands at the index
	FinerLine int           // the line of the finer scale that coincides

	TakenMark  *length.Number // the main mark that was taken instead, if one was
	TakenLine  *int           // the line that was taken instead, if one was
	TakenFiner *int           // the finer line that was taken instead, if one was
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
	case FinerLine:
		return "vernier line"
	case Finer:
		return "vernier reading"
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
	write := func(x length.Number) string { return in.FormatBy(x, c.Method.Between) }
	unit := " " + string(in.Unit())
	var out []Equation
	if c.Asks(LeastCount) {
		out = append(out, c.countWork())
	}
	if !c.Closed && in.Kind() != instrument.Display {
		var parts []string
		if r.Base.Sign() != 0 {
			parts = append(parts, in.FormatMain(r.Base))
		}
		parts = append(parts, bracket(in.FormatMain(r.Main)))
		if len(parts) == 1 {
			parts[0] = Show(in.FormatMain(r.Main))
		}
		if in.HasFine() {
			fine := c.Text(FineLine, r.LineNumber()) + " × " + in.FormatMain(in.LineWorth())
			if c.Method.Route == "direct" {
				fine = write(r.Fine)
			}
			parts = append(parts, fine)
		} else if r.Fine.Sign() != 0 {
			parts = append(parts, write(r.Fine)) // an estimated tenth
		}
		if in.HasFiner() {
			parts = append(parts, fmt.Sprintf("%d × %s", r.FinerLine, in.FormatMain(in.LeastCount())))
		}
		if len(parts) > 1 {
			out = append(out, Equation{strings.Join(parts, " + "), Show(write(r.Observed)) + unit})
		}
	}
	if c.Closed || c.Asks(ZeroError) {
		out = append(out, c.zeroWork())
	}
	if c.Asks(Corrected) {
		sign, term := " − ", r.ZeroError
		if c.Method.correction() {
			sign, term = " + ", r.ZeroError.Neg()
		}
		out = append(out, Equation{Show(write(r.Observed)) + sign + bracket(write(term)), Show(write(r.Corrected)) + unit})
	}
	if out == nil {
		out = []Equation{{"reads", Show(write(r.Observed)) + unit}}
	}
	return out
}

// countWork is the least count from what is drawn.
func (c *Card) countWork() Equation {
	in := c.Instrument
	eq := Equation{Right: in.FormatMain(in.LeastCount()) + " " + string(in.Unit())}
	switch in.Kind() {
	case instrument.Drum, instrument.Dial:
		eq.Left = fmt.Sprintf("%s ÷ %d", in.FormatMain(in.Cycle()), in.Lines())
		if in.HasFiner() {
			eq.Left += fmt.Sprintf(" ÷ %d", in.FinerLines())
		}
	case instrument.Vernier:
		eq.Left = fmt.Sprintf("%s ÷ %d", in.Spec().Main.Written(), in.Lines())
	case instrument.Display:
		eq.Left = "one step of the last digit"
	default:
		eq.Left = "one division"
	}
	return eq
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
func (c *Card) Explain(r Result) Explanation { return c.ExplainTo(r, History{}, nil) }

// ExplainTo is Explain for a student with a history of slips, in an instructor's own words.
func (c *Card) ExplainTo(r Result, h History, w Wordings) Explanation {
	s := r.Solution
	e := Explanation{Work: c.Work(s), Mark: s.shown.Main, Line: s.shown.Line, FinerLine: s.shown.FinerLine}
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
		e.Headline, e.Body = c.explainStep(r, *first, h, w)
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
	if s.isLine() {
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
		n := c.Instrument.Lines()
		if k, whole := st.Value.Int64(); whole && k >= 0 && k <= int64(n) {
			line := int(k)
			if r.Solution.FromEnd {
				line = n - line
			}
			e.TakenLine = &line
		}
	}
	if st, ok := r.Step(FinerLine); ok && st.Outcome == Wrong {
		if k, whole := st.Value.Int64(); whole && k >= 0 && k <= int64(c.Instrument.FinerLines()) {
			line := int(k)
			e.TakenFiner = &line
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
			places, _ := c.places(st.Step)
			switch {
			case st.Step.isLine() && places == 1:
				says = append(says, "estimate one tenth, as 24.3")
			case st.Step.isLine():
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
func (c *Card) explainStep(r Result, st StepResult, h History, w Wordings) (string, []string) {
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
		headline = fmt.Sprintf("%s; you wrote %s.", c.lineStands(s), given)
	case FinerLine:
		headline = fmt.Sprintf("Line %d of the vernier coincides with a drum line; you wrote %s.", s.shown.FinerLine, given)
	case Main:
		headline = fmt.Sprintf("%s; you wrote %s.", c.markStands(s, unit), given)
	}
	if st.Follows != "" && st.Follows != st.Expected {
		body = append(body, fmt.Sprintf("From your own earlier entries it would be %s%s.", want, unit))
	}
	codes, because := h.likelier(w.Named(st.Slips))
	if len(codes) == 0 {
		return headline, append(body, c.look(st.Step, s))
	}
	code := codes[0]
	if strings.Contains(string(code), "+") {
		return headline, append(body, "Two slips together give just this value: you "+code.Did()+".")
	}
	advice := c.advice(code, st, s)
	if own := w[code].Advice; own != "" {
		advice = own
	}
	body = append(body, strings.TrimSpace(advice+" "+w[code].Note))
	if because != "" {
		body = append(body, because)
	}
	var others []string
	for _, o := range codes[1:] {
		others = append(others, o.Did())
	}
	if len(others) > 0 {
		body = append(body, "The same value would come out if you "+strings.Join(others, ", or ")+".")
	}
	return headline, body
}

// lineStands says which line counts and why.
func (c *Card) lineStands(s Solution) string {
	line := c.Text(FineLine, s.shown.LineNumber())
	switch c.Instrument.Kind() {
	case instrument.Drum:
		if c.Instrument.HasFiner() {
			return fmt.Sprintf("Line %s is the last drum line passed at the index", line)
		}
		return fmt.Sprintf("Line %s of the drum stands at the index", line)
	case instrument.Dial:
		return fmt.Sprintf("The pointer stands at line %s", line)
	}
	return fmt.Sprintf("Line %s stands opposite a mark", line)
}

// markStands says which main mark counts and why.
func (c *Card) markStands(s Solution, unit string) string {
	in, r := c.Instrument, s.shown
	mark := Show(in.FormatMain(r.Main)) + unit
	switch in.Kind() {
	case instrument.Drum:
		if in.Spec().Main.Reverse {
			return fmt.Sprintf("The last mark hidden under the drum is %s", mark)
		}
		return fmt.Sprintf("The last mark clear of the drum's edge is %s", mark)
	case instrument.Dial:
		return fmt.Sprintf("The slide's edge has passed %s", mark)
	case instrument.Vernier:
		if r.Line == 0 {
			return fmt.Sprintf("The plate's 0 stands exactly on the %s mark", mark)
		}
		return fmt.Sprintf("The plate's 0 stands past the %s mark", mark)
	}
	return fmt.Sprintf("It stands at the %s mark", mark)
}

// where says where the main scale is read.
func (c *Card) where() string {
	switch c.Instrument.Kind() {
	case instrument.Drum:
		if c.Instrument.Spec().Main.Reverse {
			return "The last mark hidden under the drum counts: count back from the numbers still in sight."
		}
		return "The last mark clear of the drum's edge counts, half marks included."
	case instrument.Dial:
		return "The beam is read at the slide's edge: the last mark clear of it. What lies past it the pointer tells."
	case instrument.Vernier:
		return "The last mark at or before the plate's 0 line counts; what lies past it is the fine reading."
	}
	return "Take the mark it stands at."
}

// look says where to look for a step whose wrong value no slip explains.
func (c *Card) look(step Step, s Solution) string {
	in := c.Instrument
	switch step {
	case Main:
		return c.where()
	case FineLine:
		if in.Kind() == instrument.Vernier {
			return c.neighbours(s.shown.Line)
		}
		return c.lineStands(s) + "."
	case FinerLine:
		return "Of the vernier's lines just one stands exactly opposite a drum line; its own number counts."
	case Fine:
		return fmt.Sprintf("The fine reading is the line's number times %s.", in.FormatMain(in.LineWorth()))
	case Finer:
		return "The vernier reading is its line's number times the least count."
	case ZeroError:
		return "Close the instrument and read it like any reading. " + in.ZeroStory()
	case LeastCount:
		d := in.Derivation()
		return strings.Join(d, "; ") + "."
	}
	return "Go through the working line by line."
}

// neighbours says how the lines beside the coinciding one stand. On a direct plate both lean towards
// it, on a retrograde one away from it; either way the next line stands left of its own mark.
func (c *Card) neighbours(k int) string {
	n := c.Instrument.Lines()
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
	worth, n := in.FormatMain(in.LineWorth()), in.Lines()
	switch code {
	case LastLineCounted:
		return fmt.Sprintf("The plate's 0 stands exactly on a mark, so line 0 and line %d both coincide. Line 0 counts: the fine reading is 0, not %d × %s.", n, n, count)
	case MarkCountedEarly:
		return "The next mark is only just coming into sight: look at the drum, not at the mark. Its large numbers at the index say that it has not yet come round to 0, so the mark does not count."
	case MarkCountedLate:
		return "The mark has just been passed: look at the drum, not at the mark. Its small numbers at the index say that 0 has just gone past, so the mark counts."
	case HiddenMarkMissed:
		return "That is the first mark in sight. On this sleeve the numbers run the other way: the last mark hidden under the drum counts, found by counting back."
	case HalfMarkMissed:
		return "A half mark, on the other side of the index line, is clear of the drum too: it counts."
	case HalfMarkAdded:
		return "The next half mark is not yet clear of the drum: it does not count."
	case TurnCountedTwice:
		return "The pointer has counted that already. On the beam only whole turns count, from one 0 of the face to the next."
	case MainNextMark:
		return "That is the mark after the one that counts. " + c.where()
	case MainMarkMissed:
		return "That is one mark too few. " + c.where()
	case MainAtCoincidence:
		return fmt.Sprintf("That is the mark opposite the coinciding line %d. The main scale is read at the plate's 0 line; the coinciding line gives the fine reading only.", r.Line)
	case MainAtPlateEdge:
		return "That is the mark at the plate's edge. The edge is only where the metal ends: read at the plate's 0 line, which stands further in."
	case ZeroCountedForward:
		return in.ZeroStory() + " So the zero error is negative; count back from the end."
	case BaseLeftOut:
		return fmt.Sprintf("The scale's 0 stands for %s %s on this instrument; add it.", in.FormatMain(r.Base), in.Unit())
	case FineLeftOut:
		return "That is the main reading only; the fine reading is still to be added."
	case FineBackwards:
		return fmt.Sprintf("The lines were counted the wrong way round: the numbers rise %s. It is line %d, not %d.", c.rises(), r.Line, n-r.Line)
	case FinerLeftOut:
		return fmt.Sprintf("The drum gives only the last line passed. What lies past it the vernier tells: line %d × %s = %s.", r.FinerLine, count, in.Format(r.Finer))
	case FinerReadOnDrum:
		return fmt.Sprintf("That is the drum's number opposite the coinciding line. The vernier line's own number counts: %d.", r.FinerLine)
	case DrumUpperLine:
		return "With a vernier the drum is read at the last line passed, not at the next one."
	case DrumLineMissed:
		return "That is one drum line too few: the last line that has passed the index counts."
	case LabelTakenAsLine:
		f := in.Spec().Fine
		return fmt.Sprintf("The numbers on this plate grow by %d every %d lines: they do not count lines. Count the lines themselves.", f.NumberStep, f.NumberEvery)
	case LineNotMultiplied:
		return fmt.Sprintf("The number of the line is not yet a length: one line is worth %s %s.", worth, in.Unit())
	case PlaceShift:
		return fmt.Sprintf("The fine reading stands one decimal place off: %s × %s = %s.", c.Text(FineLine, r.LineNumber()), worth, in.FormatBy(r.Fine, r.By))
	case ZeroNotApplied:
		if c.Method.correction() {
			return "The zero correction is left out: corrected = observed + correction. A zero error is carried through, never pressed away."
		}
		return "The zero error is left out: corrected = observed − zero error. It is carried through, never pressed away."
	case ZeroSignFlipped:
		if st.Step == ZeroError {
			if r.ZeroError.Sign() < 0 {
				return in.ZeroStory() + " So the zero error is negative."
			}
			return in.ZeroStory() + " So the zero error is positive."
		}
		if c.Method.correction() {
			return "The correction is added with its own sign."
		}
		return "The zero error is taken away with its sign: taking away a negative one adds it."
	case NeighbourLine:
		if st.Step == ZeroError {
			return "Your value lies one line off. Keep your eye square over the line: from one side the next line seems to coincide (parallax)."
		}
		if in.Kind() != instrument.Vernier {
			return "That is the line next to the right one. Keep your eye square over the index: from one side the next line seems to stand there (parallax)."
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

// rises says which way the fine scale's numbers rise.
func (c *Card) rises() string {
	switch {
	case c.Instrument.Kind() == instrument.Dial:
		return "clockwise from 0"
	case c.Instrument.Spec().Fine.Down:
		return "downwards"
	}
	return "as you look up from below the index line"
}
