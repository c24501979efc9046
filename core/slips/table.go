package slips

import (
	"fmt"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// The slips; what each means stands in the table below.
const (
	LastLineCounted    exercise.Code = "last-line-counted"
	MarkCountedEarly   exercise.Code = "mark-counted-early"
	MarkCountedLate    exercise.Code = "mark-counted-late"
	HiddenMarkMissed   exercise.Code = "hidden-mark-missed"
	HalfMarkMissed     exercise.Code = "half-mark-missed"
	HalfMarkAdded      exercise.Code = "half-mark-added"
	TurnCountedTwice   exercise.Code = "turn-counted-twice"
	MainNextMark       exercise.Code = "main-next-mark"
	ZeroCountedForward exercise.Code = "zero-counted-forward"
	MainMarkMissed     exercise.Code = "main-mark-missed"
	MainAtCoincidence  exercise.Code = "main-at-coincidence"
	MainAtPlateEdge    exercise.Code = "main-at-plate-edge"
	BaseLeftOut        exercise.Code = "base-left-out"
	FineLeftOut        exercise.Code = "fine-left-out"
	FineBackwards      exercise.Code = "fine-counted-backwards"
	LabelTakenAsLine   exercise.Code = "label-taken-as-line"
	LineNotMultiplied  exercise.Code = "line-not-multiplied"
	PlaceShift         exercise.Code = "place-shift"
	FinerLeftOut       exercise.Code = "finer-left-out"
	FinerReadOnDrum    exercise.Code = "finer-read-on-drum"
	DrumUpperLine      exercise.Code = "drum-upper-line"
	DrumLineMissed     exercise.Code = "drum-line-missed"
	ZeroNotApplied     exercise.Code = "zero-not-applied"
	ZeroSignFlipped    exercise.Code = "zero-sign-flipped"
	NeighbourLine      exercise.Code = "neighbour-line"
	ZeroEndNotTaken    exercise.Code = "zero-end-not-subtracted"
	ZeroCountedBack    exercise.Code = "zero-counted-back"
	NumberOff          exercise.Code = "number-off"
	LineGluedOn        exercise.Code = "line-glued-on"
	LineAsUnits        exercise.Code = "line-as-units"
	ZeroAppliedTwice   exercise.Code = "zero-applied-twice"
	ValueForLine       exercise.Code = "value-for-line"
	UnitTenfold        exercise.Code = "unit-tenfold"
	PointMoved         exercise.Code = "point-moved"
	UnitInch           exercise.Code = "unit-inch"
	DigitsSwapped      exercise.Code = "digits-swapped"
	RoundedOff         exercise.Code = "rounded-off"
	InventedLine       exercise.Code = "invented-line"
	SumSlip            exercise.Code = "sum-slip"

	HalfDivisionMissed  exercise.Code = "half-division-missed"
	DegreesLeftOut      exercise.Code = "degrees-left-out"
	MinutesAsHundredths exercise.Code = "minutes-as-hundredths"
	MarkLeftOut         exercise.Code = "mark-left-out"
	TurnsLeftOut        exercise.Code = "turns-left-out"
	FineCountedDown     exercise.Code = "fine-counted-down"
	SideSwapped         exercise.Code = "side-swapped"
	CountedRound        exercise.Code = "counted-round"
)

// row is a slip: it changes the wanted value by one of the differences that delta returns, where it can
// happen at all. A whole-value slip has fits in place of delta.
type row struct {
	code  exercise.Code
	part  part
	seen  func(v View) text.Text           // how the right value is seen
	chain func(*instrument.Traits) bool    // what a chain of scales must have for it; nil if all have it
	delta func(a *attempt) []length.Number // what it adds to the value of a step, where the chain has what it must
	fits  func(a *attempt) bool
	gives func(a *attempt) []length.Number // values that somebody may give who makes a whole-value slip
	since int                              // the first dealer that knows of it; 0 for all
	alone bool                             // it makes no pair with another
	place int                              // in the table
}

func init() {
	for i := range table {
		table[i].place = i
	}
}

// unaffected reports whether no slip of a part can change the value of a step: the main reading does not go into a fine
// one, nor a fine one into the main reading.
func unaffected(step string, by part) bool {
	switch step {
	case Main:
		return by == partFine || by == partFiner
	case FineLine, Fine, FinerLine, Finer:
		return by == partMain || by == partBase
	}
	return false
}

// possible reports whether the slip can happen at all at a step, on an instrument that has so much.
func (s *row) possible(step string, has *instrument.Traits) bool {
	return !unaffected(step, s.part) && (s.chain == nil || s.chain(has))
}

// What a chain of scales may have to have.
func hasLines(t *instrument.Traits) bool    { return t.HasLines }
func coincides(t *instrument.Traits) bool   { return t.Coincides }
func hasEdge(t *instrument.Traits) bool     { return t.HasEdge }
func hasThimble(t *instrument.Traits) bool  { return t.HasThimble }
func countsTurns(t *instrument.Traits) bool { return t.CountsTurns }
func counts(t *instrument.Traits) bool      { return t.Counts }
func signed(t *instrument.Traits) bool      { return t.Signed }

// hasBoth is a main scale and a fine one over it.
func hasBoth(t *instrument.Traits) bool { return t.HasMarks && t.HasLines }

// crosses is a chain on which a main mark can be taken too early or too late, as the line 0 comes near.
func crosses(t *instrument.Traits) bool { return t.HasThimble || t.Counts }

// bothWays is a chain whose lines can be counted from the wrong end or on the wrong side.
func bothWays(t *instrument.Traits) bool { return t.GoesRound || t.BothWays }

// part is the part of the work to which a slip belongs.
type part int

const (
	partMain part = iota
	partFine
	partFiner
	partBase
	partZero
	partWhole
)

// partNames are the parts as predictions name them.
var partNames = map[part]string{partMain: "main", partFine: "fine", partFiner: "finer", partBase: "base",
	partZero: "zero", partWhole: exercise.Anywhere}

// partOn is the part that the slip belongs to on an instrument: the line next to the right one is one of
// the finer scale where there is one.
func (s *row) partOn(in *instrument.Instrument) part {
	if s.code == NeighbourLine && in.HasFiner() {
		return partFiner
	}
	return s.part
}

// table holds the slips in the order in which they are named: it is total.
var table = []row{
	{
		code: SideSwapped, part: partFine, chain: signed,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.side-swapped.seen"), v.MarkStands())
		},
		delta: func(a *attempt) []length.Number {
			switch {
			case a.at.Line == 0 && a.at.Tenth == 0:
				return nil
			case a.is(FineLine):
				return a.one(a.want.MulInt(-2))
			}
			return a.onFine(a.fine.MulInt(-2))
		},
	},
	{
		code: CountedRound, part: partFine, chain: signed,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.counted-round.seen"), v.MarkStands())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Fine.Sign() >= 0 {
				return nil
			}
			return a.onLines(a.lines())
		},
	},
	{
		code: LastLineCounted, part: partFine, chain: coincides,
		seen: func(v View) text.Text {
			return text.New("slips.last-line-counted.seen", "last", v.lines(), "count", v.count())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Line != 0 {
				return nil
			}
			if a.is(FineLine) {
				return a.one(length.Int(int64(a.lines())))
			}
			return a.onFine(a.cycle())
		},
	},
	{
		code: MarkCountedEarly, part: partMain, chain: crosses,
		seen: func(v View) text.Text {
			return v.way("slips.mark-counted-early.seen")
		},
		delta: func(a *attempt) []length.Number {
			if 10*a.at.Line < 8*a.lines() {
				return nil
			}
			return a.onMain(a.division())
		},
	},
	{
		code: MarkCountedLate, part: partMain, chain: crosses,
		seen: func(v View) text.Text {
			return v.way("slips.mark-counted-late.seen")
		},
		delta: func(a *attempt) []length.Number {
			if 10*a.at.Line > a.lines() || !a.hasBefore(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		},
	},
	{
		code: HiddenMarkMissed, part: partMain, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.New("slips.hidden-mark-missed.seen")
		},
		delta: func(a *attempt) []length.Number {
			if !a.Instrument.Reversed() {
				return nil
			}
			return a.onMain(a.division())
		},
	},
	{
		code: HalfMarkMissed, part: partMain, chain: hasThimble,
		seen: func(v View) text.Text {
			return v.way("slips.half-mark-missed.seen")
		},
		delta: func(a *attempt) []length.Number {
			if n := a.marks(); !a.halves() || n%2 == 0 || n < 0 { // below 0 there is none to overlook
				return nil
			}
			return a.onMain(a.division().Neg())
		},
	},
	{
		code: HalfMarkAdded, part: partMain, chain: hasThimble,
		seen: func(v View) text.Text {
			return v.way("slips.half-mark-added.seen")
		},
		delta: func(a *attempt) []length.Number {
			if !a.halves() || a.marks()%2 != 0 {
				return nil
			}
			return a.onMain(a.division())
		},
	},
	{
		code: TurnCountedTwice, part: partMain, chain: countsTurns,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.turn-counted-twice.seen"), v.Where())
		},
		delta: func(a *attempt) []length.Number {
			var out []length.Number
			if zeros := a.Instrument.Spec().Fine.Zeros; zeros > 1 {
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
		},
	},
	{
		code: HalfDivisionMissed, part: partMain, chain: hasBoth,
		seen: func(v View) text.Text {
			return text.New("slips.half-division-missed.seen", "division", v.length(v.Instrument.Division()), "mark",
				v.length(v.Shown.Main))
		},
		delta: func(a *attempt) []length.Number {
			part := a.at.Main.Sub(a.at.Main.Floor())
			if d := a.division(); !a.angular() || !d.Less(length.Int(1)) || !length.Int(1).Quo(d).IsInt() ||
				part.Sign() == 0 {
				return nil
			}
			return a.onMain(part.Neg())
		},
	},
	{
		code: MainNextMark, part: partMain, chain: hasBoth,
		seen: func(v View) text.Text {
			return text.Run(MainNextMark.You(), v.Where())
		},
		delta: func(a *attempt) []length.Number {
			return a.onMain(a.division())
		},
	},
	{
		code: ZeroCountedForward, part: partZero,
		seen: func(v View) text.Text {
			return text.Run(v.Instrument.ZeroStory(), v.recorded("negative"), text.New("slips.count-from-end"))
		},
		delta: func(a *attempt) []length.Number {
			e := a.at.ZeroError
			if !a.countedForward() {
				return nil
			}
			if a.Closed {
				return a.countedOn()
			}
			switch a.step {
			case Corrected: // O − (L + e), where T is O − e
				return a.one(a.obs.Sub(a.cycle().Add(e)).Sub(a.want))
			case ZeroError:
				return a.one(a.signed(a.cycle().Add(e)).Sub(a.want))
			}
			return nil
		},
	},
	{
		code: MainMarkMissed, part: partMain, chain: hasBoth,
		seen: func(v View) text.Text {
			return text.Run(MainMarkMissed.You(), v.Where())
		},
		delta: func(a *attempt) []length.Number {
			if !a.hasBefore(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		},
	},
	{
		code: DegreesLeftOut, part: partMain, chain: hasBoth,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.degrees-left-out.seen"), v.MarkStands())
		},
		delta: func(a *attempt) []length.Number {
			if !a.angular() || a.at.Main.Sign() == 0 || !a.is(Observed, Corrected) {
				return nil
			}
			return a.one(a.at.Main.Neg())
		},
	},
	{
		code: TurnsLeftOut, part: partMain, chain: counts,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.turns-left-out.seen"), v.MarkStands())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Main.Sign() == 0 || !a.is(Observed, Corrected) {
				return nil
			}
			return a.one(a.at.Main.Neg())
		},
	},
	{
		code: MainAtCoincidence, part: partMain, chain: coincides,
		seen: func(v View) text.Text {
			return text.New("slips.main-at-coincidence.seen", "line", v.Shown.Line)
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Line == 0 {
				return nil
			}
			return a.onMain(a.Instrument.Opposite(*a.at).Sub(a.at.Main))
		},
	},
	{
		code: MainAtPlateEdge, part: partMain, chain: hasEdge,
		seen: func(v View) text.Text {
			return text.New("slips.main-at-plate-edge.seen")
		},
		delta: func(a *attempt) []length.Number {
			in := a.Instrument
			edge := a.at.Main.Add(a.at.Fine).Sub(in.PlateEdge())
			if in.Form().Retrograde || edge.Less(in.Spec().Main.From) && in.Turn().Sign() == 0 {
				return nil
			}
			mark := edge.Quo(a.division()).Floor().Mul(a.division())
			return a.onMain(mark.Sub(a.at.Main))
		},
	},
	{
		code: BaseLeftOut, part: partBase,
		seen: func(v View) text.Text {
			return text.New("slips.base-left-out.seen", "base", v.length(v.Shown.Base))
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Base.Sign() == 0 || !a.is(Observed, Corrected) {
				return nil
			}
			return a.one(a.at.Base.Neg())
		},
	},
	{
		code: FineLeftOut, part: partFine, chain: hasBoth,
		seen: func(v View) text.Text {
			if v.Step == Fine {
				return text.Run(v.LineStands(), v.worked())
			}
			return text.New("slips.fine-left-out.seen", "term", v.fineTerm(), "sum", v.product())
		},
		delta: func(a *attempt) []length.Number {
			switch {
			case a.at.Fine.Add(a.at.ThimbleVernier).Sign() == 0:
				return nil
			case a.is(Fine):
				return a.one(a.fine.Neg())
			}
			return a.onFine(a.fine.Add(a.finer).Neg())
		},
	},
	{
		code: FineBackwards, part: partFine, chain: bothWays,
		seen: func(v View) text.Text {
			k := v.Shown.LineNumber()
			return text.New("slips.fine-counted-backwards.seen", "way", v.Instrument.Scale().NumbersRun(v.Instrument),
				"line", v.line(), "other", text.Math(v.Text(FineLine, length.Int(int64(v.lines())).Sub(k))))
		},
		delta: func(a *attempt) []length.Number {
			n := a.lines()
			if a.at.Line == 0 || 2*a.at.Line == n {
				return nil
			}
			if a.is(FineLine) {
				return a.one(length.Int(int64(n)).Sub(a.want).Sub(a.want))
			}
			return a.onFine(a.cycle().Sub(a.fine).Sub(a.fine))
		},
	},
	{
		code: FineCountedDown, part: partFine, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.New("slips.fine-counted-down.seen", "mark", v.length(v.Shown.Main))
		},
		delta: func(a *attempt) []length.Number {
			if a.from().Sign() >= 0 || a.at.Main.Sign() >= 0 || a.at.Fine.Sign() == 0 {
				return nil
			}
			return a.onFine(a.fine.MulInt(-2))
		},
	},
	{
		code: LabelTakenAsLine, part: partFine, chain: coincides,
		seen: func(v View) text.Text {
			f := v.Instrument.Spec().Fine
			return text.Run(text.New("slips.label-taken-as-line.seen", "step", f.NumberStep, "every", f.NumberEvery),
				v.LineStands())
		},
		delta: func(a *attempt) []length.Number {
			f := a.Instrument.Spec().Fine
			if f.NumberStep == f.NumberEvery || a.at.Line < f.NumberEvery {
				return nil
			}
			label := a.at.Line / f.NumberEvery * f.NumberStep
			if a.is(FineLine) {
				return a.one(length.Int(int64(label)).Sub(a.want))
			}
			return a.onFine(a.count().MulInt(label).Sub(a.fine))
		},
	},
	{
		code: LineNotMultiplied, part: partFine, chain: hasLines,
		seen: func(v View) text.Text {
			return text.New("slips.line-not-multiplied.seen", "worth", v.worth(), "unit", v.unit(), "sum", v.product())
		},
		delta: func(a *attempt) []length.Number {
			places, decimal := a.Instrument.Decimals()
			if part := a.Instrument.PartBy(""); part != 0 {
				unit := part.Worth()
				if a.at.Line == 0 || a.count().Equal(unit) {
					return nil
				}
				return a.onFine(a.line.Mul(unit).Sub(a.fine))
			}
			if in := a.Instrument; !decimal || in.HasFiner() || a.at.Line == 0 ||
				a.count().IsPow10() {
				return nil
			}
			return a.onFine(a.line.Mul(length.Pow10(-places)).Sub(a.fine))
		},
	},
	{
		code: PlaceShift, part: partFine, chain: hasLines,
		seen: func(v View) text.Text {
			return text.New("slips.place-shift.seen-"+v.fineSize(), "term", v.fineTerm(), "sum", v.product())
		},
		delta: func(a *attempt) []length.Number {
			if _, decimal := a.Instrument.Decimals(); !decimal || a.at.Fine.Add(a.at.ThimbleVernier).Sign() == 0 {
				return nil
			}
			f := a.fine
			if !a.is(Fine) {
				f = f.Add(a.finer)
			}
			if a.onFine(f.MulInt(9)) == nil {
				return nil
			}
			a.onFine(f.Mul(toTenth))
			return a.made[len(a.made)-2:]
		},
	},
	{
		code: FinerLeftOut, part: partFiner, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.New("slips.finer-left-out.seen", "line", v.Shown.FinerLine,
				"sum", text.Math(fmt.Sprintf("%d × %s = %s", v.Shown.FinerLine, v.count(),
					v.unit().With(v.Instrument.Format(v.Shown.ThimbleVernier)))))
		},
		delta: func(a *attempt) []length.Number {
			if a.at.ThimbleVernier.Sign() == 0 {
				return nil
			}
			return a.onFiner(a.finer.Neg())
		},
	},
	{
		code: FinerReadOnDrum, part: partFiner, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.New("slips.finer-read-on-drum.seen", "line", v.Shown.FinerLine)
		},
		delta: func(a *attempt) []length.Number {
			if a.at.ThimbleVernier.Sign() == 0 {
				return nil
			}
			met := a.Instrument.DrumMet(*a.at)
			if a.is(FinerLine) {
				return a.one(length.Int(int64(met)).Sub(a.want))
			}
			return a.onFiner(a.count().MulInt(met).Sub(a.finer))
		},
	},
	{
		code: DrumUpperLine, part: partFine, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.drum-upper-line.seen"), v.elsewhere())
		},
		delta: func(a *attempt) []length.Number {
			if !a.Instrument.HasFiner() {
				return nil
			}
			return a.onLines(1)
		},
	},
	{
		code: DrumLineMissed, part: partFine, chain: hasThimble,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.drum-line-missed.seen"), v.elsewhere())
		},
		delta: func(a *attempt) []length.Number {
			if !a.Instrument.HasFiner() || a.at.Line < 1 {
				return nil
			}
			return a.onLines(-1)
		},
	},
	{
		code: ZeroNotApplied, part: partZero,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.zero-not-applied.seen", "term", v.Term(ZeroError)), v.applied())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.ZeroError.Sign() == 0 || !a.is(Corrected) {
				return nil
			}
			return a.one(a.zero)
		},
	},
	{
		code: ZeroSignFlipped, part: partZero,
		seen: func(v View) text.Text {
			switch {
			case v.Step == ZeroError && v.Shown.ZeroError.Sign() < 0:
				return text.Run(v.Instrument.ZeroStory(), v.recorded("negative"))
			case v.Step == ZeroError:
				return text.Run(v.Instrument.ZeroStory(), v.recorded("positive"))
			}
			return text.Run(text.New("slips.zero-sign-flipped.seen", "term", v.Term(ZeroError)), v.applied())
		},
		delta: func(a *attempt) []length.Number {
			switch {
			case a.at.ZeroError.Sign() == 0:
			case a.is(Corrected):
				return a.one(a.zero.MulInt(2))
			case a.is(ZeroError):
				return a.one(a.want.MulInt(-2))
			}
			return nil
		},
	},
	{
		code: NeighbourLine, part: partFine, chain: hasLines,
		seen: func(v View) text.Text {
			return v.beside()
		},
		delta: func(a *attempt) []length.Number {
			in := a.Instrument
			step, n, on := FineLine, in.Lines(), a.onFine
			if in.HasFiner() {
				step, n, on = FinerLine, in.FinerLines(), a.onFiner
			}
			if a.is(step) {
				k64, _ := a.want.Floor().Int64()
				k := int(k64)
				if a.has.Signed {
					return []length.Number{length.Int(1), length.Int(-1)}
				}
				return []length.Number{
					length.Int(int64((k+1)%n - k)), length.Int(int64((k+n-1)%n - k)),
				}
			}
			if on(a.count()) == nil {
				return nil
			}
			on(a.count().Neg())
			return a.made[len(a.made)-2:]
		},
	},
	{
		code: ZeroEndNotTaken, part: partZero, since: 4, alone: true,
		seen: func(v View) text.Text {
			return text.Run(v.Instrument.ZeroStory(), text.New("slips.zero-end-not-subtracted.seen"), v.zeroIs())
		},
		delta: func(a *attempt) []length.Number {
			if !a.countedForward() {
				return nil
			}
			return a.onZero(a.cycle().Add(a.at.ZeroError).Neg())
		},
	},
	{
		code: ZeroCountedBack, part: partZero, since: 4, alone: true,
		seen: func(v View) text.Text {
			return text.Run(v.Instrument.ZeroStory(), text.New("slips.zero-counted-back.seen"), v.zeroIs())
		},
		delta: func(a *attempt) []length.Number {
			if e := a.at.ZeroError; a.has.Signed || e.Sign() <= 0 || a.cycle().Cmp(e) <= 0 {
				return nil
			}
			return a.onZero(a.cycle().Sub(a.at.ZeroError).Neg())
		},
	},
	{
		code: NumberOff, part: partMain, since: 4, alone: true,
		seen: func(v View) text.Text {
			if v.over() {
				return text.Run(text.New("slips.number-off.seen-after"), v.Where())
			}
			return text.Run(text.New("slips.number-off.seen-before"), v.Where())
		},
		delta: func(a *attempt) []length.Number {
			main := a.Instrument.Spec().Main
			apart := main.Division.MulInt(main.NumberEvery)
			if !Can(a.Instrument, Main) || main.NumberEvery <= 1 || a.onMain(apart) == nil {
				return nil
			}
			if !a.hasBefore(apart) {
				return a.made[len(a.made)-1:]
			}
			a.onMain(apart.Neg())
			return a.made[len(a.made)-2:]
		},
	},
	{
		code: LineGluedOn, part: partFine, since: 4, alone: true, chain: hasBoth,
		seen: func(v View) text.Text {
			key := "slips.line-glued-on.seen"
			if v.Step == Fine {
				key = "slips.line-glued-on.seen-fine"
			}
			return text.New(key, "worth", v.worth(), "unit", v.unit(), "sum", v.product())
		},
		delta: func(a *attempt) []length.Number {
			behind, possible := a.behind()
			if !possible {
				return nil
			}
			return a.onFine(behind.Sub(a.fine))
		},
	},
	{
		code: LineAsUnits, part: partFine, since: 4, alone: true, chain: hasLines,
		seen: func(v View) text.Text {
			key := "slips.line-as-units.seen"
			if v.Step == Fine {
				key = "slips.line-as-units.seen-fine"
			}
			units := text.New("unit.whole." + string(v.unit()))
			return text.New(key, "units", units, "worth", v.worth(), "unit", v.unit(), "sum", v.product())
		},
		delta: func(a *attempt) []length.Number {
			if a.Instrument.HasFiner() || a.at.Line == 0 {
				return nil
			}
			if part := a.Instrument.PartBy(""); part != 0 && a.is(Fine) && a.count().Equal(part.Worth()) {
				return nil // a bare number: the mark was left out
			}
			return a.onFine(a.line.Sub(a.fine))
		},
	},
	{
		code: ZeroAppliedTwice, part: partZero, since: 4, alone: true,
		seen: func(v View) text.Text {
			return text.Run(text.New("slips.zero-applied-twice.seen", "term", v.Term(ZeroError)), v.applied())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.ZeroError.Sign() == 0 || !a.is(Corrected) {
				return nil
			}
			return a.one(a.zero.Neg())
		},
	},
	{
		code: ValueForLine, part: partFine, since: 4, alone: true, chain: hasLines,
		seen: func(v View) text.Text {
			return text.New("slips.value-for-line.seen", "worth", v.length(v.Shown.Fine))
		},
		delta: func(a *attempt) []length.Number {
			places, decimal := a.Instrument.Decimals()
			if part := a.Instrument.PartBy(""); part != 0 {
				minute := length.Minutes.Worth()
				if !a.is(FineLine) || a.at.Line == 0 || a.count().Equal(minute) || !a.count().Quo(minute).IsInt() {
					return nil
				}
				return a.one(a.want.Mul(a.count().Quo(minute)).Sub(a.want))
			}
			if in := a.Instrument; !a.is(FineLine) || !decimal || in.HasFiner() || a.at.Line == 0 ||
				a.count().IsPow10() {
				return nil
			}
			return a.one(a.want.Mul(a.count()).Mul(length.Pow10(places)).Sub(a.want))
		},
	},
	{
		code: MinutesAsHundredths, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.minutes-as-hundredths.seen")
		},
		fits:  func(a *attempt) bool { return slices.ContainsFunc(a.hundredths(), a.equal) },
		gives: (*attempt).hundredths,
	},
	{
		code: MarkLeftOut, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.mark-left-out.seen")
		},
		fits:  func(a *attempt) bool { return slices.ContainsFunc(a.unmarked(), a.equal) },
		gives: (*attempt).unmarked,
	},
	{
		code: UnitTenfold, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.unit-tenfold.seen-" + v.size())
		},
		fits: func(a *attempt) bool {
			u := a.Instrument.Unit()
			return u != length.Inch && !u.Angular() && !IsLine(a.step) &&
				(a.equal(a.want.MulInt(10)) || a.equal(a.want.Mul(tenth)))
		},
		gives: func(a *attempt) []length.Number {
			if a.angular() {
				return nil
			}
			return []length.Number{a.want.MulInt(10), a.want.Mul(tenth)}
		},
	},
	{
		code: PointMoved, part: partWhole, since: 4,
		seen: func(v View) text.Text {
			if v.hundredfold() {
				return text.New("slips.point-moved.seen-hundredfold-" + v.size())
			}
			return text.New("slips.point-moved.seen-tenfold-" + v.size())
		},
		fits: func(a *attempt) bool {
			if _, decimal := a.Instrument.Decimals(); !decimal || a.Instrument.Unit() != length.Inch || IsLine(a.step) {
				return false
			}
			return slices.ContainsFunc(pointsMoved(a.want), a.equal)
		},
		gives: func(a *attempt) []length.Number { return pointsMoved(a.want) },
	},
	{
		code: UnitInch, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.unit-inch.seen", "unit", v.unit())
		},
		fits: func(a *attempt) bool {
			if IsLine(a.step) || a.angular() {
				return false
			}
			off := func(x length.Number) bool {
				return x.Sub(a.want).Abs().Cmp(a.count().Mul(half)) <= 0
			}
			small := a.count().MulInt(25) // below it, other wrong values lie within half a least count too
			return a.want.Abs().Cmp(small) >= 0 && a.own.Abs().Cmp(small) >= 0 &&
				(off(a.own.Mul(inch)) || off(a.own.Quo(inch)))
		},
		gives: func(a *attempt) []length.Number {
			places, _ := a.Instrument.Decimals()
			if a.angular() {
				return nil
			}
			return []length.Number{a.want.Mul(inch).Round(places), a.want.Quo(inch).Round(places + 2)}
		},
	},
	{
		code: DigitsSwapped, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.digits-swapped.seen")
		},
		fits: func(a *attempt) bool {
			if _, decimal := a.Instrument.Decimals(); !decimal || a.near.Sign() == 0 && !byNines(a.off) {
				return false
			}
			return slices.ContainsFunc(swaps(a.Text(a.step, a.want)), a.equal)
		},
		gives: func(a *attempt) []length.Number { return swaps(a.Text(a.step, a.want)) },
	},
	{
		code: RoundedOff, part: partWhole, since: 4,
		seen: func(v View) text.Text {
			return text.New("slips.rounded-off.seen", "step", v.length(v.Instrument.LeastCount()))
		},
		fits: func(a *attempt) bool {
			if a.near.Sign() == 0 && !a.has.Round { // then it has as many decimals as it was rounded to
				places, _ := a.places()
				written, ends := a.own.Decimals()
				if !ends || written >= places || !a.want.Round(written).Equal(a.own) {
					return false
				}
			}
			return slices.ContainsFunc(a.rounded(), a.equal)
		},
		gives: func(a *attempt) []length.Number { return a.rounded() },
	},
	{
		code: InventedLine, part: partWhole,
		seen: func(v View) text.Text {
			switch {
			case !v.Instrument.HasFine():
				return text.Run(text.New("slips.invented-line.seen-marks"), v.Where())
			case v.Step == Main:
				return text.New("slips.invented-line.seen-main", "term", v.fineTerm())
			case IsLine(v.Step):
				return text.New("slips.invented-line.seen-line")
			}
			return text.New("slips.invented-line.seen", "step", v.length(v.Instrument.LeastCount()))
		},
		fits: func(a *attempt) bool {
			grid := a.count()
			if IsLine(a.step) {
				grid = length.Int(1)
			}
			return !a.is(LeastCount) && !a.Tenths() && a.off.Abs().Less(grid) && !a.own.Quo(grid).IsInt()
		},
		gives: func(a *attempt) []length.Number {
			if IsLine(a.step) {
				return a.one(a.want.Add(half))
			}
			return a.one(a.want.Add(a.count().Mul(half)))
		},
	},
	{
		code: SumSlip, part: partWhole,
		seen: func(v View) text.Text {
			return text.New("slips.sum-slip.seen")
		},
		fits: func(a *attempt) bool { return a.whole },
	},
}
