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

// The slips; what each means stands in the table below.
const (
	LastLineCounted    Code = "last-line-counted"
	MarkCountedEarly   Code = "mark-counted-early"
	MarkCountedLate    Code = "mark-counted-late"
	HiddenMarkMissed   Code = "hidden-mark-missed"
	HalfMarkMissed     Code = "half-mark-missed"
	HalfMarkAdded      Code = "half-mark-added"
	TurnCountedTwice   Code = "turn-counted-twice"
	MainNextMark       Code = "main-next-mark"
	ZeroCountedForward Code = "zero-counted-forward"
	MainMarkMissed     Code = "main-mark-missed"
	MainAtCoincidence  Code = "main-at-coincidence"
	MainAtPlateEdge    Code = "main-at-plate-edge"
	BaseLeftOut        Code = "base-left-out"
	FineLeftOut        Code = "fine-left-out"
	FineBackwards      Code = "fine-counted-backwards"
	LabelTakenAsLine   Code = "label-taken-as-line"
	LineNotMultiplied  Code = "line-not-multiplied"
	PlaceShift         Code = "place-shift"
	FinerLeftOut       Code = "finer-left-out"
	FinerReadOnDrum    Code = "finer-read-on-drum"
	DrumUpperLine      Code = "drum-upper-line"
	DrumLineMissed     Code = "drum-line-missed"
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
	partFiner
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
	finer length.Number      // F₂ as it was taken so far
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

// partOn is the part that the slip belongs to on an instrument: the line next to the right one is one of
// the finer scale where there is one.
func (s *slip) partOn(in *instrument.Instrument) part {
	if s.code == NeighbourLine && in.HasFiner() {
		return partFiner
	}
	return s.part
}

func one(x length.Number) []length.Number { return []length.Number{x} }

// table holds the slips in the order in which they are named: it is total.
var table = []slip{
	{code: LastLineCounted, part: partFine, did: "took the last line for a reading, where line 0 counts",
		delta: func(a *attempt) []length.Number {
			if a.kind() != instrument.Vernier || a.at.Line != 0 {
				return nil
			}
			if a.is(FineLine) {
				return one(length.Int(int64(a.lines())))
			}
			return a.onFine(a.cycle())
		}},
	{code: MarkCountedEarly, part: partMain, did: "counted a mark before the drum had come round to 0",
		delta: func(a *attempt) []length.Number {
			if a.kind() != instrument.Drum || 10*a.at.Line < 8*a.lines() {
				return nil
			}
			return a.onMain(a.division())
		}},
	{code: MarkCountedLate, part: partMain, did: "left out the mark that had just been passed",
		delta: func(a *attempt) []length.Number {
			if a.kind() != instrument.Drum || 10*a.at.Line > a.lines() || a.at.Main.Less(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		}},
	{code: HiddenMarkMissed, part: partMain, did: "took the first mark in sight instead of the last hidden",
		delta: func(a *attempt) []length.Number {
			if !a.card.Instrument.Spec().Main.Reverse {
				return nil
			}
			return a.onMain(a.division())
		}},
	{code: HalfMarkMissed, part: partMain, did: "overlooked the half mark",
		delta: func(a *attempt) []length.Number {
			if !a.halves() || a.marks()%2 == 0 {
				return nil
			}
			return a.onMain(a.division().Neg())
		}},
	{code: HalfMarkAdded, part: partMain, did: "counted a half mark that is not in sight",
		delta: func(a *attempt) []length.Number {
			if !a.halves() || a.marks()%2 != 0 {
				return nil
			}
			return a.onMain(a.division())
		}},
	{code: TurnCountedTwice, part: partMain, did: "added what the pointer and the beam both already say",
		delta: func(a *attempt) []length.Number {
			if a.kind() != instrument.Dial {
				return nil
			}
			var out []length.Number
			if zeros := a.card.Instrument.Spec().Fine.Zeros; zeros > 1 {
				cycles, _ := a.at.Main.Quo(a.cycle()).Int64()
				if i := (cycles%int64(zeros) + int64(zeros)) % int64(zeros); i >= 1 {
					out = append(out, a.onMain(a.cycle().MulInt(int(i)))...)
				}
			}
			if a.division().Less(a.cycle()) {
				if i, _ := a.at.Fine.Quo(a.division()).Floor().Int64(); i >= 1 {
					out = append(out, a.onMain(a.division().MulInt(int(i)))...)
				}
			}
			return out
		}},
	{code: MainNextMark, part: partMain, did: "took the main mark after the one that counts",
		delta: func(a *attempt) []length.Number {
			if !a.card.Instrument.HasFine() {
				return nil
			}
			return a.onMain(a.division())
		}},
	{code: ZeroCountedForward, part: partZero, did: "read a negative zero error from the front",
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
			if !a.card.Instrument.HasFine() || a.at.Main.Less(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		}},
	{code: MainAtCoincidence, part: partMain, did: "read the main scale at the coinciding line, not at the plate's 0",
		delta: func(a *attempt) []length.Number {
			if a.kind() != instrument.Vernier || a.at.Line == 0 {
				return nil
			}
			return a.onMain(a.card.Instrument.Opposite(a.at).Sub(a.at.Main))
		}},
	{code: MainAtPlateEdge, part: partMain, did: "read the main scale at the plate's edge, not at its 0",
		delta: func(a *attempt) []length.Number {
			in := a.card.Instrument
			if a.kind() != instrument.Vernier {
				return nil
			}
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
			switch {
			case !a.card.Instrument.HasFine() || a.at.Fine.Add(a.at.Finer).Sign() == 0:
				return nil
			case a.is(Fine):
				return one(a.fine.Neg())
			}
			return a.onFine(a.fine.Add(a.finer).Neg())
		}},
	{code: FineBackwards, part: partFine, did: "counted the lines in the wrong direction",
		delta: func(a *attempt) []length.Number {
			n := a.lines()
			if k := a.kind(); k != instrument.Drum && k != instrument.Dial || a.at.Line == 0 || 2*a.at.Line == n {
				return nil
			}
			if a.is(FineLine) {
				return one(length.Int(int64(n)).Sub(a.want).Sub(a.want))
			}
			return a.onFine(a.cycle().Sub(a.fine).Sub(a.fine))
		}},
	{code: LabelTakenAsLine, part: partFine, did: "used the printed number as the number of lines",
		delta: func(a *attempt) []length.Number {
			f := a.card.Instrument.Spec().Fine
			if a.kind() != instrument.Vernier || f.NumberStep == f.NumberEvery || a.at.Line < f.NumberEvery {
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
			if in := a.card.Instrument; !decimal || !in.HasFine() || in.HasFiner() || a.at.Line == 0 || a.count().IsPow10() {
				return nil
			}
			return a.onFine(a.line.Mul(length.Pow10(-places)).Sub(a.fine))
		}},
	{code: PlaceShift, part: partFine, did: "wrote the fine reading a place off",
		delta: func(a *attempt) []length.Number {
			in := a.card.Instrument
			if _, decimal := in.Decimals(); !decimal || !in.HasFine() || a.at.Fine.Add(a.at.Finer).Sign() == 0 {
				return nil
			}
			f := a.fine
			if !a.is(Fine) {
				f = f.Add(a.finer)
			}
			return append(a.onFine(f.MulInt(9)), a.onFine(f.Mul(length.Frac(-9, 10)))...)
		}},
	{code: FinerLeftOut, part: partFiner, did: "stopped at the drum",
		delta: func(a *attempt) []length.Number {
			if a.at.Finer.Sign() == 0 {
				return nil
			}
			return a.onFiner(a.finer.Neg())
		}},
	{code: FinerReadOnDrum, part: partFiner, did: "took the drum's number instead of the vernier line's",
		delta: func(a *attempt) []length.Number {
			if a.at.Finer.Sign() == 0 {
				return nil
			}
			met := a.card.Instrument.DrumMet(a.at)
			if a.is(FinerLine) {
				return one(length.Int(int64(met)).Sub(a.want))
			}
			return a.onFiner(a.count().MulInt(met).Sub(a.finer))
		}},
	{code: DrumUpperLine, part: partFine, did: "took one drum line too many",
		delta: func(a *attempt) []length.Number {
			if !a.card.Instrument.HasFiner() {
				return nil
			}
			return a.onLines(1)
		}},
	{code: DrumLineMissed, part: partFine, did: "took one drum line too few",
		delta: func(a *attempt) []length.Number {
			if !a.card.Instrument.HasFiner() || a.at.Line < 1 {
				return nil
			}
			return a.onLines(-1)
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
			in := a.card.Instrument
			step, n, on := FineLine, in.Lines(), a.onFine
			if in.HasFiner() {
				step, n, on = FinerLine, in.FinerLines(), a.onFiner
			}
			if !in.HasFine() {
				return nil
			}
			if a.is(step) {
				k64, _ := a.want.Floor().Int64()
				k := int(k64)
				return []length.Number{
					length.Int(int64((k+1)%n - k)), length.Int(int64((k+n-1)%n - k)),
				}
			}
			return append(on(a.count()), on(a.count().Neg())...)
		}},
	{code: UnitTenfold, part: partWhole, did: "mixed up centimetres and millimetres",
		fits: func(a *attempt) bool {
			u := a.card.Instrument.Unit()
			return u != length.Inch && !a.step.isLine() &&
				(a.equal(a.want.MulInt(10)) || a.equal(a.want.Mul(length.Frac(1, 10))))
		}},
	{code: UnitInch, part: partWhole, did: "mixed up inches and millimetres",
		fits: func(a *attempt) bool {
			off := func(x length.Number) bool {
				return x.Sub(a.want).Abs().Cmp(a.count().Mul(length.Frac(1, 2))) <= 0
			}
			factor := length.Frac(127, 5)
			return !a.step.isLine() && a.own.Sign() != 0 && (off(a.own.Mul(factor)) || off(a.own.Quo(factor)))
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
			if a.step.isLine() {
				grid = length.Int(1)
			}
			return !a.is(LeastCount) && !a.card.tenths() && !a.own.Quo(grid).IsInt() && a.own.Sub(a.want).Abs().Less(grid)
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
	for _, single := range c.singles() {
		for i := range table {
			if table[i].code == single {
				did = append(did, table[i].did)
			}
		}
	}
	return strings.Join(did, ", and ")
}

// singles takes a pair apart; a single slip is itself.
func (c Code) singles() []Code {
	a, b, pair := strings.Cut(string(c), "+")
	if pair {
		return []Code{Code(a), Code(b)}
	}
	return []Code{c}
}

func (a *attempt) division() length.Number   { return a.card.Instrument.Spec().Main.Division }
func (a *attempt) cycle() length.Number      { return a.card.Instrument.Cycle() }
func (a *attempt) count() length.Number      { return a.card.Instrument.LeastCount() }
func (a *attempt) kind() instrument.FineKind { return a.card.Instrument.Kind() }
func (a *attempt) lines() int                { return a.card.Instrument.Lines() }

// halves reports whether the sleeve has half marks.
func (a *attempt) halves() bool { return a.card.Instrument.Spec().Main.HalfMarks }

// marks is the main reading in main divisions.
func (a *attempt) marks() int64 {
	n, _ := a.at.Main.Quo(a.division()).Int64()
	return n
}

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

// onMain is a change of the main reading, where the step holds one. A negative zero error with one cycle
// too much is left to zero-counted-forward, which says what was done.
func (a *attempt) onMain(x length.Number) []length.Number {
	if a.is(ZeroError) && a.countedForward() && x.Equal(a.cycle()) {
		return nil
	}
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

// onFiner is a change of the finer reading, where the step holds one.
func (a *attempt) onFiner(x length.Number) []length.Number {
	if a.is(Finer) || a.sum() {
		return one(a.signed(x))
	}
	return nil
}

// onLines is a change of the fine reading by whole lines, where the step holds it or their number.
func (a *attempt) onLines(k int) []length.Number {
	if a.is(FineLine) {
		return one(length.Int(int64(k)))
	}
	return a.onFine(a.card.Instrument.LineWorth().MulInt(k))
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
