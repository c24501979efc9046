package figure

import (
	"math"

	"cavix/core/instrument"
	"cavix/core/length"
)

// Lens is a strip that shows a stretch of the figure magnified sideways: where it looks and how strong
// it is.
type Lens struct {
	Zoom   int     // whole, so that coordinates stay exact
	Centre float64 // x on the figure
}

// LensHeight is the height of the lens strip in px.
const LensHeight = 136

const lensEdge = 72.0

// Strengths returns three magnifications for the instrument, weak to strong. At the strongest one
// least count is at least 4 px between neighbouring lines.
func Strengths(in *instrument.Instrument) [3]int {
	l, err := newLayout(in, in.Closed())
	if err != nil {
		return [3]int{4, 8, 16}
	}
	lines := func(n float64) int { // so that n plate lines stand side by side
		return int(math.Max(2, math.Round(Width/(n*l.plateDivision()))))
	}
	weak := lines(11)
	middle := max(lines(5.5), weak+1)
	strong := max(2*middle, int(math.Ceil(4.2/l.count)))
	return [3]int{weak, middle, strong}
}

// LensAt returns a lens of the given strength that looks at the plate's line 0.
func LensAt(in *instrument.Instrument, y length.Number, zoom int) (Lens, error) {
	return LensOn(in, y, zoom, 0)
}

// LensOn returns a lens of the given strength that looks at line k.
func LensOn(in *instrument.Instrument, y length.Number, zoom, k int) (Lens, error) {
	l, err := newLayout(in, y)
	if err != nil {
		return Lens{}, err
	}
	return Lens{Zoom: zoom, Centre: l.zero + l.lineX(k)}, nil
}

// Offset is how far the magnified scales are moved so that the lens looks at its centre.
func (z Lens) Offset() float64 { return Width/2 - z.Centre*float64(z.Zoom) }

// frame marks on the figure the stretch that the lens shows.
func (z Lens) frame() Item {
	w := Width / float64(z.Zoom)
	return Rect{Class: "lens-frame", X: z.Centre - w/2, Y: edgeY - 62, W: w, H: 62 + plateH - 2, Radius: 3,
		Paint: Paint{Fill: Brass, Opacity: 0.05, Stroke: Brass, Width: 1.4}}
}

// Strip draws what the lens shows. The scales stand in one group, which a page may slide.
func (z Lens) Strip(in *instrument.Instrument, y length.Number, o Options) (*Scene, error) {
	l, err := newLayout(in, y)
	if err != nil {
		return nil, err
	}
	zoom := float64(z.Zoom)
	sc := &Scene{Width: Width, Height: LensHeight, Label: "The lens: a stretch of the same scales, magnified."}
	sc.add(
		Rect{X: 0, Y: 0, W: Width, H: lensEdge, Paint: Paint{Fill: "#E4E9EA"}},
		Rect{X: 0, Y: lensEdge, W: Width, H: LensHeight - lensEdge, Paint: Paint{Fill: "#EFF1F0"}},
		Line{X1: 0, Y1: lensEdge, X2: Width, Y2: lensEdge, Stroke: rim, Width: 0.9},
	)
	plate := l.fineScale(lensEdge, zoom, 14, markLengths{32, 36, 40}, 17)
	scales := Group{Class: "lens-scales", DX: z.Offset(), Items: []Item{
		l.mainScale(lensEdge, zoom, 17, markLengths{34, 39, 44}, 7),
		Group{DX: l.zero * zoom, Items: []Item{plate}},
	}}
	if f := o.Flags; f != nil {
		ring := func(x, w, top, h float64, colour, dash, class string) Item {
			return Rect{Class: class, X: x - w/2, Y: top, W: w, H: h, Radius: w / 2,
				Paint: Paint{Fill: "none", Stroke: colour, Width: 2.2, Dash: dash}}
		}
		x := (l.zero + l.lineX(f.Line)) * zoom
		scales.Items = append(scales.Items, ring(x, 20, lensEdge-46, 90, Verdigris, "", "counted"))
		if f.TakenLine != nil {
			// Wide enough to hold the line and the mark that it seems to meet.
			x := (l.zero + l.lineX(*f.TakenLine)) * zoom
			nearest := math.Round(x/(l.division()*zoom)) * l.division() * zoom
			w := math.Min(math.Abs(nearest-x), 40) + 24
			scales.Items = append(scales.Items, ring((x+clamp(nearest, x-40, x+40))/2, w, lensEdge-46, 90, Madder, "5 4", "taken"))
		}
	}
	sc.add(scales,
		Gradient{Name: "rimL", Across: true, Stops: []Stop{{At: 0, Colour: "#8C989D", Opacity: 0.55}, {At: 1, Colour: "#8C989D", Clear: true}}},
		Gradient{Name: "rimR", Across: true, Stops: []Stop{{At: 0, Colour: "#8C989D", Clear: true}, {At: 1, Colour: "#8C989D", Opacity: 0.55}}},
		Rect{X: 0, Y: 0, W: 26, H: LensHeight, Paint: Paint{Fill: "#:rimL"}},
		Rect{X: Width - 26, Y: 0, W: 26, H: LensHeight, Paint: Paint{Fill: "#:rimR"}},
	)
	return sc, nil
}

func clamp(x, low, high float64) float64 { return math.Max(low, math.Min(x, high)) }

// WithLens puts the figure of y over the strip of the lens, for a picture that stands alone.
func WithLens(in *instrument.Instrument, y length.Number, z Lens) (*Scene, error) {
	o := Options{Lens: &z}
	fig, err := Caliper(in, y, o)
	if err != nil {
		return nil, err
	}
	strip, err := z.Strip(in, y, o)
	if err != nil {
		return nil, err
	}
	return &Scene{Width: Width, Height: Height + 14 + LensHeight, Label: fig.Label,
		Items: []Item{
			Group{Items: fig.Items},
			Clip{Name: "strip", X: 0, Y: 0, W: Width, H: LensHeight},
			Group{DY: Height + 14, Items: []Item{Group{Clip: "strip", Items: strip.Items}}},
		}}, nil
}
