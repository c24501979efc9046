package author

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/school/rack"
	"cavix/web/ui"
)

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

func newInstrumentChoice(k rack.Racked, on bool) instrumentChoice {
	in := k.Instrument
	return instrumentChoice{k.ID, in.Name(), in.Describe(), in.Unit().With(in.FormatMain(in.LeastCount())),
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

// askable reports whether a step of a reading can be asked of one of a block's instruments; what is no such step can.
func askable(step string, b exercise.Block) bool {
	return !slices.Contains(slips.Steps, step) || len(b.Instruments) == 0 ||
		slices.ContainsFunc(b.Instruments, func(in *instrument.Instrument) bool { return slips.Can(in, step) })
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
			if s.Name == "ask" && !askable(c.Value, b) {
				continue
			}
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
