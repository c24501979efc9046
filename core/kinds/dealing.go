package kinds

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
)

// The zero errors that a block's cards may carry.
const (
	zeroNone   = "none"   // every instrument shows nothing when closed; zero steps are not asked
	zeroOwn    = "own"    // each instrument's own, the same for all
	zeroVaried = "varied" // another on every card, of either sign, less than half a cycle
)

// zeroSetting asks which zero errors the cards carry.
var zeroSetting = exercise.Setting{Name: "zero", Title: "Zero errors", Input: exercise.OneOf, Default: zeroOwn,
	Choices: []exercise.Choice{{Value: zeroNone, Words: "none"}, {Value: zeroOwn, Words: "each instrument's own"},
		{Value: zeroVaried, Words: "another on every card, of either sign"}}}

// awkwardSetting asks for the share of awkward cases.
var awkwardSetting = exercise.Setting{Name: "awkward", Title: "Awkward cases, %", Input: exercise.Number,
	Default: "30",
	Why:     "Awkward: the plate's 0 exactly on a mark, just past one, or nearly at the next."}

// checkAwkward refuses a share that is none.
func checkAwkward(b exercise.Block, of []exercise.Setting, bad *refusal.Refusal) {
	if n := b.Int(of, "awkward"); n < 0 || n > 100 {
		bad.Add("awkward", "must be a whole number of per cent from 0 to 100")
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

// zeroed gives an instrument the zero error of a card.
func zeroed(d *exercise.Dealer, in *instrument.Instrument, zero string) (*instrument.Instrument, error) {
	switch zero {
	case zeroNone:
		return in.WithZeroError(length.Number{})
	case zeroVaried:
		reach := max(1, min((in.Lines()*in.FinerLines()-1)/2, 12))
		k := 1 + d.Below(reach)
		if d.Below(2) == 0 {
			k = -k
		}
		return in.WithZeroError(in.LeastCount().MulInt(k))
	}
	return in, nil
}

// tries is how many values are drawn for a card; the most telling is kept.
const tries = 6

// value draws an indicated value on the grid: away from the ends of the scale, and as awkward as the
// dealer's case says.
func value(d *exercise.Dealer, in *instrument.Instrument) length.Number {
	spec := in.Spec()
	n, v := in.Lines(), in.FinerLines()
	first, _ := spec.Main.From.Quo(in.Cycle()).Floor().Int64()
	last, _ := spec.Main.To.Quo(in.Cycle()).Floor().Int64()
	span := int(last - first)
	margin := min(span/3, max(span/20, 3))
	mark := int(first) + margin + d.Below(max(1, span-2*margin))
	line := 0
	switch {
	case n == 1: // no lines to choose from
	case d.Case == exercise.Plain:
		line = 1 + d.Below(n-1)
	case d.Case == exercise.NearEnd:
		line = n - 1 - d.Below(max(1, n/5))
	case d.Case == exercise.JustPast:
		line = 1 + d.Below(max(1, n/10))
	}
	steps := line * v
	if v > 1 && d.Case != exercise.OnMark {
		steps += d.Below(v)
	}
	return spec.Base.Add(in.Cycle().MulInt(mark)).Add(in.LeastCount().MulInt(steps))
}

// best draws values and keeps the one that costs least, such as one that tells slips apart; a value that
// the student has had costs more than any other. The dealer notes it.
func best(d *exercise.Dealer, in *instrument.Instrument, cost func(y length.Number) (int, error)) (length.Number,
	error) {
	var kept length.Number
	least := -1
	for range tries {
		y := value(d, in)
		c, err := cost(y)
		if err != nil {
			return kept, err
		}
		if d.Had(in, y) {
			c += 1000
		}
		if least < 0 || c < least {
			kept, least = y, c
		}
	}
	d.Deals(in, kept)
	return kept, nil
}

// clashes counts the pairs of slips that predict the same value.
func clashes(all []exercise.Prediction) int {
	n := 0
	for i, a := range all {
		for _, b := range all[i+1:] {
			if a.Code != b.Code && a.Value.Equal(b.Value) {
				n++
			}
		}
	}
	return n
}
