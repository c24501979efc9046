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

// put puts what is typed under the instrument: an object between its faces, a part on a stand after a standard, a wire
// under a microscope, or just a position.
func (v *view) put(f *form, in *instrument.Instrument) {
	standard := f.Number("standard", f.Standard, in.Unit())
	size := f.Number("object", f.Object, in.Unit())
	if len(f.Refusal) > 0 {
		return
	}
	compared := v.Compares && strings.TrimSpace(f.Standard) != ""
	switch {
	case f.Do == "standard" && !compared:
		f.Add("standard", "bench.hold.no-standard")
	case f.Do == "standard":
		v.Steps = tenths(in, Start(in))
	case strings.TrimSpace(f.Object) == "":
		if strings.HasPrefix(f.Do, "edge") || f.Do == "object" {
			f.Add("object", "bench.hold.no-object")
		}
	case v.Edged:
		v.focus(f, in, size.Value)
	case compared:
		v.compare(f, in, size.Value.Sub(standard.Value))
	default:
		v.hold(f, in, size.Value)
	}
}

// focus has the cross-wires of a microscope stand on one edge of a wire or bore, or on the other.
func (v *view) focus(f *form, in *instrument.Instrument, across length.Number) {
	half := across.Mul(length.Frac(1, 2))
	first, second := tenths(in, Start(in).Sub(half)), tenths(in, Start(in).Add(half))
	switch {
	case across.Sign() <= 0 || first < v.Low || second > v.High:
		_, to := in.Range()
		f.Add("object", "bench.hold.across", "most", text.Math(in.FormatMain(Start(in).Mul(length.Int(2)).Floor())),
			"range", text.Math(in.FormatMain(to)))
	case f.Do == "edge1":
		v.Steps = first
	case f.Do == "edge2":
		v.Steps = second
	}
}

// compare puts a part under an indicator that was set on a standard: the plunger moves by as much as they differ.
func (v *view) compare(f *form, in *instrument.Instrument, by length.Number) {
	if in.Spec().Fine.Anticlockwise {
		by = by.Neg()
	}
	at := tenths(in, Start(in).Add(by))
	if at < v.Low || at > v.High {
		f.Add("object", "bench.hold.out-of-travel")
		return
	}
	if f.Do == "object" {
		v.Steps = at
	}
}

// turned returns what an indicator shows at y once its bezel has been turned so that the pointer stood on 0 at zero.
// Whole turns are counted as before; what the face then cannot show is brought to its end.
func turned(in *instrument.Instrument, y, zero length.Number) length.Number {
	turn := in.Spec().Fine.Travel
	y = y.Sub(zero.Sub(turn.Mul(zero.Quo(turn).Round(0))))
	low, high := in.Range()
	switch {
	case y.Less(low):
		return low
	case high.Less(y):
		return high
	}
	return y
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
