// Package plot draws numbers as figures draws instruments: small charts from plain values, as scenes that the same
// writers set on pages, on paper and in pictures. On a page their colours follow its theme, by the classes of their
// items.
package plot

import (
	"fmt"
	"math"

	"cavix/core/text"
	"cavix/figure"
)

// The colours where no page gives others.
const (
	ink       = "#1C2830"
	steel     = "#56636B"
	verdigris = "#1D6B60"
	madder    = "#9E3434"
	rule      = "#C9C2AF"
)

// Event is one time that something could have happened, and did or did not.
type Event struct{ Did bool }

// Run draws events in their order along a rule: a short tick for each time that it did not happen, a tall wedge for
// each time that it did. What is the label says.
func Run(say *text.Printer, events []Event, what string) *figure.Scene {
	const step, height, base = 9.0, 26.0, 22.0
	did, since := 0, 0
	s := &figure.Scene{Width: step*float64(max(len(events), 12)) + 6, Height: height}
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: 0, Y1: base, X2: s.Width, Y2: base, Stroke: rule,
		Width: 1})
	for i, e := range events {
		x := 6 + step*float64(i)
		if !e.Did {
			since++
			s.Items = append(s.Items, figure.Line{Class: "not", X1: x, Y1: base - 7, X2: x, Y2: base, Stroke: verdigris,
				Width: 1.6})
			continue
		}
		did, since = did+1, 0
		s.Items = append(s.Items, figure.Path{Class: "did", D: fmt.Sprintf("M%g %gL%g %gL%g %gZ", x, base-20, x-3.6,
			base, x+3.6, base), Paint: figure.Paint{Fill: madder}})
	}
	s.Label = say.Say("plot.run", "what", what, "did", did, "n", len(events), "lately", lately(since))
	return s
}

// lately says how long something has not happened.
func lately(since int) text.Text {
	if since == 0 {
		return text.New("plot.last-time-too")
	}
	return text.New("plot.not-lately", "n", since)
}

// Column is one day or week: how many there were, and what share of them came out right, 0 to 1.
type Column struct {
	Name  string
	Count int
	Share float64
}

// Columns draws shares as columns on a common height, each with its count below and its name under that. A column that
// stands for few is drawn slimmer.
func Columns(say *text.Printer, list []Column, what string) *figure.Scene {
	const top, base, letter = 16.0, 96.0, 6.6
	step := 46.0
	for _, c := range list {
		step = max(step, letter*float64(len([]rune(c.Name)))+12)
	}
	s := &figure.Scene{Width: step*float64(max(len(list), 6)) + 8, Height: base + 36, Label: what + ":"}
	s.Items = append(s.Items, figure.Line{Class: "axis", X1: 0, Y1: base, X2: s.Width, Y2: base, Stroke: rule,
		Width: 1})
	most := 1
	for _, c := range list {
		most = max(most, c.Count)
	}
	for i, c := range list {
		x, h := step*float64(i)+step/2, (base-top)*min(max(c.Share, 0), 1)
		w := 10 + 22*float64(c.Count)/float64(most)
		s.Items = append(s.Items,
			figure.Rect{Class: "column", X: x - w/2, Y: base - h, W: w, H: h, Paint: figure.Paint{Fill: verdigris}},
			figure.Text{Class: "share", X: x, Y: base - h - 4, Size: 11.5, Anchor: "middle", Fill: ink,
				S: fmt.Sprintf("%.0f", 100*c.Share)},
			figure.Text{Class: "name", X: x, Y: base + 14, Size: 11.5, Anchor: "middle", Fill: ink, S: c.Name},
			figure.Text{Class: "count", X: x, Y: base + 29, Size: 11.5, Anchor: "middle", Fill: steel,
				S: fmt.Sprint(c.Count)})
		s.Label += " " + say.Say("plot.column", "name", c.Name, "percent", int(math.Round(100*c.Share)), "n", c.Count)
	}
	return s
}
