package figure

import (
	"cmp"
	"math"

	"cavix/core/exercise"
	"cavix/core/text"
)

const lensEdge = 66.0

// Strengths returns three magnifications for the drawing, weak to strong. At the strongest one least
// count is at least 4 px between neighbouring lines.
func (l *straight) Strengths() [3]int {
	lines := func(n float64) int { // so that n plate lines stand side by side
		return int(math.Max(2, math.Round(l.width/(n*l.plateDivision()))))
	}
	weak := lines(11)
	middle := max(lines(5.5), weak+1)
	strong := max(2*middle, int(math.Ceil(4.2/l.count)))
	return [3]int{weak, middle, strong}
}

// LensOn returns a lens of the given strength that looks at line k.
func (l *straight) LensOn(zoom, k int) Lens {
	return Lens{Zoom: zoom, X: l.zero + l.lineX(max(k, 0))}
}

// offset returns how far the magnified scales are moved so that the lens looks at its centre.
func (l *straight) offset(z Lens) float64 { return l.strip(z)/2 - z.X*float64(z.Zoom) }

// strip returns the width of the lens.
func (l *straight) strip(z Lens) float64 { return cmp.Or(z.Wide, l.width) }

// frame marks on the figure the stretch that the lens shows.
func (l *straight) frame(z Lens) Item {
	w := l.strip(z) / float64(z.Zoom)
	return Rect{Class: "lens-frame", X: z.X - w/2, Y: edgeY - 62, W: w, H: 62 + plateH - 2, Radius: 3,
		Paint: Paint{Fill: Brass, Opacity: 0.05, Stroke: Brass, Width: 1.4}}
}

// Strip draws what the lens shows. The scales stand in one group, which a page may slide.
func (l *straight) Strip(z Lens, o Options) *Scene {
	zoom, width := float64(z.Zoom), l.strip(z)
	sc := &Scene{Width: width, Height: LensHeight, Label: o.say(text.New("figure.strip"))}
	sc.add(
		Rect{X: 0, Y: 0, W: width, H: lensEdge, Paint: Paint{Fill: "#E4E9EA"}},
		Rect{X: 0, Y: lensEdge, W: width, H: LensHeight - lensEdge, Paint: Paint{Fill: "#EFF1F0"}},
		Line{X1: 0, Y1: lensEdge, X2: width, Y2: lensEdge, Stroke: rim, Width: 0.9},
	)
	plate := l.fineScale(lensEdge, zoom, 14, markLengths{30, 33, 36}, 18)
	scales := Group{Class: "lens-scales", DX: l.offset(z), Items: []Item{
		l.mainScale(lensEdge, zoom, 17, markLengths{31, 35, 39}, 7),
		Group{Class: "lens-plate", DX: (l.zero + o.Eye*l.count) * zoom, Items: []Item{plate}},
	}}
	if o.Flags != nil {
		scales.Items = append(scales.Items, l.rings(o.Flags, zoom)...)
	}
	sc.add(scales,
		Gradient{Name: "rimL", Across: true, Stops: []Stop{{At: 0, Colour: "#8C989D", Opacity: 0.55},
			{At: 1, Colour: "#8C989D", Clear: true}}},
		Gradient{Name: "rimR", Across: true, Stops: []Stop{{At: 0, Colour: "#8C989D", Clear: true},
			{At: 1, Colour: "#8C989D", Opacity: 0.55}}},
		Rect{X: 0, Y: 0, W: 26, H: LensHeight, Paint: Paint{Fill: "#:rimL"}},
		Rect{X: width - 26, Y: 0, W: 26, H: LensHeight, Paint: Paint{Fill: "#:rimR"}},
	)
	return sc
}

// rings marks in the lens what counts, and dashed what was taken instead.
func (l *straight) rings(f *exercise.Pointing, zoom float64) []Item {
	ring := func(class string, x, w, top, h float64, colour, dash string) Item {
		return Rect{Class: class, X: x - w/2, Y: lensEdge + top, W: w, H: h, Radius: w / 2,
			Paint: Paint{Fill: "none", Stroke: colour, Width: 2.2, Dash: dash}}
	}
	var items []Item
	if !f.LineText.IsZero() {
		items = append(items, ring("counted", (l.zero+l.lineX(f.Line))*zoom, 20, -43, 83, Verdigris, ""))
	}
	if !f.MarkText.IsZero() {
		items = append(items, ring("counted", l.at(f.Mark)*zoom, 20, -44, 46, Brass, ""))
	}
	if f.TakenMark != nil {
		items = append(items, ring("taken", l.at(*f.TakenMark)*zoom, 20, -44, 46, Madder, "5 4"))
	}
	if f.TakenLine != nil {
		// Wide enough to hold the line and the mark that it seems to meet.
		x := (l.zero + l.lineX(*f.TakenLine)) * zoom
		division := l.division() * zoom
		nearest := clamp(math.Round(x/division)*division, x-40, x+40)
		items = append(items, ring("taken", (x+nearest)/2, math.Abs(nearest-x)+24, -43, 83, Madder, "5 4"))
	}
	return items
}

func clamp(x, low, high float64) float64 { return math.Max(low, math.Min(x, high)) }

func (l *straight) Track() Track { return Track{Kind: "flat"} }

func (l *straight) Motion() Motion {
	return Motion{
		Moves: []Move{
			{Parts: ".fig g.slide, .fig .jaw.moving, .fig .wall.moving", How: Slides, DX: l.count},
			{Parts: ".work", How: Grows, DX: l.count},
			{Parts: ".lens-plate", How: Slides, DX: l.count, Lens: true},
		},
		Grips: []Grip{{Per: l.count}},
	}
}
