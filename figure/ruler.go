package figure

import (
	"math"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// ruler is a single scale read at the end of the work or at a pointer, laid out.
type ruler struct {
	in      *instrument.Instrument
	shown   length.Number
	pointer bool // it has a pointer, not work along it
	width   float64
	at      float64 // x of what is read
	div     float64
}

const (
	rulerHeight = 230.0
	rulerEdge   = 112.0 // the upper edge of the rule, where its marks stand
)

func newRuler(in *instrument.Instrument, y length.Number, width float64, pointer bool) *ruler {
	m := in.Spec().Main
	d := &ruler{in: in, pointer: pointer, shown: y.Sub(in.Spec().Base), width: width, div: 18}
	if m.NumberEvery > 12 {
		d.div = 16
	}
	// A scale that fits is shown whole; else what is read stands in the middle.
	whole := m.To.Sub(m.From).Quo(m.Division).Float()
	if fit := (width - 120) / whole; fit >= 10 {
		d.div = math.Min(fit, 40)
		d.at = 60 + d.shown.Sub(m.From).Quo(m.Division).Float()*d.div
	} else {
		d.at = math.Min(0.55*width, 60+d.shown.Sub(m.From).Quo(m.Division).Float()*d.div)
	}
	return d
}

func (d *ruler) markX(v length.Number) float64 {
	return d.at - d.shown.Sub(v).Quo(d.in.Spec().Main.Division).Float()*d.div
}

// Travel moves the window along the scale.
func (d *ruler) Travel(divisions int) { d.at -= float64(divisions) * d.div }

// Scene draws the rule with the work laid along it, or the scale with its pointer.
func (d *ruler) Scene(o Options) *Scene {
	m := d.in.Spec().Main
	pointer := d.pointer
	sc := &Scene{Width: d.width, Height: rulerHeight, Label: o.say(text.New("figure.rule", "unit", d.in.Unit()))}
	marks := d.marks(o.Bleed)
	sc.Label += o.inSight(text.Word("main scale"), m.NumberEvery, 0, d.width, marks)
	sc.add(steel...)
	left, right := math.Max(d.markX(m.From)-26, -10-o.Bleed), math.Min(d.markX(m.To)+26, d.width+10+o.Bleed)
	sc.add(
		Rect{Class: "rule", X: left, Y: rulerEdge, W: right - left, H: 84, Radius: 2,
			Paint: Paint{Fill: "#:beam", Stroke: outline, Width: 1}},
		marks,
	)
	if pointer {
		sc.add(
			Path{Class: "moving", D: needlePath(d.at), Paint: Paint{Fill: "#1C2830"}},
			Line{Class: "pointer", X1: d.at, Y1: 24, X2: d.at, Y2: rulerEdge, Stroke: "#1C2830", Width: 1.6},
			Circle{Class: "moving", X: d.at, Y: 26, R: 8, Paint: Paint{Fill: Brass}},
		)
	} else {
		zero := d.markX(length.Number{})
		sc.add(Rect{Class: "work", X: math.Max(zero, -20-o.Bleed), Y: rulerEdge - 58,
			W: math.Max(0, d.at-math.Max(zero, -20-o.Bleed)), H: 56, Radius: 1,
			Paint: Paint{Fill: "#:work", Stroke: "#7E5A22", Width: 1}},
			Line{Class: "index", X1: d.at, Y1: rulerEdge - 62, X2: d.at, Y2: rulerEdge, Stroke: "#5A3F14", Width: 1.4})
	}
	if f := o.Flags; f != nil && !f.MarkText.IsZero() {
		if f.TakenMark != nil {
			sc.add(ring("taken", d.markX(*f.TakenMark), rulerEdge+16, 17, 46, Madder, "4 3"))
		}
		sc.add(ring("counted", d.markX(f.Mark), rulerEdge+16, 15, 44, Brass, ""))
		sc.add(o.pin(d.width, d.markX(f.Mark), rulerEdge+40, rulerEdge+98, 1, f.MarkText, Brass)...)
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.width, sc.Height, *o.Lens))
	}
	return sc
}

func needlePath(x float64) string {
	return pathf("M%.3f %.1f L%.3f 30 L%.3f 30 Z", x, rulerEdge, x-5, x+5)
}

func (d *ruler) marks(bleed float64) Group {
	m := d.in.Spec().Main
	g := Group{Paint: Paint{Stroke: ink, Width: math.Max(0.5, math.Min(1.25, 0.12*d.div))}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	at := markIndex(d.shown.Quo(m.Division).Floor())
	from, to := markIndex(m.From.Quo(m.Division).Neg().Floor().Neg()), markIndex(m.To.Quo(m.Division).Floor())
	low, high := max(from, at-int(math.Floor((d.at+bleed)/d.div))-1), min(to, at+int((d.width+bleed-d.at)/d.div)+1)
	lengths := markLengths{20, 28, 36}
	every := m.NumberEvery * stride(float64(m.NumberEvery)*d.div, 17, widest(m, low, high))
	for i := low; i <= high; i++ {
		x := d.markX(m.Division.MulInt(i))
		g.Items = append(g.Items, Line{Class: "main-mark", X1: x, Y1: rulerEdge, X2: x, Y2: rulerEdge +
			lengths[rank(i, m.NumberEvery)]})
		if i%every == 0 {
			numerals.Items = append(numerals.Items, Text{X: x, Y: rulerEdge + 56, Size: 17, Anchor: "middle",
				S: m.NumberStep.MulInt(i / m.NumberEvery).String()})
		}
	}
	numerals.Items = uncut(numerals.Items, -bleed, d.width+bleed)
	g.Items = append(g.Items, numerals)
	return g
}

func (d *ruler) Strengths() [3]int { return [3]int{2, 3, max(5, int(math.Ceil(4.2/d.div)))} }

func (d *ruler) LensOn(zoom, _ int) Lens { return Lens{Zoom: zoom, X: d.at, Y: rulerEdge + 4} }

func (d *ruler) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

func (d *ruler) Track() Track { return Track{Kind: "x", Y: rulerEdge + 4} }

func (d *ruler) Whole(o Options) *Scene {
	m := d.in.Spec().Main
	sc := wholeScene(o.say(text.New("figure.whole-scale")))
	sc.add(Rect{X: 10, Y: 40, W: 280, H: 20, Paint: wholeMetal})
	x := 14 + 272*share(d.in, d.shown)
	if d.pointer {
		sc.add(Path{D: pathf("M%.2f 40 L%.2f 12 L%.2f 12 Z", x, x-3, x+3), Paint: wholeMoving})
	} else {
		sc.add(Rect{X: 14, Y: 22, W: x - 14, H: 17, Paint: wholeWork})
	}
	perPx := m.Division.Float() / d.div / m.To.Sub(m.From).Float() * 272
	left := math.Max(4, x-d.at*perPx)
	sc.add(window(left, 34, math.Min(d.width*perPx, 292-left), 32))
	return sc
}

func (d *ruler) Motion() Motion {
	return Motion{
		Moves: []Move{
			{Parts: ".fig g.slide, .fig .moving, .fig .pointer, .fig .index", How: Slides, DX: d.div},
			{Parts: ".work", How: Grows, DX: d.div},
		},
		Grips: []Grip{{Per: d.div}},
	}
}

// Band returns the levels of the scale and of what is measured.
func (d *ruler) Band() (top, bottom float64) { return rulerEdge - 64, rulerEdge + 64 }
