package figure

import (
	"math"
	"strconv"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// pair is a gear-tooth vernier, laid out: the level scale that reads, and at right angles to it the
// upright one that is set.
type pair struct {
	*straight
	upright *instrument.Instrument
	set     length.Number // what the upright scale indicates
	div     float64       // px of one upright main division
}

// The upright scale's place on the figure, in px.
const (
	uprightRoom  = 236.0
	uprightEdge  = 118.0
	uprightZero  = 268.0 // y of the upright plate's 0
	uprightRange = 196.0 // px that its plate may take
)

// SetTo returns where an upright scale stands when nobody has set it: some way up, a line in the middle.
func SetTo(in *instrument.Instrument) length.Number {
	s := in.Spec()
	mark := s.Main.To.Sub(s.Main.From).Mul(length.Frac(1, 4)).Quo(s.Main.Division).Floor()
	return s.Base.Add(s.Main.From).Add(s.Main.Division.Mul(mark)).Add(in.LeastCount().MulInt(s.Fine.Divisions * 2 / 5))
}

func newPair(in *instrument.Instrument, y length.Number, width float64) *pair {
	upright, _ := in.Second()
	p := &pair{straight: newStraight(in, y, width, uprightRoom), upright: upright, set: SetTo(upright)}
	p.tooth = true
	p.div = math.Floor(math.Min(24, uprightRange/float64(upright.Spec().Fine.MainDivisions))*1000) / 1000
	return p
}

// Settable is a drawing with a scale that is set by hand, beside the one that reads.
type Settable interface {
	// Set sets the upright scale; it fails with the core's error off its range.
	Set(y length.Number) error
}

func (p *pair) Set(y length.Number) error {
	if _, err := p.upright.Read(y); err != nil {
		return err
	}
	p.set = y
	return nil
}

// Scene draws both scales.
func (p *pair) Scene(o Options) *Scene {
	level := p.straight.Scene(o)
	sc := &Scene{Width: p.width, Height: level.Height + 56,
		Label: o.say(text.New("figure.gear-tooth")) + strings.TrimPrefix(level.Label, o.say(label(p.in)))}
	sc.add(
		Clip{Name: "level", X: uprightRoom - 16, Y: -10, W: p.width + o.Bleed, H: level.Height + 80},
		Group{Clip: "level", Items: level.Items},
	)
	sc.add(p.tongue(level.Height)...)
	return sc
}

// tongue draws the upright beam, its plate, and the tongue that rests on the tooth.
func (p *pair) tongue(height float64) []Item {
	s := p.upright.Spec()
	position := p.set.Sub(s.Base).Quo(s.Main.Division)
	markY := func(i int) float64 { return uprightZero + position.Sub(length.Int(int64(i))).Float()*p.div }
	bottom := height + 46
	x := uprightEdge
	marks, lines := Group{Paint: Paint{Stroke: ink, Width: 1.15}}, Group{Paint: Paint{Stroke: ink, Width: 1.15}}
	numbers := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	at := markIndex(position.Floor())
	from, to := markIndex(s.Main.From.Quo(s.Main.Division).Neg().Floor().Neg()),
		markIndex(s.Main.To.Quo(s.Main.Division).Floor())
	low, high := max(from, at-int((bottom-uprightZero)/p.div)),
		min(to+s.Fine.MainDivisions+1, at+int(uprightZero/p.div)+1)
	lengths := markLengths{18, 25, 32}
	every := s.Main.NumberEvery * stride(float64(s.Main.NumberEvery)*p.div, 15, 1)
	for i := low; i <= high; i++ {
		y := markY(i)
		if y > bottom-4 {
			continue // past the beam's lower end
		}
		marks.Items = append(marks.Items, Line{Class: "second-main", X1: x - lengths[rank(i, s.Main.NumberEvery)],
			Y1: y, X2: x, Y2: y})
		if i%every == 0 && i >= 0 && y > 14 && y < bottom-8 {
			numbers.Items = append(numbers.Items, Text{X: x - 46, Y: y + 5, Size: 15, Anchor: "middle",
				S: s.Main.NumberStep.MulInt(i / s.Main.NumberEvery).String()})
		}
	}
	n := s.Fine.Divisions
	line := float64(s.Fine.MainDivisions) / float64(n) * p.div
	if p.upright.Form().Retrograde {
		line = -line
	}
	top := math.Min(uprightZero, uprightZero-float64(n)*line) - 1.5*math.Abs(line)
	low2 := math.Max(uprightZero, uprightZero-float64(n)*line) + 1.5*math.Abs(line)
	plateNumbers := Group{Paint: Paint{Fill: ink, Stroke: "none"}}
	step := s.Fine.NumberEvery * stride(float64(s.Fine.NumberEvery)*math.Abs(line), 13, 2)
	for k := 0; k <= n; k++ {
		y := uprightZero - float64(k)*line
		lines.Items = append(lines.Items, Line{Class: "second-fine", X1: x, Y1: y, X2: x +
			lengths[rank(k, s.Fine.NumberEvery)] - 4, Y2: y})
		if k%step == 0 {
			plateNumbers.Items = append(plateNumbers.Items, Text{X: x + 42, Y: y + 4.5, Size: 12.5, Anchor: "middle",
				S: strconv.Itoa(k / s.Fine.NumberEvery * s.Fine.NumberStep)})
		}
	}
	lines.Items = append(lines.Items, plateNumbers)
	marks.Items = append(marks.Items, numbers)
	return []Item{
		Rect{Class: "beam", X: x - 78, Y: -10, W: 78, H: bottom + 10,
			Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}},
		Rect{X: x - 76, Y: -10, W: 75, H: bottom + 8, Paint: Paint{Fill: "#E4E9EA"}},
		Rect{X: x + 50, Y: top - 14, W: 30, H: low2 - top + 28, Radius: 5,
			Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "plate", X: x, Y: top, W: 56, H: low2 - top,
			Paint: Paint{Fill: "#:plate", Stroke: outline, Width: 0.8}},
		Path{Class: "tongue", D: pathf("M%.1f %.1f H%.1f V%.1f H%.1f Z", x+56, low2+2, x+80, height+34, x+62),
			Paint: Paint{Fill: "#:jaw", Stroke: outline, Width: 1}},
		marks, lines,
		Text{X: x - 40, Y: bottom - 10, Size: 13, Anchor: "middle", Fill: "#56636B", S: string(s.Unit)},
	}
}

// Strip draws what the lens shows of the level scale.
func (p *pair) Strip(z Lens, o Options) *Scene { return p.straight.Strip(z, o) }

// Whole draws both beams small, on a tooth.
func (p *pair) Whole(o Options) *Scene {
	sc := wholeScene(o.say(text.New("figure.whole-gear-tooth")))
	size := 20 + 40*share(p.in, p.y.Sub(p.in.Spec().Base))
	sc.add(
		Path{D: pathf("M30 86 Q34 60 44 56 H%.1f Q%.1f 60 %.1f 86 Z", 44+size-20, 44+size-10, 50+size-16),
			Paint: wholeWork},
		Rect{X: 26, Y: 2, W: 16, H: 74, Paint: wholeMetal}, Rect{X: 42, Y: 34, W: 240, H: 13, Paint: wholeMetal},
		Rect{X: 44, Y: 12, W: 14, H: 30, Paint: wholeMoving},
		Path{D: pathf("M%.1f 30 H%.1f V52 H%.1f V76 H%.1f Z", 44+size, 44+size+64, 44+size+8, 44+size),
			Paint: wholeMoving},
		window(24, 6, 180, 46))
	return sc
}

// Band returns all of the figure: its upright scale is as high as that.
func (p *pair) Band() (top, bottom float64) { return 0, p.Scene(Options{}).Height }
