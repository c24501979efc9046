package board

import (
	"html/template"
	"net/http"
	"slices"

	"cavix/core/text"
	"cavix/plot"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/web/ui"
)

// roundsView lists what a class was asked on its Board.
type roundsView struct {
	Class  roster.Class
	Rounds []roundView
}

// roundView is one question with its answers, without names.
type roundView struct {
	When       ui.Stamp
	Instrument string
	Shows      text.Math
	Answered   int
	Right      text.Math
	Rule       template.HTML
}

// roundsSeen is the number of the latest questions that are listed.
const roundsSeen = 30

// rounds lists what a class was asked, with the answers.
func (h Handler) rounds(w http.ResponseWriter, r *http.Request) error {
	b, err := h.open(r)
	if err != nil {
		return err
	}
	list, err := h.School.Rounds.Rounds(r.Context(), ui.UserOf(r).ID, b.class.ID, roundsSeen)
	if err != nil {
		return err
	}
	v := roundsView{Class: b.class}
	for _, k := range list {
		said, err := h.School.Rounds.Answers(r.Context(), ui.UserOf(r).ID, k)
		if err != nil {
			return err
		}
		v.Rounds = append(v.Rounds, newRoundView(ui.Said(r), k, b.class.Zone, said))
	}
	return h.Render(w, r, http.StatusOK, "rounds", text.New("board.rounds.rounds", "name", b.class.Name), v)
}

// columns are answers as the answer rule draws them, in order of size.
func columns(say *text.Printer, said []rounds.Said) []plot.Answer {
	slices.SortStableFunc(said, func(x, y rounds.Said) int { return x.Value.Cmp(y.Value) })
	out := make([]plot.Answer, len(said))
	for i, a := range said {
		out[i] = plot.Answer{Text: say.Print(given(a)), At: a.Value.Float(), Count: a.Count, Right: a.Right,
			Label: say.Print(label(a)), N: i + 1}
	}
	return out
}

func newRoundView(say *text.Printer, k rounds.Round, zone string, said []rounds.Said) roundView {
	v := roundView{When: ui.LongMoment(k.Opened.In(roster.Clock(zone)))}
	grain := 1.0
	if figures := k.Item.Figures(); len(figures) > 0 {
		in := figures[0].Instrument
		v.Instrument, v.Shows = in.Name(), text.Math(in.Unit().With(in.Format(figures[0].At)))
		grain = in.LeastCount().Float()
	}
	right := 0
	for _, a := range said {
		v.Answered += a.Count
		if a.Right {
			right += a.Count
		}
	}
	v.Right = ui.PerCent(ui.Halves(int64(2*right)), ui.Halves(int64(2*v.Answered)))
	v.Rule = ui.Plot(plot.AnswerRule(say, columns(say, said), grain, plot.Small), "round"+k.Stamp().String())
	return v
}
