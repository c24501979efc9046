// Package figure draws instruments. It turns an instrument at a position into a scene of lines, shapes
// and numerals, true to the core's exact numbers, and writes scenes as SVG. It knows nothing of cards
// and answers: what is to be flagged on a figure it is told.
package figure

import (
	"fmt"
	"strings"

	"cavix/core/text"
)

// Scene is a drawing: what stands on a surface of Width × Height pixels, in painting order.
type Scene struct {
	Width, Height float64
	Label         string // for those who cannot see it; it never holds a reading
	Items         []Item
}

// Item is one thing of a scene: a Line, Rect, Path, Circle, Text or Group.
type Item interface{ svg(*svgWriter) }

// Line is an engraved or drawn line.
type Line struct {
	Class          string
	X1, Y1, X2, Y2 float64
	Stroke         string  // colour; "" takes the group's
	Width          float64 // 0 takes the group's
}

// Rect is a rectangle with corners of the given radius.
type Rect struct {
	Class      string
	X, Y, W, H float64
	Radius     float64
	Paint
}

// Path is an outline in SVG path syntax.
type Path struct {
	Class string
	D     string
	Paint
}

// Circle is a circle.
type Circle struct {
	Class   string
	X, Y, R float64
	Paint
}

// Paint is the fill and the outline of a shape; "" and 0 take the group's.
type Paint struct {
	Fill, Stroke string
	Width        float64
	Opacity      float64 // of the fill; 0 is full
	Dash         string
}

// Text is a numeral or word.
type Text struct {
	Class  string
	X, Y   float64 // of the baseline
	Size   float64
	Anchor string // start, middle or end
	Fill   string
	S      string
}

// Group moves and styles its items together.
type Group struct {
	Class  string
	DX, DY float64
	Scale  float64 // 0 is 1
	Paint
	Clip  string // name of a clip, as made by Clip
	Items []Item
}

// Clip is a rectangle outside which a group with its name is not painted.
type Clip struct {
	Name       string
	X, Y, W, H float64
}

// Gradient is a fill that runs from top to bottom, or from left to right, through its stops.
type Gradient struct {
	Name   string
	Across bool
	Stops  []Stop
}

// Stop is a colour at a share of a gradient's run, 0 to 1.
type Stop struct {
	At      float64
	Colour  string
	Opacity float64 // 0 is full
	Clear   bool    // not painted at all
}

func (s *Scene) add(items ...Item) { s.Items = append(s.Items, items...) }

// inSight lists the numbers of a scale that stand between two edges, for those who cannot see it: what a glance
// gives. Of a scale with a number at every mark it says nothing, since the last of them would be what it reads.
func (o Options) inSight(scale text.Text, every int, left, right float64, marks Group) string {
	var numbers []string
	for _, it := range marks.Items {
		g, _ := it.(Group)
		for _, n := range g.Items {
			if t, ok := n.(Text); ok && left <= t.X && t.X <= right {
				numbers = append(numbers, t.S)
			}
		}
	}
	if every <= 1 || len(numbers) == 0 {
		return ""
	}
	return " " + o.say(text.New("figure.in-sight", "scale", scale, "numbers", strings.Join(numbers, ", ")))
}

// pathf writes an outline with its numbers.
func pathf(format string, numbers ...any) string { return fmt.Sprintf(format, numbers...) }
