// Package comparator compares parts with a size at which a gauge was zeroed: what it sends are signed deviations, which
// give sizes and verdicts.
package comparator

import (
	"strconv"
	"strings"

	"cavix/core/length"
	"cavix/core/refusal"
)

// Plan holds the nominal size and the limits that parts are compared with.
type Plan struct {
	Nominal length.Number  `json:"nominal"` // at which the gauge was zeroed
	Lower   *length.Number `json:"lower,omitempty"`
	Upper   *length.Number `json:"upper,omitempty"` // limits of the size, both inclusive
	Unit    length.Unit    `json:"unit"`
	Places  int            `json:"places"` // decimals of the gauge
	Hole    bool           `json:"hole,omitempty"`
}

// Bounds of a plan and of what is sent.
const (
	MaxPlaces  = 6
	MaxLine    = 80
	MaxReading = 2000 // readings of one comparison
)

// Check refuses a plan that compares nothing, with a refusal.Refusal naming each field.
func (p Plan) Check() error {
	var bad refusal.Refusal
	if p.Unit != length.Millimetre && p.Unit != length.Inch {
		bad.Add("unit", "comparator.check")
	}
	if p.Places < 0 || p.Places > MaxPlaces {
		bad.Add("places", "comparator.from-0-decimals", "max_places", MaxPlaces)
	}
	if p.Nominal.Sign() <= 0 {
		bad.Add("nominal", "comparator.more-than-0")
	}
	if p.Lower != nil && p.Upper != nil && p.Upper.Less(*p.Lower) {
		bad.Add("upper", "comparator.not-less-than-lower")
	}
	return bad.Err()
}

// Reading is one line sent by a gauge.
type Reading struct {
	Number    int // that it was sent with; 0 where there is none
	Deviation length.Number
}

// ReadLine reads one line of a gauge, as "+0.02 mm" or with its number before it "7 +0.02 mm". The unit may be left
// out; another one is converted. What cannot be read says why.
func (p Plan) ReadLine(line string) (Reading, error) {
	text := strings.TrimSpace(line)
	if len(text) > MaxLine {
		return Reading{}, refusal.New("", "comparator.read-line", "max_line", MaxLine)
	}
	var r Reading
	if first, rest, two := strings.Cut(text, " "); two {
		if n, err := strconv.Atoi(strings.TrimSuffix(first, ":")); err == nil && n > 0 &&
			!strings.HasPrefix(first, "+") &&
			strings.ContainsAny(strings.TrimSpace(rest), "0123456789") {
			r.Number, text = n, strings.TrimSpace(rest)
		}
	}
	typed, err := length.ReadTyped(text)
	if err != nil {
		return r, err
	}
	if r.Deviation, err = typed.In(p.Unit); err != nil {
		return r, err
	}
	if far := p.Nominal; far.Less(r.Deviation.Abs()) {
		return r, refusal.New("", "comparator.larger-than-nominal-size")
	}
	return r, nil
}

// Size is the size of a part that deviates so much.
func (p Plan) Size(deviation length.Number) length.Number { return p.Nominal.Add(deviation) }

// Verdict returns the right decision on a part of a size: accept, else rework where material can still be taken off,
// else scrap; "" without limits.
func (p Plan) Verdict(size length.Number) string {
	small := p.Lower != nil && size.Less(*p.Lower)
	large := p.Upper != nil && p.Upper.Less(size)
	switch {
	case p.Lower == nil && p.Upper == nil:
		return ""
	case !small && !large:
		return "accept"
	case small == p.Hole:
		return "rework"
	}
	return "scrap"
}

// MadeUp is a line as a gauge would send it of a made-up part: most lie well within the limits, some near one, a few
// beyond. Draw is a number from 0 to 999,999, which decides it.
func (p Plan) MadeUp(draw int) string {
	half := length.Frac(5, 1)
	step := length.Frac(1, 1)
	for range p.Places {
		step = step.Mul(length.Frac(1, 10))
	}
	middle, wide := length.Number{}, half.Mul(step)
	if p.Lower != nil && p.Upper != nil {
		middle = p.Lower.Add(*p.Upper).Mul(length.Frac(1, 2)).Sub(p.Nominal)
		wide = p.Upper.Sub(*p.Lower).Mul(length.Frac(1, 2))
	}
	// The sum of three even draws, −1.9 to 1.9 half widths, most of it near the middle.
	share := int64(draw%100+draw/100%100+draw/10_000%100) - 148
	off := middle.Add(wide.Mul(length.Frac(share*19, 1480))).Round(p.Places)
	sign := ""
	if off.Sign() > 0 {
		sign = "+"
	}
	return sign + off.Text(p.Places) + " " + string(p.Unit)
}
