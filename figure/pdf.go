package figure

import (
	"bytes"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
)

// pointsPerPx makes a wide figure fit a sheet of paper.
const pointsPerPx = 0.5

// page is a page of a PDF.
type page struct{ *fpdf.Fpdf }

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
	f.SetFont("Helvetica", "B", 10)
	f.ClipRect(0, 0, s.Width*pointsPerPx, s.Height*pointsPerPx, false)
	paint(s, page{f})
	f.ClipEnd()
	var b bytes.Buffer
	err := f.Output(&b)
	return b.Bytes(), err
}

func polygon(outline []point) []fpdf.PointType {
	out := make([]fpdf.PointType, len(outline))
	for i, p := range outline {
		out[i] = fpdf.PointType{X: p.x * pointsPerPx, Y: p.y * pointsPerPx}
	}
	return out
}

func (p page) fill(outline []point, colour string, g *Gradient, opacity float64) {
	if g == nil {
		r, gr, b := rgb(colour)
		p.SetFillColor(int(r), int(gr), int(b))
		p.SetAlpha(opacity, "Normal")
		p.Polygon(polygon(outline), "F")
		p.SetAlpha(1, "Normal")
		return
	}
	low, high := box(outline)
	p.ClipPolygon(polygon(outline), false)
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
		p.LinearGradient(x*pointsPerPx, y*pointsPerPx, w*pointsPerPx, h*pointsPerPx, int(r1), int(g1), int(b1),
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
	p.SetLineWidth(width * pointsPerPx)
	if len(dash) > 0 {
		p.SetDashPattern([]float64{dash[0] * pointsPerPx, dash[len(dash)-1] * pointsPerPx}, 0)
		defer p.SetDashPattern(nil, 0)
	}
	points := polygon(line)
	p.MoveTo(points[0].X, points[0].Y)
	for _, at := range points[1:] {
		p.LineTo(at.X, at.Y)
	}
	p.DrawPath("D")
}

func (p page) text(x, y, size float64, anchor, colour, s string) {
	s = strings.NewReplacer("−", "-", "↑", "above,", "↓", "below", "µ", "u").Replace(s)
	r, g, b := rgb(colour)
	p.SetTextColor(int(r), int(g), int(b))
	p.SetFontSize(size * pointsPerPx * 0.92) // Helvetica is a little wider than the narrow face of the page
	x *= pointsPerPx
	switch w := p.GetStringWidth(s); anchor {
	case "middle":
		x -= w / 2
	case "end":
		x -= w
	}
	p.Text(x, y*pointsPerPx, s)
}

func (p page) clip(x, y, w, h float64) {
	p.ClipRect(x*pointsPerPx, y*pointsPerPx, w*pointsPerPx, h*pointsPerPx, false)
}

func (p page) unclip() { p.ClipEnd() }
