// Package instrument knows measuring instruments: a main scale, perhaps a fine scale over it and a
// finer one over that, a base and a zero error. It says which can exist, what they read at a position,
// and which of them give a wanted least count. Every length is exact and in the instrument's own unit.
package instrument

import (
	"slices"

	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// Spec describes an instrument to be built. New reports whether it can exist.
type Spec struct {
	Name           string
	Family         Family
	Unit           length.Unit
	Written        Written // how angles are written; "" for the usual and for lengths
	Main           Main
	Fine           Fine
	ThimbleVernier ThimbleVernier // only over a drum
	Base           length.Number  // B: what the scale's 0 stands for; a whole multiple of the least count
	ZeroError      length.Number  // e: shown minus true, closed; a whole multiple of the least count

	Role   Role  // what the second scale is for; "" without one
	Second *Spec // of it only Unit, Main, Fine, Base and ZeroError are taken
}

// Role says what a second vernier of the same instrument is for.
type Role string

// The roles of a second vernier.
const (
	OtherScale      Role = "beam"     // on the beam's other edge, mostly in another unit, with a plate of its own
	InsidePlate     Role = "inside"   // a second plate for inside work, whose base is the width of the nibs
	ToothDepthScale Role = "upright"  // of a gear-tooth vernier: set to the addendum; its base is the tongue's offset
	Opposite        Role = "opposite" // the same plate half a circle on; of it only the zero error is taken
)

// Written says how angles are written.
type Written string

// The manners of writing angles.
const (
	DMS     Written = "dms" // degrees, minutes and seconds
	Decimal Written = "decimal"
)

// fullCircle is where a divided circle begins again.
var fullCircle = length.Int(360)

// Main is the main scale: marks one Division apart, from its 0.
type Main struct {
	Division    length.Number // d, more than 0
	From, To    length.Number // bounds of what it reads; marks go on past them as far as a plate needs
	NumberEvery int           // a number stands at every so many divisions; 0 for the usual
	NumberStep  length.Number // the printed number grows by this each time; 0 for NumberEvery · Division
	Fractional  bool          // the division is written as a fraction, and so are readings
	Reverse     bool          // the numbers run the other way: marks vanish under the drum as the reading grows
	HalfMarks   bool          // the division is half of the scale's whole unit; halves stand on the other side
}

// FineKind names a kind of fine scale.
type FineKind string

// The kinds of fine scale.
const (
	None    FineKind = ""        // read at a pointer or an edge
	Vernier FineKind = "vernier" // a plate of lines that slides along the main scale
	Thimble FineKind = "drum"    // the lines round a screw's thimble
	Dial    FineKind = "dial"    // a round face with a pointer
	Display FineKind = "display" // digits
)

// Fine is the scale that divides one cycle of the main scale further. Which fields mean something
// depends on its kind.
type Fine struct {
	Kind          FineKind
	Divisions     int           // vernier: lines 0 … n; drum and dial: lines in one turn
	MainDivisions int           // vernier: m, the main divisions that its n divisions cover
	Travel        length.Number // drum and dial: what one turn moves
	Zeros         int           // dial: zeros on its face; 0 for 1
	Down          bool          // drum: its numbers rise downwards, not upwards
	Anticlockwise bool          // indicator: so its pointer turns where the part gets larger
	NumberEvery   int           // a number stands at every so many lines; 0 for the usual
	// the printed number grows by this each time; 0 for NumberEvery, so that line numbers are printed
	NumberStep int

	Steps map[length.Unit]length.Number // display: its step in each unit it can show
}

// ThimbleVernier is a vernier on the sleeve, over the drum's lines. The zero value is none.
type ThimbleVernier struct {
	Divisions        int // v
	ThimbleDivisions int // the drum divisions that its v divisions cover
}

// Bounds of what the core will build. They are far outside any cupboard and keep drawings finite.
const (
	maxLines = 500
	maxSpans = 2000
	// MaxMainMarks is the largest number of divisions of a main scale.
	MaxMainMarks = 20000
	// MaxName is the largest number of characters of an instrument's name.
	MaxName = 80
)

// Instrument is an instrument that can exist. It does not change once made.
type Instrument struct {
	spec          Spec
	definition    *Definition
	traits        Traits
	form          Form          // of a vernier plate
	finerForm     Form          // of a vernier over a drum
	scaleInterval length.Number // L
	lines         int           // n, fine lines in one cycle; 1 without a fine scale
	finer         int           // v; 1 without a finer scale
	scale         Scale         // how it is read
	leastCount    length.Number
	decimals      int             // places of the least count
	fractional    bool            // readings are no decimals: decimals means nothing
	part          length.Part     // the smallest part of an angle that it shows; 0 for lengths and decimals of a degree
	second        *Instrument     // the second vernier, if there is one
	refused       refusal.Refusal // what today's rules say against one that was made before
}

// builder gathers what is wrong with a spec while the instrument is put together.
type builder struct {
	*Instrument
	bad    refusal.Refusal
	stored bool // it was made before: what today's rules would refuse to make anew may stand
}

func (b *builder) refuse(field, format string, args ...any) { b.bad.Add(field, format, args...) }

// New returns the instrument that s describes, or a refusal.Refusal naming every field that is
// impossible, with the remedy.
func New(s Spec) (*Instrument, error) { return build(s, false) }

// restored returns an instrument that was made before, by the rules of its time. It is refused only where
// its scales make no sense at all, so that nothing could be read on them.
func restored(s Spec) (*Instrument, error) { return build(s, true) }

func build(s Spec, stored bool) (*Instrument, error) {
	b := &builder{Instrument: &Instrument{spec: s, lines: 1, finer: 1}, stored: stored}
	b.labels()
	divided := b.mainScale()
	usable := b.fineScale(divided)
	if divided && usable {
		b.leastCount = b.scaleInterval.Quo(length.Int(int64(b.lines * b.finer)))
		b.manner()
		b.zero()
	}
	b.secondScale()
	if b.bad != nil && (!stored || !divided || !usable || s.Second != nil && b.second == nil ||
		!b.spec.Main.From.Less(b.spec.Main.To)) {
		return nil, b.bad
	}
	b.refused = b.bad
	return b.Instrument, nil
}

// Check refuses an instrument that was made before and that New would not make today.
func (i *Instrument) Check() error { return i.refused.Err() }

// labels checks name, family and unit.
func (b *builder) labels() {
	s := &b.spec
	if len([]rune(s.Name)) > MaxName {
		b.refuse("name", "instrument.labels", "max_name", MaxName)
	}
	known := false
	if b.definition, known = definitionOf(s.Family); !known {
		names := make([]Family, len(Families))
		for i, f := range Families {
			names[i] = f.Family
		}
		b.refuse("family", "instrument.not-family-known-here", "family", s.Family, "names", names)
		b.definition = likeliest(s.Fine.Kind)
	}
	made := false
	if b.scale, made = b.definition.scaleOf(s.Fine.Kind); !made {
		b.scale = b.definition.Scale
	}
	b.traits = b.scale.Traits()
	switch s.Unit {
	case length.Millimetre, length.Centimetre, length.Inch:
		if b.definition.AnglesOnly {
			b.refuse("unit", "instrument.degrees-only", "family", s.Family)
		}
	case length.Degree:
		if !b.definition.Angles {
			b.refuse("unit", "instrument.no-degrees", "family", s.Family)
		}
	default:
		b.refuse("unit", "instrument.not-unit-instruments-use", "unit", s.Unit)
	}
	switch {
	case !s.Unit.Angular() && s.Written != "":
		b.refuse("written", "instrument.written-lengths")
	case s.Written != "" && s.Written != DMS && s.Written != Decimal:
		b.refuse("written", "instrument.written", "written", s.Written)
	case s.Unit.Angular() && s.Written == "":
		s.Written = DMS
	}
}

// manner finds how readings are written: with decimals, as fractions, or in parts of an angle.
func (b *builder) manner() {
	places, finite := b.leastCount.Decimals()
	b.decimals, b.fractional = places, b.spec.Main.Fractional || !finite
	if !b.spec.Unit.Angular() {
		return
	}
	b.spec.Main.Fractional = false
	if b.spec.Written == Decimal {
		if b.fractional = !finite; !finite {
			b.refuse("written", "instrument.written-decimal", "least_count", b.leastCount)
		}
		return
	}
	part, whole := length.PartOf(b.leastCount)
	seconds := b.leastCount.MulInt(3600)
	switch {
	case b.definition.Fine == None && part > length.Minutes:
		b.refuse("main.division", "instrument.whole-minutes", "division", b.leastCount)
	case !whole:
		b.refuse("fine.divisions", "instrument.whole-seconds", "seconds", seconds.Round(3))
	}
	b.part, b.fractional = part, true
}

// mainScale checks the main scale, and reports whether it is divided at all.
func (b *builder) mainScale() bool {
	s, m, has := &b.spec, &b.spec.Main, b.traits
	b.scale.Complete(s)
	divided := m.Division.Sign() > 0
	if !divided {
		b.refuse("main.division", "instrument.main-scale", "division", m.Division)
	}
	switch {
	case !m.From.Less(m.To):
		b.refuse("main.to", "instrument.more-than-main-from", "from", m.From, "to", m.To)
	case divided && has.HasMarks && m.To.Sub(m.From).Quo(m.Division).Cmp(length.Int(MaxMainMarks)) > 0:
		b.refuse("main.to", "instrument.would-need-more-than", "max_main_marks", MaxMainMarks, "division", m.Division)
	case divided && has.HasMarks && m.To.Abs().Quo(m.Division).Cmp(length.Int(1e9)) > 0:
		b.refuse("main.to", "instrument.lies-too-far-from", "to", m.To, "division", m.Division)
	}
	if m.NumberEvery == 0 {
		m.NumberEvery = 10
	}
	if m.NumberEvery < 1 || m.NumberEvery > MaxMainMarks {
		b.refuse("main.number_every", "instrument.whole-number-divisions-1", "number_every", m.NumberEvery)
	}
	if m.NumberStep.Sign() == 0 && divided {
		m.NumberStep = m.Division.MulInt(m.NumberEvery)
	}
	if m.NumberStep.Sign() < 0 {
		b.refuse("main.number_step", "instrument.more-than-0", "number_step", m.NumberStep)
	}
	if m.Reverse && !has.Reversible {
		b.refuse("main.runs", "instrument.only-sleeve-under-drum")
	}
	if m.HalfMarks && !has.HasThimble {
		b.refuse("main.half_marks", "instrument.only-sleeve-half-marks")
	}
	return divided
}

// fineScale finds how the scales divide the main scale; it reports whether they do.
func (b *builder) fineScale(divided bool) bool {
	s := &b.spec
	if _, made := b.definition.scaleOf(s.Fine.Kind); !made {
		if b.definition.Fine == None {
			b.refuse("fine.kind", "instrument.fine-scale", "family", s.Family)
		} else {
			b.refuse("fine.kind", "instrument.not-fine-scale-use", "kind", s.Fine.Kind, "family", s.Family, "want",
				b.definition.kinds())
		}
		return false
	}
	if s.Fine.Anticlockwise && !b.traits.Indicates {
		b.refuse("fine.runs", "instrument.only-indicators-run")
	}
	found, usable := b.scale.Divide(s, divided, &b.bad)
	b.scaleInterval, b.lines, b.form, b.finer, b.finerForm = found.Interval, found.Lines, found.Form, found.Finer,
		found.FinerForm
	return usable
}

// zero checks base and zero error against the grid and the range.
func (b *builder) zero() {
	s := b.spec
	onGrid := func(field string, x length.Number) bool {
		if x.Quo(b.leastCount).IsInt() {
			return true
		}
		below := x.Quo(b.leastCount).Floor().Mul(b.leastCount)
		b.refuse(field, "instrument.zero", "x", x, "least_count", b.leastCount, "below", below, "add",
			below.Add(b.leastCount))
		return false
	}
	if b.definition.Zeroed && s.Base.Sign() != 0 {
		b.refuse("base", "instrument.no-base", "family", s.Family)
	}
	onGrid("base", s.Base)
	if !onGrid("zero_error", s.ZeroError) || !s.Main.From.Less(s.Main.To) {
		return
	}
	switch e := s.ZeroError; {
	case b.definition.Open && e.Sign() != 0:
		b.refuse("zero_error", "instrument.never-closed")
		return
	case b.traits.Round && (e.Cmp(widest.Neg()) <= 0 || widest.Less(e)):
		b.refuse("zero_error", "instrument.more-than-scale-can", "zero_error", e, "sub", widest.Neg(), "sub2",
			widest.Add(b.leastCount))
		return
	case b.traits.Round:
		return
	case b.traits.Signed:
		if most := b.most(); most.Less(e.Abs()) {
			b.refuse("zero_error", "instrument.more-than-face-can", "zero_error", e, "most", most)
		}
		return
	}
	low := lowest(s.Main)
	above, below := s.Main.From.Sub(b.scaleInterval), s.Main.To.Add(b.scaleInterval)
	if b.traits.BelowZero {
		above = low.Sub(below.Sub(low))
	}
	if closed := low.Add(s.ZeroError); closed.Cmp(above) <= 0 || !closed.Less(below) {
		b.refuse("zero_error", "instrument.more-than-scale-can", "zero_error", s.ZeroError, "sub", above.Sub(low),
			"sub2", below.Sub(low))
	}
}

// secondScale makes the second vernier and checks that it belongs to the first.
func (b *builder) secondScale() {
	s := b.spec
	switch {
	case b.definition.Paired && s.Role != ToothDepthScale: // it cannot be without
		b.refuse("second.role",
			"instrument.second-scale", "upright", ToothDepthScale)
		return
	case s.Role == "" && s.Second == nil:
		return
	case s.Second == nil:
		b.refuse("second", "instrument.missing-though-role-given", "role", s.Role)
		return
	case s.Role != OtherScale && s.Role != InsidePlate && s.Role != ToothDepthScale && s.Role != Opposite:
		b.refuse("second.role", "instrument.not-what-second-scale", "role", s.Role, "other_scale", OtherScale,
			"inside_plate", InsidePlate, "upright", ToothDepthScale)
		return
	case !slices.Contains(b.definition.Seconds, s.Role):
		b.refuse("second.role", "instrument.no-second-scale-kind", "family", s.Family)
		return
	case s.Role == Opposite:
		b.opposite()
		return
	}
	second := *s.Second
	second.Name, second.Family, second.Role, second.Second, second.ThimbleVernier = "", VernierCaliper, "", nil,
		ThimbleVernier{}
	in, err := build(second, b.stored)
	if err != nil {
		_ = b.bad.Take("second", err) // building fails with refusals only
		return
	}
	if s.Role == ToothDepthScale && !in.LeastCount().Equal(b.leastCount) && !b.stored {
		b.refuse("second.fine.divisions",
			"instrument.gives-but-both-scales", "least_count", in.LeastCount(), "least_count2", b.leastCount)
		return
	}
	b.second = in
	spec := in.Spec()
	b.spec.Second = &spec
}

// opposite makes the plate half a circle on: the same instrument with another zero error.
func (b *builder) opposite() {
	if b.bad != nil {
		return // what is wrong with one is wrong with both
	}
	second := b.spec
	second.Name, second.Role, second.Second, second.ZeroError = "", "", nil, b.spec.Second.ZeroError
	in, err := build(second, b.stored)
	if err != nil {
		_ = b.bad.Take("second", err)
		return
	}
	b.second = in
	spec := in.Spec()
	b.spec.Second = &spec
}

// Second returns the second vernier and what it is for; nil without one.
func (i *Instrument) Second() (*Instrument, Role) { return i.second, i.spec.Role }

// lowest is the true size at which an instrument is closed, without the base.
func lowest(m Main) length.Number {
	if m.From.Sign() < 0 {
		return length.Number{}
	}
	return m.From
}

// Spec returns what the instrument is made of, with what was left out filled in.
func (i *Instrument) Spec() Spec { return i.spec }

// Name returns the instrument's name.
func (i *Instrument) Name() string { return i.spec.Name }

// Unit returns the unit of all its lengths.
func (i *Instrument) Unit() length.Unit { return i.spec.Unit }

// UnitSign returns what stands behind a value for its unit: nothing where that is written in degrees and minutes.
func (i *Instrument) UnitSign() string {
	switch {
	case i.part != 0:
		return ""
	case i.spec.Unit.Angular():
		return "°"
	}
	return string(i.spec.Unit)
}

// Kind returns the kind of its fine scale.
func (i *Instrument) Kind() FineKind { return i.spec.Fine.Kind }

// Traits returns what its scales have.
func (i *Instrument) Traits() Traits { return i.traits }

// Definition returns what its family has.
func (i *Instrument) Definition() *Definition { return i.definition }

// IsReadAtIndex reports whether a line is read at an index, so that the position may lie between two lines: no vernier
// and no display.
func (i *Instrument) IsReadAtIndex() bool { return i.traits.AtIndex && !i.HasFiner() }

// Scale returns how its scales are read and spoken of.
func (i *Instrument) Scale() Scale { return i.scale }

// Form returns the form of its vernier plate.
func (i *Instrument) Form() Form { return i.form }

// FinerForm returns the form of the vernier over its drum.
func (i *Instrument) FinerForm() Form { return i.finerForm }

// LeastCount returns c, the smallest difference it can show.
func (i *Instrument) LeastCount() length.Number { return i.leastCount }

// Division returns d, the length of one main division.
func (i *Instrument) Division() length.Number { return i.spec.Main.Division }

// HasHalfMarks reports whether every other mark of its sleeve is a half mark.
func (i *Instrument) HasHalfMarks() bool { return i.spec.Main.HalfMarks }

// Reversed reports whether the numbers of its sleeve run the other way, so that marks vanish as the reading grows.
func (i *Instrument) Reversed() bool { return i.spec.Main.Reverse }

// ZeroError returns e, what it shows when closed less what is true.
func (i *Instrument) ZeroError() length.Number { return i.spec.ZeroError }

// ScaleInterval returns L, the length that one fine cycle covers: a vernier's is one main division, a drum's the
// travel of one turn, a dial's the travel from one 0 of its face to the next.
func (i *Instrument) ScaleInterval() length.Number { return i.scaleInterval }

// Lines returns n, the fine lines in one cycle: 1 without a fine scale.
func (i *Instrument) Lines() int { return i.lines }

// FinerLines returns v, the lines of the finer scale: 1 without one.
func (i *Instrument) FinerLines() int { return i.finer }

// HasFiner reports whether it has a finer scale.
func (i *Instrument) HasFiner() bool { return i.finer > 1 }

// HasFine reports whether it has lines to be read off a fine scale.
func (i *Instrument) HasFine() bool { return i.traits.HasLines }

// LineWorth returns L/n, the length that one fine line stands for.
func (i *Instrument) LineWorth() length.Number { return i.leastCount.MulInt(i.finer) }

// Decimals returns how many decimal places its readings have, and false when it writes fractions.
func (i *Instrument) Decimals() (int, bool) { return i.decimals, !i.fractional }

// Format writes a length the instrument's way: with exactly its decimals, or as a fraction.
// A length that lies between two of its steps is written out in full.
func (i *Instrument) Format(x length.Number) string { return i.FormatBy(x, Nearest) }

// FormatBy is Format for readings taken by a way of reading between lines: an estimated tenth adds one
// decimal.
func (i *Instrument) FormatBy(x length.Number, by Between) string {
	if i.part != 0 {
		return length.DMS(x, i.PartBy(by))
	}
	if i.fractional {
		return x.Fraction()
	}
	places := i.decimals
	if i.Tenths(by) {
		places++
	}
	if p, ok := x.Decimals(); !ok || p > places {
		return x.String()
	}
	return x.Text(places)
}

// PartBy returns the smallest part of an angle that readings have which are taken by a way of reading between lines; 0
// for lengths and decimals of a degree.
func (i *Instrument) PartBy(by Between) length.Part {
	if i.part == 0 || !i.Tenths(by) {
		return i.part
	}
	p, _ := length.PartOf(i.leastCount.Mul(length.Frac(1, 10)))
	return p
}

// withUnit writes a main mark's value with the unit.
func (i *Instrument) withUnit(x length.Number) text.Math {
	return text.Math(i.spec.Unit.With(i.FormatMain(x)))
}

// FormatMain writes a main mark's value: no more places than it needs.
func (i *Instrument) FormatMain(x length.Number) string {
	if i.part != 0 {
		return length.DMS(x, i.part)
	}
	if i.fractional {
		return x.Fraction()
	}
	return x.String()
}

// WithZeroError returns a like instrument with another zero error, or the refusal.
func (i *Instrument) WithZeroError(e length.Number) (*Instrument, error) {
	s := i.spec
	s.ZeroError = e
	return New(s)
}

// Between says how a drum, dial, pointer or rule is read whose index stands between two lines.
type Between string

// The ways of reading between two lines.
const (
	Nearest Between = "nearest"
	Whole   Between = "whole"  // only lines that are fully passed
	Tenths  Between = "tenths" // a tenth of a division is estimated
)

// Betweens lists the ways, the default first.
var Betweens = []Between{Nearest, Whole, Tenths}

// Known reports whether it is one of the ways.
func (b Between) Known() bool { return slices.Contains(Betweens, b) }

// Tenths reports whether tenths of a line are estimated on this instrument by that way: on a vernier or
// a display there is nothing between the lines.
func (i *Instrument) Tenths(by Between) bool {
	return by == Tenths && i.IsReadAtIndex()
}
