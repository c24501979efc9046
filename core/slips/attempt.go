package slips

import (
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// attempt is one wrong entry with all that a slip may look at. Lengths are in the instrument's unit.
// Where the student's earlier entries are carried, M, F, O and E are the student's own.
type attempt struct {
	*Place
	has      instrument.Traits // what the instrument's scales have
	step     string
	want     length.Number       // T: what the step should hold, after what is carried
	own, off length.Number       // what was written, and by how much it differs
	near     length.Number       // how far an equal value may lie off: half a c when converted from another unit
	estimate length.Number       // how far the estimated tenth in it may lie off; slips of whole values do without
	at       *instrument.Reading // the true reading that the entry belongs to: the closed one for a zero error
	line     length.Number       // k as it was taken so far
	fine     length.Number       // F as it was taken so far
	finer    length.Number       // F₂ as it was taken so far
	obs      length.Number       // O
	zero     length.Number       // e
	whole    bool                // parts of this sum were all asked and are right
	round    length.Number       // where values go round to 0 again; 0 where they do not

	made    []length.Number   // room for what slips give, which is used up at once
	work    *exercise.Working // the card so far; nil where a slip is only foretold
	fromEnd bool              // a negative zero is counted back from the last line
}

func (a *attempt) is(steps ...string) bool { return slices.Contains(steps, a.step) }

// sum reports whether the entry is one that main and fine reading go into.
func (a *attempt) sum() bool { return a.is(Observed, Corrected, ZeroError) }

// equal reports whether a predicted value is the one that was written.
func (a *attempt) equal(p length.Number) bool {
	if a.near.Sign() == 0 {
		return a.own.Equal(p) || a.has.Round && a.around(a.own.Sub(p)).Sign() == 0
	}
	return a.own.Sub(p).Abs().Cmp(a.near) <= 0
}

// write makes x what was written.
func (a *attempt) write(x length.Number) { a.own, a.off = x, x.Sub(a.want) }

// differs reports whether what was written is off by a predicted difference.
func (a *attempt) differs(by length.Number) bool {
	near := &a.near
	if a.estimate.Sign() > 0 {
		near = &a.estimate
	}
	if near.Sign() == 0 {
		return a.off.Equal(by) || a.has.Round && a.around(a.off.Sub(by)).Sign() == 0
	}
	off := a.off.Sub(by).Abs()
	return off.Cmp(*near) <= 0 || a.round.Sign() > 0 && a.round.Sub(off).Abs().Cmp(*near) <= 0
}

// around brings a difference of two values of the step into a full circle where they go round; a line's number and the
// least count do not.
func (a *attempt) around(x length.Number) length.Number {
	if IsLine(a.step) || a.is(LeastCount) {
		return x
	}
	return a.Instrument.Around(x)
}

// wrote reports whether a step was filled in with a value.
func (a *attempt) wrote(step string, x length.Number) bool {
	if a.work == nil {
		return false
	}
	e := a.work.Entry(a.name(step))
	return e != nil && e.Given && e.Value.Equal(x)
}

func (a *attempt) division() length.Number { return a.Instrument.Division() }
func (a *attempt) cycle() length.Number    { return a.Instrument.ScaleInterval() }
func (a *attempt) count() length.Number    { return a.Instrument.LeastCount() }
func (a *attempt) lines() int              { return a.Instrument.Lines() }

// angular reports whether it reads angles.
func (a *attempt) angular() bool { return a.Instrument.Unit().Angular() }

// from is where the main scale begins.
func (a *attempt) from() length.Number { return a.Instrument.Spec().Main.From }

// hasBefore reports whether there is a mark so far before the one that counts: always on a circle, and on a scale that
// goes on below its 0 down to its beginning.
func (a *attempt) hasBefore(by length.Number) bool {
	if a.has.Round {
		return true
	}
	from := a.from()
	if from.Sign() > 0 {
		from = length.Number{}
	}
	return from.Cmp(a.at.Main.Sub(by)) <= 0
}

// dms reports whether the step holds an angle that is written in degrees, minutes and seconds.
func (a *attempt) dms() bool { return a.Instrument.PartBy("") != 0 && !IsLine(a.step) }

// hundredths returns the wanted angle with its minutes written as hundredths of a degree.
func (a *attempt) hundredths() []length.Number {
	if !a.dms() {
		return nil
	}
	return Hundredths(a.want)
}

// Hundredths returns an angle whose minutes are written as hundredths of a degree, and its seconds as ten-thousandths;
// nothing for whole degrees.
func Hundredths(x length.Number) []length.Number {
	if x.IsInt() {
		return nil
	}
	t := x.Abs()
	degrees := t.Floor()
	minutes := t.Sub(degrees).MulInt(60)
	seconds := minutes.Sub(minutes.Floor()).MulInt(60)
	out := degrees.Add(minutes.Floor().Mul(length.Pow10(-2))).Add(seconds.Mul(length.Pow10(-4)))
	if x.Sign() < 0 {
		out = out.Neg()
	}
	return []length.Number{out}
}

// unmarked returns the bare numbers of minutes and of seconds in the wanted angle.
func (a *attempt) unmarked() []length.Number {
	if !a.dms() {
		return nil
	}
	return Unmarked(a.want)
}

// Unmarked returns the bare numbers of minutes and of seconds in an angle below a degree, as degrees; nothing for any
// other angle.
func Unmarked(x length.Number) []length.Number {
	switch size := x.Abs(); {
	case size.Sign() == 0 || !size.Less(length.Int(1)):
		return nil
	case size.Less(length.Minutes.Worth()):
		return []length.Number{x.MulInt(60), x.MulInt(3600)}
	}
	return []length.Number{x.MulInt(60)}
}

// halves reports whether the sleeve has half marks.
func (a *attempt) halves() bool { return a.Instrument.HasHalfMarks() }

// marks is the main reading in main divisions.
func (a *attempt) marks() int64 {
	n, _ := a.at.Main.Quo(a.division()).Int64()
	return n
}

// signed brings a predicted zero error to the sign in which the class records it.
func (a *attempt) signed(e length.Number) length.Number {
	if a.is(ZeroError) && a.Method.Correction() {
		return e.Neg()
	}
	return e
}

// countedForward reports whether the zero error is a negative one that can be read from the front.
func (a *attempt) countedForward() bool {
	e := a.at.ZeroError
	return !a.has.Signed && e.Sign() < 0 && a.cycle().Neg().Less(e)
}

// countedOn returns what counting a negative zero error from the front makes of the steps of a closed card: main 0
// beside the line as it stands, where one way of counting has the main mark before it, and the other the
// lines counted back.
func (a *attempt) countedOn() []length.Number {
	k, f, front := length.Int(int64(a.at.Line)), a.at.Fine, a.at.Main.Add(a.cycle())
	switch {
	case a.is(Main) && !a.fromEnd && (a.wrote(FineLine, k) || a.wrote(Fine, f)):
		return a.one(a.cycle())
	case a.is(FineLine) && a.fromEnd && a.wrote(Main, front):
		return a.one(k.Sub(a.want))
	case a.is(Fine) && a.fromEnd && a.wrote(Main, front):
		return a.one(f.Sub(a.want))
	case a.is(ZeroError):
		return a.one(a.signed(a.cycle().Add(a.at.ZeroError)).Sub(a.want))
	case a.is(Corrected): // O − (L + e), where T is O − e
		return a.one(a.obs.Sub(a.cycle().Add(a.at.ZeroError)).Sub(a.want))
	}
	return nil
}

// onZero is a zero error taken for another: in its own step, and in the corrected reading, where it is subtracted. On a
// closed card it changes the zero error alone.
func (a *attempt) onZero(e length.Number) []length.Number {
	switch {
	case a.is(ZeroError):
		return a.one(a.signed(e).Sub(a.want))
	case a.is(Corrected) && !a.Closed:
		return a.one(a.obs.Sub(e).Sub(a.want))
	}
	return nil
}

// places returns the decimals of a length on this card; false for fractions.
func (a *attempt) places() (places int, decimal bool) {
	places, decimal = a.Instrument.Decimals()
	if a.Tenths() {
		places++
	}
	return places, decimal
}

// behind returns the line number written straight behind the main reading, as a length. It is not possible where
// nothing would be left out by it: where one line is worth one of the last place.
func (a *attempt) behind() (x length.Number, possible bool) {
	places, decimal := a.places()
	in := a.Instrument
	if !decimal || !in.HasFine() || in.HasFiner() || a.at.Line == 0 || a.count().IsPow10() || a.line.Sign() <= 0 {
		return x, false
	}
	begin := 0
	if d := a.division(); d.IsPow10() {
		begin, _ = d.Decimals()
	}
	begin += len(a.line.Floor().String())
	return a.line.Mul(length.Pow10(-begin)), begin < places
}

// rounded returns the wanted value rounded to each number of decimals below the instrument's, where that changes it and
// leaves more than 0.
func (a *attempt) rounded() []length.Number {
	places, decimal := a.places()
	if !decimal || IsLine(a.step) || a.is(LeastCount) {
		return nil
	}
	var out []length.Number
	for p := places - 1; p >= 0; p-- {
		if x := a.want.Round(p); x.Sign() != 0 && !x.Equal(a.want) {
			out = append(out, x)
		}
	}
	return out
}

// Factors of predictions.
var (
	half      = length.Frac(1, 2)
	tenth     = length.Frac(1, 10)
	hundredth = length.Frac(1, 100)
	toTenth   = length.Frac(-9, 10) // the change that makes a tenth of a value
	inch      = length.Frac(127, 5) // in millimetres
)

// pointsMoved returns a value with its decimal point one or two places off.
func pointsMoved(x length.Number) []length.Number {
	return []length.Number{x.MulInt(10), x.Mul(tenth), x.MulInt(100), x.Mul(hundredth)}
}

// one is a list of one number, in the attempt's own room: most slips give one.
func (a *attempt) one(x length.Number) []length.Number {
	a.made = append(a.made, x)
	n := len(a.made)
	return a.made[n-1 : n : n]
}

// onMain is a change of the main reading, where the step holds one.
func (a *attempt) onMain(x length.Number) []length.Number {
	if a.is(Main) || a.sum() {
		return a.one(a.signed(x))
	}
	return nil
}

// onFine is a change of the fine reading, where the step holds one.
func (a *attempt) onFine(x length.Number) []length.Number {
	if a.is(Fine) || a.sum() {
		return a.one(a.signed(x))
	}
	return nil
}

// onFiner is a change of the finer reading, where the step holds one.
func (a *attempt) onFiner(x length.Number) []length.Number {
	if a.is(Finer) || a.sum() {
		return a.one(a.signed(x))
	}
	return nil
}

// onLines is a change of the fine reading by whole lines, where the step holds it or their number.
func (a *attempt) onLines(k int) []length.Number {
	if a.is(FineLine) {
		return a.one(length.Int(int64(k)))
	}
	return a.onFine(a.Instrument.LineWorth().MulInt(k))
}

// byNines reports whether two neighbouring digits that change places may make such a difference: it is a multiple of
// nine in the last place.
func byNines(off length.Number) bool {
	n, whole := off.Mul(length.Pow10(9)).Int64()
	return !whole || n%9 == 0
}

// swaps returns the numbers that text becomes when two neighbouring digits that differ change places. A plus
// before it is no digit.
func swaps(text string) []length.Number {
	var out []length.Number
	text = strings.TrimPrefix(text, "+")
	for i := range len(text) - 1 {
		j := i + 1
		if text[j] == '.' {
			j++
		}
		if text[i] < '0' || text[i] > '9' || j >= len(text) || text[i] == text[j] {
			continue
		}
		b := []byte(text)
		b[i], b[j] = b[j], b[i]
		if x, err := length.Parse(string(b)); err == nil {
			out = append(out, x)
		}
	}
	return out
}
