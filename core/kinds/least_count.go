package kinds

import (
	"encoding/json"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// leastCount asks to find the least count from what is drawn: the closed instrument, or a screw before
// and after some whole turns.
type leastCount struct{}

func (leastCount) Name() string     { return "least_count" }
func (leastCount) Title() text.Text { return text.New("least-count.title") }

// The fields are the quantities of package instrument, and before those the distance that a screw has moved.
const (
	lcMoved   = "moved"
	fromTurns = "turns"
)

// lcField is a field, and whether it is a length.
type lcField struct {
	name   string
	length bool
}

// term returns the name of the field in a sentence, label that over its box.
func (f lcField) term() text.Text  { return text.New("least-count.term-" + f.name) }
func (f lcField) label() text.Text { return text.New("least-count.label-" + f.name) }

var lcFields = []lcField{{instrument.MainDivision, true}, {lcMoved, true}, {instrument.TravelOfTurn, true},
	{instrument.Zeros, false}, {instrument.Divisions, false}, {instrument.FinerDivisions, false},
	{instrument.DivisionsCovered, false},
	{instrument.FineDivision, true}, {instrument.TheLeastCount, true}}

// The slips of finding a least count, in the order in which they are named. Those of the unit and of the
// decimal point are the read table's.
var lcSlips = []exercise.Slip{
	{Code: "lines-not-spaces"},
	{Code: "number-taken-as-count"},
	{Code: "step-of-numbers",
		Like: []string{"tenfold"}}, // where every tenth mark is numbered
	{Code: "ratio-upside-down"},
	{Code: "moved-not-divided"},
	{Code: "division-as-least-count"},
}

func (leastCount) Slips() []exercise.Slip { return lcSlips }

// Settings of a block.
func (leastCount) Settings() []exercise.Setting {
	return []exercise.Setting{{Name: "from", Title: text.New("least-count.settings.title"), Input: exercise.OneOf,
		Default: "drawn", Choices: []exercise.Choice{{Value: "drawn", Words: text.New("least-count.settings.words")},
			{Value: fromTurns, Words: text.New("least-count.settings.whole-turns-screw-how")}}}}
}

// Check refuses instruments that have nothing to derive.
func (k leastCount) Check(b exercise.Block) error {
	var bad refusal.Refusal
	for _, in := range b.Instruments {
		switch {
		case in.Scale().Finding(in).Quantities == nil:
			bad.Add("instruments", "least-count.check", "in", in.Name())
		case b.Setting(k.Settings(), "from") == fromTurns && !in.Traits().HasThimble:
			bad.Add("from", "least-count.no-screw-cannot-turned", "in", in.Name())
		}
	}
	return bad.Err()
}

// Deal makes a card of the next instrument.
func (k leastCount) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	turn := d.Card()
	if d.Version() > 3 { // the cards of an instrument are alike: let students begin with different ones
		turn += d.Turn()
	}
	in, err := zeroed(d, b.Instruments[turn%len(b.Instruments)], zeroNone)
	if err != nil {
		return nil, err
	}
	it := &LeastCount{Instrument: in, Method: b.Method, Marks: b.Marks}
	if b.Setting(k.Settings(), "from") == fromTurns {
		spec := in.Spec()
		last, _ := spec.Main.To.Sub(spec.Main.From).Quo(in.ScaleInterval()).Floor().Int64()
		turns := 2 + d.Below(max(1, min(4, int(last)-4)))
		from := 1 + d.Below(max(1, int(last)-turns-2))
		before := spec.Main.From.Add(in.ScaleInterval().MulInt(from))
		after := before.Add(in.ScaleInterval().MulInt(turns))
		it.From, it.Turns, it.Before, it.After = fromTurns, turns, &before, &after
	}
	it.Ask = it.all()
	return it, nil
}

// Decode reads a body.
func (leastCount) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &LeastCount{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	switch {
	case it.Instrument == nil:
		return nil, refusal.New("instrument", "least-count.decode")
	case it.From == fromTurns && (it.Before == nil || it.After == nil || it.Turns < 1):
		return nil, refusal.New("turns", "least-count.need-their-number-main")
	}
	if it.Ask == nil {
		it.Ask = it.all()
	}
	order := func(name string) int {
		return slices.IndexFunc(lcFields, func(f lcField) bool { return f.name == name })
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return order(a) - order(b) })
	return it, nil
}

// LeastCount is a card that asks for the least count of an instrument, and for what it is found from.
type LeastCount struct {
	Instrument *instrument.Instrument `json:"instrument"`
	From       string                 `json:"from,omitempty"` // "turns", or "" for the closed instrument
	Turns      int                    `json:"turns,omitempty"`
	Before     *length.Number         `json:"before,omitempty"` // main readings
	After      *length.Number         `json:"after,omitempty"`
	Ask        []string               `json:"ask,omitempty"`
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
}

// Way names how the least count is found: "turns", or from the drawing of a "plate", "drum" or "face"; "" of a scale
// alone.
func (it *LeastCount) Way() string {
	if it.From == fromTurns {
		return it.From
	}
	return it.Instrument.Scale().Term()
}

// Kind names the kind.
func (it *LeastCount) Kind() string { return leastCount{}.Name() }

// finding returns the way to find the least count of its instrument.
func (it *LeastCount) finding() instrument.Finding {
	return it.Instrument.Scale().Finding(it.Instrument)
}

// all lists the fields that the instrument has.
func (it *LeastCount) all() []string {
	found := it.finding().Quantities
	if it.From == fromTurns {
		return append([]string{lcMoved}, found...)
	}
	return found
}

// Check refuses what cannot be asked.
func (it *LeastCount) Check() error {
	var bad refusal.Refusal
	if err := bad.Take("instrument", it.Instrument.Check()); err != nil {
		return err
	}
	for _, name := range it.Ask {
		if !slices.Contains(it.all(), name) {
			bad.Add("ask", "least-count.cannot-asked", "name", name, "family", it.Instrument.Spec().Family)
		}
	}
	if it.finding().Quantities == nil {
		bad.Add("instrument", "least-count.display-there-nothing-derive")
	}
	if it.From == fromTurns {
		moved := it.After.Sub(*it.Before)
		switch {
		case !it.Instrument.Traits().HasThimble:
			bad.Add("from", "least-count.only-screw-turned-leave")
		case !moved.Equal(it.Instrument.ScaleInterval().MulInt(it.Turns)):
			bad.Add("after", "least-count.turns-after", "turns", it.Turns, "cycle", it.Instrument.ScaleInterval(),
				"before", it.Before)
		}
		for _, f := range it.Figures() {
			if _, err := f.Instrument.Read(f.At); err != nil {
				bad.Put(f.Name, text.Says(err))
			}
		}
	}
	return bad.Err()
}

// drawn is the instrument as it is drawn: without a zero error, so that a plate's span can be seen.
func (it *LeastCount) drawn() *instrument.Instrument {
	in, err := it.Instrument.WithZeroError(length.Number{})
	if err != nil {
		return it.Instrument // made by an older rule; it is drawn as it is
	}
	return in
}

// Fields are those that are asked.
func (it *LeastCount) Fields() []exercise.Field {
	var out []exercise.Field
	for _, f := range lcFields {
		if !slices.Contains(it.Ask, f.name) {
			continue
		}
		field := exercise.Field{Name: f.name, Term: f.term(), Label: f.label(), Input: exercise.Count,
			Grain: length.Int(1),
			Form:  exercise.Form{Places: -1}}
		if f.length {
			field.Input, field.Unit, field.Grain = exercise.Length, it.Instrument.Unit(), it.Instrument.LeastCount()
			field.Form.Unit = it.Method.UnitRequired()
		} else if it.Method.Strict() {
			field.Form.Places = 0
		}
		out = append(out, field)
	}
	return out
}

// value returns the right value of a field.
func (it *LeastCount) value(name string) length.Number {
	if name == lcMoved {
		return it.After.Sub(*it.Before)
	}
	return it.Instrument.Quantity(name)
}

// isLength reports whether a field holds a length.
func (it *LeastCount) isLength(name string) bool {
	for _, f := range lcFields {
		if f.name == name {
			return f.length
		}
	}
	return false
}

// near returns the largest deviation from x of an entry in another unit: 2 % of a division, half a least count of a
// distance.
func (it *LeastCount) near(name string, x length.Number) length.Number {
	if name == lcMoved {
		return it.Instrument.LeastCount().Mul(halfCount)
	}
	return x.Abs().Mul(length.Frac(1, 50))
}

// target returns the target of an entry: the value, or its rounding where it has no end.
func (it *LeastCount) target(name string, x length.Number) exercise.Target {
	if part := it.Instrument.PartBy(""); part != 0 && it.isLength(name) {
		places, _ := it.Instrument.LeastCount().Decimals()
		return exercise.Rounded{Is: x, Places: places, Part: part, Near: it.near(name, x)}
	}
	if _, finite := x.Decimals(); !finite {
		places, _ := it.Instrument.LeastCount().Decimals()
		return exercise.Rounded{Is: x, Places: places, Near: it.near(name, x)}
	}
	text := x.String()
	if it.isLength(name) {
		text = it.Instrument.FormatMain(x)
	}
	return exercise.Exactly{Is: x, Written: text, Near: it.near(name, x)}
}

// formula computes a field from the values of others, and returns the fields it needs; can is false where
// one of them is 0 and would divide.
func (it *LeastCount) formula(name string, v func(string) length.Number) (x length.Number, needs []string, can bool) {
	by := length.Int(1)
	if name == instrument.TravelOfTurn && it.From == fromTurns {
		x, by, needs = v(lcMoved), length.Int(int64(it.Turns)), []string{lcMoved}
	} else if r, follows := it.finding().Relation(name); follows {
		x, by = r.Value(v)
		needs = r.From
	}
	if by.Sign() == 0 {
		return x, needs, false
	}
	return x.Quo(by), needs, true
}
