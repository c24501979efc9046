package survey

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school/roster"
	"cavix/school/studies"
	"cavix/web/ui"
)

// listLine is a survey in a list.
type listLine struct {
	ID           int64
	Title, Class string
	Made         ui.Stamp
	Read, Of     int
	Readers      int
	Runs, Unread bool
}

func newLine(s studies.Survey) listLine {
	l := listLine{ID: s.ID, Title: s.Title, Class: s.ClassName, Read: s.Read, Readers: s.Appraisers, Runs: s.Runs(),
		Unread: s.Err != nil, Made: ui.Day(s.Given.In(roster.Clock(s.Zone)))}
	if s.Err == nil {
		l.Of = s.Plan.Cells()
	}
	return l
}

func (h StudentHandler) surveys(w http.ResponseWriter, r *http.Request) error {
	list, err := h.School.Studies.StudentSurveys(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	lines := make([]listLine, len(list))
	for i, k := range list {
		lines[i] = newLine(k)
	}
	return h.Render(w, r, http.StatusOK, "mysurveys", text.New("survey.student.surveys"), lines)
}

// readView is a survey as a student reads it.
type readView struct {
	ID    int64
	Title string
	About text.Text // of the instrument that is read now
	Table tableView
	Card  ui.CardView
	Cell  int
	What  text.Text // that is read now, as "place 5, third reading"
	Unit  string
	N, Of int
	Runs  bool
	Typed string
	Fault text.Text

	Student int64      // whose it is, where an instructor looks
	Setup   *setupView // what is worked out and set before the teeth of a gear are measured
	Set     text.Text  // what came of it
	Teeth   template.HTML
	Trial   *trialView // a part that is tried in the gauge first
	Gauged  []gaugedLine
}

// seen finds a student's survey, in the words of the class.
func (h StudentHandler) seen(r *http.Request) (studies.Survey, error) {
	id, err := ui.ID(r, "survey")
	if err != nil {
		return studies.Survey{}, err
	}
	sv, err := h.School.Studies.StudentSurvey(r.Context(), ui.UserOf(r).ID, id)
	if err != nil {
		return sv, err
	}
	set, err := roster.Words(sv.Words)
	ui.Speak(r, set)
	return sv, err
}

func (h StudentHandler) survey(w http.ResponseWriter, r *http.Request) error {
	return h.show(w, r, http.StatusOK, readView{})
}

func (h StudentHandler) show(w http.ResponseWriter, r *http.Request, status int, v readView) error {
	v, sv, _, err := h.view(r, v)
	if err != nil {
		return err
	}
	return h.Render(w, r, status, "reading", text.Typed(sv.Title), v)
}

// view fills the page of a survey in, with what was typed where that was refused.
func (h StudentHandler) view(r *http.Request, v readView) (readView, studies.Survey, []studies.Observed, error) {
	sv, err := h.seen(r)
	if err != nil {
		return v, sv, nil, err
	}
	read, err := h.School.Studies.OwnReadings(r.Context(), ui.UserOf(r).ID, sv.ID)
	if err == nil {
		err = h.fill(r, sv, read, &v)
	}
	return v, sv, read, err
}

func (h StudentHandler) fill(r *http.Request, sv studies.Survey, read []studies.Observed, v *readView) error {
	me := ui.UserOf(r).ID
	verdicts, err := h.School.Studies.OwnVerdicts(r.Context(), me, sv.ID)
	if err != nil {
		return err
	}
	said, err := h.School.Studies.OwnTrials(r.Context(), me, sv.ID)
	if err != nil {
		return err
	}
	v.ID, v.Title, v.N, v.Of, v.Runs, v.Cell = sv.ID, sv.Title, len(read), sv.Cells(said), sv.Runs(), -1
	if v.Runs {
		v.Trial = newTrial(ui.Said(r), sv, me, said)
	}
	if sv.Plan.Gauge != "" && v.Trial == nil {
		v.Gauged = gaugedLines(sv, me, said)
	}
	if sv.Plan.Gear != nil {
		if err := h.gear(r, sv, v); err != nil {
			return err
		}
	}
	if v.Runs && v.Trial == nil && v.Setup == nil {
		v.Cell = sv.Next(me, read, said)
	}
	v.Table = newTable(ui.Said(r), sv, read, verdicts, said, v.Cell)
	if v.Cell >= 0 {
		it := sv.Card(me, v.Cell)
		if err := v.Card.Fill(ui.CardState{Said: ui.Said(r), Item: it}); err != nil {
			return err
		}
		if sv.Plan.Gear != nil {
			v.Teeth = teeth(ui.Said(r), sv.Plan, v.Cell)
		}
		v.What, v.Unit, v.About = whatIsRead(sv, v.Cell), v.Table.Unit, aboutOf(it)
		if sv.Plan.Compare {
			v.About = text.Row(v.About, text.New("survey.student.zeroed-at", "at",
				text.Math(sv.Plan.Nominal.Text(v.Table.Places)), "unit", v.Unit))
		}
		if sv.Plan.Method.UnitRequired() {
			v.Unit = ""
		}
	}
	return nil
}

// whatIsRead says what a cell is of: "place 5, third reading".
func whatIsRead(s studies.Survey, cell int) text.Text {
	c := s.Plan.Cell(cell)
	var parts []text.Text
	switch {
	case s.Plan.Gear != nil:
		parts = append(parts, text.New("survey.student.tooth", "tooth", s.Plan.Tooth(c.Part)))
	case len(s.Plan.Parts) > 1:
		parts = append(parts, text.Typed(s.Plan.Parts[c.Part].Name))
	}
	if s.Plan.Places > 1 {
		parts = append(parts, text.New("repeat.place", "n", c.Place+1))
	}
	what := text.New("survey.student.reading")
	switch {
	case s.Plan.Compare:
		what = text.New("survey.student.deviation")
	case s.Plan.Asked(c.Part) != "observed":
		what = text.Word("corrected reading")
	}
	if s.Plan.Repeats > 1 {
		what = text.New("survey.student.nth", "what", what, "nth", text.New(fmt.Sprintf("nth.%d", c.Repeat+1)))
	}
	return text.List(append(parts, what)...)
}

// aboutOf says what instrument a card shows, and what it shows closed.
func aboutOf(it exercise.Item) text.Text {
	f := it.Facts()
	return text.Row(slices.Concat(f.About, f.Given)...)
}

// writeForm is the form of write.
type writeForm struct {
	Cell    int    `form:"cell"`
	Value   string `form:"value"`
	Part    int    `form:"part"`
	Verdict string `form:"verdict"`
	Beyond  string `form:"beyond"`
	Try     string `form:"try"`
	Said    string `form:"said"`

	Setup    string `form:"setup"`
	Addendum string `form:"addendum"`
	Upright  string `form:"upright"`
}

// write keeps a reading, or what is said of a part.
func (h StudentHandler) write(w http.ResponseWriter, r *http.Request, f writeForm) error {
	sv, err := h.seen(r)
	if err != nil {
		return err
	}
	me := ui.UserOf(r).ID
	set := setupForm{ui.Clip(f.Addendum, 40), ui.Clip(f.Upright, 40)}
	switch {
	case f.Setup != "" && sv.Plan.Gear == nil:
		err = studies.ErrClosed
	case f.Setup != "":
		err = h.School.Studies.SetToothDepth(r.Context(), me, sv.ID, set.answer(sv, me), time.Now())
	case f.Try != "" || f.Said != "":
		err = h.School.Studies.Try(r.Context(), me, sv.ID, studies.Trial{Part: f.Part, Go: f.Try == "go",
			NoGo: f.Try == "no-go", Said: f.Said})
	case f.Verdict != "":
		err = h.School.Studies.Decide(r.Context(), me, sv.ID, studies.Verdict{Part: f.Part, Verdict: f.Verdict,
			Beyond: ui.Clip(f.Beyond, 20)}, time.Now())
	default:
		err = h.School.Studies.Record(r.Context(), me, sv.ID, f.Cell, ui.Clip(f.Value, 60), time.Now())
	}
	var refused refusal.Refusal
	switch {
	case errors.As(err, &refused) && f.Setup != "":
		return h.show(w, r, http.StatusUnprocessableEntity, readView{Setup: &setupView{setupForm: set},
			Fault: refused[0].Reason})
	case errors.As(err, &refused):
		return h.show(w, r, http.StatusUnprocessableEntity, readView{Typed: ui.Clip(f.Value, 60),
			Fault: refused[0].Reason})
	case errors.Is(err, studies.ErrClosed):
		return h.show(w, r, http.StatusConflict, readView{Fault: text.New("survey.student.write.fault")})
	case err != nil:
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/my/surveys/%d", sv.ID), http.StatusSeeOther)
	return nil
}
