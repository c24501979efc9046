package figure

import (
	"fmt"
	"math"
	"strconv"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// indicator is a round face with a pointer that a plunger or a lever turns: with a small hand that counts turns, or
// numbered both ways from 0.
type indicator struct {
	*dial
	limits []length.Number // at which tolerance hands stand
}

// The small face on which turns are counted, in px below the middle of the face.
const (
	counterY = 52.0
	counterR = 31.0
)

func newIndicator(in *instrument.Instrument, y length.Number, width float64) *indicator {
	d := &dial{in: in, shown: y, width: width, cx: math.Round(width / 2)}
	return &indicator{dial: d}
}

// turnsShown is how many turns the small face has.
func (d *indicator) turnsShown() int {
	m := d.in.Spec().Main
	n, _ := m.To.Quo(m.Division).Floor().Neg().Floor().Neg().Int64()
	return max(10, int(n))
}

// counted is the angle of the small hand, which moves on steadily.
func (d *indicator) counted() float64 {
	turns := d.shown.Quo(d.in.Spec().Fine.Travel).Float()
	return 2 * math.Pi * turns / float64(d.turnsShown())
}

// small returns a point of the small face.
func (d *indicator) small(angle, r float64) (x, y float64) {
	return d.cx + r*math.Sin(angle), faceY + counterY - r*math.Cos(angle)
}

// Scene draws the face with its pointer, and the small hand.
func (d *indicator) Scene(o Options) *Scene {
	in := d.in
	sc := &Scene{Width: d.width, Height: dialHeight,
		Label: o.say(text.New("figure.indicator", "unit", in.Unit(), "lines", in.Spec().Fine.Divisions))}
	sc.add(steel...)
	sc.add(
		Rect{Class: "stem", X: d.cx - 11, Y: faceY + faceR, W: 22, H: dialHeight - faceY - faceR + 20,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Circle{X: d.cx, Y: faceY, R: faceR + 16, Paint: Paint{Fill: "#8E999E"}},
		Circle{Class: "bezel", X: d.cx, Y: faceY, R: faceR + 13,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Circle{Class: "face", X: d.cx, Y: faceY, R: faceR, Paint: Paint{Fill: "#FBFAF5", Stroke: rim, Width: 1}},
		d.faceLines(),
	)
	if in.Traits().Counts {
		sc.add(d.counter()...)
	}
	for _, limit := range d.limits {
		sc.add(d.toleranceHand(limit))
	}
	if o.Flags != nil {
		sc.add(d.flags(o)...)
	}
	sc.add(d.needle(o.Eye))
	if o.Names {
		x, y := d.round(0.9, faceR-14)
		sc.add(o.named(d.width, in, map[instrument.PartKey]place{
			instrument.MainScale: {d.cx, faceY + counterY - counterR, faceY + 10},
			instrument.FineScale: {x, y, 26},
			instrument.ReadAt:    {d.cx, faceY - 12, faceY - 30},
			instrument.Bezel:     {d.cx - faceR - 14, faceY, faceY - 60},
			instrument.Plunger:   {d.cx + 8, dialHeight - 8, dialHeight - 14},
		})...)
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.width, dialHeight, *o.Lens))
	}
	return sc
}

// counter draws the small face and its hand.
func (d *indicator) counter() []Item {
	n := d.turnsShown()
	marks := Group{Class: "counter-marks", Paint: Paint{Stroke: ink, Width: 0.9}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	every := 1
	for n/every > 12 {
		every *= 5
	}
	step := d.in.Spec().Main.Division
	long := len(step.MulInt(n-1).String()) > 2
	for i := range n {
		a := 2 * math.Pi * float64(i) / float64(n)
		x1, y1 := d.small(a, counterR-1)
		x2, y2 := d.small(a, counterR-6)
		marks.Items = append(marks.Items, Line{Class: "main-mark", X1: x1, Y1: y1, X2: x2, Y2: y2})
		if i%every != 0 || long && i%2 != 0 {
			continue
		}
		x, y := d.small(a, counterR-13)
		numerals.Items = append(numerals.Items, Text{X: x, Y: y + 3.2, Size: 9, Anchor: "middle",
			S: step.MulInt(i).String()})
	}
	marks.Items = append(marks.Items, numerals)
	a := d.counted()
	tipX, tipY := d.small(a, counterR-4)
	lx, ly := d.small(a+math.Pi/2, 1.6)
	rx, ry := d.small(a-math.Pi/2, 1.6)
	return []Item{
		Circle{X: d.cx, Y: faceY + counterY, R: counterR + 1, Paint: Paint{Fill: "#F3F1E8", Stroke: rim, Width: 0.8}},
		marks,
		Group{Class: "small-hand", Items: []Item{
			Path{D: fmt.Sprintf("M%.3f %.3f L%.3f %.3f L%.3f %.3f Z", tipX, tipY, lx, ly, rx, ry),
				Paint: Paint{Fill: Madder}},
			Circle{X: d.cx, Y: faceY + counterY, R: 2.6, Paint: Paint{Fill: Madder}},
		}},
	}
}

// toleranceHand is a wedge on the rim of the face that points at a limit.
func (d *indicator) toleranceHand(limit length.Number) Item {
	a := 2 * math.Pi * limit.Sub(d.in.Spec().Base).Quo(d.in.Spec().Fine.Travel).Float()
	tipX, tipY := d.round(a, faceR-2)
	lx, ly := d.round(a-0.06, faceR+15)
	rx, ry := d.round(a+0.06, faceR+15)
	return Path{Class: "tolerance", D: pathf("M%.2f %.2f L%.2f %.2f L%.2f %.2f Z", tipX, tipY, lx, ly, rx, ry),
		Paint: Paint{Fill: Madder, Stroke: "#FFFFFF", Width: 0.8}}
}

// faceLines draws the lines and numbers round the face: on from 0, or both ways from it.
func (d *indicator) faceLines() Group {
	if !d.in.Traits().Signed {
		return d.dial.faceLines()
	}
	f := d.in.Spec().Fine
	n := f.Divisions
	spacing := 2 * math.Pi * faceR / float64(n)
	g := Group{Class: "face-lines", Paint: Paint{Stroke: ink, Width: math.Max(0.5, math.Min(1.25, 0.16*spacing))}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	for j := -n/2 + 1; j <= n/2; j++ {
		k, l := j, 11.0
		if k < 0 {
			k = -k
		}
		switch rank(k, f.NumberEvery) {
		case 2:
			l = 20
		case 1:
			l = 15
		}
		a := d.lineAngle(j)
		x1, y1 := d.round(a, faceR-4)
		x2, y2 := d.round(a, faceR-4-l)
		g.Items = append(g.Items, Line{Class: "fine-mark", X1: x1, Y1: y1, X2: x2, Y2: y2})
		if k%f.NumberEvery != 0 {
			continue
		}
		size := 15.0
		if k == 0 {
			size = 19
		}
		x, y := d.round(a, faceR-38)
		numerals.Items = append(numerals.Items, Text{X: x, Y: y + size*0.36, Size: size, Anchor: "middle",
			S: strconv.Itoa(k / f.NumberEvery * f.NumberStep)})
	}
	plus, py := d.round(0.42, faceR-62)
	minus, my := d.round(-0.42, faceR-62)
	g.Items = append(g.Items, Group{Paint: numerals.Paint, Items: append(numerals.Items,
		Text{X: plus, Y: py + 6, Size: 18, Anchor: "middle", Fill: "#56636B", S: "+"},
		Text{X: minus, Y: my + 6, Size: 18, Anchor: "middle", Fill: "#56636B", S: "−"},
		Text{X: d.cx, Y: faceY + 48, Size: 13, Anchor: "middle", Fill: "#56636B",
			S: d.in.FormatMain(d.in.LeastCount()) + " " + string(d.in.Unit())})})
	return g
}

// flags rings what counts and what was taken: a line of the face, a number of turns.
func (d *indicator) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	if f.TakenLine != nil {
		a := d.lineAngle(*f.TakenLine)
		x, y := d.round(a, faceR-14)
		items = append(items, ring("taken", x, y, 26, 26, Madder, "4 3"))
		tx, ty := d.round(a, faceR+34)
		items = append(items, o.takenTag(tx, math.Max(14, ty))...)
	}
	if !f.LineText.IsZero() {
		items = append(items, d.lineFlag(f, o)...)
	}
	if !d.in.Traits().Counts {
		return items
	}
	turn := func(v length.Number) (x, y float64) {
		return d.small(2*math.Pi*v.Quo(d.in.Spec().Main.Division).Float()/float64(d.turnsShown()), counterR-12)
	}
	if f.TakenMark != nil {
		x, y := turn(*f.TakenMark)
		items = append(items, ring("taken", x, y, 20, 20, Madder, "4 3"))
	}
	if !f.MarkText.IsZero() {
		x, y := turn(f.Mark)
		items = append(items, ring("counted", x, y, 20, 20, Brass, ""))
		items = append(items, o.pin(d.width, x, y, faceY+faceR+12, -1, f.MarkText, Brass)...)
	}
	return items
}

func (d *indicator) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

func (d *indicator) Motion() Motion {
	n := float64(d.in.Spec().Fine.Divisions)
	m := Motion{
		Moves: []Move{{Parts: ".needle", How: Turns, Turn: 360 / n, X: d.cx, Y: faceY}},
		Grips: []Grip{{Per: math.Max(2, 2*math.Pi*faceR/n)}},
	}
	if d.in.Traits().Counts {
		m.Moves = append(m.Moves, Move{Parts: ".small-hand", How: Turns, Turn: 360 / n / float64(d.turnsShown()),
			X: d.cx, Y: faceY + counterY})
	}
	return m
}

// Band returns the levels of the small face, or of the middle of the face; the pointer is under the lens.
func (d *indicator) Band() (top, bottom float64) {
	if d.in.Traits().Counts {
		return faceY + counterY - counterR - 8, faceY + counterY + counterR + 8
	}
	return faceY - 40, faceY + 40
}

// Whole draws the indicator small, on what it measures: a plunger on a part, a lever on a bore, the arms of a bore
// gauge.
func (d *indicator) Whole(o Options) *Scene {
	sc := wholeScene(o.say(text.New("figure.whole-indicator")))
	const x, y = 150.0, 26.0
	a := d.turned()
	sc.add(Circle{X: x, Y: y, R: 22, Paint: Paint{Fill: "#FBFAF5", Stroke: "#5E6B73", Width: 1.6}},
		Line{X1: x, Y1: y, X2: x + 17*math.Sin(a), Y2: y - 17*math.Cos(a), Stroke: "#1C2830", Width: 1.6})
	switch {
	case d.in.Traits().Counts:
		sc.add(Rect{X: x - 4, Y: 48, W: 8, H: 14, Paint: wholeMetal},
			Rect{X: x - 2, Y: 62, W: 4, H: 8, Paint: wholeMoving},
			Rect{X: x - 60, Y: 70, W: 120, H: 14, Paint: wholeWork})
	case d.in.Spec().Fine.Anticlockwise:
		sc.add(Rect{X: x - 3, Y: 48, W: 6, H: 24, Paint: wholeMetal},
			Rect{X: x - 22, Y: 70, W: 44, H: 7, Paint: wholeMoving},
			Rect{X: x - 60, Y: 60, W: 38, H: 26, Paint: wholeWork},
			Rect{X: x + 22, Y: 60, W: 38, H: 26, Paint: wholeWork})
	default:
		sc.add(Path{D: pathf("M%.1f 46 L%.1f 68", x, x+26), Paint: Paint{Fill: "none", Stroke: "#5E6B73", Width: 3}},
			Circle{X: x + 27, Y: 69, R: 3.4, Paint: wholeMoving},
			Rect{X: x - 60, Y: 73, W: 120, H: 12, Paint: wholeWork})
	}
	return sc
}
