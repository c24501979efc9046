package class

import (
	"fmt"
	"net/http"
	"slices"
	"time"

	"cavix/core/notice"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/web/ui"
)

// deskView is an instructor's start page: what runs now, who needs a word, what is due, and short lists below.
type deskView struct {
	First   bool // nothing has been given yet: how to begin stands in place of the rest
	Racked  int
	Sheets  int
	Running *runningView
	Also    []runningView // that run besides
	Words   []wordView
	Due     []dueView
	Changed []changedView      // marks that changed with an upgrade
	Copies  []rack.SentCopyRow // from colleagues, to be kept or declined
	Classes []roster.Class
	Recent  []givenView
	Week    weekView
	Name    string // of a new class, as typed
	Like    int64  // the class that it takes everything from
	Start   string
	Old     []roster.Class // that a new one may be like
	Errors  map[string]text.Text
}

// runningView is a sheet that a class works on just now.
type runningView struct {
	ID, Class    int64
	Title, Where string
	ui.AtWork
	Left  text.Text // "22 min left"
	More  int       // students besides those shown
	Slip  string    // that spreads
	Short text.Text // the same in two or three words
}

// wordView is something worth a word.
type wordView struct {
	Who   text.Text
	Text  text.Text
	Links []ui.Link
	Class int64  // of a slip for which a sheet can be composed
	Slip  string // "" for none
}

// dueView is something that is due.
type dueView struct {
	Title, Href string
	Text, Do    text.Text
}

// changedView is a class whose marks changed with an upgrade.
type changedView struct {
	Class    int64
	Name     string
	Sheets   []ledgers.MarkChange
	Students int // times that a share changed
}

// changed lists the classes whose marks changed with an upgrade.
func (h Handler) changed(r *http.Request) (out []changedView, err error) {
	list, err := h.School.Ledgers.MarkChanges(r.Context(), ui.UserOf(r).ID)
	for _, c := range list {
		if len(out) == 0 || out[len(out)-1].Class != c.Class {
			out = append(out, changedView{Class: c.Class, Name: c.ClassName})
		}
		last := &out[len(out)-1]
		last.Sheets, last.Students = append(last.Sheets, c), last.Students+len(c.Students)
	}
	return out, err
}

// dismissChanged takes the changed marks of a class off the Desk.
func (h Handler) dismissChanged(w http.ResponseWriter, r *http.Request) error {
	class := ui.ClassOf(r).ID
	return h.Redirect(w, r, "/desk", text.Text{}, h.School.Ledgers.DismissMarkChanges(r.Context(), ui.ActorOf(r),
		class))
}

// weekView is the week in numbers.
type weekView struct {
	Answers     int
	Share, Then text.Math // of the marks: this week, and in the one before
}

const (
	runningFor  = 2 * time.Hour // since somebody began
	rowsRunning = 8
	wordsSeen   = 3
	dueSeen     = 4
	copiesSeen  = 5
	latelySeen  = 5
	wordsFor    = 28 * 24 * time.Hour
	dueWithin   = 10 * 24 * time.Hour
)

func (h Handler) desk(w http.ResponseWriter, r *http.Request) error {
	return h.showDesk(w, r, deskView{})
}

func (h Handler) showDesk(w http.ResponseWriter, r *http.Request, v deskView) error {
	who, now := ui.UserOf(r).ID, time.Now()
	var err error
	if v.Classes, err = h.School.Roster.Classes(r.Context(), who); err != nil {
		return err
	}
	for _, c := range v.Classes {
		if access.ArchiveClass.Allows(c.Role) {
			v.Old = append(v.Old, c)
		}
	}
	if v.Copies, err = h.School.Rack.Copies(r.Context(), who); err != nil {
		return err
	}
	v.Copies = v.Copies[:min(len(v.Copies), copiesSeen)]
	if v.Start == "" {
		v.Start = now.Format(time.DateOnly)
	}
	if v.Racked, err = h.School.Rack.CountRacked(r.Context(), who); err != nil {
		return err
	}
	if v.Sheets, err = h.School.Rack.CountSheets(r.Context(), who); err != nil {
		return err
	}
	lately, err := h.School.Ledgers.RecentSheets(r.Context(), who, latelySeen)
	if err != nil {
		return err
	}
	v.Recent = h.newGiven(lately)
	if v.First = len(lately) == 0; !v.First {
		if err := v.fill(h, r, now); err != nil {
			return err
		}
	}
	return h.Render(w, r, ui.Status(v.Errors), "desk", text.New("class.desk.show-desk"), v)
}

func (v *deskView) fill(o Handler, r *http.Request, now time.Time) (err error) {
	if err := o.School.Sitting.CloseBeside(r.Context(), now); err != nil { // what the clock has not handed in yet
		return err
	}
	if err := v.running(o, r, now); err != nil {
		return err
	}
	if v.Words, err = o.words(r, now); err != nil {
		return err
	}
	if v.Due, err = o.due(r, now); err != nil {
		return err
	}
	if v.Changed, err = o.changed(r); err != nil {
		return err
	}
	who := ui.UserOf(r).ID
	week := func(from, to time.Time) (int, text.Math, error) {
		cards, half, of, err := o.School.Ledgers.WeekSum(r.Context(), who, from, to)
		return cards, ui.PerCent(ui.Halves(half), ui.Halves(of)), err
	}
	if v.Week.Answers, v.Week.Share, err = week(now.AddDate(0, 0, -7), now.Add(time.Hour)); err != nil {
		return err
	}
	_, v.Week.Then, err = week(now.AddDate(0, 0, -14), now.AddDate(0, 0, -7))
	return err
}

// running looks at the sheets that are worked on just now: the one that most are at in full.
func (v *deskView) running(o Handler, r *http.Request, now time.Time) error {
	ids, err := o.School.Ledgers.Running(r.Context(), ui.UserOf(r).ID, now.Add(-runningFor))
	if err != nil {
		return err
	}
	for i, id := range ids[:min(4, len(ids))] {
		g, err := o.School.Sitting.GivenSheet(r.Context(), ui.UserOf(r).ID, id)
		if err != nil {
			return err
		}
		run := runningView{ID: g.ID, Class: g.Class, Title: g.Title, Where: g.ClassName}
		if i > 0 {
			v.Also = append(v.Also, run)
			continue
		}
		if run.AtWork, err = o.AtWork(r, g, false, now); err != nil {
			return err
		}
		if left := g.Closes.Sub(now); !g.Closes.IsZero() && left > 0 && left < 3*time.Hour {
			run.Left = text.New("class.desk.running", "minutes", int(left.Minutes()))
		}
		if len(run.Spreading) > 0 {
			run.Slip, run.Short = string(run.Spreading[0].Slip), run.Spreading[0].Slip.Short()
		}
		run.first()
		v.Running = &run
	}
	return nil
}

// first brings those who are stuck to the top, and leaves out whom there is no room for.
func (v *runningView) first() {
	slices.SortStableFunc(v.Rows, func(a, b ui.AtWorkRow) int {
		rank := func(r ui.AtWorkRow) int {
			switch {
			case !r.Wait.IsZero():
				return 0
			case r.Done > 0 && r.Done < len(r.Rule):
				return 1
			case r.Done == 0:
				return 2
			}
			return 3
		}
		return rank(a) - rank(b)
	})
	v.More = max(0, len(v.Rows)-rowsRunning)
	v.Rows = v.Rows[:min(rowsRunning, len(v.Rows))]
}

// words returns the notices on the Desk, each a sentence with a next step.
func (h Handler) words(r *http.Request, now time.Time) ([]wordView, error) {
	news, err := h.School.Ledgers.Notices(r.Context(), ui.UserOf(r).ID, now.Add(-wordsFor), wordsSeen)
	if err != nil {
		return nil, err
	}
	var out []wordView
	for _, n := range news {
		st := n.First
		v := wordView{Who: text.Typed(st.Name), Class: st.Class}
		person := fmt.Sprintf("/classes/%d/people/%d", st.Class, st.ID)
		switch n.Kind {
		case notice.Many:
			v.Who, v.Slip = text.New("class.desk.students-of", "n", len(n.Students), "class", st.ClassName),
				string(n.Slip)
			v.Text = text.New("class.desk.words", "slip", n.Slip.Name(), "students", len(n.Students), "of", n.Of,
				"title", n.Title)
			v.Links = []ui.Link{{Text: text.New("class.desk.mistakes"), Href: fmt.Sprintf("/wrong/%d", n.Sheet)}}
		case notice.Again:
			v.Text = text.New("class.desk.times-sheets", "slip", n.Slip.Name(), "times", n.Times, "of", n.Of)
			v.Links = []ui.Link{{Text: text.New("class.desk.words.progress"), Href: person}}
		case notice.Habit:
			v.Text = text.New("class.desk.cards-could-show", "slip", n.Slip.Name(), "times", n.Times, "of", n.Of,
				"title", n.Title)
			v.Links = []ui.Link{{Text: text.New("class.desk.words.progress"), Href: person}}
		case notice.Form:
			v.Text = text.New("class.desk.reads-right-writes-half", "given", n.Example.Given, "expected",
				text.Math(n.Example.Expected), "times", n.Times)
			v.Links = []ui.Link{{Text: text.New("class.desk.words.progress"), Href: person}}
		}
		out = append(out, v)
	}
	return out, nil
}

// due lists what is due: sheets that close soon, results that wait, instruments that want a check.
func (h Handler) due(r *http.Request, now time.Time) (out []dueView, err error) {
	list, err := h.School.Ledgers.Pending(r.Context(), ui.UserOf(r).ID, now, now.Add(dueWithin), dueSeen)
	for _, p := range list {
		d := dueView{Title: p.Title, Href: fmt.Sprintf("/ledger/%d", p.Assignment), Do: text.New("class.desk.due.do")}
		missing := p.Students - p.Begun
		switch {
		case p.Hidden > 0 && missing > 0 && p.Closes.After(now):
			d.Text = text.New("class.desk.due", "hidden", p.Hidden, "missing", missing)
		case p.Hidden > 0:
			d.Text, d.Do = text.New("class.desk.handed-by-results-not", "hidden", p.Hidden),
				text.New("class.desk.review-release")
		case missing > 0:
			d.Text = text.New("class.desk.closes-not-begun", "closing", closing(p.Closes, p.Zone, now), "missing",
				missing, "students", p.Students)
		default:
			d.Text = text.New("class.desk.closes-everybody-begun", "closing", closing(p.Closes, p.Zone, now))
		}
		d.Text = text.Row(text.Typed(p.ClassName), d.Text)
		out = append(out, d)
	}
	if err != nil {
		return nil, err
	}
	older, err := h.School.Marking.ToRemark(r.Context(), ui.UserOf(r).ID, false)
	if err != nil {
		return nil, err
	}
	for _, e := range older {
		out = append(out, dueView{Title: e.Title, Href: fmt.Sprintf("/ledger/%d/remark", e.Assignment),
			Do: text.New("class.desk.due.preview-re-marking"), Text: text.New("class.desk.earlier-version-cavix-marked",
				"class", e.Class, "cards", e.Cards, "rule", e.Rule())})
	}
	rack, err := h.School.Rack.Rack(r.Context(), ui.UserOf(r).ID)
	for _, k := range rack {
		if !k.Warning.IsZero() && len(out) < dueSeen {
			out = append(out, dueView{Title: k.Name, Text: text.New("class.desk.warning", "warning", k.Warning),
				Href: fmt.Sprintf("/rack/%d/book", k.ID), Do: text.New("class.desk.due.open-logbook")})
		}
	}
	return out, err
}

// closing says when a sheet closes, by the class's clock.
func closing(at time.Time, zone string, now time.Time) text.Text {
	clock := roster.Clock(zone)
	return ui.Until(at.In(clock), now.In(clock))
}
