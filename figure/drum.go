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

// drum is a sleeve with a drum over it, laid out. The drum's edge keeps its place and the sleeve's marks
// move; lines round the drum are foreshortened, y = r·sin θ, where the index stands at θ = 0.
type drum struct {
	in    *instrument.Instrument
	frame func(share float64) []Item // the whole instrument, small
	shown length.Number              // y − B
	width float64
	edge  float64 // x of the drum's edge
	div   float64 // px of one main division
	at    float64 // position of the drum in lines: which line stands at the index
	n     int
	up    float64 // +1: numbers rise upwards; −1 downwards
	// With a vernier the drum is looked at from the vernier's side, so that all its lines are in sight.
	side    float64 // +1: the vernier lies above the index, −1 below
	tilt    float64 // angle by which the index is turned away
	squeeze float64 // of all angles, where the vernier would go out of sight
}

// Measures of a drum's figure, in px.
const (
	drumHeight = 276.0
	drumMiddle = drumHeight / 2
	sleeveR    = 92.0
	drumR      = 122.0
	bevel      = 84.0
)

func newDrum(in *instrument.Instrument, y length.Number, width float64) *drum {
	s := in.Spec()
	d := &drum{in: in, shown: y.Sub(s.Base), width: width, n: in.Lines(), up: 1, side: 1, squeeze: 1}
	d.edge = math.Round(0.5 * width)
	if width < Narrow {
		d.edge = math.Round(0.44 * width)
	}
	d.div = 24
	if s.Main.HalfMarks {
		d.div = 22
	}
	turns := d.shown.Quo(in.ScaleInterval())
	d.at = turns.Sub(turns.Floor()).MulInt(d.n).Float()
	if s.Fine.Down {
		d.up = -1
	}
	if in.HasFiner() {
		if d.side = d.up; in.FinerForm().Retrograde {
			d.side = -d.up
		}
		d.tilt = 0.44
		span := float64(s.ThimbleVernier.ThimbleDivisions) * 2 * math.Pi / float64(d.n)
		d.squeeze = math.Min(1, 1.65/span)
	}
	return d
}

// angle returns the angle on the drum of what lies so many drum lines above the index.
func (d *drum) angle(lines float64) float64 {
	return d.up*lines*2*math.Pi/float64(d.n)*d.squeeze - d.side*d.tilt
}

// level is the height at which an angle is seen, on a cylinder of radius r.
func level(angle, r float64) float64 { return drumMiddle - r*math.Sin(angle) }

// index is the height of the index line.
func (d *drum) index() float64 { return level(d.angle(0), sleeveR) }

// markX returns the position of the main mark of a value.
func (d *drum) markX(v length.Number) float64 {
	off := d.shown.Sub(v).Quo(d.in.Spec().Main.Division).Float() * d.div
	if d.in.Spec().Main.Reverse {
		off = -off
	}
	return d.edge - off
}

// marks returns the first and last main mark in sight, in divisions: on a sleeve that runs forward those
// up to the drum's edge, in reverse those that it has not yet hidden.
func (d *drum) marks() (low, high int) {
	m := d.in.Spec().Main
	at := markIndex(d.shown.Quo(m.Division).Floor())
	reach := int(d.edge/d.div) + 1
	from, to := markIndex(m.From.Quo(m.Division).Neg().Floor().Neg()), markIndex(m.To.Quo(m.Division).Floor())
	if m.Reverse {
		return max(from, at+1), min(to, at+1+reach)
	}
	return max(from, at-reach), min(to+1, at)
}

// wrapped returns how many lines line j stands above the index, from −n/2 to n/2 about what is looked at:
// the index, or the middle of the vernier.
func (d *drum) wrapped(j float64) float64 {
	n := float64(d.n)
	middle := d.side * d.up * float64(d.in.Spec().ThimbleVernier.ThimbleDivisions) / 2
	off := math.Mod(j-d.at-middle, n)
	switch {
	case off >= n/2:
		off -= n
	case off < -n/2:
		off += n
	}
	return off + middle
}

var drumSteel = []Item{
	Gradient{Name: "sleeve", Stops: []Stop{{At: 0, Colour: "#A6B1B5"}, {At: 0.18, Colour: "#DDE2E3"},
		{At: 0.45, Colour: "#EEF1F0"}, {At: 0.8, Colour: "#D5DBDC"}, {At: 1, Colour: "#939EA3"}}},
	Gradient{Name: "drum", Stops: []Stop{{At: 0, Colour: "#8A959A"}, {At: 0.14, Colour: "#C6CED0"},
		{At: 0.45, Colour: "#E6EAEA"}, {At: 0.82, Colour: "#BCC5C8"}, {At: 1, Colour: "#7B878C"}}},
	Gradient{Name: "bevel", Stops: []Stop{{At: 0, Colour: "#98A3A7"}, {At: 0.16, Colour: "#D6DCDD"},
		{At: 0.45, Colour: "#F4F6F5"}, {At: 0.84, Colour: "#CBD2D4"}, {At: 1, Colour: "#8B969B"}}},
}

// Scene draws sleeve and drum.
func (d *drum) Scene(o Options) *Scene {
	if o.Eye != 0 {
		seen := *d
		seen.at += o.Eye * d.turn()
		d = &seen
	}
	sc := &Scene{Width: d.width, Height: drumHeight, Label: o.say(d.label())}
	sc.add(drumSteel...)
	x, bl := d.edge, bevel
	y := d.index()
	sleeve, lines := d.sleeveMarks(y, o.Loose), d.drumLines(o.Loose)
	sc.Label += o.inSight(text.Word("sleeve scale"), d.in.Spec().Main.NumberEvery, 0, x, sleeve)
	if !o.Loose { // what moves has the whole drum drawn
		sc.Label += o.inSight(text.Word("drum"), d.in.Spec().Fine.NumberEvery, 0, d.width, lines)
	}
	sc.add(
		Rect{Class: "sleeve", X: -10 - o.Bleed, Y: drumMiddle - sleeveR, W: x + 30 + o.Bleed, H: 2 * sleeveR,
			Paint: Paint{Fill: "#:sleeve"}},
		Line{Class: "index", X1: -10 - o.Bleed, Y1: y, X2: x, Y2: y, Stroke: ink, Width: 1.4},
		sleeve,
	)
	if d.in.HasFiner() {
		sc.add(d.finerLines())
	}
	sc.add(
		Path{Class: "bevel", D: fmt.Sprintf("M%.2f %.2f L%.2f %.2f V%.2f L%.2f %.2f Z", x, drumMiddle-sleeveR-2, x+bl,
			drumMiddle-drumR, drumMiddle+drumR, x, drumMiddle+sleeveR+2),
			Paint: Paint{Fill: "#:bevel", Stroke: outline, Width: 1}},
		Rect{Class: "drum", X: x + bl, Y: drumMiddle - drumR, W: d.width - x + o.Bleed, H: 2 * drumR,
			Paint: Paint{Fill: "#:drum", Stroke: outline, Width: 1}},
		d.knurl(x+bl+150, d.width+o.Bleed),
		lines,
		Line{X1: x, Y1: drumMiddle - sleeveR - 2, X2: x, Y2: drumMiddle + sleeveR + 2, Stroke: "#3B464B", Width: 1.2},
	)
	if o.Flags != nil {
		sc.add(d.flags(o)...)
	}
	if o.Names {
		sc.add(o.named(d.width, d.in, map[instrument.PartKey]place{
			instrument.MainScale: {x - 180, drumMiddle - 60, 14},
			instrument.ReadAt:    {x - 250, y, drumHeight - 16},
			instrument.FineScale: {x + bl + 70, drumMiddle, 40},
			instrument.Edge:      {x, drumMiddle + 70, drumHeight - 10},
			instrument.Grip:      {d.width - 60, drumMiddle, drumHeight - 40},
		})...)
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.width, drumHeight, *o.Lens))
	}
	return sc
}

// turn returns the number of drum lines that one least count moves.
func (d *drum) turn() float64 { return 1 / float64(d.in.FinerLines()) }

func (d *drum) Motion() Motion {
	count := d.in.LeastCount().Quo(d.in.Spec().Main.Division).Float() * d.div
	if d.in.Spec().Main.Reverse {
		count = -count
	}
	first, numbers := d.order()
	return Motion{
		Moves: []Move{
			{Parts: ".sleeve-marks", How: Slides, DX: -count, Uncut: true},
			{Parts: ".drum-lines", How: Rolls, Turn: d.turn(), Y: drumMiddle,
				Rolled: &Rolled{First: first, Numbers: numbers, Lines: d.n, Up: d.up, Tilt: d.side * d.tilt,
					Squeeze: d.squeeze, Middle: d.side * d.up * float64(
						d.in.Spec().ThimbleVernier.ThimbleDivisions) / 2,
					R: sleeveR, RimR: drumR, Bevel: bevel}},
		},
		Grips: []Grip{ // the sleeve, and the drum, which a thumb rolls
			{Per: math.Abs(count)},
			{From: d.edge, Up: true, Per: sleeveR * 2 * math.Pi / float64(d.n) * d.squeeze * d.turn() * d.up},
		},
	}
}

func (d *drum) label() text.Text {
	s := d.in.Spec()
	if d.in.HasFiner() {
		return text.New("figure.screw-vernier", "unit", s.Unit, "lines", s.Fine.Divisions, "vernier",
			s.ThimbleVernier.Divisions, "spans", s.ThimbleVernier.ThimbleDivisions)
	}
	return text.New("figure.screw", "unit", s.Unit, "lines", s.Fine.Divisions)
}

// sleeveMarks draws the marks along the index line, and half marks on its other side. With a vernier the half marks
// stand on that side, short of its first line.
func (d *drum) sleeveMarks(y float64, loose bool) Group {
	m := d.in.Spec().Main
	g := Group{Class: "sleeve-marks", Paint: Paint{Stroke: ink, Width: 1.25}}
	numerals := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	away := -1.0 // up
	if d.in.HasFiner() {
		away = d.side
	}
	low, high := d.marks()
	if loose { // those under the drum and beyond the rim too
		reach := int(d.width / d.div)
		low, high = max(low-reach, min(0, markIndex(m.From.Quo(m.Division).Neg().Floor().Neg()))), min(high+reach,
			markIndex(m.To.Quo(m.Division).Floor()))
	}
	long, middle, short, half, gap := 32.0, 27.0, 22.0, 20.0, 10.0
	if d.in.HasFiner() {
		long, middle, short, half, gap = 24, 19, 15, math.Min(11, 0.7*math.Abs(d.finerY(1)-d.finerY(0))), 6
	}
	every := m.NumberEvery * stride(float64(m.NumberEvery)*d.div, 17, widest(m, low, high))
	for i := low; i <= high; i++ {
		x, l, side := d.markX(m.Division.MulInt(i)), short, away
		switch {
		case m.HalfMarks && i%2 != 0:
			l, side = half, -away
		case i%m.NumberEvery == 0:
			l = long
		case rank(i, m.NumberEvery) == 1:
			l = middle
		}
		g.Items = append(g.Items, Line{Class: "main-mark", X1: x, Y1: y, X2: x, Y2: y + side*l})
		if i%every == 0 && (x > 8 || loose) && (i >= 0 || m.From.Sign() < 0) {
			ty := y + away*(long+gap)
			if away > 0 {
				ty += 12
			}
			numerals.Items = append(numerals.Items, Text{X: x, Y: ty, Size: 17, Anchor: "middle",
				S: exercise.Show(m.NumberStep.MulInt(i / m.NumberEvery).String())})
		}
	}
	if !loose {
		numerals.Items = uncut(numerals.Items, 0, d.width)
	}
	g.Items = append(g.Items, numerals)
	return g
}

// finerLines draws the vernier on the sleeve: line 0 is the index line's own height.
func (d *drum) finerLines() Group {
	v := d.in.Spec().ThimbleVernier
	g := Group{Paint: Paint{Stroke: ink, Width: 1.25}}
	numerals := Group{Class: "fine-numbers", Paint: Paint{Fill: ink, Stroke: "none"}}
	written := math.Inf(1)
	for k := 0; k <= v.Divisions; k++ {
		y := d.finerY(k)
		l := 40.0
		if k == 0 || k == v.Divisions || 2*k == v.Divisions {
			l = 54
		}
		g.Items = append(g.Items, Line{Class: "finer-mark", X1: d.edge - l, Y1: y, X2: d.edge, Y2: y})
		if k > 0 && math.Abs(y-written) > 12 {
			written = y
			numerals.Items = append(numerals.Items, Text{X: d.edge - l - 9, Y: y + 4.5, Size: 13, Anchor: "middle",
				S: strconv.Itoa(k % v.Divisions)})
		}
	}
	g.Items = append(g.Items, numerals)
	return g
}

// finerY is the height of line k of the vernier at the drum's edge.
func (d *drum) finerY(k int) float64 {
	v := d.in.Spec().ThimbleVernier
	lines := float64(k) * float64(v.ThimbleDivisions) / float64(v.Divisions)
	return level(d.angle(d.side*d.up*lines), sleeveR)
}

// order tells how many lines above the index the first of the drum's lines stands, as they are drawn when
// none is left out, and at which of them, in that order, numerals stand.
func (d *drum) order() (first float64, numbers []int) {
	from := d.lowest()
	for i := range d.n {
		if d.numbered((from + i) % d.n) {
			numbers = append(numbers, i)
		}
	}
	return d.wrapped(float64(from)), numbers
}

// lowest is the line that is drawn first: the one furthest round below what is looked at.
func (d *drum) lowest() int {
	best := 0
	for j := range d.n {
		if d.wrapped(float64(j)) < d.wrapped(float64(best)) {
			best = j
		}
	}
	return best
}

// numbered reports whether a numeral stands at line j. A whole turn may not be a whole number of numbers:
// the last one keeps clear of 0.
func (d *drum) numbered(j int) bool {
	f := d.in.Spec().Fine
	spacing := math.Abs(level(d.angle(1), sleeveR) - level(d.angle(0), sleeveR))
	every := f.NumberEvery
	for _, s := range []int{1, 2, 4, 5, 10, 20} {
		if every = f.NumberEvery * s; spacing*float64(every) > 19 {
			break
		}
	}
	return j%every == 0 && (j == 0 || d.n-j >= every*2/3)
}

// drumLines draws the lines round the drum that are in sight, leaning along the bevel. Where the drum can
// be moved they are drawn from the lowest up, so that their order says nothing of their numbers.
func (d *drum) drumLines(loose bool) Group {
	f := d.in.Spec().Fine
	spacing := math.Abs(level(d.angle(1), sleeveR) - level(d.angle(0), sleeveR))
	g := Group{Class: "drum-lines", Paint: Paint{Stroke: ink, Width: math.Max(0.5, math.Min(1.25, 0.13*spacing))}}
	numerals := Group{Class: "drum-numbers", Paint: Paint{Fill: ink, Stroke: "none"}}
	from := 0
	if loose {
		from = d.lowest()
	}
	for i := range d.n {
		j := (from + i) % d.n
		off := d.wrapped(float64(j))
		a := d.angle(off)
		if math.Abs(a) > 1.3 && !loose {
			continue
		}
		l := 30.0
		switch rank(j, f.NumberEvery) {
		case 2:
			l = 46
		case 1:
			l = 36
		}
		y0, y1 := level(a, sleeveR), level(a, drumR)
		line := Line{Class: "fine-mark", X1: d.edge, Y1: y0, X2: d.edge + l, Y2: y0 + (y1-y0)*l/bevel}
		if math.Abs(a) > 1 {
			line.Stroke = "#6B767B"
		}
		g.Items = append(g.Items, line)
		if d.numbered(j) && (math.Abs(a) < 1.22 || loose) {
			size := 17 * math.Max(0.62, math.Cos(a))
			numerals.Items = append(numerals.Items, Text{X: d.edge + 66, Y: y0 + (y1-y0)*0.78 + size*0.35, Size: size,
				Anchor: "middle", S: strconv.Itoa(j / f.NumberEvery * f.NumberStep)})
		}
	}
	g.Items = append(g.Items, numerals)
	return g
}

// knurl draws the grip: two sets of lines that wind round the drum and cross, foreshortened as its own lines
// are, y = r·sin θ.
func (d *drum) knurl(x, end float64) Group {
	const apart, turn = 20.0, 0.3 // px between lines along the drum, and radians from point to point
	g := Group{Paint: Paint{Stroke: "#7C888E", Width: 0.7, Fill: "none"}}
	g.Items = append(g.Items, Line{X1: x, Y1: drumMiddle - drumR, X2: x, Y2: drumMiddle + drumR, Width: 1})
	path := make([]byte, 0, 4<<10)
	const rim = math.Pi / 2
	for _, way := range []float64{1, -1} {
		for start := x - 2*rim*drumR; start < end+2*rim*drumR; start += apart {
			// From where it comes into the grip to where it leaves it, or goes round the rim.
			from, to := (x-start)*way/drumR, (end+4-start)*way/drumR
			from, to = math.Max(-rim, math.Min(from, to)), math.Min(rim, math.Max(from, to))
			points := math.Ceil((to - from) / turn)
			move := byte('M')
			for i := 0.0; i <= points && points > 0; i++ {
				a := from + (to-from)*i/points
				path = strconv.AppendFloat(append(path, move), start+way*a*drumR, 'f', 1, 64)
				path = strconv.AppendFloat(append(path, ' '), drumMiddle-drumR*math.Sin(a), 'f', 1, 64)
				move = 'L'
			}
		}
	}
	g.Items = append(g.Items, Path{D: string(path)})
	return g
}

// flags points at the mark that counts and at the line at the index.
func (d *drum) flags(o Options) []Item {
	f := o.Flags
	var items []Item
	y := d.index()
	if f.TakenMark != nil {
		if x := d.markX(*f.TakenMark); x > 0 && x < d.width {
			items = append(items, ring("taken", x, y, 18, 58, Madder, "4 3"))
			items = append(items, o.takenTag(x, y+44)...)
		}
	}
	if f.TakenLine != nil {
		if a := d.angle(d.wrapped(float64(*f.TakenLine))); math.Abs(a) < 1.3 {
			items = append(items, ring("taken", d.edge+22, level(a, sleeveR)+(level(a, drumR)-level(a, sleeveR))*0.25,
				56, 15, Madder, "4 3"))
			items = append(items, o.takenTag(d.edge+bevel+38, level(a, drumR*0.95))...)
		}
	}
	if !f.MarkText.IsZero() {
		x := d.markX(f.Mark)
		items = append(items, ring("counted", x, y, 16, 56, Brass, ""))
		items = append(items, o.pin(d.width, x, y-30, drumMiddle-sleeveR-14, -1, f.MarkText, Brass)...)
	}
	a := d.angle(d.wrapped(float64(f.Line)))
	if !f.LineText.IsZero() && math.Abs(a) < 1.3 {
		items = append(items, o.pinAside(d.edge+2, level(a, sleeveR), d.edge+bevel+14, f.LineText, Verdigris)...)
	}
	if f.FinerLine != nil && d.in.HasFiner() {
		items = append(items, ring("counted", d.edge-30, d.finerY(*f.FinerLine), 92, 13, Verdigris, ""))
	}
	if f.TakenFiner != nil && d.in.HasFiner() {
		items = append(items, ring("taken", d.edge-30, d.finerY(*f.TakenFiner), 92, 13, Madder, "4 3"))
	}
	return items
}

func (d *drum) Strengths() [3]int { return [3]int{2, 3, max(5, int(math.Ceil(4.2/d.shift())))} }

// shift returns the distance that one least count moves a line at the index, in px.
func (d *drum) shift() float64 {
	return math.Abs(level(d.angle(1), sleeveR)-level(d.angle(0), sleeveR)) / float64(d.in.FinerLines())
}

func (d *drum) LensOn(zoom, line int) Lens {
	a := d.angle(0)
	if line >= 0 {
		a = math.Max(-1.2, math.Min(1.2, d.angle(d.wrapped(float64(line)))))
	}
	return Lens{Zoom: zoom, X: d.lensX(), Y: level(a, sleeveR)}
}

func (d *drum) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

// lensX returns where the lens travels up and down: beside the drum's edge, so that the numbers of the drum and
// of a vernier are in sight too.
func (d *drum) lensX() float64 {
	if d.in.HasFiner() {
		return d.edge + 10
	}
	return d.edge + 24
}

func (d *drum) Track() Track { return Track{Kind: "y", X: d.lensX()} }

// Band returns the levels of the lines next to the index.
func (d *drum) Band() (top, bottom float64) { return drumMiddle - 78, drumMiddle + 78 }
