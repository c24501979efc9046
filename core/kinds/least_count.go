package kinds

import (
	"encoding/json"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
)

// leastCount asks to find the least count from what is drawn: the closed instrument, or a screw before
// and after some whole turns.
type leastCount struct{}

func (leastCount) Name() string  { return "least_count" }
func (leastCount) Title() string { return "Find the {least count}" }

// The fields are the quantities of package instrument, and before those the distance that a screw has moved.
const (
	lcMoved   = "moved"
	fromTurns = "turns"
)

// lcField is what a field is called, and whether it is a length.
type lcField struct {
	name, term, label string
	length            bool
}

var lcFields = []lcField{
	{instrument.MainDivision, "main division", "main division", true},
	{lcMoved, "distance moved", "moved", true},
	{instrument.TravelOfTurn, "travel of a turn", "a turn", true},
	{instrument.Zeros, "number of zeros on the {face}", "zeros", false},
	{instrument.Divisions, "number of divisions", "divisions", false},
	{instrument.FinerDivisions, "number of vernier divisions", "vernier divisions", false},
	{instrument.DivisionsCovered, "number of main divisions covered", "main divisions", false},
	{instrument.FineDivision, "fine division", "fine division", true},
	{instrument.TheLeastCount, "{least count}", "{least count}", true},
}

// The slips of finding a least count, in the order in which they are named. Those of the unit and of the
// decimal point are the read table's.
var lcSlips = []exercise.Slip{
	{Code: "lines-not-spaces", Did: "counted the {line}s, not the spaces between them"},
	{Code: "number-taken-as-count", Did: "took the last printed number for the number of divisions"},
	{Code: "step-of-numbers", Did: "took the step from number to number for one division",
		Like: []string{"tenfold"}}, // where every tenth mark is numbered
	{Code: "ratio-upside-down", Did: "divided the wrong way round"},
	{Code: "moved-not-divided", Did: "did not divide the distance by the number of turns"},
	{Code: "division-as-least-count", Did: "took a whole division for the {least count}"},
}

func (leastCount) Slips() []exercise.Slip { return lcSlips }

// lcAdvice says how the right value is found.
var lcAdvice = map[exercise.Code]string{
	"lines-not-spaces":        "Count the spaces between the {line}s: the first {line} is 0, so one {line} more stands there than there are spaces.",
	"number-taken-as-count":   "The printed numbers need not count {line}s. Count the {line}s from one number to the next, and how often that goes.",
	"step-of-numbers":         "That is the step from one printed number to the next. Count the divisions between the two numbers, and divide.",
	"ratio-upside-down":       "It was divided the wrong way round: the length is divided by the number, so that one part comes out small.",
	"moved-not-divided":       "That is how far it moved in all its turns. Divide by their number.",
	"division-as-least-count": "That is a whole division. The {least count} is smaller: it is what the fine scale still tells apart in it.",
	slips.UnitTenfold:         "Your value is ten times too %s. Check whether you wrote centimetres or millimetres.",
	slips.UnitInch:            "Your value fits when inches are taken for millimetres, or the other way round.",
	slips.PlaceShift:          "Your value is ten times too %s. Check where you put the decimal point.",
}

// Settings of a block.
func (leastCount) Settings() []exercise.Setting {
	return []exercise.Setting{{Name: "from", Title: "Found from", Input: exercise.OneOf, Default: "drawn",
		Choices: []exercise.Choice{{Value: "drawn", Words: "the {closed} instrument"},
			{Value: fromTurns, Words: "whole turns of a screw, and how far it moved"}}}}
}

// Check refuses instruments that have nothing to derive.
func (k leastCount) Check(b exercise.Block) error {
	var bad refusal.Refusal
	for _, in := range b.Instruments {
		switch {
		case in.Scale().Finding(in).Quantities == nil:
			bad.Add("instruments", "%q is a display: there is nothing to derive its step from", in.Name())
		case b.Setting(k.Settings(), "from") == fromTurns && !in.Traits().HasThimble:
			bad.Add("from", "%q is no screw, and cannot be turned", in.Name())
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
		last, _ := spec.Main.To.Sub(spec.Main.From).Quo(in.Cycle()).Floor().Int64()
		turns := 2 + d.Below(max(1, min(4, int(last)-4)))
		from := 1 + d.Below(max(1, int(last)-turns-2))
		before := spec.Main.From.Add(in.Cycle().MulInt(from))
		after := before.Add(in.Cycle().MulInt(turns))
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
		return nil, refusal.New("instrument", "is missing")
	case it.From == fromTurns && (it.Before == nil || it.After == nil || it.Turns < 1):
		return nil, refusal.New("turns", "need their number, and the main readings before and after")
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

// Kind names the kind.
func (it *LeastCount) Kind() string { return leastCount{}.Name() }

// finding is how the least count of its instrument is found.
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
			bad.Add("ask", "%q cannot be asked of this %s", name, it.Instrument.Spec().Family)
		}
	}
	if it.finding().Quantities == nil {
		bad.Add("instrument", "is a display: there is nothing to derive its step from")
	}
	if it.From == fromTurns {
		moved := it.After.Sub(*it.Before)
		switch {
		case !it.Instrument.Traits().HasThimble:
			bad.Add("from", "only a screw is turned; leave it out")
		case !moved.Equal(it.Instrument.Cycle().MulInt(it.Turns)):
			bad.Add("after", "must be %d turns of %s after %s", it.Turns, it.Instrument.Cycle(), it.Before)
		}
		for _, f := range it.Figures() {
			if _, err := f.Instrument.Read(f.At); err != nil {
				bad.Add(f.Name, "%s", err)
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
		field := exercise.Field{Name: f.name, Term: f.term, Label: f.label, Input: exercise.Count,
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

// value is what a field should hold.
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

// near is how far an entry in another unit may lie from x: 2 % of a division, half a least count of a
// distance.
func (it *LeastCount) near(name string, x length.Number) length.Number {
	if name == lcMoved {
		return it.Instrument.LeastCount().Mul(halfCount)
	}
	return x.Abs().Mul(length.Frac(1, 50))
}

// target is what an entry is held against: the value, or its rounding where it has no end.
func (it *LeastCount) target(name string, x length.Number) exercise.Target {
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

// formula is what a field comes to by the values of others, and the fields it needs; can is false where
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
