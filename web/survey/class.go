package survey

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/names"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/roster"
	"cavix/school/studies"
	"cavix/web/ui"
)

func (h Handler) surveys(w http.ResponseWriter, r *http.Request) error {
	list, err := h.Site.School.Studies.Surveys(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	part, turn := ui.PartOf(r, "/surveys", len(list),
		[]ui.OptionView{{Value: "", Text: text.New("survey.class.all-studies")},
			{Value: "running", Text: text.New("word.running")}, {Value: "ended", Text: text.New("word.ended")}})
	v := surveyList{Turn: turn(false), All: len(list)}
	v.Orders = []ui.OptionView{{Value: "", Text: text.New("survey.class.surveys.newest-first"), On: !part.Newest},
		{Value: "name", Text: text.New("survey.class.surveys.by-name"), On: r.URL.Query().Get("order") == "name"}}
	for _, k := range list {
		state := "ended"
		if k.Runs() {
			state = "running"
		}
		if holds(k.Title, part.Holds) || holds(k.ClassName, part.Holds) {
			if part.Filter == "" || part.Filter == state {
				v.Lines = append(v.Lines, newLine(k))
			}
		}
	}
	if r.URL.Query().Get("order") == "name" {
		slices.SortStableFunc(v.Lines, func(a, b listLine) int { return names.Compare(a.Title, b.Title) })
	}
	return h.Render(w, r, http.StatusOK, "surveys", text.New("survey.class.surveys"), v)
}

// surveyList lists the studies of an instructor's classes.
type surveyList struct {
	ui.Turn
	Lines []listLine
	All   int
}

func holds(says, part string) bool {
	return strings.Contains(strings.ToLower(says), strings.ToLower(part))
}

// classView is a survey as its instructor sees it over the class.
type classView struct {
	ID              int64
	Title, Class    string
	Made            ui.Stamp
	About           string
	Runs, Same, May bool
	Cells           int
	Readers         []readerLine
	Parts           []partLine
	Unit            string
	Limits          text.Text
	Plots           []plotView
	Slips           []slipLine
	Study           *studyView // where all have read the same
	Read            int
	Owns            bool             // the instructor may remove it
	Damaged         []damagedReading // readings whose value cannot be read
}

// damagedReading is a reading that is kept and cannot be read.
type damagedReading struct {
	Student int64
	Cell    int
	Name    string
	What    text.Text
	Given   string // as it was typed
}

// readerLine is a student in the list.
type readerLine struct {
	ID       int64
	Name     string
	Read     int
	Right    text.Math // share of the readings
	Verdicts text.Text
}

// partLine is a part over the class.
type partLine struct {
	Name  string
	True  text.Math
	Mean  text.Math
	Range text.Math
	Right text.Math
}

type slipLine struct {
	slip     string
	Slip     text.Text
	Readings int
}

func (h Handler) survey(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	read, damaged, err := h.Site.School.Studies.Readings(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return err
	}
	verdicts, err := h.Site.School.Studies.Verdicts(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return err
	}
	trials, err := h.Site.School.Studies.Trials(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return err
	}
	p := sv.Plan
	v := classView{ID: sv.ID, Title: sv.Title, Class: sv.ClassName, Made: ui.Day(sv.Given.In(roster.Clock(sv.Zone))),
		About: p.Instrument(0).Name(), Runs: sv.Runs(), Same: p.Same, May: ui.Allows(r, access.RunStudy),
		Cells: p.Cells(),
		Unit:  string(p.Instrument(0).Unit()), Limits: limitsText(p), Read: len(read),
		Owns: sv.Owner == ui.UserOf(r).ID || ui.Allows(r, access.RemoveStudy)}
	for _, g := range damaged {
		d := damagedReading{Student: g.Student, Cell: g.Cell, Name: g.Name, Given: g.Given}
		if g.Cell >= 0 && g.Cell < p.Cells() {
			d.What = whatIsRead(sv, g.Cell)
		}
		v.Damaged = append(v.Damaged, d)
	}
	v.readers(ui.Said(r), sv, read, verdicts, trials)
	v.parts(p, read)
	v.slips(read)
	if len(read) > 0 {
		v.Plots = append(v.Plots, offTrue(ui.Said(r), sv, read))
	}
	if p.Same && len(read) > 0 {
		groups := make([]survey.Values, len(p.Parts)*p.Places)
		for _, g := range read {
			if i := g.Cell / p.Repeats; i < len(groups) {
				groups[i] = append(groups[i], g.Value)
			}
		}
		v.Plots = append(plots(ui.Said(r), p, groups, make([]bool, len(groups)), read), v.Plots...)
		st := newStudy(ui.Said(r), sv, read)
		v.Study = &st
	}
	return h.Render(w, r, http.StatusOK, "survey", text.Typed(sv.Title), v)
}

// offTrue draws how far each reader's readings lie off the true sizes, which no real survey knows.
func offTrue(say *text.Printer, sv studies.Survey, read []studies.Observed) plotView {
	p := sv.Plan
	var groups []plot.Group
	at := map[int64]int{}
	for _, g := range read {
		i, known := at[g.Student]
		if !known {
			i = len(groups)
			at[g.Student] = i
			groups = append(groups, plot.Group{Name: g.Name})
		}
		groups[i].Values = append(groups[i].Values,
			g.Value.Sub(p.True(sv.Appraiser(g.Student), p.Cell(g.Cell))).Float())
	}
	return plotView{Name: text.New("survey.class.off-true.name"),
		Drawing: ui.Readings(plot.Dots(say, groups, plot.Limits{}, p.Instrument(0).LeastCount().Float()), "p-off")}
}

// readers lists who has read how much, and how well.
func (v *classView) readers(say *text.Printer, sv studies.Survey, read []studies.Observed,
	verdicts map[int64]map[int]studies.Verdict, trials map[int64]map[int]studies.Trial) {
	at := map[int64]int{}
	right := map[int64]int{}
	by := map[int64][]studies.Observed{}
	for _, g := range read {
		if _, known := at[g.Student]; !known {
			at[g.Student] = len(v.Readers)
			v.Readers = append(v.Readers, readerLine{ID: g.Student, Name: g.Name})
		}
		v.Readers[at[g.Student]].Read++
		by[g.Student] = append(by[g.Student], g)
		if g.Right {
			right[g.Student]++
		}
	}
	for i := range v.Readers {
		l := &v.Readers[i]
		l.Right = ui.PerCent(ui.Halves(int64(2*right[l.ID])), ui.Halves(int64(2*l.Read)))
		if sv.Plan.VerdictChoices() == nil {
			continue
		}
		good, said := 0, 0
		for part, verdict := range verdicts[l.ID] {
			said++
			for _, pv := range newTable(say, sv, by[l.ID], map[int]studies.Verdict{part: verdict}, trials[l.ID],
				-1).Parts {
				if pv.N == part && pv.ByOwn == verdict.Verdict {
					good++
				}
			}
		}
		if said > 0 {
			l.Verdicts = text.New("count.of", "n", good, "of", said)
		}
	}
}

// parts says what the class reads of each part.
func (v *classView) parts(p survey.Plan, read []studies.Observed) {
	places := placesOf(p.Instrument(0))
	values := make([]survey.Values, len(p.Parts))
	right := make([]int, len(p.Parts))
	for _, g := range read {
		if i := p.Cell(g.Cell).Part; i < len(values) {
			values[i] = append(values[i], g.Value)
			if g.Right {
				right[i]++
			}
		}
	}
	for i, d := range p.Parts {
		l := partLine{Name: d.Name, Mean: "–", Range: "–", Right: "–"}
		if p.Same {
			var sizes survey.Values
			for place := range p.Places {
				sizes = append(sizes, p.Profile(i, place))
			}
			l.True = written(sizes.Sorted()[0], places+1)
			if sizes.Range().Sign() > 0 {
				l.True += " to " + written(sizes.Sorted()[len(sizes)-1], places+1)
			}
		}
		if n := len(values[i]); n > 0 {
			if p.Same {
				l.Mean, l.Range = written(values[i].Mean(), places+1), written(values[i].Range(), places)
			}
			l.Right = ui.PerCent(ui.Halves(int64(2*right[i])), ui.Halves(int64(2*n)))
		}
		v.Parts = append(v.Parts, l)
	}
}

// slips counts what was made.
func (v *classView) slips(read []studies.Observed) {
	count := map[string]int{}
	for _, g := range read {
		if g.Slip != "" {
			count[g.Slip]++
		}
	}
	for code, n := range count {
		v.Slips = append(v.Slips, slipLine{code, exercise.Code(code).Name(), n})
	}
	slices.SortFunc(v.Slips, func(a, b slipLine) int {
		return cmp.Or(cmp.Compare(b.Readings, a.Readings), cmp.Compare(a.slip, b.slip))
	})
}

// surveyEvents tells that somebody has read.
func (h Handler) surveyEvents(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	me := ui.UserOf(r).ID
	return h.Stream(w, r, hub.Topic{Class: sv.Class, What: hub.SheetNews}, func(ctx context.Context) (ui.Snapshot,
		error) {
		now, err := h.Site.School.Studies.Survey(ctx, me, sv.ID)
		return ui.Snapshot{ID: fmt.Sprintf("%d-%t", now.Read, now.Runs()), Data: "news"}, err
	})
}

// removeReading deletes a reading that cannot be read.
func (h Handler) removeReading(r *http.Request, id int64) error {
	var f struct {
		Student int64 `form:"student"`
		Cell    int   `form:"cell"`
	}
	if err := ui.Decode(r, &f); err != nil {
		return err
	}
	return h.Site.School.Studies.RemoveReading(r.Context(), ui.ActorOf(r), id, f.Student, f.Cell)
}

// drop puts a survey into the bin, one too whose plan cannot be read.
func (h Handler) drop(w http.ResponseWriter, r *http.Request) error {
	id, err := ui.ID(r, "survey")
	if err != nil {
		return err
	}
	if err := h.Site.School.Studies.DropSurvey(r.Context(), ui.ActorOf(r), id); err != nil {
		return err
	}
	return h.Redirect(w, r, "/bin", text.New("author.bin.bin-notes"), nil)
}

// change ends a survey or lets it go on, or removes a reading of it.
func (h Handler) change(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	to := fmt.Sprintf("/surveys/%d", sv.ID)
	var err error
	switch do := r.PostFormValue("do"); do {
	case "close", "open":
		err = h.Site.School.Studies.CloseSurvey(r.Context(), ui.ActorOf(r), sv.ID, do == "open")
	case "reading":
		err = h.removeReading(r, sv.ID)
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// observations returns the readings of one student in a study.
func (h Handler) observations(r *http.Request) (v readView, sv studies.Survey, read []studies.Observed, err error) {
	sv = ui.StudyOf(r)
	id, err := ui.ID(r, "student")
	if err != nil {
		return v, sv, nil, err
	}
	st, err := h.Site.School.Roster.ClassStudent(r.Context(), ui.UserOf(r).ID, sv.Class, id)
	if err != nil {
		return v, sv, nil, err
	}
	if read, err = h.Site.School.Studies.ReadingsBy(r.Context(), ui.UserOf(r).ID, sv.ID, id); err != nil {
		return v, sv, nil, err
	}
	verdicts, err := h.Site.School.Studies.Verdicts(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return v, sv, nil, err
	}
	trials, err := h.Site.School.Studies.Trials(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return v, sv, nil, err
	}
	v = readView{ID: sv.ID, Title: st.Name, Student: id, N: len(read), Of: sv.Cells(trials[id]), Cell: -1,
		About: text.Typed(sv.Title)}
	v.Gauged = gaugedLines(sv, id, trials[id])
	v.Table = newTable(ui.Said(r), sv, read, verdicts[id], trials[id], -1)
	return v, sv, read, nil
}

// student shows what one student has observed.
func (h Handler) student(w http.ResponseWriter, r *http.Request) error {
	v, sv, _, err := h.observations(r)
	if err != nil {
		return err
	}
	return h.Render(w, r, http.StatusOK, "observations", text.Row(text.Typed(v.Title), text.Typed(sv.Title)), v)
}

// studyView is a study of readers.
type studyView struct {
	Rows       []sourceRow
	P          text.Text
	Pooled     bool
	Tested     bool
	Shares     []shareRow
	Categories string
	Verdict    text.Text
	Cannot     []text.Text
	Left       []text.Text
	Bias       []biasRow
	Plots      []plotView
	Limits     bool
}

type sourceRow struct {
	Name                   text.Text
	Squares, Degrees, Mean text.Math
}

type shareRow struct {
	Name                            text.Text
	Why                             text.Text
	SD, Spread, Variance, Tolerance text.Math
}

// biasRow shows an appraiser's bias, and the slips behind it.
type biasRow struct {
	Name        string
	Bias, Range text.Math
	Right       text.Math
	Slips       []text.Text
}

// says put a judgement in words that a class understands.
var says = map[survey.Acceptability]text.Text{
	survey.Acceptable:   text.New("survey.class.says"),
	survey.Conditional:  text.New("survey.class.these-readings-serve-some"),
	survey.Unacceptable: text.New("survey.class.not-acceptable-appraisers-differ"),
}

func newStudy(say *text.Printer, sv studies.Survey, read []studies.Observed) studyView {
	p := sv.Plan
	table, _ := studyOf(say, p, read)
	whole, left := table.Complete()
	a := survey.Analyse(survey.Study{Cells: whole.Cells, Lower: p.Lower, Upper: p.Upper})
	places := placesOf(p.Instrument(0)) + 2
	number := func(x float64) text.Math { return text.Math(strconv.FormatFloat(x, 'f', places, 64)) }
	square := func(x float64) text.Math { return text.Math(strconv.FormatFloat(x, 'g', 4, 64)) }
	v := studyView{Pooled: a.Pooled, Tested: a.Tested, Cannot: a.Cannot, Categories: "–",
		Verdict: says[a.Acceptability()], Limits: p.Lower != nil && p.Upper != nil}
	for _, row := range []struct {
		name text.Text
		s    survey.Source
	}{{text.New("study.parts"), a.PartRow}, {text.New("study.appraisers"), a.AppraiserRow},
		{text.New("study.interaction"), a.Interaction}, {text.New("study.repeats"), a.Error}} {
		v.Rows = append(v.Rows, sourceRow{row.name, square(row.s.SumSquares), text.Math(strconv.Itoa(row.s.DF)),
			square(row.s.MeanSquare)})
	}
	if a.Acceptability() == survey.Undecided && len(a.Cannot) > 0 {
		v.Verdict = text.New("survey.class.new-study")
	}
	if v.P = text.Numbers(text.Math(strconv.FormatFloat(a.P, 'f', 3, 64))); a.P < 0.001 {
		v.P = text.New("survey.class.less-than-0-001")
	}
	for _, row := range []struct {
		name, why text.Text
		s         survey.Variation
	}{{text.New("word.repeatability"), text.New("survey.class.one-reader-again-again"), a.Repeatability},
		{text.New("word.reproducibility"), text.New("survey.class.between-readers"), a.Reproducibility},
		{text.New("survey.class.both"), text.New("survey.class.readers-together"), a.All},
		{text.New("survey.class.part-variation"), text.New("survey.class.how-parts-differ"), a.PartVariation},
		{text.New("survey.class.total"), text.Text{}, a.Total}} {
		r := shareRow{row.name, row.why, number(row.s.SD), perCent(row.s.Spread), perCent(row.s.Variance),
			perCent(row.s.Tolerance)}
		if row.s.Unknown {
			r.SD = "–"
		}
		v.Shares = append(v.Shares, r)
	}
	if a.DistinctCategories != nil {
		v.Categories = strconv.Itoa(*a.DistinctCategories)
	}
	for _, l := range left {
		what := text.New("survey.class.part", "name", l.Name)
		if l.Reader {
			what = text.Typed(l.Name)
		}
		v.Left = append(v.Left, text.New("survey.class.left-out-readings-cell", "what", what, "readings", l.Readings))
	}
	v.bias(sv, read)
	keys, by := studyScenes(say, p, table)
	for _, k := range keys {
		v.Plots = append(v.Plots, plotView{k, plotNames[k], ui.Readings(by[k], "s-"+k)})
	}
	return v
}

// bias says of each reader how far the readings lie off the true sizes in the mean, which no real study knows.
func (v *studyView) bias(sv studies.Survey, read []studies.Observed) {
	p := sv.Plan
	places := placesOf(p.Instrument(0)) + 1
	var order []int64
	off, right, name := map[int64]survey.Values{}, map[int64]int{}, map[int64]string{}
	made := map[int64]map[string]int{}
	for _, g := range read {
		if off[g.Student] == nil {
			order = append(order, g.Student)
			made[g.Student] = map[string]int{}
		}
		name[g.Student] = g.Name
		off[g.Student] = append(off[g.Student], g.Value.Sub(p.True(sv.Appraiser(g.Student), p.Cell(g.Cell))))
		if g.Right {
			right[g.Student]++
		}
		if g.Slip != "" {
			made[g.Student][g.Slip]++
		}
	}
	for _, id := range order {
		d := off[id]
		row := biasRow{Name: name[id], Bias: written(d.Mean(), places), Range: written(d.Range(), places),
			Right: ui.PerCent(ui.Halves(int64(2*right[id])), ui.Halves(int64(2*len(d))))}
		if d.Mean().Sign() > 0 {
			row.Bias = "+" + row.Bias
		}
		for _, code := range slices.Sorted(maps.Keys(made[id])) {
			n := made[id][code]
			row.Slips = append(row.Slips, text.New("study.slip-count", "slip", exercise.Code(code).Short(), "n", n))
		}
		v.Bias = append(v.Bias, row)
	}
}
