package kinds

import (
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// How the first two dealers drew their values. What was given by them is dealt by them for ever, so that nothing
// here changes.

// tries is the number of values that earlier dealers drew for a card.
const tries = 6

// value draws an indicated value on the grid: away from the ends of the scale, and as awkward as the
// dealer's case says.
func value(d *exercise.Dealer, in *instrument.Instrument) length.Number {
	if in.Traits().Signed { // there were none when these dealers were new
		y, _ := bothSides(d, in, nil, 1)
		return y
	}
	spec := in.Spec()
	n, v := in.Lines(), in.FinerLines()
	first, _ := spec.Main.From.Quo(in.ScaleInterval()).Floor().Int64()
	last, _ := spec.Main.To.Quo(in.ScaleInterval()).Floor().Int64()
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
	return spec.Base.Add(in.ScaleInterval().MulInt(mark)).Add(in.LeastCount().MulInt(steps))
}

// bestBefore draws values and keeps the one that costs least; one that the student has had costs more than any other.
func bestBefore(d *exercise.Dealer, in *instrument.Instrument, of rate) (kept length.Number, err error) {
	least := -1
	for range tries {
		y := value(d, in)
		cost, _, err := of(y)
		if err != nil {
			return kept, err
		}
		if d.Had(in, y) {
			cost += 1000
		}
		if least < 0 || cost < least {
			kept, least = y, cost
		}
	}
	d.Deals(in, kept)
	return kept, nil
}
