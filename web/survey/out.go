package survey

import (
	"bytes"
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"cavix/core/survey"
	"cavix/core/text"
	"cavix/figure"
	"cavix/school"
	"cavix/school/studies"
	"cavix/transfer"
	"cavix/transfer/paper"
	"cavix/web/ui"
)

// table sends all readings of a survey as a table, which cavix survey reads.
func (h Handler) table(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	read, _, err := h.Site.School.Studies.Readings(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err != nil {
		return err
	}
	rows := make([]transfer.ReadingRow, len(read))
	for i, g := range read {
		c := sv.Plan.Cell(g.Cell)
		rows[i] = transfer.ReadingRow{Part: groupName(ui.Said(r), sv.Plan, g.Cell/sv.Plan.Repeats), Reader: g.Name,
			Repeat: c.Repeat + 1, Value: sv.Plan.Instrument(c.Part).Format(g.Value), Given: g.Given, Right: g.Right,
			Slip: g.Slip, At: g.At}
	}
	f := ui.FormatOf(r)
	ui.Download(w, sv.Title+"."+string(f), f.Type())
	return transfer.WriteReadings(f, w, rows)
}

// drawn are the plots of a survey over the class, by their keys.
func (h Handler) drawn(r *http.Request, sv studies.Survey) (keys []string, by map[string]*figure.Scene,
	read []studies.Observed, err error) {
	if read, _, err = h.Site.School.Studies.Readings(r.Context(), ui.UserOf(r).ID, sv.ID); err != nil {
		return nil, nil, nil, err
	}
	if !sv.Plan.Same {
		return nil, nil, read, school.ErrNotFound
	}
	groups := make([]survey.Values, len(sv.Plan.Parts)*sv.Plan.Places)
	for _, g := range read {
		if i := g.Cell / sv.Plan.Repeats; i < len(groups) {
			groups[i] = append(groups[i], g.Value)
		}
	}
	keys, by = scenes(ui.Said(r), sv.Plan, groups, make([]bool, len(groups)), read)
	table, _ := studyOf(ui.Said(r), sv.Plan, read)
	more, others := studyScenes(ui.Said(r), sv.Plan, table)
	for _, k := range more {
		keys, by[k] = append(keys, k), others[k]
	}
	return keys, by, read, nil
}

// picture sends one plot as SVG.
func (h Handler) picture(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	_, by, _, err := h.drawn(r, sv)
	if err != nil {
		return err
	}
	key := chi.URLParam(r, "plot")
	sc, there := by[key]
	if !there {
		return school.ErrNotFound
	}
	ui.Download(w, fmt.Sprintf("%s %s.svg", sv.Title, key), "image/svg+xml")
	_, err = w.Write(sc.SVG("", ""))
	return err
}

// reportOf returns the readings of one appraiser, as a page on paper: the table, its plot, what it comes to and what
// was said.
func reportOf(sv studies.Survey, name string, t tableView, gauged []gaugedLine) paper.Report {
	rep := paper.Report{Title: sv.Title, Under: text.Row(text.Typed(name), text.Typed(sv.ClassName),
		text.Typed(sv.Plan.Instrument(0).Name()))}
	if !t.Limits.IsZero() {
		rep.Under = text.Row(rep.Under, text.New("survey.out.limits", "limits", t.Limits, "unit", t.Unit))
	}
	for _, l := range gauged {
		rep.Says = append(rep.Says, text.New("survey.out.in-gauge", "name", l.Name, "said", text.New("option."+l.Said),
			"why", l.Why))
	}
	table := paper.Grid{Head: []text.Text{{}}}
	table.Head = append(append(table.Head, t.Heads...), text.New("repeat.mean"), text.New("repeat.range"), text.Text{})
	figures := paper.Grid{Head: []text.Text{text.New("survey.out.all-readings"), {}}}
	for _, p := range t.Parts {
		if p.Verdict != "" {
			rep.Says = append([]text.Text{text.New("survey.out.verdict", "name", p.Name, "verdict",
				text.New("option."+p.Verdict))}, rep.Says...)
		}
		for _, row := range p.Rows {
			line := []text.Text{text.Typed(p.Name)}
			if t.Placed {
				line[0] = text.List(line[0], text.New("survey.out.place", "place", row.Name))
			}
			for _, c := range row.Cells {
				line = append(line, text.Numbers(c.Value))
			}
			why := text.Text{}
			switch {
			case row.Odd:
				why = text.New("survey.out.furthest-off")
			case row.Out:
				why = text.New("word.outside")
			}
			table.Rows = append(table.Rows, append(line, text.Numbers(row.Mean), text.Numbers(row.Range), why))
		}
		for _, f := range p.Figures {
			name := f.Name
			if len(t.Parts) > 1 {
				name = text.New("survey.out.of-part", "part", p.Name, "name", name)
			}
			figures.Rows = append(figures.Rows, []text.Text{name, f.Value})
		}
	}
	rep.Grids = []paper.Grid{table, figures}
	return rep
}

// sendReport sends a report.
func sendReport(w http.ResponseWriter, r *http.Request, rep paper.Report, name string) error {
	rep.Said = ui.Said(r)
	var b bytes.Buffer
	if err := rep.Write(&b); err != nil {
		return err
	}
	ui.Download(w, name+".pdf", "application/pdf")
	_, err := b.WriteTo(w)
	return err
}

// studentReport sends what one student has observed as a page on paper.
func (h Handler) studentReport(w http.ResponseWriter, r *http.Request) error {
	v, sv, read, err := h.observations(r)
	if err != nil {
		return err
	}
	rep := reportOf(sv, v.Title, v.Table, v.Gauged)
	rep.Plots = plotsOnPaper(ui.Said(r), sv, read)
	return sendReport(w, r, rep, sv.Title+" "+v.Title)
}

// report sends a student's own observations as a page on paper.
func (h StudentHandler) report(w http.ResponseWriter, r *http.Request) error {
	v, sv, read, err := h.view(r, readView{})
	if err != nil {
		return err
	}
	rep := reportOf(sv, ui.UserOf(r).Name, v.Table, v.Gauged)
	rep.Plots = plotsOnPaper(ui.Said(r), sv, read)
	return sendReport(w, r, rep, sv.Title)
}

// plotsOnPaper are the plots of one reader's observations.
func plotsOnPaper(say *text.Printer, sv studies.Survey, read []studies.Observed) []paper.Plot {
	groups := groupsOf(sv.Plan, grid(sv.Plan, read))
	_, by := scenes(say, sv.Plan, groups, standOut(sv.Plan, groups), read)
	return []paper.Plot{{Name: plotNames["groups"], Scene: by["groups"]}}
}

// report sends a survey as a page on paper: what it comes to, its plots, and the verdict.
func (h Handler) report(w http.ResponseWriter, r *http.Request) error {
	sv := ui.StudyOf(r)
	_, by, read, err := h.drawn(r, sv)
	if err != nil {
		return err
	}
	st := newStudy(ui.Said(r), sv, read)
	rep := paper.Report{Title: sv.Title, Under: text.Row(text.Typed(sv.ClassName),
		text.Typed(sv.Plan.Instrument(0).Name()), text.New("survey.out.readings", "n", len(read)))}
	for _, k := range []string{"groups", "means"} {
		if by[k] != nil {
			rep.Plots = append(rep.Plots, paper.Plot{Name: plotNames[k], Scene: by[k]})
		}
	}
	shares := paper.Grid{Head: []text.Text{{}, text.New("survey.out.sd"), text.New("survey.out.of-spread"),
		text.New("survey.out.of-variance"), text.New("survey.out.of-tolerance")}}
	for _, row := range st.Shares {
		shares.Rows = append(shares.Rows, []text.Text{row.Name, text.Numbers(row.SD), text.Numbers(row.Spread),
			text.Numbers(row.Variance), text.Numbers(row.Tolerance)})
	}
	bias := paper.Grid{Head: []text.Text{text.New("survey.out.appraiser"), text.New("survey.out.off-true"),
		text.New("word.right")}}
	for _, row := range st.Bias {
		bias.Rows = append(bias.Rows, []text.Text{text.Typed(row.Name), text.Numbers(row.Bias),
			text.Numbers(row.Right)})
	}
	rep.Grids = []paper.Grid{shares, bias}
	rep.Says = append(append([]text.Text{st.Verdict}, st.Cannot...), st.Left...)
	if st.Categories != "–" {
		rep.Says = append(rep.Says, text.New("survey.out.categories", "n", text.Math(st.Categories)))
	}
	if l := limitsText(sv.Plan); !l.IsZero() {
		rep.Under = text.Row(rep.Under, text.New("survey.out.limits", "limits", l, "unit",
			sv.Plan.Instrument(0).Unit()))
	}
	return sendReport(w, r, rep, sv.Title+" report")
}
