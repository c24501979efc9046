package survey

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strings"

	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/figure"
	"cavix/plot"
	"cavix/school/studies"
	"cavix/web/ui"
)

// gaugesForm holds the fields from which limit gauges are planned.
type gaugesForm struct {
	Nominal string `form:"nominal"`
	Above   string `form:"above"` // deviations from nominal
	Below   string `form:"below"`
	Lower   string `form:"lower"` // or the limits themselves
	Upper   string `form:"upper"`
	Unit    string `form:"unit"`
	Kind    string `form:"kind"`
	Parts   string `form:"parts"`
}

// gaugesView is the planner of limit gauges.
type gaugesView struct {
	Form   gaugesForm
	Errors map[string]text.Text
	Go     text.Math
	NoGo   text.Math
	Strip  template.HTML
	Rows   []gaugedRow
	Give   string // the form of a survey in which a class tries the parts
	Shown  []template.HTML
}

type gaugedRow struct {
	Beyond   text.Math // by how much it lies beyond a limit
	Name     string
	Size     text.Math
	Go, NoGo text.Text
	Good     bool
	Then     string
}

// mostGauged is the largest number of parts that the planner shows.
const mostGauged = survey.MaxParts

// gauges plans limit gauges from what the address asks for.
func (h Handler) gauges(w http.ResponseWriter, r *http.Request) error {
	f := gaugesForm{Nominal: "16.00", Above: "0.03", Below: "0", Unit: "mm", Kind: string(limits.Plug),
		Parts: "16.01, 16.03, 15.99, 16.05"}
	if r.URL.RawQuery != "" {
		f = gaugesForm{}
		if err := ui.Asked(r, &f); err != nil {
			return err
		}
	}
	v := gaugesView{Form: f}
	var bad ui.Faults
	v.plan(ui.Said(r), &bad)
	v.Errors = bad.By()
	return h.Render(w, r, ui.Status(v.Errors), "gauges", text.New("survey.gauges.gauges"), v)
}

// plan works the gauges out.
func (v *gaugesView) plan(say *text.Printer, bad *ui.Faults) {
	f := &v.Form
	unit := length.Unit(f.Unit)
	if unit != length.Millimetre && unit != length.Inch {
		unit, f.Unit = length.Millimetre, string(length.Millimetre)
	}
	kind := limits.Kind(f.Kind)
	if !kind.Fits(true) && !kind.Fits(false) {
		kind, f.Kind = limits.Snap, string(limits.Snap)
	}
	places := 2
	read := func(field, says string) length.Number {
		t := bad.Number(field, says, unit)
		places = max(places, min(t.Decimals, 6))
		return t.Value
	}
	l := limits.Limits{Hole: kind == limits.Plug}
	if strings.TrimSpace(f.Lower+f.Upper) != "" {
		l.Lower, l.Upper = read("lower", f.Lower), read("upper", f.Upper)
	} else {
		nominal := read("nominal", f.Nominal)
		l.Lower, l.Upper = nominal.Add(read("below", f.Below)), nominal.Add(read("above", f.Above))
	}
	if !l.Lower.Less(l.Upper) {
		bad.Add("upper", "survey.gauges.plan", "places", text.Math(l.Lower.Text(places)))
	}
	var sizes []length.Number
	for _, says := range strings.FieldsFunc(f.Parts, func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		if says = strings.TrimSpace(says); says != "" && len(sizes) < mostGauged {
			sizes = append(sizes, read("parts", says))
		}
	}
	if len(bad.Refusal) > 0 {
		return
	}
	v.Go, v.NoGo = written(l.Go(), places), written(l.NoGo(), places)
	lower, upper := l.Lower.Float(), l.Upper.Float()
	pl := plot.Limits{Lower: &lower, Upper: &upper, LowerText: string(written(l.Lower, places)),
		UpperText: string(written(l.Upper, places))}
	var groups []plot.Group
	p := survey.Plan{Lower: &l.Lower, Upper: &l.Upper, Verdicts: "three"}
	if l.Hole {
		p.Feature = "hole"
	}
	for i, x := range sizes {
		name := fmt.Sprint(i + 1)
		groups = append(groups, plot.Group{Name: name, Values: []float64{x.Float()}})
		row := gaugedRow{Name: name, Size: written(x, places), Go: met(l.Passes(true, x)),
			NoGo: met(l.Passes(false, x)), Good: l.Good(x), Then: p.Verdict([]length.Number{x})}
		if far := p.Beyond([]length.Number{x}); far.Sign() > 0 {
			row.Beyond = written(far, places)
		}
		v.Rows = append(v.Rows, row)
	}
	ask := url.Values{"tried": {f.Kind}, "lower": {l.Lower.Text(places)}, "upper": {l.Upper.Text(places)},
		"feature": {"shaft"}, "places": {"1"}, "repeats": {"1"}, "who": {"own"}, "scatter": {"0"},
		"verdicts": {"three"}, "title": {say.Say("survey.gauges.parts-in", "kind", text.New("gauge-kind."+f.Kind))}}
	if l.Hole {
		ask.Set("feature", "hole")
	}
	for i, x := range sizes {
		ask.Set(fmt.Sprintf("parts[%d].name", i), say.Say("figure.part", "n", i+1))
		ask.Set(fmt.Sprintf("parts[%d].size", i), x.Text(places))
	}
	v.Give = "/surveys/new?" + ask.Encode()
	v.Strip = ui.Readings(plot.Strip(say, groups, pl, l.Hole), "strip")
	v.Shown = []template.HTML{ui.Drawing(figure.Trial(kind, true, figure.Enters, figure.Options{Said: say}), "go",
		"fig trial"), ui.Drawing(figure.Trial(kind, false, figure.Stops, figure.Options{Said: say}), "nogo",
		"fig trial")}
}

// met says how a part meets a gauge.
func met(passes bool) text.Text {
	if passes {
		return text.New("option.enters")
	}
	return text.New("option.stops")
}

// trialView is a part that a student tries in the gauge.
type trialView struct {
	Part     int
	Name     string
	N, Of    int
	Kind     limits.Kind
	Drawings []triedView
	Ready    bool // both have been tried
}

type triedView struct {
	Drawing template.HTML
	Goes    bool
	Tried   bool
}

// newTrial shows the part that a student tries next; nil where there is none.
func newTrial(say *text.Printer, s studies.Survey, student int64, said map[int]studies.Trial) *trialView {
	part := s.ToTry(said)
	if part < 0 {
		return nil
	}
	t := said[part]
	v := trialView{Part: part, Name: s.Plan.Parts[part].Name, N: part + 1, Of: len(s.Plan.Parts), Kind: s.Plan.Gauge,
		Ready: t.Go && t.NoGo}
	for _, goes := range []bool{true, false} {
		tried, how := t.NoGo, figure.NotTried
		if goes {
			tried = t.Go
		}
		if tried {
			how = figure.Stops
			if s.Plan.Passes(s.Appraiser(student), part, goes) {
				how = figure.Enters
			}
		}
		v.Drawings = append(v.Drawings,
			triedView{ui.Drawing(figure.Trial(s.Plan.Gauge, goes, how, figure.Options{Said: say}),
				fmt.Sprintf("try%t", goes), "fig trial"), goes, tried})
	}
	return &v
}

// gaugedLine says of a part what was said of it by the gauge, and whether that is right.
type gaugedLine struct {
	Name, Said string
	Right      bool
	Why        text.Text
}

// gaugedLines returns a student's decisions on the parts that were tried.
func gaugedLines(s studies.Survey, student int64, said map[int]studies.Trial) []gaugedLine {
	var out []gaugedLine
	for part, d := range s.Plan.Parts {
		t := said[part]
		if t.Said == "" {
			continue
		}
		rd := s.Appraiser(student)
		l := gaugedLine{Name: d.Name, Said: t.Said, Right: t.Said == s.Plan.Gauged(rd, part)}
		l.Why = text.New("survey.gauges.met", "go", met(s.Plan.Passes(rd, part, true)), "no_go",
			met(s.Plan.Passes(rd, part, false)))
		out = append(out, l)
	}
	return out
}
