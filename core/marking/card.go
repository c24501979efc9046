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

// Over returns the method with what it leaves open taken from base: a sheet's over its class's.
func (m Method) Over(base Method) Method {
	for _, s := range Settings {
		if *s.of(&m) == "" {
			*s.of(&m) = *s.of(&base)
		}
	}
	if m.TenthsTolerance == nil {
		m.TenthsTolerance = base.TenthsTolerance
	}
	return m
}

// Setting is one of the things in which schools of teaching differ, in words for those who choose.
type Setting struct {
	Field   string // as in documents
	Name    string
	Why     string   // what hangs on it
	Choices []Choice // the default first
	of      func(*Method) *string
}

// Choice is one way to settle it.
type Choice struct{ Value, Words string }

// Get returns what a method says of the setting, "" when it leaves it open.
func (s Setting) Get(m Method) string { return *s.of(&m) }

// Set puts a choice into a method; one that there is not is refused.
func (s Setting) Set(m *Method, value string) error {
	if value != "" && !slices.ContainsFunc(s.Choices, func(c Choice) bool { return c.Value == value }) {
		return schema.Refusal{{Field: s.Field, Reason: fmt.Sprintf("%q is none of the choices", value)}}
	}
	*s.of(m) = value
	return nil
}

// Settings lists what a class or sheet may settle, but for the tolerance of tenths.
var Settings = []Setting{
	{"between", "Between two lines", "How a drum, dial, pointer or rule is read when its index stands between two lines. A vernier has nothing between.", []Choice{{"nearest", "take the nearest line"}, {"whole", "only lines fully passed"}, {"tenths", "estimate a tenth"}},
		func(m *Method) *string { return (*string)(&m.Between) }},
	{"tie", "Exactly midway", "On a vernier, or by the nearest line: a value between the two does not exist on the instrument.", []Choice{{"either", "either line is right"}, {"lower", "the lower line"}, {"upper", "the upper line"}, {"unfavourable", "the one nearer to breaking a limit"}},
		func(m *Method) *string { return &m.Tie }},
	{"route", "Fine reading", "How it is explained and worked out: by the formula, or read straight off numbered tenths and the lines after them.", []Choice{{"formula", "line × least count"}, {"direct", "straight off the plate's numbers"}}, func(m *Method) *string { return &m.Route }},
	{"negative_zero", "A negative zero is explained", "Two ways with the same result. Answers by either are right.", []Choice{{"from-end", "counted back from the end"}, {"signed-main", "with a signed main reading"}}, func(m *Method) *string { return &m.NegativeZero }},
	{"zero_term", "The class records", "Which signed quantity the card asks for. Both lead to the same corrected reading.", []Choice{{"error", "the zero error, and subtracts it"}, {"correction", "the zero correction, and adds it"}}, func(m *Method) *string { return &m.ZeroTerm }},
	{"zero_sign", "Plus of a positive zero error", "A minus is always needed; zero itself needs no sign.", []Choice{{"required", "must be written"}, {"optional", "may be left out"}}, func(m *Method) *string { return &m.ZeroSign }},
	{"decimals", "The instrument's decimals", "7.60, not 7.6, on an instrument that reads 0.01. In the wrong form an entry is worth half.", []Choice{{"strict", "are part of the mark"}, {"lenient", "are only remarked on"}}, func(m *Method) *string { return &m.Decimals }},
	{"unit", "The unit", "Any unit of length is taken; an answer in another unit is converted.", []Choice{{"given", "is printed on the card"}, {"required", "is written by the student"}}, func(m *Method) *string { return &m.Unit }},
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
	for _, s := range c.Ask {
		if !s.Can(c.Instrument) {
			return schema.Refusal{{Field: "ask", Reason: fmt.Sprintf("%q cannot be asked: this %s has no such part", s, c.Instrument.Spec().Family)}}
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

// School says what the card's school settles that its boxes do not show, for who works it: how to read
// between two lines, which line a tie takes, and what must be written besides the number.
func (c *Card) School() []string {
	in, m := c.Instrument, c.Method
	unit := " " + string(in.Unit())
	var says []string
	if in.Kind() != instrument.Vernier && in.Kind() != instrument.Display && !in.HasFiner() {
		says = append(says, map[instrument.Between]string{
			"": "between two lines, take the nearest", instrument.Nearest: "between two lines, take the nearest",
			instrument.Whole: "only lines fully passed count", instrument.Tenths: "between two lines, estimate a tenth",
		}[m.Between])
	}
	switch m.Tie {
	case "lower", "upper":
		says = append(says, "exactly midway, take the "+m.Tie+" line")
	case "unfavourable":
		says = append(says, fmt.Sprintf("exactly midway, take the line nearer to a limit: %s and %s%s", in.FormatMain(c.Limits.Lower), in.FormatMain(c.Limits.Upper), unit))
	}
	if c.Asks(ZeroError) && m.ZeroSign != "optional" {
		says = append(says, "write the sign of the "+m.Name(ZeroError))
	}
	if m.Unit == "required" {
		says = append(says, "write the unit of every length")
	}
	return says
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
