package exercise

import (
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
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
	Name    text.Text
	Why     text.Text // what hangs on it
	Choices []Choice  // the default first
	of      func(*Method) *string
}

// Choice is one way to settle it.
type Choice struct {
	Value string
	Words text.Text
}

// Get returns what a method says of the setting, "" when it leaves it open.
func (s MethodSetting) Get(m Method) string { return *s.of(&m) }

// Set puts a choice into a method; one that there is not is refused.
func (s MethodSetting) Set(m *Method, value string) error {
	if value != "" && !slices.ContainsFunc(s.Choices, func(c Choice) bool { return c.Value == value }) {
		return refusal.New(s.Field, "convention.set", "value", value)
	}
	*s.of(m) = value
	return nil
}

// MethodSettings lists what a class or sheet may settle, but for the tolerance of tenths.
var MethodSettings = []MethodSetting{
	{
		"between", text.New("convention.between.name"),
		text.New("convention.between.why"),
		[]Choice{{"nearest", text.New("convention.between.nearest")}, {"whole", text.New("convention.between.whole")},
			{"tenths", text.New("convention.between.tenths")}},
		func(m *Method) *string { return (*string)(&m.Between) },
	},
	{
		"tie", text.New("convention.tie.name"),
		text.New("convention.tie.why"),
		[]Choice{{"either", text.New("convention.tie.either")}, {"lower", text.New("convention.tie.lower")},
			{"upper", text.New("convention.tie.upper")}, {"unfavourable", text.New("convention.tie.unfavourable")}},
		func(m *Method) *string { return &m.Tie },
	},
	{
		"route", text.New("convention.route.name"),
		text.New("convention.route.why"),
		[]Choice{{"formula", text.New("convention.route.formula")}, {"direct", text.New("convention.route.direct")}},
		func(m *Method) *string { return &m.Route },
	},
	{
		"negative_zero", text.New("convention.negative_zero.name"),
		text.New("convention.negative_zero.why"),
		[]Choice{{"from-end", text.New("convention.negative_zero.from-end")},
			{"signed-main", text.New("convention.negative_zero.signed-main")}},
		func(m *Method) *string { return &m.NegativeZero },
	},
	{
		"zero_term", text.New("convention.zero_term.name"),
		text.New("convention.zero_term.why"),
		[]Choice{{"error", text.New("convention.zero_term.error")},
			{"correction", text.New("convention.zero_term.correction")}},
		func(m *Method) *string { return &m.ZeroTerm },
	},
	{
		"zero_sign", text.New("convention.zero_sign.name"),
		text.New("convention.zero_sign.why"),
		[]Choice{{"required", text.New("convention.zero_sign.required")},
			{"optional", text.New("convention.zero_sign.optional")}},
		func(m *Method) *string { return &m.ZeroSign },
	},
	{
		"decimals", text.New("convention.decimals.name"),
		text.New("convention.decimals.why"),
		[]Choice{{"strict", text.New("convention.decimals.strict")},
			{"lenient", text.New("convention.decimals.lenient")}},
		func(m *Method) *string { return &m.Decimals },
	},
	{
		"unit", text.New("convention.unit.name"),
		text.New("convention.unit.why"),
		[]Choice{{"given", text.New("convention.unit.given")}, {"required", text.New("convention.unit.required")}},
		func(m *Method) *string { return &m.Unit },
	},
	{
		"uncertainty", text.New("convention.uncertainty.name"),
		text.New("convention.uncertainty.why"),
		[]Choice{{"none", text.New("convention.uncertainty.none")},
			{"type-a", text.New("convention.uncertainty.type-a")}, {"full", text.New("convention.uncertainty.full")}},
		func(m *Method) *string { return &m.Uncertainty },
	},
}

// Correction reports whether the class records the zero correction, −e, and not the zero error.
func (m Method) Correction() bool { return m.ZeroTerm == "correction" }

// Strict reports whether decimals are part of the mark.
func (m Method) Strict() bool { return m.Decimals != "lenient" }

// UnitRequired reports whether the student has to write the unit.
func (m Method) UnitRequired() bool { return m.Unit == "required" }

// Tolerance returns the error allowed in an estimated tenth, in lines.
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
