package figure

import (
	"math"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// Whole draws the whole caliper small and to scale: what is held between its jaws, and in a dashed
// frame the stretch that the figure shows.
func (l *straight) Whole(o Options) *Scene {
	in := l.in
	if l.small != nil {
		sc := wholeScene(o.say(text.New("figure.whole-" + string(in.Spec().Family))))
		sc.add(l.small(share(in, l.y.Sub(in.Spec().Base)))...)
		return sc
	}
	const width, start = 300.0, 22.0
	s := in.Spec()
	plate := in.LineOffset(l.n).Abs()
	long := s.Main.To.Sub(s.Main.From).Add(plate.Mul(length.Frac(3, 2)))
	scale := (width - start - 40) / long.Float()
	size := width * coarsely(math.Max(0, l.y.Sub(in.Closed()).Float()*scale)/width)
	slide := math.Max(34, plate.Float()*scale*1.25)

	sc := wholeScene(o.say(text.New("figure.whole-caliper")))
	sc.add(wholeCaliper(size, slide)...)
	// The figure's window: x = 0 … width of the layout, in the instrument's unit.
	perPx := s.Main.Division.Float() / l.division()
	left := start + size + 12 - l.zero*perPx*scale
	w := l.width * perPx * scale
	if left < 1 {
		w, left = w-(1-left), 1
	}
	sc.add(window(left, 17, math.Min(w, width-2-left), 33))
	return sc
}

// coarsely is a share of a whole in fortieths: a small picture shows about how far an instrument is open, and
// nobody can measure on it what is to be read on the figure.
func coarsely(part float64) float64 { return math.Round(40*part) / 40 }

// share is about how far along its range the instrument stands, 0 to 1.
func share(in *instrument.Instrument, shown length.Number) float64 {
	m := in.Spec().Main
	return coarsely(math.Max(0, math.Min(1, shown.Sub(m.From).Quo(m.To.Sub(m.From)).Float())))
}

// Whole draws the whole dial caliper small.
func (d *dial) Whole(o Options) *Scene {
	size := 150 * share(d.in, d.shown)
	sc := wholeScene(o.say(text.New("figure.whole-dial")))
	sc.add(wholeCaliper(size, 78)...)
	x := 22 + size + 46
	sc.add(Circle{X: x, Y: 31, R: 19, Paint: Paint{Fill: "#FBFAF5", Stroke: "#5E6B73", Width: 1.4}},
		Line{X1: x, Y1: 31, X2: x + 15*math.Sin(d.turned()), Y2: 31 - 15*math.Cos(d.turned()), Stroke: "#1C2830",
			Width: 1.6},
		window(math.Max(2, x-78), 8, 112, 46))
	return sc
}

// Whole draws the whole micrometer small: its frame or base, what it measures, and the drum.
func (d *drum) Whole(o Options) *Scene {
	sc := wholeScene(o.say(text.New("figure.whole-screw")))
	sc.add(d.frame(share(d.in, d.shown))...)
	return sc
}

// depthBase is a base that lies across a hole; the rod reaches down into it. It is drawn lying on its side.
func depthBase(at float64) []Item {
	deep := 14 + 60*at
	x := 200 - 26*at
	return []Item{
		Path{D: pathf("M6 14 H110 V32 H%.1f V54 H110 V72 H6 V54 H%.1f V32 H6 Z", 110-deep-4, 110-deep-4),
			Paint: wholeWork},
		Rect{X: 110 - deep, Y: 40, W: deep + 4, H: 6, Paint: wholeMoving},
		Rect{X: 111, Y: 6, W: 14, H: 74, Paint: wholeMetal},
		Rect{X: 125, Y: 33, W: 90, H: 20, Paint: wholeMetal},
		Rect{X: x, Y: 28, W: 74, H: 30, Paint: wholeMoving}, window(x-52, 20, 92, 46)}
}

// insideRod is a head with a rod between two walls.
func insideRod(at float64) []Item {
	x := 168 + 26*at
	return []Item{
		Rect{X: 8, Y: 8, W: 12, H: 70, Paint: wholeWork}, Rect{X: x + 92, Y: 8, W: 12, H: 70, Paint: wholeWork},
		Rect{X: 20, Y: 39, W: 84, H: 8, Paint: wholeMetal}, Rect{X: 104, Y: 33, W: 84, H: 20, Paint: wholeMetal},
		Rect{X: x, Y: 28, W: 72, H: 30, Paint: wholeMoving},
		Rect{X: x + 72, Y: 39, W: 20, H: 8, Paint: wholeMetal}, window(x-52, 20, 92, 46)}
}

// newBare lays out a straight scale without a caliper's jaws; small draws the whole instrument.
func newBare(in *instrument.Instrument, y length.Number, width float64, small func(share float64) []Item) *straight {
	l := newStraight(in, y, width, 0)
	l.small = small
	return l
}

// onPlate is a height gauge on a surface plate, its scriber on a part.
func onPlate(at float64) []Item {
	y := 70 - 56*at
	return []Item{
		Rect{X: 40, Y: 78, W: 220, H: 8, Paint: wholeMetal}, Rect{X: 70, Y: 64, W: 56, H: 14, Paint: wholeMetal},
		Rect{X: 84, Y: 2, W: 14, H: 64, Paint: wholeMetal},
		Rect{X: 170, Y: y + 4, W: 60, H: 74 - y, Paint: wholeWork},
		Rect{X: 78, Y: y - 12, W: 28, H: 22, Paint: wholeMoving},
		Rect{X: 104, Y: y - 2, W: 84, H: 6, Paint: wholeMoving},
	}
}

// depthBridge is a bridge on a part with a hole, and the blade in it.
func depthBridge(at float64) []Item {
	deep := 8 + 34*at
	return []Item{
		Path{D: pathf("M60 44 H136 V%.1f H164 V44 H240 V86 H60 Z", 46+deep), Paint: wholeWork},
		Rect{X: 144, Y: 4, W: 12, H: 40 + deep, Paint: wholeMoving},
		Rect{X: 90, Y: 32, W: 120, H: 12, Paint: wholeMetal},
		window(132, 2, 36, 34),
	}
}

// eyepiece is what a microscope shows: cross-wires, and the edge of a wire or ring on which they stand.
func eyepiece(at float64) []Item {
	const x, y, r = 150.0, 43.0, 38.0
	from := -math.Pi / 2
	if at > 0.5 { // the other edge
		from = math.Pi / 2
	}
	edge := Path{D: outlined(arc(x, y, r, from, from+math.Pi, 36)), Paint: wholeWork}
	return []Item{
		Circle{X: x, Y: y, R: r, Paint: Paint{Fill: "#FBFAF5", Stroke: "#5E6B73", Width: 2}}, edge,
		Line{X1: x - r, Y1: y, X2: x + r, Y2: y, Stroke: ink, Width: 0.9},
		Line{X1: x, Y1: y - r, X2: x, Y2: y + r, Stroke: ink, Width: 0.9},
	}
}

// threeLegs is a screw between three legs, on glass or on a lens.
func threeLegs(at float64) []Item {
	tip := 66 + 8*(0.5-at)
	return []Item{
		Path{D: "M50 84 Q150 56 250 84 Z", Paint: wholeWork},
		Rect{X: 96, Y: 26, W: 5, H: 48, Paint: wholeMetal}, Rect{X: 199, Y: 26, W: 5, H: 48, Paint: wholeMetal},
		Rect{X: 90, Y: 22, W: 120, H: 8, Paint: wholeMetal}, Rect{X: 148, Y: 14, W: 4, H: tip - 14, Paint: wholeMoving},
		Rect{X: 116, Y: 12, W: 68, H: 7, Paint: wholeMoving}, Rect{X: 218, Y: 0, W: 5, H: 36, Paint: wholeMetal},
	}
}

// outsideFrame is a bow with an anvil and a spindle.
func outsideFrame(at float64) []Item {
	gap := 6 + 52*at
	x := 176 + 30*at
	return []Item{
		Path{D: "M14 30 H34 V50 Q34 74 66 74 H84 Q116 74 116 50 V30 H140 V56 Q140 84 90 84 H62 Q14 84 14 56 Z",
			Paint: wholeMetal},
		Rect{X: 34, Y: 33, W: 12, H: 14, Paint: wholeMetal},
		Rect{X: 46, Y: 22, W: gap, H: 36, Radius: 2, Paint: wholeWork},
		Rect{X: 46 + gap, Y: 34, W: 116 - 46 - gap + 6, H: 12, Paint: wholeMoving},
		Rect{X: 122, Y: 30, W: 80, H: 20, Paint: wholeMetal},
		Rect{X: x, Y: 25, W: 76, H: 30, Paint: wholeMoving},
		Rect{X: x + 76, Y: 31, W: 14, H: 18, Radius: 2, Paint: wholeMetal}, window(x-52, 17, 92, 46)}
}
