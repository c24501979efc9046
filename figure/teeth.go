package figure

import (
	"fmt"
	"math"

	"cavix/core/text"
)

// Teeth draws a gear from its face, with the teeth that are measured numbered and one of them marked, and beside it the
// width of that tooth with the place at which it is measured, 1 to places. A place of 0 marks none. The numbers of
// teeth count from 1, round the gear.
func Teeth(teeth int, measured []int, marked, place, places int, o Options) *Scene {
	const size, middle, root, tip = 230.0, 115.0, 66.0, 84.0
	sc := &Scene{Width: 400, Height: size,
		Label: o.say(text.New("figure.teeth", "teeth", teeth, "numbered", len(measured), "marked", marked))}
	sc.add(steel...)
	step := 2 * math.Pi / float64(teeth)
	at := func(r, a float64) (x, y float64) { return middle + r*math.Sin(a), middle - r*math.Cos(a) }
	path := ""
	for i := range teeth {
		a := step * float64(i)
		for k, corner := range [][2]float64{{root, -0.27}, {tip, -0.15}, {tip, 0.15}, {root, 0.27}} {
			x, y := at(corner[0], a+corner[1]*step)
			verb := "L"
			if i == 0 && k == 0 {
				verb = "M"
			}
			path += pathf("%s%.2f %.2f", verb, x, y)
		}
	}
	sc.add(Path{D: path + "Z", Paint: gaugeMetal},
		Circle{X: middle, Y: middle, R: 20, Paint: Paint{Fill: "#37424A", Stroke: outline, Width: 1}})
	for _, n := range measured {
		a := step * float64(n-1)
		x, y := at(tip+15, a)
		colour, class := ink, "onmat"
		if n == marked {
			colour, class = Madder, "onmat marked"
			mx, my := at((root+tip)/2, a)
			sc.add(Circle{X: mx, Y: my, R: 9, Paint: Paint{Fill: "none", Stroke: Madder, Width: 2.2}})
		}
		sc.add(Text{Class: class, X: x, Y: y + 4.5, Size: 13, Anchor: "middle", Fill: colour, S: fmt.Sprint(n)})
	}
	// The tooth from above: its width, and where it is measured.
	if places > 0 {
		const left, top, wide, high = 268.0, 40.0, 104.0, 150.0
		sc.add(Rect{X: left, Y: top, W: wide, H: high, Paint: gaugeMetal}, Rect{X: left + 34, Y: top, W: 36, H: high,
			Paint: gaugeGrip})
		for k := 1; k <= places; k++ {
			y := top + high*(float64(k)-0.5)/float64(places)
			colour, class, w := outline, "onmat", 1.2
			if k == place {
				colour, class, w = Madder, "onmat marked", 2.6
			}
			sc.add(Line{X1: left - 10, Y1: y, X2: left + wide + 10, Y2: y, Stroke: colour, Width: w},
				Text{Class: class, X: left + wide + 20, Y: y + 4.5, Size: 13, Anchor: "middle", Fill: colour,
					S: fmt.Sprint(k)})
		}
		sc.add(Text{Class: "onmat", X: left + wide/2, Y: top + high + 22, Size: 13, Anchor: "middle", Fill: ink,
			S: o.say(text.New("figure.tooth-from-above", "n", marked))})
	}
	return sc
}
