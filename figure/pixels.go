package figure

import (
	"bytes"
	"encoding/base64"
	"image"
	"image/png"
	"math"
)

// snapGrid is the grid on which a lens begins to look, in px.
const snapGrid = 40

func snap(x float64) float64 { return math.Round(x/snapGrid) * snapGrid }

// Snapped is the lens about where it was, so that it does not tell the reading.
func (z Lens) Snapped() Lens {
	z.X, z.Y = snap(z.X), snap(z.Y)
	return z
}

// Snapped is the track about where it was: that beside a drum's edge would tell the main scale.
func (t Track) Snapped() Track {
	if t.Kind == "y" {
		t.X = snap(t.X)
	}
	return t
}

// Image is a picture made of pixels, from 0, 0 of where it stands. Pages show it; other pictures are not made of it.
type Image struct {
	W, H float64
	PNG  []byte
}

func (i Image) svg(w *svgWriter) {
	w.str("<image").attr("width", i.W).attr("height", i.H).str(` href="data:image/png;base64,`)
	w.b = base64.StdEncoding.AppendEncode(w.b, i.PNG)
	w.str(`"/>`)
}

// Pixels returns the scene of a figure or of its lens as a picture, with zoom pixels to one of the drawing, so that no
// coordinate of what it shows is told. What a page moves stays: the frame of a lens, and the group of its scales, which
// is painted inside from 0, 0 to width, height of the figure.
func (s *Scene) Pixels(zoom int, width, height float64) (*Scene, error) {
	out := &Scene{Width: s.Width, Height: s.Height, Label: s.Label}
	var painted, moved []Item
	for _, it := range s.Items {
		switch it := it.(type) {
		case Group:
			if it.Class == "lens-scales" {
				scales, err := it.pixels(width, height)
				if err != nil {
					return nil, err
				}
				moved = append(moved, scales)
				continue
			}
		case Rect:
			if it.Class == "lens-frame" {
				moved = append(moved, it)
				continue
			}
		}
		painted = append(painted, it)
	}
	ground, err := (&Scene{Width: s.Width, Height: s.Height, Items: painted}).pixels(float64(zoom))
	out.Items = append([]Item{ground}, moved...)
	return out, err
}

// pixels paints the scales of a lens over a whole figure. One that enlarges all round has a scale; one that does so
// sideways has been laid out enlarged.
func (g Group) pixels(width, height float64) (Item, error) {
	zoom := 1.0
	if g.Scale != 0 {
		zoom = g.Scale
	}
	inside := &Scene{Width: width * zoom, Height: height * zoom,
		Items: []Item{Group{Scale: zoom, Paint: g.Paint, Items: g.Items}}}
	i, err := inside.pixels(1)
	i.W, i.H = width, height
	return Group{Class: g.Class, DX: g.DX, DY: g.DY, Scale: g.Scale, Items: []Item{i}}, err
}

// pixels paints the scene on nothing.
func (s *Scene) pixels(zoom float64) (Image, error) {
	p, err := s.painted(zoom, image.Transparent)
	if err != nil {
		return Image{}, err
	}
	// As its neighbour format, which the encoder takes as it is; it converts others pixel by pixel.
	for i := 0; i < len(p.Pix); i += 4 {
		if a := int(p.Pix[i+3]); a != 0 && a != 255 {
			for j := range 3 {
				p.Pix[i+j] = uint8(min(255, int(p.Pix[i+j])*255/a))
			}
		}
	}
	var b bytes.Buffer
	err = (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, &image.NRGBA{Pix: p.Pix, Stride: p.Stride,
		Rect: p.Rect})
	return Image{W: s.Width, H: s.Height, PNG: b.Bytes()}, err
}
