package student

import (
	"crypto/rand"
	"encoding/binary"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/practice"
	"cavix/core/text"
	"cavix/plot"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// practicePage is a student's page of practice without end.
type practicePage struct {
	Cards    int
	Rule     []ui.RuleMark
	Weakest  []weakness
	Families []ui.OptionView
	Kinds    []ui.OptionView // none where there is one
	Back     []returning
	Needed   bool          // what is needed most is practised, and no family chosen
	Days     template.HTML // how each day went
	Slips    []slipRun
	ByFamily template.HTML
	Sight    roster.PracticeView // what the instructors see of practice
}

// weakness is a slip to train.
type weakness struct {
	slip    exercise.Code
	Slip    text.Text
	Family  text.Text
	Share   text.Text
	Percent int
}

// slipRun is a slip with every time that it could have been made.
type slipRun struct {
	Slip text.Text
	Run  template.HTML
}

const (
	ruled    = 30 // cards on the progress rule
	weak     = 3  // slips that are said to be trained
	daysSeen = 14
	runsSeen = 6  // slips that are drawn
	runSeen  = 40 // times that each could have been made
)

// practice shows what to train, and how it goes.
func (h Handler) practice(w http.ResponseWriter, r *http.Request) error {
	student := ui.UserOf(r).ID
	p, err := h.School.Sitting.Practice(r.Context(), student)
	if err != nil {
		return err
	}
	marks, err := h.School.Sitting.PracticeMarks(r.Context(), student, ruled)
	if err != nil {
		return err
	}
	who, err := h.School.Roster.Student(r.Context(), student)
	if err != nil {
		return err
	}
	days, err := h.School.Sitting.PracticeDays(r.Context(), student, ui.Ahead(who.Zone), daysSeen)
	if err != nil {
		return err
	}
	v := practicePage{Cards: p.Cards, Needed: len(p.Chosen) == 0, Rule: ui.NewRule(marks, 0, practiceAt),
		Sight: who.Practice}
	for _, f := range p.Families {
		v.Families = append(v.Families, ui.OptionView{Value: string(f), Text: f.Name(),
			On: slices.Contains(p.Chosen, f)})
	}
	if len(p.Kinds) > 1 {
		for _, k := range kinds.All {
			if slices.Contains(p.Kinds, k.Name()) {
				v.Kinds = append(v.Kinds, ui.OptionView{Value: k.Name(), Text: k.Title(),
					On: slices.Contains(p.OfKinds, k.Name())})
			}
		}
	}
	v.Weakest = weaknesses(p)
	v.Back = comingBack(p, time.Now(), roster.Clock(who.Zone))
	said := ui.Said(r)
	var columns []plot.Column
	for _, d := range days {
		columns = append(columns, plot.Column{Name: said.Print(ui.Day(d.At).Text()), Count: d.Cards,
			Share: ui.Share(d.Half, d.Of)})
	}
	if columns != nil {
		v.Days = ui.Plot(plot.Columns(said, columns, said.Say("student.practice.practice")), "days")
	}
	v.Slips = slipRuns(said, p)
	if byFamily := familyColumns(said, p); byFamily != nil {
		v.ByFamily = ui.Plot(plot.Columns(said, byFamily, said.Say("student.practice.share-cards-all-right")),
			"families")
	}
	return h.Render(w, r, http.StatusOK, "practice", text.New("student.practice.practice-b"), v)
}

// slipRuns draws, for the slips that were made most lately, every time that they could have been.
func slipRuns(said *text.Printer, p sitting.Practising) []slipRun {
	var out []slipRun
	drawn := map[exercise.Code]bool{}
	for _, k := range p.Memory.Weakest(runsSeen * 3) {
		if drawn[k.Slip] || len(out) == runsSeen {
			continue
		}
		drawn[k.Slip] = true
		var events []plot.Event
		for _, c := range p.Past {
			if c.Could(k.Slip) {
				events = append(events, plot.Event{Did: c.Did == k.Slip})
			}
		}
		did := k.Slip.Name()
		run := plot.Run(said, events[max(0, len(events)-runSeen):], said.Print(did))
		out = append(out, slipRun{did, ui.Plot(run, "run"+string(k.Slip))})
	}
	return out
}

// familyColumns are the shares of a student's last cards that were all right, by family of instrument.
func familyColumns(said *text.Printer, p sitting.Practising) []plot.Column {
	var order []instrument.Family
	right, all := map[instrument.Family]int{}, map[instrument.Family]int{}
	for _, c := range p.Past {
		if c.Family == "" {
			continue
		}
		if all[c.Family] == 0 {
			order = append(order, c.Family)
		}
		all[c.Family]++
		if c.Right {
			right[c.Family]++
		}
	}
	var out []plot.Column
	for _, f := range order {
		out = append(out, plot.Column{Name: said.Print(f.Name()), Count: all[f],
			Share: float64(right[f]) / float64(all[f])})
	}
	return out
}

// pastOf returns the results of a student's cards.
func pastOf(p sitting.Practising) []practice.Past {
	out := make([]practice.Past, len(p.Past))
	for i, c := range p.Past {
		out[i] = c.Past
	}
	return out
}

// weaknesses are the slips to train most, each with the families on which it is made.
func weaknesses(p sitting.Practising) []weakness {
	var out []weakness
	gone := practice.NoLongerMade(pastOf(p), goneFor)
	for _, k := range p.Memory.Weakest(weak * 4) {
		if slices.Contains(gone, k.Slip) {
			continue
		}
		family := k.Family.Name()
		if k.Family == "" {
			family = text.New("student.practice.no-figure")
		}
		if at := slices.IndexFunc(out, func(w weakness) bool { return w.slip == k.Slip }); at >= 0 {
			out[at].Family = text.List(out[at].Family, family)
		} else if len(out) < weak {
			out = append(out, weakness{k.Slip, k.Slip.Name(), family, text.New("student.practice.weaknesses",
				"n", int(math.Round(10*k.Share))), int(100 * k.Share)})
		}
	}
	return out
}

// returning is a slip that was learned, with the day on which it comes back.
type returning struct{ Slip, Family, Day text.Text }

// comingBack lists what was learned, by when it comes back, the soonest first.
func comingBack(p sitting.Practising, now time.Time, clock *time.Location) []returning {
	var out []returning
	for _, l := range p.Memory.Learned() {
		if len(out) == runsSeen {
			break
		}
		if l.Family == "" {
			continue // nothing is drawn for it alone
		}
		day := ui.Day(l.Due.In(clock)).Text()
		if !l.Due.After(now) {
			day = text.New("student.practice.now")
		}
		out = append(out, returning{l.Slip.Name(), l.Family.Name(), day})
	}
	return out
}

func practiceAt(n int) string { return fmt.Sprintf("/practice/%d", n) }

// choosePracticeForm is the form of choosePractice.
type choosePracticeForm struct {
	Families []string `form:"families"`
	Kinds    []string `form:"kinds"`
}

// choosePractice sets what is practised, and on what.
func (h Handler) choosePractice(w http.ResponseWriter, r *http.Request, f choosePracticeForm) error {
	if err := h.School.Sitting.ChoosePractice(r.Context(), ui.UserOf(r).ID,
		f.Families[:min(len(f.Families), 20)], f.Kinds[:min(len(f.Kinds), len(kinds.All))]); err != nil {
		return err
	}
	http.Redirect(w, r, "/practice", http.StatusSeeOther)
	return nil
}

// nextPractice goes on to the card that is open, or to another.
func (h Handler) nextPractice(w http.ResponseWriter, r *http.Request) error {
	var seed [8]byte
	rand.Read(seed[:])
	c, err := h.School.Sitting.NextCard(r.Context(), ui.UserOf(r).ID, binary.NativeEndian.Uint64(seed[:]))
	if err != nil {
		return err
	}
	http.Redirect(w, r, practiceAt(c.N), http.StatusSeeOther)
	return nil
}

// practised finds the practised card that a request names.
func (h Handler) practised(r *http.Request) (sitting.Card, error) {
	n, err := ui.ID(r, "n")
	if err != nil {
		return sitting.Card{}, err
	}
	return h.School.Sitting.PractisedCard(r.Context(), ui.UserOf(r).ID, int(n))
}

func (h Handler) practiceCard(w http.ResponseWriter, r *http.Request) error {
	c, err := h.practised(r)
	if err != nil {
		return err
	}
	return h.showPractice(w, r, http.StatusOK, ui.CardView{Told: r.URL.Query().Has("words")}, c, c.Draft)
}

// practiceState returns what a practised card is filled in with.
func (h Handler) practiceState(r *http.Request, c sitting.Card, boxes exercise.Answer) (ui.CardState, error) {
	st := ui.CardState{Said: ui.Said(r), Item: c.Item, Answer: boxes, Result: c.Result, Figure: r.FormValue("figure"),
		At: practiceAt(c.N) + "/figure", Spoken: c.Spoken}
	if c.Done() {
		st.Answer = c.Answer
		wording, err := h.School.Sitting.Wording(r.Context(), ui.UserOf(r).ID, c.ID)
		st.Wording = wording
		return st, err
	}
	hints, err := c.Item.Hints()
	st.Hints = hints[:min(c.Hints, len(hints))]
	return st, err
}

func (h Handler) showPractice(w http.ResponseWriter, r *http.Request, status int, v ui.CardView, c sitting.Card,
	boxes exercise.Answer) error {
	student := ui.UserOf(r).ID
	marks, err := h.School.Sitting.PracticeMarks(r.Context(), student, ruled)
	if err != nil {
		return err
	}
	p, err := h.School.Sitting.Practice(r.Context(), student)
	if err != nil {
		return err
	}
	v.Title, v.Sub, v.Owner, v.Rule, v.N = text.New("student.practice.show-practice"),
		text.New("student.practice.without-end"), student, ui.NewRule(marks, c.N, practiceAt), c.N
	v.Next = ui.Link{Text: text.New("student.practice.next-card"), Href: "/practice/next"}
	fill, err := h.practiceState(r, c, boxes)
	if err != nil {
		return err
	}
	if !c.Done() {
		v.Action, v.Draft, v.Why = practiceAt(c.N), practiceAt(c.N)+"/draft", text.ReadStored(p.Why)
		v.CanSpeak = !c.Spoken
		hints, err := c.Item.Hints()
		if err != nil {
			return err
		}
		if len(fill.Hints) < len(hints) {
			v.NextHint = text.New("word.free")
		}
	}
	if err := v.Fill(fill); err != nil {
		return err
	}
	return h.Render(w, r, status, "card", text.New("student.card.practice-title", "n", c.N), v)
}

func (h Handler) practicePost(w http.ResponseWriter, r *http.Request) error {
	c, err := h.practised(r)
	if err != nil {
		return err
	}
	student := ui.UserOf(r).ID
	a := ui.Written(r, c.Item)
	v := ui.CardView{}
	do := r.PostForm.Get("do")
	switch {
	case c.Done():
	case do == "hint" || do == "speak" || do == "later":
		err = h.School.Sitting.KeepPractice(r.Context(), student, c, a)
		switch {
		case err != nil:
		case do == "hint":
			err = h.School.Sitting.HelpPractice(r.Context(), student, c)
		case do == "speak":
			err = h.School.Sitting.SpeakPractice(r.Context(), student, c)
		}
	default:
		ready, bad := v.Ready(r, c.Item, a)
		if bad != nil {
			return bad
		}
		if !ready {
			if err := h.School.Sitting.KeepPractice(r.Context(), student, c, a); err != nil {
				return err
			}
			return h.showPractice(w, r, http.StatusUnprocessableEntity, v, c, a)
		}
		err = h.School.Sitting.CheckPractice(r.Context(), student, c, a, time.Now())
	}
	if err != nil && !errors.Is(err, sitting.ErrOver) {
		return err
	}
	to := practiceAt(c.N)
	if do == "speak" {
		to += "?words"
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// practiceDraft keeps what was typed into some boxes of a practised card.
func (h Handler) practiceDraft(w http.ResponseWriter, r *http.Request) error {
	c, err := h.practised(r)
	if err == nil {
		err = h.School.Sitting.KeepPractice(r.Context(), ui.UserOf(r).ID, c, ui.Written(r, c.Item))
	}
	if errors.Is(err, sitting.ErrOver) {
		w.WriteHeader(http.StatusConflict)
		return nil
	}
	if err == nil {
		w.WriteHeader(http.StatusNoContent)
	}
	return err
}

// practiceFigure brings another figure of a practised card in sight.
func (h Handler) practiceFigure(w http.ResponseWriter, r *http.Request) error {
	c, err := h.practised(r)
	if err != nil {
		return err
	}
	if r.PostForm.Has("turn") {
		if err := h.School.Sitting.KeepPractice(r.Context(), ui.UserOf(r).ID, c, ui.Written(r, c.Item)); err != nil &&
			!errors.Is(err, sitting.ErrOver) {
			return err
		}
		return redirectToFigure(w, r, practiceAt(c.N))
	}
	st, err := h.practiceState(r, c, c.Draft)
	if err != nil {
		return err
	}
	return h.Figures(w, r, st)
}
