package bench

import (
	"strconv"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
)

// care is the advice for each way of holding the work.
var care = map[figure.Hold]text.Text{
	figure.Outside: text.New("bench.hold.care"),
	figure.Inside:  text.New("bench.hold.burrs-sharp-inside-jaws"),
	figure.Depth:   text.New("bench.hold.keep-blade-beams-end"),
}

// hold puts an object of a true size between the faces: they cannot be brought closer than it. With the
// ratchet the drum only turns on; without it the faces can be pressed a little too far. An instrument without faces is
// only set to the size.
func (v *view) hold(f *form, in *instrument.Instrument, size length.Number) {
	y := size.Add(in.Spec().ZeroError)
	if y.Less(in.Closed()) {
		f.Add("object", "bench.hold.hold", "sub", text.Math(in.FormatMain(in.Closed().Sub(in.Spec().ZeroError))))
		return
	}
	touch := tenths(in, y)
	if touch > v.High {
		f.Add("object", "bench.hold.too-large-instrument")
		return
	}
	if f.Do == "object" {
		v.Steps = touch
	}
	if !v.Faces {
		return
	}
	v.Low = touch
	if !v.Ratchet {
		v.Low = max(0, touch-30)
	}
	switch {
	case v.Steps < touch && v.Ratchet:
		v.Held, v.Steps = text.New("bench.hold.faces-touch-ratchet-turns"), touch
	case v.Steps < touch:
		v.Held = text.New("bench.hold.pressed-too-hard-number")
	case v.Steps == touch:
		v.Held = text.New("bench.hold.faces-touch-light-even")
	}
}

// set sets the upright scale of a pair: to what is typed, and by so many least counts more.
func (v *view) set(f *form, in *instrument.Instrument, pair figure.Settable) {
	upright, _ := in.Second()
	y := figure.SetTo(upright)
	v.Pair, v.Upright = true, f.Upright
	v.Raises, _ = strconv.Atoi(f.Raises)
	if strings.TrimSpace(f.Upright) != "" {
		t := f.Number("upright", f.Upright, upright.Unit())
		if len(f.Refusal) > 0 {
			return
		}
		y = t.Value
	}
	if n, err := strconv.Atoi(f.Raise); err == nil {
		v.Raises++
		y = y.Add(upright.LeastCount().MulInt(max(-1000, min(n, 1000))))
	}
	if err := pair.Set(y); err != nil {
		f.Add("upright", "bench.hold.set", "err", err)
		return
	}
	if v.Upright == "" || f.Raise != "" {
		v.Upright = upright.Format(y)
	}
}
