// Package bench is the Bench: an instrument that is moved freely by hand, held in the work, looked at from askew, and
// read step by step. Instructors stand before one of their Rack, students before those of their class, and the
// handbook's pages have small ones. Nothing is stored: a form says where the instrument stands, and is answered with it
// redrawn.
package bench

import (
	"embed"
	"net/http"
	"slices"
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Stand is an instrument on the Bench.
type Stand struct {
	Instrument *instrument.Instrument
	Said       *text.Printer
	Method     exercise.Method // by which it is read
	Action     string          // where the form goes
	Back       ui.Link
	Picture    string         // where it is had as a picture; "" where it is not
	ID         string         // keeps several on one page apart; "" for one alone
	At         *length.Number // where it stands at first; nil is somewhere on its scale
	Caption    string         // of a small one
}

// form is the form of the Bench, as it was sent.
type form struct {
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
	Standard  string `form:"standard"` // size of what an indicator is set on
	Steps     string `form:"steps"`    // where it stood
	Travel    string `form:"travel"`
	Turned    string `form:"turned"` // the face was turned to 0
	Uncover   string `form:"uncover"`
	Upright   string `form:"upright"`
	WasEdge   string `form:"was_edge"` // the edge it was looked at from
	Zeroed    string `form:"zeroed"`
}

// view is an instrument that is moved freely, with its reading uncovered step by step.
type view struct {
	Stand
	Name     string
	Made     text.Text
	Form     form
	Errors   map[string]text.Text
	Figure   ui.FigureView
	Steps    int // position, in tenths of a least count from the closed instrument
	Low      int // the least it can be brought to, and the most
	High     int
	Read     ui.Uncovered
	Held     text.Text // what the faces hold, or why they do not move
	Units    []length.Unit
	Digital  bool
	Locked   bool
	Ratchet  bool
	Names    bool
	Parallax text.Text
	Travels  bool // the window can be moved along the scale
	Care     text.Text
	Faces    bool // it holds a part between faces
	Compares bool // an indicator: a part is compared with a standard
	Edged    bool // it is set on one edge and then on the other
	Holds    bool // it has jaws for outside and inside, and a blade
	Edges    bool // the beam can be looked at from its other edge
	Opposite bool // its second scale is half a turn from the first
	Turns    bool // its face can be turned to 0

	Pair    bool   // it has an upright scale to set
	Upright string // what that is set to
	Raises  int    // how often it was set by its buttons
}

// Start is a place about a third up the scale where some line in the middle coincides.
func Start(in *instrument.Instrument) length.Number {
	from, to := in.Range()
	steps := to.Sub(from).Mul(length.Frac(1, 3)).Quo(in.ScaleInterval()).Floor()
	line := in.Lines() * in.FinerLines() * 2 / 5
	return from.Sub(in.Spec().ZeroError).Add(in.ScaleInterval().Mul(steps)).Add(in.LeastCount().MulInt(line))
}

// tenths counts tenths of a least count from the closed instrument to y, brought to the nearest.
func tenths(in *instrument.Instrument, y length.Number) int {
	n, _ := y.Sub(in.Lowest()).Quo(in.LeastCount()).MulInt(10).Add(length.Frac(1, 2)).Floor().Int64()
	return int(n)
}

// tenth is the indicated value so many tenths of a least count from the closed instrument.
func tenth(in *instrument.Instrument, n int) length.Number {
	return in.Lowest().Add(in.LeastCount().MulInt(n).Mul(length.Frac(1, 10)))
}

// Serve answers a request for a Bench of its own: the page, or where only the numbers are wanted, in the middle of a
// movement, those.
func Serve(site *ui.Site, w http.ResponseWriter, r *http.Request, st Stand) error {
	var f form
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	st.Said = ui.Said(r)
	v, err := newView(st, f, r.Method == http.MethodGet)
	switch {
	case err != nil:
		return err
	case f.Only == "numbers":
		return site.Fragment(w, r, "bench", "numbers", v.Read)
	}
	return site.Render(w, r, http.StatusOK, "bench", text.Row(text.Typed(v.Name), text.New("title.bench")), v)
}

// newView works out a form; fresh is one that was not sent yet.
func newView(st Stand, f form, fresh bool) (view, error) {
	in := st.Instrument
	v := view{Stand: st, Name: in.Name(), Made: in.Describe(), Digital: in.Traits().Digits, Names: f.Names != "",
		Ratchet: fresh || f.Ratchet != ""}
	second, role := in.Second()
	v.Faces, v.Compares, v.Edged = in.Definition().Squeezes(), in.Traits().Indicates, in.Definition().Open
	v.Holds = in.Traits().HasEdge && role == "" && in.Definition().MadeFor(instrument.Inside)
	v.Edges = second != nil && role != instrument.ToothDepthScale
	v.Opposite = role == instrument.Opposite
	v.Turns = in.Traits().CountsTurns && in.Spec().ZeroError.Sign() != 0
	if v.Digital {
		for _, u := range []length.Unit{length.Millimetre, length.Inch} {
			if in.Spec().Fine.Steps[u].Sign() > 0 {
				v.Units = append(v.Units, u)
			}
		}
	}
	if v.Turns && f.Turned != "" {
		turned, err := in.WithZeroError(length.Number{})
		if err != nil {
			return v, err
		}
		in = turned
	}
	if v.Edges {
		in = f.edge(in)
	}
	if fresh {
		at := Start(in)
		if st.At != nil {
			at = *st.At
		}
		v.Steps = tenths(in, at)
	} else {
		v.move(&f)
	}
	if err := v.show(&f, in); err != nil {
		return v, err
	}
	v.Form, v.Errors = f, f.By()
	return v, nil
}

// edge is the instrument as it is looked at from the edge that the form wants; where the form looked at it from the
// other before, its steps are turned into those of this one.
func (f *form) edge(in *instrument.Instrument) *instrument.Instrument {
	other, was := in.Swapped(), f.WasEdge
	f.WasEdge = f.Edge
	n, err := strconv.Atoi(f.Steps)
	switch {
	case f.Edge == "second":
		if err == nil && was != "second" {
			f.Steps = strconv.Itoa(tenths(other, in.OnSecond(tenth(in, n))))
		}
		return other
	case was == "second" && err == nil:
		f.Steps = strconv.Itoa(tenths(in, other.OnSecond(tenth(other, n))))
	}
	return in
}

// move brings the instrument where the form wants it: by so many tenths of a least count from where it
// stood, as far as the lock allows.
func (v *view) move(f *form) {
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
		v.Steps, v.Held = was, text.New("bench.move")
	}
}

// show fills in the view at the position.
func (v *view) show(f *form, in *instrument.Instrument) error {
	_, to := in.Range()
	v.Low, v.High = 0, tenths(in, to)
	v.put(f, in)
	v.Steps = max(v.Low, min(v.Steps, v.High))
	y := tenth(in, v.Steps)
	eye, _ := ui.Slider(f.Eye, 2)
	if eye != 0 && in.HasFine() {
		v.Parallax = text.New("bench.show")
	}
	if v.Holds {
		v.Care = care[figure.Hold(f.Hold)]
	}
	o := figure.Options{Said: v.Said, Loose: true, Names: v.Names, Eye: eye, Hold: figure.Hold(f.Hold)}
	shown, at, err := v.display(f, in, y, &o)
	if err != nil {
		return err
	}
	sight, err := v.read(f, shown, at, o.Shows)
	if err != nil || f.Only == "numbers" {
		return err
	}
	look := -1
	if v.Read.Uncover > 0 && in.HasFine() {
		p := sight.Pointing("")
		if v.Read.Uncover == 1 { // the mark alone
			p.Line, p.LineText, p.FinerLine = -1, text.Text{}, nil
		} else if v.ID == "" {
			look = p.Look
		}
		o.Flags = &p
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
	v.Figure, err = ui.FigureOf(d, ui.Looking{ID: "bench" + v.ID, Line: look, Moves: true, Options: o})
	return err
}

// display switches a display to another unit and zeroes it where that is wanted, and turns the bezel of an indicator;
// any other instrument is shown as it is.
func (v *view) display(f *form, in *instrument.Instrument, y length.Number, o *figure.Options) (*instrument.Instrument,
	length.Number, error) {
	if f.Do == "zero" {
		f.Zeroed = strconv.Itoa(v.Steps)
	}
	if n, err := strconv.Atoi(f.Zeroed); err == nil && v.Compares {
		return in, turned(in, y, tenth(in, n)), nil
	}
	if !v.Digital {
		return in, y, nil
	}
	shown, at := in, y
	if u := length.Unit(f.Display); u != in.Unit() && slices.Contains(v.Units, u) {
		other, err := in.InUnit(u)
		if err != nil {
			return nil, y, err
		}
		shown, at = other, length.Convert(y, in.Unit(), u)
	}
	if n, err := strconv.Atoi(f.Zeroed); err == nil {
		says := shown.Format(shown.Displayed(at, length.Convert(tenth(in, n), in.Unit(), shown.Unit())))
		o.Shows = &says
	}
	return shown, at, nil
}
