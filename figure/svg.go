package figure

import (
	"bytes"
	"html"
	"math"
	"strconv"
	"strings"
)

// svgWriter appends markup. Names of gradients and clips get a prefix, since several drawings may
// stand in one page.
type svgWriter struct {
	b      []byte
	prefix string
	scaled bool // inside a group that is enlarged: lines keep their thickness all the same
}

// SVG writes the scene as one svg element. The prefix keeps its inner names apart from those of other
// drawings in the same page; attrs are put on the element as they are, and must be trusted.
func (s *Scene) SVG(prefix, attrs string) []byte {
	w := &svgWriter{b: make([]byte, 0, 24<<10), prefix: prefix}
	w.str(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0`)
	w.str(" ").num(s.Width).str(" ").num(s.Height)
	w.str(`" role="img" font-family="Archivo, system-ui, Names, sans-serif" font-stretch="semi-condensed" ` +
		`font-weight="600"`)
	if attrs != "" {
		w.str(" ").str(attrs)
	}
	w.text("aria-label", s.Label)
	w.str(">")
	for _, it := range s.Items {
		it.svg(w)
	}
	w.str("</svg>\n")
	return w.b
}

func (w *svgWriter) str(s string) *svgWriter { w.b = append(w.b, s...); return w }

// num writes a coordinate to a ten-thousandth of a pixel, without needless digits.
func (w *svgWriter) num(x float64) *svgWriter {
	w.b = appendTenThousandths(w.b, x)
	return w
}

// appendTenThousandths appends a number to four decimals, without needless zeros and without a minus before a zero.
func appendTenThousandths(b []byte, x float64) []byte {
	const places = 10_000
	n := int64(math.Round(x * places)) // a scene's coordinates are far from where this would not hold
	if n < 0 {
		b = append(b, '-')
		n = -n
	}
	b = strconv.AppendInt(b, n/places, 10)
	rest := n % places
	if rest == 0 {
		return b
	}
	after := [...]byte{'.', byte('0' + rest/1000), byte('0' + rest/100%10), byte('0' + rest/10%10), byte('0' + rest%10)}
	return append(b, bytes.TrimRight(after[:], "0")...)
}

func (w *svgWriter) attr(name string, x float64) *svgWriter {
	return w.str(" ").str(name).str(`="`).num(x).str(`"`)
}

func (w *svgWriter) text(name, s string) *svgWriter {
	if s == "" {
		return w
	}
	if strings.ContainsAny(s, `&<>"'`) {
		s = html.EscapeString(s)
	}
	return w.str(" ").str(name).str(`="`).str(s).str(`"`)
}

// paint writes a fill or stroke; a name that begins with # is one of the scene's gradients when it is
// no colour, written as "#:name".
func (w *svgWriter) colour(name, c string) *svgWriter {
	if len(c) > 2 && c[:2] == "#:" {
		return w.str(" ").str(name).str(`="url(#`).str(w.prefix).str(c[2:]).str(`)"`)
	}
	return w.text(name, c)
}

func (w *svgWriter) paint(p Paint) *svgWriter {
	w.colour("fill", p.Fill).colour("stroke", p.Stroke)
	if p.Width != 0 {
		w.attr("stroke-width", p.Width)
	}
	if p.Opacity != 0 {
		w.attr("fill-opacity", p.Opacity)
	}
	return w.text("stroke-dasharray", p.Dash).keep()
}

// keep has an outline keep its thickness inside an enlarged group.
func (w *svgWriter) keep() *svgWriter {
	if w.scaled {
		w.str(` vector-effect="non-scaling-stroke"`)
	}
	return w
}

func (l Line) svg(w *svgWriter) {
	w.str("<line").text("class", l.Class)
	w.attr("x1", l.X1).attr("y1", l.Y1).attr("x2", l.X2).attr("y2", l.Y2)
	w.colour("stroke", l.Stroke)
	if l.Width != 0 {
		w.attr("stroke-width", l.Width)
	}
	w.keep().str("/>")
}

func (r Rect) svg(w *svgWriter) {
	w.str("<rect").text("class", r.Class).attr("x", r.X).attr("y", r.Y).attr("width", r.W).attr("height", r.H)
	if r.Radius != 0 {
		w.attr("rx", r.Radius)
	}
	w.paint(r.Paint).str("/>")
}

func (p Path) svg(w *svgWriter) {
	w.str("<path").text("class", p.Class).text("d", p.D).paint(p.Paint).str("/>")
}

func (c Circle) svg(w *svgWriter) {
	w.str("<circle").text("class", c.Class).attr("cx", c.X).attr("cy", c.Y).attr("r", c.R).paint(c.Paint).str("/>")
}

func (t Text) svg(w *svgWriter) {
	w.str("<text").text("class", t.Class).attr("x", t.X).attr("y", t.Y)
	if t.Size != 0 {
		w.attr("font-size", t.Size)
	}
	w.text("text-anchor", t.Anchor).text("fill", t.Fill)
	w.str(">").str(html.EscapeString(t.S)).str("</text>")
}

func (g Group) svg(w *svgWriter) {
	w.str("<g").text("class", g.Class)
	if g.DX != 0 || g.DY != 0 || g.Scale != 0 {
		w.str(` transform="translate(`).num(g.DX).str(" ").num(g.DY).str(`)`)
		if g.Scale != 0 {
			w.str(` scale(`).num(g.Scale).str(`)`)
		}
		w.str(`"`)
	}
	w.paint(g.Paint)
	if g.Clip != "" {
		w.str(` clip-path="url(#`).str(w.prefix).str(g.Clip).str(`)"`)
	}
	w.str(">")
	before := w.scaled
	w.scaled = before || g.Scale != 0
	for _, it := range g.Items {
		it.svg(w)
	}
	w.scaled = before
	w.str("</g>")
}

func (c Clip) svg(w *svgWriter) {
	w.str(`<clipPath id="`).str(w.prefix).str(c.Name).str(`">`)
	Rect{X: c.X, Y: c.Y, W: c.W, H: c.H}.svg(w)
	w.str("</clipPath>")
}

func (g Gradient) svg(w *svgWriter) {
	w.str(`<linearGradient id="`).str(w.prefix).str(g.Name).str(`"`)
	if !g.Across {
		w.str(` x2="0" y2="1"`)
	}
	w.str(">")
	for _, s := range g.Stops {
		w.str("<stop").attr("offset", s.At).text("stop-color", s.Colour)
		if s.Clear {
			w.str(` stop-opacity="0"`)
		} else if s.Opacity != 0 {
			w.attr("stop-opacity", s.Opacity)
		}
		w.str("/>")
	}
	w.str("</linearGradient>")
}
