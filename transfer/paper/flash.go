package paper

import (
	"io"

	"cavix/core/exercise"
	"cavix/figure"
)

// Measures of flash cards: so many on a sheet of paper, to be cut along the lines.
const (
	flashAcross = 2
	flashDown   = 4
	flashWide   = across / flashAcross
	flashHigh   = 64 * mm
)

// WriteFlash sets the cards of each version to be cut out: the figure in front, what is right behind. The backs are
// mirrored, so that they meet their fronts where paper is printed on both sides and turned over its long edge.
func (s Sheet) WriteFlash(to io.Writer, progress func(done int) error) error {
	return s.set(to, progress, func(d *document, v Version) error {
		var fronts, backs []piece
		for i, it := range v.Items {
			all := it.Figures()
			if len(all) == 0 || len(all) > 2 || all[0].Moves {
				continue // one figure that is read makes a card, with the closed instrument beside it or without
			}
			front, back, err := d.flash(i+1, v.Number, it, all[0])
			if err != nil {
				return err
			}
			fronts, backs = append(fronts, front), append(backs, back)
		}
		const each = flashAcross * flashDown
		for at := 0; at < len(fronts); at += each {
			end := min(at+each, len(fronts))
			d.tiles(fronts[at:end], false)
			d.tiles(backs[at:end], true)
		}
		return nil
	})
}

// flash is the two sides of a card.
func (d *document) flash(n, version int, it exercise.Item, f exercise.Figure) (front, back piece, err error) {
	sc, err := scene(f, 0, (flashWide-10*mm)/mm/figure.Narrow, aside(n, version, 0), d.say)
	if err != nil {
		return front, back, err
	}
	about := it.Facts().About
	scale := min((flashWide-10*mm)/sc.Width, (flashHigh-18*mm)/sc.Height)
	front = piece{high: flashHigh, draw: func(y float64) {
		x, _ := d.GetXY()
		d.print(x+5*mm, y+8*mm, bold, 9, inkOf, d.short(bold, 9, d.row(about), flashWide-10*mm))
		d.place(sc, x+(flashWide-sc.Width*scale)/2, y+12*mm, scale)
	}}
	marked, err := it.Mark(nil)
	if err != nil {
		return front, back, err
	}
	back = piece{high: flashHigh, draw: func(y float64) {
		x, _ := d.GetXY()
		d.print(x+5*mm, y+8*mm, plain, 8.5, steelOf, d.short(plain, 8.5, d.row(about), flashWide-10*mm))
		at := y + 17*mm
		for _, field := range it.Fields() {
			right := d.rightly(it, field, marked.Field(field.Name).Expected)
			if field.Unit != "" && field.Words == nil {
				right = field.Unit.With(right)
			}
			d.print(x+8*mm, at, plain, 10, steelOf, d.short(plain, 10, d.said(field.Label), 32*mm))
			d.print(x+42*mm, at, bold, 12, inkOf, d.short(bold, 12, right, flashWide-46*mm))
			if at += 7 * mm; at > y+flashHigh-4*mm {
				return
			}
		}
	}}
	return front, back, nil
}

// short is a text, cut to a width.
func (d *document) short(style string, size float64, s string, width float64) string {
	d.SetFont("text", style, size)
	return d.fit(s, width)
}

// tiles sets cards on a page of their own, with the lines along which they are cut.
func (d *document) tiles(list []piece, mirrored bool) {
	d.AddPage()
	for i, p := range list {
		column := i % flashAcross
		if mirrored {
			column = flashAcross - 1 - column
		}
		x, y := left+float64(column)*flashWide, top+float64(i/flashAcross)*flashHigh
		d.SetDrawColor(hairOf[0], hairOf[1], hairOf[2])
		d.SetLineWidth(0.4)
		d.Rect(x, y, flashWide, flashHigh, "D")
		d.SetXY(x, y)
		p.draw(y)
	}
}
