package instrument

import (
	"errors"
	"fmt"
	"slices"

	"cavix/core/length"
)

// Way is one way to build an instrument of a wanted least count: a spec that New accepts, as it stands
// in a shop, and what is remarkable about it.
type Way struct {
	Spec   Spec
	Made   string // how its scales are made
	Remark string
}

// beam is a main scale as it is found on real instruments.
type beam struct {
	division   length.Number
	fractional bool
	every      int // numbered
}

// beams lists the usual main scales of calipers.
var beams = map[length.Unit][]beam{
	length.Millimetre: {{length.Int(1), false, 10}, {length.Frac(1, 2), false, 20}},
	length.Centimetre: {{length.Frac(1, 10), false, 10}, {length.Frac(1, 20), false, 20}},
	length.Inch: {{length.Frac(1, 40), false, 4}, {length.Frac(1, 20), false, 2}, {length.Frac(1, 10), false, 10},
		{length.Frac(1, 16), true, 16}, {length.Frac(1, 32), true, 32}},
}

// screw is a spindle as it is found on real micrometers.
type screw struct {
	travel length.Number
	every  int // sleeve marks between numbers
	half   bool
	lines  []int // on its drum, when that carries a vernier
}

var screws = map[length.Unit][]screw{
	length.Millimetre: {{length.Frac(1, 2), 10, true, []int{50, 100}}, {length.Int(1), 5, false, []int{100}}},
	length.Centimetre: {{length.Frac(1, 20), 10, true, []int{50, 100}}, {length.Frac(1, 10), 5, false, []int{100}}},
	length.Inch:       {{length.Frac(1, 40), 4, false, []int{25}}, {length.Frac(1, 20), 2, false, []int{50}}},
}

// turn is what one turn of a dial's pointer stands for.
type turn struct {
	travel, division length.Number
	zeros            int
}

var turns = map[length.Unit][]turn{
	length.Millimetre: {{length.Int(1), length.Int(1), 1}, {length.Int(2), length.Int(1), 2},
		{length.Int(5), length.Int(1), 1}, {length.Int(10), length.Int(1), 1}},
	length.Centimetre: {{length.Frac(1, 10), length.Frac(1, 10), 1}, {length.Frac(2, 10), length.Frac(1, 10), 2}},
	length.Inch:       {{length.Frac(1, 10), length.Frac(1, 10), 1}, {length.Frac(1, 10), length.Frac(1, 20), 1}},
}

// Propose returns ways to build an instrument of a family with the least count c, the usual ones first.
// A division that is not 0 fixes the main division, or the travel of a screw or pointer. The error says
// why none gives it and what would.
func Propose(family Family, unit length.Unit, c, division length.Number) ([]Way, error) {
	if c.Sign() <= 0 {
		return nil, fmt.Errorf("a least count must be more than 0, as 0.02; it is %s", c)
	}
	if division.Sign() < 0 {
		return nil, fmt.Errorf("a main division must be more than 0, as 1; it is %s", division)
	}
	kind, known := fineOf(family)
	if !known {
		return nil, fmt.Errorf("%q is not a family known here", family)
	}
	p := proposer{family: family, unit: unit, c: c}
	switch kind {
	case Vernier:
		list := beams[unit]
		if division.Sign() > 0 {
			list = []beam{{division, false, 0}}
		}
		for _, b := range list {
			p.verniers(b)
		}
	case Drum:
		list := screws[unit]
		if division.Sign() > 0 {
			list = []screw{{travel: division}}
		}
		for _, s := range list {
			p.drums(s)
		}
	case Dial:
		list := turns[unit]
		if division.Sign() > 0 {
			list = []turn{{division, division, 1}}
		}
		for _, t := range list {
			p.dials(t)
		}
	case Display:
		p.add(Main{Division: c}, Fine{Kind: Display, Steps: map[length.Unit]length.Number{unit: c}}, Finer{}, "")
	case None:
		p.add(Main{Division: c, NumberEvery: 10}, Fine{}, Finer{}, "")
	}
	if p.ways == nil {
		return nil, whyNot(kind, unit, c, division)
	}
	return p.ways, nil
}

// whyNot says why no way gives c.
func whyNot(kind FineKind, unit length.Unit, c, division length.Number) error {
	if division.Sign() == 0 {
		return fmt.Errorf("none of the usual %s scales gives %s; name the main division (or the travel of a turn) as well", unit, c)
	}
	ratio := division.Quo(c)
	if ratio.Cmp(length.Int(2)) < 0 {
		return fmt.Errorf("a fine scale divides %s into 2 lines or more: %s is too coarse; the coarsest is %s",
			division, c, division.Quo(length.Int(2)))
	}
	if !ratio.IsInt() {
		lines := ratio.Floor()
		return fmt.Errorf("%s does not go into a division of %s a whole number of times; %s lines give %s, %s lines give %s",
			c, division, lines, division.Quo(lines), lines.Add(length.Int(1)), division.Quo(lines.Add(length.Int(1))))
	}
	if kind == Drum {
		return errors.New("no drum of 10 to 250 lines gives it, with or without a vernier of 5 or 10 lines")
	}
	return fmt.Errorf("%s on a division of %s would need more than %d lines; the finest is %s", c, division, maxLines,
		division.Quo(length.Int(maxLines)))
}

// proposer gathers ways.
type proposer struct {
	family Family
	unit   length.Unit
	c      length.Number
	ways   []Way
}

// reach is how long an instrument of the family usually is.
func reach(family Family, unit length.Unit) length.Number {
	mm := int64(150)
	switch family {
	case Micrometer, DepthMicrometer:
		mm = 25
	case InsideMicrometer:
		mm = 13
	}
	switch unit {
	case length.Centimetre:
		return length.Frac(mm, 10)
	case length.Inch:
		return length.Int((mm + 12) / 25)
	}
	return length.Int(mm)
}

// add keeps a way when it can exist and has the wanted least count.
func (p *proposer) add(m Main, f Fine, v Finer, remark string) {
	m.To = reach(p.family, p.unit)
	if p.family == DepthMicrometer {
		m.Reverse, f.Down = true, true
	}
	spec := Spec{Family: p.family, Unit: p.unit, Main: m, Fine: f, Finer: v}
	if p.family == GearTooth {
		upright := spec
		spec.Role, spec.Second = Upright, &upright
	}
	in, err := New(spec)
	if err != nil || !in.LeastCount().Equal(p.c) {
		return
	}
	p.ways = append(p.ways, Way{in.spec, in.Describe(), remark})
}

// whole returns x ÷ c when that is a whole number from low to high.
func (p *proposer) whole(x length.Number, low, high int64) (int, bool) {
	n, ok := x.Quo(p.c).Int64()
	return int(n), ok && low <= n && n <= high
}

func (p *proposer) verniers(b beam) {
	n, ok := p.whole(b.division, 2, maxLines)
	if !ok {
		return
	}
	for _, f := range []Form{{J: 1}, {J: 2}, {J: 1, Retrograde: true}} {
		m := f.Spans(n)
		if got, _ := FormOf(n, m); got != f {
			continue // with two lines some forms are one and the same
		}
		spacing := b.division.MulInt(m).Quo(length.Int(int64(n)))
		p.add(Main{Division: b.division, Fractional: b.fractional, NumberEvery: b.every},
			Fine{Kind: Vernier, Divisions: n, Spans: m}, Finer{},
			fmt.Sprintf("%s form; lines %s %s apart", f, spacing, p.unit))
	}
}

func (p *proposer) drums(s screw) {
	m := Main{Division: s.travel, NumberEvery: s.every, HalfMarks: s.half}
	most := int64(100) // lines that still stand apart on a usual drum
	if s.lines == nil {
		most = 250
	}
	if n, ok := p.whole(s.travel, 10, most); ok {
		p.add(m, Fine{Kind: Drum, Divisions: n, Travel: s.travel}, Finer{}, "")
	}
	for _, v := range []int{5, 10} {
		n, ok := p.whole(s.travel.Quo(length.Int(int64(v))), 20, 100)
		if !ok || s.lines != nil && !slices.Contains(s.lines, n) {
			continue
		}
		for _, f := range []Form{{J: 1}, {J: 2}, {J: 1, Retrograde: true}} {
			p.add(m, Fine{Kind: Drum, Divisions: n, Travel: s.travel}, Finer{v, f.Spans(v)},
				fmt.Sprintf("vernier in %s form", f))
		}
	}
}

func (p *proposer) dials(t turn) {
	if n, ok := p.whole(t.travel, 10, maxLines); ok {
		remark := ""
		if t.zeros > 1 {
			remark = "the half of the face tells odd from even"
		}
		p.add(Main{Division: t.division, NumberEvery: 10},
			Fine{Kind: Dial, Divisions: n, Travel: t.travel, Zeros: t.zeros}, Finer{}, remark)
	}
}
