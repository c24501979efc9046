package ui

import (
	"encoding/json"
	"html/template"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
)

// FigureView is an instrument at a position as a page shows it: the drawing, the lens at three strengths
// and the small whole instrument.
type FigureView struct {
	ID      string // keeps the drawings of one page apart
	Drawing template.HTML
	Strips  []StripView
	Whole   template.HTML
	Width   float64 // of the drawing, in its own pixels
	Height  float64
	Centre  figure.Lens // where the lens looks to begin with
	Look    int         // the line that it looks at there; −1 is where a reading begins
	Track   figure.Track
	Upright bool   // the lens stands beside the drawing
	Pair    bool   // it has two scales, at right angles to each other
	Band    [2]int // the levels between which its scales stand
	Motion  string // how it moves, as JSON; "" when it does not
}

// StripView is the lens at one strength.
type StripView struct {
	Zoom  int
	On    bool // the strength that is shown to begin with
	Strip template.HTML
}

// Packed is the strip as a page has it; one that is not shown to begin with is packed, so that a browser does not read
// it before it is wanted.
func (v StripView) Packed() template.HTML {
	if v.On {
		return v.Strip
	}
	return `<script type="text/html">` + v.Strip + `</script>`
}

// Looking says how a figure is shown.
type Looking struct {
	ID      string
	Width   float64
	Line    int // that the lens looks at; −1 is where a reading begins
	Moves   bool
	Plain   bool // without a lens
	Pixels  bool // painted, so that no coordinate tells the reading; what moves is drawn all the same
	Options figure.Options
	Sets    bool // an upright scale is set by what moves
}

// NewFigure draws the figure of a card. It fails with the core's error when where it stands is off the scale.
func NewFigure(f exercise.Figure, l Looking) (FigureView, error) {
	d, err := figure.Of(f, l.Width)
	if err != nil {
		return FigureView{}, err
	}
	l.Sets, l.Plain = f.Upright != nil, l.Plain || f.Plain
	return FigureOf(d, l)
}

// FigureOf draws what is laid out.
func FigureOf(d figure.Drawing, l Looking) (FigureView, error) {
	on := 1 // of the three strengths; beside a figure the weakest shows most lines
	if figure.Upright(d) {
		on = 0
	}
	o := l.Options
	o.Loose = o.Loose || l.Moves
	strengths := d.Strengths()
	if l.Pixels = l.Pixels && !l.Moves; l.Pixels { // one picture is much already
		on, strengths = 1, [3]int{1: strengths[1]}
	}
	if l.Plain {
		strengths = [3]int{}
	}
	lensOn := func(zoom int) figure.Lens {
		if l.Pixels {
			return d.LensOn(zoom, -1).Snapped()
		}
		return d.LensOn(zoom, l.Line)
	}
	lens := lensOn(strengths[on])
	if lens.Zoom > 0 {
		o.Lens = &lens
	}
	sc := d.Scene(o)
	v := FigureView{ID: l.ID, Width: sc.Width, Height: sc.Height, Centre: lens, Look: l.Line, Track: d.Track(),
		Upright: figure.Upright(d) && !l.Plain}
	_, v.Pair = d.(figure.Settable)
	top, bottom := d.Band()
	v.Band = [2]int{int(top), int(bottom)}
	whole, strips := d.Whole(o), make([]*figure.Scene, 0, len(strengths))
	for i, zoom := range strengths {
		if zoom > 0 {
			v.Strips = append(v.Strips, StripView{Zoom: zoom, On: i == on})
			strips = append(strips, d.Strip(lensOn(zoom), o))
		}
	}
	if l.Pixels {
		v.Track = v.Track.Snapped()
		if err := rasterize(&sc, &whole, strips, v); err != nil {
			return v, err
		}
	}
	v.Drawing = Drawing(sc, l.ID, "fig")
	v.Whole = Drawing(whole, l.ID+"w", "whole")
	for i, strip := range strips {
		v.Strips[i].Strip = Drawing(strip, l.ID+string("abc"[i]), "strip")
	}
	if l.Moves {
		motion := d.Motion()
		if l.Sets { // of a pair the upright scale is set, which the server draws
			motion = figure.Still()
		}
		b, err := json.Marshal(motion)
		if err != nil {
			return v, err
		}
		v.Motion = string(b)
	}
	return v, nil
}

// rasterize makes pictures of a figure, of the whole instrument and of what its lens shows.
func rasterize(sc, whole **figure.Scene, strips []*figure.Scene, v FigureView) error {
	var err error
	if *sc, err = (*sc).Pixels(2, 0, 0); err != nil {
		return err
	}
	if *whole, err = (*whole).Pixels(2, 0, 0); err != nil {
		return err
	}
	for i, strip := range strips {
		width, height := v.Width, v.Height
		switch zoom := float64(v.Strips[i].Zoom); v.Track.Kind {
		case "flat":
			width, height = width*zoom, figure.LensHeight
		case "tall":
			width, height = figure.LensBeside, height*zoom
		}
		if strips[i], err = strip.Pixels(1, width, height); err != nil {
			return err
		}
	}
	return nil
}

// Picture draws an instrument for show, somewhere on its scale; nothing where there is none.
func Picture(in *instrument.Instrument, said *text.Printer) (template.HTML, error) {
	if in == nil {
		return "", nil
	}
	low, high := in.Range()
	steps := high.Sub(low).Mul(length.Frac(1, 3)).Quo(in.LeastCount()).Floor()
	lay, err := figure.Lay(in, low.Add(steps.Mul(in.LeastCount())), figure.Narrow)
	if err != nil {
		return "", err
	}
	return Drawing(lay.Scene(figure.Options{Said: said}), "picture", "fig"), nil
}
