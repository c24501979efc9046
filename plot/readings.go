package plot

import (
	"fmt"
	"math"
	"strconv"

	"cavix/core/text"
	"cavix/figure"
)

// Group are the readings of one place, part or tooth.
type Group struct {
	Name   string
	Values []float64
	Out    bool // it stands out, or lies outside the limits
}

// Limits are the limits that readings are held to, as numbers and as they are written; nil where there are none.
type Limits struct {
	Lower, Upper         *float64
	LowerText, UpperText string
}

// Size of plots of readings, in px of the drawing.
const (
	readWide, readHigh = 690.0, 240.0
	readLeft           = 64.0
	readRight          = 92.0 // room for the names of limits
	readTop            = 14.0
	readFoot           = 26.0
)

// scale is a linear scale up the side of a plot.
type scale struct {
	low, high   float64
	top, bottom float64
	step        float64
	places      int
}

// newScale finds round steps for what is to be shown, at least so far apart as a count of the instrument.
func newScale(values []float64, l Limits, grain, top, bottom float64) scale {
	low, high := math.Inf(1), math.Inf(-1)
	take := func(x float64) { low, high = math.Min(low, x), math.Max(high, x) }
	for _, x := range values {
		take(x)
	}
	for _, x := range []*float64{l.Lower, l.Upper} {
		if x != nil {
			take(*x)
		}
	}
	if low > high {
		low, high = 0, 1
	}
	grain = math.Max(grain, 1e-9)
	if high-low < 4*grain {
		low, high = low-2*grain, high+2*grain
	}
	step := math.Pow10(int(math.Floor(math.Log10((high - low) / 4))))
	for _, by := range []float64{1, 2, 5, 10} {
		if (high-low)/(step*by) <= 8 {
			step *= by
			break
		}
	}
	s := scale{low: math.Floor(low/step-0.25) * step, high: math.Ceil(high/step+0.25) * step, top: top, bottom: bottom,
		step: step}
	if low >= 0 && s.low < 0 { // ranges, which are never less than 0
		s.low = 0
	}
	s.places = max(0, int(math.Ceil(-math.Log10(step)-1e-9)))
	return s
}

// y is the height of a value.
func (s scale) y(x float64) float64 {
	return s.bottom - (x-s.low)/(s.high-s.low)*(s.bottom-s.top)
}

// draw draws the scale with its numerals at x.
func (s scale) draw(say *text.Printer, x float64) []figure.Item {
	items := []figure.Item{figure.Line{Class: "axis", X1: x, Y1: s.top, X2: x, Y2: s.bottom, Stroke: ink, Width: 1.2}}
	for n := 0; float64(n) <= (s.high-s.low)/s.step+0.5; n++ {
		v := s.low + float64(n)*s.step
		y := s.y(v)
		items = append(items, figure.Line{Class: "tick", X1: x - 8, Y1: y, X2: x, Y2: y, Stroke: steel, Width: 1},
			figure.Text{Class: "number", X: x - 11, Y: y + 4, Size: 12, Anchor: "end", Fill: ink,
				S: say.Math(text.Math(strconv.FormatFloat(v, 'f', s.places, 64)))})
	}
	return items
}

// band draws the limits across a plot.
func (s scale) band(say *text.Printer, l Limits, left, right float64) []figure.Item {
	top, bottom := s.top, s.bottom
	if l.Upper != nil {
		top = s.y(*l.Upper)
	}
	if l.Lower != nil {
		bottom = s.y(*l.Lower)
	}
	var items []figure.Item
	if l.Upper != nil || l.Lower != nil {
		items = append(items, figure.Rect{Class: "band", X: left, Y: top, W: right - left, H: math.Max(0, bottom-top),
			Paint: figure.Paint{Fill: verdigris, Opacity: 0.09}})
	}
	limit := func(x *float64, name, value string) {
		if x == nil {
			return
		}
		y := s.y(*x)
		for at := left; at < right; at += 11 {
			items = append(items, figure.Line{Class: "limit", X1: at, Y1: y, X2: math.Min(at+7, right), Y2: y,
				Stroke: verdigris, Width: 1.4})
		}
		items = append(items, figure.Text{Class: "limit", X: right + 6, Y: y + 4, Size: 12, Anchor: "start",
			Fill: verdigris, S: say.Say(name, "value", text.Math(value))})
	}
	limit(l.Upper, "plot.upper", l.UpperText)
	limit(l.Lower, "plot.lower", l.LowerText)
	return items
}

// outside reports whether a value is not within limits, which are themselves within.
func (l Limits) outside(x float64) bool {
	const near = 1e-9
	return l.Lower != nil && x < *l.Lower-near || l.Upper != nil && x > *l.Upper+near
}

// mark is a reading: a circle, or a triangle where it is out.
func mark(x, y, r float64, out bool) figure.Item {
	if out {
		return figure.Path{Class: "reading out", D: fmt.Sprintf("M%.2f %.2fL%.2f %.2fL%.2f %.2fZ", x, y-1.3*r, x-1.2*r,
			y+r, x+1.2*r, y+r), Paint: figure.Paint{Fill: madder}}
	}
	return figure.Circle{Class: "reading", X: x, Y: y, R: r, Paint: figure.Paint{Fill: "#FFFEFA", Stroke: ink,
		Width: 1.7}}
}

// named is the name of a group below a plot, cut to the room that it has; nothing where there is none.
func named(x, room float64, name string) figure.Item {
	const letter = 6.4
	if r := []rune(name); float64(len(r))*letter > room {
		n := int(room/letter) - 1
		if name = ""; n > 1 {
			name = string(r[:n]) + "…"
		}
	}
	return figure.Text{Class: "name", X: x, Y: readHigh - 7, Size: 12, Anchor: "middle", Fill: ink, S: name}
}

// Dots draws readings group by group, each with its mean as a line, on one scale with the limits. Grain is the least
// count.
func Dots(say *text.Printer, groups []Group, l Limits, grain float64) *figure.Scene {
	var all []float64
	for _, g := range groups {
		all = append(all, g.Values...)
	}
	right := readWide - readRight
	sc := newScale(all, l, grain, readTop, readHigh-readFoot)
	s := &figure.Scene{Width: readWide, Height: readHigh, Label: say.Say("plot.dots", "n", len(groups))}
	s.Items = append(s.Items, sc.band(say, l, readLeft, right)...)
	s.Items = append(s.Items, sc.draw(say, readLeft)...)
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: readLeft, Y1: sc.bottom, X2: right, Y2: sc.bottom,
		Stroke: ink, Width: 1.2})
	step := (right - readLeft) / float64(max(len(groups), 1))
	out := 0
	for i, g := range groups {
		x := readLeft + step*(float64(i)+0.5)
		s.Items = append(s.Items, named(x, step, g.Name))
		if len(g.Values) == 0 {
			continue
		}
		sum, colour := 0.0, ink
		if g.Out {
			colour, out = madder, out+1
		}
		for _, v := range g.Values {
			sum += v
		}
		half := math.Min(step*0.42, 46)
		mean := sc.y(sum / float64(len(g.Values)))
		class := "mean"
		if g.Out {
			class = "mean out"
		}
		s.Items = append(s.Items, figure.Line{Class: class, X1: x - half, Y1: mean, X2: x + half, Y2: mean,
			Stroke: colour, Width: 1.8})
		apart := math.Min(18, 2*half/float64(len(g.Values)+1))
		for k, v := range g.Values {
			at := x + apart*(float64(k)-float64(len(g.Values)-1)/2)
			s.Items = append(s.Items, mark(at, sc.y(v), math.Max(2.2, math.Min(5, apart*0.62)), g.Out || l.outside(v)))
		}
	}
	s.Label += " " + say.Say("plot.stand-out", "n", out)
	return s
}

// Sequence draws readings in the order in which they were taken.
func Sequence(say *text.Printer, values []float64, l Limits, grain float64) *figure.Scene {
	right := readWide - readRight
	sc := newScale(values, l, grain, readTop, readHigh-readFoot)
	s := &figure.Scene{Width: readWide, Height: readHigh, Label: say.Say("plot.sequence", "n", len(values))}
	s.Items = append(s.Items, sc.band(say, l, readLeft, right)...)
	s.Items = append(s.Items, sc.draw(say, readLeft)...)
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: readLeft, Y1: sc.bottom, X2: right, Y2: sc.bottom,
		Stroke: ink, Width: 1.2})
	step := (right - readLeft) / float64(max(len(values), 1))
	x := func(i int) float64 { return readLeft + step*(float64(i)+0.5) }
	for i, v := range values {
		if i > 0 {
			s.Items = append(s.Items, figure.Line{Class: "run", X1: x(i - 1), Y1: sc.y(values[i-1]), X2: x(i),
				Y2: sc.y(v), Stroke: steel, Width: 1})
		}
	}
	for i, v := range values {
		s.Items = append(s.Items, mark(x(i), sc.y(v), math.Max(2.2, math.Min(5, step*0.5)), l.outside(v)))
	}
	return s
}

// Deviations draws what each part lies off the nominal size, as bars from it.
func Deviations(say *text.Printer, parts []Group, nominal float64, l Limits, grain float64) *figure.Scene {
	var all []float64
	means := make([]float64, len(parts))
	for i, p := range parts {
		for _, v := range p.Values {
			means[i] += v / float64(len(p.Values))
		}
		if len(p.Values) > 0 {
			all = append(all, means[i]-nominal)
		}
	}
	from := func(x *float64) *float64 {
		if x == nil {
			return nil
		}
		d := *x - nominal
		return &d
	}
	off := Limits{Lower: from(l.Lower), Upper: from(l.Upper)}
	right := readWide - readRight
	sc := newScale(append(all, 0), off, grain, readTop, readHigh-readFoot)
	off.LowerText, off.UpperText = signed(off.Lower, sc.places+1), signed(off.Upper, sc.places+1)
	s := &figure.Scene{Width: readWide, Height: readHigh, Label: say.Say("plot.deviations", "n", len(parts))}
	s.Items = append(s.Items, sc.band(say, off, readLeft, right)...)
	s.Items = append(s.Items, sc.draw(say, readLeft)...)
	zero := sc.y(0)
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: readLeft, Y1: zero, X2: right, Y2: zero, Stroke: ink,
		Width: 1.2}, figure.Text{Class: "limit", X: right + 6, Y: zero + 4, Size: 12, Anchor: "start", Fill: ink,
		S: say.Say("plot.nominal")})
	step := (right - readLeft) / float64(max(len(parts), 1))
	for i, p := range parts {
		x := readLeft + step*(float64(i)+0.5)
		s.Items = append(s.Items, named(x, step, p.Name))
		if len(p.Values) == 0 {
			continue
		}
		d := means[i] - nominal
		class, colour := "bar", ink
		if p.Out || off.outside(d) {
			class, colour = "bar out", madder
		}
		y := sc.y(d)
		w := math.Min(step*0.4, 26)
		s.Items = append(s.Items, figure.Rect{Class: class, X: x - w/2, Y: math.Min(y, zero), W: w,
			H: math.Max(1, math.Abs(y-zero)), Paint: figure.Paint{Fill: colour}})
	}
	return s
}

func signed(x *float64, places int) string {
	if x == nil {
		return ""
	}
	written := strconv.FormatFloat(*x, 'f', min(places, 4), 64)
	if *x > 0 {
		return "+" + written
	}
	return written
}

// Histogram draws how often readings came, in classes of a least count or of several.
func Histogram(say *text.Printer, values []float64, l Limits, grain float64) *figure.Scene {
	s := &figure.Scene{Width: readWide, Height: readHigh, Label: say.Say("plot.histogram", "n", len(values))}
	if len(values) == 0 || grain <= 0 {
		return s
	}
	low, high := values[0], values[0]
	for _, v := range values {
		low, high = math.Min(low, v), math.Max(high, v)
	}
	wide := grain * math.Max(1, math.Ceil((high-low)/grain/16))
	first := math.Round(low / wide)
	counts := make([]int, int(math.Round(high/wide)-first)+1)
	most := 0
	for _, v := range values {
		i := min(max(0, int(math.Round(v/wide)-first)), len(counts)-1)
		counts[i]++
		most = max(most, counts[i])
	}
	right, base := readWide-readRight, readHigh-readFoot
	step := (right - readLeft) / float64(len(counts))
	places := max(0, int(math.Ceil(-math.Log10(wide)-1e-9)))
	for i, n := range counts {
		v := (first + float64(i)) * wide
		x, h := readLeft+step*float64(i), (base-readTop-16)*float64(n)/float64(most)
		class, colour := "bar", steel
		if l.outside(v) {
			class, colour = "bar out", madder
		}
		s.Items = append(s.Items, figure.Rect{Class: class, X: x + 1, Y: base - h, W: step - 2, H: h,
			Paint: figure.Paint{Fill: colour}})
		if n > 0 {
			s.Items = append(s.Items, figure.Text{Class: "number", X: x + step/2, Y: base - h - 4, Size: 11.5,
				Anchor: "middle", Fill: ink, S: strconv.Itoa(n)})
		}
		if every := max(1, int(math.Ceil(60/step))); i%every == 0 {
			s.Items = append(s.Items, figure.Text{Class: "name", X: x + step/2, Y: readHigh - 7, Size: 12,
				Anchor: "middle", Fill: ink, S: say.Math(text.Math(strconv.FormatFloat(v, 'f', places, 64)))})
		}
	}
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: readLeft, Y1: base, X2: right, Y2: base, Stroke: ink,
		Width: 1.2})
	return s
}

// Series is one reader's values, a value a part; NaN where there is none.
type Series struct {
	Name   string
	Values []float64
}

// Lines draws the means of parts by reader, as lines: lines that cross show that readers differ from part to part.
// Beyond eight readers their names are left out.
func Lines(say *text.Printer, parts []string, readers []Series, grain float64, what string) *figure.Scene {
	var all []float64
	for _, r := range readers {
		for _, v := range r.Values {
			if !math.IsNaN(v) {
				all = append(all, v)
			}
		}
	}
	right := readWide - readRight
	sc := newScale(all, Limits{}, grain, readTop, readHigh-readFoot)
	s := &figure.Scene{Width: readWide, Height: readHigh, Label: say.Say("plot.lines", "what", what, "parts",
		len(parts), "readers", len(readers))}
	s.Items = append(s.Items, sc.draw(say, readLeft)...)
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: readLeft, Y1: sc.bottom, X2: right, Y2: sc.bottom,
		Stroke: ink, Width: 1.2})
	step := (right - readLeft) / float64(max(len(parts), 1))
	x := func(i int) float64 { return readLeft + step*(float64(i)+0.5) }
	for i, name := range parts {
		s.Items = append(s.Items, named(x(i), step, name))
	}
	colours := []string{ink, verdigris, "#9A6A1F", madder, steel}
	taken := map[int]bool{}
	for n, r := range readers {
		colour, class := colours[n%len(colours)], fmt.Sprintf("series s%d", n%len(colours))
		last := -1
		for i, v := range r.Values {
			if math.IsNaN(v) {
				continue
			}
			if last >= 0 {
				s.Items = append(s.Items, figure.Line{Class: class, X1: x(last), Y1: sc.y(r.Values[last]), X2: x(i),
					Y2: sc.y(v), Stroke: colour, Width: 1.6})
			}
			s.Items = append(s.Items, figure.Circle{Class: class, X: x(i), Y: sc.y(v), R: 3.2,
				Paint: figure.Paint{Fill: colour}})
			last = i
		}
		if last >= 0 && len(readers) <= 8 {
			row := int(math.Round(sc.y(r.Values[last]) / 14))
			for taken[row] {
				row++
			}
			taken[row] = true
			s.Items = append(s.Items, figure.Text{Class: class, X: right + 4, Y: float64(row)*14 + 4, Size: 12,
				Anchor: "start", Fill: colour, S: r.Name})
		}
	}
	return s
}

// Strip draws sizes along a line: too small, good and too large, the two gauges where they are made, and each part
// where it falls.
func Strip(say *text.Printer, parts []Group, l Limits, hole bool) *figure.Scene {
	const width, height, left, right, line = 690.0, 150.0, 30.0, 660.0, 84.0
	s := &figure.Scene{Width: width, Height: height, Label: say.Say("plot.strip", "n", len(parts))}
	if l.Lower == nil || l.Upper == nil {
		return s
	}
	low, high := *l.Lower, *l.Upper
	wide := math.Max(high-low, 1e-6)
	first, last := low-wide, high+wide
	for _, p := range parts {
		for _, v := range p.Values {
			first, last = math.Min(first, v-wide/4), math.Max(last, v+wide/4)
		}
	}
	x := func(v float64) float64 { return left + (v-first)/(last-first)*(right-left) }
	zone := func(from, to float64, class, colour string, opacity float64, name string) {
		s.Items = append(s.Items, figure.Rect{Class: class, X: x(from), Y: line - 26, W: x(to) - x(from), H: 26,
			Paint: figure.Paint{Fill: colour, Opacity: opacity}}, figure.Text{Class: "name", X: (x(from) + x(to)) / 2,
			Y: line - 9, Size: 12, Anchor: "middle", Fill: ink, S: name})
	}
	zone(first, low, "zone out", madder, 0.1, say.Say("plot.too-small"))
	zone(low, high, "zone", verdigris, 0.16, say.Say("plot.good"))
	zone(high, last, "zone out", madder, 0.1, say.Say("plot.too-large"))
	goes, not := l.UpperText, l.LowerText
	at, other := high, low
	if hole {
		goes, not, at, other = l.LowerText, l.UpperText, low, high
	}
	gauge := func(v float64, made string) {
		anchor, dx := "start", 4.0
		if v == low {
			anchor, dx = "end", -4
		}
		s.Items = append(s.Items, figure.Line{Class: "axis", X1: x(v), Y1: 22, X2: x(v), Y2: line + 8, Stroke: ink,
			Width: 2}, figure.Text{Class: "made", X: x(v) + dx, Y: 32, Size: 13, Anchor: anchor, Fill: ink, S: made})
	}
	gauge(at, say.Say("plot.go", "size", text.Math(goes)))
	gauge(other, say.Say("plot.no-go", "size", text.Math(not)))
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: left, Y1: line, X2: right, Y2: line, Stroke: ink,
		Width: 1.2})
	for i, p := range parts {
		for _, v := range p.Values {
			s.Items = append(s.Items, mark(x(v), line+14, 5, l.outside(v)))
			s.Items = append(s.Items, figure.Text{Class: "name", X: x(v), Y: line + 36 + 13*float64(i%3), Size: 12,
				Anchor: "middle", Fill: ink, S: p.Name})
		}
	}
	return s
}
