package slips

import (
	"fmt"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
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
)

// row is a slip: it changes the wanted value by one of the differences that delta returns, where it can
// happen at all. A whole-value slip has fits in place of delta.
type row struct {
	code  exercise.Code
	part  part
	did   string                           // what somebody did who made it
	short string                           // the same in two or three words, for a picture
	seen  func(v Sight) string             // how the right value is seen
	chain func(*instrument.Traits) bool    // what a chain of scales must have for it; nil if all have it
	delta func(a *attempt) []length.Number // what it adds to the value of a step, where the chain has what it must
	fits  func(a *attempt) bool
	gives func(a *attempt) []length.Number // values that somebody may give who makes a whole-value slip
	since int                              // the first dealer that knows of it; 0 for all
	alone bool                             // it makes no pair with another
	place int                              // in the table
}

// changes returns what the slip adds to the value of a step: nothing where it cannot happen.
func (s *row) changes(a *attempt) []length.Number {
	if s.chain != nil && !s.chain(&a.has) {
		return nil
	}
	return s.delta(a)
}

// What a chain of scales may have to have.
func hasLines(t *instrument.Traits) bool    { return t.HasLines }
func coincides(t *instrument.Traits) bool   { return t.Coincides }
func hasEdge(t *instrument.Traits) bool     { return t.HasEdge }
func goesRound(t *instrument.Traits) bool   { return t.GoesRound }
func hasThimble(t *instrument.Traits) bool  { return t.HasThimble }
func countsTurns(t *instrument.Traits) bool { return t.CountsTurns }

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
		code: LastLineCounted, part: partFine, chain: coincides,
		did:   "took the last {line} for a reading, where {line} 0 counts",
		short: "last {line} counted",
		seen: func(v Sight) string {
			return fmt.Sprintf("The {plate}'s 0 is exactly on {a mark}, so {line} 0 and {line} %d both line up with one. "+
				"{Line} 0 counts: the {plate reading} is 0, not %d × %s.", v.lines(), v.lines(), v.count())
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
		code: MarkCountedEarly, part: partMain, chain: hasThimble,
		did:   "counted {a mark} before the {drum} had come round to 0",
		short: "{mark} too early",
		seen: func(v Sight) string {
			next := "The next {mark} is only just coming into sight"
			if v.reversed() {
				next = "The next {mark} is only just going out of sight"
			}
			return next + ": look at the {drum}, not at the {mark}. " +
				"Its large numbers at the {index line} say that it has not yet come round to 0, so the {mark} does not count."
		},
		delta: func(a *attempt) []length.Number {
			if 10*a.at.Line < 8*a.lines() {
				return nil
			}
			return a.onMain(a.division())
		},
	},
	{
		code: MarkCountedLate, part: partMain, chain: hasThimble,
		did:   "left out the {mark} that had just been passed",
		short: "{mark} too late",
		seen: func(v Sight) string {
			passed := "The {mark} has just been passed"
			if v.reversed() {
				passed = "The {mark} has just gone out of sight"
			}
			return passed + ": look at the {drum}, not at the {mark}. " +
				"Its small numbers at the {index line} say that 0 has just gone past, so the {mark} counts."
		},
		delta: func(a *attempt) []length.Number {
			if 10*a.at.Line > a.lines() || a.at.Main.Less(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		},
	},
	{
		code: HiddenMarkMissed, part: partMain, chain: hasThimble,
		did:   "took the first {mark} in sight instead of the last hidden",
		short: "{mark} in sight",
		seen: func(v Sight) string {
			return "That is the first {mark} in sight. On this {sleeve} the numbers run the other way: " +
				"the last {mark} hidden under the {drum} counts, found by counting back."
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
		did:   "overlooked the {half mark}",
		short: "{half mark} missed",
		seen: func(v Sight) string {
			if v.reversed() {
				return "{A half mark}, on the other side of the {index line}, is hidden under the {drum} too: it counts."
			}
			return "{A half mark}, on the other side of the {index line}, is clear of the {drum} too: it counts."
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
		did:   "counted {a half mark} that does not count yet",
		short: "{half mark} added",
		seen: func(v Sight) string {
			if v.reversed() {
				return "The next {half mark} is still in sight: it does not count."
			}
			return "The next {half mark} is not yet clear of the {drum}: it does not count."
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
		did:   "added what the {pointer} and the beam both already say",
		short: "turn counted twice",
		seen: func(v Sight) string {
			return "The {pointer} has counted that already. " + v.Where()
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
		code: MainNextMark, part: partMain, chain: hasLines,
		did:   "took the {mark} after the one that counts",
		short: "next {mark}",
		seen: func(v Sight) string {
			return "You read one {mark} too far. " + v.Where()
		},
		delta: func(a *attempt) []length.Number {
			return a.onMain(a.division())
		},
	},
	{
		code: ZeroCountedForward, part: partZero,
		did:   "read a negative {zero error} from the front",
		short: "zero from the front",
		seen: func(v Sight) string {
			return v.Instrument.ZeroStory() + " So the {zero error} is negative" + v.recorded() +
				" Count the {line}s back from the end of the scale."
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
		code: MainMarkMissed, part: partMain, chain: hasLines,
		did:   "took one {mark} too few",
		short: "{mark} too few",
		seen: func(v Sight) string {
			return "You read one {mark} too few. " + v.Where()
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Main.Less(a.division()) {
				return nil
			}
			return a.onMain(a.division().Neg())
		},
	},
	{
		code: MainAtCoincidence, part: partMain, chain: coincides,
		did:   "read the {main scale} at the {coinciding line}, not at the {plate}'s 0",
		short: "read at the {line}",
		seen: func(v Sight) string {
			return fmt.Sprintf("You read the {mark} at {line} %d, the {coinciding line}. Read the {main scale} at the {plate}'s 0. "+
				"Use the {coinciding line} for the {plate reading} only.", v.Shown.Line)
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Line == 0 {
				return nil
			}
			return a.onMain(a.Instrument.Opposite(a.at).Sub(a.at.Main))
		},
	},
	{
		code: MainAtPlateEdge, part: partMain, chain: hasEdge,
		did:   "read the {main scale} at the {plate}'s edge, not at its 0",
		short: "read at the edge",
		seen: func(v Sight) string {
			return "That is the {mark} at the {plate}'s edge. The edge is only where the metal ends: " +
				"read at the {plate}'s 0 {line}, which is further in."
		},
		delta: func(a *attempt) []length.Number {
			in := a.Instrument
			edge := a.at.Main.Add(a.at.Fine).Sub(in.PlateEdge())
			if in.Form().Retrograde || edge.Less(in.Spec().Main.From) {
				return nil
			}
			mark := edge.Quo(a.division()).Floor().Mul(a.division())
			return a.onMain(mark.Sub(a.at.Main))
		},
	},
	{
		code: BaseLeftOut, part: partBase,
		did:   "forgot the base",
		short: "base left out",
		seen: func(v Sight) string {
			return fmt.Sprintf("The scale's 0 stands for %s %s on this instrument; add it.",
				v.Instrument.FormatMain(v.Shown.Base), v.Instrument.Unit())
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Base.Sign() == 0 || !a.is(Observed, Corrected) {
				return nil
			}
			return a.one(a.at.Base.Neg())
		},
	},
	{
		code: FineLeftOut, part: partFine, chain: hasLines,
		did:   "gave the {main reading} only",
		short: "main only",
		seen: func(v Sight) string {
			if v.Step == Fine {
				return v.worked(v.LineStands())
			}
			return v.worked("You wrote the {main reading} only. Add the " + v.fineTerm())
		},
		delta: func(a *attempt) []length.Number {
			switch {
			case a.at.Fine.Add(a.at.Finer).Sign() == 0:
				return nil
			case a.is(Fine):
				return a.one(a.fine.Neg())
			}
			return a.onFine(a.fine.Add(a.finer).Neg())
		},
	},
	{
		code: FineBackwards, part: partFine, chain: goesRound,
		did:   "counted the {line}s in the wrong direction",
		short: "{line}s backwards",
		seen: func(v Sight) string {
			k := v.Shown.LineNumber()
			return fmt.Sprintf("You counted in the wrong direction. The numbers increase %s. The right {line} is %s, not %s.",
				v.Instrument.Scale().NumbersRun(v.Instrument), v.line(), v.Text(FineLine, length.Int(int64(v.lines())).Sub(k)))
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
		code: LabelTakenAsLine, part: partFine, chain: coincides,
		did:   "used the printed number as the number of {line}s",
		short: "number for {line}s",
		seen: func(v Sight) string {
			f := v.Instrument.Spec().Fine
			return fmt.Sprintf("The printed numbers increase by %d every %d {line}s, so they are not {line} numbers. "+
				"Count the {line}s. %s.", f.NumberStep, f.NumberEvery, v.LineStands())
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
		did:   "took the {line}'s number for the last digits, without the {least count}",
		short: "{line} not times",
		seen: func(v Sight) string {
			return v.worked(fmt.Sprintf("The number of the {line} is not yet a length; one {line} is worth %s %s",
				v.worth(),
				v.unit()))
		},
		delta: func(a *attempt) []length.Number {
			places, decimal := a.Instrument.Decimals()
			if in := a.Instrument; !decimal || in.HasFiner() || a.at.Line == 0 ||
				a.count().IsPow10() {
				return nil
			}
			return a.onFine(a.line.Mul(length.Pow10(-places)).Sub(a.fine))
		},
	},
	{
		code: PlaceShift, part: partFine, chain: hasLines,
		did:   "wrote the {fine reading} a place off",
		short: "a place off",
		seen: func(v Sight) string {
			return v.worked("You wrote the " + v.fineTerm() + " ten times too " + v.fineSize())
		},
		delta: func(a *attempt) []length.Number {
			if _, decimal := a.Instrument.Decimals(); !decimal || a.at.Fine.Add(a.at.Finer).Sign() == 0 {
				return nil
			}
			f := a.fine
			if !a.is(Fine) {
				f = f.Add(a.finer)
			}
			return append(a.onFine(f.MulInt(9)), a.onFine(f.Mul(length.Frac(-9, 10)))...)
		},
	},
	{
		code: FinerLeftOut, part: partFiner, chain: hasThimble,
		did:   "stopped at the {drum}",
		short: "vernier left out",
		seen: func(v Sight) string {
			return fmt.Sprintf("The {drum} gives only the last {line} passed. What lies past it the vernier tells: {line} %d, %d × %s = %s.",
				v.Shown.FinerLine, v.Shown.FinerLine, v.count(), v.Instrument.Format(v.Shown.Finer))
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Finer.Sign() == 0 {
				return nil
			}
			return a.onFiner(a.finer.Neg())
		},
	},
	{
		code: FinerReadOnDrum, part: partFiner, chain: hasThimble,
		did:   "took the {drum}'s number instead of the {finer line}'s",
		short: "{drum}'s number",
		seen: func(v Sight) string {
			return fmt.Sprintf("That is the {drum}'s number opposite that {line}. The {finer line}'s own number counts: %d.",
				v.Shown.FinerLine)
		},
		delta: func(a *attempt) []length.Number {
			if a.at.Finer.Sign() == 0 {
				return nil
			}
			met := a.Instrument.DrumMet(a.at)
			if a.is(FinerLine) {
				return a.one(length.Int(int64(met)).Sub(a.want))
			}
			return a.onFiner(a.count().MulInt(met).Sub(a.finer))
		},
	},
	{
		code: DrumUpperLine, part: partFine, chain: hasThimble,
		did:   "took one {drum} {line} too many",
		short: "{drum} {line} too many",
		seen: func(v Sight) string {
			return "Read the last {drum} {line} that has passed the {index line}. The next one has not reached it." +
				v.elsewhere()
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
		did:   "took one {drum} {line} too few",
		short: "{drum} {line} too few",
		seen: func(v Sight) string {
			return "You read one {drum} {line} too few. The next one has also passed the {index line}." + v.elsewhere()
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
		did:   "left the {zero error} out",
		short: "zero left out",
		seen: func(v Sight) string {
			return "You left out the " + v.Term(ZeroError) + ". " + v.applied()
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
		did:   "used the {zero error} with the wrong sign",
		short: "zero's sign",
		seen: func(v Sight) string {
			switch {
			case v.Step == ZeroError && v.Shown.ZeroError.Sign() < 0:
				return v.Instrument.ZeroStory() + " So the {zero error} is negative" + v.recorded()
			case v.Step == ZeroError:
				return v.Instrument.ZeroStory() + " So the {zero error} is positive" + v.recorded()
			}
			return "You used the wrong sign for the " + v.Term(ZeroError) + ". " + v.applied()
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
		did:   "took the {line} next to the right one",
		short: "next {line}",
		seen: func(v Sight) string {
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
		did:   "counted a negative {zero error} from the front, then gave it a minus",
		short: "front with a minus",
		seen: func(v Sight) string {
			return v.Instrument.ZeroStory() + " You counted from the front and put a minus before it. Count back from the end: " + v.zeroIs()
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
		did:   "counted a positive {zero error} back from the end",
		short: "zero from the end",
		seen: func(v Sight) string {
			return v.Instrument.ZeroStory() + " You counted back from the end. Count from 0: " + v.zeroIs()
		},
		delta: func(a *attempt) []length.Number {
			if e := a.at.ZeroError; e.Sign() <= 0 || a.cycle().Cmp(e) <= 0 {
				return nil
			}
			return a.onZero(a.cycle().Sub(a.at.ZeroError).Neg())
		},
	},
	{
		code: NumberOff, part: partMain, since: 4, alone: true,
		did:   "read the printed number before or after the one that counts",
		short: "next number",
		seen: func(v Sight) string {
			number := "You read the printed number before the one that counts. "
			if v.over() {
				number = "You read the printed number after the one that counts. "
			}
			return number + v.Where()
		},
		delta: func(a *attempt) []length.Number {
			main := a.Instrument.Spec().Main
			apart := main.Division.MulInt(main.NumberEvery)
			if !Can(a.Instrument, Main) || main.NumberEvery <= 1 || a.onMain(apart) == nil {
				return nil
			}
			if a.at.Main.Less(apart) {
				return a.made[len(a.made)-1:]
			}
			a.onMain(apart.Neg())
			return a.made[len(a.made)-2:]
		},
	},
	{
		code: LineGluedOn, part: partFine, since: 4, alone: true, chain: hasLines,
		did:   "put the {line} number straight behind the {main reading}",
		short: "{line} put behind",
		seen: func(v Sight) string {
			behind := "the {main reading}"
			if v.Step == Fine {
				behind = "the decimal point"
			}
			return v.worked(fmt.Sprintf("You put the {line} number straight behind %s. One {line} is worth %s %s", behind, v.worth(), v.unit()))
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
		did:   "added the {line} number as whole units",
		short: "{line}s as units",
		seen: func(v Sight) string {
			added := "You added the {line} number as whole "
			if v.Step == Fine {
				added = "You wrote the {line} number as whole "
			}
			return v.worked(fmt.Sprintf("%s%s. One {line} is worth %s %s", added, v.Instrument.Unit().Plural(), v.worth(), v.unit()))
		},
		delta: func(a *attempt) []length.Number {
			if a.Instrument.HasFiner() || a.at.Line == 0 {
				return nil
			}
			return a.onFine(a.line.Sub(a.fine))
		},
	},
	{
		code: ZeroAppliedTwice, part: partZero, since: 4, alone: true,
		did:   "applied the {zero error} twice",
		short: "zero twice",
		seen: func(v Sight) string {
			return "You applied the " + v.Term(ZeroError) + " twice. Apply it once. " + v.applied()
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
		did:   "wrote the {fine reading} for the {line}",
		short: "value for {line}",
		seen: func(v Sight) string {
			return fmt.Sprintf("You wrote what the {line} is worth, %s. This box asks for its number: count the {line}s up to it.",
				v.written(v.Shown.Fine))
		},
		delta: func(a *attempt) []length.Number {
			places, decimal := a.Instrument.Decimals()
			if in := a.Instrument; !a.is(FineLine) || !decimal || in.HasFiner() || a.at.Line == 0 || a.count().IsPow10() {
				return nil
			}
			return a.one(a.want.Mul(a.count()).Mul(length.Pow10(places)).Sub(a.want))
		},
	},
	{
		code: UnitTenfold, part: partWhole,
		did:   "mixed up centimetres and millimetres",
		short: "cm for mm",
		seen: func(v Sight) string {
			return "Your value is ten times too " + v.size() + ". Check whether you wrote centimetres or millimetres."
		},
		fits: func(a *attempt) bool {
			u := a.Instrument.Unit()
			return u != length.Inch && !IsLine(a.step) &&
				(a.equal(a.want.MulInt(10)) || a.equal(a.want.Mul(length.Frac(1, 10))))
		},
		gives: func(a *attempt) []length.Number {
			return []length.Number{a.want.MulInt(10), a.want.Mul(length.Frac(1, 10))}
		},
	},
	{
		code: PointMoved, part: partWhole, since: 4,
		did:   "moved the decimal point",
		short: "point moved",
		seen: func(v Sight) string {
			times := "ten"
			if v.hundredfold() {
				times = "a hundred"
			}
			return "Your value is " + times + " times too " + v.size() + ". Check where you put the decimal point."
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
		did:   "mixed up inches and millimetres",
		short: "inches for mm",
		seen: func(v Sight) string {
			return "Your value fits when inches are taken for millimetres, or the other way round: this scale is in " +
				string(v.Instrument.Unit()) + "."
		},
		fits: func(a *attempt) bool {
			off := func(x length.Number) bool {
				return x.Sub(a.want).Abs().Cmp(a.count().Mul(length.Frac(1, 2))) <= 0
			}
			factor := length.Frac(127, 5)
			small := a.count().MulInt(25) // below it, other wrong values lie within half a least count too
			return !IsLine(a.step) && a.want.Abs().Cmp(small) >= 0 && a.own.Abs().Cmp(small) >= 0 &&
				(off(a.own.Mul(factor)) || off(a.own.Quo(factor)))
		},
		gives: func(a *attempt) []length.Number {
			places, _ := a.Instrument.Decimals()
			factor := length.Frac(127, 5)
			return []length.Number{a.want.Mul(factor).Round(places), a.want.Quo(factor).Round(places + 2)}
		},
	},
	{
		code: DigitsSwapped, part: partWhole,
		did:   "wrote the digits in the wrong order",
		short: "digits swapped",
		seen: func(v Sight) string {
			return "You swapped two digits."
		},
		fits: func(a *attempt) bool {
			if _, decimal := a.Instrument.Decimals(); !decimal || a.near.Sign() == 0 && !byNines(a.own.Sub(a.want)) {
				return false
			}
			return slices.ContainsFunc(swaps(a.Text(a.step, a.want)), a.equal)
		},
		gives: func(a *attempt) []length.Number { return swaps(a.Text(a.step, a.want)) },
	},
	{
		code: RoundedOff, part: partWhole, since: 4,
		did:   "rounded the reading",
		short: "rounded",
		seen: func(v Sight) string {
			return fmt.Sprintf("You rounded the value. This instrument reads in steps of %s %s, so keep all decimal places.", v.count(), v.unit())
		},
		fits:  func(a *attempt) bool { return slices.ContainsFunc(a.rounded(), a.equal) },
		gives: func(a *attempt) []length.Number { return a.rounded() },
	},
	{
		code: InventedLine, part: partWhole,
		did:   "gave a value between two {line}s, which the instrument cannot show",
		short: "between {line}s",
		seen: func(v Sight) string {
			switch {
			case !v.Instrument.HasFine():
				return "Read this scale at its {mark}s, not between them. " + v.Where()
			case v.Step == Main:
				return "The {main reading} is always a whole {mark}. The " + v.fineTerm() + " is the part after it."
			case IsLine(v.Step):
				return "{A line} number is always a whole number."
			}
			return fmt.Sprintf("This instrument reads in steps of %s %s. Write a multiple of %s %s.",
				v.count(), v.unit(), v.count(), v.unit())
		},
		fits: func(a *attempt) bool {
			grid := a.count()
			if IsLine(a.step) {
				grid = length.Int(1)
			}
			return !a.is(LeastCount) && !a.Tenths() && !a.own.Quo(grid).IsInt() && a.own.Sub(a.want).Abs().Less(grid)
		},
		gives: func(a *attempt) []length.Number {
			if IsLine(a.step) {
				return a.one(a.want.Add(length.Frac(1, 2)))
			}
			return a.one(a.want.Add(a.count().Mul(length.Frac(1, 2))))
		},
	},
	{
		code: SumSlip, part: partWhole,
		did:   "had the parts right and the sum wrong",
		short: "sum wrong",
		seen: func(v Sight) string {
			return "Your parts are correct. Check the addition."
		},
		fits: func(a *attempt) bool { return a.whole },
	},
}
