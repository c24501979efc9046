package paper

import (
	"io"

	"cavix/core/text"
	"cavix/figure"
)

// Report is a survey on paper: what it comes to, its plots, the verdict.
type Report struct {
	Title string
	Under text.Text
	Said  *text.Printer
	Says  []text.Text // sentences, the verdict first
	Plots []Plot
	Grids []Grid
}

// Plot is a plot with its name.
type Plot struct {
	Name  text.Text
	Scene *figure.Scene
}

// Grid is a table of texts.
type Grid struct {
	Head []text.Text
	Rows [][]text.Text
}

// Write sets the report, on one page where it fits.
func (r Report) Write(to io.Writer) error {
	d := newDocument(Sheet{Title: r.Title, Class: r.Said.Print(r.Under), Said: r.Said})
	d.plainly = true
	pieces := []piece{d.text(left, across, bold, 17, inkOf, r.Title), d.text(left, across, plain, 9.5, steelOf,
		d.said(r.Under)), space(3 * mm)}
	for i, s := range r.Says {
		if s.IsZero() {
			continue
		}
		style := plain
		if i == 0 {
			style = bold
		}
		pieces = append(pieces, d.text(left, across, style, 10.5, inkOf, d.said(s)))
	}
	pieces = append(pieces, space(3*mm))
	for _, g := range r.Grids {
		pieces = append(pieces, d.grid(g)...)
		pieces = append(pieces, space(4*mm))
	}
	for _, p := range r.Plots {
		const share = 0.86
		name := d.text(left, across, bold, 9.5, inkOf, d.said(p.Name))
		scale := across * share / p.Scene.Width
		drawn := piece{high: p.Scene.Height*scale + 2*mm, draw: func(y float64) { d.place(p.Scene, left, y, scale) }}
		pieces = append(pieces, stack([]piece{name, drawn}))
	}
	d.flowTight(pieces)
	return d.Output(to)
}

// grid sets a table: its head, then a piece a row, so that a long one goes on overleaf.
func (d *document) grid(g Grid) []piece {
	first, each := 46*mm, (across-46*mm)/float64(max(1, len(g.Head)-1))
	line := func(cells []text.Text, style string, rule float64) piece {
		return piece{high: 5.2 * mm, draw: func(y float64) {
			d.SetDrawColor(hairOf[0], hairOf[1], hairOf[2])
			d.SetLineWidth(rule)
			d.Line(left, y+5*mm, left+across, y+5*mm)
			for i, cell := range cells {
				c := d.said(cell)
				if i == 0 {
					d.print(left, y+3.6*mm, style, 9, inkOf, d.short(style, 9, c, first-3*mm))
					continue
				}
				c = d.short(style, 9, c, each-3*mm)
				d.print(left+first+float64(i)*each-d.wide(style, 9, c), y+3.6*mm, style, 9, inkOf, c)
			}
		}}
	}
	out := []piece{line(g.Head, bold, 0.8)}
	for _, row := range g.Rows {
		out = append(out, line(row, plain, 0.3))
	}
	return out
}
