package slips

import (
	"fmt"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// Sight is a reading as it is looked at again after a wrong entry.
type Sight struct {
	Place
	Shown instrument.Reading // as the figure stands
	Step  string             // that went wrong
	Value length.Number      // what was written
}

// Look is how somebody looks again at what a solution reads.
func (s Solution) Look(step string, value length.Number) Sight {
	return Sight{Place: s.place, Shown: s.Shown, Step: step, Value: value}
}

func (v Sight) count() string { return v.Instrument.FormatMain(v.Instrument.LeastCount()) }
func (v Sight) worth() string { return v.Instrument.FormatMain(v.Instrument.LineWorth()) }
func (v Sight) lines() int    { return v.Instrument.Lines() }

// Advice says for one slip how the right value is seen.
func (v Sight) Advice(code exercise.Code) string {
	for i := range table {
		if table[i].code == code {
			return table[i].seen(v)
		}
	}
	return ""
}

// rises says which way the fine scale's numbers rise.
func (v Sight) rises() string {
	switch {
	case v.Instrument.Kind() == instrument.Dial:
		return "clockwise from 0"
	case v.Instrument.Spec().Fine.Down:
		return "downwards"
	}
	return "as you look up from below the index line"
}

// LineStands says which line counts and why.
func (v Sight) LineStands() string {
	line := v.Text(FineLine, v.Shown.LineNumber())
	switch v.Instrument.Kind() {
	case instrument.Drum:
		if v.Instrument.HasFiner() {
			return fmt.Sprintf("Line %s is the last drum line passed at the index", line)
		}
		return fmt.Sprintf("Line %s of the drum stands at the index", line)
	case instrument.Dial:
		return fmt.Sprintf("The pointer stands at line %s", line)
	}
	return fmt.Sprintf("Line %s stands opposite a mark", line)
}

// MarkText writes the main mark that counts, with its unit.
func (v Sight) MarkText() string {
	return exercise.Show(v.Instrument.FormatMain(v.Shown.Main)) + " " + string(v.Instrument.Unit())
}

// MarkStands says which main mark counts and why.
func (v Sight) MarkStands() string {
	mark := v.MarkText()
	switch v.Instrument.Kind() {
	case instrument.Drum:
		if v.Instrument.Spec().Main.Reverse {
			return fmt.Sprintf("The last mark hidden under the drum is %s", mark)
		}
		return fmt.Sprintf("The last mark clear of the drum's edge is %s", mark)
	case instrument.Dial:
		return fmt.Sprintf("The slide's edge has passed %s", mark)
	case instrument.Vernier:
		if v.Shown.Line == 0 {
			return fmt.Sprintf("The plate's 0 stands exactly on the %s mark", mark)
		}
		return fmt.Sprintf("The plate's 0 stands past the %s mark", mark)
	}
	return fmt.Sprintf("It stands at the %s mark", mark)
}

// Where says where the main scale is read.
func (v Sight) Where() string {
	switch v.Instrument.Kind() {
	case instrument.Drum:
		if v.Instrument.Spec().Main.Reverse {
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

// FindLine says how the line is found once the mark is.
func (v Sight) FindLine() string {
	switch {
	case !v.Instrument.HasFine():
		return ""
	case v.Instrument.Kind() == instrument.Drum:
		return "Then the drum line at the index."
	case v.Instrument.Kind() == instrument.Dial:
		return "Then the line at the pointer."
	}
	return "Then find the one line of the plate that stands exactly opposite a mark."
}

// Again says where to look for a step whose wrong value no slip explains.
func (v Sight) Again() string {
	in := v.Instrument
	switch v.Step {
	case Main:
		return v.Where()
	case FineLine:
		if in.Kind() == instrument.Vernier {
			return v.neighbours(v.Shown.Line)
		}
		return v.LineStands() + "."
	case FinerLine:
		return "Of the vernier's lines just one stands exactly opposite a drum line; its own number counts."
	case Fine:
		return fmt.Sprintf("The fine reading is the line's number times %s.", v.worth())
	case Finer:
		return "The vernier reading is its line's number times the least count."
	case ZeroError:
		return "Close the instrument and read it like any reading. " + in.ZeroStory()
	case LeastCount:
		return strings.Join(in.Derivation(), "; ") + "."
	}
	return "Go through the working line by line."
}

// neighbours says how the lines beside the coinciding one stand. On a direct plate both lean towards
// it, on a retrograde one away from it; either way the next line stands left of its own mark.
func (v Sight) neighbours(k int) string {
	n := v.lines()
	leans := "inwards"
	if v.Instrument.Form().Retrograde {
		leans = "outwards"
	}
	switch k {
	case 0:
		return fmt.Sprintf("The plate's 0 stands exactly on a mark, so line %d meets one too; line 0 is the one that counts.", n)
	case n - 1:
		return fmt.Sprintf("Under the lens line %d stands a little to the right of its mark; line %d meets one exactly. "+
			"The neighbours lean %s.", k-1, k, leans)
	}
	return fmt.Sprintf("Under the lens line %d stands a little to the left of its mark and line %d a little to the right of its own; "+
		"between them line %d meets one exactly. The neighbours lean %s.", k+1, k-1, k, leans)
}

// Pointing flags what counts on the figure of a reading.
func (v Sight) Pointing(figure string) exercise.Pointing {
	p := exercise.Pointing{Figure: figure, Mark: v.Shown.Main, MarkText: v.MarkText(), Line: v.Shown.Line,
		Look:     v.Shown.Line,
		LineText: "line " + v.Text(FineLine, v.Shown.LineNumber())}
	if v.Instrument.HasFiner() {
		finer := v.Shown.FinerLine
		p.FinerLine, p.Look = &finer, -1
	}
	return p
}

// ClosedPointing flags the line that coincides on a closed instrument, and how a negative zero is counted
// back.
func ClosedPointing(in *instrument.Instrument, figure string) exercise.Pointing {
	p := exercise.Pointing{Figure: figure, Line: -1, Look: -1}
	r, err := in.Read(in.Closed())
	if err != nil {
		return p
	}
	p.Mark, p.Line, p.Look, p.LineText = r.Main, r.Line, r.Line, fmt.Sprintf("line %d", r.Line)
	if in.HasFiner() {
		p.FinerLine = &r.FinerLine
	}
	n := in.Lines()
	switch {
	case r.ZeroError.Sign() < 0 && r.Line > 0:
		end := n
		if in.Kind() != instrument.Vernier {
			end = 0 // a drum and a face come round to 0 again
		}
		p.LineText = fmt.Sprintf("line %d, %d back from %d", r.Line, n-r.Line, end)
	case r.ZeroError.Sign() >= 0:
		p.MarkText = in.FormatMain(r.Main) + " " + string(in.Unit())
	}
	return p
}

// Sum is the arithmetic by which a place's reading is added up; nothing where it is read as it stands.
func (v Sight) Sum() (eq exercise.Equation, adds bool) {
	in, r := v.Instrument, v.Shown
	write := func(x length.Number) string { return in.FormatBy(x, v.Method.Between) }
	if v.Closed || in.Kind() == instrument.Display {
		return eq, false
	}
	var parts []string
	if r.Base.Sign() != 0 {
		parts = append(parts, in.FormatMain(r.Base))
	}
	parts = append(parts, exercise.Bracket(in.FormatMain(r.Main)))
	if len(parts) == 1 {
		parts[0] = exercise.Show(in.FormatMain(r.Main))
	}
	if in.HasFine() {
		fine := v.Text(FineLine, r.LineNumber()) + " × " + v.worth()
		if v.Method.Route == "direct" {
			fine = write(r.Fine)
		}
		parts = append(parts, fine)
	} else if r.Fine.Sign() != 0 {
		parts = append(parts, write(r.Fine)) // an estimated tenth
	}
	if in.HasFiner() {
		parts = append(parts, fmt.Sprintf("%d × %s", r.FinerLine, v.count()))
	}
	return exercise.Equation{Left: strings.Join(parts, " + "), Right: exercise.Show(write(r.Observed)) + " " +
			string(in.Unit())},
		len(parts) > 1
}

// Correcting is the arithmetic from the observed to the corrected reading.
func (v Sight) Correcting() exercise.Equation {
	r := v.Shown
	write := func(x length.Number) string { return v.Instrument.FormatBy(x, v.Method.Between) }
	sign, term := " − ", r.ZeroError
	if v.Method.Correction() {
		sign, term = " + ", r.ZeroError.Neg()
	}
	return exercise.Equation{Left: exercise.Show(write(r.Observed)) + sign + exercise.Bracket(write(term)),
		Right: exercise.Show(write(r.Corrected)) + " " + string(v.Instrument.Unit())}
}

// Closing is the arithmetic of the closed instrument.
func (v Sight) Closing() exercise.Equation {
	in := v.Instrument
	eq := exercise.Equation{Left: in.ZeroWork(v.Method.NegativeZero == "signed-main"),
		Right: exercise.Show(in.Format(v.ZeroTerm()))}
	if v.Method.Correction() {
		eq.Left = "−(" + eq.Left + ")"
	}
	eq.Right += " " + string(in.Unit())
	return eq
}

// Counting is the least count from what is drawn.
func (v Sight) Counting() exercise.Equation {
	in := v.Instrument
	eq := exercise.Equation{Right: v.count() + " " + string(in.Unit())}
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
