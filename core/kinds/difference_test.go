package kinds_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
)

// turned is a card of a difference as somebody with pencil and paper sees it: rational numbers, and none of the core's
// arithmetic.
type turned struct {
	*kinds.Difference
	c       rational
	own     []rational // the readings as the student has written them
	circle  bool
	falling bool // the first less the second
}

// drawDifference draws a card and what a student reads: rightly, or some readings off by a few least counts.
func drawDifference(t *testing.T, draws *rand.Rand) (d turned, off bool) {
	t.Helper()
	names := []string{"Travelling microscope 0.01 mm", "Height gauge 0.02 mm", "Spectrometer circle 1′",
		"Circle 20″, 45 over 44", "Bevel protractor 5′", "Dial indicator 0.01 mm", "Bore gauge 0.01 mm",
		"Lever indicator 0.002 mm", "Spherometer 0.01 mm"}
	spec, known := instrument.PatternNamed(names[draws.IntN(len(names))])
	require.True(t, known)
	in, err := instrument.New(spec)
	require.NoError(t, err)
	if moved, err := in.WithZeroError(in.LeastCount().MulInt(draws.IntN(21) - 10)); err == nil {
		in = moved
	}
	it := &kinds.Difference{Instrument: in}
	switch {
	case spec.Family == instrument.Spherometer:
		legs := length.Int(int64(30 + draws.IntN(40)))
		it.Wants, it.Legs = "sagitta", &legs
	case in.Traits().Indicates && draws.IntN(2) == 0:
		it.Wants = "runout"
	case in.Traits().Indicates:
		standard := length.Frac(int64(10+draws.IntN(300)), 10)
		it.Wants, it.Standard = "deviation", &standard
	case in.Unit().Angular():
		it.Wants, it.Direction, it.Half = "turned", []string{"rising", "falling"}[draws.IntN(2)], draws.IntN(2) == 0
	default:
		it.Wants = "length"
	}
	d = turned{Difference: it, c: rat(in.LeastCount()), circle: spec.Family == instrument.AngleCircle}
	n := 2
	if it.Wants == "runout" {
		n = 2 + draws.IntN(5)
	}
	low, high := int64(0), int64(900)
	switch {
	case d.circle:
		high = 21_000
	case in.Traits().Signed:
		low, high = -30, 31
	case it.Wants == "sagitta":
		low, high = -300, 300
	}
	for range n {
		steps := low + draws.Int64N(high-low)
		it.Indicated = append(it.Indicated, in.LeastCount().Mul(length.Int(steps)))
		x := times(d.c, ratio(steps, 1))
		if draws.IntN(4) == 0 {
			x, off = plus(x, times(d.c, ratio(1+draws.Int64N(3), 1))), true
		}
		d.own = append(d.own, x)
	}
	if it.Wants == "turned" && !d.circle && it.Indicated[1].Less(it.Indicated[0]) {
		it.Direction = "falling"
	} else if it.Wants == "turned" && !d.circle {
		it.Direction = "rising"
	}
	d.falling = it.Direction == "falling" || it.Wants == "deviation" && spec.Fine.Anticlockwise
	return d, off
}

// plain is the second reading less the first, or the other way round.
func (d turned) plain() rational {
	if d.falling {
		return minus(d.own[0], d.own[1])
	}
	return minus(d.own[1], d.own[0])
}

// difference is what the page says the scale has moved by.
func (d turned) difference() rational {
	x := d.plain()
	switch d.Wants {
	case "turned":
		if d.circle && x.Sign() < 0 {
			x = plus(x, ratio(360, 1))
		}
		return x
	case "deviation":
		return x
	case "runout":
		low, high := d.own[0], d.own[0]
		for _, r := range d.own {
			if r.Cmp(low) < 0 {
				low = r
			}
			if r.Cmp(high) > 0 {
				high = r
			}
		}
		return minus(high, low)
	}
	return off(d.own[0], d.own[1])
}

// writes is a value as a student may write it: an angle in degrees and minutes, a length with its decimals.
func (d turned) writes(x rational) string {
	value := length.Frac(x.Num().Int64(), x.Denom().Int64())
	if d.Instrument.Unit().Angular() {
		seconds := times(x, ratio(3600, 1))
		sign := ""
		if seconds.Sign() < 0 {
			sign, seconds = "-", times(seconds, ratio(-1, 1))
		}
		whole := floor(seconds).Num().Int64()
		return fmt.Sprintf("%s%d°%d'%d\"", sign, whole/3600, whole/60%60, whole%60)
	}
	places, _ := d.Instrument.Decimals()
	return value.Text(places)
}

// What follows from a student's own readings earns full marks, whatever they are, and what the page predicts of a slip
// is named.
func TestDifferencesAgainstThePage(t *testing.T) {
	t.Parallel()
	cards := 10_000
	if testing.Short() {
		cards = 2_000
	}
	draws := rand.New(rand.NewPCG(28, 11))
	named := map[exercise.Code]int{}
	for range cards {
		d, misread := drawDifference(t, draws)
		if same(d.own[0], d.own[1]) {
			continue
		}
		raw, err := exercise.Document(d.Difference)
		require.NoError(t, err)
		it, err := kinds.Open(raw)
		require.NoError(t, err)
		if it.Check() != nil {
			continue // two equal positions, or off the scale
		}
		answer := exercise.Answer{}
		for i, x := range d.own {
			answer[fmt.Sprintf("reading.%d", i+1)] = d.writes(x)
		}
		x := d.difference()
		answer["difference"] = d.writes(x)
		switch {
		case d.Half:
			answer["half"] = length.Frac(x.Num().Int64(), 2*x.Denom().Int64()).Fraction()
		case d.Wants == "deviation":
			size := plus(rat(*d.Standard), x)
			places, _ := d.Instrument.Decimals()
			answer["size"] = length.Frac(size.Num().Int64(), size.Denom().Int64()).Text(max(places, 1))
		}
		r, err := it.Mark(answer)
		require.NoError(t, err, "%s %v", raw, answer)
		m := r.Field("difference")
		assert.Contains(t, []exercise.Outcome{exercise.Right, exercise.Carried}, m.Outcome, "%s %v", raw, answer)
		if s := r.Field("size"); s != nil {
			assert.Contains(t, []exercise.Outcome{exercise.Right, exercise.Carried}, s.Outcome, "%s %v", raw, answer)
		}
		if h := r.Field("half"); h != nil {
			assert.Equal(t, exercise.InForm, h.Outcome, "a fraction of a degree: %s %v", raw, answer)
		}
		if !misread {
			for _, f := range r.Fields {
				assert.NotEqual(t, exercise.Wrong, f.Outcome, "%s %v", raw, answer)
			}
		}
		d.slips(t, it, answer, named)
	}
	for _, code := range []exercise.Code{"second-alone", "added-instead", "wrap-missed", "order-swapped",
		"zero-applied",
		"one-side-only", "half-runout"} {
		assert.Positive(t, named[code], "%s was never made", code)
	}
}

// slips makes each slip of the page in turn, in place of the difference.
func (d turned) slips(t *testing.T, it exercise.Item, answer exercise.Answer, named map[exercise.Code]int) {
	t.Helper()
	x, e := d.difference(), rat(d.Instrument.ZeroError())
	predicted := map[exercise.Code]rational{}
	if d.Wants == "runout" {
		predicted["half-runout"] = over(x, ratio(2, 1))
		largest := d.own[0]
		for _, r := range d.own {
			if r.Cmp(largest) > 0 {
				largest = r
			}
		}
		predicted["one-side-only"] = largest
	} else {
		predicted["second-alone"], predicted["added-instead"] = d.own[1], plus(d.own[0], d.own[1])
	}
	if d.circle {
		sum := predicted["added-instead"]
		predicted["added-instead"] = minus(sum, times(floor(over(sum, ratio(360, 1))), ratio(360, 1)))
		if p := d.plain(); p.Sign() < 0 {
			predicted["wrap-missed"] = p
		}
	}
	if d.Wants == "turned" || d.Wants == "deviation" {
		predicted["order-swapped"] = times(x, ratio(-1, 1))
	}
	if e.Sign() != 0 && !d.circle {
		predicted["zero-applied"] = minus(x, e)
	}
	for code, value := range predicted {
		wrong := exercise.Answer{}
		for k, v := range answer {
			wrong[k] = v
		}
		if d.Instrument.Unit().Angular() {
			wrong["difference"] = length.Frac(value.Num().Int64(), value.Denom().Int64()).Fraction()
		} else {
			wrong["difference"] = length.Frac(value.Num().Int64(), value.Denom().Int64()).String()
		}
		r, err := it.Mark(wrong)
		require.NoError(t, err)
		if m := r.Field("difference"); m.Outcome == exercise.Wrong {
			assert.Contains(t, m.Slips, code, "%v", wrong)
			named[code]++
		}
	}
}
