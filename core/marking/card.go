// Package marking marks cards: what each asked step should hold, in the schools that teachers follow,
// what an answer is worth, and which known slip explains a wrong one. Marking is a pure function of
// the card as it was asked and the answer as it was written.
package marking

import (
	"encoding/json"
	"fmt"
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/schema"
)

// Step is one box of a card.
type Step string

// The steps, in the order of the work.
const (
	LeastCount Step = "least_count" // c
	Main       Step = "main"        // M, with or without the base
	FineLine   Step = "fine_line"   // k
	Fine       Step = "fine"        // F = k·L/n
	FinerLine  Step = "finer_line"  // k₂
	Finer      Step = "finer"       // F₂ = k₂·c
	Observed   Step = "observed"    // O = B + M + F + F₂
	ZeroError  Step = "zero_error"  // e, or −e where the class records the correction
	Corrected  Step = "corrected"   // R = O − e
)

// Steps lists all steps in the order of the work.
var Steps = []Step{LeastCount, Main, FineLine, Fine, FinerLine, Finer, Observed, ZeroError, Corrected}

// isLine reports whether a step holds the number of a line and not a length.
func (s Step) isLine() bool { return s == FineLine || s == FinerLine }

// Can reports whether a step can be asked of an instrument: what it does not have cannot be read.
func (s Step) Can(in *instrument.Instrument) bool {
	switch s {
	case Main:
		return in.Kind() != instrument.Display
	case FineLine, Fine:
		return in.HasFine()
	case FinerLine, Finer:
		return in.HasFiner()
	}
	return true
}

// order is a step's place in the work.
func order(s Step) int { return slices.Index(Steps, s) }

// Method holds the settings in which schools of teaching differ. An empty field stands for the first
// of its choices.
type Method struct {
	Between         instrument.Between `json:"between,omitempty"`          // nearest, whole, tenths; a vernier has nothing between
	TenthsTolerance *int               `json:"tenths_tolerance,omitempty"` // with tenths: how many an estimate may be off; 2 when left out
	Tie             string             `json:"tie,omitempty"`              // either, lower, upper, unfavourable
	Route           string             `json:"route,omitempty"`            // formula, direct
	NegativeZero    string             `json:"negative_zero,omitempty"`    // from-end, signed-main
	ZeroTerm        string             `json:"zero_term,omitempty"`        // error, correction
	ZeroSign        string             `json:"zero_sign,omitempty"`        // required, optional
	Decimals        string             `json:"decimals,omitempty"`         // strict, lenient
	Unit            string             `json:"unit,omitempty"`             // given, required
}

// correction reports whether the class records the zero correction, −e.
func (m Method) correction() bool { return m.ZeroTerm == "correction" }

// Limits are the smallest and the largest good size, both inclusive, in the instrument's unit.
type Limits struct {
	Lower length.Number `json:"lower"`
	Upper length.Number `json:"upper"`
}

// Card is one exercise as it is asked: an instrument at a position and the steps to fill in.
type Card struct {
	Instrument *instrument.Instrument
	Indicated  length.Number // y; left alone on a closed card
	Closed     bool          // the instrument is shown closed
	Ask        []Step        // in the order of the work
	Method     Method
	Marks      map[Step]int // full marks of a step; 1 where left out
	Limits     *Limits
}

// itemDocument is the JSON form of a card: format "cavix/item", version 1.
type itemDocument struct {
	Format     string          `json:"format"`
	Version    int             `json:"version"`
	Instrument json.RawMessage `json:"instrument"`
	Indicated  *length.Number  `json:"indicated,omitempty"`
	Closed     bool            `json:"closed,omitempty"`
	Ask        []Step          `json:"ask"`
	Method     Method          `json:"method,omitzero"`
	Marks      map[Step]int    `json:"marks,omitempty"`
	Limits     *Limits         `json:"limits,omitempty"`
}

// Parse reads an item document. What does not fit its schema, or cannot be asked, comes back as a
// schema.Refusal with the path of each field.
func Parse(data []byte) (*Card, error) {
	var d itemDocument
	if err := schema.Decode("item", data, &d); err != nil {
		return nil, err
	}
	in, err := instrument.Parse(d.Instrument)
	if err != nil {
		if r, ok := err.(schema.Refusal); ok {
			return nil, r.Within("instrument")
		}
		return nil, err
	}
	return d.card(in)
}

func (d itemDocument) card(in *instrument.Instrument) (*Card, error) {
	c := &Card{Instrument: in, Closed: d.Closed, Ask: d.Ask, Method: d.Method, Marks: d.Marks, Limits: d.Limits}
	if d.Indicated != nil {
		c.Indicated = *d.Indicated
	}
	slices.SortFunc(c.Ask, func(a, b Step) int { return order(a) - order(b) })
	return c, c.check()
}

// check refuses what cannot be asked.
func (c *Card) check() error {
	if _, err := c.reading(); err != nil {
		return schema.Refusal{{Field: "indicated", Reason: err.Error()}}
	}
	for i, s := range c.Ask {
		if !s.Can(c.Instrument) {
			return schema.Refusal{{Field: fmt.Sprintf("ask.%d", i), Reason: fmt.Sprintf("%q cannot be asked: this %s has no such part", s, c.Instrument.Spec().Family)}}
		}
	}
	if c.Method.Tie == "unfavourable" && c.Limits == nil {
		return schema.Refusal{{Field: "limits", Reason: "are missing: the tie \"unfavourable\" needs a lower and an upper limit"}}
	}
	if c.Limits != nil && c.Limits.Upper.Less(c.Limits.Lower) {
		return schema.Refusal{{Field: "limits.upper", Reason: "must not be below limits.lower"}}
	}
	return nil
}

// MarshalJSON writes the item document.
func (c *Card) MarshalJSON() ([]byte, error) {
	in, err := json.Marshal(c.Instrument)
	if err != nil {
		return nil, err
	}
	d := itemDocument{
		Format: "cavix/item", Version: 1, Instrument: in,
		Closed: c.Closed, Ask: c.Ask, Method: c.Method, Marks: c.Marks, Limits: c.Limits,
	}
	if !c.Closed {
		d.Indicated = &c.Indicated
	}
	return json.Marshal(d)
}

// UnmarshalJSON reads a card that MarshalJSON wrote, without the schema's strictness: it is for what
// Cavix itself has stored. Documents from outside go through Parse.
func (c *Card) UnmarshalJSON(b []byte) error {
	var d itemDocument
	if err := json.Unmarshal(b, &d); err != nil {
		return err
	}
	in := new(instrument.Instrument)
	if err := json.Unmarshal(d.Instrument, in); err != nil {
		return err
	}
	made, err := d.card(in)
	if err != nil {
		return err
	}
	*c = *made
	return nil
}

// Position returns the indicated value that the figure of the card shows.
func (c *Card) Position() length.Number {
	if c.Closed {
		return c.Instrument.Closed()
	}
	return c.Indicated
}

// Asks reports whether the card asks for a step.
func (c *Card) Asks(s Step) bool { return slices.Contains(c.Ask, s) }

// full returns a step's full marks.
func (c *Card) full(s Step) length.Number {
	if m, ok := c.Marks[s]; ok {
		return length.Int(int64(m))
	}
	return length.Int(1)
}

func (c *Card) reading() (instrument.Reading, error) {
	return c.Instrument.ReadBy(c.Position(), c.Method.Between)
}

// tenths reports whether tenths of a line are estimated on this card.
func (c *Card) tenths() bool { return c.Instrument.Tenths(c.Method.Between) }

// tolerance is how far an estimate may be off, in lines: 0 where nothing is estimated.
func (c *Card) tolerance() length.Number {
	if !c.tenths() {
		return length.Number{}
	}
	if t := c.Method.TenthsTolerance; t != nil {
		return length.Frac(int64(*t), 10)
	}
	return length.Frac(2, 10)
}
