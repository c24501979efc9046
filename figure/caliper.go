package figure

import (
	"fmt"
	"math"
	"strconv"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

var steel = []Item{
	Gradient{Name: "beam", Stops: []Stop{{At: 0, Colour: "#CDD4D6"}, {At: 0.1, Colour: "#E9EDED"},
		{At: 0.6, Colour: "#E1E6E7"}, {At: 1, Colour: "#D3DADC"}}},
	Gradient{Name: "plate", Stops: []Stop{{At: 0, Colour: "#F1F3F2"}, {At: 1, Colour: "#DEE3E4"}}},
	Gradient{Name: "slide", Stops: []Stop{{At: 0, Colour: "#C7CFD2"}, {At: 0.5, Colour: "#B6C0C4"},
		{At: 1, Colour: "#A3AEB3"}}},
	Gradient{Name: "jaw", Across: true, Stops: []Stop{{At: 0, Colour: "#B9C3C7"}, {At: 0.8, Colour: "#A7B2B7"},
		{At: 1, Colour: "#98A4A9"}}},
	Gradient{Name: "fixed", Across: true, Stops: []Stop{{At: 0, Colour: "#AEB9BD"}, {At: 0.85, Colour: "#C3CCCF"},
		{At: 1, Colour: "#D4DBDD"}}},
	Gradient{Name: "work", Stops: []Stop{{At: 0, Colour: "#C39A57"}, {At: 0.25, Colour: "#DDBC85"},
		{At: 1, Colour: "#AD7F38"}}},
}

// The figure's levels, in px from its top.
const (
	caliperHeight = 250
	beamTop       = 66.0
	edgeY         = 152.0 // where the beam ends and the plate begins
	plateH        = 56.0
	bodyY         = edgeY + plateH
	bodyH         = 30.0
	jawWidth      = 54.0
)

// Scene draws the reading end of a vernier caliper: beam, plate, slide and jaws, with the work between
// them.
func (l *straight) Scene(o Options) *Scene {
	if o.Bleed != 0 {
		wide := *l
		wide.bleed = o.Bleed
		l = &wide
	}
	in := l.in
	sc := &Scene{Width: l.width, Height: caliperHeight, Label: o.say(label(in))}
	sc.add(steel...)
	second, role := in.Second()
	left, right := l.plateEnds()
	face := left - jawWidth // the moving jaw's measuring face
	zeroError := in.Spec().ZeroError.Quo(in.LeastCount()).Float() * l.count
	closedAt := l.span((l.from-int(l.first))*l.n) + zeroError // where the plate's 0 stands when closed
	fixed := face - (l.zero - closedAt)

	if l.small == nil {
		sc.add(l.jawsAndWork(face, fixed, o.Hold)...)
	}
	sc.add(l.beam(fixed)...)
	scale := l.mainScale(edgeY, 1, 17, markLengths{22, 31, 40}, 8)
	sc.Label += o.inSight(text.Word("main scale"), in.Spec().Main.NumberEvery, 0, l.width, scale)
	sc.add(scale)
	sc.add(l.slide(face, left, right, o.Eye*l.count))
	if role == instrument.OtherScale || role == instrument.InsidePlate {
		sc.add(l.otherEdge(second)...)
	}
	if o.Flags != nil {
		sc.add(l.flags(o)...)
	}
	if o.Names {
		sc.add(o.named(l.width, l.in, map[instrument.PartKey]place{
			instrument.MainScale: {l.width - 120, l.top + 9, l.top - 20},
			instrument.FineZero:  {l.zero, edgeY + 51, edgeY + 72},
			instrument.FineScale: {l.zero + l.lineX(l.n)*0.6, edgeY + 51, edgeY + 72},
			instrument.Lock:      {right - 41, l.top - 40, 14},
			instrument.Jaw:       {face + 20, bodyY + 20, caliperHeight - 12},
		})...)
	}
	if o.Lens != nil {
		sc.add(l.frame(*o.Lens))
	}
	if o.Hold == Depth {
		sc.add(l.farEnd(face-fixed, o)...)
		sc.Height += farEndRoom
	}
	if l.top != beamTop { // the upper plate stands above the beam
		return &Scene{Width: sc.Width, Height: sc.Height + upperRoom, Label: sc.Label,
			Items: []Item{Group{DY: upperRoom, Items: sc.Items}}}
	}
	return sc
}

// upperRoom is the additional height of a figure with a plate on both edges, in px.
const upperRoom = 74.0

// farEndRoom is the additional height of a figure with the beam's far end, in px.
const farEndRoom = 130.0

// farEnd draws, below the figure, the far end of the beam standing on a part with a hole, and the depth
// blade that comes out of it by what the jaws are open. A hole deeper than the picture is cut off by it.
func (l *straight) farEnd(opening float64, o Options) []Item {
	const (
		top, face = caliperHeight + 20.0, 170.0
		beamH     = edgeY - beamTop
		middle    = top + beamH/2
		hole      = 19.0 // half its height
		blade     = 6.0  // half its height
	)
	metal := Paint{Fill: "#D2AE74", Stroke: "#7E5A22", Width: 1}
	far := 2 * l.width // out of sight, however far a page moves it
	bottom := face + math.Max(0, opening)
	return []Item{
		Rect{Class: "wall", X: face, Y: top - 12, W: far, H: middle - hole - top + 12, Paint: metal},
		Rect{Class: "wall", X: face, Y: middle + hole, W: far, H: top + beamH + 12 - middle - hole, Paint: metal},
		Rect{Class: "wall moving", X: bottom, Y: middle - hole - 1, W: far, H: 2*hole + 2,
			Paint: Paint{Fill: metal.Fill}},
		Line{Class: "wall moving", X1: bottom, Y1: middle - hole, X2: bottom, Y2: middle + hole, Stroke: metal.Stroke,
			Width: 1},
		Clip{Name: "groove", X: 34, Y: top, W: l.width, H: beamH}, // the blade runs hidden in the beam
		Group{Clip: "groove", Items: []Item{
			Rect{Class: "jaw moving", X: bottom - far, Y: middle - blade, W: far, H: 2 * blade,
				Paint: Paint{Fill: "#A9B4B9", Stroke: outline, Width: 1}},
		}},
		Path{Class: "beam", D: fmt.Sprintf("M%g %g H26 l7 %g l-14 %g l7 %g H%g Z", face, top, beamH/2-8, 16.0,
			beamH/2-8, face),
			Paint: Paint{Fill: "#:beam", Stroke: outline, Width: 1}},
		Text{X: face - 14, Y: middle + 4, Size: 12.5, Anchor: "end", Fill: "#56636B",
			S: o.say(text.New("figure.far-end"))},
	}
}

// otherEdge draws a second scale along the beam's upper edge with its plate above. Its plate's 0 stands
// over the first one's, and its marks where its own reading of the same opening needs them.
func (l *straight) otherEdge(in *instrument.Instrument) []Item {
	s := in.Spec()
	first := l.in.Spec()
	shown := l.in.OnSecond(l.y).Sub(s.Base)
	div := length.Convert(s.Main.Division, s.Unit, first.Unit).Quo(first.Main.Division).Float() * l.division()
	markX := func(i int) float64 {
		return l.zero - shown.Quo(s.Main.Division).Sub(length.Int(int64(i))).Float()*div
	}
	width := math.Max(0.3, math.Min(1.15, 0.13*div))
	marks, lines := Group{Paint: Paint{Stroke: ink, Width: width}},
		Group{Class: "slide", DX: l.zero, Paint: Paint{Stroke: ink, Width: width}}
	numbers := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	plateNumbers := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	at := markIndex(shown.Quo(s.Main.Division).Floor())
	from, to := markIndex(s.Main.From.Quo(s.Main.Division).Neg().Floor().Neg()),
		markIndex(s.Main.To.Quo(s.Main.Division).Floor())
	low, high := max(from, at-int((l.zero+l.bleed)/div)-1), min(to, at+int((l.width+l.bleed-l.zero)/div)+1)
	every := s.Main.NumberEvery * stride(float64(s.Main.NumberEvery)*div, 14, widest(s.Main, low, high))
	lengths := markLengths{13, 18, 23}
	for i := low; i <= high; i++ {
		x := markX(i)
		marks.Items = append(marks.Items, Line{Class: "second-main", X1: x, Y1: l.top, X2: x, Y2: l.top +
			lengths[rank(i, s.Main.NumberEvery)]})
		if i%every == 0 && i >= 0 {
			numbers.Items = append(numbers.Items, Text{X: x, Y: l.top + 37, Size: 14, Anchor: "middle",
				S: s.Main.NumberStep.MulInt(i / s.Main.NumberEvery).String()})
		}
	}
	line := float64(s.Fine.MainDivisions) / float64(s.Fine.Divisions) * div
	if in.Form().Retrograde {
		line = -line
	}
	n := s.Fine.Divisions
	step := s.Fine.NumberEvery * stride(float64(s.Fine.NumberEvery)*math.Abs(line), 12, 2)
	a, b := math.Min(0, float64(n)*line)-1.5*math.Abs(line), math.Max(0, float64(n)*line)+1.5*math.Abs(line)
	lines.Items = append(lines.Items,
		Rect{X: a - 8, Y: l.top - 58, W: b - a + 16, H: 14, Radius: 4,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "plate", X: a, Y: l.top - 46, W: b - a, H: 46,
			Paint: Paint{Fill: "#:plate", Stroke: outline, Width: 0.8}})
	for k := 0; k <= n; k++ {
		x := float64(k) * line
		lines.Items = append(lines.Items, Line{Class: "second-fine", X1: x, Y1: l.top, X2: x,
			Y2: l.top - lengths[rank(k, s.Fine.NumberEvery)]})
		if k%step == 0 {
			plateNumbers.Items = append(plateNumbers.Items, Text{X: x, Y: l.top - 29, Size: 12, Anchor: "middle",
				S: strconv.Itoa(k / s.Fine.NumberEvery * s.Fine.NumberStep)})
		}
	}
	lines.Items = append(lines.Items, plateNumbers)
	numbers.Items = uncut(numbers.Items, -l.bleed, l.width+l.bleed)
	marks.Items = append(marks.Items, numbers)
	return []Item{marks, lines,
		Text{X: l.width - 14, Y: l.top + 55, Size: 12.5, Anchor: "end", Fill: "#56636B", S: string(s.Unit) + " ↑  " +
			string(first.Unit) + " ↓"}}
}

// label describes a figure without saying what it reads.
func label(in *instrument.Instrument) text.Text {
	s := in.Spec()
	return text.New("figure.vernier", "unit", s.Unit, "lines", s.Fine.Divisions, "spans", s.Fine.MainDivisions)
}

// jawsAndWork draws the fixed jaw, the moving jaw and what they hold, all cut off below and above.
func (l *straight) jawsAndWork(face, fixed float64, hold Hold) []Item {
	var items []Item
	const workTop = edgeY + 46.0
	switch {
	case face-fixed <= 0.5 || hold != Outside:
	case l.tooth:
		items = append(items, tooth(fixed, face)...)
	default:
		x := math.Max(fixed, -20-l.bleed)
		items = append(items, Rect{Class: "work", X: x, Y: workTop, W: face - x, H: caliperHeight - workTop + 8,
			Radius: 2,
			Paint:  Paint{Fill: "#:work", Stroke: "#7E5A22", Width: 1}})
	}
	if fixed > -40-l.bleed {
		d := fmt.Sprintf("M%.2f 0 V30 L%.2f %.0f V%.0f H%.2f V%d H%.2f V%.0f H%.2f V30 L%.2f 0 Z",
			fixed, fixed, l.top-8, edgeY+10, fixed, caliperHeight+4, fixed-58, edgeY+40, fixed-74, fixed-20)
		items = append(items, Path{Class: "jaw", D: d, Paint: Paint{Fill: "#:fixed", Stroke: outline, Width: 1}})
	}
	// The moving jaw: below the slide's left end, and the inside jaw above it.
	down := fmt.Sprintf("M%.2f %.0f V%d H%.2f L%.2f %.0f H%.2f V%.0f Z", face, bodyY-16, caliperHeight+4, face+44,
		face+58, bodyY+bodyH+6, face+72, bodyY-16)
	if hold == Inside { // the walls of the hole, outside the inside jaws, whose blades cross
		wall := Paint{Fill: "#:work", Stroke: "#7E5A22", Width: 1}
		items = append(items,
			Rect{Class: "wall", X: -20 - l.bleed, Y: -6, W: math.Max(0, fixed+20+l.bleed), H: l.top - 22, Paint: wall},
			Rect{Class: "wall moving", X: face, Y: -6, W: l.width, H: l.top - 22, Paint: wall},
			Path{Class: "jaw", D: fmt.Sprintf("M%.2f %.0f V14 L%.2f -4 H%.2f L%.2f %.0f Z", fixed, l.top, fixed+4,
				fixed+20, fixed+46, l.top), Paint: Paint{Fill: "#:fixed", Stroke: outline, Width: 1}},
			Path{Class: "jaw moving", D: fmt.Sprintf("M%.2f %.0f V14 L%.2f -4 H%.2f L%.2f %.0f Z", face, l.top, face-4,
				face-20, face-46, l.top), Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}},
			Path{Class: "jaw moving", D: down, Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}})
		return items
	}
	up := fmt.Sprintf("M%.2f %.0f V20 L%.2f -4 H%.2f L%.2f %.0f Z", face, l.top, face+4, face+20, face+46, l.top)
	return append(items,
		Path{Class: "jaw moving", D: down, Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}},
		Path{Class: "jaw moving", D: up, Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}})
}

// tooth draws a tooth of a gear between jaws whose faces stand at x = a and b: as thick as they are apart where their
// tips touch it, less above and more below. The tongue comes down behind the beam and rests on it.
func tooth(a, b float64) []Item {
	const (
		top  = edgeY + 42.0        // where the tongue rests
		tips = caliperHeight + 2.0 // of the jaws
		foot = caliperHeight + 76.0
	)
	half, middle := (b-a)/2, (a+b)/2
	land := 0.52 * half // half of the width of its top
	spread := math.Min(30, 0.5*half)
	d := pathf("M%.2f %.1f Q%.2f %.1f %.2f %.1f Q%.2f %.1f %.2f %.1f H%.2f Q%.2f %.1f %.2f %.1f Q%.2f %.1f %.2f %.1f Z",
		middle-half-spread, foot, middle-half-0.15*spread, tips+26, middle-half, tips, middle-land-0.22*half, top+8,
		middle-land, top, middle+land, middle+land+0.22*half, top+8, middle+half, tips, middle+half+0.15*spread,
		tips+26,
		middle+half+spread, foot)
	tongue := math.Min(22, 0.8*land)
	return []Item{
		Rect{Class: "tongue", X: middle - tongue, Y: edgeY - 20, W: 2 * tongue, H: top - edgeY + 20,
			Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}},
		Path{Class: "work", D: d, Paint: Paint{Fill: "#:work", Stroke: "#7E5A22", Width: 1}},
	}
}

// beam draws the bar that carries the main scale, from the fixed jaw on.
func (l *straight) beam(fixed float64) []Item {
	x := math.Max(fixed-74, -10-l.bleed)
	_, plateRight := l.plateEnds()
	end := math.Min(math.Max(l.markX(l.to), plateRight)+70, l.width+10+l.bleed)
	return []Item{
		Rect{Class: "beam", X: x, Y: l.top, W: end - x, H: edgeY - l.top, Paint: Paint{Fill: "#:beam"}},
		Line{X1: x, Y1: l.top + 0.5, X2: end, Y2: l.top + 0.5, Stroke: outline, Width: 1},
		Line{X1: x, Y1: l.top + 9.5, X2: end, Y2: l.top + 9.5, Stroke: "#FFFFFF", Width: 1},
		Line{X1: end, Y1: l.top, X2: end, Y2: edgeY, Stroke: outline, Width: 1},
	}
}

// markLengths are the lengths of a scale's marks by rank.
type markLengths [3]float64

// mainScale draws the main marks up from the edge, magnified sideways zoom times.
func (l *straight) mainScale(edge, zoom, size float64, lengths markLengths, gap float64) Group {
	g := Group{Paint: Paint{Stroke: ink, Width: l.stroke(zoom)}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	every := l.in.Spec().Main.NumberEvery
	mainStride, _ := l.numerals(zoom, size, size)
	low, high := l.marks()
	g.Items = make([]Item, 0, high-low+2)
	for i := low; i <= high; i++ {
		x, up := l.markX(i)*zoom, lengths[rank(i, every)]
		g.Items = append(g.Items, Line{Class: "main-mark", X1: x, Y1: edge - up, X2: x, Y2: edge})
		if t, ok := l.mainLabel(i, mainStride); ok {
			numerals.Items = append(numerals.Items, Text{X: x, Y: edge - lengths[2] - gap, Size: size,
				Anchor: "middle", S: t})
		}
	}
	if zoom == 1 {
		numerals.Items = uncut(numerals.Items, -l.bleed, l.width+l.bleed)
	}
	g.Items = append(g.Items, numerals)
	return g
}

// fineScale draws the plate's lines down from the edge, from line 0 at x = 0, magnified zoom times.
func (l *straight) fineScale(edge, zoom, size float64, lengths markLengths, gap float64) Group {
	g := Group{Paint: Paint{Stroke: ink, Width: l.stroke(zoom)}}
	numerals := Group{Class: "fine-numbers", Paint: Paint{Fill: ink, Stroke: "none"}}
	every := l.in.Spec().Fine.NumberEvery
	_, fineStride := l.numerals(zoom, size, size)
	first := 0
	if l.both {
		first = -l.n
	}
	g.Items = make([]Item, 0, l.n-first+2)
	for k := first; k <= l.n; k++ {
		x, down := l.lineX(k)*zoom, lengths[rank(k, every)]
		g.Items = append(g.Items, Line{Class: "fine-mark", X1: x, Y1: edge, X2: x, Y2: edge + down})
		if t, ok := l.lineLabel(k, fineStride); ok {
			numerals.Items = append(numerals.Items, Text{X: x, Y: edge + lengths[2] + gap, Size: size,
				Anchor: "middle", S: t})
		}
	}
	g.Items = append(g.Items, numerals)
	return g
}

// stroke is the width of an engraved line: thinner only where lines stand very close.
func (l *straight) stroke(zoom float64) float64 {
	return math.Max(0.3, math.Min(1.25, 0.11*math.Min(l.division(), l.plateDivision())*zoom))
}

// slide draws the sliding part: rail and lock above the beam, plate and body below it.
func (l *straight) slide(face, left, right, eye float64) Group {
	z := l.zero
	g := Group{Class: "slide", DX: z}
	end := right + 64 - z
	a, b, f := left-z, right-z, face-z
	rail := []Item{
		// rail above the beam with the lock screw
		Path{D: fmt.Sprintf("M%.2f %.0f V%.0f H%.2f Q%.2f %.0f %.2f %.0f V%.0f Z", f+2, l.top+3, l.top-17, end-8, end,
			l.top-17, end, l.top-9, l.top+3),
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{X: b - 52, Y: l.top - 26, W: 22, H: 9, Paint: Paint{Fill: "#98A4A9", Stroke: outline, Width: 1}},
		Rect{X: b - 58, Y: l.top - 48, W: 34, H: 22, Radius: 3,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
	}
	if l.top == beamTop {
		g.Items = append(g.Items, rail...)
	}
	g.Items = append(g.Items,
		// body below
		Path{D: fmt.Sprintf("M%.2f %.0f H%.2f V%.0f H%.2f V%.0f H%.2f Q%.2f %.0f %.2f %.0f V%.0f Q%.2f %.0f %.2f "+
			"%.0f H%.2f Z",
			f+1, bodyY-14, a-7, edgeY, b+7, bodyY-6, end-9, end, bodyY-6, end, bodyY+3, bodyY+bodyH-9, end,
			bodyY+bodyH, end-9, bodyY+bodyH, f+1),
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "plate", X: a, Y: edgeY, W: b - a, H: plateH, Paint: Paint{Fill: "#:plate"}},
		Line{X1: a, Y1: edgeY, X2: b, Y2: edgeY, Stroke: rim, Width: 0.9},
	)
	for i := range 5 {
		if l.top != beamTop {
			break // no lock on a slide with two plates: it stands behind the beam
		}
		x := b - 53 + float64(i)*6
		g.Items = append(g.Items, Line{X1: x, Y1: l.top - 45, X2: x, Y2: l.top - 29, Stroke: "#7C888E", Width: 1.2})
	}
	for i := range 8 {
		x := end - 48 + float64(i)*4.5
		g.Items = append(g.Items, Line{X1: x, Y1: bodyY + 3, X2: x, Y2: bodyY + bodyH - 7, Stroke: "#6F7A7F",
			Width: 1.4})
	}
	lines := l.fineScale(edgeY, 1, 13, markLengths{19, 25, 31}, 16)
	lines.DX = eye
	g.Items = append(g.Items, lines)
	return g
}

// flags points at the mark that counts and at the line that coincides.
func (l *straight) flags(o Options) []Item {
	f := o.Flags
	items := []Item{}
	if f.TakenMark != nil {
		if x := l.at(*f.TakenMark); x > 0 && x < l.width {
			items = append(items, ring("taken", x, edgeY-22, 16, 48, Madder, "4 3"))
			aside := 18.0 // away from the leader of the mark that counts
			if f.TakenMark.Less(f.Mark) {
				aside = -18
			}
			items = append(items, o.takenTag(x+aside, edgeY-58)...)
		}
	}
	if f.TakenLine != nil {
		x := l.zero + l.lineX(*f.TakenLine)
		items = append(items, ring("taken", x, edgeY+17, 16, 38, Madder, "4 3"))
		items = append(items, o.takenTag(x, edgeY+62)...)
	}
	mark, line := l.at(f.Mark), l.zero+l.lineX(f.Line)
	if !f.MarkText.IsZero() {
		items = append(items, o.pin(l.width, mark, edgeY-42, edgeY-80, -1, f.MarkText, Brass)...)
	}
	if f.LineText.IsZero() {
		return items
	}
	from := edgeY + 33
	if _, numbered := l.lineLabel(f.Line, 1); numbered {
		from = edgeY + 51 // below the numeral
	}
	return append(items, o.pin(l.width, line, from, edgeY+74, 1, f.LineText, Verdigris)...)
}

// Band returns the levels of both scales; a second pair on the other edge is out of it.
func (l *straight) Band() (top, bottom float64) {
	if l.top != beamTop {
		return upperRoom + 86, upperRoom + bodyY + 6
	}
	return 86, bodyY + 6
}
