package author

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/web/ui"
)

// composerView is what the composer prints.
type composerView struct {
	Action    string
	Kept      int64 // id; 0 for a new sheet
	Saved     bool
	Restored  bool
	Earlier   int    // earlier states that can be brought back
	Stamp     string // of the state that the form was opened with
	Clash     *sheetClash
	With      []instrumentChoice // the instruments that new blocks take
	WithNames string
	WasWith   string
	Title     string
	Sum       text.Text // cards and marks
	Told      text.Text // how it is taken, in a line
	Errors    map[string]text.Text
	Classes   []roster.Class
	Blocks    []blockView
	Kinds     []ui.OptionView
	Ready     []kinds.Ready
	Focus     string // id of what is to have the focus
	Conduct   conductView

	Tells tellsView
	Cards []previewCard
	Seed  int // of the preview
}

// conductView is how the sheet is taken.
type conductView struct {
	exercise.Delivery
	Choices  map[string][]ui.OptionView
	HintCost []ui.OptionView
	Method   ui.MethodView
	Pictures []ui.OptionView
	OwnShown string // the document of a picture that is not on the Rack
	Drawing  template.HTML
	Prose    template.HTML
	Attempts string
	Minutes  string
}

// blockView is one block of the composer.
type blockView struct {
	N           int // from 1
	At          int // from 0
	Prefix      string
	Kind        string
	Title       text.Text
	Cards       string
	Sum         text.Text // cards and marks
	With        string    // its instruments
	Asks        text.Text // what it asks, in a line
	Own         string    // documents of instruments that are not on the Rack
	OwnNames    []string
	Instruments []instrumentChoice
	Settings    []blockSetting
	Errors      map[string]text.Text
	Open        bool
	First, Last bool
	Bare        bool      // its cards show no instrument
	Needs       text.Text // what is missing where no instrument of the Rack serves
	Build       string    // where that can be built
	Bank        string    // the kind whose bank its cards come from
}

type instrumentChoice struct {
	ID         int64
	Name       string
	Made       text.Text
	LeastCount string
	On         bool
	Warning    text.Text // what its book says against using it
}

// blockSetting is one thing to choose about a block.
type blockSetting struct {
	exercise.Setting
	Field   string
	Value   string
	Options []settingOption
	Reached text.Text // how many of the cards a share comes to
	Error   text.Text
}

// settingOption is one choice, with the marks of its field where several are asked.
type settingOption struct {
	ui.OptionView
	Marks, MarksField string
	MarksError        text.Text
}

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

// tellsView is what the sheet can tell.
type tellsView struct {
	Slips    []tellView  // the weakest first
	More     []tellView  // those that are named well
	Of       int         // cards
	Together []text.Text // pairs that no card tells apart
	Pairs    int         // how many more of them there are
	Effort   int
	Best     bool // nothing can be dealt better
}

// tellView is what the sheet can tell of one slip.
type tellView struct {
	Slip  text.Text
	Dots  []string // a card each: "full", "half" or ""
	Count text.Text
	Weak  bool
}

// dearestHint is the most that a step of help may cost, in half marks.
const dearestHint = 4

// hintCost says what a step of help costs, given in half marks.
func hintCost(halves int) text.Text { return text.New(fmt.Sprintf("hint-cost.%d", halves)) }

// compose prints the composer with what the sheet can tell, and real cards.
func (h Handler) compose(
	w http.ResponseWriter,
	r *http.Request,
	c composed,
	rack []rack.Racked,
	v composerView,
) error {
	d := c.Definition
	v.Kept, v.Action, v.Title, v.Ready, v.Focus = c.ID, "/sheets/new", c.Title, kinds.ReadySheets, c.focus
	for _, k := range kinds.All {
		v.Kinds = append(v.Kinds, ui.OptionView{Value: k.Name(), Text: k.Title()})
	}
	var err error
	if v.Conduct, err = newConductView(ui.Said(r), d, rack, v.Errors); err != nil {
		return err
	}
	var items []exercise.Item
	if d.Check(kinds.All) == nil {
		dealt, err := d.DealBlocks(kinds.All, ui.TrySeed(v.Seed))
		if err != nil {
			return err
		}
		for _, one := range dealt {
			items = append(items, one.Item)
		}
		if err := v.show(ui.Said(r), d, dealt, items); err != nil {
			return err
		}
	}
	v.blocks(c, rack, items)
	v.with(c.with, rack)
	if v.Kept != 0 {
		earlier, err := h.School.Rack.EarlierSheets(r.Context(), ui.UserOf(r).ID, v.Kept)
		if err != nil {
			return err
		}
		v.Earlier = len(earlier)
		v.Action = fmt.Sprintf("/sheets/%d", v.Kept)
		if v.Classes, err = h.School.Roster.Classes(r.Context(), ui.UserOf(r).ID); err != nil {
			return err
		}
	}
	title := text.Typed(v.Title)
	if v.Title == "" {
		title = text.New("author.composerview.compose")
	}
	status := ui.Status(v.Errors)
	if v.Clash != nil {
		status = http.StatusConflict
	}
	return h.Render(w, r, status, "sheet", title, v)
}

// sheetClash is a sheet as it is kept where it was changed in another window.
type sheetClash struct {
	Title        string
	Blocks, Mine []text.Text // what each block asks
}

// with lists the instruments to choose from for new blocks.
func (v *composerView) with(ids []int64, rack []rack.Racked) {
	var names []string
	for _, k := range rack {
		if in := k.Instrument; in != nil {
			on := slices.Contains(ids, k.ID)
			if on {
				names = append(names, in.Name())
			}
			v.With = append(v.With, newInstrumentChoice(k, on))
		}
	}
	v.WithNames, v.WasWith = strings.Join(names, ", "), joinIDs(ids)
}

func newInstrumentChoice(k rack.Racked, on bool) instrumentChoice {
	in := k.Instrument
	return instrumentChoice{k.ID, in.Name(), in.Describe(), in.FormatMain(in.LeastCount()) + " " + string(in.Unit()),
		on, k.Warning}
}

// joinIDs writes ids with spaces between them, and splitIDs reads them.
func joinIDs(ids []int64) string { return strings.Trim(fmt.Sprint(ids), "[]") }

func splitIDs(says string) (out []int64) {
	for _, one := range strings.Fields(says) {
		if id, err := strconv.ParseInt(one, 10, 64); err == nil {
			out = append(out, id)
		}
	}
	return out
}

// newConductView fills in how the sheet is taken.
func newConductView(say *text.Printer, d exercise.Sheet, rack []rack.Racked, errs map[string]text.Text) (conductView,
	error) {
	v := conductView{
		Delivery: d.Delivery,
		Method:   ui.MethodOf(d.Method, true, errs),
		Choices:  map[string][]ui.OptionView{},
		Prose:    ui.Markdown(d.Task),
		Attempts: strconv.Itoa(d.Tries()),
	}
	if d.Minutes != 0 {
		v.Minutes = strconv.Itoa(d.Minutes)
	}
	for i := range dearestHint + 1 {
		v.HintCost = append(v.HintCost, ui.OptionView{Value: strconv.Itoa(i), Text: hintCost(i), On: i == d.HintCost})
	}
	now := map[string]string{
		"mode":    string(d.Mode),
		"help":    string(d.Help),
		"counts":  string(d.Counts),
		"release": string(d.Release),
		"aids":    string(d.Aids),
		"figures": string(d.Figures),
		"words":   string(d.Words),
	}
	for field, choices := range exercise.ConductChoices {
		for _, c := range choices {
			v.Choices[field] = append(
				v.Choices[field],
				ui.OptionView{Value: c.Value, Text: c.Words, On: c.Value == now[field]},
			)
		}
	}
	if d.Help == exercise.HelpAsBefore {
		v.Choices["help"] = append(
			[]ui.OptionView{{Value: "", Text: text.New("author.composerview.as-before-every-hint"), On: true}},
			v.Choices["help"]...)
	}
	own := d.Picture != nil
	v.Pictures = []ui.OptionView{{Value: "0", Text: text.New("word.none")}}
	for _, k := range rack {
		if k.Instrument == nil {
			continue
		}
		on := d.Picture != nil && own && d.Picture.Name() == k.Name
		own = own && !on
		v.Pictures = append(v.Pictures, ui.OptionView{Value: strconv.FormatInt(k.ID, 10), Text: text.Typed(k.Name),
			On: on})
	}
	if own {
		doc, err := json.Marshal(d.Picture)
		if err != nil {
			return v, err
		}
		v.OwnShown = string(doc)
		v.Pictures = append(
			v.Pictures,
			ui.OptionView{Value: "-1", Text: text.New("author.composerview.new-conduct-view.not-rack", "picture",
				d.Picture.Name()), On: true},
		)
	}
	var err error
	v.Drawing, err = ui.Picture(d.Picture, say)
	return v, err
}

// blocks fills in the list of blocks.
func (v *composerView) blocks(c composed, rack []rack.Racked, items []exercise.Item) {
	d, at := c.Definition, 0
	all := length.Number{}
	for i, b := range d.Blocks {
		bv := newBlockView(i, b, c.Racked[i], rack, d.Method, v.Errors)
		bv.First, bv.Last = i == 0, i == len(d.Blocks)-1
		bv.Open = i == c.open || len(bv.Errors) > 0
		bv.Sum = text.New("count.cards", "n", b.Cards)
		if b.Cards > 0 && at+b.Cards <= len(items) && !d.Shuffled {
			one, same := length.Number{}, true
			for k, it := range items[at : at+b.Cards] {
				of, _ := exercise.FullMarks(it)
				all = all.Add(of)
				same = same && (k == 0 || of.Equal(one))
				one = of
			}
			switch {
			case same && b.Cards > 1:
				bv.Sum = text.Row(bv.Sum, text.New("count.marks-each", "marks", marksText(one)))
			case same:
				bv.Sum = text.Row(bv.Sum, marksText(one))
			}
		}
		at += max(0, b.Cards)
		v.Blocks = append(v.Blocks, bv)
	}
	if d.Shuffled {
		for _, it := range items {
			of, _ := exercise.FullMarks(it)
			all = all.Add(of)
		}
	}
	v.Sum = text.New("count.cards", "n", d.Cards())
	if items != nil {
		v.Sum = text.Row(v.Sum, marksText(all))
	}
	v.Told = toldOf(d)
}

func marksText(n length.Number) text.Text {
	if n.Equal(length.Int(1)) {
		return text.New("count.one-mark")
	}
	return text.New("count.marks", "marks", n)
}

// toldOf says in a line how a sheet is taken.
func toldOf(d exercise.Sheet) text.Text {
	says := []text.Text{text.New("word.practice"), text.New("author.composerview.told-of")}
	if d.Mode == exercise.Test {
		says = []text.Text{text.New("word.test"), text.New("author.composerview.told-end")}
		if d.Release == exercise.ReleaseHand {
			says[1] = text.New("author.composerview.told-when-release")
		}
	} else if d.Help != exercise.HelpNone && d.HintCost > 0 && d.HintCost <= dearestHint {
		says = append(says, text.New("author.composerview.help-costs", "hint_costs", hintCost(d.HintCost)))
	}
	if d.Undo {
		says = append(says, text.New("author.composerview.check-can-undone-once"))
	}
	if d.Minutes > 0 {
		says = append(says, text.New("count.minutes", "n", d.Minutes))
	}
	if d.Tries() > 1 {
		says = append(says, text.New("count.attempts", "n", d.Tries()))
	}
	return text.Row(says...)
}

// newBlockView fills in what can be chosen about a block and what is.
func newBlockView(i int, b exercise.Block, ids []int64, rack []rack.Racked, m exercise.Method,
	errs map[string]text.Text) blockView {
	path := fmt.Sprintf("blocks.%d.", i)
	out := blockView{N: i + 1, At: i, Prefix: fmt.Sprintf("blocks[%d].", i), Kind: b.Kind, Cards: strconv.Itoa(b.Cards),
		Errors: map[string]text.Text{}}
	for field, reason := range errs {
		if own, ok := strings.CutPrefix(field, path); ok {
			out.Errors[own] = reason
		}
	}
	var names []string
	for _, k := range rack {
		if in := k.Instrument; in != nil {
			on := slices.Contains(ids, k.ID)
			if on {
				names = append(names, in.Name())
			}
			out.Instruments = append(out.Instruments, newInstrumentChoice(k, on))
		}
	}
	out.own(b.Instruments, names)
	out.With = strings.Join(append(names, out.OwnNames...), ", ")
	kind, known := kinds.All.Find(b.Kind)
	if !known {
		return out
	}
	out.Title = kind.Title()
	if _, out.Bare = kind.(exercise.Bare); !out.Bare && len(b.Instruments) == 0 {
		what, family := kinds.Needs(kind)
		out.Needs, out.Build = what, "/workshop?family="+string(family)
	}
	if _, banked := kind.(exercise.Banked); banked {
		out.Bank = b.Kind
	}
	out.settings(kind, b, m)
	return out
}

// own keeps the documents of instruments that are not on the Rack, for the next form.
func (v *blockView) own(all []*instrument.Instrument, names []string) {
	var docs []*instrument.Instrument
	for _, in := range all {
		if !slices.Contains(names, in.Name()) {
			docs, v.OwnNames = append(docs, in), append(v.OwnNames, in.Name())
		}
	}
	if docs == nil {
		return
	}
	if says, err := json.Marshal(docs); err == nil {
		v.Own = string(says)
	}
}

// settings fills in the settings that make a difference on the block's instruments.
func (v *blockView) settings(kind exercise.Kind, b exercise.Block, m exercise.Method) {
	var asks []text.Text
	for _, s := range kind.Settings() {
		if !s.Matters(b, m) {
			continue
		}
		bs := blockSetting{
			Setting: s,
			Field:   v.Prefix + "settings[" + s.Name + "]",
			Value:   b.Get(s),
			Error:   v.Errors[s.Name],
		}
		for _, c := range s.Choices {
			o := settingOption{
				OptionView: ui.OptionView{Value: c.Value, Text: c.Words, On: bs.Value == c.Value},
				Marks:      "1",
				MarksField: v.Prefix + "marks[" + c.Value + "]",
				MarksError: v.Errors["marks."+c.Value],
			}
			if s.Input == exercise.AnyOf {
				if o.On = slices.Contains(strings.Fields(bs.Value), c.Value); o.On {
					asks = append(asks, c.Words)
				}
			}
			if m, ok := b.Marks[c.Value]; ok {
				o.Marks = strconv.Itoa(m)
			}
			bs.Options = append(bs.Options, o)
		}
		if n, err := strconv.Atoi(bs.Value); s.Share && err == nil {
			bs.Reached = text.New("count.of-cards", "n", exercise.Share(b.Cards, n), "of", b.Cards)
		}
		if s.Input == exercise.OneOf && bs.Value != s.Default {
			for _, o := range bs.Options {
				if o.On {
					asks = append(asks, text.New("author.composerview.setting", "setting", s.Title, "choice", o.Text))
				}
			}
		}
		v.Settings = append(v.Settings, bs)
	}
	v.Asks = text.Row(asks...)
}

// How much of a sheet is shown.
const (
	weakest   = 9  // slips in sight; the others fold
	previewed = 4  // cards
	students  = 3  // made-up ones who are asked which slips can happen
	many      = 24 // cards of a sheet of which no more students are asked
)

// show fills in what the sheet can tell, and the first card of each block; where there is room, one of each of its
// instruments.
func (v *composerView) show(said *text.Printer, d exercise.Sheet, dealt []exercise.Dealt, items []exercise.Item) error {
	possible := map[exercise.Code]bool{}
	if len(items) <= many {
		var err error
		if possible, err = d.Possible(kinds.All, students); err != nil {
			return err
		}
	}
	c, err := exercise.Cover(items, kinds.Slips(), possible)
	if err != nil {
		return err
	}
	v.Tells = newTells(c, len(items), d.Effort)
	for _, i := range toPreview(dealt, len(d.Blocks)) {
		p, err := newPreview(said, i+1, items[i])
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

// previewAnswer is what should stand in a box of a card.
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
