// Package student is what a student sees: the sheets of the class, the cards, and how they came out.
package student

import (
	"cmp"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"cavix/core/exercise"
	"cavix/core/practice"
	"cavix/core/text"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// Files are the pages.
//
//go:embed *.html
var Files embed.FS

// Handler serves a student's own pages.
type Handler struct{ *ui.Site }

// Routes adds the pages.
func (h Handler) Routes(r chi.Router) {
	r.Get("/practice", h.Page(h.practice))
	r.Post("/practice/families", ui.Form(h.Site, h.chooseFamilies))
	r.Get("/practice/next", h.Page(h.nextPractice))
	r.Get("/practice/{n}", h.Page(h.practiceCard))
	r.Post("/practice/{n}", h.Page(h.practicePost))
	r.Post("/practice/{n}/draft", h.Page(h.practiceDraft))
	r.Get("/practice/{n}/figure", h.Page(h.practiceFigure))
	r.Post("/practice/{n}/figure", h.Page(h.practiceFigure))
	r.Get("/round", h.Page(h.round))
	r.Post("/round", h.Page(h.reply))
	r.Get("/my/way", h.Page(h.way))
	r.Get("/my/way.csv", h.Page(h.export))
	r.Get("/my/bench", h.Page(h.benches))
	r.Get("/my/bench/{key}", h.Page(h.bench))
	r.Get("/my/bench/{key}/hung", h.Page(h.hung))
	r.Post("/my/bench/{key}", h.Page(h.bench))
	r.Get("/my", h.Page(h.sheets))
	r.Get("/my/{assignment}", h.Page(h.sheet))
	r.Post("/my/{assignment}/begin", h.Page(h.begin))
	r.Post("/my/{assignment}/hand", h.Page(h.hand))
	r.Get("/my/{assignment}/{n}", h.Page(h.card))
	r.Post("/my/{assignment}/{n}", h.Page(h.cardPost))
	r.Post("/my/{assignment}/{n}/draft", h.Page(h.draft))
	r.Post("/my/{assignment}/{n}/hint", h.Page(h.hint))
	r.Post("/my/{assignment}/{n}/undo", h.Page(h.undo))
	r.Get("/my/{assignment}/{n}/figure", h.Page(h.figure))
	r.Post("/my/{assignment}/{n}/figure", h.Page(h.figure))
}

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

const (
	dueSeen    = 2  // sheets that are due, at the head of the page
	steadySeen = 2  // families that go well
	goneFor    = 12 // cards on which a slip could have been made, and was not, before it is said to be gone
)

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

// stands tells how a student stands with a sheet, with the marks.
func (h Handler) stands(r *http.Request, student, assignment int64) (sitting.State, error) {
	st, err := h.School.Sitting.Stands(r.Context(), student, assignment, time.Now())
	if err != nil {
		return st, err
	}
	return h.School.Sitting.Score(r.Context(), student, st)
}

// speak has the pages of a sheet speak its own words, where it has some.
func speak(r *http.Request, st sitting.State) {
	ui.Speak(r, roster.In(ui.WordsOf(r), st.Sheet.Delivery.Words))
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

// told are marks as a student may see them: of a card that is not told yet, that something was handed in.
func told(marks []sitting.Mark) []sitting.Mark {
	for i, m := range marks {
		if m.Hidden {
			marks[i] = sitting.Mark{Student: m.Student, Assignment: m.Assignment, Attempt: m.Attempt, N: m.N,
				Typed: true}
		}
	}
	return marks
}

// timeText writes a time on the class's clock.
func timeText(t time.Time, zone string) text.Text { return ui.Weekday(t.In(roster.Clock(zone))) }

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

// extraText says how many extra minutes a student has who takes a timed sheet.
func extraText(st sitting.State) text.Text {
	if st.Extra == 0 || st.Sheet.Minutes == 0 && st.Closes.IsZero() {
		return text.Text{}
	}
	return text.New("student.extra-text", "extra", st.Extra)
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

// sheetPage is a student's page of one sheet: before it is begun, under way, and afterwards.
type sheetPage struct {
	Title, Class string
	At           string // address
	When         text.Text
	Task         template.HTML
	Picture      template.HTML
	Facts        []text.Text // what to expect
	Begin        text.Text   // words of the button that begins; "" where it cannot be
	Again        bool        // it begins a further attempt

	Test, Working bool
	Waits         bool // handed in, and not told yet
	Timer         ui.Timer
	Written       []writtenLine // what stands on the cards of a test
	Empty, Unread int           // cards with boxes left empty, and with something that cannot be read
	Handed        text.Text
	Ended         bool // nothing more can be answered

	Marks    text.Math
	Of       text.Math
	Late     bool
	Done     int
	Cards    []cardLine
	Slips    []ui.SlipCount
	Next     ui.Link
	Attempts []attemptLine
}

// writtenLine is what stands on one card of a test.
type writtenLine struct {
	N       int
	Href    string
	Entries []entry
	Empty   int // boxes
	Unread  bool
}

// entry is what stands in one box.
type entry struct {
	Term text.Text
	Text text.Text
}

// attemptLine is one of several attempts.
type attemptLine struct {
	N      int
	Marks  text.Math
	Of     text.Math
	Counts bool
}

// cardLine is one card in a list of marks.
type cardLine struct {
	N          int
	Done, Full bool
	Marks      text.Math
	Of         text.Math
	Href       string
	Slip       string
}

// sheet shows a student's own sheet as it stands.
func (h Handler) sheet(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	st, err := h.stands(r, student, n)
	if err != nil {
		return err
	}
	marks, err := h.School.Sitting.Progress(r.Context(), student, st.ID)
	if err != nil {
		return err
	}
	speak(r, st)
	v, err := newSheetPage(ui.Said(r), st, told(marks))
	if err != nil {
		return err
	}
	if v.Test && st.Now() != nil && (v.Working || v.Waits) {
		if err := h.written(r, &v, st); err != nil {
			return err
		}
	}
	return h.Render(w, r, http.StatusOK, "mysheet", text.Typed(st.Title), v)
}

func newSheetPage(said *text.Printer, st sitting.State, marks []sitting.Mark) (sheetPage, error) {
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", st.ID, n) }
	v := sheetPage{
		Title:   st.Title,
		Class:   st.ClassName,
		When:    when(st),
		At:      fmt.Sprintf("/my/%d", st.ID),
		Test:    st.Test(),
		Working: st.Working(),
		Facts:   facts(st),
		Task:    ui.Markdown(st.Sheet.Task),
	}
	var err error
	if v.Picture, err = ui.Picture(st.Sheet.Picture, said); err != nil {
		return v, err
	}
	now := st.Now()
	if now == nil {
		if !st.NotYet() && !st.Shut() {
			v.Begin = text.New("student.new-sheet-page")
		}
		return v, nil
	}
	v.Timer = timerOf(st)
	tally := ui.SlipTally{}
	all := len(marks) > 0
	for _, m := range marks {
		v.Late = v.Late || m.Late
		all = all && m.Done
		if m.Done {
			v.Done++
		}
		v.Cards = append(v.Cards, cardLine{N: m.N, Done: m.Done, Full: m.Done && m.Half == m.Of, Marks: ui.Half(m.Half),
			Of: ui.Half(m.Of), Href: at(m.N), Slip: m.Slip})
		tally.Add(m.Slip, "")
	}
	v.Slips = tally.Ranked()
	if !now.Handed.IsZero() {
		v.Handed = timeText(now.Handed, st.Zone)
		v.Waits = !st.IsReleased()
	}
	if next := nextCard(marks, 0); next != 0 && v.Working && !v.Test {
		v.Next = ui.Link{Text: text.New("student.new-sheet-page.go-card", "next", next), Href: at(next)}
	}
	if st.Again(all) {
		v.Begin, v.Again = text.New("student.once-more-other-values", "attempt", now.Attempt+1, "tries",
			st.Sheet.Tries()), true
	}
	v.attempts(st)
	m := st.MarkOf(*now)
	v.Marks, v.Of, v.Ended = ui.Marks(m.Earned), ui.Marks(m.Of()), m.Ended
	return v, nil
}

// attempts lists several attempts, with the one that counts.
func (v *sheetPage) attempts(st sitting.State) {
	if len(st.Sittings) < 2 {
		return
	}
	counting := st.CountingAttempt()
	for i, a := range st.Sittings {
		m := st.MarkOf(a)
		v.Attempts = append(v.Attempts, attemptLine{a.Attempt, ui.Marks(m.Earned), ui.Marks(m.Of()),
			i == counting && st.Sheet.Counts != exercise.CountsMean})
	}
}

// facts says what to expect of a sheet with the extra minutes of the student.
func facts(st sitting.State) []text.Text {
	c := st.Sheet.Delivery
	out := []text.Text{text.New("student.facts", "cards", st.Sheet.Cards())}
	if c.Minutes > 0 {
		minutes, extra := c.Minutes, st.Extra
		if n := st.Now(); n != nil {
			extra += n.More
		}
		if extra > 0 {
			out = append(out, text.New("student.facts-extra", "minutes", minutes+extra, "own", minutes, "extra", extra))
		} else {
			out = append(out, text.New("student.minutes-from-moment-begin", "minutes", minutes))
		}
	}
	switch {
	case c.Mode == exercise.Practice:
		out = append(out, text.New("student.every-card-checked-as"))
	case c.Release == exercise.ReleaseHand:
		out = append(out, text.New("student.nothing-told-before-your"))
	default:
		out = append(out, text.New("student.nothing-told-before-hand"))
	}
	if c.Mode == exercise.Test {
		out = append(out, text.New("student.what-boxes-end-handed"))
		switch timed := c.Minutes > 0 || !st.Closes.IsZero(); {
		case c.Aids == exercise.AidsOpen:
			out = append(out, text.New("student.may-use-bench-practice"))
		case timed:
			out = append(out, text.New("student.bench-practice-handbook-closed"))
		}
	}
	if c.Tries() > 1 {
		out = append(out, text.New("student.can-take-times-each", "tries", c.Tries(), "counts", countsText(c.Counts)))
	}
	return out
}

// timerOf is how much time an attempt has left.
func timerOf(st sitting.State) ui.Timer {
	now := st.Now()
	if now == nil || now.Ends.IsZero() || !st.Working() {
		return ui.Timer{}
	}
	return ui.Timer{
		Ends: now.Ends.Unix(),
		Now:  st.At.Unix(),
		Text: text.New("student.until", "at", until(now.Ends, st.At, roster.Clock(st.Zone))),
	}
}

// until says when something ends, with its day where that is not today.
func until(ends, now time.Time, clock *time.Location) text.Text {
	return ui.Until(ends.In(clock), now.In(clock))
}

// written lists what stands on the cards, with what is empty and what cannot be read.
func (h Handler) written(r *http.Request, v *sheetPage, st sitting.State) error {
	cards, err := h.School.Sitting.Sat(r.Context(), ui.UserOf(r).ID, st.ID, st.Now().Attempt)
	if err != nil {
		return err
	}
	for _, c := range cards {
		stands := c.Draft
		if c.Done() {
			stands = c.Answer
		}
		line := writtenLine{N: c.N, Href: address(c), Unread: exercise.Readable(c.Item, stands) != nil}
		for _, f := range c.Item.Fields() {
			switch says := stands[f.Name]; {
			case exercise.Blank(says):
				line.Empty++
			case f.Input == exercise.Position:
				line.Entries = append(line.Entries, entry{f.Term, text.New("student.placed")})
			default:
				line.Entries = append(line.Entries, entry{f.Term, ui.Given(f, says)})
			}
		}
		if line.Empty > 0 {
			v.Empty++
		}
		if line.Unread {
			v.Unread++
		}
		v.Written = append(v.Written, line)
	}
	for _, line := range v.Written {
		if line.Empty > 0 && v.Working {
			v.Next = ui.Link{Text: text.New("student.written.go-card", "n", line.N), Href: line.Href}
			break
		}
	}
	return nil
}

// begin begins a sheet, or a further attempt at it.
func (h Handler) begin(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	student, to := ui.UserOf(r).ID, fmt.Sprintf("/my/%d", n)
	if r.PostFormValue("again") != "" {
		_, err = h.School.Sitting.SitAgain(r.Context(), student, n, time.Now())
	} else {
		_, err = h.School.Sitting.Sit(r.Context(), student, n, time.Now())
	}
	switch {
	case err == nil:
		to += "/1"
	case !errors.Is(err, sitting.ErrNotOpen) && !errors.Is(err, sitting.ErrOver) &&
		!errors.Is(err, sitting.ErrNoAttempt):
		return err
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// hand hands a sheet in as it stands.
func (h Handler) hand(w http.ResponseWriter, r *http.Request) error {
	n, err := ui.ID(r, "assignment")
	if err != nil {
		return err
	}
	if err := h.School.Sitting.HandIn(r.Context(), ui.UserOf(r).ID, n, time.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, fmt.Sprintf("/my/%d", n), http.StatusSeeOther)
	return nil
}

// nextCard is the first card after n that is still to do, or else the first before it; 0 when none is.
func nextCard(marks []sitting.Mark, n int) int {
	first := 0
	for _, m := range marks {
		if m.Done {
			continue
		}
		if m.N > n {
			return m.N
		}
		if first == 0 {
			first = m.N
		}
	}
	return first
}

// countsText says which of several attempts counts.
func countsText(c exercise.Counts) text.Text {
	if c == exercise.CountsBest {
		c = "best"
	}
	return text.New("conduct.counts." + string(c))
}
