package board

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/figure"
	"cavix/plot"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/web/ui"
)

// boardView is the Board as its page shows it.
type boardView struct {
	Class       roster.Class
	Version     string
	Place       string // tells one instrument and position from another
	Empty       bool   // there is no instrument to show
	Name        string
	Made        text.Text
	Task        text.Text // what is asked of two positions
	Instruments []ui.OptionView
	Figure      ui.FigureView
	Lines       [][]termView // the equations of the reading, broken where a card breaks them
	Long        bool         // they have many terms
	Sets        []ui.OptionView
	Views       []stackView // of two positions: their figures
	Lens        bool
	Names       bool
	Alone       bool
	Asking      bool
	Eye         string

	Stage    rounds.Stage
	Answered int
	Of       int
	Told     bool // answers stand on the Board
	Rule     template.HTML
	Stacks   []stackView
	Held     text.Text     // how the faces hold something
	HeldNext text.Text     // what the key for it does
	Says     text.Text     // of the answer that is shown on the figure
	slip     exercise.Code // behind it
	Apart    text.Text     // what another value would tell apart
	Next     text.Text     // what the next key does

	Joining  bool
	Address  string
	OnlyHere bool
	Code     template.HTML // the address as a code to be photographed

	Typed        string
	Fault        text.Text
	Theme, Other string
}

// Ratio returns the width of the figure with its lens, divided by its height.
func (v boardView) Ratio() float64 {
	wide, high := v.Figure.Width, max(1, v.Figure.Height)
	switch {
	case v.Figure.Upright:
		wide += 356
	case len(v.Figure.Strips) > 0:
		high += 100
	}
	return wide / high
}

// termView is a term of the equation.
type termView struct {
	Operator string
	Label    text.Text // over a value
	Value    text.Math // "" while it is covered
	Given    text.Math
}

// stackView is a stack of like answers, to be pressed.
type stackView struct {
	N    int
	Text text.Text
	On   bool
}

// newView makes the page of a Board.
func (h Handler) newView(r *http.Request, b *standing) (boardView, error) {
	v := boardView{Class: b.class, Version: b.version(), Lens: b.Lens, Names: b.Names, Alone: b.Alone, Asking: b.Asking,
		Eye: fmt.Sprint(b.Eye), Stage: b.round.Stage(), Joining: b.Joining, Theme: ui.ThemeOf(r)}
	if v.Other = "dark"; v.Theme == "dark" {
		v.Other = "light"
	}
	if b.Instrument == nil {
		v.Empty = true
		return v, nil
	}
	v.Name, v.Made = b.Instrument.Name(), b.Instrument.Describe()
	v.Place = fmt.Sprint(b.Racked, " ", b.At)
	if err := h.list(r, b, &v); err != nil {
		return v, err
	}
	if err := h.answers(r, b, &v); err != nil {
		return v, err
	}
	if err := v.draw(ui.Said(r), b); err != nil {
		return v, err
	}
	if err := v.join(r, h.Site); err != nil {
		return v, err
	}
	v.Held, v.HeldNext = b.heldText()
	v.Next = text.New("board.view.another-value")
	if b.Uncover < len(b.lines()) {
		v.Next = text.New("board.view.next-step")
	}
	if v.Stage == rounds.Open || v.Stage == rounds.Closed {
		v.Next = text.New("board.view.new-view")
	}
	return v, v.equation(b)
}

// heldText says how something is held, and what the key for it does next.
func (b *standing) heldText() (now, next text.Text) {
	switch {
	case b.Held == nothing:
		return text.Text{}, text.New("board.view.held-text")
	case b.Held == ratchet && b.Pressed:
		return text.New("board.view.ratchet-turns-faces-come"), text.New("board.view.without-ratchet")
	case b.Held == ratchet:
		return text.New("board.view.held-by-ratchet-light"), text.New("board.view.without-ratchet")
	case b.Pressed:
		return text.New("board.view.pressed-too-hard-number"), text.New("board.view.let-go")
	}
	return text.New("board.view.held-without-ratchet"), text.New("board.view.let-go")
}

// list fills in the instruments of the Rack, and the steps that can be asked.
func (h Handler) list(r *http.Request, b *standing, v *boardView) error {
	rack, err := h.School.Rack.Rack(r.Context(), ui.UserOf(r).ID)
	if err != nil {
		return err
	}
	here := false
	for _, k := range rack {
		if k.Err == nil {
			here = here || k.ID == b.Racked
			v.Instruments = append(v.Instruments, ui.OptionView{Value: fmt.Sprint(k.ID), Text: text.Typed(k.Name),
				On: k.ID == b.Racked})
		}
	}
	if !here {
		v.Instruments = append([]ui.OptionView{{Value: "0", Text: text.Typed(v.Name), On: true}}, v.Instruments...)
	}
	for i, steps := range kinds.RoundSteps(b.Instrument) {
		names := make([]text.Text, len(steps))
		for j, step := range steps {
			names[j] = text.Word(slips.StepTerm(step))
		}
		v.Sets = append(v.Sets, ui.OptionView{Value: fmt.Sprint(i), Text: text.List(names...), On: i == b.Set})
	}
	if kinds.CanDiffer(b.Instrument) {
		v.Sets = append(v.Sets, ui.OptionView{Value: fmt.Sprint(len(v.Sets)), Text: text.New("board.view.difference"),
			On: b.pair != nil})
	}
	return nil
}

// answers fills in what was answered.
func (h Handler) answers(r *http.Request, b *standing, v *boardView) error {
	if b.round.ID == 0 {
		return nil
	}
	var err error
	if v.Answered, v.Of, err = h.School.Rounds.CountReplies(r.Context(), ui.UserOf(r).ID, b.round.ID); err != nil {
		return err
	}
	if !b.Answers || v.Stage != rounds.Revealed {
		return nil
	}
	v.Told = true
	said, err := h.School.Rounds.Answers(r.Context(), ui.UserOf(r).ID, b.round)
	if err != nil {
		return err
	}
	say := ui.Said(r)
	list := columns(say, said)
	for i, a := range said {
		v.Stacks = append(v.Stacks, stackView{i + 1, text.New("board.view.answers", "value", given(a), "count", a.Count,
			"label", label(a)), i+1 == b.Point})
	}
	v.Rule = ui.Plot(plot.AnswerRule(say, list, b.Instrument.LeastCount().Float(), plot.Large), "answers")
	if pair, err := h.commonest(r, b); err != nil {
		return err
	} else if len(pair) == 2 && b.pair == nil {
		v.Apart = text.New("board.view.apart", "first", pair[0].Short(), "second", pair[1].Short())
	}
	if b.Point > 0 && b.Point <= len(said) {
		v.Says, v.slip = account(said[b.Point-1]), said[b.Point-1].Slip
	} else {
		b.Point = 0
	}
	return nil
}

// given is an answer as it was given, or that there is none.
func given(a rounds.Said) text.Text {
	if a.Text == "" {
		return text.New("board.view.no-answer")
	}
	return text.Numbers(text.Math(a.Text))
}

// label returns the label under a stack.
func label(a rounds.Said) text.Text {
	switch {
	case a.Right:
		return text.New("word.right")
	case a.Slip != "":
		return a.Slip.Short()
	}
	return text.Text{}
}

// account says what those did who gave an answer.
func account(a rounds.Said) text.Text {
	switch {
	case a.Right:
		return text.New("board.view.account", "value", given(a))
	case a.Slip != "":
		return text.New("board.view.whoever", "value", given(a), "slip", a.Slip.Name())
	}
	return text.New("board.view.no-known-mistake-gives", "value", given(a))
}

// bleed is the width of the figure drawn beyond both its sides, in px: to the edges of a panel three times as wide as
// high.
const bleed = 500

// draw draws the figure, with what is uncovered on it, or what somebody took.
func (v *boardView) draw(said *text.Printer, b *standing) error {
	o := figure.Options{Said: said, Loose: true, Bleed: bleed, Names: b.Names, Eye: b.Eye}
	look := -1
	shown := exercise.Figure{Instrument: b.Instrument, At: b.At}
	if b.pair != nil {
		shown = v.choose(b)
	}
	p, err := b.pointing(shown, v)
	if err != nil {
		return err
	}
	if p != nil {
		o.Flags = p
		if b.Lens {
			look = p.Look
		}
	}
	width := figure.Narrow
	if has := b.Instrument.Traits(); b.Lens && (has.GoesRound || has.Indicates) {
		width = figure.Stage // with the lens upright beside it
	}
	d, err := figure.Of(shown, width)
	if err != nil {
		return err
	}
	v.Figure, err = ui.FigureOf(d, ui.Looking{ID: "board", Line: look, Moves: b.pair == nil, Plain: !b.Lens,
		Options: o})
	return err
}

// choose lists the figures of two positions, and returns the one in sight.
func (v *boardView) choose(b *standing) exercise.Figure {
	facts := b.pair.Facts()
	v.Task = text.Run(append([]text.Text{facts.Task}, facts.Given...)...)
	all := b.pair.Figures()
	at := max(0, min(b.View, len(all)-1))
	for i, f := range all {
		v.Views = append(v.Views, stackView{i, f.Caption, i == at})
	}
	return all[at]
}

// pointing returns what is flagged: what was taken by who gave the answer that is pressed, or what is uncovered; nil
// for nothing.
func (b *standing) pointing(shown exercise.Figure, v *boardView) (*exercise.Pointing, error) {
	if b.Instrument.Traits().Digits {
		return nil, nil //nolint:nilnil // a display has nothing to be pointed at
	}
	if b.pair != nil {
		read := slices.IndexFunc(b.pair.Fields(), func(f exercise.Field) bool { return f.Figure == shown.Name })
		if read < 0 || read >= b.Uncover {
			return nil, nil //nolint:nilnil // what is read there is not uncovered yet
		}
		it := kinds.NewRound(shown.Instrument, shown.At, []string{slips.Observed}, b.method)
		p, _, err := kinds.Taken(it, "")
		return &p, err
	}
	it := b.reading(b.lines())
	slip := exercise.Code("")
	if b.Point > 0 && v.Told {
		slip = v.slip
	}
	p, _, err := kinds.Taken(it, slip)
	if err != nil {
		return nil, err
	}
	if slip != "" {
		return &p, nil
	}
	open := b.lines()[:min(b.Uncover, len(b.lines()))]
	switch {
	case b.Point > 0 && v.Told, slices.Contains(open, slips.FinerLine): // all of it
	case slices.Contains(open, slips.FineLine):
		p.FinerLine = nil
	case slices.Contains(open, slips.Main):
		p.Line, p.LineText, p.FinerLine, p.Look = -1, text.Text{}, nil, -1
	default:
		return nil, nil //nolint:nilnil // nothing is uncovered yet
	}
	return &p, nil
}

// manyTerms is the number of terms from which they are set smaller.
const manyTerms = 13

// equation lays out the equations of the reading, steps that are not uncovered with an empty rule. A later equation
// begins with the value that it goes on from.
func (v *boardView) equation(b *standing) error {
	it := b.item(b.lines())
	right, err := it.Mark(nil)
	if err != nil {
		return err
	}
	fields := map[string]exercise.Field{}
	for _, f := range it.Fields() {
		fields[f.Name] = f
	}
	open := b.lines()[:min(b.Uncover, len(b.lines()))]
	terms := 0
	for _, line := range it.Lines() {
		var out []termView
		for _, t := range line.Terms {
			switch box := t.Box + t.Echo; {
			case t.Operator != "":
				out = append(out, termView{Operator: t.Operator})
			case t.Given != "":
				out = append(out, termView{Given: t.Given})
			case box != "":
				var value text.Math
				if slices.Contains(open, box) {
					value = text.Math(right.Field(box).Expected)
				}
				out = append(out, termView{Label: fields[box].Label, Value: value})
			}
		}
		v.Lines, terms = append(v.Lines, out), terms+len(out)
	}
	v.Long = terms > manyTerms
	return nil
}

// join fills in where students join.
func (v *boardView) join(r *http.Request, site *ui.Site) (err error) {
	v.Address, v.OnlyHere = site.Address(r, "/join"), site.OnlyHere(r)
	if !v.Joining || v.Class.Code == "" {
		return nil
	}
	v.Code, err = ui.QR(ui.Said(r), v.Address+"?code="+v.Class.Code)
	return err
}
