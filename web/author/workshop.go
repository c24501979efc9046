package author

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/figure"
	"cavix/school/rack"
	"cavix/web/bench"
	"cavix/web/ui"
)

// workshopView is printed by the Workshop: the form as it was typed, and the last instrument that can
// exist with all that is derived from it.
type workshopView struct {
	said     *text.Printer
	Action   string // where the form goes
	Kept     int64  // id on the Rack; 0 for a new one
	Saved    bool   // it was put on the Rack just now
	Restored bool   // an earlier state was brought back just now
	Earlier  int    // earlier states that can be brought back
	Rename   string // the name on the Rack, where another is to be kept and it must be said which is meant
	Clash    *clashView
	Changed  bool // the form has been changed since
	Text     ui.Texts
	Errors   map[string]text.Text
	Last     string // document of the last good instrument
	Names    bool   // of the parts are shown
	Edges    bool   // the beam can be looked at from its other edge
	Stale    bool   // what is shown is the last good one, not what is typed
	Summary  text.Text

	Misnumbering text.Text // which number on the main scale misleads
	NumberStep   string    // that would be true

	Open     ui.FigureView
	Closed   template.HTML
	At       text.Math // the indicated value shown
	Slide    int       // the same, in least counts from the closed instrument
	SlideMax int

	LeastCount string
	Unit       string
	Derivation []text.Text
	Family     instrument.Family // of what is shown
	Form       text.Text         // of a plate
	Parts      []part
	Upright    []part // of a pair: what its upright scale is set to
	Zero       zeroView
	Ways       []wayView
	WaysError  text.Text
}

// clashView shows an instrument as it is kept, where it was changed in another window.
type clashView struct {
	Made                text.Text
	LeastCount, Picture string
	Differences         []difference
}

// difference is a field that two states of the same thing have otherwise.
type difference struct {
	Name       text.Text
	Kept, Mine string
}

// newClash compares what is on the Rack with the form.
func newClash(k rack.Racked, mine ui.Texts) *clashView {
	in := k.Instrument
	c := &clashView{Made: in.Describe(), LeastCount: in.Unit().With(in.FormatMain(in.LeastCount())),
		Picture: fmt.Sprintf("/rack/%d/hung?v=%s", k.ID, bench.Hung(k.Document))}
	kept := ui.TextsOf(formOf(in))
	for _, f := range comparedFields {
		if was, now := strings.TrimSpace(kept[f.name]), strings.TrimSpace(mine[f.name]); was != now {
			c.Differences = append(c.Differences, difference{f.label, was, now})
		}
	}
	return c
}

// comparedFields are the fields that two states of an instrument are compared by.
var comparedFields = []struct {
	name  string
	label text.Text
}{
	{"name", text.New("author.workshop.compared-fields")}, {"family", text.New("author.workshop.family-b")},
	{"unit", text.New("author.workshop.unit")}, {"main.division", text.New("author.workshop.division")},
	{"main.from", text.New("author.workshop.from")}, {"main.to", text.New("author.workshop.to")},
	{"main.number_every", text.New("author.workshop.number-every")},
	{"main.number_step", text.New("author.workshop.number-step")},
	{"fine.divisions", text.New("author.workshop.lines")},
	{"fine.spans", text.New("author.workshop.over-main-divisions")},
	{"fine.travel", text.New("author.workshop.travel-turn")}, {"fine.zeros", text.New("author.workshop.zeros")},
	{"finer.divisions", text.New("author.workshop.finer-lines")},
	{"zero_error", text.New("author.workshop.zero-error")},
	{"base", text.New("author.workshop.base-b")}, {"second.role", text.New("author.workshop.second-scale")},
	{"second.zero_error", text.New("author.workshop.zero-error-second-scale")},
}

// fieldView is one labelled field of the Workshop's form.
type fieldView struct {
	Name        string
	Label, Hint text.Text
	Value       string
	Error       text.Text
}

// Field is a field of the form.
func (v workshopView) Field(name string, label text.Text, hint ...text.Text) fieldView {
	return fieldView{name, label, text.Row(hint...), v.Text[name], v.Errors[name]}
}

// FineKind is the kind of fine scale of the family that is chosen; its fields stand in a partial of that name.
func (v workshopView) FineKind() string {
	f := workForm{Family: v.Text["family"]}
	f.Fine.Kind = v.Text["fine.kind"]
	return string(f.kind())
}

// Kinds lists the kinds of fine scale to choose from; one of them leaves no choice.
func (v workshopView) Kinds() []ui.OptionView {
	var out []ui.OptionView
	for _, k := range instrument.Family(v.Text["family"]).Kinds() {
		out = append(out, ui.OptionView{Value: string(k), Text: text.New("author.workshop.kind-" + string(k)),
			On: string(k) == v.FineKind()})
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// definition is that of the family that is chosen.
func (v workshopView) definition() instrument.Definition {
	for _, d := range instrument.Families {
		if d.Family == instrument.Family(v.Text["family"]) {
			return d
		}
	}
	return instrument.Families[0]
}

// Roles lists what a second scale of the family may be for.
func (v workshopView) Roles() []instrument.Role { return v.definition().Seconds }

// Angular reports whether the form is in degrees.
func (v workshopView) Angular() bool { return length.Unit(v.Text["unit"]).Angular() }

// Bare reports whether the family has no main scale.
func (v workshopView) Bare() bool { return v.definition().Scale.Traits().Signed }

// Indicates reports whether a part turns the pointer of the family.
func (v workshopView) Indicates() bool { return v.definition().Scale.Traits().Indicates }

// Reversible reports whether the main numbers of a family with a plate may rise either way.
func (v workshopView) Reversible() bool { return v.definition().Scale.Traits().BothWays }

// Paired reports whether the family that is chosen has an upright scale beside the one that reads.
func (v workshopView) Paired() bool { return instrument.Family(v.Text["family"]).Paired() }

// SecondBase returns the label of the base of a second scale.
func (v workshopView) SecondBase() text.Text {
	switch instrument.Role(v.Text["second.role"]) {
	case instrument.InsidePlate:
		return text.New("author.workshop.second-base")
	case instrument.ToothDepthScale:
		return text.New("author.workshop.offset-tongue")
	}
	return text.New("author.workshop.base-c")
}

// Forms and Units are what else there is to choose from.
func (v workshopView) Forms() []ui.OptionView {
	var out []ui.OptionView
	for _, form := range []string{"short", "long", "retrograde"} {
		out = append(out, ui.OptionView{Value: form, Text: text.New("form." + form), On: v.Form.Key() == "form."+form})
	}
	return out
}

func (v workshopView) Units() []length.Unit {
	switch d := v.definition(); {
	case d.AnglesOnly:
		return []length.Unit{length.Degree}
	case d.Angles:
		return append(slices.Clone(units), length.Degree)
	}
	return units
}

var units = []length.Unit{length.Millimetre, length.Centimetre, length.Inch}

// part is one line of a reading, as the facts panel lists it.
type part struct {
	Value text.Math
	Name  text.Text
	Total bool
}

// zeroView says what the zero error does.
type zeroView struct {
	Story      text.Text
	FromEnd    text.Math
	SignedMain text.Math
	Effect     text.Text
}

// wayView is a way to build the wanted least count, and the value of the button that takes it.
type wayView struct {
	Made   text.Text
	Remark text.Text
	Use    string
}

// Families lists the families to choose from.
func (v workshopView) Families() []ui.OptionView {
	on := instrument.Family(v.Text["family"])
	var out []ui.OptionView
	for _, f := range instrument.Families {
		out = append(out, ui.OptionView{Value: string(f.Family), Text: f.Name, On: f.Family == on})
	}
	return out
}

// Patterns lists the ready instruments of the family.
func (v workshopView) Patterns() []ui.OptionView {
	of := instrument.Family(v.Text["family"])
	var out []ui.OptionView
	for _, p := range instrument.Patterns() {
		if p.Family == of {
			out = append(out, ui.OptionView{Value: p.Name, Text: instrument.PatternTitle(p.Name)})
		}
	}
	return out
}

// patternOf returns the ready instrument of a name, or else the usual one of the family or, if that is unknown, of the
// first.
func patternOf(family instrument.Family, name string) *instrument.Instrument {
	spec, known := instrument.PatternNamed(name)
	if !known {
		spec, known = family.Usual()
	}
	if !known {
		spec, _ = instrument.Families[0].Family.Usual()
	}
	in, err := instrument.New(spec)
	if err != nil {
		panic(err) // the patterns are constants, and a test makes each
	}
	return in
}

func (h Handler) workshop(w http.ResponseWriter, r *http.Request) error {
	q := r.URL.Query()
	in, kept, stamp := patternOf(instrument.Family(q.Get("family")), q.Get("pattern")), int64(0), ""
	if chi.URLParam(r, "instrument") != "" {
		k, err := h.racked(r)
		if err != nil {
			return err
		}
		in, kept, stamp = k.Instrument, k.ID, k.Stamp()
	}
	v := workshopView{said: ui.Said(r), Kept: kept, Saved: q.Has("kept"), Restored: q.Has("restored")}
	f := formOf(in)
	f.Stamp = stamp
	if kept == 0 {
		f.Name = "" // a pattern is not yet an instrument of somebody's
	}
	v.Text = ui.TextsOf(f)
	if err := v.show(in, bench.Start(in)); err != nil {
		return err
	}
	if err := v.remember(in); err != nil {
		return err
	}
	return h.showWorkshop(w, r, http.StatusOK, v)
}

// workshopPost redraws the form as it stands, and keeps the instrument when it is asked to.
func (h Handler) workshopPost(w http.ResponseWriter, r *http.Request) error {
	f := &workForm{}
	if err := ui.Decode(r, f); err != nil {
		return err
	}
	v, racked := workshopView{said: ui.Said(r), Changed: true}, rack.Racked{}
	if chi.URLParam(r, "instrument") != "" {
		k, err := h.racked(r)
		if err != nil {
			return err
		}
		v.Kept, racked = k.ID, k
	}
	f.press()
	f.WasFamily = f.Family
	spec := f.spec()
	in, err := instrument.New(spec)
	if len(f.Refusal) > 0 { // what cannot be read comes before what cannot exist
		in = nil
	} else if err = f.Take("", err); err != nil {
		return err
	}
	keep := slices.Contains([]string{"keep", "rename", "another", "overwrite"}, f.Do)
	if keep && spec.Name == "" {
		f.Add("name", "author.workshop.workshop-post")
	}
	good := in
	if v.Stale = good == nil; v.Stale {
		good = lastGood(f)
	}
	shown, y := f.edge(good)
	v.Text = ui.TextsOf(*f)
	v.Errors = f.By()
	if keep && len(v.Errors) == 0 {
		if f.Do == "keep" && v.Kept != 0 && spec.Name != racked.Name {
			v.Rename = racked.Name
		} else {
			n, err := h.keep(r, f, racked, in)
			if !errors.Is(err, rack.ErrChangedMeanwhile) {
				return h.Redirect(w, r, fmt.Sprintf("/workshop/%d?kept", n), text.Text{}, err)
			}
			v.Clash = newClash(racked, v.Text)
		}
	}
	v.Names = f.Names != ""
	if err := v.show(shown, y); err != nil {
		return err
	}
	if err := v.remember(good); err != nil {
		return err
	}
	if f.Do == "ways" || f.Want != "" {
		v.ways(f)
	}
	status := http.StatusOK
	switch {
	case len(v.Errors) > 0:
		status = http.StatusUnprocessableEntity
	case v.Rename != "" || v.Clash != nil:
		status = http.StatusConflict
	}
	return h.showWorkshop(w, r, status, v)
}

// keep puts an instrument on the Rack: in place of the one that is changed, or beside it.
func (h Handler) keep(r *http.Request, f *workForm, racked rack.Racked, in *instrument.Instrument) (int64, error) {
	owner := ui.UserOf(r).ID
	switch {
	case racked.ID == 0 || f.Do == "another":
		return h.School.Rack.KeepAnother(r.Context(), owner, in)
	case f.Do == "overwrite":
		return h.School.Rack.KeepInstrument(r.Context(), owner, racked.ID, in)
	}
	return racked.ID, h.School.Rack.ReplaceInstrument(r.Context(), owner, racked.ID, f.Stamp, in)
}

func (h Handler) showWorkshop(w http.ResponseWriter, r *http.Request, status int, v workshopView) error {
	v.Action = "/workshop"
	if v.Kept != 0 {
		v.Action = fmt.Sprintf("/workshop/%d", v.Kept)
		earlier, err := h.School.Rack.EarlierInstruments(r.Context(), ui.UserOf(r).ID, v.Kept)
		if err != nil {
			return err
		}
		v.Earlier = len(earlier)
	}
	return h.Render(w, r, status, "workshop", text.New("author.workshop.show-workshop"), v)
}

// show fills in all that is derived from the instrument at y.
func (v *workshopView) show(in *instrument.Instrument, y length.Number) error {
	r, err := in.Read(y)
	if err != nil {
		return err
	}
	v.Summary = in.Describe()
	at, _, _ := in.Misnumbered()
	v.Misnumbering, v.NumberStep = in.Misnumbering(), in.FormatMain(at)
	width := figure.Narrow
	if in.Traits().GoesRound {
		width = figure.Stage // with the lens upright beside it
	}
	shown := exercise.Figure{Instrument: in, At: y}
	look := ui.Looking{ID: "open", Width: width, Line: r.Line, Options: figure.Options{Said: v.said, Names: v.Names}}
	if upright, role := in.Second(); role == instrument.ToothDepthScale {
		set := v.upright(upright)
		shown.Upright = &set.Indicated
		v.Upright = []part{
			{Name: text.ShortWord("main reading"), Value: text.Math(upright.FormatMain(set.Main))},
			{Name: text.New("author.workshop.show.name", "line", set.Line, "least_count",
				text.Math(upright.FormatMain(upright.LeastCount()))), Value: text.Math(upright.Format(set.Fine))},
			{Name: text.New("author.workshop.show.set"), Value: text.Math(upright.Format(set.Observed)), Total: true},
		}
		if set.Base.Sign() != 0 {
			v.Upright = append([]part{{Name: text.New("author.workshop.show.tongues-offset"),
				Value: text.Math(upright.FormatMain(set.Base))}}, v.Upright...)
		}
	}
	if v.Open, err = ui.NewFigure(shown, look); err != nil {
		return err
	}
	closed := slips.ClosedPointing(in, "closed")
	shut, err := figure.Lay(in, in.Closed(), figure.Narrow)
	if err != nil {
		return err
	}
	v.Closed = ui.Drawing(shut.Scene(figure.Options{Said: v.said, Flags: &closed}), "closed", "fig")
	v.At = text.Math(in.Format(y))
	_, to := in.Range()
	v.Slide, v.SlideMax = steps(in, y), steps(in, to)
	v.Unit, v.LeastCount = in.UnitSign(), in.FormatMain(in.LeastCount())
	v.Derivation, v.Family = in.Derivation(), in.Spec().Family
	if in.Traits().HasEdge {
		v.Form = in.Form().Text()
	}

	main := func(name text.Text, n length.Number) part {
		return part{Name: name, Value: text.Math(in.FormatMain(n))}
	}
	value := func(name text.Text, n length.Number) part {
		return part{Name: name, Value: text.Math(in.Format(n))}
	}
	total := func(p part) part { p.Total = true; return p }
	if r.Base.Sign() != 0 {
		v.Parts = append(v.Parts, main(text.New("author.workshop.base"), r.Base))
	}
	if in.Traits().HasMarks {
		v.Parts = append(v.Parts, main(text.ShortWord("main reading"), r.Main))
	}
	if in.HasFine() {
		v.Parts = append(v.Parts, value(text.New("author.workshop.show", "line", r.Line, "line_worth",
			text.Math(in.FormatMain(in.LineWorth()))), r.Fine))
	}
	if in.HasFiner() {
		v.Parts = append(v.Parts, value(text.New("author.workshop.finer-line", "finer_line", r.FinerLine, "least_count",
			v.LeastCount), r.ThimbleVernier))
	}
	v.Parts = append(v.Parts, total(value(text.ShortWord("observed reading"), r.Observed)),
		value(text.Word("zero error"), r.ZeroError), total(value(text.ShortWord("corrected reading"), r.Corrected)))

	v.Zero.Story = in.ZeroStory()
	if r.ZeroError.Sign() != 0 {
		equals := text.Math(" = " + in.Unit().With(in.Format(r.ZeroError)))
		v.Zero.SignedMain = in.ZeroWork(true) + equals
		if back := in.ZeroWork(false) + equals; in.HasFine() && back != v.Zero.SignedMain {
			v.Zero.FromEnd = back
		}
		off := "large"
		if r.ZeroError.Sign() < 0 {
			off = "small"
		}
		v.Zero.Effect = text.New("author.workshop.effect-"+off, "by", text.Math(in.Format(r.ZeroError.Abs())), "unit",
			in.Unit(), "zero_error", text.Math(in.Format(r.ZeroError)))
	}
	return nil
}

// upright returns what the upright scale of a pair reads where the form sets it, or where it is drawn unset.
func (v *workshopView) upright(in *instrument.Instrument) instrument.Reading {
	y := figure.SetTo(in)
	if says := strings.TrimSpace(v.Text["upright"]); says != "" {
		t, err := length.ReadTyped(says)
		if err == nil {
			if _, err = in.Read(t.Value); err == nil {
				y = t.Value
			}
		}
		if err != nil {
			if v.Errors == nil {
				v.Errors = map[string]text.Text{}
			}
			v.Errors["upright"] = text.New("author.workshop.upright", "err", err)
		}
	}
	r, err := in.Read(y)
	if err != nil {
		return instrument.Reading{Indicated: figure.SetTo(in)}
	}
	return r
}

// steps counts least counts from the lowest value.
func steps(in *instrument.Instrument, y length.Number) int {
	n, _ := y.Sub(in.Lowest()).Quo(in.LeastCount()).Floor().Int64()
	return int(n)
}

// ways lists the verniers that give the least count that was asked for.
func (v *workshopView) ways(f *workForm) {
	unit := length.Unit(f.Unit)
	if strings.TrimSpace(f.Want) == "" {
		v.WaysError = text.New("author.workshop.ways")
		return
	}
	want := f.Number("want", f.Want, unit)
	division := length.Typed{}
	if f.WantDivision != "" {
		division = f.Number("want_division", f.WantDivision, unit)
	}
	if errs := f.By(); !errs["want"].IsZero() || !errs["want_division"].IsZero() {
		v.WaysError = text.Run(errs["want"], errs["want_division"])
		return
	}
	ways, err := instrument.Propose(instrument.Family(f.Family), unit, want.Value, division.Value)
	if err != nil {
		v.WaysError = text.Says(err)
		return
	}
	for i, w := range ways {
		v.Ways = append(v.Ways, wayView{w.Made, w.Remark, strconv.Itoa(i)})
	}
}
