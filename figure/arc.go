package figure

import (
	"math"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// bentArc is a divided circle with a vernier plate inside it: a straight scale bent round the middle of the circle,
// true to its angles. The lens shows it unrolled, so that lines can be compared.
type bentArc struct {
	*straight
	r      float64 // of the edge at which circle and plate touch, in px
	cx, cy float64 // the middle of the circle
	mirror bool    // numbers rise to the left
}

// The levels of an arc's figure, in px: of the touching edge at the middle, and how far circle and plate go from it.
const (
	arcEdge  = 118.0
	arcMain  = 74.0
	arcPlate = 62.0
	arcLeast = 226.0 // the height of the figure where it is hardly bent
	arcMost  = 380.0
)

func newArc(in *instrument.Instrument, y length.Number, width float64) *bentArc {
	l := newStraight(in, y, width, 0)
	a := &bentArc{straight: l, mirror: in.Spec().Main.Reverse}
	a.r = l.count / (in.LeastCount().Float() * math.Pi / 180)
	a.cx, a.cy = width/2, arcEdge+a.r
	return a
}

// bent returns the point of the figure that stands for a point of the straight scale: x along it, and up from its edge.
func (a *bentArc) bent(x, up float64) (float64, float64) {
	angle := (x - a.width/2) / a.r
	if a.mirror {
		angle = -angle
	}
	return a.cx + (a.r+up)*math.Sin(angle), a.cy - (a.r+up)*math.Cos(angle)
}

// bend bends what a straight scale draws that stands dx to the right: its lines and numerals. Numerals at the edges of
// the figure are left out.
func (a *bentArc) bend(items []Item, dx float64) []Item {
	return a.clear(moved(items, dx, a.bent))
}

// clear leaves out numerals that the edges of the figure would cut.
func (a *bentArc) clear(items []Item) []Item {
	out := items[:0]
	for _, it := range items {
		switch it := it.(type) {
		case Text:
			if it.X <= 8-a.bleed || it.X >= a.width-8+a.bleed {
				continue
			}
		case Group:
			it.Items = a.clear(it.Items)
			out = append(out, it)
			continue
		}
		out = append(out, it)
	}
	return out
}

// band is the outline of a ring between two levels, from one point of the straight scale to another.
func (a *bentArc) band(from, to, low, high float64) string {
	const steps = 48
	var out []point
	for i := range steps + 1 {
		x, y := a.bent(from+(to-from)*float64(i)/steps, high)
		out = append(out, point{x, y})
	}
	for i := range steps + 1 {
		x, y := a.bent(to+(from-to)*float64(i)/steps, low)
		out = append(out, point{x, y})
	}
	return outlined(out)
}

// outlined writes a closed line in SVG path syntax.
func outlined(line []point) string {
	var b strings.Builder
	for i, p := range line {
		b.WriteString(pathf("%s%.2f %.2f", map[bool]string{true: "M", false: "L"}[i == 0], p.x, p.y))
	}
	return b.String() + "Z"
}

// height is the height of the figure: the ends of the plate are in it.
func (a *bentArc) height() float64 {
	left, right := a.plateEnds()
	_, l := a.bent(left, -arcPlate)
	_, r := a.bent(right, -arcPlate)
	return math.Min(arcMost, math.Max(arcLeast, math.Max(l, r)+18))
}

// Scene draws the circle and the plate.
func (a *bentArc) Scene(o Options) *Scene {
	if o.Bleed != 0 {
		wide := *a.straight
		wide.bleed = o.Bleed
		bent := *a
		bent.straight = &wide
		a = &bent
	}
	in := a.in
	sc := &Scene{Width: a.width, Height: a.height(), Label: o.say(text.New("figure.circle", "lines",
		in.Spec().Fine.Divisions, "spans", in.Spec().Fine.MainDivisions))}
	scale := a.mainScale(edgeY, 1, 17, markLengths{20, 28, 36}, 8)
	sc.Label += o.inSight(text.Word("main scale"), in.Spec().Main.NumberEvery, 0, a.width, scale)
	left, right := a.plateEnds()
	from, to := -20-a.bleed, a.width+20+a.bleed
	sc.add(steel...)
	sc.add(
		Path{Class: "beam", D: a.band(from, to, 0, arcMain), Paint: Paint{Fill: "#E1E6E7", Stroke: outline, Width: 1}},
		Group{Class: "main-scale", Items: a.bend([]Item{scale}, 0)},
	)
	lines := a.fineScale(edgeY, 1, 13, markLengths{19, 25, 31}, 16)
	lines.DX = a.zero + o.Eye*a.count
	sc.add(Group{Class: "plate-arc", Items: append([]Item{
		Path{Class: "plate", D: a.band(left, right, -arcPlate, 0),
			Paint: Paint{Fill: "#EDF0EF", Stroke: rim, Width: 0.9}},
	}, a.bend([]Item{lines}, 0)...)})
	if o.Flags != nil {
		sc.add(a.flags(o)...)
	}
	if o.Names {
		zx, zy := a.bent(a.zero, -51)
		px, py := a.bent(a.zero+a.lineX(a.n)*0.6, -51)
		mx, my := a.bent(a.width-140, 60)
		sc.add(o.named(a.width, in, map[instrument.PartKey]place{
			instrument.MainScale: {mx, my, 16}, instrument.FineZero: {zx, zy, zy + 34},
			instrument.FineScale: {px, py, py + 34},
		})...)
	}
	if o.Lens != nil {
		sc.add(a.frame(*o.Lens))
	}
	return sc
}

// frame marks on the figure the stretch that the lens shows.
func (a *bentArc) frame(z Lens) Item {
	w := a.strip(z) / float64(z.Zoom)
	return Rect{Class: "lens-frame", X: z.X - w/2, Y: 8, W: w, H: a.height() - 16, Radius: 3,
		Paint: Paint{Fill: Brass, Opacity: 0.05, Stroke: Brass, Width: 1.4}}
}

// flags points at the mark that counts and at the line that meets one.
func (a *bentArc) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	if f.TakenMark != nil {
		if x, y := a.bent(a.at(a.onFigure(*f.TakenMark)), 20); x > 0 && x < a.width {
			items = append(items, ring("taken", x, y, 18, 46, Madder, "4 3"))
			items = append(items, o.takenTag(x, y-44)...)
		}
	}
	if f.TakenLine != nil {
		x, y := a.bent(a.zero+a.lineX(*f.TakenLine), -17)
		items = append(items, ring("taken", x, y, 18, 38, Madder, "4 3"))
		items = append(items, o.takenTag(x, y+46)...)
	}
	if !f.MarkText.IsZero() {
		x, y := a.bent(a.at(a.onFigure(f.Mark)), 38)
		items = append(items, o.pin(a.width, x, y, y-44, -1, f.MarkText, Brass)...)
	}
	if !f.LineText.IsZero() {
		x, y := a.bent(a.zero+a.lineX(f.Line), -52)
		items = append(items, o.pin(a.width, x, y, y+30, 1, f.LineText, Verdigris)...)
	}
	return items
}

// onFigure returns a value of the circle as it lies nearest to what the figure shows: a mark at 0 may stand beyond 360.
func (a *bentArc) onFigure(v length.Number) length.Number {
	turn := a.in.Turn()
	if turn.Sign() == 0 {
		return v
	}
	return v.Add(a.y.Sub(v).Quo(turn).Round(0).Mul(turn))
}

// Strip draws what the lens shows, unrolled.
func (a *bentArc) Strip(z Lens, o Options) *Scene {
	if !a.mirror {
		return a.straight.Strip(z, o)
	}
	z.X = a.width - z.X
	sc := a.straight.Strip(z, o)
	for i, it := range sc.Items {
		if g, is := it.(Group); is {
			g.DX = sc.Width - g.DX // a page slides it: what it holds is turned over about its own 0
			mirrored(g.Items)
			sc.Items[i] = g
		}
	}
	return sc
}

// mirrored turns scales over from left to right about 0; their numerals stay upright.
func mirrored(items []Item) {
	for i, it := range items {
		switch it := it.(type) {
		case Line:
			it.X1, it.X2 = -it.X1, -it.X2
			items[i] = it
		case Rect:
			it.X = -it.X - it.W
			items[i] = it
		case Text:
			it.X = -it.X
			items[i] = it
		case Group:
			it.DX = -it.DX
			mirrored(it.Items)
			items[i] = it
		}
	}
}

// LensOn returns a lens of the given strength that looks at line k.
func (a *bentArc) LensOn(zoom, k int) Lens {
	z := a.straight.LensOn(zoom, k)
	if a.mirror {
		z.X = a.width - z.X
	}
	return z
}

func (a *bentArc) inset(pixel float64, line int, aside, wide float64) Lens {
	z := a.straight.inset(pixel, line, aside, wide)
	if a.mirror {
		z.X = a.width - z.X
	}
	return z
}

func (a *bentArc) Motion() Motion {
	count := a.count
	turn := a.count / a.r * 180 / math.Pi
	if a.mirror {
		count, turn = -count, -turn
	}
	return Motion{
		Moves: []Move{
			{Parts: ".plate-arc", How: Turns, Turn: turn, X: a.cx, Y: a.cy},
			{Parts: ".lens-plate", How: Slides, DX: count, Lens: true},
		},
		Grips: []Grip{{Per: count}},
	}
}

// Band returns the levels of both scales in the middle of the figure.
func (a *bentArc) Band() (top, bottom float64) { return arcEdge - arcMain + 8, arcEdge + arcPlate }

// Whole draws the whole instrument small, at its true angle: blade and stock, or a circle with two arms.
func (a *bentArc) Whole(o Options) *Scene {
	angle := math.Round(a.y.Float()/5) * 5 * math.Pi / 180 // about: nobody measures on it
	if a.in.Traits().Round {
		sc := wholeScene(o.say(text.New("figure.whole-circle")))
		const x, y, r = 150.0, 43.0, 36.0
		arm := func(at float64, paint Paint) Item {
			dx, dy := math.Sin(at), -math.Cos(at)
			return Path{D: pathf("M%.2f %.2f L%.2f %.2f", x-18*dx, y-18*dy, x+60*dx, y+60*dy), Paint: paint}
		}
		sc.add(Circle{X: x, Y: y, R: r, Paint: wholeMetal},
			arm(math.Pi/2, Paint{Fill: "none", Stroke: "#5E6B73", Width: 5}),
			arm(angle, Paint{Fill: "none", Stroke: "#8E999E", Width: 5}),
			Circle{X: x, Y: y, R: 10, Paint: wholeMoving})
		return sc
	}
	sc := wholeScene(o.say(text.New("figure.whole-protractor")))
	const x, y = 120.0, 64.0
	dx, dy := math.Cos(angle), -math.Sin(angle)
	sc.add(
		Rect{X: 30, Y: y, W: 190, H: 12, Paint: wholeMetal},
		Path{D: pathf("M%.2f %.2f L%.2f %.2f L%.2f %.2f L%.2f %.2f Z", x-40*dx, y-40*dy, x+110*dx, y+110*dy,
			x+110*dx+10*dy, y+110*dy-10*dx, x-40*dx+10*dy, y-40*dy-10*dx), Paint: wholeMoving},
		Circle{X: x, Y: y - 6, R: 22, Paint: wholeMetal},
	)
	return sc
}
