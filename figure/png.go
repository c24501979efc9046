package figure

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"slices"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"

	"cavix/figure/fonts"
)

// pixels is a picture that a scene is painted on, so many pixels to one of the drawing.
type pixels struct {
	img    *image.RGBA
	zoom   float64
	bounds []image.Rectangle // of what may be painted, the narrowest last
	font   *opentype.Font
	faces  map[float64]font.Face // by size
	err    error
}

// PNG paints the scene as a picture, on paper, with zoom pixels to one of the drawing: 1 to 4.
func (s *Scene) PNG(zoom int) ([]byte, error) {
	p, err := s.painted(float64(max(1, min(zoom, 4))), image.NewUniform(color.RGBA{0xE4, 0xDF, 0xD0, 0xFF}))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, p)
	return b.Bytes(), err
}

// painted paints the scene on a ground, with zoom pixels to one of the drawing.
func (s *Scene) painted(zoom float64, ground image.Image) (*image.RGBA, error) {
	parsed, err := opentype.Parse(fonts.Narrow)
	if err != nil {
		return nil, err
	}
	p := &pixels{img: image.NewRGBA(image.Rect(0, 0, int(math.Ceil(s.Width*zoom)), int(math.Ceil(s.Height*zoom)))),
		zoom: zoom, font: parsed, faces: map[float64]font.Face{}}
	p.bounds = []image.Rectangle{p.img.Bounds()}
	draw.Draw(p.img, p.img.Bounds(), ground, image.Point{}, draw.Src)
	paint(s, p)
	return p.img, p.err
}

// shade is a gradient as an endless picture: its colours pixel by pixel along its run.
type shade struct {
	across bool
	first  int
	ramp   []color.Color
}

// newShade works out a gradient that runs from low to high, in pixels.
func newShade(g *Gradient, low, high float64) shade {
	s := shade{across: g.Across, first: int(math.Floor(low))}
	for at := s.first; at == s.first || float64(at) < high; at++ {
		s.ramp = append(s.ramp, g.colourAt((float64(at)+0.5-low)/math.Max(high-low, 1e-9)))
	}
	return s
}

// colourAt is the colour at a share of the run.
func (g *Gradient) colourAt(t float64) color.NRGBA {
	stops := g.Stops
	i := 0
	for i < len(stops)-2 && t > stops[i+1].At {
		i++
	}
	a, b := stops[i], stops[i+1]
	share := math.Max(0, math.Min(1, (t-a.At)/math.Max(b.At-a.At, 1e-9)))
	mix := func(x, y uint8) uint8 { return uint8(float64(x)*(1-share) + float64(y)*share + 0.5) }
	r1, g1, b1 := rgb(a.Colour)
	r2, g2, b2 := rgb(b.Colour)
	return color.NRGBA{mix(r1, r2), mix(g1, g2), mix(b1, b2), mix(a.alpha(), b.alpha())}
}

func (s shade) ColorModel() color.Model { return color.NRGBAModel }
func (s shade) Bounds() image.Rectangle { return image.Rect(-1e6, -1e6, 1e6, 1e6) }
func (s shade) At(x, y int) color.Color {
	at := y
	if s.across {
		at = x
	}
	return s.ramp[max(0, min(at-s.first, len(s.ramp)-1))]
}

func (s Stop) alpha() uint8 {
	switch {
	case s.Clear:
		return 0
	case s.Opacity != 0:
		return uint8(255 * s.Opacity)
	}
	return 255
}

// polygon paints the inside of an outline, given in pixels.
func (p *pixels) polygon(outline []point, src image.Image) { p.polygons([][]point{outline}, src) }

// polygons paints the inside of outlines that may have holes, given in pixels.
func (p *pixels) polygons(outlines [][]point, src image.Image) {
	if len(outlines) == 0 {
		return
	}
	within := p.bounds[len(p.bounds)-1]
	low, high := box(slices.Concat(outlines...))
	area := image.Rect(int(math.Floor(low.x)), int(math.Floor(low.y)), int(math.Ceil(high.x))+1,
		int(math.Ceil(high.y))+1).Intersect(within)
	if area.Empty() {
		return
	}
	z := vector.NewRasterizer(area.Dx(), area.Dy())
	off := point{float64(area.Min.X), float64(area.Min.Y)}
	for _, outline := range outlines {
		for i, at := range outline {
			x, y := float32(at.x-off.x), float32(at.y-off.y)
			if i == 0 {
				z.MoveTo(x, y)
			} else {
				z.LineTo(x, y)
			}
		}
		z.ClosePath()
	}
	z.Draw(p.img, area, src, area.Min)
}

func (p *pixels) zoomed(outline []point) []point {
	out := make([]point, len(outline))
	for i, at := range outline {
		out[i] = point{at.x * p.zoom, at.y * p.zoom}
	}
	return out
}

func (p *pixels) fill(outline []point, colour string, g *Gradient, opacity float64) {
	outline = p.zoomed(outline)
	if g == nil {
		r, gr, b := rgb(colour)
		p.polygon(outline, image.NewUniform(color.NRGBA{r, gr, b, uint8(255*opacity + 0.5)}))
		return
	}
	low, high := box(outline)
	if g.Across {
		p.polygon(outline, newShade(g, low.x, high.x))
		return
	}
	p.polygon(outline, newShade(g, low.y, high.y))
}

func (p *pixels) stroke(line []point, width float64, colour string, dash []float64) {
	if colour == "" || colour == "none" {
		return
	}
	r, g, b := rgb(colour)
	src := image.NewUniform(color.NRGBA{r, g, b, 255})
	line = p.zoomed(line)
	half := width * p.zoom / 2
	piece := func(a, b point) {
		l := math.Hypot(b.x-a.x, b.y-a.y)
		if l == 0 {
			return
		}
		nx, ny := (b.y-a.y)/l*half, (a.x-b.x)/l*half
		p.polygon([]point{{a.x + nx, a.y + ny}, {b.x + nx, b.y + ny}, {b.x - nx, b.y - ny}, {a.x - nx, a.y - ny}}, src)
	}
	for i := range line[1:] {
		a, b := line[i], line[i+1]
		if len(dash) == 0 {
			piece(a, b)
			continue
		}
		l := math.Hypot(b.x-a.x, b.y-a.y)
		on, off := dash[0]*p.zoom, dash[len(dash)-1]*p.zoom
		for at := 0.0; at < l; at += on + off {
			end := math.Min(at+on, l)
			piece(point{a.x + (b.x-a.x)*at/l, a.y + (b.y-a.y)*at/l},
				point{a.x + (b.x-a.x)*end/l, a.y + (b.y-a.y)*end/l})
		}
	}
}

func (p *pixels) text(x, y, size float64, anchor, colour, s string) {
	if !fonts.Plain(s) {
		r, g, b := rgb(colour)
		for _, l := range fonts.Set(s, 0) {
			p.polygons(p.letters(l, x-before(anchor, l.Width*size), y, size),
				image.NewUniform(color.NRGBA{r, g, b, 255}))
		}
		return
	}
	face, ok := p.faces[size]
	if !ok {
		var err error
		if face, err = opentype.NewFace(p.font, &opentype.FaceOptions{Size: size * p.zoom, DPI: 72,
			Hinting: font.HintingNone}); err != nil {
			p.err = err
			return
		}
		p.faces[size] = face
	}
	r, g, b := rgb(colour)
	within := p.bounds[len(p.bounds)-1]
	d := font.Drawer{Dst: p.img.SubImage(within).(draw.Image), Src: image.NewUniform(color.NRGBA{r, g, b, 255}),
		Face: face}
	x = x*p.zoom - before(anchor, float64(d.MeasureString(s))/64)
	d.Dot = fixed.Point26_6{X: fixed.Int26_6(x * 64), Y: fixed.Int26_6(y * p.zoom * 64)}
	d.DrawString(s)
}

// letters are the outlines of a line of text from x on, on the base line y, in pixels.
func (p *pixels) letters(l fonts.Line, x, y, size float64) [][]point {
	drawn := l.Outlines()
	out := make([][]point, len(drawn))
	for i, outline := range drawn {
		for _, at := range outline {
			out[i] = append(out[i], point{(x + at.X*size) * p.zoom, (y + at.Y*size) * p.zoom})
		}
	}
	return out
}

func (p *pixels) clip(x, y, w, h float64) {
	z := p.zoom
	r := image.Rect(int(math.Floor(x*z)), int(math.Floor(y*z)), int(math.Ceil((x+w)*z)), int(math.Ceil((y+h)*z)))
	p.bounds = append(p.bounds, r.Intersect(p.bounds[len(p.bounds)-1]))
}

func (p *pixels) unclip() { p.bounds = p.bounds[:len(p.bounds)-1] }
