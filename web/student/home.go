package student

import (
	"cmp"
	"fmt"
	"math"
	"net/http"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/practice"
	"cavix/core/text"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// myPage is a student's own page: what is due, what goes well, what to train, and all sheets below.
type myPage struct {
	Due     []sheetLink
	More    int // that are due besides
	Steady  []steady
	Gone    text.Text // a slip that is not made any more
	Weakest []weakness
	Known   bool // something is known of the student
	Sheets  []sheetLink
	Survey  ui.Link  // the newest survey that is still to be read
	Surveys int      // how many more there are
	Unread  []string // titles of sheets that cannot be read
}

// steady is a family of instruments that goes well.
type steady struct {
	Family    text.Text
	Right, Of int
}

// sheetLink is a sheet on a student's own page.
type sheetLink struct {
	Title, Class string
	Test         bool
	Given        time.Time
	When         text.Text // when it can be taken
	Closes       time.Time
	Extra        text.Text // how many extra minutes the student has; "" where nothing is timed
	Cards, Done  int
	Marks        text.Math
	Of           text.Math // "" where they are not told
	Waits        bool      // handed in, and not told yet
	Href         string
	Do           text.Text // what to do next; "" for nothing
	Summary      string
	Rule         []ui.RuleMark
}

// links are the sheets that a student has been given: first what can be worked on, and of that what closes soonest.
func (h Handler) links(r *http.Request, student int64) ([]sheetLink, error) {
	list, err := h.School.Sitting.StudentSheets(r.Context(), student)
	if err != nil {
		return nil, err
	}
	all, err := h.School.Sitting.AllProgress(r.Context(), student)
	if err != nil {
		return nil, err
	}
	marks := map[int64][]sitting.Mark{}
	for _, m := range all {
		marks[m.Assignment] = append(marks[m.Assignment], m)
	}
	var out []sheetLink
	for _, a := range list {
		if a.Err != nil {
			continue // UnreadSheets names it
		}
		st, err := h.stands(r, student, a.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, newSheetLink(st, told(marks[a.ID])))
	}
	slices.SortStableFunc(out, sheetLink.before)
	return out, nil
}

// sheets is a student's own page.
func (h Handler) sheets(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	v := myPage{}
	var err error
	if v.Sheets, err = h.links(r, student); err != nil {
		return err
	}
	if v.Unread, err = h.School.Sitting.UnreadSheets(r.Context(), student); err != nil {
		return err
	}
	for _, sh := range v.Sheets {
		switch {
		case sh.Do.IsZero():
		case len(v.Due) < dueSeen:
			v.Due = append(v.Due, sh)
		default:
			v.More++
		}
	}
	p, err := h.School.Sitting.Practice(r.Context(), student)
	if err != nil {
		return err
	}
	v.Weakest, v.Known = weaknesses(p), len(p.Past) > 0
	past := pastOf(p)
	for _, f := range practice.GoingWell(past) {
		if len(v.Steady) < steadySeen {
			v.Steady = append(v.Steady, steady{f.Family.Name(), f.Right, f.Of})
		}
	}
	if gone := practice.NoLongerMade(past, goneFor); len(gone) > 0 {
		v.Gone = gone[0].Name()
	}
	if err := h.toMeasure(r, &v); err != nil {
		return err
	}
	mayKeep(w)
	return h.Render(w, r, http.StatusOK, "my", text.New("student.sheets"), v)
}

// toMeasure finds the surveys that a student has still to read: the newest, and how many more.
func (h Handler) toMeasure(r *http.Request, v *myPage) error {
	list, err := h.School.Studies.StudentSurveys(r.Context(), ui.UserOf(r).ID)
	for _, k := range list {
		if k.Err != nil || !k.Runs() || k.Read > 0 && (k.Plan.Gauge != "" || k.Read >= k.Plan.Cells()) {
			continue
		}
		if v.Survey.Text.IsZero() {
			v.Survey = ui.Link{Text: text.Typed(k.Title), Href: fmt.Sprintf("/my/surveys/%d", k.ID)}
		} else {
			v.Surveys++
		}
	}
	return err
}

// before orders a student's sheets: what can be worked on first, and of that what closes soonest.
func (v sheetLink) before(o sheetLink) int {
	rank := func(v sheetLink) int64 {
		switch {
		case v.Do.IsZero():
			return math.MaxInt64
		case v.Closes.IsZero():
			return math.MaxInt64 - 1
		}
		return v.Closes.Unix()
	}
	return cmp.Compare(rank(v), rank(o))
}

// when says when a sheet can be taken.
func when(st sitting.State) text.Text {
	switch {
	case st.NotYet():
		return text.New("student.opens", "at", timeText(st.Opens, st.Zone))
	case st.Closes.IsZero():
		return text.Text{}
	case st.Shut():
		return text.New("student.closed", "at", timeText(st.Closes, st.Zone))
	case !st.At.Before(st.Closes):
		return text.New("student.was-due", "at", timeText(st.Closes, st.Zone))
	}
	return text.New("student.until", "at", timeText(st.Closes, st.Zone))
}

func newSheetLink(st sitting.State, marks []sitting.Mark) sheetLink {
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", st.ID, n) }
	v := sheetLink{
		Title:   st.Title,
		Class:   st.ClassName,
		Test:    st.Sheet.Mode == exercise.Test,
		Given:   st.Assignment.Given,
		When:    when(st),
		Extra:   extraText(st),
		Closes:  st.Closes,
		Cards:   st.Sheet.Cards(),
		Summary: fmt.Sprintf("/my/%d", st.ID),
	}
	for _, m := range marks {
		if m.Done {
			v.Done++
		}
	}
	if now := st.Now(); now != nil && !now.Handed.IsZero() && !st.IsReleased() {
		v.Waits = true
	}
	if now := st.Now(); v.Done > 0 && now != nil && !v.Waits {
		m := st.MarkOf(*now)
		v.Marks, v.Of = ui.Marks(m.Earned), ui.Marks(m.Of())
	}
	next := nextCard(marks, 0)
	switch now := st.Now(); {
	case now == nil && (st.NotYet() || st.Shut()):
	case now == nil && plain(st.Sheet.Delivery):
		v.Href, v.Do = at(1), text.New("student.new-sheet-link")
	case now == nil:
		v.Href, v.Do = v.Summary, text.New("student.look")
	case st.Working() && next != 0:
		v.Href, v.Do = at(next), text.New("student.go")
	}
	if len(marks) > 0 {
		v.Rule = ui.NewRule(marks, 0, at)
	}
	return v
}

// plain reports whether there is nothing to know before a sheet is begun.
func plain(c exercise.Delivery) bool {
	return c.Mode == exercise.Practice && c.Minutes == 0 && c.Task == "" && c.Picture == nil
}

const (
	dueSeen    = 2  // sheets that are due, at the head of the page
	steadySeen = 2  // families that go well
	goneFor    = 12 // cards on which a slip could have been made, and was not, before it is said to be gone
)
