package student

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// extraText says how many extra minutes a student has who takes a timed sheet.
func extraText(st sitting.State) text.Text {
	if st.Extra == 0 || st.Sheet.Minutes == 0 && st.Closes.IsZero() {
		return text.Text{}
	}
	return text.New("student.extra-text", "extra", st.Extra)
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

// writtenLine shows the entries of one card of a test.
type writtenLine struct {
	N       int
	Href    string
	Entries []entry
	Empty   int // boxes
	Unread  bool
}

// entry is the content of one box.
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
	mayKeep(w)
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

// timerOf returns the time that an attempt has left.
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

// countsText says which of several attempts counts.
func countsText(c exercise.Counts) text.Text {
	if c == exercise.CountsBest {
		c = "best"
	}
	return text.New("conduct.counts." + string(c))
}
