package author

import (
	"fmt"
	"html/template"
	"slices"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/figure"
	"cavix/web/ui"
)

// previewCard is one real card, as some student would get it.
type previewCard struct {
	N       int
	Kind    text.Text
	Name    string
	Task    text.Text
	Drawing template.HTML
	Answers []previewAnswer
	Try     string
}

// tellsView lists the mistakes that a sheet can identify.
type tellsView struct {
	Slips    []tellView  // the weakest first
	More     []tellView  // those that are named well
	Of       int         // cards
	Together []text.Text // pairs that no card tells apart
	Pairs    int         // how many more of them there are
	Effort   int
	Best     bool // nothing can be dealt better
}

// tellView tells how well a sheet can identify one slip.
type tellView struct {
	Slip  text.Text
	Dots  []string // a card each: "full", "half" or ""
	Count text.Text
	Weak  bool
}

// show fills in what the sheet can tell, and the first card of each block; where there is room, one of each of its
// instruments.
func (v *composerView) show(said *text.Printer, d exercise.Sheet, dealt *dealtSheet) error {
	c, err := kinds.Cover(dealt.items, dealt.possible)
	if err != nil {
		return err
	}
	v.Tells = newTells(c, len(dealt.items), d.Effort)
	for _, i := range toPreview(dealt.cards, len(d.Blocks)) {
		p, err := newPreview(said, i+1, dealt.items[i])
		if err != nil {
			return err
		}
		if v.Kept != 0 {
			p.Try = fmt.Sprintf("/sheets/%d/try/%d/%d", v.Kept, v.Seed, p.N)
		}
		v.Cards = append(v.Cards, p)
	}
	return nil
}

// toPreview chooses the cards that are shown, in their order, as indices: the first of every block, and up to previewed
// cards one of each kind and instrument.
func toPreview(dealt []exercise.Dealt, blocks int) (out []int) {
	began, shown := map[int]bool{}, map[string]bool{}
	var more []int
	for i, one := range dealt {
		key := one.Item.Kind()
		for _, f := range one.Item.Figures() {
			key += "\x00" + f.Instrument.Name()
		}
		switch {
		case !began[one.Block]:
			out = append(out, i)
		case !shown[key]:
			more = append(more, i)
		}
		began[one.Block], shown[key] = true, true
	}
	if room := previewed - blocks; room > 0 {
		out = append(out, more[:min(room, len(more))]...)
	}
	slices.Sort(out)
	return out
}

// newTells lays out what a sheet can tell, the weakest first.
func newTells(c exercise.Coverage, cards, effort int) tellsView {
	v := tellsView{Of: cards, Effort: effort, Best: effort >= exercise.MaxEffort}
	list := slices.Clone(c.Slips)
	slices.SortStableFunc(
		list,
		func(a, b exercise.Covered) int { return a.Count(exercise.Alone) - b.Count(exercise.Alone) },
	)
	for i, s := range list {
		t := tellView{Slip: s.Code.Name(), Count: text.New("count.of", "n", s.Count(exercise.Alone), "of", cards)}
		switch {
		case s.Count(exercise.WithOthers) == 0:
			t.Count, t.Weak = text.New("word.never"), true
		case s.Count(exercise.Alone) == 0:
			t.Count, t.Weak = text.New("author.composerview.new-tells"), true
		}
		for _, dot := range s.Dots {
			class := ""
			switch dot {
			case exercise.Alone:
				class = "full"
			case exercise.WithOthers, exercise.WithSynonyms:
				class = "half"
			}
			t.Dots = append(t.Dots, class)
		}
		if i < weakest {
			v.Slips = append(v.Slips, t)
		} else {
			v.More = append(v.More, t)
		}
	}
	const named = 2
	for i, pair := range c.Together {
		if i < named {
			v.Together = append(v.Together, text.New("author.composerview.pair", "first", pair[0].Code.Name(), "second",
				pair[1].Code.Name()))
		}
	}
	v.Pairs = max(0, len(c.Together)-named)
	return v
}

// previewAnswer is the right entry for a box of a card.
type previewAnswer struct{ Name, Value text.Text }

// newPreview draws a card and lists what it should hold.
func newPreview(said *text.Printer, n int, it exercise.Item) (previewCard, error) {
	p := previewCard{N: n, Task: it.Facts().Task}
	if figures := it.Figures(); len(figures) > 0 {
		lay, err := figure.Lay(figures[0].Instrument, figures[0].At, figure.Narrow)
		if err != nil {
			return p, err
		}
		p.Name = figures[0].Instrument.Name()
		p.Drawing = ui.Drawing(lay.Scene(figure.Options{Said: said}), fmt.Sprintf("p%d", n), "fig")
	}
	if kind, known := kinds.All.Find(it.Kind()); known {
		p.Kind = kind.Title()
	}
	empty, err := it.Mark(nil)
	if err != nil {
		return p, err
	}
	for i, f := range it.Fields() {
		if f.Input != exercise.Position {
			p.Answers = append(p.Answers, previewAnswer{f.Term, ui.Wanted(f, empty.Fields[i].Expected)})
		}
	}
	return p, nil
}

// How much of a sheet is shown.
const (
	weakest   = 9  // slips in sight; the others fold
	previewed = 4  // cards
	students  = 3  // made-up ones who are asked which slips can happen
	many      = 24 // cards of a sheet of which no more students are asked
)
