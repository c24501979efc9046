package figure

import (
	"fmt"
	"math"
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// dial is a beam with a round face, laid out. The slide's bevelled edge keeps its place, and the beam's
// marks move.
type dial struct {
	in    *instrument.Instrument
	shown length.Number // y − B
	width float64
	edge  float64 // x of the slide's edge
	div   float64 // px of one main division
	cx    float64 // middle of the face
}

// Measures of a dial caliper's figure, in px.
const (
	dialHeight = 300.0
	faceY      = 150.0
	faceR      = 126.0
	dialBeam   = 178.0 // top of the beam
	dialEdge   = 264.0 // its lower edge, where the marks stand
)

func newDial(in *instrument.Instrument, y length.Number, width float64) *dial {
	d := &dial{in: in, shown: y.Sub(in.Spec().Base), width: width, div: 20}
	d.edge = math.Round(math.Min(0.5*width, width-186-faceR-30)) // the whole face in sight
	d.cx = d.edge + 186
	if in.Spec().Main.NumberEvery*20 < 90 {
		d.div = 26
	}
	return d
}

func (d *dial) markX(v length.Number) float64 {
	return d.edge - d.shown.Sub(v).Quo(d.in.Spec().Main.Division).Float()*d.div
}

// turned returns the pointer's angle, clockwise from the top.
func (d *dial) turned() float64 {
	turns := d.shown.Quo(d.in.Spec().Fine.Travel)
	return 2 * math.Pi * turns.Sub(turns.Floor()).Float()
}

// lineAngle is the angle of line j of the whole face.
func (d *dial) lineAngle(j int) float64 {
	return 2 * math.Pi * float64(j) / float64(d.in.Spec().Fine.Divisions)
}

// round returns the point of the face at an angle and a distance from its middle.
func (d *dial) round(angle, r float64) (x, y float64) {
	return d.cx + r*math.Sin(angle), faceY - r*math.Cos(angle)
}

// Scene draws beam, slide and face.
func (d *dial) Scene(o Options) *Scene {
	sc := &Scene{Width: d.width, Height: dialHeight,
		Label: o.say(text.New("figure.dial", "unit", d.in.Unit(), "lines", d.in.Spec().Fine.Divisions))}
	marks, left, right := d.beamMarks(o.Loose), -10-o.Bleed, d.width+10+o.Bleed
	sc.Label += o.inSight(text.Word("main scale"), d.in.Spec().Main.NumberEvery, 0, d.edge, marks)
	sc.add(steel...)
	sc.add(
		Rect{Class: "beam", X: left, Y: dialBeam, W: right - left, H: dialEdge - dialBeam,
			Paint: Paint{Fill: "#:beam"}},
		Line{X1: left, Y1: dialBeam + 0.5, X2: right, Y2: dialBeam + 0.5, Stroke: outline, Width: 1},
		Line{X1: left, Y1: dialEdge - 0.5, X2: right, Y2: dialEdge - 0.5, Stroke: outline, Width: 1},
		marks,
		Path{Class: "slide", D: fmt.Sprintf("M%.2f 162 H%.2f Q%.2f 162 %.2f 170 V282 Q%.2f 290 %.2f 290 H%.2f Z",
			d.edge, d.cx+196, d.cx+204, d.cx+204, d.cx+204, d.cx+196, d.edge),
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "bevelled", X: d.edge, Y: 162, W: 15, H: 128, Paint: Paint{Fill: "#DDE2E2"}},
		Line{Class: "index", X1: d.edge, Y1: 162, X2: d.edge, Y2: 290, Stroke: "#2B363B", Width: 1.3},
		Circle{X: d.cx, Y: faceY, R: faceR + 14, Paint: Paint{Fill: "#8E999E"}},
		Circle{X: d.cx, Y: faceY, R: faceR + 12, Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Circle{Class: "face", X: d.cx, Y: faceY, R: faceR, Paint: Paint{Fill: "#FBFAF5", Stroke: rim, Width: 1}},
		d.faceLines(),
	)
	if o.Flags != nil {
		sc.add(d.flags(o)...)
	}
	sc.add(d.needle(o.Eye))
	if o.Names {
		sc.add(o.named(d.width, d.in, map[instrument.PartKey]place{
			instrument.MainScale: {d.edge - 200, dialBeam + 8, dialBeam - 24},
			instrument.Edge:      {d.edge, 176, 140},
			instrument.FineScale: {d.cx + 0.9*faceR, faceY - 0.3*faceR, 26},
			instrument.Slide:     {d.cx + 190, 230, 130},
		})...)
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.width, dialHeight, *o.Lens))
	}
	return sc
}

// beamMarks draws the marks that the slide has passed.
func (d *dial) beamMarks(loose bool) Group {
	m := d.in.Spec().Main
	g := Group{Class: "beam-marks", Paint: Paint{Stroke: ink, Width: 1.25}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	high := min(markIndex(d.shown.Quo(m.Division).Floor()), markIndex(m.To.Quo(m.Division).Floor())+1)
	low := max(markIndex(m.From.Quo(m.Division).Neg().Floor().Neg()), high-int(d.edge/d.div)-1)
	if loose { // those under the slide and beyond the rim too
		reach := int(d.width / d.div)
		low, high = max(low-reach, 0), min(high+reach, markIndex(m.To.Quo(m.Division).Floor()))
	}
	lengths := markLengths{22, 30, 38}
	every := m.NumberEvery * stride(float64(m.NumberEvery)*d.div, 17, widest(m, low, high))
	for i := low; i <= high; i++ {
		x := d.markX(m.Division.MulInt(i))
		g.Items = append(g.Items, Line{Class: "main-mark", X1: x, Y1: dialEdge - lengths[rank(i, m.NumberEvery)],
			X2: x, Y2: dialEdge})
		if i%every == 0 && i >= 0 && (x > 8 || loose) {
			numerals.Items = append(numerals.Items, Text{X: x, Y: dialEdge - 46, Size: 17, Anchor: "middle",
				S: m.NumberStep.MulInt(i / m.NumberEvery).String()})
		}
	}
	if !loose {
		numerals.Items = uncut(numerals.Items, 0, d.width)
	}
	g.Items = append(g.Items, numerals)
	return g
}

// faceLines draws the lines and numbers round the face; every 0 begins anew.
func (d *dial) faceLines() Group {
	f := d.in.Spec().Fine
	n := d.in.Lines()
	spacing := 2 * math.Pi * faceR / float64(f.Divisions)
	g := Group{Class: "face-lines", Paint: Paint{Stroke: ink, Width: math.Max(0.5, math.Min(1.25, 0.16*spacing))}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	every := f.NumberEvery
	for _, s := range []int{1, 2, 5, 10} {
		if every = f.NumberEvery * s; spacing*0.7*float64(every) > 24 {
			break
		}
	}
	for j := range f.Divisions {
		k, a, l := j%n, d.lineAngle(j), 11.0
		switch rank(k, f.NumberEvery) {
		case 2:
			l = 20
		case 1:
			l = 15
		}
		x1, y1 := d.round(a, faceR-4)
		x2, y2 := d.round(a, faceR-4-l)
		g.Items = append(g.Items, Line{Class: "fine-mark", X1: x1, Y1: y1, X2: x2, Y2: y2})
		if k%every == 0 && (k == 0 || n-k >= every*2/3) {
			size := 15.0
			if k == 0 {
				size = 19
			}
			x, y := d.round(a, faceR-38)
			numerals.Items = append(numerals.Items, Text{X: x, Y: y + size*0.36, Size: size, Anchor: "middle",
				S: strconv.Itoa(k / f.NumberEvery * f.NumberStep)})
		}
	}
	g.Items = append(g.Items, Group{Paint: numerals.Paint, Items: append(numerals.Items,
		Text{X: d.cx, Y: faceY + 48, Size: 13, Anchor: "middle", Fill: "#56636B",
			S: d.in.Unit().With(d.in.FormatMain(d.in.LeastCount()))})})
	return g
}

// needle draws the pointer, as it stands at 0, turned by its angle as the drawing's geometry.
func (d *dial) needle(eye float64) Group {
	a := d.turned() + eye*2*math.Pi/float64(d.in.Spec().Fine.Divisions)
	tipX, tipY := d.round(a, faceR-7)
	lx, ly := d.round(a+math.Pi/2, 3.2)
	rx, ry := d.round(a-math.Pi/2, 3.2)
	tailX, tailY := d.round(a+math.Pi, 34)
	hubX, hubY := d.round(a, 0)
	return Group{Class: "needle", Items: []Item{
		Path{D: fmt.Sprintf("M%.3f %.3f L%.3f %.3f L%.3f %.3f L%.3f %.3f Z", tipX, tipY, lx, ly, tailX, tailY, rx, ry),
			Paint: Paint{Fill: "#1C2830"}},
		Line{Class: "pointer", X1: hubX, Y1: hubY, X2: tipX, Y2: tipY, Stroke: "#1C2830", Width: 1.1},
		Circle{X: d.cx, Y: faceY, R: 9, Paint: Paint{Fill: Brass}},
	}}
}

// line is the line of the whole face that stands for fine line k in the part of the face the pointer is in.
func (d *dial) line(k int) int {
	n := d.in.Lines()
	turns := d.shown.Quo(d.in.ScaleInterval()).Floor()
	part, _ := turns.Sub(turns.Quo(length.Int(int64(d.in.Spec().Fine.Zeros))).Floor().MulInt(
		d.in.Spec().Fine.Zeros)).Int64()
	return int(part)*n + k
}

func (d *dial) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	if f.TakenMark != nil {
		if x := d.markX(*f.TakenMark); x > 0 && x < d.width {
			items = append(items, ring("taken", x, dialEdge-18, 17, 48, Madder, "4 3"))
			items = append(items, o.takenTag(x, dialEdge+18)...)
		}
	}
	if f.TakenLine != nil {
		x, y := d.round(d.lineAngle(d.line(*f.TakenLine)), faceR-14)
		items = append(items, ring("taken", x, y, 26, 26, Madder, "4 3"))
		tx, ty := d.round(d.lineAngle(d.line(*f.TakenLine)), faceR+34)
		items = append(items, o.takenTag(tx, ty)...)
	}
	if !f.LineText.IsZero() {
		items = append(items, d.lineFlag(f, o)...)
	}
	if !f.MarkText.IsZero() {
		items = append(items, ring("counted", d.markX(f.Mark), dialEdge-18, 15, 46, Brass, ""))
		items = append(items, o.pin(d.width, d.markX(f.Mark), dialEdge-44, dialBeam-16, -1, f.MarkText, Brass)...)
	}
	return items
}

// lineFlag rings the line that the pointer stands at, and names it on the face.
func (d *dial) lineFlag(f *exercise.Pointing, o Options) []Item {
	x, y := d.round(d.lineAngle(d.line(f.Line)), faceR-14)
	says := o.say(f.LineText)
	w := float64(len([]rune(says)))*7.2 + 16
	top := faceY - 62.0
	if math.Cos(d.turned()) > 0 { // on the side where the needle is not
		top = faceY + 56
	}
	return []Item{
		ring("counted", x, y, 26, 26, Verdigris, ""),
		Rect{Class: "tag", X: d.cx - w/2, Y: top, W: w, H: 22, Radius: 2, Paint: Paint{Fill: Verdigris}},
		Text{Class: "tag", X: d.cx, Y: top + 16, Size: 13.5, Anchor: "middle", Fill: "#FFFFFF", S: says},
	}
}

func (d *dial) Strengths() [3]int {
	shift := 2 * math.Pi * faceR / float64(d.in.Spec().Fine.Divisions)
	return [3]int{2, 3, max(5, int(math.Ceil(4.2/shift)))}
}

func (d *dial) LensOn(zoom, line int) Lens {
	a := d.turned()
	if line >= 0 {
		a = d.lineAngle(d.line(line))
	}
	x, y := d.round(a, faceR-12)
	return Lens{Zoom: zoom, X: x, Y: y}
}

func (d *dial) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

func (d *dial) Track() Track { return Track{Kind: "round", X: d.cx, Y: faceY, R: faceR - 12} }

func (d *dial) Motion() Motion {
	s := d.in.Spec()
	count := d.in.LeastCount().Quo(s.Main.Division).Float() * d.div
	return Motion{
		Moves: []Move{
			{Parts: ".beam-marks", How: Slides, DX: -count, Uncut: true},
			{Parts: ".needle", How: Turns, Turn: 360 / float64(s.Fine.Divisions), X: d.cx, Y: faceY},
		},
		Grips: []Grip{{Per: count}},
	}
}

// Band returns the levels of the beam; the face is under the lens.
func (d *dial) Band() (top, bottom float64) { return dialBeam - 6, dialHeight - 8 }
