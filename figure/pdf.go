package figure

import (
	"bytes"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"cavix/figure/fonts"
)

// pointsPerPx makes a wide figure fit a sheet of paper.
const pointsPerPx = 0.5

// face is the font of numerals on figures in a PDF.
const face = "figure"

// page is a place on a page of a PDF: its upper left corner, and how many points a pixel of the drawing is.
type page struct {
	*fpdf.Fpdf
	x, y, scale float64
}

// PDF writes the scene as a one-page document, drawn from the same lines and numerals.
func (s *Scene) PDF() ([]byte, error) {
	f := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt", Size: fpdf.SizeType{Wd: s.Width * pointsPerPx,
		Ht: s.Height * pointsPerPx}})
	f.SetMargins(0, 0, 0)
	f.SetAutoPageBreak(false, 0)
	f.SetCatalogSort(true)
	f.SetCreationDate(time.Unix(0, 0).UTC()) // the same figure gives the same file
	f.SetModificationDate(time.Unix(0, 0).UTC())
	f.AddPage()
	s.Place(f, 0, 0, pointsPerPx)
	var b bytes.Buffer
	err := f.Output(&b)
	return b.Bytes(), err
}

// Place draws the scene into a document that is measured in points: its upper left corner at x, y, scale points to a
// pixel of the drawing. The font of its numerals is embedded.
func (s *Scene) Place(f *fpdf.Fpdf, x, y, scale float64) {
	f.AddUTF8FontFromBytes(face, "", fonts.Narrow) // the second time this does nothing
	f.SetFont(face, "", 10)
	f.ClipRect(x, y, s.Width*scale, s.Height*scale, false)
	paint(s, page{f, x, y, scale})
	f.ClipEnd()
}

func (p page) polygon(outline []point) []fpdf.PointType {
	out := make([]fpdf.PointType, len(outline))
	for i, at := range outline {
		out[i] = fpdf.PointType{X: p.x + at.x*p.scale, Y: p.y + at.y*p.scale}
	}
	return out
}

func (p page) fill(outline []point, colour string, g *Gradient, opacity float64) {
	if g == nil {
		r, gr, b := rgb(colour)
		p.SetFillColor(int(r), int(gr), int(b))
		p.SetAlpha(opacity, "Normal")
		p.Polygon(p.polygon(outline), "F")
		p.SetAlpha(1, "Normal")
		return
	}
	low, high := box(outline)
	p.ClipPolygon(p.polygon(outline), false)
	for i := range g.Stops[1:] {
		a, b := g.Stops[i], g.Stops[i+1]
		r1, g1, b1 := rgb(a.Colour)
		r2, g2, b2 := rgb(b.Colour)
		x, y, w, h := low.x, low.y+(high.y-low.y)*a.At, high.x-low.x, (high.y-low.y)*(b.At-a.At)
		x2, y2 := 0.0, 0.0 // fpdf measures from the lower left: downwards is from 1 to 0
		x1, y1 := 0.0, 1.0
		if g.Across {
			x, y, w, h = low.x+(high.x-low.x)*a.At, low.y, (high.x-low.x)*(b.At-a.At), high.y-low.y
			x1, y1, x2, y2 = 0, 0, 1, 0
		}
		if a.Clear || b.Clear {
			continue // a shade of the lens's rim; paper needs none
		}
		p.LinearGradient(p.x+x*p.scale, p.y+y*p.scale, w*p.scale, h*p.scale, int(r1), int(g1), int(b1),
			int(r2), int(g2), int(b2), x1, y1, x2, y2)
	}
	p.ClipEnd()
}

func (p page) stroke(line []point, width float64, colour string, dash []float64) {
	if colour == "" || colour == "none" || len(line) < 2 {
		return
	}
	r, g, b := rgb(colour)
	p.SetDrawColor(int(r), int(g), int(b))
	p.SetLineWidth(width * p.scale)
	if len(dash) > 0 {
		p.SetDashPattern([]float64{dash[0] * p.scale, dash[len(dash)-1] * p.scale}, 0)
		defer p.SetDashPattern(nil, 0)
	}
	points := p.polygon(line)
	p.MoveTo(points[0].X, points[0].Y)
	for _, at := range points[1:] {
		p.LineTo(at.X, at.Y)
	}
	p.DrawPath("D")
}

func (p page) text(x, y, size float64, anchor, colour, s string) {
	r, g, b := rgb(colour)
	p.SetTextColor(int(r), int(g), int(b))
	p.SetFontSize(size * p.scale)
	x, y = p.x+x*p.scale, p.y+y*p.scale
	if !fonts.Plain(s) { // the library panics on letters that its font lacks
		for _, l := range fonts.Set(s, 0) {
			l.Print(p.Fpdf, x-before(anchor, l.Width*size*p.scale), y, size*p.scale, false)
		}
		return
	}
	p.Text(x-before(anchor, p.GetStringWidth(s)), y, s)
}

// before returns the part of a text's width that lies before its anchor.
func before(anchor string, width float64) float64 {
	switch anchor {
	case "middle":
		return width / 2
	case "end":
		return width
	}
	return 0
}

func (p page) clip(x, y, w, h float64) {
	p.ClipRect(p.x+x*p.scale, p.y+y*p.scale, w*p.scale, h*p.scale, false)
}

func (p page) unclip() { p.ClipEnd() }
