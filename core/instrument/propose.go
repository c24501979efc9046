package instrument

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"cavix/core/length"
)

// Way is one way to build an instrument of a wanted least count: a spec that New accepts, as it stands
// in a shop, and what is remarkable about it.
type Way struct {
	Spec   Spec
	Made   string // how its scales are made
	Remark string
}

// What can be made and read (handbook, "From a wanted least count").
const (
	leastLines     = 5   // of a fine scale
	mostLines      = 250 // of a fine scale
	leastUnderFine = 20  // of a drum that carries a vernier
	mostWays       = 12  // offered
)

// usual is a main scale as the family commonly has it: its division, or the travel of a turn, and the lines that
// usually go with it.
type usual struct {
	division length.Number
	lines    []int
	beam     length.Number // of a dial, where its beam is not divided by whole turns
	zeros    int
	common   bool // found in shops, or asked for: then in all forms
}

// usuals lists what each kind of fine scale commonly stands on, the most common first.
func usuals(kind FineKind, unit length.Unit) []usual {
	d := func(num, den int64) length.Number { // in millimetres, or inches
		if unit == length.Centimetre {
			den *= 10
		}
		return length.Frac(num, den)
	}
	metric := unit != length.Inch
	switch {
	case kind == Vernier && metric:
		return []usual{{division: d(1, 1), lines: []int{10, 20, 50}}, {division: d(1, 2), lines: []int{25}}}
	case kind == Vernier:
		return []usual{{division: d(1, 16), lines: []int{8}}, {division: d(1, 40), lines: []int{25}},
			{division: d(1, 20), lines: []int{50}}}
	case kind == Drum && metric:
		return []usual{{division: d(1, 2), lines: []int{50}}, {division: d(1, 1), lines: []int{100}}}
	case kind == Drum:
		return []usual{{division: d(1, 40), lines: []int{25}}}
	case kind == Dial && metric:
		one := d(1, 1)
		return []usual{{division: one}, {division: d(2, 1), beam: one, zeros: 2}, {division: d(5, 1), beam: one},
			{division: d(10, 1), beam: one}}
	case kind == Dial:
		return []usual{{division: d(1, 10)}, {division: d(1, 10), beam: d(1, 20)}}
	}
	return nil
}

// Propose returns ways to build an instrument of a family with the least count c, the usual ones first. A
// division that is not 0 fixes the main division, or the travel of a turn. The error says why there is none and
// what there would be.
func Propose(family Family, unit length.Unit, c, division length.Number) ([]Way, error) {
	if c.Sign() <= 0 {
		return nil, fmt.Errorf("{a least count} must be more than 0, as 0.02; it is %s", c)
	}
	if division.Sign() < 0 {
		return nil, fmt.Errorf("a main division must be more than 0, as 1; it is %s", division)
	}
	definition, known := definitionOf(family)
	if !known {
		return nil, fmt.Errorf("%q is not a family known here", family)
	}
	kind := definition.Fine
	p := proposer{family: family, kind: kind, unit: unit, c: c}
	switch {
	case kind == Display:
		p.add(Main{Division: c}, Fine{Kind: Display, Steps: map[length.Unit]length.Number{unit: c}}, Finer{}, "",
			rank{})
	case kind == None:
		if p.engraved(c) {
			p.add(p.scale(c), Fine{}, Finer{}, "", rank{})
		}
	case division.Sign() > 0:
		p.build(usual{division: division, common: true}, 0)
	default:
		for i, u := range usuals(kind, unit) {
			u.common = true
			p.build(u, i)
		}
		if p.ways == nil {
			p.others()
		}
	}
	if p.ways == nil {
		return nil, p.whyNot(division)
	}
	slices.SortStableFunc(p.ways, func(a, b ranked) int { return slices.Compare(a.rank[:], b.rank[:]) })
	var out []Way
	for _, w := range p.ways[:min(len(p.ways), mostWays)] {
		out = append(out, w.Way)
	}
	return out, nil
}

// proposer gathers ways.
type proposer struct {
	family Family
	kind   FineKind
	unit   length.Unit
	c      length.Number
	ways   []ranked
}

// rank orders ways: unusual numbers of lines, which division, a finer scale or none, the form, lines, and how far
// the plate reaches. Less comes first.
type rank [6]int

type ranked struct {
	Way
	rank rank
}

// bounds of a main division that can be engraved and read, in the unit.
func (p *proposer) bounds() (low, high length.Number) {
	switch p.unit {
	case length.Inch:
		return length.Frac(1, 64), length.Frac(1, 4)
	case length.Centimetre:
		return length.Frac(1, 40), length.Int(1)
	}
	return length.Frac(1, 4), length.Int(10)
}

func (p *proposer) engraved(d length.Number) bool {
	low, high := p.bounds()
	return low.Cmp(d) <= 0 && d.Cmp(high) <= 0
}

// scale is a main scale of a division, written and numbered in the unit's own manner.
func (p *proposer) scale(d length.Number) Main {
	m := Main{Division: d, NumberEvery: 10, Fractional: p.binary(d)}
	whole := length.Int(10) // millimetres between numbers; on a sleeve 5
	if p.kind == Drum {
		whole = length.Int(5)
	}
	switch p.unit {
	case length.Centimetre:
		whole = whole.Quo(length.Int(10))
	case length.Inch:
		if whole = length.Frac(1, 10); m.Fractional {
			whole = length.Int(1)
		}
	}
	if n, ok := whole.Quo(d).Int64(); ok && n >= 2 {
		m.NumberEvery = int(n)
	}
	return m
}

// binary reports whether a division is one of sixty-fourths of an inch, which are written as fractions.
func (p *proposer) binary(d length.Number) bool { return p.unit == length.Inch && d.MulInt(64).IsInt() }

// millimetres are a length of the unit.
func (p *proposer) millimetres(x length.Number) float64 {
	return length.Convert(x, p.unit, length.Millimetre).Float()
}

// lines is how many lines of worth c a length is divided into, where that is a whole number within bounds.
func (p *proposer) lines(x, c length.Number, low int) (int, bool) {
	n, ok := x.Quo(c).Int64()
	return int(n), ok && int64(low) <= n && n <= mostLines
}

// build adds every way on a division.
func (p *proposer) build(u usual, index int) {
	if !p.engraved(u.division) {
		return
	}
	unusual := func(n int) int {
		if u.lines != nil && !slices.Contains(u.lines, n) {
			return 1
		}
		return 0
	}
	forms := []Form{{J: 1}, {J: 2}}
	if u.common {
		forms = append(forms, Form{J: 1, Retrograde: true})
	}
	if p.kind != Drum {
		n, ok := p.lines(u.division, p.c, leastLines)
		if !ok {
			return
		}
		if zeros := max(1, u.zeros); p.kind == Dial && n/zeros < leastLines {
			return
		}
		if p.kind == Dial {
			p.dial(u, n, rank{0, index})
			return
		}
		for i, f := range forms {
			p.plate(u.division, n, f, rank{unusual(n), index, 0, i, n})
		}
		return
	}
	m := p.scale(u.division)
	m.HalfMarks = p.unit != length.Inch && p.millimetres(u.division) == 0.5
	if n, ok := p.lines(u.division, p.c, leastLines); ok {
		p.add(m, Fine{Kind: Drum, Divisions: n, Travel: u.division}, Finer{}, "", rank{unusual(n), index, 0, 0, n})
	}
	for k, v := range []int{10, 5} {
		n, ok := p.lines(u.division, p.c.MulInt(v), leastUnderFine)
		if !ok {
			continue
		}
		for i, f := range forms {
			p.add(m, Fine{Kind: Drum, Divisions: n, Travel: u.division}, Finer{v, f.Spans(v)},
				fmt.Sprintf("vernier in %s form", f), rank{unusual(n), index, k + 1, i, n})
		}
	}
}

// plate adds a vernier whose lines can be told apart and whose plate the beam can carry: 0.4 mm between lines,
// and no more than 60 mm or half the beam.
func (p *proposer) plate(d length.Number, n int, f Form, r rank) {
	m := f.Spans(n)
	if got, _ := FormOf(n, m); got != f {
		return // with few lines some forms are one and the same
	}
	plate := d.MulInt(m)
	spacing := plate.Quo(length.Int(int64(n)))
	most := math.Min(60, p.millimetres(reach(p.family, p.unit))/2)
	if p.millimetres(spacing) < 0.4 || p.millimetres(plate) > most {
		return
	}
	r[5] = int(p.millimetres(plate))
	text := spacing.String()
	if p.binary(d) {
		text = spacing.Fraction()
	} else if _, finite := spacing.Decimals(); !finite {
		text = "about " + spacing.Round(3).String()
	}
	p.add(p.scale(d), Fine{Kind: Vernier, Divisions: n, Spans: m}, Finer{},
		fmt.Sprintf("%s form; {line}s %s %s apart", f, text, p.unit), r)
}

func (p *proposer) dial(u usual, n int, r rank) {
	remark := ""
	if u.zeros > 1 {
		remark = "the half of the {face} tells odd from even"
	}
	beam := u.beam
	if beam.Sign() == 0 {
		beam = u.division
	}
	p.add(p.scale(beam), Fine{Kind: Dial, Divisions: n, Travel: u.division, Zeros: max(1, u.zeros)}, Finer{}, remark, r)
}

// others looks for divisions that can give the least count where the usual ones cannot: round ones first, then
// those with lines in fives, then those near to the most usual one.
func (p *proposer) others() {
	type candidate struct {
		division length.Number
		key      [3]float64
	}
	first := p.millimetres(usuals(p.kind, p.unit)[0].division)
	var all []candidate
	seen := map[string]bool{}
	for _, per := range []int{1, 5, 10} { // a line of a drum is worth 5 or 10 least counts under a vernier
		if per > 1 && p.kind != Drum {
			break
		}
		for n := leastLines; n <= mostLines; n++ {
			d := p.c.MulInt(n * per)
			if !p.engraved(d) || seen[d.String()] {
				continue
			}
			seen[d.String()] = true
			inFives := 0.0
			if n%5 != 0 {
				inFives = 1
			}
			all = append(all, candidate{d, [3]float64{p.roughness(d), inFives,
				math.Abs(math.Log(p.millimetres(d) / first))}})
		}
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return slices.Compare(a.key[:], b.key[:]) })
	tried := 0
	for i, x := range all {
		before := len(p.ways)
		if p.build(usual{division: x.division}, i); len(p.ways) > before {
			if tried++; tried == 4 {
				return
			}
		}
	}
}

// roughness is how far a division is from a round one: 0 for tenths of a millimetre and more, or parts of an inch
// in its own manner, 1 for twentieths, 2 for the rest.
func (p *proposer) roughness(d length.Number) float64 {
	tenths := length.Convert(d, p.unit, length.Millimetre).MulInt(10)
	if p.unit == length.Inch {
		if length.Int(1).Quo(d).IsInt() && p.binary(d) {
			return 0
		}
		tenths = d.MulInt(40)
	}
	switch {
	case tenths.IsInt():
		return 0
	case tenths.MulInt(2).IsInt():
		return 1
	}
	return 2
}

// written is a length with its unit, in the unit's own manner.
func (p *proposer) written(x length.Number) string {
	text := x.String()
	if p.unit == length.Inch && x.MulInt(1024).IsInt() {
		text = x.Fraction()
	}
	return text + " " + string(p.unit)
}

// whyNot says why no way gives c, and what would.
func (p *proposer) whyNot(division length.Number) error {
	low, high := p.bounds()
	name, c := strings.ReplaceAll(string(p.family), "-", " "), p.written(p.c)
	none := fmt.Sprintf("no %s gives %s: ", name, c)
	tooClose := "{line}s would stand closer than 0.4 mm, or the {plate} would be longer than 60 mm or half the beam"
	switch {
	case p.kind == None:
		return fmt.Errorf("the {line}s of a %s stand from %s to %s apart; %s cannot be read on one", name, p.written(low),
			p.written(high), c)
	case division.Sign() > 0 && !p.engraved(division):
		return fmt.Errorf("a division of %s cannot be engraved and read; it can be from %s to %s", p.written(division),
			p.written(low), p.written(high))
	case division.Sign() > 0:
		ratio := division.Quo(p.c)
		if ratio.Cmp(length.Int(leastLines)) < 0 {
			return fmt.Errorf("a fine scale divides %s into %d {line}s or more: %s is too coarse; the coarsest is %s",
				p.written(division), leastLines, c, p.written(division.Quo(length.Int(leastLines))))
		}
		if !ratio.IsInt() {
			n := ratio.Floor()
			return fmt.Errorf("%s does not go into a division of %s a whole number of times; %s {line}s give %s, %s {line}s give %s",
				c, p.written(division), n, division.Quo(n), n.Add(length.Int(1)), division.Quo(n.Add(length.Int(1))))
		}
		if p.kind == Drum {
			return fmt.Errorf("no {drum} of %d to %d {line}s gives it, with or without a vernier of 5 or 10 {line}s",
				leastLines, mostLines)
		}
		return fmt.Errorf("%s on a division of %s needs %s {line}s: they are at most %d, and %s", c,
			p.written(division), ratio,
			mostLines, tooClose)
	}
	most := mostLines
	if p.kind == Drum {
		most *= 10 // with a vernier
	}
	if need := p.c.MulInt(most); need.Less(low) {
		return errors.New(none +
			fmt.Sprintf("even with the most {line}s it would need a division of %s, and the finest that can be read is %s",
				p.written(need), p.written(low)))
	}
	if need := p.c.MulInt(leastLines); high.Less(need) {
		return errors.New(none +
			fmt.Sprintf("even with %d {line}s it would need a division of %s, and the coarsest is %s; a rule may serve",
				leastLines, p.written(need), p.written(high)))
	}
	return errors.New(none + "on every division its " + tooClose)
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
func (p *proposer) add(m Main, f Fine, v Finer, remark string, r rank) {
	m.To = reach(p.family, p.unit)
	if n := m.To.Quo(m.Division).Floor(); m.Division.Sign() > 0 { // whole divisions
		m.To = n.Mul(m.Division)
	}
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
	p.ways = append(p.ways, ranked{Way{in.spec, in.Describe(), remark}, r})
}
