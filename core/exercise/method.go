package exercise

import (
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
)

// Method holds the settings in which schools of teaching differ. An empty field stands for the first
// of its choices.
type Method struct {
	// nearest, whole, tenths; a vernier has nothing between
	Between instrument.Between `json:"between,omitempty"`
	// with tenths: how many an estimate may be off; 2 when left out
	TenthsTolerance *int   `json:"tenths_tolerance,omitempty"`
	Tie             string `json:"tie,omitempty"`           // either, lower, upper, unfavourable
	Route           string `json:"route,omitempty"`         // formula, direct
	NegativeZero    string `json:"negative_zero,omitempty"` // from-end, signed-main
	ZeroTerm        string `json:"zero_term,omitempty"`     // error, correction
	ZeroSign        string `json:"zero_sign,omitempty"`     // required, optional
	Decimals        string `json:"decimals,omitempty"`      // strict, lenient
	Unit            string `json:"unit,omitempty"`          // given, required
	Uncertainty     string `json:"uncertainty,omitempty"`   // of the mean of repeated readings: none, type-a, full
}

// Over returns the method with what it leaves open taken from base: a sheet's over its class's.
func (m Method) Over(base Method) Method {
	for _, s := range MethodSettings {
		if *s.of(&m) == "" {
			*s.of(&m) = *s.of(&base)
		}
	}
	if m.TenthsTolerance == nil {
		m.TenthsTolerance = base.TenthsTolerance
	}
	return m
}

// MethodSetting is one of the things in which schools of teaching differ, in words for those who choose.
type MethodSetting struct {
	Field   string // as in documents
	Name    string
	Why     string   // what hangs on it
	Choices []Choice // the default first
	of      func(*Method) *string
}

// Choice is one way to settle it.
type Choice struct{ Value, Words string }

// Get returns what a method says of the setting, "" when it leaves it open.
func (s MethodSetting) Get(m Method) string { return *s.of(&m) }

// Set puts a choice into a method; one that there is not is refused.
func (s MethodSetting) Set(m *Method, value string) error {
	if value != "" && !slices.ContainsFunc(s.Choices, func(c Choice) bool { return c.Value == value }) {
		return refusal.New(s.Field, "%q is none of the choices", value)
	}
	*s.of(m) = value
	return nil
}

// MethodSettings lists what a class or sheet may settle, but for the tolerance of tenths.
var MethodSettings = []MethodSetting{
	{
		"between", "Between two {line}s",
		"How {a drum}, dial, {pointer} or rule is read when its {index line} stands between two {line}s. A vernier has nothing between.",
		[]Choice{{"nearest", "take the nearest {line}"}, {"whole", "only {line}s fully passed"},
			{"tenths", "estimate a tenth"}},
		func(m *Method) *string { return (*string)(&m.Between) },
	},
	{
		"tie", "Exactly midway",
		"On a vernier, or by the nearest {line}: a value between the two does not exist on the instrument.",
		[]Choice{{"either", "either {line} is right"}, {"lower", "the lower {line}"}, {"upper", "the upper {line}"},
			{"unfavourable", "the one nearer to breaking a limit"}},
		func(m *Method) *string { return &m.Tie },
	},
	{
		"route", "{Fine reading}",
		"How it is explained and worked out: by the formula, or read straight off numbered tenths and the {line}s after them.",
		[]Choice{{"formula", "{line} × {least count}"}, {"direct", "straight off the {plate}'s numbers"}},
		func(m *Method) *string { return &m.Route },
	},
	{
		"negative_zero", "A negative zero is explained",
		"Two ways with the same result. Answers by either are right.",
		[]Choice{{"from-end", "counted back from the end"}, {"signed-main", "with a signed {main reading}"}},
		func(m *Method) *string { return &m.NegativeZero },
	},
	{
		"zero_term", "The class records",
		"Which signed quantity the card asks for. Both lead to the same {corrected reading}.",
		[]Choice{{"error", "the {zero error}, and subtracts it"}, {"correction", "the {zero correction}, and adds it"}},
		func(m *Method) *string { return &m.ZeroTerm },
	},
	{
		"zero_sign", "Plus of a positive {zero error}",
		"A minus is always needed; zero itself needs no sign.",
		[]Choice{{"required", "must be written"}, {"optional", "may be left out"}},
		func(m *Method) *string { return &m.ZeroSign },
	},
	{
		"decimals", "The instrument's decimals",
		"7.60, not 7.6, on an instrument that reads 0.01. In the wrong form an entry is worth half.",
		[]Choice{{"strict", "are part of the mark"}, {"lenient", "are only remarked on"}},
		func(m *Method) *string { return &m.Decimals },
	},
	{
		"unit", "The unit",
		"Any unit of length is taken; an answer in another unit is converted.",
		[]Choice{{"given", "is printed on the card"}, {"required", "is written by the student"}},
		func(m *Method) *string { return &m.Unit },
	},
	{
		"uncertainty", "How sure a mean is",
		"What a survey says of the mean of its readings. No card asks for it.",
		[]Choice{{"none", "is not said"}, {"type-a", "from the scatter of the readings"},
			{"full", "from the scatter, the {least count} and the {zero error}, with k = 2"}},
		func(m *Method) *string { return &m.Uncertainty },
	},
}

// Correction reports whether the class records the zero correction, −e, and not the zero error.
func (m Method) Correction() bool { return m.ZeroTerm == "correction" }

// Strict reports whether decimals are part of the mark.
func (m Method) Strict() bool { return m.Decimals != "lenient" }

// UnitRequired reports whether the student has to write the unit.
func (m Method) UnitRequired() bool { return m.Unit == "required" }

// Tolerance is how far an estimated tenth may be off, in lines.
func (m Method) Tolerance() length.Number {
	if t := m.TenthsTolerance; t != nil {
		return length.Frac(int64(*t), 10)
	}
	return length.Frac(2, 10)
}

// Limits are the smallest and the largest good size, both inclusive, in the instrument's unit.
type Limits struct {
	Lower length.Number `json:"lower"`
	Upper length.Number `json:"upper"`
}
