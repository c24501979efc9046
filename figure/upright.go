package figure

import (
	"math"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// upright is a straight scale that stands on a base: its numbers rise upwards. What lies at x on the straight scale
// lies so far above the foot of the figure. Beam and plate touch along a vertical edge, the plate at its right.
type upright struct {
	*straight
	wide float64 // of the figure
	edge float64 // x at which beam and plate touch
}

// Measures of an upright figure, in px.
const (
	uprightHigh  = 356.0
	uprightBeam  = 84.0 // wide
	uprightPlate = 62.0
	thinnest     = 0.75 // line: level ones fall between two rows of pixels
)

func newUpright(in *instrument.Instrument, y length.Number, width float64) *upright {
	wide := beside(width)
	if wide == width { // in a narrow column too: below the figure an upright lens has no place
		wide -= LensBeside
	}
	l := newStraight(in, y, uprightHigh, 0)
	l.small = onPlate
	return &upright{straight: l, wide: wide, edge: math.Round(0.46 * wide)}
}

// level returns the height of a point of the straight scale, in px from the top.
func (u *upright) level(x float64) float64 { return u.width - x }

// moved lays what a straight scale draws, and what stands dx to the right there, along another line: its marks and
// numerals, which stay level. at returns the place of a point: x along the scale, and up from its edge.
func moved(items []Item, dx float64, at func(x, up float64) (float64, float64)) []Item {
	out := make([]Item, 0, len(items))
	for _, it := range items {
		switch it := it.(type) {
		case Line:
			l := it
			l.X1, l.Y1 = at(it.X1+dx, edgeY-it.Y1)
			l.X2, l.Y2 = at(it.X2+dx, edgeY-it.Y2)
			out = append(out, l)
		case Text:
			t := it
			t.X, t.Y = at(it.X+dx, edgeY-it.Y+0.36*it.Size)
			t.Y += 0.36 * it.Size
			out = append(out, t)
		case Group:
			g := it
			g.DX, g.Items = 0, moved(it.Items, dx+it.DX, at)
			out = append(out, g)
		}
	}
	return out
}

// stands returns where a point of the straight scale stands, up from its edge, about an edge and a foot.
func stands(edge, foot float64) func(x, up float64) (float64, float64) {
	return func(x, up float64) (float64, float64) { return edge - up, foot - x }
}

// Scene draws beam, plate and slide, and the work under the scriber.
func (u *upright) Scene(o Options) *Scene {
	in, x := u.in, u.edge
	sc := &Scene{Width: u.wide, Height: u.width, Label: o.say(text.New("figure.height", "unit", in.Unit(), "lines",
		u.n, "spans", u.m))}
	scale := u.mainScale(edgeY, 1, 17, markLengths{20, 27, 35}, 14)
	scale.Width = math.Max(scale.Width, thinnest)
	sc.Label += o.inSight(text.Word("main scale"), in.Spec().Main.NumberEvery, 0, u.width, scale)
	low, high := u.plateEnds()
	scriber := low - 30 // the level of its measuring face
	zeroError := in.Spec().ZeroError.Quo(in.LeastCount()).Float() * u.count
	ground := scriber - (u.zero - u.span((u.from-int(u.first))*u.n) - zeroError) // where it stands when closed
	at := func(level float64) float64 { return clamp(u.level(level), -20, u.width+20) }
	top, foot := at(u.markX(u.to)+50), at(ground)
	sc.add(steel...)
	if scriber-ground > 0.5 {
		sc.add(Rect{Class: "work", X: x + 176, Y: u.level(scriber), W: u.wide - x - 196,
			H:     3 * u.width, // the ground hides its foot
			Paint: Paint{Fill: "#:work", Stroke: "#7E5A22", Width: 1}})
	}
	if foot < u.width {
		sc.add(Path{Class: "foot", D: pathf("M%.2f %.2f V%.2f H%.2f V%.2f Z", x-uprightBeam-74, foot, foot-20, x, foot),
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}})
		sc.add(Rect{Class: "ground", X: 20, Y: foot, W: u.wide - 40, H: u.width - foot + 10,
			Paint: Paint{Fill: "#8E999E", Stroke: outline, Width: 1}})
	}
	sc.add(
		Rect{Class: "beam", X: x - uprightBeam, Y: top, W: uprightBeam, H: foot - top,
			Paint: Paint{Fill: "#E1E6E7", Stroke: outline, Width: 1}},
		Group{Class: "main-scale", Items: moved([]Item{scale}, 0, stands(x, u.width))},
		u.plate(low, high, scriber, o.Eye*u.count),
	)
	if o.Flags != nil {
		sc.add(u.flags(o)...)
	}
	if o.Names {
		n := place{x - uprightBeam + 4, 30, 30} // named aside, since numerals stand all along the beam
		sc.add(o.name(u.wide, n.x-60, n, text.Word("main scale"))...)
		sc.add(o.named(u.wide, in, map[instrument.PartKey]place{
			instrument.FineZero:  {x + 57, u.level(u.zero), u.level(low) + 18},
			instrument.FineScale: {x + 59, u.level(high) + 8, u.level(high) - 20},
			instrument.Lock:      {x + 80, u.level(high) + 30, u.level(high) + 56},
			instrument.Jaw:       {x + 240, u.level(scriber) - 6, u.level(scriber) - 34},
		})...)
	}
	if o.Lens != nil {
		w := u.width / float64(o.Lens.Zoom)
		sc.add(Rect{Class: "lens-frame", X: x - uprightBeam + 4, Y: o.Lens.Y - w/2, W: uprightBeam + uprightPlate - 8,
			H: w, Radius: 3, Paint: Paint{Fill: Brass, Opacity: 0.05, Stroke: Brass, Width: 1.4}})
	}
	return sc
}

// plate draws what slides along the beam: plate and body, and the scriber that reaches over the work.
func (u *upright) plate(low, high, scriber, eye float64) Group {
	x := u.edge
	zero := u.level(u.zero)
	top, bottom, face := u.level(high)-zero, u.level(low)-zero, u.level(scriber)-zero
	lines := u.fineScale(edgeY, 1, 13, markLengths{18, 24, 30}, 16)
	lines.Width = math.Max(lines.Width, thinnest)
	return Group{Class: "slide", DY: zero, Items: []Item{
		Path{D: pathf("M%.2f %.2f H%.2f V%.2f H%.2f V%.2f H%.2f L%.2f %.2f H%.2f V%.2f H%.2f Z",
			x+uprightPlate, top-8, x+uprightPlate+34, bottom-14, x+uprightPlate+60, face-22, u.wide-90, u.wide-40,
			face, x+uprightPlate+40, bottom+8, x+uprightPlate),
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{X: x - uprightBeam - 12, Y: top - 8, W: 12, H: bottom - top + 16,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "plate", X: x, Y: top, W: uprightPlate, H: bottom - top,
			Paint: Paint{Fill: "#EDF0EF", Stroke: rim, Width: 0.9}},
		Group{DY: -eye, Items: moved([]Item{lines}, 0, stands(x, 0))},
	}}
}

// flags points at the mark that counts and at the line that meets one.
func (u *upright) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	if f.TakenMark != nil {
		if x := u.at(*f.TakenMark); x > 0 && x < u.width {
			items = append(items, ring("taken", u.edge-22, u.level(x), 48, 16, Madder, "4 3"))
			items = append(items, o.takenTag(u.edge-uprightBeam-40, u.level(x))...)
		}
	}
	if f.TakenLine != nil {
		y := u.level(u.zero + u.lineX(*f.TakenLine))
		items = append(items, ring("taken", u.edge+17, y, 38, 16, Madder, "4 3"))
		items = append(items, o.takenTag(u.edge+uprightPlate+70, y)...)
	}
	if !f.MarkText.IsZero() {
		items = append(items, o.pinAside(u.edge-40, u.level(u.at(f.Mark)), u.edge-uprightBeam-22, f.MarkText, Brass)...)
	}
	if !f.LineText.IsZero() {
		items = append(items, o.pinAside(u.edge+32, u.level(u.zero+u.lineX(f.Line)), u.edge+uprightPlate+22, f.LineText,
			Verdigris)...)
	}
	return items
}

// Strip draws what the lens shows: the scales stretched upwards only.
func (u *upright) Strip(z Lens, o Options) *Scene {
	const edge = LensBeside / 2.0
	zoom := float64(z.Zoom)
	sc := &Scene{Width: LensBeside, Height: u.width, Label: o.say(text.New("figure.strip"))}
	sc.add(
		Rect{W: edge, H: u.width, Paint: Paint{Fill: "#E4E9EA"}},
		Rect{X: edge, W: LensBeside - edge, H: u.width, Paint: Paint{Fill: "#EFF1F0"}},
		Line{X1: edge, X2: edge, Y2: u.width, Stroke: rim, Width: 0.9},
	)
	foot := u.width * zoom
	main := u.mainScale(edgeY, zoom, 17, markLengths{31, 35, 39}, 16)
	fine := u.fineScale(edgeY, zoom, 14, markLengths{30, 33, 36}, 20)
	scales := Group{Class: "lens-scales", DY: u.width/2 - z.Y*zoom, Items: []Item{
		Group{Items: moved([]Item{main}, 0, stands(edge, foot))},
		Group{Class: "lens-plate", DY: foot - (u.zero+o.Eye*u.count)*zoom,
			Items: moved([]Item{fine}, 0, stands(edge, 0))},
	}}
	if o.Flags != nil {
		for _, it := range u.rings(o.Flags, zoom) {
			r := it.(Rect) // about the edge of a level lens
			r.X, r.Y, r.W, r.H = edge-lensEdge+r.Y, foot-r.X-r.W, r.H, r.W
			scales.Items = append(scales.Items, r)
		}
	}
	sc.add(scales)
	return sc
}

// LensOn returns a lens of the given strength that looks at line k.
func (u *upright) LensOn(zoom, k int) Lens {
	return Lens{Zoom: zoom, X: u.edge, Y: u.level(u.straight.LensOn(zoom, k).X)}
}

func (u *upright) inset(pixel float64, line int, aside, wide float64) Lens {
	z := u.straight.inset(pixel, line, aside, wide)
	return Lens{Zoom: z.Zoom, Wide: wide, X: u.edge, Y: u.level(z.X)}
}

func (u *upright) Track() Track { return Track{Kind: "tall", X: u.edge} }

func (u *upright) Motion() Motion {
	return Motion{
		Moves: []Move{
			{Parts: ".fig g.slide, .fig .work", How: Slides, DY: -u.count},
			{Parts: ".lens-plate", How: Slides, DY: -u.count, Lens: true},
		},
		Grips: []Grip{{Up: true, Per: u.count}},
	}
}

// Band returns the levels about the plate's 0, where the main scale is read; the plate is under the lens.
func (u *upright) Band() (top, bottom float64) {
	zero := u.level(u.zero)
	return math.Max(0, zero-120), math.Min(u.width, zero+60)
}
