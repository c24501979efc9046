package paper

import (
	"bytes"
	"fmt"
	"html"

	"cavix/figure"
	"cavix/figure/fonts"
)

// previewed is the number of cards that are set for a preview: more than any page holds.
const previewed = 8

// Preview draws the first page of the first version, as an SVG whose unit is a point of the page.
func (s Sheet) Preview() ([]byte, error) {
	if len(s.Versions) == 0 {
		return nil, nil
	}
	v := s.Versions[0]
	pages := len(v.Items) > previewed
	if pages {
		v.Items = v.Items[:previewed]
	}
	s.Versions = []Version{v}
	d := newDocument(s)
	d.seen = &sight{}
	d.version = v
	pieces, err := d.cards(s, v)
	if err != nil {
		return nil, err
	}
	d.flow(pieces)
	if err := d.Error(); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	wide, high := d.GetPageSize()
	fmt.Fprintf(&out, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %.2f %.2f" role="img" aria-label="%s" `+
		`class="pagepreview" `+
		`font-family="Archivo, sans-serif">`, wide, high, html.EscapeString(s.Said.Say("paper.page-one")))
	fmt.Fprintf(&out, `<rect width="%.2f" height="%.2f" fill="#fff"/>`, wide, high)
	out.Write(d.seen.Bytes())
	out.WriteString("</svg>")
	return out.Bytes(), nil
}

// sight holds what a page shows, as elements of an SVG.
type sight struct {
	bytes.Buffer
	draw, ink [3]int
	width     float64
	size      float64
	figures   int
}

// sees reports whether what is drawn now is seen in a preview.
func (d *document) sees() bool { return d.seen != nil && d.PageNo() == 1 }

func hex(c [3]int) string { return fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2]) }

// The methods below take the place of those of the library: what they draw on the first page is seen in a preview too.

// SetDrawColor sets the colour of lines.
func (d *document) SetDrawColor(r, g, b int) {
	if d.seen != nil {
		d.seen.draw = [3]int{r, g, b}
	}
	d.Fpdf.SetDrawColor(r, g, b)
}

// SetLineWidth sets the width of lines, in points.
func (d *document) SetLineWidth(width float64) {
	if d.seen != nil {
		d.seen.width = width
	}
	d.Fpdf.SetLineWidth(width)
}

// SetTextColor sets the colour of text.
func (d *document) SetTextColor(r, g, b int) {
	if d.seen != nil {
		d.seen.ink = [3]int{r, g, b}
	}
	d.Fpdf.SetTextColor(r, g, b)
}

// SetFont sets the font of text.
func (d *document) SetFont(family, style string, size float64) {
	if d.seen != nil {
		d.seen.size = size
	}
	d.bold = style == bold
	d.Fpdf.SetFont(family, style, size)
}

// Line draws a line.
func (d *document) Line(x1, y1, x2, y2 float64) {
	if d.sees() {
		fmt.Fprintf(d.seen, `<line x1="%.2f" y1="%.2f" x2="%.2f" y2="%.2f" stroke="%s" stroke-width="%.2f"/>`, x1, y1,
			x2, y2, hex(d.seen.draw), d.seen.width)
	}
	d.Fpdf.Line(x1, y1, x2, y2)
}

// Rect draws the outline of a rectangle.
func (d *document) Rect(x, y, w, h float64, style string) {
	if d.sees() {
		fmt.Fprintf(d.seen, `<rect x="%.2f" y="%.2f" width="%.2f" height="%.2f" fill="none" stroke="%s" `+
			`stroke-width="%.2f"/>`, x, y, w, h, hex(d.seen.draw),
			d.seen.width)
	}
	d.Fpdf.Rect(x, y, w, h, style)
}

// Text writes one line of text from x on, on the base line y.
func (d *document) Text(x, y float64, s string) {
	if d.sees() {
		weight := 400
		if d.bold {
			weight = 700
		}
		fmt.Fprintf(d.seen, `<text x="%.2f" y="%.2f" font-size="%.2f" font-weight="%d" fill="%s" textLength="%.2f" `+
			`lengthAdjust="spacingAndGlyphs">%s</text>`,
			x, y, d.seen.size, weight, hex(d.seen.ink), d.GetStringWidth(s), html.EscapeString(s))
	}
	if fonts.Plain(s) {
		d.Fpdf.Text(x, y, s)
		return
	}
	for _, l := range fonts.Set(s, 0) {
		l.Print(d.Fpdf, x, y, d.size(), d.bold)
	}
}

// place draws a figure, its upper left corner at x, y, with so many points to a pixel.
func (d *document) place(sc *figure.Scene, x, y, scale float64) {
	if d.sees() {
		d.seen.figures++
		svg := sc.SVG(fmt.Sprintf("page%d", d.seen.figures),
			fmt.Sprintf(`x="%.2f" y="%.2f" width="%.2f" height="%.2f"`, x, y, sc.Width*scale, sc.Height*scale))
		d.seen.Write(svg)
	}
	sc.Place(d.Fpdf, x, y, scale)
}
