package kinds

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// The zero errors that a block's cards may carry.
const (
	zeroNone   = "none"   // every instrument shows nothing when closed; zero steps are not asked
	zeroOwn    = "own"    // each instrument's own, the same for all
	zeroVaried = "varied" // another on every card, of either sign, less than half a cycle
)

// zeroSetting asks which zero errors the cards carry.
var zeroSetting = exercise.Setting{Name: "zero", Title: text.New("card.zero-setting.title"), Input: exercise.OneOf,
	Default: zeroOwn, Choices: []exercise.Choice{{Value: zeroNone, Words: text.New("option.none")},
		{Value: zeroOwn, Words: text.New("card.zero-setting.words")},
		{Value: zeroVaried, Words: text.New("card.zero-setting.another-every-card-either")}}}

// awkwardSetting asks for the share of awkward cases.
var awkwardSetting = exercise.Setting{Name: "awkward", Title: text.New("card.awkward-setting.title"),
	Input: exercise.Number, Default: "30",
	Why: text.New("card.awkward-setting.why"), Share: true}

// betweenSetting asks for the share of cards that stand between two steps of the grid.
var betweenSetting = exercise.Setting{Name: "between", Title: text.New("card.between-setting.title"),
	Input: exercise.Number, Default: "30",
	Why:   text.New("card.between-setting.why"),
	Share: true, For: func(in *instrument.Instrument, m exercise.Method) bool {
		switch {
		case in.Traits().Digits:
			return false
		case in.IsReadAtIndex():
			return true
		}
		return settled(m)
	}}

// halvesSetting asks for the share of half marks on a sleeve that has them.
var halvesSetting = exercise.Setting{Name: "halves", Title: text.New("card.halves-setting.title"),
	Input: exercise.Number, Default: "50", Why: text.New("card.halves-setting.why"),
	Share: true,
	For:   func(in *instrument.Instrument, _ exercise.Method) bool { return in.Spec().Main.HalfMarks }}

// Which of two scales is read.
const (
	scaleOwn    = "own"
	scaleSecond = "second"
	scaleTurns  = "turns"
)

// scaleSetting asks which scale is read of an instrument that has two.
var scaleSetting = exercise.Setting{Name: "scale", Title: text.New("card.scale-setting.title"), Input: exercise.OneOf,
	Default: scaleOwn, Choices: []exercise.Choice{{Value: scaleOwn, Words: text.New("card.scale-setting.words")},
		{
			Value: scaleSecond,
			Words: text.New("card.scale-setting.second-other-edge-inside"),
		}, {Value: scaleTurns, Words: text.New("card.scale-setting.turn")}},
	For: func(in *instrument.Instrument, _ exercise.Method) bool {
		second, role := in.Second()
		return second != nil && role != instrument.Opposite
	}}

// How a display stands.
const (
	displayPlain    = "plain"
	displayZeroed   = "zeroed"
	displaySwitched = "switched"
)

// displaySetting asks how displays stand.
var displaySetting = exercise.Setting{Name: "display", Title: text.New("card.display-setting.title"),
	Input: exercise.OneOf, Default: displayPlain,
	Choices: []exercise.Choice{{Value: displayPlain, Words: text.New("card.display-setting.words")},
		{Value: displayZeroed, Words: text.New("card.display-setting.zeroed-size-they-show")},
		{Value: displaySwitched, Words: text.New("card.display-setting.switched-other-unit")}},
	For: func(in *instrument.Instrument, _ exercise.Method) bool { return in.Traits().Digits }}

// checkShares refuses shares that are none.
func checkShares(b exercise.Block, of []exercise.Setting, bad *refusal.Refusal) {
	for _, name := range []string{"awkward", "between", "halves"} {
		if b.Int(of, name) > 100 {
			bad.Add(name, "card.check-shares")
		}
	}
}

// listOf returns a setting that names several things.
func listOf(b exercise.Block, of []exercise.Setting, name string) []string {
	return strings.Fields(b.Setting(of, name))
}

// next is the instrument of the block whose turn it is.
func next(b exercise.Block, d *exercise.Dealer) *instrument.Instrument {
	return b.Instruments[d.Card()%len(b.Instruments)]
}

// taken is the instrument whose turn it is as a card shows it: the scale that is read, the display as it stands, and
// with the zero error of the card.
func taken(b exercise.Block, d *exercise.Dealer, of []exercise.Setting) (in *instrument.Instrument, err error) {
	in = next(b, d)
	scale := b.Setting(of, "scale")
	if second, role := in.Second(); second != nil && role != instrument.Opposite &&
		(scale == scaleSecond || scale == scaleTurns && d.Card()/len(b.Instruments)%2 == 1) {
		if role == instrument.ToothDepthScale {
			spec := second.Spec()
			spec.Name = in.Name() + ", upright"
			if in, err = instrument.New(spec); err != nil {
				return nil, err
			}
		} else {
			in = in.Swapped()
		}
	}
	if in.Traits().Digits {
		switch b.Setting(of, "display") {
		case displayZeroed:
			return zeroedDisplay(d, in)
		case displaySwitched:
			return switched(in)
		}
	}
	return zeroed(d, in, b.Setting(of, "zero"))
}

// zeroedDisplay zeroes a display somewhere on its scale: closed, it then shows that size, less.
func zeroedDisplay(d *exercise.Dealer, in *instrument.Instrument) (*instrument.Instrument, error) {
	const rounds = 50 // steps
	low, high := in.Range()
	steps, _ := high.Sub(low).Quo(in.LeastCount().MulInt(rounds)).Floor().Int64()
	if steps < 8 {
		return in, nil
	}
	at := low.Add(in.LeastCount().MulInt(rounds * (3 + d.Below(int(steps)-6))))
	return in.WithZeroError(at.Neg())
}

// isZeroed reports whether a display was zeroed at a size.
func isZeroed(in *instrument.Instrument) bool {
	return in.Traits().Digits && in.Spec().ZeroError.Cmp(in.LeastCount().MulInt(-100)) <= 0
}

// switched switches a display to another unit that it has, if it has one.
func switched(in *instrument.Instrument) (*instrument.Instrument, error) {
	for _, unit := range []length.Unit{length.Inch, length.Millimetre, length.Centimetre} {
		if _, has := in.Spec().Fine.Steps[unit]; has && unit != in.Unit() {
			return in.InUnit(unit)
		}
	}
	return in, nil
}

// zeroed gives an instrument the zero error of a card.
func zeroed(d *exercise.Dealer, in *instrument.Instrument, zero string) (*instrument.Instrument, error) {
	switch {
	case zero == zeroNone:
		return in.WithZeroError(length.Number{})
	case zero == zeroVaried && !in.Definition().Open: // what is never closed has none
		reach := max(1, min((in.Lines()*in.FinerLines()-1)/2, 12))
		var k int
		if d.Version() < 4 {
			k = 1 + d.Below(reach)
			if d.Below(2) == 0 {
				k = -k
			}
		} else if k = d.Own("zero error of "+in.Name(), 2*reach) - reach; k >= 0 {
			k++
		}
		return in.WithZeroError(in.LeastCount().MulInt(k))
	}
	return in, nil
}

// rate says what a card would come to with a value: what speaks against it besides, and what wrong answers it
// foretells.
type rate func(y length.Number) (against int, tells []exercise.Prediction, err error)

// plain rates all values alike.
func plain(length.Number) (int, []exercise.Prediction, error) { return 0, nil, nil }

// best draws values and keeps the one that costs least; the dealer notes it. The method says how a value between two
// steps is read; without one all stand on the grid.
func best(d *exercise.Dealer, in *instrument.Instrument, m *exercise.Method, of rate) (length.Number, error) {
	if d.Version() < 3 {
		return bestBefore(d, in, of)
	}
	var kept length.Number
	var shows []exercise.Prediction
	least := 0
	for i := range d.Tries() {
		d.Try()
		y := drawn(d, in, m)
		against, tells, err := of(y)
		if err != nil {
			return kept, err
		}
		if cost := 1000*against + d.Cost(tells); i == 0 || cost < least {
			kept, shows, least = y, tells, cost
		}
	}
	d.Deals(in, kept)
	d.Shows(shows)
	return kept, nil
}

// drawn draws a value that the student has not had, at least a main division away from the instrument's card before:
// first from the card's own part of the scale, then from anywhere, at last also however awkward.
func drawn(d *exercise.Dealer, in *instrument.Instrument, m *exercise.Method) (y length.Number) {
	apart := in.Spec().Main.Division
	switch {
	case isZeroed(in):
		apart = length.Number{}
	case in.Traits().Digits:
		apart = in.LeastCount().MulInt(100)
	}
	before, any := d.Before(in)
	third := d.Draws()
	for i := range 3 * third {
		var number int
		y, number = candidate(d, in, m, i/third)
		if !d.Had(in, y) && d.Mine(number) && !(any && y.Sub(before).Abs().Less(apart)) {
			break
		}
	}
	return y
}

// candidate draws a value from the part of the scale that is the card's, but for one cycle at each end, as awkward
// as the dealer says; freely, from anywhere; more freely, in no special case. The number is one that neighbours' first
// cards differ in.
func candidate(d *exercise.Dealer, in *instrument.Instrument, m *exercise.Method, freely int) (y length.Number,
	number int) {
	spec := in.Spec()
	if isZeroed(in) { // a part of about the size at which it was zeroed
		number = d.Below(121) - 60
		return in.LeastCount().MulInt(number), number
	}
	if in.Traits().Signed {
		return bothSides(d, in, m, freely)
	}
	n, v := in.Lines(), in.FinerLines()
	first, _ := spec.Main.From.Quo(in.ScaleInterval()).Floor().Int64()
	last, _ := spec.Main.To.Quo(in.ScaleInterval()).Floor().Int64()
	low, span := int(first)+1, int(last-first)-2
	if span < 1 {
		low, span = int(first), max(1, int(last-first))
	}
	part, parts := d.Part()
	kind := d.Case
	if freely > 0 {
		part, parts = 0, 1
	}
	if freely > 1 {
		kind = exercise.Plain
	}
	from := low + span*part/parts
	to := max(from+1, low+span*(part+1)/parts)
	mark := from + d.Below(to-from)
	steps := 0
	if n == 1 {
		mark = bare(d, in, kind, mark, low, span)
	} else {
		if spec.Main.HalfMarks && in.ScaleInterval().Equal(spec.Main.Division) && (mark%2 != 0) != d.HalfMark {
			if mark++; mark >= low+span {
				mark = max(low, mark-2)
			}
		}
		steps = line(d, kind, n, freely > 1) * v
		if v > 1 && kind != exercise.OnMark {
			steps += d.Below(v)
		}
	}
	y = spec.Base.Add(in.ScaleInterval().MulInt(mark)).Add(in.LeastCount().MulInt(steps))
	if m != nil {
		y = y.Add(in.LeastCount().Mul(length.Frac(int64(tenths(d, in, *m, kind)), 10)))
	}
	return y, mark + steps
}

// bothSides draws a value of a face that is numbered both ways, from the card's own part of it; none in its last tenth,
// and 0 only where that is the awkward case.
func bothSides(d *exercise.Dealer, in *instrument.Instrument, m *exercise.Method, freely int) (y length.Number,
	number int) {
	reach := max(2, in.Lines()/2-1-in.Lines()/20)
	kind := d.Case
	if freely > 1 {
		kind = exercise.Plain
	}
	part, parts := d.Part()
	if freely > 0 {
		part, parts = 0, 1
	}
	from := -reach + 2*reach*part/parts
	to := max(from+1, -reach+2*reach*(part+1)/parts)
	number = from + d.Below(to-from)
	switch {
	case kind == exercise.OnMark:
		number -= number % 10
	case number == 0:
		number = 1
	}
	y = in.LeastCount().MulInt(number)
	if m != nil {
		y = y.Add(in.LeastCount().Mul(length.Frac(int64(tenths(d, in, *m, kind)), 10)))
	}
	return y, number
}

// line draws a line of a fine scale: of a plain card from the card's own part of the cycle, or freely from all of it.
func line(d *exercise.Dealer, kind exercise.Case, n int, freely bool) int {
	switch kind {
	case exercise.Plain:
		first, count := 1, n-1
		if own, has := d.Stretch(); has && !freely {
			first, count = own.Of(n)
			first = max(1, first)
		}
		return first + d.Below(max(1, min(count, n-first)))
	case exercise.NearEnd:
		return n - 1 - d.Below(max(1, n/5))
	case exercise.JustPast:
		return 1 + d.Below(max(1, n/10))
	}
	return 0
}

// bare draws a step of a scale without lines: a display's last digit 0 or 5, or near its own 0.
func bare(d *exercise.Dealer, in *instrument.Instrument, kind exercise.Case, mark, low, span int) int {
	switch {
	case kind == exercise.JustPast:
		return low + d.Below(max(1, span/10))
	case !in.Traits().Digits || kind == exercise.Plain:
		return mark
	case kind == exercise.NearEnd:
		return mark - (mark%10+10)%10 + 5
	}
	return mark - (mark%10+10)%10
}

// settled reports whether a school says which of two lines counts that stand equally well.
func settled(m exercise.Method) bool { return m.Tie != "" && m.Tie != "either" }

// tenths draws how many tenths of a least count a value stands past its step.
func tenths(d *exercise.Dealer, in *instrument.Instrument, m exercise.Method, kind exercise.Case) int {
	midway := !in.Traits().Digits && !in.HasFine() && kind == exercise.NearEnd
	switch {
	case in.Traits().Digits:
		return 0
	case in.Tenths(m.Between):
		switch {
		case kind == exercise.OnMark:
			return 0
		case midway:
			return 4 + d.Below(3)
		}
		return d.Below(10)
	case !in.IsReadAtIndex():
		if d.Between && settled(m) {
			return 5
		}
		return 0
	case !d.Between && !midway:
		return 0
	}
	t := 1 + d.Below(9)
	switch {
	case midway:
		t = 4 + d.Below(3)
	case d.Version() > 3 && settled(m) && m.Between != instrument.Whole && d.Below(2) == 0:
		t = 5
	}
	if t == 5 && !settled(m) && m.Between != instrument.Whole { // either line would be right
		t += 1 - 2*d.Below(2)
	}
	return t
}
