package fonts

import "codeberg.org/go-pdf/fpdf"

// heavier is the width of the pen that goes round bold letters, in ems: the fonts of names have one weight.
const heavier = 0.035

// Print draws a line into a document in its colour of text: from x on, on the base line y, size points high.
func (l Line) Print(f *fpdf.Fpdf, x, y, size float64, bold bool) {
	drawn := l.Outlines()
	if len(drawn) == 0 {
		return
	}
	f.SetFillColor(f.GetTextColor())
	style := "F"
	if bold {
		wide := f.GetLineWidth()
		r, g, b := f.GetDrawColor()
		defer func() { f.SetLineWidth(wide); f.SetDrawColor(r, g, b) }()
		f.SetDrawColor(f.GetTextColor())
		f.SetLineWidth(heavier * size)
		style = "FD"
	}
	for _, outline := range drawn {
		for i, p := range outline {
			if i == 0 {
				f.MoveTo(x+p.X*size, y+p.Y*size)
			} else {
				f.LineTo(x+p.X*size, y+p.Y*size)
			}
		}
		f.ClosePath()
	}
	f.DrawPath(style)
}
