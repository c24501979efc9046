package figure

import (
	"unicode/utf8"

	"cavix/core/text"
)

// Gauges draws limit gauges beside the parts they are tried on: a plug gauge and bored blocks, or a snap gauge and
// shafts. A gauge shows no number; the parts bear the sizes that they are said to have. All parts are drawn alike, so
// that the drawing tells nothing about how they meet the gauge.
func Gauges(hole bool, parts []text.Math, o Options) *Scene {
	const height, left, step = 190.0, 412.0, 124.0
	sc := &Scene{
		Width:  left + step*float64(max(3, len(parts))),
		Height: height,
		Label:  o.say(text.New("figure.snap")),
	}
	if hole {
		sc.Label = o.say(text.New("figure.plug"))
	}
	sc.add(steel...)
	if hole {
		sc.add(plugGauge(o)...)
	} else {
		sc.add(snapGauge(o)...)
	}
	for i, size := range parts {
		x := left + step*(float64(i)+.5)
		sc.add(part(hole, x)...)
		sc.add(Text{X: x, Y: 24, Size: 15, Anchor: "middle", Fill: "#5E6B73",
			S: o.say(text.New("figure.part", "n", i+1))}, Text{X: x, Y: height - 14, Size: 17, Anchor: "middle",
			Fill: "#1C2830", S: o.say(text.Numbers(size))})
	}
	return sc
}

var (
	gaugeMetal = Paint{Fill: "#:slide", Stroke: outline, Width: 1}
	gaugeGrip  = Paint{Fill: "#:beam", Stroke: outline, Width: 1}
)

// plugGauge is a handle with a long GO end and a short NO-GO end, which a ring marks.
func plugGauge(o Options) []Item {
	return []Item{
		Rect{X: 40, Y: 62, W: 130, H: 66, Radius: 3, Paint: gaugeMetal},
		Rect{X: 170, Y: 78, W: 150, H: 34, Paint: gaugeGrip},
		Rect{X: 320, Y: 60, W: 62, H: 70, Radius: 3, Paint: gaugeMetal},
		Rect{X: 308, Y: 74, W: 8, H: 42, Paint: Paint{Fill: "#9E3434"}},
		o.engraved(true, 105, 120, "#1C2830"),
		o.engraved(false, 351, 60, "#1C2830"),
	}
}

// snapGauge is a frame with a GO gap before a NO-GO gap, which a bar marks.
func snapGauge(o Options) []Item {
	return []Item{
		Path{
			D:     "M40 40 H330 Q390 40 390 95 Q390 150 330 150 H40 V128 H150 V126 H250 V64 H150 V62 H40 Z",
			Paint: gaugeMetal,
		},
		Line{X1: 150, Y1: 40, X2: 150, Y2: 62, Stroke: outline, Width: 1},
		Line{X1: 150, Y1: 128, X2: 150, Y2: 150, Stroke: outline, Width: 1},
		Rect{X: 262, Y: 78, W: 8, H: 34, Paint: Paint{Fill: "#9E3434"}},
		o.engraved(true, 95, 96, "#5E6B73"),
		o.engraved(false, 203, 88, "#5E6B73"),
	}
}

// gaugeName names the side of a gauge.
func (o Options) gaugeName(goes bool) string {
	if goes {
		return o.say(text.New("gauge.label-go"))
	}
	return o.say(text.New("gauge.label-no_go"))
}

// engraved is the name of a side of a gauge on its metal, of the given room, in px.
func (o Options) engraved(goes bool, x, room float64, colour string) Item {
	name := o.gaugeName(goes)
	size := min(17, room/(0.64*float64(utf8.RuneCountInString(name))))
	return Text{X: x, Y: 95 + size*0.36, Size: size, Anchor: "middle", Fill: colour, S: name}
}

// part is a bored block, or the end of a shaft.
func part(hole bool, x float64) []Item {
	work := Paint{Fill: "#:work", Stroke: outline, Width: 1}
	if !hole {
		return []Item{Circle{X: x, Y: 95, R: 40, Paint: work}, Circle{X: x, Y: 95, R: 2, Paint: Paint{Fill: outline}}}
	}
	return []Item{Rect{X: x - 52, Y: 43, W: 104, H: 104, Radius: 3, Paint: work},
		Circle{X: x, Y: 95, R: 36, Paint: Paint{Fill: "#37424A", Stroke: outline, Width: 1}}}
}
