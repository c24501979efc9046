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
