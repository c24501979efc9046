package slips

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// Sight is a reading as it is looked at again after a wrong entry.
type Sight struct {
	Place
	Shown instrument.Reading // as the figure stands: the closed one for a zero error
	Step  string             // that went wrong
	Value length.Number      // what was written

	fromEnd bool // of a closed instrument that shows less than nothing: counted back from the last line
}

// Look is how somebody looks again at what a solution reads.
func (s *Solution) Look(step string, value length.Number) Sight {
	v := Sight{Place: s.place, Shown: s.Shown, Step: step, Value: value, fromEnd: s.FromEnd}
	if step == ZeroError && !s.place.Closed {
		v.Shown = s.place.atRest(s.Shown)
	}
	return v
}

func (v Sight) count() string { return v.Instrument.FormatMain(v.Instrument.LeastCount()) }
func (v Sight) worth() string { return v.Instrument.FormatMain(v.Instrument.LineWorth()) }
func (v Sight) lines() int    { return v.Instrument.Lines() }
func (v Sight) unit() string  { return string(v.Instrument.Unit()) }

// written is a length as the card wants it, with a typographic minus.
func (v Sight) written(x length.Number) string {
	return exercise.Show(v.Instrument.FormatBy(x, v.Shown.By))
}

// line is the number of the line that counts.
func (v Sight) line() string { return v.Text(FineLine, v.Shown.LineNumber()) }

// reversed reports whether the sleeve's marks are hidden, one after the other, as the reading grows.
func (v Sight) reversed() bool { return v.Instrument.Reversed() }

// short reports whether this is a closed instrument that shows less than nothing, where two ways of counting
// are right.
func (v Sight) short() bool {
	e := v.Shown.ZeroError
	return v.Closed && v.Instrument.HasFine() && e.Sign() < 0 && v.Instrument.Cycle().Neg().Less(e)
}

func (v Sight) traits() instrument.Traits { return v.Instrument.Traits() }

// view is the same for the scale itself.
func (v Sight) view() instrument.View {
	return instrument.View{Instrument: v.Instrument, Reading: v.Shown, Between: v.Method.Between, Mark: v.MarkText(), Line: v.line()}
}

// Advice says for one slip how the right value is seen.
func (v Sight) Advice(code exercise.Code) string {
	for i := range table {
		switch r := &table[i]; {
		case r.code != code:
		case slices.Contains(onMarks, code) && (v.Step == ZeroError || v.short()):
			return "Your value is wrong by one or more whole {mark}s. " + v.Instrument.ZeroStory()
		default:
			return r.seen(v)
		}
	}
	return ""
}

// onMarks are the slips whose advice looks at the marks of the work; a closed instrument's story is another.
var onMarks = []exercise.Code{MarkCountedEarly, MarkCountedLate, HiddenMarkMissed, HalfMarkMissed, HalfMarkAdded,
	TurnCountedTwice, MainNextMark, MainMarkMissed, NumberOff}

// tied are the two lines between which a position lies exactly midway, where it does.
func (v Sight) tied() (low, high int, tied bool) {
	r := v.Shown
	if !r.Tie || v.Tenths() || !v.traits().HasMarks {
		return 0, 0, false
	}
	n, k := v.lines(), r.Line
	if v.Instrument.HasFiner() {
		n, k = v.Instrument.FinerLines(), r.FinerLine
	}
	if r.Indicated.Less(r.Observed) {
		return (k + n - 1) % n, k, true
	}
	return k, (k + 1) % n, true
}

// taken says which of two tied lines the class takes.
func (v Sight) taken(k int) string {
	switch v.Method.Tie {
	case "lower", "upper":
		return fmt.Sprintf("your class takes %d", k)
	case "unfavourable":
		return fmt.Sprintf("your class takes %d, the one nearer to a limit", k)
	}
	return "either is right"
}

// LineStands says which line counts and why.
func (v Sight) LineStands() string {
	line := v.line()
	low, high, tied := v.tied()
	switch in := v.Instrument; {
	case !in.HasFine():
		return ""
	case v.short() && v.fromEnd:
		return fmt.Sprintf("%s, which is %s before %s", v.Coincides(),
			instrument.Counted(v.lines()-v.Shown.Line, "{line}"), v.Instrument.LastLine())
	case in.HasFiner() && v.Step == FinerLine:
		return "The {line}s on both sides of it just miss. Look straight at them."
	case in.HasFiner():
		return v.Coincides()
	case tied && v.traits().Coincides:
		return fmt.Sprintf("{Line}s %d and %d miss by the same amount, and %s", low, high, v.taken(v.Shown.Line))
	case tied:
		return fmt.Sprintf("{Line}s %d and %d are equally near, and %s", low, high, v.taken(v.Shown.Line))
	case v.Shown.By == instrument.Whole && v.traits().AtIndex:
		return fmt.Sprintf("{Line} %s is the last one that is fully passed", line)
	case v.Tenths():
		return fmt.Sprintf("It is at about %s {line}s", line)
	case !v.Shown.Indicated.Equal(v.Shown.Observed) && v.traits().AtIndex:
		return fmt.Sprintf("{Line} %s is the nearest", line)
	}
	return v.Coincides()
}

// elsewhere adds which line counts, where the headline has not said so.
func (v Sight) elsewhere() string {
	if v.Step == FineLine {
		return ""
	}
	return " " + v.LineStands() + "."
}

// Coincides says which line stands where it is read.
func (v Sight) Coincides() string { return v.Instrument.Scale().LineStands(v.view()) }

// product is how the fine reading comes about, by the class's route: lines times their worth, with those of a
// finer scale, or straight off the numbers.
func (v Sight) product() string {
	in, r := v.Instrument, v.Shown
	if v.short() && v.fromEnd {
		text := fmt.Sprintf("−(%d − %d) × %s", v.lines(), r.Line, v.worth())
		part := r.Fine.Sub(in.Cycle())
		if in.HasFiner() && v.Step != Fine {
			text, part = fmt.Sprintf("%s + %d × %s", text, r.FinerLine, v.count()), part.Add(r.Finer)
		}
		return text + " = " + v.written(part)
	}
	if in.HasFiner() && v.Step != Fine {
		return fmt.Sprintf("%s × %s + %d × %s = %s", v.line(), v.worth(), r.FinerLine, v.count(),
			v.written(r.Fine.Add(r.Finer)))
	}
	if v.Method.Route == "direct" && r.Tenth == 0 {
		if off := v.offNumbers(); off != "" {
			return off + " = " + v.written(r.Fine)
		}
	}
	return fmt.Sprintf("%s × %s = %s", v.line(), v.worth(), v.written(r.Fine))
}

// worked ends what is said of a fine reading with how it comes about.
func (v Sight) worked(said string) string {
	product := v.product()
	if strings.Contains(product, "=") {
		return said + ": " + product + "."
	}
	return said + ". " + strings.ToUpper(product[:1]) + product[1:] + "."
}

// decimalPlaces are what one of the printed numbers is worth, by how many of it make a whole unit.
var decimalPlaces = map[int]string{1: "tenth", 2: "hundredth", 3: "thousandth"}

// offNumbers is the fine reading straight off the printed numbers: "4 tenths + 3 lines"; "" where nothing is
// numbered.
func (v Sight) offNumbers() string {
	f := v.Instrument.Spec().Fine
	if f.NumberEvery < 1 || f.NumberStep < 1 {
		return ""
	}
	number, rest := v.Shown.Line/f.NumberEvery*f.NumberStep, v.Shown.Line%f.NumberEvery
	var parts []string
	if number > 0 {
		text := fmt.Sprintf("number %d", number)
		one := v.Instrument.LineWorth().MulInt(f.NumberEvery).Quo(length.Int(int64(f.NumberStep)))
		for places, word := range decimalPlaces {
			if one.Equal(length.Pow10(-places)) && f.NumberStep != f.NumberEvery {
				text = instrument.Counted(number, word)
			}
		}
		parts = append(parts, text)
	}
	if rest > 0 || number == 0 {
		parts = append(parts, instrument.Counted(rest, "{line}"))
	}
	return strings.Join(parts, " + ")
}

// applied says how the zero error goes into the corrected reading.
func (v Sight) applied() string {
	e := v.Shown.ZeroError
	much, abs := "much", v.written(e.Abs())
	if e.Sign() < 0 {
		much = "little"
	}
	shows := fmt.Sprintf("The {closed} instrument shows %s %s too %s", abs, v.unit(), much)
	switch {
	case v.Method.Correction():
		return fmt.Sprintf("%s. The correction is %s %s. Add it to the reading.", shows, exercise.Show(v.Text(ZeroError, e.Neg())), v.unit())
	case e.Sign() < 0:
		return fmt.Sprintf("%s. Add %s %s to the reading.", shows, abs, v.unit())
	}
	return fmt.Sprintf("%s. Subtract %s %s from the reading.", shows, abs, v.unit())
}

// recorded ends a sentence about the zero error with what the class writes down.
func (v Sight) recorded() string {
	e := v.Shown.ZeroError
	if !v.Method.Correction() {
		return "."
	}
	return fmt.Sprintf(", %s, and the correction is %s.", v.written(e), exercise.Show(v.Text(ZeroError, e.Neg())))
}

// MarkText writes the main mark that counts, with its unit.
func (v Sight) MarkText() string {
	return exercise.Show(v.Instrument.FormatMain(v.Shown.Main)) + " " + v.unit()
}

// MarkStands says which main mark counts and why.
func (v Sight) MarkStands() string {
	mark := v.MarkText()
	switch {
	case v.short() && v.fromEnd:
		front := v.Shown.Main.Add(v.Instrument.Cycle())
		return fmt.Sprintf("Counting back from %s, the {main reading} is %s", v.Instrument.LastLine(),
			exercise.Show(v.Instrument.FormatMain(front)))
	case v.short():
		return fmt.Sprintf("Counting up from the {mark} below zero, the {main reading} is %s", mark)
	}
	return v.Instrument.Scale().MarkStands(v.view())
}

// Stands says which mark and which line count.
func (v Sight) Stands() string {
	if v.Instrument.HasFiner() && !v.short() {
		return fmt.Sprintf("%s. %s, and {line} %d of the vernier meets {a drum} {line}.", v.MarkStands(), v.LineStands(),
			v.Shown.FinerLine)
	}
	if line := v.LineStands(); line != "" {
		return v.MarkStands() + ". " + line + "."
	}
	return v.MarkStands() + "."
}

// Where says where the main scale is read.
func (v Sight) Where() string { return v.Instrument.Scale().Where(v.view()) }

// FindLine says how the line is found once the mark is.
func (v Sight) FindLine() string { return v.Instrument.Scale().FindLine() }

// Again says where to look for a step whose wrong value no slip explains.
func (v Sight) Again() string {
	in := v.Instrument
	switch {
	case !v.traits().HasMarks && v.Step == Observed:
		return v.Where()
	case v.short() && (v.Step == Main || v.Step == FineLine || v.Step == Fine):
		return in.ZeroStory()
	}
	switch v.Step {
	case Main:
		return v.Where()
	case FineLine:
		if v.traits().Coincides {
			return v.neighbours()
		}
		return "The numbers rise " + in.Scale().NumbersRun(in) + "."
	case FinerLine:
		return "Find the one {line} of the vernier that lines up exactly with {a drum} {line}. Its own number counts."
	case Fine:
		return v.worked(v.LineStands() + ". One {line} is worth " + v.worth() + " " + v.unit())
	case Finer:
		return fmt.Sprintf("The {finer reading} is its {line}'s number times the {least count}: %d × %s.",
			v.Shown.FinerLine,
			v.count())
	case ZeroError:
		return "Close the instrument and read it as usual. " + in.ZeroStory()
	case LeastCount:
		if in.HasFiner() && v.Value.Equal(in.LineWorth()) {
			return fmt.Sprintf("That is what one {drum} {line} is worth; divide by the %d {finer line}s too: %s ÷ %d = %s.",
				in.FinerLines(), v.worth(), in.FinerLines(), v.count())
		}
		how := strings.Join(in.Derivation(), "; ")
		return strings.ToUpper(how[:1]) + how[1:] + "."
	}
	if !v.traits().HasMarks {
		return "Compare your work with the working."
	}
	return v.Stands() + " Compare your work with the working."
}

// beside says how the right line is told from the one next to it.
func (v Sight) beside() string {
	in, k, n := v.Instrument, v.Shown.Line, v.lines()
	low, high, tied := v.tied()
	switch {
	case v.Step == ZeroError:
		return "You read one {line} too far or one too few. " + in.ZeroStory() + " Look straight at the {line}. " +
			"From the side, the next one can seem to line up (parallax)."
	case in.HasFiner() && tied:
		return fmt.Sprintf("{Line}s %d and %d of the vernier miss by the same amount, and %s.", low, high, v.taken(v.Shown.FinerLine))
	case in.HasFiner() && v.Step == FinerLine:
		return "The {line}s on both sides of it just miss. Look straight at them."
	case in.HasFiner():
		return fmt.Sprintf("{Line} %d of the vernier lines up exactly with {a drum} {line}. The {line}s on both sides of it just miss. "+
			"Look straight at them.", v.Shown.FinerLine)
	case v.traits().Coincides:
		return v.neighbours() +
			" Look straight at the {line}. From the side, the next one can seem to line up (parallax)."
	case tied && v.Step == FineLine:
		return "It is exactly midway. Your class has a rule for that: see the line above the boxes."
	case v.Tenths() && v.Step == FineLine:
		return "Look again at how far it is past the last {line}."
	case tied, v.Tenths():
		return v.LineStands() + "."
	case v.Shown.By == instrument.Whole:
		if v.over() {
			return fmt.Sprintf("{Line} %d is not yet fully passed; here %d counts.", (k+1)%n, k)
		}
		return fmt.Sprintf("{Line} %d is fully passed too, so it counts.", k)
	}
	square := "Look straight at the " + in.Scale().Index() +
		". From the side, the next {line} can seem to be there (parallax)."
	if v.Step == FineLine {
		return square
	}
	return v.LineStands() + ". " + square
}

// right is the value of the step that was looked at, where earlier entries were right. A main reading is with the base where what
// was written is nearer to that.
func (v Sight) right() length.Number {
	switch v.Step {
	case LeastCount:
		return v.Instrument.LeastCount()
	case Main:
		with := v.Shown.Main.Add(v.Shown.Base)
		if v.Value.Sub(with).Abs().Less(v.Value.Sub(v.Shown.Main).Abs()) {
			return with
		}
		return v.Shown.Main
	case FineLine:
		return v.Shown.LineNumber()
	case Fine:
		return v.Shown.Fine
	case Finer:
		return v.Shown.Finer
	case ZeroError:
		return v.ZeroTerm()
	case Corrected:
		return v.Shown.Corrected
	}
	return v.Shown.Observed
}

// size says whether what was written is too large or too small, whatever its sign.
func (v Sight) size() string {
	if v.right().Abs().Less(v.Value.Abs()) {
		return "large"
	}
	return "small"
}

// fineSize says whether the fine reading in what was written is too large or too small.
func (v Sight) fineSize() string {
	larger := v.right().Less(v.Value)
	if v.short() && v.fromEnd || v.Step == ZeroError && v.Method.Correction() { // there it counts downwards
		larger = !larger
	}
	if larger {
		return "large"
	}
	return "small"
}

// hundredfold reports whether what was written is off by a hundred times rather than ten.
func (v Sight) hundredfold() bool {
	small, large := v.Value.Abs(), v.right().Abs()
	if large.Less(small) {
		small, large = large, small
	}
	return small.MulInt(31).Less(large)
}

// zeroIs ends a sentence with the zero error, and the correction where the class records that.
func (v Sight) zeroIs() string {
	e := v.Shown.ZeroError
	text := exercise.Show(v.Text(ZeroError, e))
	if e.Sign() > 0 {
		text = "+" + strings.TrimPrefix(text, "+")
	}
	if !v.Method.Correction() {
		return fmt.Sprintf("the {zero error} is %s %s.", text, v.unit())
	}
	return fmt.Sprintf("the {zero error} is %s %s, so the correction is %s %s.", text, v.unit(),
		exercise.Show(v.Text(ZeroError, e.Neg())), v.unit())
}

// over reports whether more was written than is right.
func (v Sight) over() bool {
	want := v.right()
	if v.Step == FineLine {
		if v.Shown.Line == v.lines()-1 && v.Value.Sign() == 0 {
			return true // it goes round to 0
		}
		if v.Shown.Line == 0 && v.Value.Equal(length.Int(int64(v.lines()-1))) {
			return false
		}
	}
	return want.Less(v.Value)
}

// neighbours says how the lines beside the coinciding one stand. On a direct plate both lean towards
// it, on a retrograde one away from it; either way the next line stands left of its own mark.
func (v Sight) neighbours() string {
	n, k := v.lines(), v.Shown.Line
	if low, high, tied := v.tied(); tied {
		return fmt.Sprintf("Under the lens, {line}s %d and %d miss their {mark}s by the same amount: the position is midway, and %s.",
			low, high, v.taken(k))
	}
	point := "towards it"
	if v.Instrument.Form().Retrograde {
		point = "away from it"
	}
	switch k {
	case 0:
		return fmt.Sprintf("The {plate}'s 0 is exactly on {a mark}, so {line} %d lines up with one too. {Line} 0 counts.", n)
	case n - 1:
		return fmt.Sprintf("Under the lens, {line} %d is slightly right of its {mark}. Only {line} %d lines up exactly. "+
			"The {line}s on both sides point %s.", k-1, k, point)
	}
	return fmt.Sprintf("Under the lens, {line} %d is slightly left of its {mark} and {line} %d slightly right of its {mark}. "+
		"Only {line} %d lines up exactly. The {line}s on both sides point %s.", k+1, k-1, k, point)
}

// Pointing flags what counts on the figure of a reading.
func (v Sight) Pointing(figure string) exercise.Pointing {
	p := exercise.Pointing{Figure: figure, Mark: v.Shown.Main, MarkText: v.MarkText(), Line: v.Shown.Line,
		Look:     v.Shown.Line,
		LineText: "{line} " + v.Text(FineLine, v.Shown.LineNumber())}
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
	p.Mark, p.Line, p.Look, p.LineText = r.Main, r.Line, r.Line, fmt.Sprintf("{line} %d", r.Line)
	if in.HasFiner() {
		p.FinerLine = &r.FinerLine
	}
	n := in.Lines()
	switch {
	case r.ZeroError.Sign() < 0 && r.Line > 0:
		end := n
		if in.Traits().GoesRound {
			end = 0 // there is 0 again
		}
		p.LineText = fmt.Sprintf("{line} %d, %d back from %d", r.Line, n-r.Line, end)
	case r.ZeroError.Sign() >= 0:
		p.MarkText = in.FormatMain(r.Main) + " " + string(in.Unit())
	}
	return p
}

// Sum is the arithmetic by which a place's reading is added up; nothing where it is read as it stands.
func (v Sight) Sum() (eq exercise.Equation, adds bool) {
	in, r := v.Instrument, v.Shown
	write := func(x length.Number) string { return in.FormatBy(x, v.Method.Between) }
	if v.Closed || !in.Traits().HasMarks {
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
	return exercise.Equation{Left: in.Scale().LeastCountWorking(in), Right: v.count() + " " + string(in.Unit())}
}
