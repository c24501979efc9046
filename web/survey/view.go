package survey

import (
	"fmt"
	"html/template"
	"math"
	"slices"
	"strconv"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/figure"
	"cavix/plot"
	"cavix/school/studies"
	"cavix/web/ui"
)

// tableView is the table of one reader's observations, as far as it has grown.
type tableView struct {
	Parts     []partView
	Heads     []text.Text // of the repeats
	Placed    bool        // the parts have several places
	Unit      string
	Places    int // decimals
	Plots     []plotView
	Limits    text.Text
	Corrected bool
	Compared  bool      // the cells hold deviations, the means are of sizes
	Worn      *wornView // which tooth of a gear is worn; nil where nothing is asked
}

// wornView asks which tooth of a gear is worn.
type wornView struct {
	Part    int
	Choices []string
	Said    string
	ByOwn   string
	Right   bool
	Runs    bool
}

// partView is a part in the table.
type partView struct {
	N       int // in the plan, from 0
	Name    string
	Rows    []rowView
	Whole   bool // all is read
	Figures []figureView
	Verdict string      // that was said; "" where none was
	Choices []string    // that can be said now
	Facts   []text.Text // what the readings say of the limits
	ByOwn   string      // the verdict that follows from the readings; "" until one was said

	Asks        bool   // by how much it lies beyond a limit is asked too
	Beyond      string // as typed
	BeyondRight bool
	ByOwnBeyond text.Math
}

// rowView is a place of a part.
type rowView struct {
	Name     string
	Cells    []cellView
	Mean     text.Math
	Range    text.Math
	Odd, Out bool
}

type cellView struct {
	Value text.Math
	Here  bool // it is read now
}

// figureView is one of the things that readings come to.
type figureView struct{ Name, Value text.Text }

// plotView is a plot with its name.
type plotView struct {
	Key     string
	Name    text.Text
	Drawing template.HTML
}

// repeatNames name so many repeats.
func repeatNames(n int) []text.Text {
	out := make([]text.Text, n)
	for i := range out {
		out[i] = text.New(fmt.Sprintf("nth.%d", i+1))
	}
	return out
}

// grid are the readings of one reader by the cells of the plan; nil where there is none.
func grid(p survey.Plan, read []studies.Observed) []*studies.Observed {
	out := make([]*studies.Observed, p.Cells())
	for i := range read {
		if c := read[i].Cell; c >= 0 && c < len(out) {
			out[c] = &read[i]
		}
	}
	return out
}

// groupsOf are the values of a grid, a group a place of a part.
func groupsOf(p survey.Plan, cells []*studies.Observed) []survey.Values {
	out := make([]survey.Values, len(p.Parts)*p.Places)
	for n, g := range cells {
		if g != nil {
			out[n/p.Repeats] = append(out[n/p.Repeats], g.Value)
		}
	}
	return out
}

// standOut marks the groups that lie furthest off: among the places of a part, or where a part has one place among the
// parts. Only groups that are whole are held against each other.
func standOut(p survey.Plan, groups []survey.Values) []bool {
	out := make([]bool, len(groups))
	sets := [][2]int{}
	if p.Places > 1 {
		for i := range p.Parts {
			sets = append(sets, [2]int{i * p.Places, (i + 1) * p.Places})
		}
	} else {
		sets = append(sets, [2]int{0, len(groups)})
	}
	for _, s := range sets {
		whole := make([]survey.Values, s[1]-s[0])
		filled := 0
		for i := range whole {
			if g := groups[s[0]+i]; len(g) > 0 && len(g)%p.Repeats == 0 {
				whole[i], filled = g, filled+1
			}
		}
		if filled < 3 {
			continue // of two each lies as far off as the other
		}
		for _, i := range survey.Furthest(whole) {
			out[s[0]+i] = true
		}
	}
	return out
}

// placesOf returns the number of decimals of an instrument's readings.
func placesOf(in *instrument.Instrument) int {
	n, finite := in.LeastCount().Decimals()
	if !finite {
		return 4
	}
	return n
}

// newTable lays a reader's table out; here is the cell that is read now, −1 for none.
func newTable(say *text.Printer, s studies.Survey, read []studies.Observed, verdicts map[int]studies.Verdict,
	said map[int]studies.Trial, here int) tableView {
	p := s.Plan
	cells := grid(p, read)
	groups := groupsOf(p, cells)
	odd := standOut(p, groups)
	in := p.Instrument(0)
	v := tableView{Heads: repeatNames(p.Repeats), Placed: p.Places > 1, Unit: string(in.Unit()), Places: placesOf(in),
		Limits: limitsText(p), Corrected: p.Asked(0) != "observed", Compared: p.Compare}
	for i, part := range p.Parts {
		if !s.Measured(i, said) {
			continue
		}
		pv := partView{N: i, Name: part.Name, Whole: true, Asks: p.Gauge != ""}
		var all survey.Values
		var means []length.Number
		for place := range p.Places {
			g := i*p.Places + place
			row := rowView{Name: strconv.Itoa(place + 1), Odd: odd[g]}
			for k := range p.Repeats {
				n := g*p.Repeats + k
				c := cellView{Here: n == here}
				if cells[n] != nil {
					c.Value = text.Math(p.Instrument(i).Format(cells[n].Value))
					if p.Compare { // the deviation, as it was read; the mean is of the sizes
						if c.Value = written(cells[n].Value.Sub(*p.Nominal), v.Places); p.Nominal.Less(cells[n].Value) {
							c.Value = "+" + c.Value
						}
					}
				} else {
					pv.Whole = false
				}
				row.Cells = append(row.Cells, c)
			}
			if len(groups[g]) == p.Repeats {
				row.Mean, row.Range = written(groups[g].Mean(), v.Places+1), written(groups[g].Range(), v.Places)
				row.Out = !p.Good(groups[g].Mean())
				means = append(means, groups[g].Mean())
			}
			all = append(all, groups[g]...)
			pv.Rows = append(pv.Rows, row)
		}
		pv.Figures = figures(p, i, all, v.Places)
		if pv.Whole {
			pv.judge(p, means, verdicts[i])
		}
		v.Parts = append(v.Parts, pv)
	}
	v.Plots = plots(say, p, groups, odd, read)
	if p.Gear != nil && len(read) == p.Cells() {
		v.Worn = newWorn(s, groups, verdicts[s.WornTooth()].Verdict)
	}
	return v
}

// newWorn asks which tooth is worn, once all are read, and holds what was said against the readings.
func newWorn(s studies.Survey, groups []survey.Values, said string) *wornView {
	p := s.Plan
	v := wornView{Part: s.WornTooth(), Said: said, ByOwn: studies.NoTooth, Runs: s.Runs()}
	teeth := make([]survey.Values, len(p.Parts))
	for i, d := range p.Parts {
		v.Choices = append(v.Choices, d.Name)
		teeth[i] = survey.All(groups[i*p.Places : (i+1)*p.Places])
	}
	v.Choices = append(v.Choices, studies.NoTooth)
	if n := survey.Worn(teeth, p.Instrument(0).LeastCount()); n >= 0 {
		v.ByOwn = p.Parts[n].Name
	}
	v.Right = said == v.ByOwn
	return &v
}

// written is a number to so many places.
func written(x length.Number, places int) text.Math { return text.Math(x.Round(places).Text(places)) }

// limitsText writes the limits of a plan.
func limitsText(p survey.Plan) text.Text {
	in := p.Instrument(0)
	switch {
	case p.Lower != nil && p.Upper != nil:
		return text.New("survey.limits", "lower", text.Math(in.Format(*p.Lower)), "upper",
			text.Math(in.Format(*p.Upper)))
	case p.Lower != nil:
		return text.New("survey.from", "lower", text.Math(in.Format(*p.Lower)))
	case p.Upper != nil:
		return text.New("survey.up-to", "upper", text.Math(in.Format(*p.Upper)))
	}
	return text.Text{}
}

// figures returns the statistics of the readings of a part.
func figures(p survey.Plan, part int, all survey.Values, places int) []figureView {
	if len(all) == 0 {
		return nil
	}
	out := []figureView{{text.New("word.mean"), text.Numbers(written(all.Mean(), places+1))},
		{text.New("word.median"), text.Numbers(written(all.Median(), places+1))},
		{text.New("word.range"), text.Numbers(written(all.Range(), places))}}
	if mode := all.Mode(); len(mode) > 0 && len(mode) < 4 {
		var texts []text.Text
		for _, x := range mode {
			texts = append(texts, text.Numbers(written(x, places)))
		}
		out = append(out, figureView{text.New("survey.view.figures"), text.List(texts...)})
	}
	if s, ok := all.S(); ok {
		out = append(out, figureView{text.New("survey.view.standard-deviation-n-1"),
			text.Numbers(text.Math(strconv.FormatFloat(s, 'f', places+2, 64)))})
	}
	in := p.Instrument(part)
	zeroed := in.Spec().ZeroError.Sign() != 0 && !p.Compare
	u, ok := survey.UncertaintyOf(all, in.LeastCount(), zeroed)
	switch {
	case !ok:
	case p.Method.Uncertainty == "type-a":
		out = append(out, figureView{text.New("survey.view.uncertainty-mean-s-n"),
			text.Numbers(text.Math(strconv.FormatFloat(u.TypeA, 'f', places+2, 64)))})
	case p.Method.Uncertainty == "full":
		m, e := u.Written(all.Mean())
		out = append(out, figureView{text.New("survey.view.mean-its-uncertainty-k"),
			text.Numbers(text.Math(m + " ± " + e))})
	}
	return out
}

// judge says what the readings of a part say of the limits, and what may be said of it.
func (v *partView) judge(p survey.Plan, means []length.Number, by studies.Verdict) {
	if v.Choices = p.VerdictChoices(); v.Choices == nil {
		return
	}
	var low, high []text.Text
	for i, m := range means {
		name := text.New("survey.view.judge", "i", i+1)
		switch {
		case p.Lower != nil && m.Less(*p.Lower):
			low = append(low, name)
		case p.Upper != nil && p.Upper.Less(m):
			high = append(high, name)
		}
	}
	v.Verdict, v.Beyond = by.Verdict, by.Beyond
	if v.Verdict == "" {
		v.Facts = append(v.Facts, text.New("survey.view.compare-means", "limits", limitsText(p)))
		return
	}
	v.ByOwn = p.Verdict(means)
	if v.Asks {
		far := p.Beyond(means)
		places := placesOf(p.Instrument(v.N)) + 1
		typed, err := length.ReadTyped(by.Beyond)
		v.BeyondRight = err == nil &&
			typed.Value.Sub(far).Abs().Cmp(p.Instrument(v.N).LeastCount().Mul(length.Frac(1, 2))) <= 0
		v.ByOwnBeyond = written(far, places)
	}
	one := func(list []text.Text, key string) {
		if len(list) == 0 {
			return
		}
		if p.Places == 1 {
			list = []text.Text{text.New("survey.view.the-mean")}
		}
		v.Facts = append(v.Facts, text.New(key, "n", len(list), "means", text.And(list...)))
	}
	one(low, "survey.view.below-limit")
	one(high, "survey.view.above-limit")
	if len(low)+len(high) == 0 {
		v.Facts = append(v.Facts, text.New("survey.view.all-means-lie-within"))
	}
}

// limitsOf are the limits of a plan for plots.
func limitsOf(p survey.Plan) plot.Limits {
	var l plot.Limits
	in := p.Instrument(0)
	take := func(x *length.Number) (*float64, string) {
		if x == nil {
			return nil, ""
		}
		f := x.Float()
		return &f, in.Format(*x)
	}
	l.Lower, l.LowerText = take(p.Lower)
	l.Upper, l.UpperText = take(p.Upper)
	return l
}

func floats(v survey.Values) []float64 {
	out := make([]float64, len(v))
	for i, x := range v {
		out[i] = x.Float()
	}
	return out
}

// groupName names a group of a plan.
func groupName(say *text.Printer, p survey.Plan, g int) string {
	part, place := p.Parts[g/p.Places].Name, strconv.Itoa(g%p.Places+1)
	switch {
	case p.Places == 1:
		return part
	case len(p.Parts) == 1:
		return say.Say("repeat.place", "n", g%p.Places+1)
	}
	return part + " · " + place
}

// scenes are the plots of readings, by their keys. Read are they in the order in which they were taken.
func scenes(say *text.Printer, p survey.Plan, groups []survey.Values, odd []bool,
	read []studies.Observed) (keys []string, by map[string]*figure.Scene) {
	grain := p.Instrument(0).LeastCount().Float()
	l := limitsOf(p)
	dots := make([]plot.Group, len(groups))
	for g, v := range groups {
		dots[g] = plot.Group{Name: groupName(say, p, g), Values: floats(v), Out: odd[g]}
		if len(v) > 0 && !p.Good(v.Mean()) {
			dots[g].Out = true
		}
	}
	by = map[string]*figure.Scene{"groups": plot.Dots(say, dots, l, grain)}
	keys = []string{"groups"}
	all := make([]float64, len(read))
	for i, g := range read {
		all[i] = g.Value.Float()
	}
	if len(all) > 1 {
		keys = append(keys, "order")
		by["order"] = plot.Sequence(say, all, l, grain)
	}
	if p.Nominal != nil {
		parts := make([]plot.Group, len(p.Parts))
		for i, d := range p.Parts {
			parts[i] = plot.Group{Name: d.Name, Values: floats(survey.All(groups[i*p.Places : (i+1)*p.Places]))}
		}
		keys = append(keys, "nominal")
		by["nominal"] = plot.Deviations(say, parts, p.Nominal.Float(), l, grain)
	}
	if len(all) >= 30 {
		keys = append(keys, "often")
		by["often"] = plot.Histogram(say, all, l, grain)
	}
	return keys, by
}

// plotNames name the plots.
var plotNames = map[string]text.Text{"groups": text.New("survey.view.plot-names"),
	"order": text.New("survey.view.order-measurement"), "nominal": text.New("survey.view.off-nominal-size"),
	"often": text.New("survey.view.how-often-each-came"), "means": text.New("survey.view.means-by-reader"),
	"ranges": text.New("survey.view.ranges-by-reader")}

func plots(say *text.Printer, p survey.Plan, groups []survey.Values, odd []bool, read []studies.Observed) []plotView {
	keys, by := scenes(say, p, groups, odd, read)
	var out []plotView
	for _, k := range keys {
		out = append(out, plotView{Name: plotNames[k], Key: k, Drawing: ui.Readings(by[k], "p-"+k)})
	}
	return out
}

// studyOf are the readings of a survey as a study of readers: a part of the study is a place of a part.
func studyOf(say *text.Printer, p survey.Plan, read []studies.Observed) (t survey.Table, readers []int64) {
	for g := range len(p.Parts) * p.Places {
		t.Parts = append(t.Parts, groupName(say, p, g))
	}
	t.Cells = make([][]survey.Values, len(t.Parts))
	names := map[string]bool{}
	for _, g := range read {
		at := slices.Index(readers, g.Student)
		if at < 0 {
			at = len(readers)
			readers = append(readers, g.Student)
			name := g.Name
			for names[name] {
				name += "’"
			}
			names[name] = true
			t.Readers = append(t.Readers, name)
			for i := range t.Cells {
				t.Cells[i] = append(t.Cells[i], nil)
			}
		}
		if i := g.Cell / p.Repeats; i < len(t.Cells) {
			t.Cells[i][at] = append(t.Cells[i][at], g.Value)
		}
	}
	return t, readers
}

// studyScenes are the plots of a study of readers: the means of parts by reader, and how far each reader's repeats lie
// apart.
func studyScenes(say *text.Printer, p survey.Plan, t survey.Table) (keys []string, by map[string]*figure.Scene) {
	grain := p.Instrument(0).LeastCount().Float()
	means, ranges := make([]plot.Series, len(t.Readers)), make([]plot.Group, len(t.Readers))
	for j, name := range t.Readers {
		means[j], ranges[j] = plot.Series{Name: name}, plot.Group{Name: name}
		for i := range t.Parts {
			m := math.NaN()
			if c := t.Cells[i][j]; len(c) > 0 {
				m = c.Mean().Float()
				ranges[j].Values = append(ranges[j].Values, c.Range().Float())
			}
			means[j].Values = append(means[j].Values, m)
		}
	}
	return []string{"means", "ranges"},
		map[string]*figure.Scene{"means": plot.Lines(say, t.Parts, means, grain, say.Print(plotNames["means"])),
			"ranges": plot.Dots(say, ranges, plot.Limits{}, grain)}
}

// perCent writes a share, or a dash where there is none.
func perCent(x *float64) text.Math {
	if x == nil || math.IsNaN(*x) {
		return "–"
	}
	if *x < 10 {
		return text.Math(strconv.FormatFloat(*x, 'f', 1, 64) + " %")
	}
	return text.Math(strconv.FormatFloat(*x, 'f', 0, 64) + " %")
}
