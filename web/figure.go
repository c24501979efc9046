package web

import (
	"html/template"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/figure"
)

// figureView is an instrument at a position as a page shows it: the drawing, the lens strips under it
// and the small whole instrument.
type figureView struct {
	ID      string // "open" or "closed": keeps the drawings of one page apart
	Drawing template.HTML
	Strips  []stripView
	Whole   template.HTML
	Width   float64 // of the drawing, in its own pixels
	Height  float64
	Centre  figure.Lens // where the lens looks to begin with
	Track   figure.Track
}

// stripView is the lens at one strength.
type stripView struct {
	Zoom  int
	On    bool // the strength that is shown to begin with
	Strip template.HTML
}

// looking is how a figure is to be shown.
type looking struct {
	id       string
	width    float64
	flags    *figure.Flags
	line     int // that the lens looks at
	strength int // 1 … 3, weak to strong; 0 for the middle one
	options  figure.Options
	set      *length.Number // what an upright scale is set to
}

// newFigure draws the instrument at y. It fails with the core's error when that is off the scale.
func newFigure(in *instrument.Instrument, y length.Number, l looking) (figureView, error) {
	d, err := figure.Lay(in, y, l.width)
	if err != nil {
		return figureView{}, err
	}
	if p, ok := d.(figure.Settable); ok && l.set != nil {
		if err := p.Set(*l.set); err != nil {
			return figureView{}, err
		}
	}
	return figureOf(d, l), nil
}

// figureOf draws what is laid out.
func figureOf(d figure.Drawing, l looking) figureView {
	if l.strength < 1 || l.strength > 3 {
		l.strength = 2
	}
	o := l.options
	if l.flags != nil {
		o.Flags = l.flags
	}
	strengths := d.Strengths()
	lens := d.LensOn(strengths[l.strength-1], l.line)
	o.Lens = &lens
	sc := d.Scene(o)
	v := figureView{ID: l.id, Width: sc.Width, Height: sc.Height, Centre: lens, Track: d.Track()}
	v.Drawing = drawing(sc, l.id, "fig")
	v.Whole = drawing(d.Whole(), l.id+"w", "whole")
	for i, zoom := range strengths {
		v.Strips = append(v.Strips, stripView{
			Zoom: zoom, On: i == l.strength-1,
			Strip: drawing(d.Strip(d.LensOn(zoom, l.line), o), l.id+string("abc"[i]), "strip"),
		})
	}
	return v
}
