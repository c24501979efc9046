package author

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/figure"
	"cavix/web/ui"
)

// benchForm is the form of the Bench, as it was sent.
type benchForm struct {
	ui.Faults `form:"-"`
	Display   string `form:"display"`
	Do        string `form:"do"` // a button
	Edge      string `form:"edge"`
	Eye       string `form:"eye"`
	Hold      string `form:"hold"`
	Lock      string `form:"lock"`
	Moved     string `form:"moved"` // by how many tenths of a least count the hand has moved it
	Names     string `form:"names"`
	Object    string `form:"object"`
	Only      string `form:"only"` // what of the page is wanted
	Raise     string `form:"raise"`
	Raises    string `form:"raises"`
	Ratchet   string `form:"ratchet"`
	Steps     string `form:"steps"` // where it stood
	Travel    string `form:"travel"`
	Uncover   string `form:"uncover"`
	Upright   string `form:"upright"`
	WasEdge   string `form:"was_edge"` // the edge it was looked at from
	Zeroed    string `form:"zeroed"`
}

// benchView is an instrument that is moved freely, with its reading uncovered step by step.
type benchView struct {
	ID       int64
	Name     string
	Made     string
	Form     benchForm
	Errors   map[string]string
	Figure   ui.FigureView
	Numbers  bool // only the numbers are asked for, in the middle of a movement
	Steps    int  // position, in tenths of a least count from the closed instrument
	Low      int  // the least it can be brought to, and the most
	High     int
	Uncover  int
	Covered  bool // something is still covered
	Parts    []part
	Held     string // what the faces hold, or why they do not move
	Units    []length.Unit
	Digital  bool
	Locked   bool
	Ratchet  bool
	Names    bool
	Parallax string
	Travels  bool // the window can be moved along the scale
	Care     string
	Holds    bool // it has jaws for outside and inside, and a blade
	Edges    bool // the beam can be looked at from its other edge

	Pair    bool   // it has an upright scale to set
	Upright string // what that is set to
	Raises  int    // how often it was set by its buttons
}

// care is what to mind with each way of holding the work.
var care = map[figure.Hold]string{
	figure.Outside: "Measure only work that stands still; take it well inside the {jaws}, square.",
	figure.Inside:  "Burrs and sharp inside {jaws} cut: deburr first, and keep fingers off the points.",
	figure.Depth:   "Keep the blade and the beam’s end upright, flat on the part.",
}

// tenths counts tenths of a least count from the closed instrument to y, brought to the nearest.
func tenths(in *instrument.Instrument, y length.Number) int {
	n, _ := y.Sub(in.Closed()).Quo(in.LeastCount()).MulInt(10).Add(length.Frac(1, 2)).Floor().Int64()
	return int(n)
}

// tenth is the indicated value so many tenths of a least count from the closed instrument.
func tenth(in *instrument.Instrument, n int) length.Number {
	return in.Closed().Add(in.LeastCount().MulInt(n).Mul(length.Frac(1, 10)))
}

// bench serves the Bench: a form whose fields say where the instrument stands, redrawn at every change.
// Nothing is stored.
func (s Shop) bench(w http.ResponseWriter, r *http.Request) error {
	k, err := s.racked(r)
	if err != nil {
		return err
	}
	var f benchForm
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	in := k.Instrument
	v := benchView{ID: k.ID, Name: in.Name(), Made: in.Describe(), Numbers: f.Only == "numbers",
		Digital: in.Kind() == instrument.Display, Names: f.Names != "",
		Ratchet: r.Method == http.MethodGet || f.Ratchet != ""}
	second, role := in.Second()
	v.Holds = in.Kind() == instrument.Vernier && role == ""
	if v.Digital {
		for _, u := range []length.Unit{length.Millimetre, length.Inch} {
			if in.Spec().Fine.Steps[u].Sign() > 0 {
				v.Units = append(v.Units, u)
			}
		}
	}
	if v.Edges = second != nil && role != instrument.Upright; v.Edges && f.Edge == "second" {
		other := in.Swapped()
		if n, err := strconv.Atoi(f.Steps); err == nil && f.WasEdge != "second" {
			f.Steps = strconv.Itoa(tenths(other, in.OnSecond(tenth(in, n))))
		}
		in = other
	} else if v.Edges && f.WasEdge == "second" {
		other := in.Swapped()
		if n, err := strconv.Atoi(f.Steps); err == nil {
			f.Steps = strconv.Itoa(tenths(in, other.OnSecond(tenth(other, n))))
		}
	}
	f.WasEdge = f.Edge
	if r.Method == http.MethodGet {
		v.Steps = tenths(in, startPosition(in))
	} else {
		v.move(&f, in)
	}
	if err := v.show(&f, in); err != nil {
		return err
	}
	v.Form, v.Errors = f, f.By()
	if v.Numbers {
		return s.Fragment(w, r, "bench", "numbers", v)
	}
	return s.Render(w, r, http.StatusOK, "bench", v.Name+" · Bench", v)
}

// move brings the instrument where the form wants it: by so many tenths of a least count from where it
// stood, as far as the lock allows.
func (v *benchView) move(f *benchForm, in *instrument.Instrument) {
	v.Steps, _ = strconv.Atoi(f.Steps)
	was := v.Steps
	if n, err := strconv.Atoi(f.Moved); err == nil {
		v.Steps += n
	}
	if f.Do == "close" {
		v.Steps = 0
	}
	v.Locked = f.Lock != ""
	if f.Do == "lock" {
		v.Locked = !v.Locked
	}
	if v.Locked && v.Steps != was {
		v.Steps, v.Held = was, "The lock is on: release it to move."
	}
}

// show fills in the view at the position.
func (v *benchView) show(f *benchForm, in *instrument.Instrument) error {
	_, to := in.Range()
	v.Low, v.High = 0, tenths(in, to)
	size := f.Number("object", f.Object, in.Unit())
	if strings.TrimSpace(f.Object) != "" && len(f.Refusal) == 0 {
		v.hold(f, in, size.Value)
	}
	v.Steps = max(v.Low, min(v.Steps, v.High))
	y := tenth(in, v.Steps)
	eye, _ := strconv.ParseFloat(f.Eye, 64)
	eye = max(-2, min(eye, 2))
	if eye != 0 && in.HasFine() {
		v.Parallax = "The eye is off square: the {line}s seem to stand elsewhere than they do. The numbers beside are those of the true position."
	}

	if v.Holds {
		v.Care = care[figure.Hold(f.Hold)]
	}

	shown, at := in, y
	o := figure.Options{Loose: true, Names: v.Names, Eye: eye, Hold: figure.Hold(f.Hold)}
	if v.Digital {
		if u := length.Unit(f.Display); u != "" && u != in.Unit() {
			other, err := in.InUnit(u)
			if err != nil {
				return err
			}
			shown, at = other, length.Convert(y, in.Unit(), u)
		}
		if f.Do == "zero" {
			f.Zeroed = strconv.Itoa(v.Steps)
		}
		if n, err := strconv.Atoi(f.Zeroed); err == nil {
			text := shown.Format(shown.Displayed(at, length.Convert(tenth(in, n), in.Unit(), shown.Unit())))
			o.Shows = &text
		}
	}
	r, err := shown.Read(at)
	if err != nil {
		return err
	}
	v.uncover(f, shown, r, o.Shows)
	if v.Numbers {
		return nil
	}
	if v.Uncover > 0 && in.HasFine() {
		o.Flags = &figure.Flags{Mark: r.Main, MarkText: exercise.Show(in.FormatMain(r.Main)) + " " + string(in.Unit()),
			Line: r.Line, LineText: fmt.Sprintf("{line} %d", r.Line)}
		if in.HasFiner() {
			o.Flags.FinerLine = &r.FinerLine
		}
	}
	d, err := figure.Lay(shown, at, figure.Wide)
	if err != nil {
		return err
	}
	if t, ok := d.(figure.Travelling); ok {
		v.Travels = true
		divisions, _ := strconv.Atoi(f.Travel)
		t.Travel(max(-2000, min(divisions, 2000)))
	}
	if pair, ok := d.(figure.Settable); ok {
		v.set(f, in, pair)
	}
	v.Figure, err = ui.FigureOf(d, ui.Looking{ID: "bench", Line: -1, Moves: true, Options: o})
	return err
}

// set sets the upright scale of a pair: to what is typed, and by so many least counts more.
func (v *benchView) set(f *benchForm, in *instrument.Instrument, pair figure.Settable) {
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
		f.Add("upright", "cannot be: %s", err)
		return
	}
	if v.Upright == "" || f.Raise != "" {
		v.Upright = upright.Format(y)
	}
}

// hold puts an object of a true size between the faces: they cannot be brought closer than it. With the
// ratchet the drum only turns on; without it the faces can be pressed a little too far.
func (v *benchView) hold(f *benchForm, in *instrument.Instrument, size length.Number) {
	y := size.Add(in.Spec().ZeroError)
	if y.Less(in.Closed()) {
		f.Add("object", "must be %s or more, the least this instrument can measure",
			exercise.Show(in.FormatMain(in.Closed().Sub(in.Spec().ZeroError))))
		return
	}
	touch := tenths(in, y)
	if touch > v.High {
		f.Add("object", "is too large for this instrument")
		return
	}
	if f.Do == "object" {
		v.Steps = touch
	}
	v.Low = touch
	if !v.Ratchet {
		v.Low = max(0, touch-30)
	}
	switch {
	case v.Steps < touch && v.Ratchet:
		v.Held, v.Steps = "The {faces} touch: the {ratchet} turns on, the spindle stays.", touch
	case v.Steps < touch:
		v.Held = "Pressed too hard: the number is too small. Never press harder to get a better number; use the {ratchet}."
	case v.Steps == touch:
		v.Held = "The {faces} touch it, with light even force."
	}
}

// uncover lists the parts of the reading, as many as are uncovered.
func (v *benchView) uncover(f *benchForm, in *instrument.Instrument, r instrument.Reading, shows *string) {
	unit := " " + string(in.Unit())
	var all []part
	if in.Kind() != instrument.Display {
		all = append(all, part{Name: "{main reading}", Value: exercise.Show(in.FormatMain(r.Main)) + unit})
	}
	if in.HasFine() {
		all = append(all, part{Name: fmt.Sprintf("{line} %d × %s", r.Line, in.FormatMain(in.LineWorth())),
			Value: in.Format(r.Fine) + unit})
	}
	if in.HasFiner() {
		all = append(all, part{Name: fmt.Sprintf("{finer line} %d × %s", r.FinerLine, in.FormatMain(in.LeastCount())),
			Value: in.Format(r.Finer) + unit})
	}
	observed := exercise.Show(in.Format(r.Observed))
	if shows != nil {
		all = append(all, part{Name: "shown, from where it was zeroed", Value: exercise.Show(*shows) + unit})
	}
	all = append(all, part{Name: "{observed reading}", Value: observed + unit, Total: true},
		part{Name: "corrected: " + observed + " − (" + exercise.Show(in.Format(r.ZeroError)) + ")",
			Value: exercise.Show(in.Format(r.Corrected)) + unit, Total: true})
	v.Uncover, _ = strconv.Atoi(f.Uncover)
	switch f.Do {
	case "next":
		v.Uncover++
	case "all":
		v.Uncover = len(all)
	case "cover":
		v.Uncover = 0
	}
	v.Uncover = max(0, min(v.Uncover, len(all)))
	for i := range all {
		if i >= v.Uncover {
			all[i].Name, all[i].Value = coverName(all[i], in), "covered"
			v.Covered = true
		}
	}
	v.Parts = all
}

// coverName is the name of a part whose numbers are still covered.
func coverName(p part, in *instrument.Instrument) string {
	switch {
	case strings.HasPrefix(p.Name, "{finer line}"):
		return "{finer line}"
	case strings.HasPrefix(p.Name, "line"):
		return "{line} × " + in.FormatMain(in.LineWorth())
	case strings.HasPrefix(p.Name, "corrected"):
		return "{corrected reading}"
	}
	return p.Name
}
