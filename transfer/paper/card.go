package paper

import (
	"fmt"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/figure"
)

// card sets one card: what it is about, its figures, its boxes.
func (d *document) card(n, version int, it exercise.Item) (piece, error) {
	facts := it.Facts()
	about := append(append([]text.Text{}, facts.About...), facts.Given...)
	inHead := d.dense && !facts.Convention.IsZero() // one line less
	if inHead {
		about = append(about, facts.Convention)
	}
	parts := []piece{d.heading(n, d.row(about))}
	if !facts.Task.IsZero() {
		parts = append(parts, d.text(left, across, plain, 10, inkOf, d.said(facts.Task)), space(1.5*mm))
	}
	if !facts.Convention.IsZero() && !inHead {
		parts = append(parts, d.text(left, across, plain, 8.5, steelOf,
			d.say.Say("card.here", "convention", facts.Convention)), space(1.5*mm))
	}
	figures, err := d.figures(n, version, it)
	if err != nil {
		return piece{}, err
	}
	if d.dense {
		if figures, err = d.smaller(n, version, it, figures); err != nil {
			return piece{}, err
		}
	}
	rest := append(figures, d.lines(it)...)
	if len(rest) > 0 { // what the card is about is never torn from what comes first
		parts, rest = append(parts, rest[0]), rest[1:]
	}
	return stack(append([]piece{stack(parts)}, rest...)), nil
}

// heading is a card's number, and what it is about.
func (d *document) heading(n int, about string) piece {
	says := d.text(left+9*mm, across-9*mm, bold, 9.5, inkOf, about)
	return piece{high: says.high + 2.2*mm, draw: func(y float64) {
		d.SetDrawColor(hairOf[0], hairOf[1], hairOf[2])
		d.SetLineWidth(0.5)
		d.Line(left, y, left+across, y)
		d.print(left, y+1.5*mm+11, bold, 13, inkOf, fmt.Sprint(n))
		says.draw(y + 1.5*mm)
	}}
}

// figures are the pictures of a card.
func (d *document) figures(n, version int, it exercise.Item) ([]piece, error) {
	var parts []piece
	if g := it.Facts().Gauges; g != nil {
		parts = append(parts, picture(d, figure.Gauges(g.Hole, g.Parts, figure.Options{Said: d.say}), left, across*0.6,
			""))
	}
	all := it.Figures()
	for i, f := range all {
		sc, err := scene(f, figure.InsetWide, across/mm/figure.Wide, aside(n, version, i), d.say)
		if err != nil {
			return nil, fmt.Errorf("card %d of version %d: %w", n, version, err)
		}
		caption := ""
		if len(all) > 1 {
			caption = d.said(f.Caption)
		}
		parts = append(parts, picture(d, sc, left, across, caption))
	}
	return parts, nil
}

// Measures of cards of which four stand on a page.
const (
	lowFigure = 33 * mm // how high its figure is at the most
	lowPair   = 33 * mm // how high two figures beside each other are
	leastSize = 0.66    // of what a figure is printed at else
)

// smaller are the figures of a card where several stand on a page: two beside each other, and none higher than there is
// room.
func (d *document) smaller(n, version int, it exercise.Item, full []piece) ([]piece, error) {
	all := it.Figures()
	switch {
	case len(all) == 0 || it.Facts().Gauges != nil || len(all) > 2:
		return full, nil
	case len(all) == 1:
		width := across * min(1, max(leastSize, lowFigure/full[0].high))
		sc, err := scene(all[0], figure.InsetWide, width/mm/figure.Wide, aside(n, version, 0), d.say)
		if err != nil {
			return nil, err
		}
		return []piece{picture(d, sc, left, width, "")}, nil
	}
	const half = (across - 6*mm) / 2
	var beside []piece
	for i, f := range all {
		scale := half / figure.Narrow
		sc, err := scene(f, 0, scale/mm, aside(n, version, i), d.say)
		if err == nil && sc.Height*scale > lowPair {
			scale *= max(leastSize, lowPair/(sc.Height*scale))
			sc, err = scene(f, 0, scale/mm, aside(n, version, i), d.say)
		}
		if err != nil {
			return nil, err
		}
		beside = append(beside, pictureOf(d, sc, left+float64(i)*(half+6*mm), min(scale, half/sc.Width),
			d.said(f.Caption)))
	}
	return []piece{abreast(beside)}, nil
}

// aside returns how far from the middle of an inset the place stands that is looked for, −0.7 to 0.7, so that nobody
// can read by looking at the middle.
func aside(card, version, figure int) float64 {
	seed := exercise.StudentSeed(uint64(version), int64(100*card+figure))
	share := float64(seed%1000) / 1000
	if seed>>32&1 == 0 {
		share = -share
	}
	return 0.7 * share
}

// Picture draws a figure of a card with its inset, as it stands on paper, to be shown elsewhere.
func Picture(f exercise.Figure, card, version, n int, said *text.Printer) (*figure.Scene, error) {
	return scene(f, figure.InsetWide, across/mm/figure.Wide, aside(card, version, n), said)
}

// scene draws a figure with its inset, so many px wide, where a pixel is so many mm. An inset of width 0 stands below.
func scene(f exercise.Figure, inset, pixel, aside float64, said *text.Printer) (*figure.Scene, error) {
	wide := figure.Narrow
	if has := f.Instrument.Traits(); inset > 0 && (has.GoesRound || has.Indicates) {
		wide = figure.Wide // their lenses stand beside them anyway
	}
	drawn, err := figure.Of(f, wide)
	if err != nil {
		return nil, err
	}
	line := -1
	if f.Instrument.Traits().Coincides {
		r, err := f.Instrument.Read(f.At)
		if err != nil {
			return nil, err
		}
		line = r.Line
	}
	lens := figure.Inset(drawn, pixel, line, aside, inset)
	if lens.Zoom == 0 || f.Plain {
		return drawn.Scene(figure.Options{Said: said}), nil
	}
	return figure.WithLens(drawn, lens, said), nil
}

// picture is a scene on the page, as wide as there is room, with a caption below.
func picture(d *document, sc *figure.Scene, x, width float64, caption string) piece {
	return pictureOf(d, sc, x, width/max(sc.Width, figure.Wide), caption)
}

// pictureOf is a scene on the page, with so many points to a pixel.
func pictureOf(d *document, sc *figure.Scene, x, scale float64, caption string) piece {
	p := piece{high: sc.Height*scale + 1.2*mm}
	if caption != "" {
		p.high += 3 * mm
	}
	p.draw = func(y float64) {
		d.place(sc, x, y, scale)
		if caption != "" {
			d.print(x, y+sc.Height*scale+3.6*mm, plain, 8.5, steelOf, caption)
		}
	}
	return p
}

// abreast is one piece of several that stand beside each other.
func abreast(list []piece) piece {
	out := piece{}
	for _, p := range list {
		out.high = max(out.high, p.high)
	}
	out.draw = func(y float64) {
		for _, p := range list {
			p.draw(y)
		}
	}
	return out
}

// mostBoxes is the largest number of boxes in one line.
const mostBoxes = 7

// boxes are all boxes of a card in one line, in the order of the work, where they are few and no table.
func (d *document) boxes(it exercise.Item, fields map[string]exercise.Field) (p piece, few bool) {
	all := it.Fields()
	for _, l := range it.Lines() {
		if l.Row {
			return p, false
		}
	}
	for _, f := range all {
		if f.Input != exercise.Length && f.Input != exercise.Count {
			return p, false
		}
	}
	run := d.run(fields)
	for _, f := range all {
		run.add(exercise.Term{Box: f.Name})
	}
	return run.piece(text.Text{}), len(all) > 1 && len(all) <= mostBoxes && run.y == 0
}

// lines are the boxes of a card, as the work goes.
func (d *document) lines(it exercise.Item) []piece {
	fields := map[string]exercise.Field{}
	for _, f := range it.Fields() {
		fields[f.Name] = f
	}
	if boxes, few := d.boxes(it, fields); few && d.dense {
		return []piece{boxes}
	}
	var parts []piece
	row := 0
	for _, l := range it.Lines() {
		run := d.run(fields)
		if l.Row {
			run.x += 34 * mm
			run.plain = row > 0
			row++
		} else {
			row = 0
		}
		for _, t := range l.Terms {
			run.add(t)
		}
		parts = append(parts, run.piece(l.Head))
	}
	return parts
}
