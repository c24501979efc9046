package figure

import (
	"cavix/core/limits"
	"cavix/core/text"
)

// Met says how a part meets a gauge.
type Met int

// The ways.
const (
	NotTried Met = iota
	Enters
	Stops
)

// metNames end the keys of what is said of a trial.
var metNames = map[Met]string{NotTried: "not-tried", Enters: "enters", Stops: "stops"}

// Trial draws a part before a gauge, in it, or stopped by it. Every part and every gauge is drawn alike, so that the
// drawing shows no size.
func Trial(kind limits.Kind, goes bool, met Met, o Options) *Scene {
	const width, height = 560.0, 190.0
	name := o.gaugeName(goes)
	sc := &Scene{Width: width, Height: height,
		Label: o.say(text.New("figure.trial-"+metNames[met], "gauge", name, "kind",
			text.New("gauge-kind."+string(kind)), "part", text.New("gauge-part."+string(kind))))}
	sc.add(steel...)
	at := map[Met]float64{NotTried: 220, Enters: 460, Stops: 306}[met] // of the face that goes first
	switch kind {
	case limits.Plug:
		// A block in section, with its bore; the plug comes from the left.
		sc.add(
			Rect{X: at - 130, Y: 62, W: 130, H: 66, Radius: 3, Paint: gaugeMetal},
			Rect{X: at - 210, Y: 80, W: 80, H: 30, Paint: gaugeGrip},
			Rect{X: 306, Y: 20, W: 200, H: 40, Paint: wholeWork},
			Rect{X: 306, Y: 130, W: 200, H: 40, Paint: wholeWork},
			Text{X: at - 65, Y: 101, Size: 17, Anchor: "middle", Fill: "#1C2830", S: name})
	case limits.Ring:
		// A ring in section; the shaft comes from the left.
		sc.add(
			Rect{X: at - 210, Y: 62, W: 210, H: 66, Radius: 2, Paint: wholeWork},
			Rect{X: 306, Y: 14, W: 96, H: 46, Radius: 3, Paint: gaugeMetal},
			Rect{X: 306, Y: 130, W: 96, H: 46, Radius: 3, Paint: gaugeMetal},
			Text{X: 354, Y: 43, Size: 16, Anchor: "middle", Fill: "#1C2830", S: name})
	default:
		// The jaws of a snap; the shaft is seen from its end and comes from the left.
		x := map[Met]float64{NotTried: 150, Enters: 356, Stops: 268}[met]
		sc.add(
			Circle{X: x, Y: 95, R: 34, Paint: wholeWork},
			Circle{X: x, Y: 95, R: 2, Paint: Paint{Fill: outline}},
			Path{D: "M306 14 H450 Q520 14 520 95 Q520 176 450 176 H306 V130 H430 V60 H306 Z", Paint: gaugeMetal},
			Text{X: 475, Y: 101, Size: 16, Anchor: "middle", Fill: "#1C2830", S: name})
	}
	if met != NotTried {
		colour, class, says := Verdigris, "onmat good", "option.enters"
		if met == Stops {
			colour, class, says = Madder, "onmat marked", "option.stops"
		}
		sc.add(Text{Class: class, X: 36, Y: 172, Size: 18, Anchor: "start", Fill: colour, S: o.say(text.New(says))})
	}
	return sc
}
