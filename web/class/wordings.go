package class

import (
	"cmp"
	"net/http"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/locale"
	"cavix/school/ledgers"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/web/ui"
)

// wordsView are the words of a class, as a form offers them.
type wordsView struct {
	Bases     []ui.OptionView
	Terms     []termView
	Languages []ui.OptionView
	Open      bool // there are own words, or what was typed is wrong
}

// termView is a term for which a class may have its own word.
type termView struct {
	Term, Is, Field      string
	Workshop, Laboratory string
	Own                  string
	Error                text.Text
}

func newWords(say *text.Printer, set words.Set, errs map[string]text.Text) wordsView {
	v := wordsView{Open: len(set.Own) > 0, Languages: ui.Languages(text.New("language.reader"), set.Language)}
	for _, b := range words.Bases {
		v.Bases = append(v.Bases, ui.OptionView{Value: string(b), Text: text.New("words.about-" + string(b)),
			On: b == cmp.Or(set.Base, words.Workshop)})
	}
	for _, w := range locale.Words(say) {
		v.Terms = append(v.Terms, termView{Term: string(w.Term), Is: w.Is, Field: "own[" + string(w.Term) + "]",
			Workshop: w.Workshop, Laboratory: w.Laboratory, Own: set.Own[text.Term(w.Term)],
			Error: errs["own."+string(w.Term)]})
	}
	return v
}

// practiceView shows what a class practised lately, in sum and without names.
type practiceView struct {
	ledgers.PracticeSum
	Share text.Math
	Slips []practiceSlip
}

type practiceSlip struct {
	Slip  text.Text
	Cards int
}

const (
	practisedFor = 28 * 24 * time.Hour
	practisedTop = 5
)

// practised sums up what a class practised, where the class says that its instructor sees it.
func (h Handler) practised(r *http.Request, c roster.Class) (v practiceView, err error) {
	if c.Practice == roster.SeesNothing {
		return v, nil
	}
	since := time.Now().Add(-practisedFor)
	if v.PracticeSum, err = h.School.Ledgers.PracticeSum(r.Context(), c.Owner, c.ID, since); err != nil {
		return v, err
	}
	v.Share = ui.PerCent(ui.Halves(v.Half), ui.Halves(v.Of))
	list, err := h.School.Ledgers.PracticeSlips(r.Context(), c.Owner, c.ID, since, practisedTop)
	for _, s := range list {
		v.Slips = append(v.Slips, practiceSlip{exercise.Code(s.Slip).Name(), s.Cards})
	}
	return v, err
}

// given finds one of the instructor's given sheets; its page speaks the words that its students see.
func (h Handler) given(r *http.Request, assignment int64) (sitting.Given, error) {
	g, err := h.School.Sitting.GivenSheet(r.Context(), ui.UserOf(r).ID, assignment)
	if err != nil {
		return g, err
	}
	set, err := roster.Words(g.Words)
	ui.Speak(r, roster.In(set, g.Sheet.Delivery.Words))
	return g, err
}
