package marking

import (
	"slices"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
)

// Code names a slip: a known mistake that predicts the wrong value it gives. A pair of slips is
// written with a plus between the two.
type Code string

// The slips that concern verniers and zero errors; what each means stands in the table below.
const (
	LastLineCounted    Code = "last-line-counted"
	MainNextMark       Code = "main-next-mark"
	ZeroCountedForward Code = "zero-counted-forward"
	MainMarkMissed     Code = "main-mark-missed"
	MainAtCoincidence  Code = "main-at-coincidence"
	MainAtPlateEdge    Code = "main-at-plate-edge"
	BaseLeftOut        Code = "base-left-out"
	FineLeftOut        Code = "fine-left-out"
	LabelTakenAsLine   Code = "label-taken-as-line"
	LineNotMultiplied  Code = "line-not-multiplied"
	PlaceShift         Code = "place-shift"
	ZeroNotApplied     Code = "zero-not-applied"
	ZeroSignFlipped    Code = "zero-sign-flipped"
	NeighbourLine      Code = "neighbour-line"
	UnitTenfold        Code = "unit-tenfold"
	UnitInch           Code = "unit-inch"
	DigitsSwapped      Code = "digits-swapped"
	InventedLine       Code = "invented-line"
	SumSlip            Code = "sum-slip"
)

// part is what of the work a slip belongs to.
type part int

const (
	partMain part = iota
	partFine
	partBase
	partZero
	partWhole
)

// attempt is one wrong entry with all that a slip may look at. Lengths are in the instrument's unit.
// Where the student's earlier entries are carried, M, F, O and E are the student's own.
type attempt struct {
	card  *Card
	step  Step
	want  length.Number      // T: what the step should hold, after what is carried
	own   length.Number      // what was written
	near  length.Number      // how far an equal value may lie off: half a c when converted from another unit
	at    instrument.Reading // the true reading that the entry belongs to: the closed one for a zero error
	line  length.Number      // k as it was taken so far
	fine  length.Number      // F as it was taken so far
	obs   length.Number      // O
	zero  length.Number      // e
	whole bool               // parts of this sum were all asked and are right
}

func (a *attempt) is(steps ...Step) bool { return slices.Contains(steps, a.step) }

// sum reports whether the entry is one that main and fine reading go into.
func (a *attempt) sum() bool { return a.is(Observed, Corrected, ZeroError) }

// equal reports whether a predicted value is the one that was written.
func (a *attempt) equal(p length.Number) bool {
	if a.near.Sign() == 0 {
		return a.own.Equal(p)
	}
	return a.own.Sub(p).Abs().Cmp(a.near) <= 0
}

// slip is a rule of the table: it changes the wanted value by one of the differences that delta
// returns, where it can happen at all. A whole-value rule has fits in place of delta.
type slip struct {
	code  Code
	part  part
	did   string
	delta func(a *attempt) []length.Number
	fits  func(a *attempt) bool
}

func one(x length.Number) []length.Number { return []length.Number{x} }

// table holds the slips in the order in which they are named: it is total.
var table = []slip{
	{code: LastLineCounted, part: partFine, did: "took the last line for a reading, where line 0 counts",
		delta: func(a *attempt) []length.Number {
			if a.at.Line != 0 {
				return nil
			}
			if a.is(FineLine) {
				return one(length.Int(int64(a.card.Instrument.Spec().Fine.Divisions)))
			}
			return a.onFine(a.cycle())
		}},
	{code: MainNextMark, part: partMain, did: "took the main mark after the plate's 0",
		delta: func(a *attempt) []length.Number {
			if a.is(ZeroError) && a.countedForward() {
				return nil // the same value; zero-counted-forward says what was done
			}
			return a.onMain(a.division())
		}},
	{code: ZeroCountedForward, part: partZero, did: "read a negative zero error from the front of the plate",
		delta: func(a *attempt) []length.Number {
			e := a.at.ZeroError
			if !a.countedForward() {
				return nil
			}
			switch a.step {
			case Corrected: // O − (L + e), where T is O − e
				return one(a.obs.Sub(a.cycle().Add(e)).Sub(a.want))
			case ZeroError:
				return one(a.signed(a.cycle().Add(e)).Sub(a.want))
			}
			return nil
		}},
	{code: MainMarkMissed, part: partMain, did: "took one main mark too few",
		delta: func(a *attempt) []length.Number {
			if a.at.Main.Less(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		}},
	{code: MainAtCoincidence, part: partMain, did: "read the main scale at the coinciding line, not at the plate's 0",
		delta: func(a *attempt) []length.Number {
			if a.at.Line == 0 {
				return nil
			}
			return a.onMain(a.card.Instrument.Opposite(a.at).Sub(a.at.Main))
		}},
	{code: MainAtPlateEdge, part: partMain, did: "read the main scale at the plate's edge, not at its 0",
		delta: func(a *attempt) []length.Number {
			in := a.card.Instrument
			edge := a.at.Main.Add(a.at.Fine).Sub(in.PlateEdge())
			if in.Form().Retrograde || edge.Less(in.Spec().Main.From) {
				return nil
			}
			mark := edge.Quo(a.division()).Floor().Mul(a.division())
			return a.onMain(mark.Sub(a.at.Main))
		}},
	{code: BaseLeftOut, part: partBase, did: "forgot the base",
		delta: func(a *attempt) []length.Number {
			if a.at.Base.Sign() == 0 || !a.is(Observed, Corrected) {
				return nil
			}
			return one(a.at.Base.Neg())
		}},
	{code: FineLeftOut, part: partFine, did: "gave the main reading only",
		delta: func(a *attempt) []length.Number {
			if a.at.Fine.Sign() == 0 {
				return nil
			}
			return a.onFine(a.fine.Neg())
		}},
	{code: LabelTakenAsLine, part: partFine, did: "used the printed number as the number of lines",
		delta: func(a *attempt) []length.Number {
			f := a.card.Instrument.Spec().Fine
			if f.NumberStep == f.NumberEvery || a.at.Line < f.NumberEvery {
				return nil
			}
			label := a.at.Line / f.NumberEvery * f.NumberStep
			if a.is(FineLine) {
				return one(length.Int(int64(label)).Sub(a.want))
			}
			return a.onFine(a.count().MulInt(label).Sub(a.fine))
		}},
	{code: LineNotMultiplied, part: partFine, did: "took the line's number for the last digits, without the least count",
		delta: func(a *attempt) []length.Number {
			places, decimal := a.card.Instrument.Decimals()
			if !decimal || a.at.Line == 0 || a.count().Equal(length.Pow10(-places)) {
				return nil
			}
			return a.onFine(a.line.Mul(length.Pow10(-places)).Sub(a.fine))
		}},
	{code: PlaceShift, part: partFine, did: "wrote the fine reading a place off",
		delta: func(a *attempt) []length.Number {
			if _, decimal := a.card.Instrument.Decimals(); !decimal || a.at.Fine.Sign() == 0 {
				return nil
			}
			return append(a.onFine(a.fine.MulInt(9)), a.onFine(a.fine.Mul(length.Frac(-9, 10)))...)
		}},
	{code: ZeroNotApplied, part: partZero, did: "left the zero error out",
		delta: func(a *attempt) []length.Number {
			if a.at.ZeroError.Sign() == 0 || !a.is(Corrected) {
				return nil
			}
			return one(a.zero)
		}},
	{code: ZeroSignFlipped, part: partZero, did: "used the zero error with the wrong sign",
		delta: func(a *attempt) []length.Number {
			switch {
			case a.at.ZeroError.Sign() == 0:
			case a.is(Corrected):
				return one(a.zero.MulInt(2))
			case a.is(ZeroError):
				return one(a.want.MulInt(-2))
			}
			return nil
		}},
	{code: NeighbourLine, part: partFine, did: "took the line next to the right one",
		delta: func(a *attempt) []length.Number {
			if a.is(FineLine) {
				n := a.card.Instrument.Spec().Fine.Divisions
				k64, _ := a.want.Int64()
				k := int(k64)
				return []length.Number{
					length.Int(int64((k+1)%n - k)), length.Int(int64((k+n-1)%n - k)),
				}
			}
			return append(a.onFine(a.count()), a.onFine(a.count().Neg())...)
		}},
	{code: UnitTenfold, part: partWhole, did: "mixed up centimetres and millimetres",
		fits: func(a *attempt) bool {
			u := a.card.Instrument.Unit()
			return u != length.Inch && !a.is(FineLine) &&
				(a.equal(a.want.MulInt(10)) || a.equal(a.want.Mul(length.Frac(1, 10))))
		}},
	{code: UnitInch, part: partWhole, did: "mixed up inches and millimetres",
		fits: func(a *attempt) bool {
			off := func(x length.Number) bool {
				return x.Sub(a.want).Abs().Cmp(a.count().Mul(length.Frac(1, 2))) <= 0
			}
			factor := length.Frac(127, 5)
			return !a.is(FineLine) && a.own.Sign() != 0 && (off(a.own.Mul(factor)) || off(a.own.Quo(factor)))
		}},
	{code: DigitsSwapped, part: partWhole, did: "wrote the digits in the wrong order",
		fits: func(a *attempt) bool {
			if _, decimal := a.card.Instrument.Decimals(); !decimal {
				return false
			}
			for _, x := range swaps(a.card.Text(a.step, a.want)) {
				if a.equal(x) {
					return true
				}
			}
			return false
		}},
	{code: InventedLine, part: partWhole, did: "gave a value between two lines, which the instrument cannot show",
		fits: func(a *attempt) bool {
			grid := a.count()
			if a.is(FineLine) {
				grid = length.Int(1)
			}
			return !a.is(LeastCount) && !a.own.Quo(grid).IsInt() && a.own.Sub(a.want).Abs().Less(grid)
		}},
	{code: SumSlip, part: partWhole, did: "had the parts right and the sum wrong",
		fits: func(a *attempt) bool { return a.whole }},
}

// Slip is a slip as it is shown to people: its code and what somebody did who made it.
type Slip struct {
	Code Code
	Did  string
}

// Slips lists all slips in table order.
func Slips() []Slip {
	out := make([]Slip, len(table))
	for i, s := range table {
		out[i] = Slip{s.code, s.did}
	}
	return out
}

// Did says in words what somebody does who makes the slip or pair of slips.
func (c Code) Did() string {
	var did []string
	for one := range strings.SplitSeq(string(c), "+") {
		for i := range table {
			if string(table[i].code) == one {
				did = append(did, table[i].did)
			}
		}
	}
	return strings.Join(did, ", and ")
}

func (a *attempt) division() length.Number { return a.card.Instrument.Spec().Main.Division }
func (a *attempt) cycle() length.Number    { return a.card.Instrument.Cycle() }
func (a *attempt) count() length.Number    { return a.card.Instrument.LeastCount() }

// signed brings a predicted zero error to the sign in which the class records it.
func (a *attempt) signed(e length.Number) length.Number {
	if a.is(ZeroError) && a.card.Method.correction() {
		return e.Neg()
	}
	return e
}

// countedForward reports whether the zero error is a negative one that can be read from the front.
func (a *attempt) countedForward() bool {
	e := a.at.ZeroError
	return e.Sign() < 0 && a.cycle().Neg().Less(e)
}

// onMain is a change of the main reading, where the step holds one.
func (a *attempt) onMain(x length.Number) []length.Number {
	if a.is(Main) || a.sum() {
		return one(a.signed(x))
	}
	return nil
}

// onFine is a change of the fine reading, where the step holds one.
func (a *attempt) onFine(x length.Number) []length.Number {
	if a.is(Fine) || a.sum() {
		return one(a.signed(x))
	}
	return nil
}

// swaps returns the numbers that text becomes when two neighbouring digits that differ change places.
func swaps(text string) []length.Number {
	var out []length.Number
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

// Prediction is the wrong value that a slip gives at one step of a card.
type Prediction struct {
	Code  Code
	Value length.Number
}

// Predictions returns what each slip of a definite value would make of a step whose earlier entries
// are right, in table order.
func (c *Card) Predictions(step Step) ([]Prediction, error) {
	solutions, err := c.Solutions()
	if err != nil {
		return nil, err
	}
	w := newWorksheet(c, solutions[0], nil)
	a := w.attempt(step, w.solution.Value(step))
	var out []Prediction
	for i := range table {
		if table[i].delta == nil {
			continue
		}
		for _, by := range table[i].delta(a) {
			out = append(out, Prediction{table[i].code, a.want.Add(by)})
		}
	}
	return out, nil
}
