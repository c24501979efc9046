// Package walk tells a figure in words, line by line, for those who cannot see it: which marks are passed, which line
// meets a mark, between which lines an index stands. It tells what an eye finds on the drawing, and no more: nothing is
// counted up, multiplied or added.
package walk

import (
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// Scale is one scale of a figure as it is walked along.
type Scale struct {
	Name  text.Text
	At    text.Text   // at what it is read; nothing where a line meets a mark
	Lines []text.Text // in the order in which the numbers rise
	Start int         // the line at which a walk begins
}

// Figure tells the scales of a card's figure; nothing where it stands off its scale.
func Figure(f exercise.Figure) []Scale {
	out := Of(f.Instrument, f.At)
	if f.Upright == nil {
		return out
	}
	second, _ := f.Instrument.Second()
	for _, s := range Of(second, *f.Upright) {
		s.Name = text.New("walk.upright", "scale", s.Name)
		out = append(out, s)
	}
	return out
}

// Of tells the scales of an instrument that indicates y.
func Of(in *instrument.Instrument, y length.Number) []Scale {
	r, err := in.Read(y)
	if err != nil {
		return nil
	}
	w := walker{in: in, spec: in.Spec(), has: in.Traits(), shown: r.Indicated.Sub(in.Spec().Base)}
	if w.has.Digits {
		return []Scale{{Name: text.New("walk.display"), Lines: []text.Text{text.New("walk.shows", "value",
			text.Math(in.Unit().With(in.Format(r.Observed))))}}}
	}
	var out []Scale
	if w.has.HasMarks {
		out = append(out, w.main())
	}
	switch {
	case !w.has.HasLines:
	case w.has.Coincides:
		out = append(out, w.plate())
	default:
		out = append(out, w.round())
	}
	if in.HasFiner() {
		out = append(out, w.finer())
	}
	return out
}

// Last is the number of the last line, from 0.
func (s Scale) Last() int { return len(s.Lines) - 1 }

type walker struct {
	in    *instrument.Instrument
	spec  instrument.Spec
	has   instrument.Traits
	shown length.Number // y − B
}

// at returns where the main scale is read, in its divisions.
func (w *walker) at() length.Number { return w.shown.Quo(w.spec.Main.Division) }

// aside is the number of marks that are told beyond the next number on either side.
const aside = 1

// main tells the marks about the place where the main scale is read, from a number before it to one after.
func (w *walker) main() Scale {
	out := Scale{Name: w.mainName(), At: w.in.Scale().MarksAt()}
	p, m := w.at(), w.spec.Main
	if w.has.Counts || !w.has.HasLines { // a hand or an edge between two marks
		a := floor(p)
		out.Lines = append(out.Lines, w.between(w.mark(a), w.mark(a+1), p.Sub(length.Int(a)), true))
		return out
	}
	if w.has.Reversible && !w.isDisc() {
		way := "right"
		if m.Reverse {
			way = "left"
		}
		out.Lines = append(out.Lines, text.New("walk.rises-"+way))
	}
	every := int64(m.NumberEvery)
	low, high := (floor(p)/every-aside)*every, (floor(p)/every+1+aside)*every
	if floor(p) < 0 {
		low -= every
	}
	if !w.has.Round {
		low, high = max(low, ceil(m.From.Quo(m.Division))), min(high, floor(m.To.Quo(m.Division)))
	}
	if w.has.HasThimble && !w.isDisc() { // of what it hides, no more is told than that there is a next mark
		if w.spec.Main.Reverse {
			low = max(low, floor(p))
		} else {
			high = min(high, floor(p)+1)
		}
	}
	for i := low; i <= high; i++ {
		if length.Int(i).Cmp(p) <= 0 {
			out.Start = len(out.Lines)
		}
		what, state := w.mark(i), w.stands(p.Sub(length.Int(i)))
		if state == "hidden" { // nobody can see what is printed there
			what = text.New("walk.next")
		}
		out.Lines = append(out.Lines, text.New("walk.says", "what", what, "state", text.New("walk.state."+state)))
	}
	return out
}

// isDisc reports whether the drum is a disc before an upright scale, which goes on below its 0.
func (w *walker) isDisc() bool { return w.has.HasThimble && w.spec.Main.From.Sign() < 0 }

func (w *walker) mainName() text.Text {
	switch {
	case w.isDisc():
		return text.New("part.upright-scale")
	case w.has.HasThimble:
		return text.Word("sleeve scale")
	}
	return text.Word("main scale")
}

func (w *walker) fineName() text.Text {
	if w.isDisc() {
		return text.New("part.disc")
	}
	return text.Word(text.Term(w.in.Scale().Term()))
}

// edge is how far from an edge a mark stands of which nobody can see whether it is passed, in divisions.
var edge = length.Frac(1, 33)

// stands says how a mark stands to the place where its scale is read, that has gone so far past it, in divisions.
func (w *walker) stands(past length.Number) string {
	state := "passed"
	switch sign := past.Sign(); {
	case sign == 0 && !w.has.AtIndex:
		state = "exact"
	case past.Abs().Less(edge) && w.has.AtIndex:
		state = "edge"
	case w.has.HasThimble && !w.isDisc() && (sign > 0) != w.spec.Main.Reverse:
		state = "in-sight"
	case w.has.HasThimble && !w.isDisc():
		state = "hidden"
	case sign < 0:
		state = "ahead"
	}
	return state
}

// mark names main mark i by the number that is printed at it, or by counting from the one before.
func (w *walker) mark(i int64) text.Text {
	m := w.spec.Main
	every := int64(m.NumberEvery)
	if w.has.Counts {
		return text.Numbers(text.Math(m.Division.MulInt(int(i)).String()))
	}
	n := i / every
	if i < 0 && i%every != 0 {
		n--
	}
	number := n
	if turn := w.in.Turn(); turn.Sign() > 0 { // a circle begins again
		all := floor(turn.Quo(m.Division)) / every
		number = (n%all + all) % all
	}
	printed := text.Math(exercise.Show(m.NumberStep.MulInt(int(number)).String()))
	k := int(i - n*every)
	half := m.HalfMarks && k%2 != 0
	if m.HalfMarks {
		k /= 2
	}
	switch {
	case half && k == 0:
		return text.New("walk.half-first", "n", printed)
	case half:
		return text.New("walk.half", "k", k, "n", printed)
	case k == 0:
		return text.New("walk.numbered", "n", printed)
	}
	return text.New("walk.after", "k", k, "n", printed)
}

// plate tells the lines of a vernier: how each stands to the nearest mark.
func (w *walker) plate() Scale {
	out := Scale{Name: text.Word("plate")}
	n := w.in.Lines()
	from := 0
	if w.has.BothWays {
		from = -n
	}
	for k := from; k <= n; k++ {
		if k == 0 {
			out.Start = len(out.Lines)
		}
		off := w.in.LineOffset(k)
		side := "line"
		if w.has.BothWays && k != 0 {
			side = "line-right"
			if (k > 0) == w.spec.Main.Reverse {
				side = "line-left"
			}
		}
		at := w.at().Add(off.Quo(w.spec.Main.Division))
		out.Lines = append(out.Lines, text.New("walk.says", "what", w.line(side, k), "state", meets("mark", at, n)))
	}
	return out
}

// line names line k of a fine scale, with the number that is printed at it.
func (w *walker) line(side string, k int) text.Text {
	f := w.spec.Fine
	if k < 0 {
		k = -k
	}
	if k%f.NumberEvery == 0 && f.NumberStep != f.NumberEvery {
		return text.New("walk."+side+"-numbered", "k", k, "n", k/f.NumberEvery*f.NumberStep)
	}
	return text.New("walk."+side, "k", k)
}

// meets says how a line that stands at x, counted in marks, stands to the nearest of them, of which one least count is
// the n-th part.
func meets(what string, x length.Number, n int) text.Text {
	off := x.Sub(x.Round(0)).MulInt(n)
	side := "past"
	if off.Sign() < 0 {
		side = "short"
	}
	state := "between"
	switch far := off.Abs(); {
	case far.Cmp(length.Frac(1, 10)) <= 0:
		state = "meets"
	case far.Cmp(length.Frac(1, 2)) <= 0:
		state = "close-" + side
	case far.Cmp(length.Frac(int64(n), 4)) <= 0:
		state = "little-" + side
	}
	return text.New("walk." + what + "-" + state)
}

// round tells between which lines of a drum or a face the index or pointer stands.
func (w *walker) round() Scale {
	out := Scale{Name: w.fineName(), At: w.in.Scale().LinesAt()}
	t := w.turned()
	if !w.has.Signed {
		out.Lines = []text.Text{w.betweenLines(t)}
		return out
	}
	side := "right"
	if t.Sign() < 0 {
		side = "left"
	}
	if t.Sign() == 0 {
		out.Lines = []text.Text{w.betweenLines(t)}
		return out
	}
	out.Lines = []text.Text{text.New("walk.side-"+side, "state", w.betweenLines(t.Abs()))}
	return out
}

// turned returns how many lines have gone by since the last 0.
func (w *walker) turned() length.Number {
	t := w.shown.Quo(w.in.LineWorth())
	if w.has.Signed {
		return t
	}
	all := length.Int(int64(w.in.Lines()))
	return t.Sub(t.Quo(all).Floor().Mul(all))
}

func (w *walker) betweenLines(t length.Number) text.Text {
	a := int(floor(t))
	next := a + 1
	if w.has.GoesRound {
		next %= w.in.Lines()
	}
	return w.between(w.line("line", a), w.line("line", next), t.Sub(length.Int(int64(a))), !w.in.HasFiner())
}

// between says how far from one line to the next something stands, in tenths as an eye guesses it.
func (w *walker) between(a, b text.Text, part length.Number, guessed bool) text.Text {
	tenths := floor(part.MulInt(10).Add(length.Frac(1, 2)))
	switch {
	case part.Sign() == 0:
		return text.New("walk.on", "a", a)
	case !guessed:
		return text.New("walk.between", "a", a, "b", b)
	case tenths == 0:
		return text.New("walk.between-first", "a", a, "b", b)
	case tenths == 10:
		return text.New("walk.between-second", "a", a, "b", b)
	}
	return text.New("walk.between-tenths", "a", a, "b", b, "tenths", int(tenths))
}

// finer tells the lines of the vernier over a drum: how each stands to the nearest of the drum's lines.
func (w *walker) finer() Scale {
	out := Scale{Name: text.New("walk.thimble-vernier")}
	v := w.spec.ThimbleVernier
	step := length.Frac(int64(v.ThimbleDivisions), int64(v.Divisions))
	if w.in.FinerForm().Retrograde {
		step = step.Neg()
	}
	for k := range v.Divisions + 1 {
		out.Lines = append(out.Lines, text.New("walk.says", "what", text.New("walk.line", "k", k), "state",
			meets("drum", w.turned().Add(step.MulInt(k)), v.Divisions)))
	}
	return out
}

func floor(x length.Number) int64 { n, _ := x.Floor().Int64(); return n }
func ceil(x length.Number) int64  { return -floor(x.Neg()) }
