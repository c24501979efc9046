package class

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// ledgerView is the marks of a class on a sheet.
type ledgerView struct {
	Title, Class string
	ClassHref    string
	Numbers      []int
	Rows         []ledgerRow // in sight
	Shown        ui.Shown
	People       []ledgerPerson // all of them
	Slips        []ui.SlipCount
	Answered     int
	Share        text.Math // marks of the cards answered, in per cent

	ID      int64
	How     text.Text // how it is taken
	When    text.Text
	Times   timesView
	Dates   []datesView     // of groups and students
	Whom    []ui.OptionView // groups and students who can have dates of their own
	Own     timesView       // for one of them, as typed
	More    string          // minutes, as typed
	Ends    bool            // attempts at it end by the clock
	Waiting int             // students whose results are not told yet
	Undo    bool            // it has been marked anew, which can be taken back
	May     bool            // the instructor's role lets them mark
	Excused int64           // who was to be excused, when it could not be done
	Errors  map[string]text.Text
	Changes []access.Change
	Timed   bool // cells show how long each card took instead of its marks
}

// ledgerPerson is a student to choose.
type ledgerPerson struct {
	ID   int64
	Name string
}

// ledgerRow is one student's line.
type ledgerRow struct {
	Name     string
	Cells    template.HTML
	Marks    text.Math
	Of       text.Math
	Dealt    bool // the student has begun
	Done     int
	Cards    int // of the sheet, while the student may still answer more of them; 0 after that
	Attempts int
	Attempt  int // that counts
	Late     bool
	ID       int64     // of the student
	Excused  string    // why
	Took     text.Text // how long the attempt took
	TooFast  bool      // nobody reads so fast
}

func (h Handler) ledger(w http.ResponseWriter, r *http.Request) error {
	return h.showLedger(w, r, ui.SheetOf(r), ledgerView{})
}

// showLedger prints the ledger of a given sheet, with what could not be kept.
func (h Handler) showLedger(w http.ResponseWriter, r *http.Request, a sitting.Given, typed ledgerView) error {
	// what the clock has not handed in yet
	if err := h.School.Sitting.CloseBeside(r.Context(), time.Now()); err != nil {
		return err
	}
	owner := ui.UserOf(r).ID
	students, err := h.School.Roster.AllStudents(r.Context(), owner, a.Class)
	if err != nil {
		return err
	}
	ui.ArrangeStudents(r, students)
	came, err := h.School.Ledgers.MovedStudents(r.Context(), owner, a.Class)
	if err != nil {
		return err
	}
	excuses, err := h.School.Ledgers.Excuses(r.Context(), owner, a.Class)
	if err != nil {
		return err
	}
	attempts, err := h.School.Ledgers.Attempts(r.Context(), owner, a.ID)
	if err != nil {
		return err
	}
	people := append(students, came...)
	cells, err := h.School.Ledgers.SheetCells(r.Context(), owner, a, people, time.Now())
	if err != nil {
		return err
	}
	timed := r.URL.Query().Get("show") == "times"
	v := newLedger(r, timed, a, people, excuses, attempts, cells)
	v.ID, v.May = a.ID, ui.Allows(r, access.SetMark)
	if ui.Continues(r) {
		return h.Fragment(w, r, "ledger", "ledgerrows", v)
	}
	v.How, v.When = howTaken(a.Sheet.Delivery), whenTaken(a)
	v.Excused, v.Errors, v.More = typed.Excused, typed.Errors, cmp.Or(typed.More, "10")
	v.Ends = a.Sheet.Minutes > 0 || !a.Closes.IsZero()
	if err := h.datesFor(r, a, people, &v); err != nil {
		return err
	}
	if v.Own.Zone = zoneName(a.Zone); typed.Own.Errors != nil {
		v.Own = typed.Own
	}
	if v.Times = newTimes(a.Opens, a.Closes, a.Zone); typed.Times.Errors != nil {
		v.Times = typed.Times
	}
	if v.Undo, err = h.School.Marking.CanUndo(r.Context(), owner, a.ID); err != nil {
		return err
	}
	if v.Changes, err = h.School.Access.Changes(r.Context(), owner, a.ID); err != nil {
		return err
	}
	return h.Render(w, r, max(ui.Status(v.Times.Errors), ui.Status(v.Errors), ui.Status(v.Own.Errors)), "ledger",
		text.Row(text.Typed(a.Title), text.New("title.ledger")), v)
}

// howTaken says how a sheet is taken.
func howTaken(c exercise.Delivery) text.Text {
	says := []text.Text{text.New("class.ledger.how-taken")}
	if c.Mode == exercise.Test {
		says = []text.Text{text.New("class.ledger.test")}
	}
	if c.Minutes > 0 {
		says = append(says, text.New("class.ledger.minutes-b", "minutes", c.Minutes))
	}
	if c.Tries() > 1 {
		says = append(says, text.New("class.ledger.attempts-which", "tries", c.Tries(), "counts", countsText(c.Counts)))
	}
	if c.Late {
		says = append(says, text.New("class.ledger.late-work-taken"))
	}
	return text.Row(says...)
}

// countsText says which of several attempts counts.
func countsText(c exercise.Counts) text.Text {
	if c == exercise.CountsBest {
		c = "best"
	}
	return text.New("conduct.counts." + string(c))
}

// whenTaken says when a sheet can be taken.
func whenTaken(a sitting.Given) text.Text {
	at := func(t time.Time) text.Text { return ui.WeekdayYear(t.In(roster.Clock(a.Zone))) }
	switch {
	case a.Opens.IsZero() && a.Closes.IsZero():
		return text.New("class.ledger.when-taken")
	case a.Closes.IsZero():
		return text.New("date.from", "at", at(a.Opens))
	case a.Opens.IsZero():
		return text.New("date.until", "at", at(a.Closes))
	}
	return text.New("date.from-to", "from", at(a.Opens), "to", at(a.Closes))
}

// rowsAfter is the number of rows that a page has after the student that it is opened at.
const rowsAfter = 20

// newLedger lays out the marks of a class, or how long each card took.
func newLedger(r *http.Request, timed bool, a sitting.Given, students []roster.Student, excuses []ledgers.Excuse,
	attempts []sitting.AttemptRow, cells map[int64]ledgers.LedgerCell) ledgerView {
	v := ledgerView{Timed: timed, Title: a.Title, Class: a.ClassName, ClassHref: fmt.Sprintf("/classes/%d", a.Class),
		Answered: a.Answered,
		Share:    ui.PerCent(a.Marks, a.Of)}
	for n := range a.Sheet.Cards() {
		v.Numbers = append(v.Numbers, n+1)
	}
	counts := map[int64]sitting.AttemptRow{} // by student
	for _, t := range attempts {
		if t.Attempt == cells[t.Student].Attempt {
			counts[t.Student] = t
		}
	}
	why := map[int64]string{}
	for _, x := range excuses {
		if x.Assignment == a.ID {
			why[x.Student] = x.Reason
		}
	}
	students = slices.DeleteFunc(students, func(st roster.Student) bool {
		return (!st.Left.IsZero() || st.Class != a.Class) && cells[st.ID].Attempts == 0
	})
	openAt := r.URL.Query().Get("at")
	at := slices.IndexFunc(students, func(st roster.Student) bool { return fmt.Sprint(st.ID) == openAt })
	columns, least := len(v.Numbers)+3, 0
	if at >= 0 {
		least = at + 1 + rowsAfter
	}
	v.Shown = ui.ShownOf(r, len(students), least, columns, ui.RowsOf(columns))
	tally, cell := ui.SlipTally{}, ui.NewCellPrinter(ui.Said(r), timed)
	for i, st := range students {
		c := cells[st.ID]
		v.People = append(v.People, ledgerPerson{st.ID, st.Name})
		for _, m := range counts[st.ID].Cards {
			if m.Done {
				tally.Add(m.Slip, st.Name)
			}
		}
		if c.Hidden {
			v.Waiting++
		}
		if i < v.Shown.From || i >= v.Shown.To {
			continue
		}
		row := ledgerRow{ID: st.ID, Name: st.Name, Excused: why[st.ID], Done: c.Done,
			Attempts: c.Attempts, Attempt: c.Attempt, Late: c.Late, Marks: ui.Marks(c.Earned),
			Of: ui.Marks(c.Of()), Dealt: c.Begun()}
		if c.IsOpen() {
			row.Cards = c.Cards
		}
		pace := ledgers.NewPace(counts[st.ID])
		row.Took, row.TooFast = ui.Duration(pace.Took), pace.TooFast
		row.Cells = cell.Row(len(v.Numbers), counts[st.ID].Cards, pace.Cards,
			fmt.Sprintf("/ledger/%d/%d/%%d?attempt=%d", a.ID, st.ID, c.Attempt))
		v.Rows = append(v.Rows, row)
	}
	v.Slips = tally.Ranked()
	return v
}

// answered finds the student's card that a request names, and how it is shown.
func (h Handler) answered(r *http.Request) (c sitting.Card, st ui.CardState, err error) {
	var ids [3]int64
	for i, name := range []string{"assignment", "student", "n"} {
		if ids[i], err = ui.ID(r, name); err != nil {
			return c, st, err
		}
	}
	if c, err = h.School.Sitting.CardOf(r.Context(), ui.UserOf(r).ID, ids[0], ids[1], attemptOf(r),
		int(ids[2])); err != nil {
		return c, st, err
	}
	if _, err = h.given(r, ids[0]); err != nil {
		return c, st, err
	}
	st = ui.CardState{Said: ui.Said(r), Item: c.Item, Answer: c.Draft, Result: c.Result, Figure: r.FormValue("figure"),
		At: fmt.Sprintf("/ledger/%d/%d/%d/figure?attempt=%d", ids[0], ids[1], ids[2], c.Attempt)}
	if c.Done() {
		st.Answer = c.Answer
		st.Wording, err = h.School.Sitting.WordingFor(r.Context(), ui.UserOf(r).ID, c.Student, c.ID)
	}
	return c, st, err
}

// attemptOf is the attempt that a request asks for; 0 is the latest.
func attemptOf(r *http.Request) int {
	n, _ := strconv.Atoi(r.URL.Query().Get("attempt"))
	return max(0, n)
}

// card shows an instructor a student's card as it was answered.
func (h Handler) card(w http.ResponseWriter, r *http.Request) error {
	c, st, err := h.answered(r)
	if err != nil {
		return err
	}
	return h.showCard(w, r, ui.CardView{}, c, st)
}

func (h Handler) showCard(w http.ResponseWriter, r *http.Request, v ui.CardView, c sitting.Card,
	st ui.CardState) error {
	owner := ui.UserOf(r).ID
	a, err := h.given(r, c.Assignment)
	if err != nil {
		return err
	}
	marks, err := h.School.Ledgers.LedgerOf(r.Context(), owner, a.ID, c.Student, c.Attempt)
	if err != nil {
		return err
	}
	v.Title, v.Sub, v.N, v.Of, v.CanMark = text.Typed(c.Name), text.Row(text.Typed(a.Title), text.Typed(a.ClassName)),
		c.N, len(marks), c.Done()
	v.Rule = ui.NewRule(marks, c.N, func(n int) string {
		return fmt.Sprintf("/ledger/%d/%d/%d?attempt=%d", a.ID, c.Student, n, c.Attempt)
	})
	v.Next = ui.Link{Text: text.New("class.ledger.back-ledger"), Href: fmt.Sprintf("/ledger/%d", a.ID)}
	if !c.Done() {
		v.Note = text.New("class.ledger.show-card")
	}
	if err := v.Fill(st); err != nil {
		return err
	}
	v.Stand(c)
	if c.Spoken {
		v.Note = text.New("class.ledger.spoken")
	}
	if c.Own != nil && len(v.Errors) == 0 {
		v.OwnMark, v.OwnReason = c.Marks.String(), c.Reason
	}
	return h.Render(w, r, ui.Status(v.Errors), "card", v.Title, v)
}

// figure brings another figure of a student's card in sight.
func (h Handler) figure(w http.ResponseWriter, r *http.Request) error {
	_, st, err := h.answered(r)
	if err != nil {
		return err
	}
	return h.Figures(w, r, st)
}

// ownMarkForm is the form of ownMark.
type ownMarkForm struct {
	Do     string `form:"do"`
	Mark   string `form:"mark"`
	Reason string `form:"reason"`
}

// ownMark sets an instructor's own mark on a card, or takes it away.
func (h Handler) ownMark(w http.ResponseWriter, r *http.Request, f ownMarkForm) error {
	c, st, err := h.answered(r)
	if err != nil {
		return err
	}
	set := func(half *int64, reason string) error {
		who := ui.UserOf(r)
		err := h.School.Marking.SetOwnMark(r.Context(), who.ID, c.CardRow, half, reason, who.Name, time.Now())
		if err == nil {
			http.Redirect(
				w,
				r,
				fmt.Sprintf("/ledger/%d/%d/%d?attempt=%d", c.Assignment, c.Student, c.N, c.Attempt),
				http.StatusSeeOther,
			)
		}
		return err
	}
	if f.Do == "away" {
		return set(nil, "")
	}
	reason := ui.OneLine(f.Reason)
	var bad ui.Faults
	mark, err := length.ReadTyped(f.Mark)
	half, whole := mark.Value.MulInt(2).Int64()
	switch {
	case err != nil:
		bad.Add("mark", "class.ledger.own-mark", "err", err)
	case mark.Unit != "" || !whole || half < 0 || c.Of.Less(mark.Value):
		bad.Add("mark", "class.ledger.mark-from-0-halves", "of", c.Of)
	}
	if reason == "" || len([]rune(reason)) > 200 {
		bad.Add("reason", "class.ledger.say-why-200-characters")
	}
	if len(bad.Refusal) > 0 {
		v := ui.CardView{Errors: bad.By(), OwnMark: strings.TrimSpace(ui.Clip(f.Mark, 60)), OwnReason: reason}
		return h.showCard(w, r, v, c, st)
	}
	return set(&half, reason)
}

// remarkView is a given sheet about to be marked anew: by which method, and what it would change.
type remarkView struct {
	ID        int64
	Title     string
	Method    ui.MethodView
	Errors    map[string]text.Text
	Previewed bool
	Changed   []remarkedView
	All       int
	Lower     bool        // marks are lowered too
	Stay      int         // marks that would be lower, and stay
	Asked     []text.Text // what the cards asked for, where they are marked by something else
}

// remarkedView is one mark that would change.
type remarkedView struct {
	Student           string
	N                 int
	Before, After, By string
	Up, Own           bool
}

func (h Handler) remark(w http.ResponseWriter, r *http.Request) error {
	owner := ui.UserOf(r)
	n := ui.SheetOf(r).ID
	a := ui.SheetOf(r)
	v := remarkView{ID: a.ID, Title: a.Title}
	was := a.Sheet.Method
	m := was
	if r.Method == http.MethodPost {
		var f methodForm
		if err := ui.Decode(r, &f); err != nil {
			return err
		}
		var bad ui.Faults
		m = f.Method.Method(&bad)
		if m.Tie == "unfavourable" && a.Sheet.Method.Tie != m.Tie {
			bad.Add("method.tie", "class.ledger.remark")
		}
		v.Errors, v.Lower, v.Asked = bad.By(), f.Lower != "", askedOtherwise(was, m)
		switch {
		case len(v.Errors) > 0:
		case f.Do == "apply":
			if err := h.School.Marking.ApplyRemark(r.Context(), owner.ID, n, m, f.Lower != "", owner.Name,
				time.Now()); err != nil {
				return err
			}
			return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.show-ledger"), nil)
		default:
			if err := h.preview(r, &v, m); err != nil {
				return err
			}
		}
	}
	v.Method = ui.MethodOf(m, false, v.Errors)
	return h.Render(w, r, ui.Status(v.Errors), "remark", text.New("word.re-mark"), v)
}

// askedOtherwise says in sentences what the cards of a sheet asked for, where they are to be marked by something else.
func askedOtherwise(was, now exercise.Method) (out []text.Text) {
	for _, s := range exercise.MethodSettings {
		switch s.Field {
		case "zero_term", "between", "tie", "unit":
			if a, b := chosen(s, was), chosen(s, now); !a.Equal(b) {
				out = append(out, text.New("class.ledger.asked-"+s.Field, "asked", a, "now", b))
			}
		}
	}
	return out
}

// chosen returns the choices of a method, in words.
func chosen(s exercise.MethodSetting, m exercise.Method) text.Text {
	value := cmp.Or(s.Get(m), s.Choices[0].Value)
	for _, c := range s.Choices {
		if c.Value == value {
			return c.Words
		}
	}
	return text.Typed(value)
}

// preview tells whose marks would change.
func (h Handler) preview(r *http.Request, v *remarkView, m exercise.Method) error {
	list, err := h.School.Marking.Remark(r.Context(), ui.UserOf(r).ID, v.ID, m, v.Lower)
	if err != nil {
		return err
	}
	v.Previewed, v.All = true, len(list)
	for _, c := range list {
		if c.Before.Equal(c.After) {
			continue
		}
		if c.Stays {
			v.Stay++
			continue
		}
		by := c.After.Sub(c.Before)
		sign := "+"
		if by.Sign() < 0 {
			sign = "−"
		}
		v.Changed = append(v.Changed, remarkedView{c.Student, c.N, c.Before.String(), c.After.String(),
			sign + by.Abs().String(), by.Sign() > 0, c.Own})
	}
	return nil
}

func (h Handler) undoRemark(w http.ResponseWriter, r *http.Request) error {
	n := ui.SheetOf(r).ID
	i := ui.UserOf(r)
	if err := h.School.Marking.UndoRemark(r.Context(), i.ID, n, i.Name, time.Now()); err != nil {
		return err
	}
	return h.Redirect(w, r, fmt.Sprintf("/ledger/%d", n), text.New("class.ledger.marks-stand-as-before"), nil)
}
