package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/figure"
	"cavix/store"
)

// cardView is a card as a page shows it, before and after checking. The same page serves a student at
// work, an instructor who tries a sheet, and an instructor who looks at an answer.
type cardView struct {
	Title, Sub string
	Rule       []ruleMark
	N, Of      int
	Facts      cardFacts
	Figures    []figureView
	ShowClosed bool // the closed figure is the one in sight to begin with

	Action string // where the boxes go; "" when nothing can be filled in
	Draft  string // where half-filled boxes are kept; "" when they are not
	Sums   [][]termView
	Empty  string // names of boxes left empty, to be confirmed
	Note   string // something to be said before anything else

	Hints    []string // rungs of help taken, in words
	NextHint string   // what the next rung costs; "" when there is none

	Own       bool // the mark is the instructor's own
	Reason    string
	CanMark   bool // an instructor looks at it, and may set a mark
	OwnMark   string
	OwnReason string
	Errors    map[string]string
	history   marking.History
	wordings  marking.Wordings
	hints     []marking.Hint

	Done      bool
	Marks     string
	Full      bool // all the marks
	Explained marking.Explanation
	Next      link
}

type link struct{ Text, Href string }

// ruleMark is one card on the progress rule.
type ruleMark struct {
	N           int
	Class, Word string
	Href        string
}

// termView is one piece of an equation of boxes.
type termView struct {
	Kind  string // op, box, echo, given or word
	Text  string // of an operator, a given number, an echo or a word
	Step  marking.Step
	Label string // short name of the step
	Value string // as typed
	Unit  string
	Error string
	Long  bool // the instrument's readings are long: fractions

	Outcome marking.Outcome // "" until it is checked
	Word    string          // the outcome in a word
	Want    string          // what it should have been, where that is not what was written
}

// outcomeWords name the outcomes for students.
var outcomeWords = map[marking.Outcome]string{
	marking.Right: "right", marking.Carried: "follows", marking.Form: "half", marking.Wrong: "wrong", marking.Missing: "empty",
}

// newRule lays out the progress rule; the card numbered here is the one in sight.
func newRule(marks []store.Mark, here int, href func(n int) string) []ruleMark {
	out := make([]ruleMark, len(marks))
	for i, m := range marks {
		r := ruleMark{N: m.N, Word: "to do", Href: href(m.N)}
		switch {
		case m.Done && m.Marks.Equal(m.Of):
			r.Class, r.Word = "done", "all marks"
		case m.Done:
			r.Class, r.Word = "slip", m.Marks.String()+" of "+m.Of.String()+" marks"
		}
		if m.N == here {
			r.Class += " here"
		}
		out[i] = r
	}
	return out
}

// cardFacts is what stands beside a card's figure.
type cardFacts struct {
	Lines  []string // about the instrument
	Closed string   // what it shows closed, where the sheet gives that
	School string   // what the class settles that the boxes do not show
}

func factsOf(c *marking.Card) cardFacts {
	in := c.Instrument
	unit := " " + string(in.Unit())
	f := cardFacts{Lines: []string{in.Name(), in.Describe()}, School: strings.Join(c.School(), "; ")}
	if b := in.Spec().Base; b.Sign() != 0 {
		f.Lines[1] += " · its 0 stands for " + in.FormatMain(b) + unit
	}
	if e := in.Spec().ZeroError; c.Asks(marking.Corrected) && !c.Asks(marking.ZeroError) {
		f.Closed = "closed, it shows " + marking.Show(in.Format(e)) + unit
	}
	return f
}

// fill shows a card with what stands in its boxes, and with its mark when it has been checked.
func (v *cardView) fill(c *marking.Card, written marking.Answer, result *marking.Result, errs map[string]string) error {
	in := c.Instrument
	unit := " " + string(in.Unit())
	v.Facts = factsOf(c)
	for _, sum := range c.Sums() {
		v.Sums = append(v.Sums, newTerms(c, sum, written, result, errs))
	}

	open, shut := looking{id: "open", width: figure.Wide, line: -1}, looking{id: "closed", width: figure.Wide, line: -1}
	if result != nil {
		v.Done, v.Full = true, result.Marks.Equal(result.Of)
		v.Marks = result.Marks.String() + " of " + result.Of.String()
		v.Explained = c.ExplainTo(*result, v.history, v.wordings)
		e := v.Explained
		if open.line = e.Line; e.Step == marking.Main || c.Instrument.HasFiner() {
			open.line = -1
		}
		open.flags = &figure.Flags{
			Mark: e.Mark, MarkText: marking.Show(in.FormatMain(e.Mark)) + unit,
			Line: e.Line, LineText: "line " + c.Text(marking.FineLine, result.Solution.LineNumber()),
			FinerLine: &e.FinerLine, TakenMark: e.TakenMark, TakenLine: e.TakenLine, TakenFiner: e.TakenFiner,
		}
		var err error
		if shut.flags, shut.line, err = closedFlags(in); err != nil {
			return err
		}
		v.ShowClosed = e.Step == marking.ZeroError
	}
	if n := len(v.hints); n > 0 && result == nil {
		if err := v.showHints(c, &open); err != nil {
			return err
		}
	}
	f, err := newFigure(in, c.Position(), open)
	if err != nil {
		return err
	}
	v.Figures = []figureView{f}
	if c.Asks(marking.ZeroError) && !c.Closed {
		if f, err = newFigure(in, in.Closed(), shut); err != nil {
			return err
		}
		v.Figures = append(v.Figures, f)
	}
	return nil
}

// showHints puts the rungs of help that were taken beside the boxes and on the figure.
func (v *cardView) showHints(c *marking.Card, l *looking) error {
	for _, h := range v.hints {
		v.Hints = append(v.Hints, h.Text)
	}
	last := v.hints[len(v.hints)-1]
	if !last.ShowMark || !c.Instrument.HasFine() {
		return nil
	}
	solutions, err := c.Solutions()
	if err != nil {
		return err
	}
	s := solutions[0]
	r, err := c.Instrument.ReadBy(c.Position(), c.Method.Between)
	if err != nil {
		return err
	}
	l.flags = &figure.Flags{Mark: r.Main, MarkText: marking.Show(c.Instrument.FormatMain(r.Main)) + " " + string(c.Instrument.Unit()), Line: -1}
	if last.ShowLine {
		l.flags.Line, l.flags.LineText = r.Line, "line "+c.Text(marking.FineLine, s.LineNumber())
		if c.Instrument.HasFiner() {
			l.flags.FinerLine = &r.FinerLine
		}
	}
	return nil
}

// closedFlags point at the line that coincides on the closed instrument.
func closedFlags(in *instrument.Instrument) (*figure.Flags, int, error) {
	r, err := in.Read(in.Closed())
	if err != nil {
		return nil, 0, err
	}
	f := &figure.Flags{Mark: r.Main, Line: r.Line, LineText: fmt.Sprintf("line %d", r.Line)}
	if in.HasFiner() {
		f.FinerLine = &r.FinerLine
	}
	if n := in.Lines(); r.ZeroError.Sign() < 0 && r.Line > 0 {
		end := n
		if in.Kind() != instrument.Vernier {
			end = 0 // a drum and a face come round to 0 again
		}
		f.LineText = fmt.Sprintf("line %d, %d back from %d", r.Line, n-r.Line, end)
	} else if r.ZeroError.Sign() >= 0 {
		f.MarkText = in.FormatMain(r.Main) + " " + string(in.Unit())
	}
	return f, r.Line, nil
}

// newTerms turns one equation of a card into what the page prints.
func newTerms(c *marking.Card, sum marking.Sum, written marking.Answer, result *marking.Result, errs map[string]string) []termView {
	unit := string(c.Instrument.Unit())
	out := make([]termView, 0, len(sum))
	for _, t := range sum {
		v := termView{}
		switch {
		case t.Operator != "":
			v.Kind, v.Text = "op", t.Operator
		case t.Given != "":
			v.Kind, v.Text = "given", marking.Show(t.Given)
		case t.Word != "":
			v.Kind, v.Text = "word", t.Word
		case t.Echo != "":
			v.Kind, v.Step, v.Label = "echo", t.Echo, c.Method.Label(t.Echo)
			v.Text = strings.TrimSpace(marking.Show(written[t.Echo]))
		default:
			v.Kind, v.Step, v.Label, v.Value, v.Error = "box", t.Box, c.Method.Label(t.Box), written[t.Box], errs[string(t.Box)]
			_, decimal := c.Instrument.Decimals()
			v.Long = !decimal
			if t.Box != marking.FineLine && t.Box != marking.FinerLine && c.Method.Unit != "required" {
				v.Unit = unit
			}
			if result == nil {
				break
			}
			st, _ := result.Step(t.Box)
			v.Outcome, v.Word = st.Outcome, outcomeWords[st.Outcome]
			if st.Outcome == marking.Wrong || st.Outcome == marking.Missing || st.Outcome == marking.Carried {
				v.Want = marking.Show(st.Expected)
			}
		}
		out = append(out, v)
	}
	return out
}

// written reads the boxes of a card from a form.
func written(r *http.Request, c *marking.Card) marking.Answer {
	a := marking.Answer{}
	for _, s := range c.Ask {
		if text := r.PostForm.Get(string(s)); text != "" {
			a[s] = clip(text, 60)
		}
	}
	return a
}

// clip cuts what is far too long for a box.
func clip(s string, runes int) string {
	if r := []rune(s); len(r) > runes {
		return string(r[:runes])
	}
	return s
}

// empties names the asked steps that were left empty.
func empties(c *marking.Card, a marking.Answer) string {
	var names []string
	for _, s := range c.Ask {
		if strings.TrimSpace(a[s]) == "" {
			names = append(names, c.Method.Name(s))
		}
	}
	return strings.Join(names, ", ")
}

// check marks what was written, or says in the view why it cannot be yet: a box that holds no number,
// or boxes left empty that the student has not confirmed.
func (v *cardView) check(r *http.Request, c *marking.Card, a marking.Answer) (*marking.Result, map[string]string, error) {
	if err := c.Check(a); err != nil {
		if errs := faultsOf(err); len(errs) > 0 {
			return nil, errs, nil
		}
		return nil, nil, err
	}
	if missing := empties(c, a); missing != "" && r.PostFormValue("do") != "anyway" {
		v.Empty = missing
		return nil, nil, nil
	}
	result, err := c.Mark(a)
	if err != nil {
		return nil, nil, err
	}
	return &result, nil, nil
}

// myCard finds the student's own card that a request names, dealing the sheet on first sight.
func (s *Server) myCard(r *http.Request) (card store.Card, err error) {
	student := userOf(r).student.ID
	assignment, err := id(r, "assignment")
	if err != nil {
		return card, err
	}
	n, err := id(r, "n")
	if err != nil {
		return card, err
	}
	card, err = s.Store.Card(r.Context(), student, assignment, int(n))
	if !errors.Is(err, store.ErrNotFound) {
		return card, err
	}
	if err := s.Store.Deal(r.Context(), student, assignment); err != nil {
		return card, err
	}
	return s.Store.Card(r.Context(), student, assignment, int(n))
}

func (s *Server) card(w http.ResponseWriter, r *http.Request) error {
	card, err := s.myCard(r)
	if err != nil {
		return err
	}
	v := cardView{}
	if r.URL.Query().Has("again") {
		v.Note = "This card had been checked before. The first answer counts; here it is."
	}
	return s.showCard(w, r, http.StatusOK, v, card, card.Draft, nil)
}

// showCard prints a student's own card.
func (s *Server) showCard(w http.ResponseWriter, r *http.Request, status int, v cardView, card store.Card, boxes marking.Answer, errs map[string]string) error {
	asg, err := s.Store.StudentAssignment(r.Context(), userOf(r).student.ID, card.Assignment)
	if err != nil {
		return err
	}
	marks, err := s.Store.Progress(r.Context(), userOf(r).student.ID, asg.ID)
	if err != nil {
		return err
	}
	at := func(n int) string { return fmt.Sprintf("/my/%d/%d", asg.ID, n) }
	v.Title, v.Sub = asg.Title, "practice"
	if err := s.lookBack(r, &v, card); err != nil {
		return err
	}
	v.Rule, v.N, v.Of = newRule(marks, card.N, at), card.N, len(marks)
	var result *marking.Result
	if card.Done() {
		boxes = card.Answer
		r, err := card.Item.Mark(card.Answer)
		if err != nil {
			return err
		}
		result = &r
		v.Next = link{"See your marks", fmt.Sprintf("/my/%d", asg.ID)}
		if n := nextCard(marks, card.N); n != 0 {
			v.Next = link{"Next card", at(n)}
		}
	} else {
		v.Action, v.Draft = at(card.N), at(card.N)+"/draft"
	}
	ladder, err := card.Item.Hints()
	if err != nil {
		return err
	}
	taken := min(card.Hints, len(ladder))
	v.hints = ladder[:taken]
	if !card.Done() && taken < len(ladder) {
		v.NextHint = "no marks"
		if cost := asg.Definition.Cost(1); cost.Sign() > 0 {
			v.NextHint = "−" + cost.String()
		}
	}
	if err := v.fill(card.Item, boxes, result, errs); err != nil {
		return err
	}
	v.stand(card)
	return s.render(w, r, status, "card", asg.Title, v)
}

// lookBack finds what the student's slips were before, and the instructor's own words for slips.
func (s *Server) lookBack(r *http.Request, v *cardView, card store.Card) (err error) {
	if !card.Done() {
		return nil
	}
	student := userOf(r).student.ID
	if v.history, err = s.Store.History(r.Context(), student, card.ID); err != nil {
		return err
	}
	v.wordings, err = s.Store.StudentWordings(r.Context(), student)
	return err
}

// stand puts the mark that stands in place of the computed one: what help took off, or the instructor's own.
func (v *cardView) stand(card store.Card) {
	if !card.Done() {
		return
	}
	v.Marks = card.Marks.String() + " of " + card.Of.String()
	v.Own, v.Reason = card.Own, card.Reason
	if card.Hints > 0 && !card.Own {
		v.Reason = fmt.Sprintf("%d of the help taken", card.Hints)
	}
}

// nextCard is the first card after n that is still to do, or else the first before it; 0 when none is.
func nextCard(marks []store.Mark, n int) int {
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

func (s *Server) cardPost(w http.ResponseWriter, r *http.Request) error {
	card, err := s.myCard(r)
	if err != nil {
		return err
	}
	to := fmt.Sprintf("/my/%d/%d", card.Assignment, card.N)
	if card.Done() {
		http.Redirect(w, r, to+"?again", http.StatusSeeOther)
		return nil
	}
	a := written(r, card.Item)
	if r.PostForm.Get("do") == "later" {
		if err := s.Store.SaveDraft(r.Context(), userOf(r).student.ID, card.ID, a); err != nil {
			return err
		}
		http.Redirect(w, r, "/my", http.StatusSeeOther)
		return nil
	}
	if r.PostForm.Get("do") == "hint" {
		if err := s.Store.SaveDraft(r.Context(), userOf(r).student.ID, card.ID, a); err != nil {
			return err
		}
		if err := s.Store.TakeHint(r.Context(), userOf(r).student.ID, card.ID, 3); err != nil {
			return err
		}
		http.Redirect(w, r, to, http.StatusSeeOther)
		return nil
	}
	v := cardView{}
	result, errs, err := v.check(r, card.Item, a)
	if err != nil {
		return err
	}
	if result == nil {
		if err := s.Store.SaveDraft(r.Context(), userOf(r).student.ID, card.ID, a); err != nil {
			return err
		}
		return s.showCard(w, r, http.StatusUnprocessableEntity, v, card, a, errs)
	}
	cost := length.Number{}
	if card.Hints > 0 {
		asg, err := s.Store.StudentAssignment(r.Context(), userOf(r).student.ID, card.Assignment)
		if err != nil {
			return err
		}
		cost = asg.Definition.Cost(card.Hints)
	}
	words, err := s.Store.StudentWordings(r.Context(), userOf(r).student.ID)
	if err != nil {
		return err
	}
	result.Slips = words.Named(result.Slips)
	counted, err := s.Store.Submit(r.Context(), userOf(r).student.ID, card.ID, a, result, cost, time.Now())
	if err != nil {
		return err
	}
	if !counted {
		to += "?again"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// cardDraft keeps a card half filled in, as the page sends it while it is typed.
func (s *Server) cardDraft(w http.ResponseWriter, r *http.Request) error {
	card, err := s.myCard(r)
	if err != nil {
		return err
	}
	a := written(r, card.Item)
	if err := s.Store.SaveDraft(r.Context(), userOf(r).student.ID, card.ID, a); err != nil {
		return err
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}
