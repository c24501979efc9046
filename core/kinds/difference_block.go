package kinds

import (
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// What the composer can have asked of a difference, besides the readings.
const (
	askDifference = "difference"
	askLast       = "last" // the mean, half, size or radius
)

// Settings of a block.
func (difference) Settings() []exercise.Setting {
	indicates := func(in *instrument.Instrument, _ exercise.Method) bool { return in.Traits().Indicates }
	angular := func(in *instrument.Instrument, _ exercise.Method) bool { return in.Unit().Angular() }
	curved := func(in *instrument.Instrument, _ exercise.Method) bool { return serves(in, wantsSagitta) }
	return []exercise.Setting{
		{Name: "ask", Title: text.New("repeat.settings.title"), Input: exercise.AnyOf,
			Default: askReadings + " " + askDifference + " " + askLast, Choices: []exercise.Choice{
				{Value: askReadings, Words: text.New("difference.settings.readings")},
				{Value: askDifference, Words: text.New("difference.settings.difference")},
				{Value: askLast, Words: text.New("difference.settings.last")}}},
		{Name: "indicator", Title: text.New("difference.settings.indicator"), Input: exercise.OneOf,
			Default: wantsDeviation, For: indicates, Choices: []exercise.Choice{
				{Value: wantsDeviation, Words: text.New("difference.settings.deviation")},
				{Value: wantsRunout, Words: text.New("difference.settings.runout")}}},
		{Name: "standard", Title: text.New("difference.settings.standard"), Input: exercise.Number, Default: "25",
			Unit: true, For: indicates},
		{Name: "positions", Title: text.New("difference.settings.positions"), Input: exercise.Number, Default: "4",
			For: indicates},
		{Name: "direction", Title: text.New("difference.settings.direction"), Input: exercise.OneOf, Default: "either",
			For: angular, Choices: []exercise.Choice{{Value: "either", Words: text.New("difference.settings.either")},
				{Value: rising, Words: text.New("difference.settings.rising")},
				{Value: falling, Words: text.New("difference.settings.falling")}}},
		{Name: "half", Title: text.New("difference.settings.half"), Input: exercise.YesNo, For: angular},
		{Name: "legs", Title: text.New("difference.settings.legs"), Input: exercise.Number, Default: "40", Unit: true,
			For: curved},
		{Name: "places", Title: text.New("difference.settings.places"), Input: exercise.Number, Default: "1",
			For: curved},
		zeroSetting, betweenSetting,
	}
}

// wantsOf returns what a block wants of an instrument; "" where it can show nothing of it.
func (k difference) wantsOf(b exercise.Block, in *instrument.Instrument) string {
	for _, wants := range []string{wantsSagitta, wantsTurned, b.Setting(k.Settings(), "indicator"), wantsLength} {
		if serves(in, wants) {
			return wants
		}
	}
	return ""
}

// Check refuses a block that cannot be dealt.
func (k difference) Check(b exercise.Block) error {
	var bad refusal.Refusal
	of := k.Settings()
	checkShares(b, of, &bad)
	if len(listOf(b, of, "ask")) == 0 {
		bad.Add("ask", "read.choose-least-one-step")
	}
	for _, name := range []string{"standard", "legs"} {
		if x, err := length.Parse(b.Setting(of, name)); err != nil || x.Sign() <= 0 {
			bad.Add(name, "difference.more-than-0")
		}
	}
	if n := b.Int(of, "positions"); n < 2 || n > maxRepeats {
		bad.Add("positions", "difference.most", "n", maxRepeats)
	}
	if n := b.Int(of, "places"); n < 0 || n > 4 {
		bad.Add("places", "difference.places")
	}
	for _, in := range b.Instruments {
		if k.wantsOf(b, in) == "" {
			bad.Add("instruments", "difference.copied", "in", in.Name())
			break
		}
		if from, to := onScale(in); to.Sub(from).Quo(in.LeastCount()).Less(length.Int(leastRoom)) {
			bad.Add("instruments", "repeat.too-short-scale-readings", "in", in.Name())
			break
		}
	}
	return bad.Err()
}

// Deal makes a card whose positions lie apart as the work has it: a turn of 5° to 355°, a deviation of either sign, the
// rise of a curved face.
func (k difference) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := zeroed(d, next(b, d), b.Setting(of, "zero"))
	if err != nil {
		return nil, err
	}
	it := &Difference{Instrument: in, Wants: k.wantsOf(b, in), Method: b.Method, Marks: b.Marks}
	k.fill(it, b, d)
	it.Indicated = make([]length.Number, 2)
	if it.Wants == wantsRunout {
		it.Indicated = make([]length.Number, b.Int(of, "positions"))
	}
	it.Ask = k.asked(it, listOf(b, of, "ask"))
	dealt := map[string][]length.Number{}
	y, err := best(d, in, &b.Method, func(y length.Number) (int, []exercise.Prediction, error) {
		it.Indicated = k.positions(it, y, d)
		dealt[y.String()] = it.Indicated
		if it.Check() != nil {
			return 100, nil, nil
		}
		tells, err := it.Predictions()
		return 0, tells, err
	})
	if err != nil {
		return nil, err
	}
	it.Indicated = dealt[y.String()]
	if it.both() {
		it.IndicatedB = k.opposite(it, d)
	}
	return it, it.Check()
}

// fill takes what a block gives for all its cards.
func (k difference) fill(it *Difference, b exercise.Block, d *exercise.Dealer) {
	of := k.Settings()
	switch it.Wants {
	case wantsTurned:
		it.Direction, it.Half = b.Setting(of, "direction"), b.Setting(of, "half") == "yes"
		if it.Direction != rising && it.Direction != falling {
			it.Direction = []string{rising, falling}[d.Below(2)]
		}
	case wantsDeviation:
		x := parsed(b.Setting(of, "standard"))
		it.Standard = &x
	case wantsSagitta:
		x, places := parsed(b.Setting(of, "legs")), b.Int(of, "places")
		it.Legs, it.Places = &x, &places
	}
}

// asked lists the fields that a block's card asks.
func (difference) asked(it *Difference, ask []string) (out []string) {
	for _, name := range it.all() {
		group := askLast
		switch {
		case len(name) > 8 && name[:8] == "reading.":
			group = askReadings
		case name == fieldDifference || name == fieldDifferenceA || name == fieldDifferenceB:
			group = askDifference
		}
		if slices.Contains(ask, group) {
			out = append(out, name)
		}
	}
	if out == nil {
		return []string{it.plates()[0].difference}
	}
	return out
}

// leastRoom is how many least counts a scale must have so that positions on it can differ.
const leastRoom = 48

// positions draws the positions of a card of which one is y, on the grid or between two lines as y is.
func (k difference) positions(it *Difference, y length.Number, d *exercise.Dealer) []length.Number {
	in := it.Instrument
	c := in.LeastCount()
	from, to := onScale(in)
	steps := func(x length.Number) int {
		n, _ := x.Quo(c).Floor().Int64()
		return int(n)
	}
	room := max(1, steps(to.Sub(from)))
	within := func(low, high int) length.Number { // so many steps
		return c.MulInt(low + d.Below(max(1, high-low+1)))
	}
	switch it.Wants {
	case wantsTurned:
		return k.turned(it, y, d)
	case wantsDeviation:
		reach := max(3, min(in.Lines()/3, room/3))
		off := within(1, reach)
		if d.Below(2) == 0 {
			off = off.Neg()
		}
		if d.Card()%4 == 0 { // over the face's 0
			y = y.Sub(y.Sub(y.Quo(in.ScaleInterval()).Floor().Mul(in.ScaleInterval()))).Sub(off.Mul(oneHalf)).Quo(c).
				Floor().Mul(c)
		}
		return []length.Number{y, k.inside(in, y.Add(off))}
	case wantsRunout:
		n := len(it.Indicated)
		reach := max(4, min(in.Lines()/4, room/3))
		out := []length.Number{y}
		base := y
		if d.Card()%2 == 0 {
			base = y.Quo(in.ScaleInterval()).Floor().Mul(in.ScaleInterval())
			out[0] = k.inside(in, base.Sub(within(1, reach)))
		}
		for len(out) < n {
			out = append(out, k.inside(in, base.Add(within(-reach, reach))))
		}
		return out
	case wantsSagitta:
		flat := c.MulInt(d.Below(41) - 20)
		h := within(20, max(21, min(room/2-21, 4*in.Lines())))
		if d.Below(3) == 0 {
			h = h.Neg()
		}
		return []length.Number{flat, k.inside(in, flat.Add(h))}
	}
	off := within(20, max(21, room/2))
	if y.Sub(from).Cmp(off) >= 0 && (d.Below(2) == 0 || to.Less(y.Add(off))) {
		off = off.Neg()
	}
	return []length.Number{y, k.inside(in, y.Add(off))}
}

// onScale returns the least and the greatest value that the scale shows whatever its zero error.
func onScale(in *instrument.Instrument) (from, to length.Number) {
	from, to = in.Range()
	main, base := in.Spec().Main, in.Spec().Base
	if low := main.From.Add(base); from.Less(low) {
		from = low
	}
	if high := main.To.Add(base); high.Less(to) {
		to = high
	}
	return from, to
}

// inside brings a position back onto the scale.
func (difference) inside(in *instrument.Instrument, y length.Number) length.Number {
	from, to := onScale(in)
	switch {
	case y.Less(from):
		return from.Add(from.Sub(y))
	case to.Less(y):
		return to.Sub(y.Sub(to))
	}
	return y
}

// turned draws a turn of 5° to 355°; on a circle one card in three crosses 0.
func (k difference) turned(it *Difference, y length.Number, d *exercise.Dealer) []length.Number {
	in := it.Instrument
	c := in.LeastCount()
	low, high := length.Int(5), length.Int(355)
	room := high
	turn := in.Turn()
	switch rises := it.Direction == rising; {
	case turn.Sign() == 0:
		from, to := onScale(in)
		if room = to.Sub(y); !rises {
			room = y.Sub(from)
		}
		if room.Less(low) { // the other end has room
			y = from.Add(to).Sub(y)
			if room = to.Sub(y); !rises {
				room = y.Sub(from)
			}
		}
		high = room
	case d.Card()%3 == 0:
		if over := turn.Sub(y); rises && low.Less(over) && over.Less(high) {
			low = over
		} else if !rises && low.Less(y) && y.Less(high) {
			low = y
		}
	case rises && low.Less(turn.Sub(y)):
		high = turn.Sub(y).Sub(c)
	case !rises && low.Less(y):
		high = y
	}
	n, _ := high.Sub(low).Quo(c).Floor().Int64()
	off := low.Quo(c).Floor().Add(length.Int(int64(1 + d.Below(max(1, int(n)))))).Mul(c)
	if it.Direction == falling {
		off = off.Neg()
	}
	return []length.Number{y, in.Around(y.Add(off))}
}

// opposite draws where the opposite plate stands at each position: eccentricity is not the same all round.
func (difference) opposite(it *Difference, d *exercise.Dealer) []length.Number {
	second, _ := it.Instrument.Second()
	var out []length.Number
	for _, y := range it.Indicated {
		off := it.Instrument.LeastCount().MulInt(d.Below(7) - 3)
		out = append(out, second.Around(it.Instrument.OnSecond(y).Add(off)))
	}
	return out
}
