package figure

import (
	"math"
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// disc is a spherometer's screw with its divided disc seen edge-on, laid out: a drum whose axis stands upright. The
// disc keeps its place, and the upright scale behind its edge moves.
type disc struct {
	*drum // its width lies along the axis
	wide  float64
	cx    float64 // x of the axis, and of the upright scale's edge where it is read
}

// Measures of a disc's figure along its axis, in px from its foot.
const (
	discHigh = 344.0
	discEdge = 124.0
	discRim  = 26.0 // above the bevel
)

func newDisc(in *instrument.Instrument, y length.Number, width float64) *disc {
	d := newDrum(in, y, discHigh)
	d.edge = discEdge
	wide := beside(width)
	return &disc{d, wide, math.Round(0.45 * wide)}
}

// at returns where a point of a drum that lies on its side stands; up as moved has it.
func (d *disc) at(x, up float64) (float64, float64) {
	return d.cx + edgeY - up - drumMiddle, discHigh - x
}

// Scene draws the upright scale and the disc before it.
func (d *disc) Scene(o Options) *Scene {
	if o.Eye != 0 {
		seen, turned := *d, *d.drum
		turned.at += o.Eye * d.turn()
		seen.drum = &turned
		d = &seen
	}
	sc := &Scene{Width: d.wide, Height: discHigh, Label: o.say(text.New("figure.disc", "unit", d.in.Unit(),
		"lines", d.n))}
	scale, lines := d.scale(o.Loose), moved([]Item{d.drumLines(o.Loose)}, 0, d.at)
	sc.Label += o.inSight(text.Word("main scale"), d.in.Spec().Main.NumberEvery, 0, d.wide, scale)
	if !o.Loose { // what moves has the whole disc drawn
		sc.Label += o.inSight(text.New("part.disc"), d.in.Spec().Fine.NumberEvery, 0, d.wide, lines[0].(Group))
	}
	x, foot, top := d.cx, discHigh-discEdge, discHigh-discEdge-bevel
	sc.add(
		Gradient{Name: "disc", Across: true, Stops: []Stop{{At: 0, Colour: "#8A959A"}, {At: 0.18, Colour: "#CBD2D4"},
			{At: 0.5, Colour: "#F1F3F2"}, {At: 0.82, Colour: "#CBD2D4"}, {At: 1, Colour: "#8A959A"}}},
		Rect{Class: "knob", X: x - 46, Y: top - discRim - 54, W: 92, H: 40, Radius: 5,
			Paint: Paint{Fill: "#:disc", Stroke: outline, Width: 1}},
		Rect{X: x - 17, Y: top - discRim - 14, W: 34, H: 16, Paint: Paint{Fill: "#:disc", Stroke: outline, Width: 1}},
		Rect{Class: "sleeve", X: x - 74, Y: -10, W: 74, H: discHigh + 20,
			Paint: Paint{Fill: "#E4E9EA", Stroke: outline, Width: 1}},
		Line{Class: "index", X1: x, Y1: -10, X2: x, Y2: discHigh + 10, Stroke: ink, Width: 1.2},
		scale,
		Rect{Class: "drum", X: x - drumR, Y: top - discRim, W: 2 * drumR, H: discRim, Radius: 3,
			Paint: Paint{Fill: "#:disc", Stroke: outline, Width: 1}},
		Path{Class: "bevel", D: pathf("M%.2f %.2f L%.2f %.2f H%.2f L%.2f %.2f Z", x-sleeveR-2, foot, x-drumR, top,
			x+drumR, x+sleeveR+2, foot), Paint: Paint{Fill: "#:disc", Stroke: outline, Width: 1}},
		lines[0],
		Line{X1: x - sleeveR - 2, Y1: foot, X2: x + sleeveR + 2, Y2: foot, Stroke: "#3B464B", Width: 1.2},
	)
	if o.Flags != nil {
		sc.add(d.flags(o)...)
	}
	if o.Names {
		sc.add(o.named(d.wide, d.in, map[instrument.PartKey]place{
			instrument.MainScale: {x - 60, 40, 22},
			instrument.ReadAt:    {x, discHigh - 60, discHigh - 24},
			instrument.FineScale: {x + drumR - 30, top + 40, top - 44},
			instrument.Grip:      {x + 34, top - discRim - 46, top - discRim - 76},
		})...)
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.wide, discHigh, *o.Lens))
	}
	return sc
}

// scale draws the upright scale: what is in sight of it above and below the disc, or all that a page may move there.
func (d *disc) scale(loose bool) Group {
	g := moved([]Item{d.sleeveMarks(drumMiddle, true)}, 0, d.at)[0].(Group)
	if loose {
		return g
	}
	const foot, top = discHigh - discEdge, discHigh - discEdge - bevel - discRim
	hidden := func(y, room float64) bool { return y < room || y > discHigh-room || y > top+1e-6 && y < foot-1e-6 }
	inSight := func(items []Item) []Item {
		return slices.DeleteFunc(items, func(it Item) bool {
			switch it := it.(type) {
			case Line:
				return hidden(it.Y1, 1)
			case Text:
				return hidden(it.Y-0.36*it.Size, 12)
			}
			return false
		})
	}
	for i, it := range g.Items {
		if numerals, is := it.(Group); is {
			numerals.Items = inSight(numerals.Items)
			g.Items[i] = numerals
		}
	}
	g.Items = inSight(g.Items)
	return g
}

// flags points at the mark that counts and at the line at the scale's edge.
func (d *disc) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	x, foot := d.cx, discHigh-discEdge
	mark := func(v length.Number) float64 { return discHigh - d.markX(v) }
	inSight := func(y float64) bool { return y > 0 && y < discHigh }
	line := func(j int) (lx float64, seen bool) {
		a := d.angle(d.wrapped(float64(j)))
		return x - sleeveR*math.Sin(a), math.Abs(a) < 1.3
	}
	if f.TakenMark != nil && inSight(mark(*f.TakenMark)) {
		y := mark(*f.TakenMark)
		items = append(items, ring("taken", x-16, y, 58, 18, Madder, "4 3"))
		items = append(items, o.takenTag(x-112, y)...)
	}
	if f.TakenLine != nil {
		if lx, seen := line(*f.TakenLine); seen {
			items = append(items, ring("taken", x+(lx-x)*1.1, foot-22, 15, 56, Madder, "4 3"))
			items = append(items, o.takenTag(x+(lx-x)*1.1, foot+16)...)
		}
	}
	if !f.MarkText.IsZero() && inSight(mark(f.Mark)) {
		y := mark(f.Mark)
		items = append(items, ring("counted", x-16, y, 56, 16, Brass, ""))
		items = append(items, o.pinAside(x-44, y, x-96, f.MarkText, Brass)...)
	}
	if lx, seen := line(f.Line); seen && !f.LineText.IsZero() {
		items = append(items, ring("counted", lx, foot-20, 14, 52, Verdigris, ""))
		items = append(items, o.pinAside(lx+7, foot-20, x+drumR+16, f.LineText, Verdigris)...)
	}
	return items
}

func (d *disc) LensOn(zoom, line int) Lens {
	l := d.drum.LensOn(zoom, line)
	x, y := d.at(l.X, edgeY-l.Y)
	return Lens{Zoom: zoom, X: x, Y: y}
}

func (d *disc) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

// Track is sideways, along the lower edge of the disc.
func (d *disc) Track() Track {
	_, y := d.at(d.lensX(), 0)
	return Track{Kind: "x", Y: y}
}

func (d *disc) Motion() Motion {
	m := d.drum.Motion()
	for i := range m.Moves {
		move := &m.Moves[i]
		move.DX, move.DY, move.Uncut = 0, -move.DX, false
		if move.Rolled != nil {
			move.Y, move.Across = d.cx, true
		}
	}
	scale, rolled := m.Grips[0], m.Grips[1]
	scale.Up = true
	rolled.Up, rolled.From, rolled.Per = false, d.cx-drumR, -rolled.Per
	m.Grips = []Grip{scale, rolled}
	return m
}

// Band returns the levels about the disc's edge.
func (d *disc) Band() (top, bottom float64) {
	return discHigh - discEdge - 96, discHigh - discEdge + 72
}
