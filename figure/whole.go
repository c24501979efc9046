package figure

import (
	"fmt"
	"math"

	"cavix/core/length"
)

// Whole draws the whole caliper small and to scale: what is held between its jaws, and in a dashed
// frame the stretch that the figure shows.
func (l *Drawing) Whole() *Scene {
	in, y := l.in, l.y
	const width, height, start = 300.0, 86.0, 22.0
	s := in.Spec()
	plate := in.LineOffset(l.n).Abs()
	long := s.Main.To.Sub(s.Main.From).Add(plate.Mul(length.Frac(3, 2)))
	scale := (width - start - 40) / long.Float()
	size := math.Max(0, y.Sub(in.Closed()).Float()*scale)
	slideW := math.Max(34, plate.Float()*scale*1.25)
	face := start + size

	sc := &Scene{Width: width, Height: height, Label: "The whole instrument, with the work between its outside jaws."}
	metal, moving := Paint{Fill: "#CBD2D5", Stroke: "#5E6B73", Width: 1}, Paint{Fill: "#AEB8BC", Stroke: "#5E6B73", Width: 1}
	if size > 0.4 {
		sc.add(Rect{X: start, Y: 52, W: size, H: 20, Radius: 1.5, Paint: Paint{Fill: "#C79C5A", Stroke: Brass, Width: 1}})
	}
	sc.add(
		Rect{X: start - 14, Y: 26, W: width - start - 4, H: 14, Paint: metal},
		Path{D: fmt.Sprintf("M%.1f 22 V40 L%.1f 46 L%.1f 76 H%.1f V46 L%.1f 40 V24 L%.1f 8 H%.1f L%.1f 22 Z",
			start-15, start-15, start-7, start, start, start-6, start, start), Paint: metal},
		Path{D: fmt.Sprintf("M%.1f 22 L%.1f 8 H%.1f L%.1f 22 H%.1f V46 H%.1f L%.1f 76 H%.1f V22 Z",
			face, face, face+5, face+12, face+slideW, face+15, face+7, face), Paint: moving},
	)
	// The figure's window: x = 0 … width of the layout, in the instrument's unit.
	perPx := s.Main.Division.Float() / l.division()
	zeroAt := face + 12
	left := zeroAt - l.zero*perPx*scale
	w := l.width * perPx * scale
	if left < 1 {
		w, left = w-(1-left), 1
	}
	w = math.Min(w, width-2-left)
	sc.add(Rect{Class: "window", X: left, Y: 17, W: w, H: 33, Radius: 3, Paint: Paint{Fill: "none", Stroke: Brass, Width: 1.4, Dash: "4 3"}})
	return sc
}
