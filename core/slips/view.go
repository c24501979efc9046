package slips

import (
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// View is a reading as it is looked at again after a wrong entry.
type View struct {
	Place
	Shown instrument.Reading // as the figure stands: the closed one for a zero error
	Step  string             // that went wrong
	Value length.Number      // what was written

	fromEnd bool // of a closed instrument that shows less than nothing: counted back from the last line
}

// View explains a solution: where to look, and what stands there.
func (s *Solution) View(step string, value length.Number) View {
	v := View{Place: s.place, Shown: s.Shown, Step: step, Value: value, fromEnd: s.FromEnd}
	if step == ZeroError && !s.place.Closed {
		v.Shown = s.place.atRest(s.Shown)
	}
	return v
}

func (v View) count() text.Math {
	return text.Math(v.Instrument.FormatMain(v.Instrument.LeastCount()))
}
func (v View) worth() text.Math  { return text.Math(v.Instrument.FormatMain(v.Instrument.LineWorth())) }
func (v View) lines() int        { return v.Instrument.Lines() }
func (v View) unit() length.Unit { return v.Instrument.Unit() }

// written is a length as the card wants it.
func (v View) written(x length.Number) string { return v.Instrument.FormatBy(x, v.Shown.By) }

// length is the same with its unit.
func (v View) length(x length.Number) text.Math {
	return text.Math(v.Instrument.Unit().With(v.written(x)))
}

// term is the zero error or correction as the card wants it, with its unit.
func (v View) term(x length.Number) text.Math {
	return text.Math(v.Instrument.Unit().With(v.Text(ZeroError, x)))
}

// way is a text for a scale whose marks come into sight as the reading grows, or for one whose marks vanish.
func (v View) way(key string) text.Text {
	if v.reversed() {
		key += "-reversed"
	}
	return text.New(key)
}

// sideOf says on which side of zero a zero error lies, for a key.
func sideOf(e length.Number) string {
	if e.Sign() < 0 {
		return "below"
	}
	return "above"
}

// line is the number of the line that counts.
func (v View) line() text.Math { return text.Math(v.Text(FineLine, v.Shown.LineNumber())) }

// reversed reports whether the sleeve's marks are hidden, one after the other, as the reading grows.
func (v View) reversed() bool { return v.Instrument.Reversed() }

// short reports whether this is a closed instrument that shows less than nothing, where two ways of counting
// are right.
func (v View) short() bool {
	e := v.Shown.ZeroError
	return v.Closed && v.Instrument.HasFine() && e.Sign() < 0 && v.Instrument.ScaleInterval().Neg().Less(e)
}

func (v View) traits() instrument.Traits { return v.Instrument.Traits() }

// view is the same for the scale itself.
func (v View) view() instrument.View {
	return instrument.View{Instrument: v.Instrument, Reading: v.Shown, Between: v.Method.Between, Mark: v.MarkText(),
		Line: v.line()}
}

// Advice says for one slip how the right value is seen.
func (v View) Advice(code exercise.Code) text.Text {
	for i := range table {
		switch r := &table[i]; {
		case r.code != code:
		case slices.Contains(onMarks, code) && (v.Step == ZeroError || v.short()):
			return text.Run(text.New("sight.whole-marks"), v.Instrument.ZeroStory())
		default:
			return r.seen(v)
		}
	}
	return text.Text{}
}

// onMarks are the slips whose advice looks at the marks of the work; a closed instrument's story is another.
var onMarks = []exercise.Code{MarkCountedEarly, MarkCountedLate, HiddenMarkMissed, HalfMarkMissed, HalfMarkAdded,
	TurnCountedTwice, MainNextMark, MainMarkMissed, NumberOff}

// tied are the two lines between which a position lies exactly midway, where it does.
func (v View) tied() (low, high int, tied bool) {
	r := v.Shown
	if !r.Tie || v.Tenths() || v.traits().Digits {
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
func (v View) taken(k int) text.Text {
	switch v.Method.Tie {
	case "lower", "upper":
		return text.New("sight.class-takes", "line", k)
	case "unfavourable":
		return text.New("sight.class-takes-nearer", "line", k)
	}
	return text.New("sight.either")
}

// LineStands says which line counts and why.
func (v View) LineStands() text.Text {
	line := v.line()
	low, high, tied := v.tied()
	switch in := v.Instrument; {
	case !in.HasFine():
		return text.Text{}
	case v.short() && v.fromEnd:
		return text.Run(v.Coincides(), text.New("sight.before-end", "lines", v.lines()-v.Shown.Line, "last",
			v.Instrument.LastLine()))
	case in.HasFiner() && v.Step == FinerLine:
		return text.New("sight.beside-just-miss")
	case in.HasFiner():
		return v.Coincides()
	case tied && v.traits().Coincides:
		return text.New("sight.miss-alike", "low", low, "high", high, "taken", v.taken(v.Shown.Line))
	case tied:
		return text.New("sight.equally-near", "low", low, "high", high, "taken", v.taken(v.Shown.Line))
	case v.Shown.By == instrument.Whole && v.traits().AtIndex:
		return text.New("sight.last-passed", "line", line)
	case v.Tenths():
		return text.New("sight.about", "line", line)
	case !v.Shown.Indicated.Equal(v.Shown.Observed) && v.traits().AtIndex:
		return text.New("sight.nearest", "line", line)
	}
	return v.Coincides()
}

// elsewhere adds which line counts, where the headline has not said so.
func (v View) elsewhere() text.Text {
	if v.Step == FineLine {
		return text.Text{}
	}
	return v.LineStands()
}

// Coincides says which line stands where it is read.
func (v View) Coincides() text.Text { return v.Instrument.Scale().LineStands(v.view()) }

// product returns the working of the fine reading by the class's route: lines times their worth, with those of a
// finer scale, or straight off the numbers.
func (v View) product() text.Text {
	in, r := v.Instrument, v.Shown
	sum := func(left string, right length.Number) text.Text {
		return text.Numbers(text.Math(left + " = " + v.unit().With(v.written(right))))
	}
	if v.short() && v.fromEnd {
		left := fmt.Sprintf("−(%d − %d) × %s", v.lines(), r.Line, v.worth())
		part := r.Fine.Sub(in.ScaleInterval())
		if in.HasFiner() && v.Step != Fine {
			left, part = fmt.Sprintf("%s + %d × %s", left, r.FinerLine, v.count()), part.Add(r.ThimbleVernier)
		}
		return sum(left, part)
	}
	if in.HasFiner() && v.Step != Fine {
		return sum(fmt.Sprintf("%s × %s + %d × %s", v.line(), v.worth(), r.FinerLine, v.count()),
			r.Fine.Add(r.ThimbleVernier))
	}
	if v.Method.Route == "direct" && r.Tenth == 0 {
		if off := v.offNumbers(); !off.IsZero() {
			return text.New("sight.off-numbers", "parts", off, "value", v.length(r.Fine))
		}
	}
	return sum(fmt.Sprintf("%s × %s", v.line(), v.worth()), r.Fine)
}

// worked says how the fine reading comes about.
func (v View) worked() text.Text { return text.New("sight.worked", "sum", v.product()) }

// decimalPlaces names the worth of a printed number, by how many of it make a whole unit.
var decimalPlaces = map[int]string{1: "tenth", 2: "hundredth", 3: "thousandth"}

// offNumbers is the fine reading straight off the printed numbers: "4 tenths + 3 lines"; "" where nothing is
// numbered.
func (v View) offNumbers() text.Text {
	f := v.Instrument.Spec().Fine
	if f.NumberEvery < 1 || f.NumberStep < 1 {
		return text.Text{}
	}
	number, rest := v.Shown.Line/f.NumberEvery*f.NumberStep, v.Shown.Line%f.NumberEvery
	var parts []text.Text
	if number > 0 {
		said := text.New("sight.number", "number", number)
		one := v.Instrument.LineWorth().MulInt(f.NumberEvery).Quo(length.Int(int64(f.NumberStep)))
		for places, word := range decimalPlaces {
			if one.Equal(length.Pow10(-places)) && f.NumberStep != f.NumberEvery {
				said = text.New("sight."+word, "n", number)
			}
		}
		parts = append(parts, said)
	}
	if rest > 0 || number == 0 {
		parts = append(parts, text.New("sight.lines", "n", rest))
	}
	return text.Plus(parts...)
}

// applied says how the zero error goes into the corrected reading.
func (v View) applied() text.Text {
	e := v.Shown.ZeroError
	abs := v.length(e.Abs())
	if v.Method.Correction() {
		return text.New("sight.applied-correction-"+sideOf(e), "shows", abs, "correction", v.term(e.Neg()))
	}
	return text.New("sight.applied-"+sideOf(e), "shows", abs)
}

// recorded says of which sign the zero error is, and what the class writes down.
func (v View) recorded(sign string) text.Text {
	e := v.Shown.ZeroError
	if !v.Method.Correction() {
		return text.New("sight.zero-" + sign)
	}
	return text.New("sight.recorded", "error", v.length(e), "correction", v.term(e.Neg()))
}

// MarkText writes the main mark that counts, with its unit.
func (v View) MarkText() text.Math {
	return text.Math(v.Instrument.Unit().With(v.Instrument.FormatMain(v.Shown.Main)))
}

// MarkStands says which main mark counts and why.
func (v View) MarkStands() text.Text {
	switch {
	case v.short() && v.fromEnd:
		return text.New("sight.main-from-end", "last", v.Instrument.LastLine(), "main",
			v.length(v.Shown.Main.Add(v.Instrument.ScaleInterval())))
	case v.short():
		return text.New("sight.main-below-zero", "main", v.MarkText())
	}
	return v.Instrument.Scale().MarkStands(v.view())
}

// Stands says which mark and which line count.
func (v View) Stands() text.Text {
	if v.Instrument.HasFiner() && !v.short() {
		return text.Run(v.MarkStands(), v.LineStands(), text.New("sight.vernier-meets", "line", v.Shown.FinerLine))
	}
	return text.Run(v.MarkStands(), v.LineStands())
}

// Where says where the main scale is read.
func (v View) Where() text.Text { return v.Instrument.Scale().Where(v.view()) }

// FindLine says how the line is found once the mark is.
func (v View) FindLine() text.Text { return v.Instrument.Scale().FindLine() }

// Again says where to look for a step whose wrong value no slip explains.
func (v View) Again() text.Text {
	in := v.Instrument
	switch {
	case v.traits().Digits && v.Step == Observed:
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
		return text.New("sight.numbers-rise", "way", in.Scale().NumbersRun(in))
	case FinerLine:
		return text.New("sight.find-vernier-line")
	case Fine:
		return text.Run(v.LineStands(), text.New("sight.line-worth", "worth", v.worth(), "unit", v.unit(), "sum",
			v.product()))
	case Finer:
		return text.New("sight.finer", "line", v.Shown.FinerLine, "count", v.count())
	case ZeroError:
		return text.Run(text.New("sight.close"), in.ZeroStory())
	case LeastCount:
		if in.HasFiner() && v.Value.Equal(in.LineWorth()) {
			return text.New("sight.divide-too", "lines", in.FinerLines(), "worth", v.worth(), "count", v.count())
		}
		return text.New("sight.derivation", "steps", text.Steps(in.Derivation()...))
	}
	if v.traits().Digits {
		return text.New("sight.compare")
	}
	return text.Run(v.Stands(), text.New("sight.compare"))
}

// beside says how the right line is told from the one next to it.
func (v View) beside() text.Text {
	in, k, n := v.Instrument, v.Shown.Line, v.lines()
	low, high, tied := v.tied()
	square := text.New("sight.parallax-meet")
	switch {
	case v.Step == ZeroError:
		return text.Run(text.New("sight.one-line-off"), in.ZeroStory(), square)
	case in.HasFiner() && tied:
		return text.New("sight.vernier-miss-alike", "low", low, "high", high, "taken", v.taken(v.Shown.FinerLine))
	case in.HasFiner() && v.Step == FinerLine:
		return text.New("sight.beside-just-miss")
	case in.HasFiner():
		return text.Run(text.New("sight.vernier-line", "line", v.Shown.FinerLine), text.New("sight.beside-just-miss"))
	case v.traits().Coincides:
		return text.Run(v.neighbours(), square)
	case tied && v.Step == FineLine:
		return text.New("sight.midway-rule")
	case v.Tenths() && v.Step == FineLine:
		return text.New("sight.tenths-again")
	case tied, v.Tenths():
		return v.LineStands()
	case v.Shown.By == instrument.Whole:
		if v.over() {
			return text.New("sight.not-yet-passed", "next", (k+1)%n, "line", k)
		}
		return text.New("sight.passed-too", "line", k)
	}
	square = text.New("sight.parallax-at", "index", in.Scale().Index())
	if v.Step == FineLine {
		return square
	}
	return text.Run(v.LineStands(), square)
}

// right is the value of the step that was looked at, where earlier entries were right. A main reading is with the base
// where what was written is nearer to that.
func (v View) right() length.Number {
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
		return v.Shown.ThimbleVernier
	case ZeroError:
		return v.ZeroTerm()
	case Corrected:
		return v.Shown.Corrected
	}
	return v.Shown.Observed
}

// size says whether what was written is too large or too small, whatever its sign.
func (v View) size() string {
	if v.right().Abs().Less(v.Value.Abs()) {
		return "large"
	}
	return "small"
}

// fineSize says whether the fine reading in what was written is too large or too small.
func (v View) fineSize() string {
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
func (v View) hundredfold() bool {
	small, large := v.Value.Abs(), v.right().Abs()
	if large.Less(small) {
		small, large = large, small
	}
	return small.MulInt(31).Less(large)
}

// zeroIs ends a sentence with the zero error, and the correction where the class records that.
func (v View) zeroIs() text.Text {
	e := v.Shown.ZeroError
	is := v.Text(ZeroError, e)
	if e.Sign() > 0 {
		is = "+" + strings.TrimPrefix(is, "+")
	}
	zero := text.Math(v.unit().With(is))
	if !v.Method.Correction() {
		return text.New("sight.zero-is", "error", zero)
	}
	return text.New("sight.zero-and-correction", "error", zero, "correction", v.term(e.Neg()))
}

// over reports whether more was written than is right.
func (v View) over() bool {
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
func (v View) neighbours() text.Text {
	n, k := v.lines(), v.Shown.Line
	if low, high, tied := v.tied(); tied {
		return text.New("sight.midway", "low", low, "high", high, "taken", v.taken(k))
	}
	point := "towards"
	if v.Instrument.Form().Retrograde {
		point = "away"
	}
	switch k {
	case 0:
		return text.New("sight.both-ends", "last", n)
	case n - 1:
		return text.New("sight.neighbour-"+point, "before", k-1, "line", k)
	}
	return text.New("sight.neighbours-"+point, "after", k+1, "before", k-1, "line", k)
}

// Pointing flags what counts on the figure of a reading.
func (v View) Pointing(figure string) exercise.Pointing {
	p := exercise.Pointing{Figure: figure, Mark: v.Shown.Main, MarkText: text.Numbers(v.MarkText()), Line: v.Shown.Line,
		Look:     v.Shown.Line,
		LineText: text.New("flag.line", "line", v.line())}
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
	p.Mark, p.Line, p.Look, p.LineText = r.Main, r.Line, r.Line, text.New("flag.line", "line", r.Line)
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
		p.LineText = text.New("flag.line-back", "line", r.Line, "back", n-r.Line, "end", end)
	case r.ZeroError.Sign() >= 0:
		p.MarkText = text.Numbers(text.Math(in.Unit().With(in.FormatMain(r.Main))))
	}
	return p
}

// Sum is the arithmetic by which a place's reading is added up; nothing where it is read as it stands.
func (v View) Sum() (eq exercise.Equation, adds bool) {
	in, r := v.Instrument, v.Shown
	write := func(x length.Number) string { return in.FormatBy(x, v.Method.Between) }
	if v.Closed || in.Traits().Digits {
		return eq, false
	}
	var parts []string
	if r.Base.Sign() != 0 {
		parts = append(parts, in.FormatMain(r.Base))
	}
	parts = append(parts, exercise.Bracket(in.FormatMain(r.Main)))
	if len(parts) == 1 {
		parts[0] = in.FormatMain(r.Main)
	}
	if in.HasFine() {
		fine := v.Text(FineLine, r.LineNumber()) + " × " + string(v.worth())
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
	return exercise.Sum(strings.Join(parts, " + "), v.unit().With(write(r.Observed))), len(parts) > 1
}

// Correcting is the arithmetic from the observed to the corrected reading.
func (v View) Correcting() exercise.Equation {
	r := v.Shown
	write := func(x length.Number) string { return v.Instrument.FormatBy(x, v.Method.Between) }
	sign, term := " − ", r.ZeroError
	if v.Method.Correction() {
		sign, term = " + ", r.ZeroError.Neg()
	}
	return exercise.Sum(write(r.Observed)+sign+exercise.Bracket(write(term)), v.unit().With(write(r.Corrected)))
}

// Closing is the arithmetic of the closed instrument.
func (v View) Closing() exercise.Equation {
	in := v.Instrument
	left := string(in.ZeroWork(v.Method.NegativeZero == "signed-main"))
	if v.Method.Correction() {
		left = "−(" + left + ")"
	}
	return exercise.Sum(left, v.unit().With(in.Format(v.ZeroTerm())))
}

// Counting is the least count from what is drawn.
func (v View) Counting() exercise.Equation {
	in := v.Instrument
	return exercise.Equation{Left: in.Scale().LeastCountWorking(in),
		Right: text.Numbers(text.Math(v.unit().With(string(v.count()))))}
}
