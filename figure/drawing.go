package figure

import (
	"math"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/text"
	"cavix/locale"
)

// Widths of figures and their lens strips, in pixels of the drawing.
const (
	Wide   = 1180.0 // across a page
	Narrow = 820.0  // in a column between others
	Stage  = 940.0  // with its lens on a projected board, where it is drawn larger
	Half   = 590.0  // one of two that stand side by side across a page
)

// Drawing is an instrument at a position, laid out on a surface.
type Drawing interface {
	// Scene draws the part of the instrument that is read.
	Scene(Options) *Scene
	// Strengths returns three magnifications for its lens, weak to strong. At the strongest, one least
	// count of shift is at least 4 px between two neighbouring lines. All are 0 where a lens would show nothing
	// more.
	Strengths() [3]int
	// LensOn returns a lens of the given strength that looks at a line of the fine scale; a negative line
	// is where a reading begins: a plate's 0, a drum's index, the pointer.
	LensOn(zoom, line int) Lens
	// Strip draws what the lens shows. The scales stand in one group, which a page may slide.
	Strip(Lens, Options) *Scene
	// Whole draws the whole instrument small, with what it holds, and in a dashed frame what Scene shows.
	Whole(o Options) *Scene
	// Track says along which line a lens is moved by its handle.
	Track() Track
	// Band returns the levels between which the scales stand, in px of Scene: what is kept of the figure where there is
	// room for a strip only.
	Band() (top, bottom float64)
	// Motion says how the drawing moves with the reading, for a page that lets it be dragged.
	Motion() Motion
}

// Motion tells how a drawing moves as its reading grows by one least count, from where it was drawn, and where a hand
// takes hold of it. A page moves what was drawn by this rule and knows of no instrument; what it then reads is for the
// core to say. All of it is relative: no number says where the drawing stands.
type Motion struct {
	Moves []Move `json:"moves"`
	Grips []Grip `json:"grips"` // the last that the hand is on counts
}

// Move describes how some parts of a drawing move.
type Move struct {
	Parts string `json:"parts"` // a selector
	How   How    `json:"how"`

	// px to the right for one least count; a part that grows does so at its right end
	DX     float64 `json:"dx,omitempty"`
	DY     float64 `json:"dy,omitempty"`     // px downwards for one least count
	Lens   bool    `json:"lens,omitempty"`   // DX and DY are magnified as the lens it stands in
	Uncut  bool    `json:"uncut,omitempty"`  // numerals that the edges of the figure would cut are hidden
	Turn   float64 `json:"turn,omitempty"`   // degrees, or lines of what rolls, for one least count
	X      float64 `json:"x,omitempty"`      // what it turns about
	Y      float64 `json:"y,omitempty"`      // what it turns about, or the axis of what rolls
	Rolled *Rolled `json:"rolled,omitempty"` // of what rolls
	Across bool    `json:"across,omitempty"` // what rolls has its axis upright; Y is the axis's x
}

// How says how parts move.
type How string

// The ways in which parts move.
const (
	Slides How = "slide"
	Grows  How = "grow"
	Turns  How = "turn"
	Rolls  How = "roll" // lines round a cylinder seen from its side
)

// Rolled are the lines round a cylinder, drawn in the order of their angles: how many lines above the index the first
// of them stands, at which of them numerals stand, the lines of a turn, how angles are seen, and the radii.
type Rolled struct {
	First   float64 `json:"first"`
	Numbers []int   `json:"numbers"`
	Lines   int     `json:"lines"`
	Up      float64 `json:"up"`
	Tilt    float64 `json:"tilt"`
	Squeeze float64 `json:"squeeze"`
	Middle  float64 `json:"middle"` // of what is in sight, in lines above the index
	R       float64 `json:"r"`
	RimR    float64 `json:"rim"`
	Bevel   float64 `json:"bevel"`
}

// Grip is a part of the figure that a hand takes hold of.
type Grip struct {
	From float64 `json:"from"` // px from the left where it begins
	Up   bool    `json:"up"`   // it is moved up and down, not sideways
	Per  float64 `json:"per"`  // px, to the right or up, for one least count
}

// Still is the motion of a drawing in which nothing moves while a hand changes what it shows.
func Still() Motion { return Motion{Grips: []Grip{{Per: 2}}} }

// Track is the line along which a lens travels: sideways across the figure at Y ("x"; "flat" where
// the strip is stretched sideways only), up and down at X
// ("y"; "tall" where it is stretched upwards only), or round the point X, Y at the distance R ("round").
type Track struct {
	Kind    string
	X, Y, R float64
}

// The colours of the drawing office: inks, steels, and the three that mean something.
const (
	ink       = "#172026"
	outline   = "#75828A"
	rim       = "#59656B"
	Brass     = "#9A6A1F"
	Verdigris = "#1D6B60"
	Madder    = "#9E3434"
)

// Options say how a figure is drawn.
type Options struct {
	Flags *exercise.Pointing // what is pointed at once a card has been checked
	Lens  *Lens              // draw the frame of this lens on the figure
	Loose bool               // draw also what is out of sight now, so that a page can move the drawing
	// draw what is out of sight at both sides too, so far, for a page that is wider than the figure; in px
	Bleed float64
	Names bool          // name the parts
	Eye   float64       // how far the eye stands off square: by so many least counts the fine scale seems to shift
	Shows *string       // what a display shows instead of its reading; "" when it sleeps
	Hold  Hold          // how a caliper holds the work
	Said  *text.Printer // prints what is written beside the scales; nil is English in the words of documents
}

// say prints a text.
func (o Options) say(t text.Text) string {
	if o.Said == nil {
		return locale.Documents().Print(t)
	}
	return o.Said.Print(t)
}

// Hold says how a caliper holds the work.
type Hold string

// The ways to hold the work; the zero value is between the outside jaws.
const (
	Outside Hold = ""
	Inside  Hold = "inside" // the inside jaws in a hole or slot
	Depth   Hold = "depth"  // the depth blade in a hole, shown at the beam’s far end; nothing is between the jaws
)

// Travelling is a drawing of a long scale that can be looked at away from its reading.
type Travelling interface {
	// Travel moves the window along the main scale by so many of its divisions.
	Travel(divisions int)
}

// Lens is a strip that shows a stretch of the figure magnified: where it looks and how strong it is. A
// straight scale is magnified sideways, so that its lines stay as they are; the others all round.
type Lens struct {
	Zoom int     // whole, so that coordinates stay exact
	X, Y float64 // the middle of what it shows, on the figure; a straight scale's lens has no Y
	Wide float64 // of its strip, in px; 0 is as wide as the drawing has it
}

// LensHeight is the height of the lens strip under a figure, in px.
const LensHeight = 124

// LensBeside is the width of an upright lens that stands beside a figure, as high as the figure: a drum and
// a face have theirs there on a wide page, so that many lines are in sight at once.
const LensBeside = 330

// beside is the width that a figure keeps where its lens stands beside it.
func beside(width float64) float64 {
	if width == Wide || width == Stage {
		return width - LensBeside
	}
	return width
}

// Upright reports whether a drawing's lens stands beside it.
func Upright(d Drawing) bool {
	lens := d.Strip(d.LensOn(max(1, d.Strengths()[0]), -1), Options{})
	return lens.Width == LensBeside
}

// WithLens puts the figure and its lens together, for a picture that stands alone.
func WithLens(d Drawing, z Lens, said *text.Printer) *Scene {
	o := Options{Lens: &z, Said: said}
	fig, lens := d.Scene(o), d.Strip(z, o)
	out := &Scene{Width: fig.Width, Height: fig.Height + 14 + lens.Height, Label: fig.Label}
	dx, dy := 0.0, fig.Height+14
	switch {
	case Upright(d):
		out.Width, out.Height, dx, dy = fig.Width+14+lens.Width, fig.Height, fig.Width+14, 0
	case z.Wide > 0:
		out.Width, out.Height, dx, dy = fig.Width+14+lens.Width, fig.Height, fig.Width+14, (fig.Height-lens.Height)/2
	}
	out.add(Clip{Name: "figure", W: fig.Width, H: fig.Height},
		Group{Items: []Item{Group{Clip: "figure", Items: fig.Items}}},
		Clip{Name: "strip", W: lens.Width, H: lens.Height},
		Group{DX: dx, DY: dy, Items: []Item{Group{Clip: "strip", Items: lens.Items}}})
	return out
}

// magnified is a lens that enlarges a scene all round: a strip as wide as the scene, or upright beside it.
func magnified(sc *Scene, z Lens, o Options) *Scene {
	zoom := float64(z.Zoom)
	w, h := z.size(sc.Width, sc.Height)
	sc.Items = slices.DeleteFunc(sc.Items, func(it Item) bool { // tags stand beside the figure, not under the lens
		switch it := it.(type) {
		case Rect:
			return it.Class == "tag"
		case Text:
			return it.Class == "tag"
		case Line:
			return it.Class == "pin"
		}
		return false
	})
	return &Scene{Width: w, Height: h, Label: o.say(text.New("figure.lens")), Items: []Item{
		Group{Class: "lens-scales", DX: w/2 - z.X*zoom, DY: h/2 - z.Y*zoom, Scale: zoom, Items: sc.Items},
	}}
}

// size is the size of a lens that enlarges a figure of the given size all round.
func (z Lens) size(width, height float64) (w, h float64) {
	if z.Wide > 0 {
		return z.Wide, LensHeight
	}
	if width == Wide-LensBeside || width == Stage-LensBeside {
		return LensBeside, height
	}
	return width, LensHeight
}

// roundFrame marks on a figure what a lens that enlarges all round shows.
func roundFrame(width, height float64, z Lens) Item {
	w, h := z.size(width, height)
	w, h = w/float64(z.Zoom), h/float64(z.Zoom)
	return Rect{Class: "lens-frame", X: z.X - w/2, Y: z.Y - h/2, W: w, H: h, Radius: 3,
		Paint: Paint{Fill: Brass, Opacity: 0.05, Stroke: Brass, Width: 1.4}}
}

// ring is a taken or counted place, marked round about.
func ring(class string, x, y, w, h float64, colour, dash string) Item {
	return Rect{Class: class, X: x - w/2, Y: y - h/2, W: w, H: h, Radius: math.Min(w, h) / 2,
		Paint: Paint{Fill: "none", Stroke: colour, Width: 2, Dash: dash}}
}

// pin draws a leader from y to the tag at tagY; side −1 puts the tag left of it, +1 right.
func (o Options) pin(width, x, y, tagY, side float64, said text.Text, colour string) []Item {
	says := o.say(said)
	w := float64(len([]rune(says)))*7.2 + 16
	left := x + 5
	if side < 0 {
		left = x - 5 - w
	}
	left = math.Max(4, math.Min(left, width-w-4))
	return []Item{
		Line{Class: "pin", X1: x, Y1: y, X2: x, Y2: tagY - 2, Stroke: colour, Width: 1.8},
		Rect{Class: "tag", X: left, Y: tagY - 12, W: w, H: 22, Radius: 2, Paint: Paint{Fill: colour}},
		Text{Class: "tag", X: left + w/2, Y: tagY + 4, Size: 13.5, Anchor: "middle", Fill: "#FFFFFF", S: says},
	}
}

// pinAside draws a leader from x, y to a tag that begins, or ends, at tagX: beside what it points at.
func (o Options) pinAside(x, y, tagX float64, said text.Text, colour string) []Item {
	says := o.say(said)
	w := float64(len([]rune(says)))*7.2 + 16
	left := tagX
	if tagX < x {
		left -= w
	}
	return []Item{
		Line{Class: "pin", X1: x, Y1: y, X2: tagX, Y2: y, Stroke: colour, Width: 1.8},
		Rect{Class: "tag", X: left, Y: y - 11, W: w, H: 22, Radius: 2, Paint: Paint{Fill: colour}},
		Text{Class: "tag", X: left + w/2, Y: y + 5, Size: 13.5, Anchor: "middle", Fill: "#FFFFFF", S: says},
	}
}

// place tells where a part is, and the level of its name.
type place struct{ x, y, at float64 }

// named writes the names of an instrument's parts with leaders to their places.
func (o Options) named(width float64, in *instrument.Instrument, places map[instrument.PartKey]place) []Item {
	var items []Item
	for _, part := range in.Scale().Parts() {
		n, drawn := places[part.Key]
		if !drawn {
			continue
		}
		items = append(items, o.name(width, n.x, n, part.Name)...)
	}
	return items
}

// name writes a name about tagX, with a leader to its place.
func (o Options) name(width, tagX float64, n place, said text.Text) []Item {
	name := o.say(said)
	w := float64(len([]rune(name)))*6.6 + 12
	x := math.Max(w/2+4, math.Min(tagX, width-w/2-4))
	return []Item{
		Line{Class: "pin", X1: n.x, Y1: n.y, X2: x, Y2: n.at, Stroke: ink, Width: 1},
		Rect{Class: "tag", X: x - w/2, Y: n.at - 9, W: w, H: 18, Radius: 2,
			Paint: Paint{Fill: "#FFFDF8", Stroke: outline, Width: 0.8}},
		Text{Class: "tag", X: x, Y: n.at + 4.5, Size: 12.5, Anchor: "middle", Fill: ink, S: name},
	}
}

// takenTag says in a word what a dashed ring means.
func (o Options) takenTag(x, y float64) []Item {
	says := o.say(text.New("figure.taken"))
	w := float64(len([]rune(says)))*7.4 + 10
	return []Item{
		Rect{Class: "tag", X: x - w/2, Y: y - 10, W: w, H: 18, Radius: 2,
			Paint: Paint{Fill: "#FBEFEA", Stroke: Madder, Width: 1}},
		Text{Class: "tag", X: x, Y: y + 3.5, Size: 12, Anchor: "middle", Fill: Madder, S: says},
	}
}

// inset is the least by which one least count of shift sets two lines apart in an Inset, in mm.
const inset = 0.25

// InsetWide is the width of an inset that stands beside a Narrow figure on paper, in px.
const InsetWide = 366

// Inset returns a lens of the given width in px for paper, of a figure whose pixels are so many mm wide there: strong
// enough that lines which miss each other by one least count do so by a quarter of a millimetre or more. Of a plate
// it holds a line, which stands aside from the middle by that share of the way to the edge, −1 to 1.
// A width of 0, and a lens that stands upright, is as wide as the drawing has it. Zoom is 0 where a lens would show
// nothing more.
func Inset(d Drawing, pixel float64, line int, aside, wide float64) Lens {
	s := d.Strengths()
	if s[2] == 0 {
		return Lens{}
	}
	if Upright(d) {
		wide = 0
	}
	if l, ok := d.(plated); ok {
		return l.inset(pixel, line, clamp(aside, -1, 1), wide)
	}
	lens := d.LensOn(max(s[0], int(math.Ceil(float64(s[2])*inset/(4*pixel)))), -1)
	lens.Wide = wide
	return lens
}

// plated is a drawing with a plate, of which any line may be the one that meets a mark.
type plated interface {
	inset(pixel float64, line int, aside, wide float64) Lens
}

func (l *straight) inset(pixel float64, line int, aside, wide float64) Lens {
	lens := l.LensOn(int(math.Ceil(inset/(pixel*l.count))), line)
	lens.Wide = wide
	lens.X -= aside * l.spare(lens)
	return lens
}

// spare is how far a line may stand from the middle of a lens and still be in it, in px of the figure.
func (l *straight) spare(z Lens) float64 {
	return max(0, l.strip(z)/float64(z.Zoom)-l.plateDivision()) / 2
}
