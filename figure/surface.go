package figure

import (
	"math"
	"strconv"
	"strings"
)

// point is a place on a surface, in px of the drawing.
type point struct{ x, y float64 }

// surface is painted on in place of SVG: a page of a PDF, or pixels.
type surface interface {
	// fill paints the inside of an outline with a colour, or with a gradient over the outline's box.
	fill(outline []point, colour string, g *Gradient, opacity float64)
	stroke(line []point, width float64, colour string, dash []float64)
	text(x, y, size float64, anchor, colour, s string)
	// clip keeps what is painted until unclip inside a rectangle.
	clip(x, y, w, h float64)
	unclip()
}

// painter walks through a scene's items and paints them.
type painter struct {
	on        surface
	gradients map[string]*Gradient
	clips     map[string]Clip
}

// style is inherited from a group: where its items stand and how they are painted.
type style struct {
	dx, dy, scale float64
	Paint
}

// paint puts a scene on a surface.
func paint(sc *Scene, on surface) {
	p := &painter{on: on, gradients: map[string]*Gradient{}, clips: map[string]Clip{}}
	p.items(sc.Items, style{scale: 1, Paint: Paint{Fill: "#000000"}})
}

// under is an item's own paint, or what is handed down where it has none.
func (s style) under(p Paint) Paint {
	if p.Fill == "" {
		p.Fill = s.Fill
	}
	if p.Stroke == "" {
		p.Stroke = s.Stroke
	}
	if p.Width == 0 {
		p.Width = s.Width
	}
	return p
}

func (s style) at(x, y float64) point { return point{s.dx + x*s.scale, s.dy + y*s.scale} }

func (p *painter) items(items []Item, s style) {
	for _, it := range items {
		switch it := it.(type) {
		case Gradient:
			p.gradients[it.Name] = &it
		case Clip:
			p.clips[it.Name] = it
		case Group:
			inner := style{dx: s.dx + it.DX*s.scale, dy: s.dy + it.DY*s.scale, scale: s.scale,
				Paint: s.under(it.Paint)}
			if it.Scale != 0 {
				inner.scale *= it.Scale
			}
			if c, ok := p.clips[it.Clip]; ok {
				at := inner.at(c.X, c.Y)
				p.on.clip(at.x, at.y, c.W*inner.scale, c.H*inner.scale)
				p.items(it.Items, inner)
				p.on.unclip()
			} else {
				p.items(it.Items, inner)
			}
		case Line:
			paint := s.under(Paint{Stroke: it.Stroke, Width: it.Width})
			p.on.stroke([]point{s.at(it.X1, it.Y1), s.at(it.X2, it.Y2)}, paint.Width, paint.Stroke, nil)
		case Rect:
			p.shape([][]point{rounded(it)}, true, s, it.Paint)
		case Circle:
			p.shape([][]point{arc(it.X, it.Y, it.R, 0, 2*math.Pi, 72)}, true, s, it.Paint)
		case Path:
			closed, parts := flatten(it.D)
			p.shape(parts, closed, s, it.Paint)
		case Text:
			colour := it.Fill
			if colour == "" {
				colour = s.Fill
			}
			at := s.at(it.X, it.Y)
			p.on.text(at.x, at.y, it.Size*s.scale, it.Anchor, colour, it.S)
		}
	}
}

// shape fills and outlines what is made of one or more parts.
func (p *painter) shape(parts [][]point, closed bool, s style, own Paint) {
	look := s.under(own)
	for _, part := range parts {
		line := make([]point, len(part))
		for i, at := range part {
			line[i] = s.at(at.x, at.y)
		}
		if name, ok := strings.CutPrefix(look.Fill, "#:"); ok {
			p.on.fill(line, "", p.gradients[name], 1)
		} else if look.Fill != "none" && closed {
			opacity := look.Opacity
			if opacity == 0 {
				opacity = 1
			}
			p.on.fill(line, look.Fill, nil, opacity)
		}
		if look.Stroke != "" && look.Stroke != "none" {
			if closed && len(line) > 0 {
				line = append(line, line[0])
			}
			p.on.stroke(line, look.Width, look.Stroke, dashes(look.Dash))
		}
	}
}

func dashes(s string) []float64 {
	var out []float64
	for f := range strings.FieldsSeq(s) {
		if n, err := strconv.ParseFloat(f, 64); err == nil {
			out = append(out, n)
		}
	}
	return out
}

// arc is a part of a circle as a line of n steps.
func arc(x, y, r, from, to float64, n int) []point {
	out := make([]point, n+1)
	for i := range out {
		a := from + (to-from)*float64(i)/float64(n)
		out[i] = point{x + r*math.Cos(a), y + r*math.Sin(a)}
	}
	return out
}

// rounded is the outline of a rectangle, with its corners.
func rounded(r Rect) []point {
	c := math.Min(r.Radius, math.Min(r.W, r.H)/2)
	if c <= 0 {
		return []point{{r.X, r.Y}, {r.X + r.W, r.Y}, {r.X + r.W, r.Y + r.H}, {r.X, r.Y + r.H}}
	}
	const right = math.Pi / 2
	var out []point
	for i, at := range []point{{r.X + c, r.Y + c}, {r.X + r.W - c, r.Y + c}, {r.X + r.W - c, r.Y + r.H - c},
		{r.X + c, r.Y + r.H - c}} {
		out = append(out, arc(at.x, at.y, c, math.Pi+float64(i)*right, math.Pi+float64(i+1)*right, 6)...)
	}
	return out
}

// flatten takes an outline in SVG path syntax apart into straight pieces: the absolute M, L, H, V, Q and Z
// that the figures use. It says whether the parts are closed.
func flatten(d string) (closed bool, parts [][]point) {
	var cmd byte
	var numbers []float64
	var line []point
	var at point
	end := func() {
		if len(line) > 1 {
			parts = append(parts, line)
		}
		line = nil
	}
	run := func() {
		for n := numbers; ; {
			switch {
			case cmd == 'M' && len(n) >= 2:
				end()
				at = point{n[0], n[1]}
				n, cmd = n[2:], 'L'
			case cmd == 'L' && len(n) >= 2:
				at, n = point{n[0], n[1]}, n[2:]
			case cmd == 'H' && len(n) >= 1:
				at.x, n = n[0], n[1:]
			case cmd == 'V' && len(n) >= 1:
				at.y, n = n[0], n[1:]
			case cmd == 'Q' && len(n) >= 4:
				from, c, to := at, point{n[0], n[1]}, point{n[2], n[3]}
				for i := 1; i < 8; i++ {
					t := float64(i) / 8
					u := 1 - t
					line = append(line, point{u*u*from.x + 2*u*t*c.x + t*t*to.x, u*u*from.y + 2*u*t*c.y + t*t*to.y})
				}
				at, n = to, n[4:]
			default:
				numbers = numbers[:0]
				return
			}
			line = append(line, at)
		}
	}
	for i := 0; i < len(d); {
		switch c := d[i]; {
		case strings.IndexByte("MLHVQ", c) >= 0:
			run()
			cmd, i = c, i+1
		case c == 'Z':
			run()
			closed, i = true, i+1
		case c == ' ' || c == ',':
			i++
		default:
			j := i + 1
			for j < len(d) && (d[j] >= '0' && d[j] <= '9' || d[j] == '.') {
				j++
			}
			n, err := strconv.ParseFloat(d[i:j], 64)
			if err != nil {
				return closed, parts
			}
			numbers, i = append(numbers, n), j
		}
	}
	run()
	end()
	return closed, parts
}

// rgb takes a colour written as #RRGGBB apart.
func rgb(colour string) (r, g, b uint8) {
	n, err := strconv.ParseUint(strings.TrimPrefix(colour, "#"), 16, 32)
	if err != nil {
		return 0, 0, 0
	}
	return uint8(n >> 16), uint8(n >> 8), uint8(n)
}

// box is the smallest upright rectangle round an outline.
func box(outline []point) (low, high point) {
	low, high = point{math.Inf(1), math.Inf(1)}, point{math.Inf(-1), math.Inf(-1)}
	for _, p := range outline {
		low = point{math.Min(low.x, p.x), math.Min(low.y, p.y)}
		high = point{math.Max(high.x, p.x), math.Max(high.y, p.y)}
	}
	return low, high
}
