package instrument

import (
	"math"
	"slices"

	"cavix/core/length"
	"cavix/core/text"
)

// Proposal is one way to build an instrument of a wanted least count: a spec that New accepts, as it stands
// in a shop, and what is remarkable about it.
type Proposal struct {
	Spec   Spec
	Made   text.Text // how its scales are made
	Remark text.Text
}

// What can be made and read (handbook, "From a wanted least count").
const (
	leastLines = 5   // of a fine scale
	mostLines  = 250 // of a fine scale
	mostWays   = 12  // offered
)

// Usual is a main scale as a chain of scales commonly has it: its division, or the travel of a turn, and the lines that
// usually go with it.
type Usual struct {
	Division length.Number
	Lines    []int         // none: any number of lines is usual
	Beam     length.Number // of a dial, where its beam is not divided by whole turns
	Zeros    int           // of a dial; 0 for 1

	common bool // found in shops, or asked for: then in all forms
	index  int  // among those looked at
}

// unusual is 1 if so many lines do not commonly go with the main scale, and 0 if they do.
func (u Usual) unusual(lines int) int {
	if u.Lines != nil && !slices.Contains(u.Lines, lines) {
		return 1
	}
	return 0
}

// forms lists those of a vernier that are offered on the main scale.
func (u Usual) forms() []Form {
	forms := []Form{{J: 1}, {J: 2}}
	if u.common {
		forms = append(forms, Form{J: 1, Retrograde: true})
	}
	return forms
}

// inUnit brings divisions in millimetres to the unit.
func inUnit(unit length.Unit, all ...Usual) []Usual {
	if unit == length.Centimetre {
		for i := range all {
			all[i].Division, all[i].Beam = all[i].Division.Quo(length.Int(10)), all[i].Beam.Quo(length.Int(10))
		}
	}
	return all
}

// Propose returns ways to build an instrument of a family with the least count c, the usual ones first. A
// division that is not 0 fixes the main division, or the travel of a turn. The error says why there is none and
// what there would be.
func Propose(family Family, unit length.Unit, c, division length.Number) ([]Proposal, error) {
	if c.Sign() <= 0 {
		return nil, text.Error("proposal.propose", "c", c)
	}
	if division.Sign() < 0 {
		return nil, text.Error("proposal.main-division-more-than", "division", division)
	}
	definition, known := definitionOf(family)
	if !known {
		return nil, text.Error("proposal.not-family-known-here", "family", family)
	}
	w := &Wanted{Definition: definition, Unit: unit, LeastCount: c, traits: definition.Scale.Traits(),
		limits: definition.Scale.Limits()}
	if division.Sign() > 0 {
		w.build(Usual{Division: division, common: true})
	} else {
		usual := definition.Scale.Usuals(unit)
		for i, u := range usual {
			u.common, u.index = true, i
			w.build(u)
		}
		if w.ways == nil && w.traits.HasLines {
			w.others(usual[0].Division)
		}
	}
	if w.ways == nil {
		return nil, w.whyNot(division)
	}
	slices.SortStableFunc(w.ways, func(a, b ranked) int { return slices.Compare(a.rank[:], b.rank[:]) })
	var out []Proposal
	for _, way := range w.ways[:min(len(w.ways), mostWays)] {
		out = append(out, way.Proposal)
	}
	return out, nil
}

// Wanted is a request for an instrument of a family with a least count. A chain of scales adds the ways to build it.
type Wanted struct {
	Definition *Definition
	Unit       length.Unit
	LeastCount length.Number

	traits Traits
	limits Limits
	ways   []ranked
}

// Limits bound a chain of scales so that it can be made and read.
type Limits struct {
	Lines int       // in a cycle at most, with those of a finer scale
	Cycle int64     // what one covers at least, in mm; 0 for what marks alone need
	Text  text.Text // as a clause
}

// Rank orders ways: unusual numbers of lines, which division, a finer scale or none, the form, lines, and how far
// the plate reaches. Less comes first.
type Rank [6]int

type ranked struct {
	Proposal
	rank Rank
}

// bounds of a main division that can be engraved and read, in the unit.
func (w *Wanted) bounds() (low, high length.Number) {
	switch w.Unit {
	case length.Inch:
		low, high = length.Frac(1, 64), length.Frac(1, 4)
		if w.limits.Cycle > 0 {
			low = length.Frac(w.limits.Cycle, 20)
		}
		return low, high
	case length.Centimetre:
		low, high = length.Frac(1, 40), length.Int(1)
	case length.Degree:
		return length.Frac(1, 12), length.Int(5)
	default:
		low, high = length.Frac(1, 4), length.Int(10)
	}
	if w.limits.Cycle > 0 {
		low = high.Mul(length.Frac(w.limits.Cycle, 10))
	}
	return low, high
}

func (w *Wanted) engraved(d length.Number) bool {
	low, high := w.bounds()
	return low.Cmp(d) <= 0 && d.Cmp(high) <= 0
}

// scale is a main scale of a division, written and numbered in the unit's own manner.
func (w *Wanted) scale(d length.Number) Main {
	m := Main{Division: d, NumberEvery: 10, Fractional: w.binary(d)}
	whole := length.Int(10) // millimetres between numbers; on a sleeve 5
	if w.traits.HasThimble {
		whole = length.Int(5)
	}
	switch w.Unit {
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
func (w *Wanted) binary(d length.Number) bool { return w.Unit == length.Inch && d.MulInt(64).IsInt() }

// tenth is a tenth of a millimetre in the unit; 0 in inches.
func (w *Wanted) tenth() length.Number {
	switch w.Unit {
	case length.Inch:
		return length.Number{}
	case length.Centimetre:
		return length.Frac(1, 100)
	}
	return length.Frac(1, 10)
}

// millimetres are a length of the unit.
func (w *Wanted) millimetres(x length.Number) float64 {
	return length.Convert(x, w.Unit, length.Millimetre).Float()
}

// lines returns how many lines of worth c a length is divided into, where that is a whole number within bounds.
func (w *Wanted) lines(x, c length.Number, low int) (int, bool) {
	n, ok := x.Quo(c).Int64()
	return int(n), ok && int64(low) <= n && n <= mostLines
}

// build adds every way on a main scale that can be engraved, and read: no decimal least count is read on binary inches.
func (w *Wanted) build(u Usual) {
	if w.traits.HasLines && !(w.engraved(u.Division) && (!w.binary(u.Division) || w.LeastCount.MulInt(1024).IsInt())) {
		return
	}
	w.Definition.Scale.Propose(w, u)
}

// others looks for divisions that can give the least count where the usual ones cannot: round ones first, then
// those with lines in fives, then those near to the most usual one.
func (w *Wanted) others(usual length.Number) {
	type candidate struct {
		division length.Number
		key      [3]float64
	}
	first := w.millimetres(usual)
	var all []candidate
	seen := map[string]bool{}
	for _, per := range []int{1, 5, 10} { // a line of a drum is worth 5 or 10 least counts under a vernier
		if per > 1 && !w.traits.HasThimble {
			break
		}
		for n := leastLines; n <= mostLines; n++ {
			d := w.LeastCount.MulInt(n * per)
			if !w.engraved(d) || seen[d.String()] {
				continue
			}
			seen[d.String()] = true
			inFives := 0.0
			if n%5 != 0 {
				inFives = 1
			}
			all = append(all, candidate{d, [3]float64{w.roughness(d), inFives,
				math.Abs(math.Log(w.millimetres(d) / first))}})
		}
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return slices.Compare(a.key[:], b.key[:]) })
	tried := 0
	for i, x := range all {
		before := len(w.ways)
		if w.build(Usual{Division: x.division, index: i}); len(w.ways) > before {
			if tried++; tried == 4 {
				return
			}
		}
	}
}

// roughness returns how far a division is from a round one: 0 for tenths of a millimetre and more, or parts of an inch
// in its own manner, 1 for twentieths, 2 for the rest.
func (w *Wanted) roughness(d length.Number) float64 {
	tenths := length.Convert(d, w.Unit, length.Millimetre).MulInt(10)
	if w.Unit == length.Inch {
		if length.Int(1).Quo(d).IsInt() && w.binary(d) {
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
func (w *Wanted) written(x length.Number) text.Math {
	if w.Unit.Angular() {
		return text.Math(length.DMS(x, length.Degrees))
	}
	s := x.String()
	if w.Unit == length.Inch && x.MulInt(1024).IsInt() {
		s = x.Fraction()
	}
	return text.Math(w.Unit.With(s))
}

// whyNot says why no way gives c, and what would.
func (w *Wanted) whyNot(division length.Number) error {
	low, high := w.bounds()
	c := w.written(w.LeastCount)
	switch {
	case !w.traits.HasLines:
		return text.Error("proposal.apart", "family", w.Definition.Family.Name(), "low", w.written(low), "high",
			w.written(high), "c", c)
	case division.Sign() > 0 && !w.engraved(division):
		return text.Error("proposal.division", "division", w.written(division), "low", w.written(low), "high",
			w.written(high))
	case division.Sign() > 0:
		ratio := division.Quo(w.LeastCount)
		if ratio.Cmp(length.Int(leastLines)) < 0 {
			return text.Error("proposal.too-coarse", "division", w.written(division), "lines", leastLines, "c", c,
				"coarsest", w.written(division.Quo(length.Int(leastLines))))
		}
		if !ratio.IsInt() {
			n := ratio.Floor()
			return text.Error("proposal.not-whole", "c", c, "division", w.written(division), "fewer", n, "coarser",
				division.Quo(n), "more", n.Add(length.Int(1)), "finer", division.Quo(n.Add(length.Int(1))))
		}
		return text.Error("proposal.too-many", "c", c, "division", w.written(division), "lines", ratio, "limits",
			w.limits.Text)
	}
	if need := w.LeastCount.MulInt(w.limits.Lines); need.Less(low) {
		return text.Error("proposal.too-fine", "family", w.Definition.Family.Name(), "c", c, "need", w.written(need),
			"low", w.written(low))
	}
	if need := w.LeastCount.MulInt(leastLines); high.Less(need) {
		return text.Error("proposal.rule-serves", "family", w.Definition.Family.Name(), "c", c, "lines", leastLines,
			"need", w.written(need), "high", w.written(high))
	}
	return text.Error("proposal.none", "family", w.Definition.Family.Name(), "c", c, "limits", w.limits.Text)
}

// reach returns the usual length of an instrument of the family.
func (w *Wanted) reach() length.Number {
	switch mm := w.Definition.Reach; w.Unit {
	case length.Centimetre:
		return length.Frac(mm, 10)
	case length.Inch:
		return length.Int((mm + 12) / 25)
	default:
		return length.Int(mm)
	}
}

// Offer keeps a way, with what is remarkable about it, when it can exist and has the wanted least count.
func (w *Wanted) Offer(m Main, f Fine, v ThimbleVernier, remark text.Text, r Rank) {
	m.To = w.reach()
	if n := m.To.Quo(m.Division).Floor(); m.Division.Sign() > 0 { // whole divisions
		m.To = n.Mul(m.Division)
	}
	m.Reverse, f.Down = w.Definition.Reversed, w.Definition.Reversed
	spec := Spec{Family: w.Definition.Family, Unit: w.Unit, Main: m, Fine: f, ThimbleVernier: v}
	spec.Fine.Kind = w.Definition.Fine
	if w.Definition.Paired {
		upright := spec
		spec.Role, spec.Second = ToothDepthScale, &upright
	}
	in, err := New(spec)
	if err != nil || !in.LeastCount().Equal(w.LeastCount) {
		return
	}
	w.ways = append(w.ways, ranked{Proposal{in.spec, in.Describe(), remark}, r})
}
