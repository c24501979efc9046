package figure

import (
	"fmt"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// readout is a display, laid out.
type readout struct {
	in    *instrument.Instrument
	text  string
	width float64
}

const readoutHeight = 250.0

func newReadout(in *instrument.Instrument, y length.Number, width float64) *readout {
	d := &readout{in: in, width: width}
	if r, err := in.Read(y); err == nil {
		d.text = in.Format(r.Observed)
	}
	return d
}

// Scene draws the slide with its display. Digits are drawn as segments.
func (d *readout) Scene(o Options) *Scene {
	sc := &Scene{Width: d.width, Height: readoutHeight, Label: o.say(text.New("figure.display", "unit", d.in.Unit()))}
	sc.add(steel...)
	left := d.width/2 - 250
	sc.add(
		Rect{Class: "beam", X: -10, Y: 82, W: d.width + 20, H: 86, Paint: Paint{Fill: "#:beam"}},
		Line{X1: -10, Y1: 82.5, X2: d.width + 10, Y2: 82.5, Stroke: outline, Width: 1},
		Line{X1: -10, Y1: 167.5, X2: d.width + 10, Y2: 167.5, Stroke: outline, Width: 1},
		Rect{X: left, Y: 34, W: 500, H: 182, Radius: 10, Paint: Paint{Fill: "#:slide", Stroke: outline, Width: 1}},
		Rect{Class: "display", X: left + 30, Y: 58, W: 360, H: 112, Radius: 5,
			Paint: Paint{Fill: "#C9D2C3", Stroke: "#6B766B", Width: 1.4}},
		Text{X: left + 376, Y: 160, Size: 18, Anchor: "end", Fill: "#27342B", S: string(d.in.Unit())},
	)
	text := d.text
	if o.Shows != nil {
		text = *o.Shows
	}
	sc.add(digits(text, left+376-44, 74))
	for i, label := range []string{"mm/in", "0", "off"} {
		y := 58 + float64(i)*40
		sc.add(Rect{X: left + 408, Y: y, W: 70, H: 30, Radius: 15,
			Paint: Paint{Fill: "#8F9BA1", Stroke: outline, Width: 1}},
			Text{X: left + 443, Y: y + 20, Size: 13, Anchor: "middle", Fill: "#FFFFFF", S: label})
	}
	if o.Lens != nil {
		sc.add(roundFrame(d.width, sc.Height, *o.Lens))
	}
	return sc
}

// segments of each sign: a at the top, then clockwise b to f, g in the middle.
var segments = map[rune]string{
	'0': "abcdef", '1': "bc", '2': "abged", '3': "abgcd", '4': "fgbc", '5': "afgcd", '6': "afgedc", '7': "abc",
	'8': "abcdefg", '9': "abcdfg", '-': "g",
}

// strokes are the outlines of the segments in a cell of 30 × 60.
var strokes = map[rune]string{
	'a': "M3 0 H27 L21 6 H9 Z", 'b': "M29 2 V28 L25 29 L23 26 V8 Z", 'c': "M29 32 V58 L23 52 V34 L25 31 Z",
	'd': "M3 60 H27 L21 54 H9 Z",
	'e': "M1 32 V58 L7 52 V34 L5 31 Z", 'f': "M1 2 V28 L5 29 L7 26 V8 Z", 'g': "M4 30 L8 27 H22 L26 30 L22 33 H8 Z",
}

// digits draws the text in segments, its last digit ending at x.
func digits(text string, x, y float64) Group {
	g := Group{Class: "digits", Paint: Paint{Fill: "#1A251E"}}
	at := x - 36
	runes := []rune(text)
	for i := len(runes) - 1; i >= 0; i-- {
		switch r := runes[i]; {
		case r == '.': // it stands in the gap after the digit that is written next, to its left
			g.Items = append(g.Items, Rect{X: at + 27, Y: y + 69, W: 8, H: 8, Radius: 1})
			at -= 16
		case segments[r] != "":
			var path strings.Builder
			for _, s := range segments[r] {
				path.WriteString(strokes[s])
			}
			g.Items = append(g.Items, Group{DX: at, DY: y, Scale: 1.25, Items: []Item{Path{D: path.String()}}})
			at -= 46
		default: // a fraction's slash or space
			g.Items = append(g.Items, Text{X: at + 18, Y: y + 60, Size: 44, Anchor: "middle", Fill: "#1A251E",
				S: string(r)})
			at -= 34
		}
	}
	return g
}

// Strengths of a display are none: its digits are read without a lens.
func (d *readout) Strengths() [3]int { return [3]int{} }

func (d *readout) LensOn(zoom, _ int) Lens { return Lens{Zoom: zoom, X: d.width/2 - 40, Y: 114} }

func (d *readout) Strip(z Lens, o Options) *Scene {
	o.Lens = nil
	return magnified(d.Scene(o), z, o)
}

func (d *readout) Track() Track { return Track{Kind: "x", Y: 114} }

func (d *readout) Whole(o Options) *Scene {
	sc := wholeScene(o.say(text.New("figure.whole-display")))
	sc.add(wholeCaliper(70, 96)...)
	sc.add(Rect{X: 104, Y: 27, W: 44, H: 14, Radius: 2, Paint: Paint{Fill: "#C9D2C3", Stroke: "#5E6B73", Width: 1}},
		window(92, 17, 78, 33))
	return sc
}

// wholeScene begins a small picture of a whole instrument.
func wholeScene(label string) *Scene { return &Scene{Width: 300, Height: 86, Label: label} }

// window is the dashed frame round what a figure shows.
func window(x, y, w, h float64) Item {
	return Rect{Class: "window", X: x, Y: y, W: w, H: h, Radius: 3,
		Paint: Paint{Fill: "none", Stroke: Brass, Width: 1.4, Dash: "4 3"}}
}

// The paints of small whole instruments.
var (
	wholeMetal  = Paint{Fill: "#CBD2D5", Stroke: "#5E6B73", Width: 1}
	wholeMoving = Paint{Fill: "#AEB8BC", Stroke: "#5E6B73", Width: 1}
	wholeWork   = Paint{Fill: "#C79C5A", Stroke: Brass, Width: 1}
)

// wholeCaliper draws beam and jaws with work of the given size between them, and a slide up to end.
func wholeCaliper(size, slide float64) []Item {
	const start = 22.0
	face := start + size
	items := []Item{}
	if size > 0.4 {
		items = append(items, Rect{X: start, Y: 52, W: size, H: 20, Radius: 1.5, Paint: wholeWork})
	}
	return append(items,
		Rect{X: start - 14, Y: 26, W: 300 - start - 4, H: 14, Paint: wholeMetal},
		Path{D: fmt.Sprintf("M%.1f 22 V40 L%.1f 46 L%.1f 76 H%.1f V46 L%.1f 40 V24 L%.1f 8 H%.1f L%.1f 22 Z",
			start-15, start-15, start-7, start, start, start-6, start, start), Paint: wholeMetal},
		Path{D: fmt.Sprintf("M%.1f 22 L%.1f 8 H%.1f L%.1f 22 H%.1f V46 H%.1f L%.1f 76 H%.1f V22 Z",
			face, face, face+5, face+12, face+slide, face+15, face+7, face), Paint: wholeMoving})
}

func (d *readout) Motion() Motion { return Still() }

// Band returns the levels of the display's frame.
func (d *readout) Band() (top, bottom float64) { return 30, 220 }
