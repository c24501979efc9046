package figure

import (
	"math"
	"strconv"

	"cavix/core/instrument"
	"cavix/core/length"
)

// straight is a straight scale with a sliding plate, laid out: it says where every mark and line stands,
// in pixels. One least count is a whole number of thousandths of a pixel, so every mark and line on the
// grid has an exact coordinate: what coincides in the numbers coincides in the drawing, to the last
// digit.
type straight struct {
	in    *instrument.Instrument
	y     length.Number
	tooth bool // what it holds is a tooth
	width float64
	count float64 // px of one least count
	n, m  int     // lines, and main divisions they span
	dir   float64 // +1, or −1 when the plate's lines run the other way
	first float64 // main mark at x = 0, as a whole number of divisions
	zero  float64 // x of the plate's line 0
	from  int     // first and last main mark of the scale itself
	to    int

	top    float64 // y of the beam's upper edge
	margin float64 // kept free at the left, for an upright scale
	bleed  float64 // drawn beyond both sides
	both   bool    // lines run both ways from 0
	// the whole instrument small, opened by a share of its range; nil is a caliper, whose jaws are drawn too
	small func(share float64) []Item
}

// newStraight lays out the instrument showing y: the whole plate in sight, and a numbered main mark left
// of its 0.
func newStraight(in *instrument.Instrument, y length.Number, width, margin float64) *straight {
	s := in.Spec()
	l := &straight{in: in, y: y, width: width, n: s.Fine.Divisions, m: s.Fine.MainDivisions, dir: 1, top: beamTop,
		margin: margin}
	if _, role := in.Second(); role == instrument.OtherScale || role == instrument.InsidePlate {
		l.top = beamTop - 38 // room for marks on both edges
	}
	width -= margin
	if in.Form().Retrograde {
		l.dir = -1
	}
	const widest = 27.0 // px of one main division at the most: wider shows too little of the scale
	part := 0.60        // of the width that the plate takes
	if l.both = in.Traits().BothWays; l.both {
		part = 0.40 // each half
	}
	count := math.Min(widest/float64(l.n), part*width/float64(l.n*l.m))
	l.count = math.Max(math.Floor(count*1000), 1) / 1000

	position := y.Sub(s.Base).Quo(s.Main.Division) // in main divisions
	plate := l.span(l.n * l.m)
	left := (width - plate) / 2
	switch {
	case l.both:
		left = width / 2
	case l.dir > 0:
		want := (float64(s.Main.NumberEvery) + 1.4) * l.division()
		left = math.Max(left, math.Min(want, width-plate-3*l.division()))
	default:
		left += plate
	}
	left += margin
	whole, _ := position.Floor().Int64()
	l.first = float64(whole) - math.Round(left/l.division())
	steps := position.Sub(length.Int(int64(l.first))).MulInt(l.n)
	l.zero = steps.Float() * l.count
	l.from = markIndex(s.Main.From.Quo(s.Main.Division).Neg().Floor().Neg()) // up
	l.to = markIndex(s.Main.To.Quo(s.Main.Division).Floor())
	if in.Traits().Round { // it has no ends
		l.from, l.to = -1<<30, 1<<30
	}
	return l
}

// Travel moves the window along the scale, to no further than a plate beyond its ends.
func (l *straight) Travel(divisions int) {
	low, high := float64(l.from-l.m), float64(l.to+l.m)-l.width/l.division()
	first := math.Max(math.Min(low, l.first), math.Min(math.Max(high, l.first), l.first+float64(divisions)))
	l.zero -= (first - l.first) * l.division()
	l.first = first
}

func markIndex(x length.Number) int {
	i, _ := x.Int64()
	return int(i)
}

// span is the length of so many least counts, rounded to where an exact decimal lies.
func (l *straight) span(counts int) float64 { return math.Round(float64(counts)*l.count*1e4) / 1e4 }

// division is the px of one main division.
func (l *straight) division() float64 { return l.span(l.n) }

// plateDivision is the px of one plate division.
func (l *straight) plateDivision() float64 { return l.span(l.m) }

// markX returns the position of main mark i.
func (l *straight) markX(i int) float64 { return l.span((i - int(l.first)) * l.n) }

// at returns the position of a main mark of the given value, whether the scale has one or not.
func (l *straight) at(v length.Number) float64 {
	return v.Quo(l.in.Spec().Main.Division).Sub(length.Int(int64(l.first))).Float() * l.division()
}

// lineX returns the position of line k, measured from line 0.
func (l *straight) lineX(k int) float64 { return l.dir * l.span(k*l.m) }

// edge returns how far the plate's metal goes on before line 0 and after line n; the core owns the number.
func (l *straight) edge() float64 {
	return l.in.PlateEdge().Quo(l.in.LeastCount()).Float() * l.count
}

// plateEnds are the left and right ends of the plate's metal.
func (l *straight) plateEnds() (left, right float64) {
	a, b := l.ends()
	return a - l.edge(), b + l.edge()
}

// ends are the positions of the first and the last line of the plate.
func (l *straight) ends() (first, last float64) {
	a, b := l.zero, l.zero+l.lineX(l.n)
	if l.both {
		a = l.zero - l.lineX(l.n)
	}
	return math.Min(a, b), math.Max(a, b)
}

// marks returns the first and last main mark to draw: all of the scale that is in the window, and in
// any case every mark under the plate and one beyond each of its ends.
func (l *straight) marks() (low, high int) {
	a, b := l.ends()
	under := int(l.first) + int(math.Ceil(a/l.division()-1e-7)) - 1
	over := int(l.first) + int(math.Floor(b/l.division()+1e-7)) + 1
	low = max(l.from, int(l.first)-1-int(l.bleed/l.division()))
	high = min(l.to, int(l.first)+int((l.width+l.bleed)/l.division())+1)
	return min(low, under), max(high, over)
}

// mainLabel returns the number printed at main mark i, if one is.
func (l *straight) mainLabel(i, stride int) (string, bool) {
	s := l.in.Spec().Main
	if turn := l.in.Turn(); turn.Sign() > 0 { // after the full circle its numbers begin again
		whole, _ := turn.Quo(s.Division).Int64()
		i = (i%int(whole) + int(whole)) % int(whole)
	}
	if i < 0 || i%(s.NumberEvery*stride) != 0 {
		return "", false
	}
	return s.NumberStep.MulInt(i / s.NumberEvery).String(), true
}

// lineLabel returns the number printed at line k, if one is.
func (l *straight) lineLabel(k, stride int) (string, bool) {
	f := l.in.Spec().Fine
	if k < 0 {
		k = -k
	}
	if k%(f.NumberEvery*stride) != 0 {
		return "", false
	}
	return strconv.Itoa(k / f.NumberEvery * f.NumberStep), true
}

// digitWidth is the width of a numeral as a share of its size, in the narrow face.
const digitWidth = 0.58

// strides returns how many numbered marks to pass between two numerals so that they never touch.
func stride(spacing, size float64, chars int) int {
	need := size*digitWidth*float64(chars) + 0.45*size
	for _, s := range []int{1, 2, 5, 10, 20, 50, 100} {
		if spacing*float64(s) >= need {
			return s
		}
	}
	return 200
}

// widest is the length of the longest number printed between two main marks, in characters.
func widest(m instrument.Main, low, high int) int {
	most := 1
	for i := low; i <= high; i++ {
		if i%m.NumberEvery == 0 {
			most = max(most, len(m.NumberStep.MulInt(i/m.NumberEvery).String()))
		}
	}
	return most
}

// numerals decides the stride of both scales' numbers for a drawing magnified zoom times.
func (l *straight) numerals(zoom, mainSize, fineSize float64) (mainStride, fineStride int) {
	s := l.in.Spec()
	low, high := l.marks()
	widest := 1
	for i := low; i <= high; i++ {
		if t, ok := l.mainLabel(i, 1); ok {
			widest = max(widest, len(t))
		}
	}
	last := strconv.Itoa(s.Fine.Divisions / s.Fine.NumberEvery * s.Fine.NumberStep)
	return stride(float64(s.Main.NumberEvery)*l.division()*zoom, mainSize, widest),
		stride(float64(s.Fine.NumberEvery)*l.plateDivision()*zoom, fineSize, len(last))
}

// rank says how long a mark is: 2 where a number belongs, 1 half-way between two, 0 else.
func rank(i, every int) int {
	if i < 0 {
		i = -i
	}
	switch {
	case i%every == 0:
		return 2
	case every%2 == 0 && i%(every/2) == 0:
		return 1
	}
	return 0
}
