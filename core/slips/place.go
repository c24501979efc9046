// Package slips knows how an instrument is read step by step, and the known mistakes of doing so: what
// each predicts, what the student did who made it, and how the right value is seen. Marking names the
// slips whose prediction an entry equals, in the order of one table.
package slips

import (
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// The steps of reading an instrument, in the order of the work. They are the names of a card's fields.
const (
	LeastCount = instrument.TheLeastCount // c
	Main       = "main"                   // M, with or without the base
	FineLine   = "fine_line"              // k
	Fine       = "fine"                   // F = k·L/n
	FinerLine  = "finer_line"             // k₂
	Finer      = "finer"                  // F₂ = k₂·c
	Observed   = "observed"               // O = B + M + F + F₂
	ZeroError  = "zero_error"             // e, or −e where the class records the correction
	Corrected  = "corrected"              // R = O − e
	Mean       = "mean"                   // of both plates of a circle
)

// PlateB ends the names of the steps of a circle's opposite plate: "main_b".
const PlateB = "_b"

// OnePlate lists the steps of an instrument, or of one plate, in the order of the work.
var OnePlate = []string{LeastCount, Main, FineLine, Fine, FinerLine, Finer, Observed, ZeroError, Corrected}

// Steps lists the names of all steps in the order of the work: those of one plate, what is read on the opposite one,
// and the mean.
var Steps = append(slices.Clone(OnePlate), Main+PlateB, FineLine+PlateB, Observed+PlateB, Mean)

// IsLine reports whether a step holds the number of a line and not a length.
func IsLine(step string) bool { return step == FineLine || step == FinerLine }

// Can reports whether a step can be asked of an instrument: what it does not have cannot be read.
func Can(in *instrument.Instrument, step string) bool {
	if _, role := in.Second(); step == Mean || strings.HasSuffix(step, PlateB) {
		return role == instrument.Opposite
	}
	switch step {
	case Main:
		return in.Traits().HasMarks
	case FineLine, Fine:
		return in.HasFine()
	case FinerLine, Finer:
		return in.HasFiner()
	}
	return true
}

// Place is an instrument as a school reads it: on the work, or closed.
type Place struct {
	Instrument *instrument.Instrument
	Method     exercise.Method
	Closed     bool
	Plate      string // ends the names of its steps: PlateB on the opposite plate of a circle
}

// name is the name of a step's field; the least count belongs to both plates.
func (p Place) name(step string) string {
	if step == LeastCount || p.Plate == "" {
		return step
	}
	return step + p.Plate
}

// Tenths reports whether tenths of a line are estimated here.
func (p Place) Tenths() bool { return p.Instrument.Tenths(p.Method.Between) }

// tolerance returns the permitted error of an estimate, in lines: 0 where nothing is estimated.
func (p Place) tolerance() length.Number {
	if !p.Tenths() {
		return length.Number{}
	}
	return p.Method.Tolerance()
}

// ZeroTerm is the zero error, or the correction where the class records that.
func (p Place) ZeroTerm() length.Number {
	e := p.Instrument.ZeroError()
	if p.Method.Correction() {
		return e.Neg()
	}
	return e
}

// Text writes a step's value as a card should be filled in: in the instrument's decimals, and a positive
// zero error with its plus where the school wants it.
func (p Place) Text(step string, x length.Number) string {
	switch step {
	case LeastCount, Main, FinerLine:
		return p.Instrument.FormatMain(x)
	case FineLine:
		if p.Tenths() {
			return x.Text(1)
		}
		return x.String()
	}
	text := p.Instrument.FormatBy(x, p.Method.Between)
	if step == ZeroError && x.Sign() > 0 && p.Method.ZeroSign != "optional" {
		text = "+" + text
	}
	return text
}

// Form returns the form in which a step must be written.
func (p Place) Form(step string) exercise.Form {
	f := exercise.Form{Places: -1, Sign: step == ZeroError && p.Method.ZeroSign != "optional",
		Unit: p.Method.UnitRequired() && !IsLine(step)}
	if !p.Method.Strict() {
		return f
	}
	extra := 0
	if p.Tenths() {
		extra = 1
	}
	switch step {
	case Fine, Finer, Observed, ZeroError, Corrected, Mean:
		if places, decimal := p.Instrument.Decimals(); decimal {
			f.Places = places + extra
		}
		f.Part = p.Instrument.PartBy(p.Method.Between)
		if step == Mean && f.Places >= 0 {
			f.More = mostFurther
		}
	case FineLine:
		f.Places = extra
	case FinerLine:
		f.Places = 0
	}
	return f
}

// mostFurther is how many decimals more than the instrument's a value may have that is exact.
const mostFurther = 6

// Field is a step as a box of a card.
func (p Place) Field(step string) exercise.Field {
	term := p.Term(step)
	called, ok := named[term]
	if !ok {
		called.long, called.short = text.Word(term), text.ShortWord(term)
	}
	if p.Plate != "" {
		called.long, called.short = text.New("plate.b", "term", called.long), text.New("plate.b", "term", called.short)
	}
	f := exercise.Field{Name: p.name(step), Term: called.long, Label: called.short, Line: IsLine(step),
		Input: exercise.Length, Unit: p.Instrument.Unit(), Part: p.Instrument.PartBy(p.Method.Between),
		Form: p.Form(step), Grain: p.Instrument.LeastCount()}
	if IsLine(step) {
		f.Part = 0
		f.Input, f.Unit, f.Grain = exercise.Count, "", length.Int(1)
	}
	return f
}

// named are the texts of the terms of steps. Fields are made many times for each card that is dealt.
var named = func() map[text.Term]struct{ long, short text.Text } {
	out := map[text.Term]struct{ long, short text.Text }{}
	add := func(t text.Term) { out[t] = struct{ long, short text.Text }{text.Word(t), text.ShortWord(t)} }
	for _, t := range terms {
		add(t)
	}
	for _, of := range ofFine {
		for _, t := range of {
			add(t)
		}
	}
	return out
}()

// terms name the steps; those of the fine scale depend on its kind.
var terms = map[string]text.Term{LeastCount: "least count", Main: "main reading", FinerLine: "finer line",
	Finer: "finer reading", Observed: "observed reading", ZeroError: "zero error", Corrected: "corrected reading",
	FineLine: "line", Fine: "fine reading", Mean: "mean"}

// ofFine names the steps of a fine scale, by the first word of their terms.
var ofFine = func() map[string]map[string]text.Term {
	out := map[string]map[string]text.Term{}
	for _, first := range []string{"plate", "drum", "face"} {
		out[first] = map[string]text.Term{FineLine: text.Term(first + " line"), Fine: text.Term(first + " reading")}
	}
	return out
}()

// Term returns the term for a step on this place's instrument.
func (p Place) Term(step string) text.Term {
	if step == ZeroError && p.Method.Correction() {
		return "zero correction"
	}
	if step == FineLine || step == Fine {
		if own, ok := ofFine[p.Instrument.Scale().Term()][step]; ok {
			return own
		}
	}
	return terms[step]
}

// StepTerm returns the term for a step on instruments of any kind.
func StepTerm(step string) text.Term { return terms[step] }

// fineTerm returns the term of the fine reading on this instrument.
func (p Place) fineTerm() text.Term { return p.Term(Fine) }

// Convention says what the class settles that a card's boxes do not show, for who works it: how to read
// between two lines, which line a tie takes, and what must be written besides the number.
func (p Place) Convention(limits *exercise.Limits, asksZero bool) []text.Text {
	in, m := p.Instrument, p.Method
	var says []text.Text
	if in.IsReadAtIndex() {
		between := m.Between
		if between == "" {
			between = instrument.Nearest
		}
		says = append(says, text.New("here.between-"+string(between)))
	}
	switch m.Tie {
	case "lower", "upper":
		says = append(says, text.New("here.tie-"+m.Tie))
	case "unfavourable":
		if limits != nil {
			says = append(says, text.New("here.tie-unfavourable", "lower", text.Math(in.Format(limits.Lower)), "upper",
				text.Math(in.Format(limits.Upper)), "unit", in.Unit()))
		}
	}
	switch in.PartBy(m.Between) {
	case length.Degrees:
		says = append(says, text.New("here.degrees"))
	case length.Minutes:
		says = append(says, text.New("here.minutes"))
	case length.Seconds:
		says = append(says, text.New("here.seconds"))
	}
	if asksZero && m.ZeroSign != "optional" {
		says = append(says, text.New("here.sign", "term", p.Term(ZeroError)))
	}
	if m.UnitRequired() {
		says = append(says, text.New("here.unit"))
	}
	return says
}

// atRest is the reading of the closed instrument without its base, as a zero error is read; where that is off the
// scale, which no checked instrument is, it is what is given.
func (p Place) atRest(otherwise instrument.Reading) instrument.Reading {
	r, err := p.Instrument.Read(p.Instrument.Closed())
	if err != nil {
		return otherwise
	}
	r.Base = length.Number{}
	return r
}

// Solution is one right way to read an instrument. Most positions have one; a tie has two, and so has a
// closed instrument that shows less than nothing.
type Solution struct {
	instrument.Reading
	// FromEnd: a negative zero counted back from the last line, so that Main is one cycle
	// higher, Line is n − k and Fine is negative.
	FromEnd bool
	Shown   instrument.Reading // as the figure stands, whatever the way of counting

	place Place
}

// Solutions returns the right ways to read the instrument at y, the one that the class explains first.
// Limits decide a tie that is settled unfavourably. It fails with the instrument's error off the scale.
func (p Place) Solutions(y length.Number, limits *exercise.Limits) ([]*Solution, error) {
	r, err := p.Instrument.ReadBy(y, p.Method.Between)
	if err != nil {
		return nil, err
	}
	if p.Closed {
		return p.closed(r), nil
	}
	lower := &Solution{Reading: r, Shown: r, place: p}
	if !r.Tie || p.Tenths() { // half a tenth is beyond any estimate
		return []*Solution{lower}, nil
	}
	above := p.Instrument.Above(r)
	upper := &Solution{Reading: above, Shown: above, place: p}
	switch p.Method.Tie {
	case "lower":
		return []*Solution{lower}, nil
	case "upper":
		return []*Solution{upper}, nil
	case "unfavourable":
		if limits == nil {
			break
		}
		switch lower.room(limits).Cmp(upper.room(limits)) {
		case -1:
			return []*Solution{lower}, nil
		case 1:
			return []*Solution{upper}, nil
		}
	}
	return []*Solution{lower, upper}, nil
}

// closed returns the ways to read the closed instrument.
func (p Place) closed(r instrument.Reading) []*Solution {
	in := p.Instrument
	signed := &Solution{Reading: r, Shown: r, place: p}
	if e := r.ZeroError; e.Sign() >= 0 || !in.ScaleInterval().Neg().Less(e) || !in.HasFine() ||
		in.Traits().Signed {
		return []*Solution{signed}
	}
	back := &Solution{Reading: r, Shown: r, place: p, FromEnd: true}
	back.Main = in.Around(r.Main.Add(in.ScaleInterval()))
	back.Line = in.Lines() - r.Line
	if r.Tenth != 0 {
		back.Line, back.Tenth = back.Line-1, 10-r.Tenth
	}
	back.Fine = r.Fine.Sub(in.ScaleInterval())
	if p.Method.NegativeZero == "signed-main" {
		return []*Solution{signed, back}
	}
	return []*Solution{back, signed}
}

// room returns the distance of a solution's corrected reading from the nearer limit.
func (s *Solution) room(l *exercise.Limits) length.Number {
	low, high := s.Corrected.Sub(l.Lower), l.Upper.Sub(s.Corrected)
	if low.Less(high) {
		return low
	}
	return high
}

// Step returns what a step should hold: a length in the instrument's unit, or the line's number.
func (s *Solution) Step(step string) length.Number {
	switch step {
	case LeastCount:
		return s.place.Instrument.LeastCount()
	case Main:
		return s.Main
	case FineLine:
		return s.LineNumber()
	case Fine:
		return s.Fine
	case FinerLine:
		return length.Int(int64(s.FinerLine))
	case Finer:
		return s.ThimbleVernier
	case Observed:
		return s.Observed
	case ZeroError:
		return s.place.ZeroTerm()
	}
	return s.Corrected
}

// Target returns the target of an entry of a step: the value x, near the true position where tenths
// are estimated, and a main reading also with the base in it.
func (s *Solution) Target(step string, x length.Number) exercise.Target {
	p := s.place
	target := p.Exactly(step, x)
	exact, is := target.(exercise.Exactly)
	if by := p.tolerance(); is && by.Sign() > 0 && slices.Contains(estimated, step) {
		t := exercise.Within{Exactly: exact, Of: s.exactly(step), By: by.Mul(p.Instrument.LineWorth())}
		if step == FineLine {
			t.By, t.Turn = by, length.Int(int64(p.Instrument.Lines()))
		}
		return t
	}
	if step == Main && s.Base.Sign() != 0 { // with the base already in it; the base is then not added again
		also := exercise.Exactly{Is: x.Add(s.Base), Written: target.Text(), Near: p.Near(step)}
		return exercise.With{Target: target, Also: also}
	}
	return target
}

// Exactly returns the target of a step whose right value is x: on an instrument that is read in fractions also a
// decimal for it.
func (p Place) Exactly(step string, x length.Number) exercise.Target {
	exact := exercise.Exactly{Is: x, Written: p.Text(step, x), Near: p.Near(step)}
	if p.Instrument.Turn().Sign() > 0 && !IsLine(step) && step != LeastCount {
		return p.circular(step, exact)
	}
	if _, decimal := p.Instrument.Decimals(); decimal || IsLine(step) || p.Instrument.Unit().Angular() || p.Tenths() &&
		slices.Contains(estimated, step) {
		return exact
	}
	return exercise.Fraction{Exactly: exact, Strict: p.Method.Strict()}
}

// circular is met by a value whatever full circles are in it. What is read is written from 0 up to a full circle, and a
// zero error the shorter way round.
func (p Place) circular(step string, exact exercise.Exactly) exercise.Target {
	turn := p.Instrument.Turn()
	t := exercise.Circular{Exactly: exact, Turn: turn, Low: turn.Neg(), High: turn}
	switch step {
	case Main, Observed, Corrected, Mean:
		t.Low = length.Number{}
	case ZeroError:
		half := turn.Mul(half)
		t.Low, t.High = half.Neg(), half.Add(p.Instrument.LeastCount())
	}
	return t
}

// Bring returns a value of a step as a circle has it: from 0 up to a full circle, a zero error the shorter way round.
// On other instruments it stays as it is.
func (p Place) Bring(step string, x length.Number) length.Number {
	switch step {
	case ZeroError:
		return p.Instrument.Nearer(x)
	case Main, Observed, Corrected, Mean:
		return p.Instrument.Around(x)
	}
	return x
}

// Near returns how far from a value an entry may lie that was written in another unit: half a least count, and of
// the least count itself 2 %.
func (p Place) Near(step string) length.Number {
	if step == LeastCount {
		return p.Instrument.LeastCount().Mul(length.Frac(1, 50))
	}
	return p.Instrument.LeastCount().Mul(half)
}

// estimated are the steps that an estimated tenth goes into.
var estimated = []string{FineLine, Fine, Observed, ZeroError, Corrected}

// exactly returns the value of a step at the true position, before any estimate: what tenths are judged
// against.
func (s *Solution) exactly(step string) length.Number {
	off := s.Shown.Indicated.Sub(s.Shown.Observed)
	switch step {
	case FineLine:
		if s.FromEnd {
			off = off.Neg()
		}
		return s.Step(step).Add(off.Quo(s.place.Instrument.LineWorth()))
	case Fine, Observed, Corrected:
		return s.Step(step).Add(off)
	}
	return s.Step(step)
}
