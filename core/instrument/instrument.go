// Package instrument knows measuring instruments: a main scale, a fine scale over it, a base and a
// zero error. It says which can exist, what they read at a position, and which of them give a wanted
// least count. Every length is exact and in the instrument's own unit.
package instrument

import (
	"fmt"

	"cavix/core/length"
	"cavix/core/schema"
)

// Family names a kind of instrument.
type Family string

// VernierCaliper is a straight main scale on a beam, read through a sliding plate.
const VernierCaliper Family = "vernier-caliper"

// Spec is what an instrument is made of, as somebody asks for it. New says whether it can exist.
type Spec struct {
	Name      string
	Family    Family
	Unit      length.Unit
	Main      Main
	Fine      Fine
	Base      length.Number // B: what the scale's 0 stands for; a whole multiple of the least count
	ZeroError length.Number // e: shown minus true, closed; a whole multiple of the least count
}

// Main is the main scale: marks one Division apart, from its 0.
type Main struct {
	Division    length.Number // d, more than 0
	From, To    length.Number // bounds of what it reads; marks go on past them as far as the plate needs
	NumberEvery int           // a number stands at every so many divisions; 0 for the usual
	NumberStep  length.Number // the printed number grows by this each time; 0 for NumberEvery · Division
	Fractional  bool          // the division is written as a fraction, and so are readings
}

// FineKind names a kind of fine scale.
type FineKind string

// Vernier is a plate of lines that slides along the main scale.
const Vernier FineKind = "vernier"

// Fine is the scale that divides one main division further.
type Fine struct {
	Kind        FineKind
	Divisions   int // n: lines 0 … n
	Spans       int // m: the main divisions that its n divisions cover
	NumberEvery int // a number stands at every so many lines; 0 for the usual
	NumberStep  int // the printed number grows by this each time; 0 for NumberEvery, so that line numbers are printed
}

// Bounds of what the core will build. They are far outside any cupboard and keep drawings finite.
const (
	maxLines     = 500
	maxSpans     = 2000
	maxMainMarks = 20000
	maxName      = 80
)

// Instrument is an instrument that can exist. It does not change once made.
type Instrument struct {
	spec       Spec
	form       Form
	leastCount length.Number
	decimals   int  // places of the least count
	fractional bool // readings are written as fractions; decimals means nothing
}

// New returns the instrument that s describes, or a schema.Refusal naming every field that is
// impossible, with the remedy.
func New(s Spec) (*Instrument, error) {
	var bad schema.Refusal
	refuse := func(field, format string, args ...any) {
		bad = append(bad, schema.Fault{Field: field, Reason: fmt.Sprintf(format, args...)})
	}
	if len([]rune(s.Name)) > maxName {
		refuse("name", "is longer than %d characters", maxName)
	}
	if s.Family != VernierCaliper {
		refuse("family", "%q is not a family known here; use %q", s.Family, VernierCaliper)
	}
	switch s.Unit {
	case length.Millimetre, length.Centimetre, length.Inch:
	default:
		refuse("unit", "%q is not a unit of instruments; use mm, cm or in", s.Unit)
	}

	m := &s.Main
	divided := m.Division.Sign() > 0
	if !divided {
		refuse("main.division", "must be more than 0, as 1 or 0.025 or 1/16; it is %s", m.Division)
	}
	if !m.From.Less(m.To) {
		refuse("main.to", "must be more than main.from (%s); it is %s", m.From, m.To)
	} else if divided && m.To.Quo(m.Division).Cmp(length.Int(maxMainMarks)) > 0 {
		refuse("main.to", "would need more than %d marks at a division of %s; make it shorter or the division larger", maxMainMarks, m.Division)
	}
	if m.NumberEvery == 0 {
		m.NumberEvery = 10
	}
	if m.NumberEvery < 1 || m.NumberEvery > maxMainMarks {
		refuse("main.number_every", "must be a whole number of divisions, 1 or more; it is %d", m.NumberEvery)
	}
	if m.NumberStep.Sign() == 0 && divided {
		m.NumberStep = m.Division.MulInt(m.NumberEvery)
	}
	if m.NumberStep.Sign() < 0 {
		refuse("main.number_step", "must be more than 0; it is %s", m.NumberStep)
	}

	f := &s.Fine
	var form Form
	usable := false
	switch {
	case f.Kind != Vernier:
		refuse("fine.kind", "%q is not a fine scale known here; use %q", f.Kind, Vernier)
	case f.Divisions < 2 || f.Divisions > maxLines:
		refuse("fine.divisions", "must be a whole number of lines from 2 to %d; it is %d", maxLines, f.Divisions)
	case f.Spans < 1 || f.Spans > maxSpans:
		refuse("fine.spans", "must be a whole number of main divisions from 1 to %d; it is %d. Nearest that works: %d",
			maxSpans, f.Spans, NearestSpans(f.Divisions, max(1, min(f.Spans, maxSpans))))
	default:
		form, usable = FormOf(f.Divisions, f.Spans)
		if !usable {
			refuse("fine.spans", "%d lines over %d main divisions is no vernier: a plate must cover one division less or one more than a whole multiple of %d. Nearest that works: %d",
				f.Divisions, f.Spans, f.Divisions, NearestSpans(f.Divisions, f.Spans))
		}
	}
	if f.NumberEvery == 0 {
		f.NumberEvery = 5
		if f.Divisions <= 10 {
			f.NumberEvery = 1
		}
	}
	if f.NumberEvery < 1 || f.NumberEvery > maxLines {
		refuse("fine.number_every", "must be a whole number of lines from 1 to %d; it is %d", maxLines, f.NumberEvery)
	}
	if f.NumberStep == 0 {
		f.NumberStep = f.NumberEvery
	}
	if f.NumberStep < 1 || f.NumberStep > 1000 {
		refuse("fine.number_step", "must be a whole number from 1 to 1000; it is %d", f.NumberStep)
	}

	i := &Instrument{form: form}
	if divided && usable {
		i.leastCount = m.Division.Quo(length.Int(int64(f.Divisions)))
		onGrid := func(field string, x length.Number) bool {
			if x.Quo(i.leastCount).IsInt() {
				return true
			}
			below := x.Quo(i.leastCount).Floor().Mul(i.leastCount)
			refuse(field, "%s is not a whole number of least counts (%s); nearest that work: %s or %s",
				x, i.leastCount, below, below.Add(i.leastCount))
			return false
		}
		onGrid("base", s.Base)
		if onGrid("zero_error", s.ZeroError) && m.From.Less(m.To) {
			lowest := lowest(*m)
			if closed := lowest.Add(s.ZeroError); closed.Cmp(m.From.Sub(m.Division)) <= 0 || !closed.Less(m.To.Add(m.Division)) {
				refuse("zero_error", "%s is more than the scale can show when closed; it must be above %s and below %s",
					s.ZeroError, m.From.Sub(m.Division).Sub(lowest), m.To.Add(m.Division).Sub(lowest))
			}
		}
		places, finite := i.leastCount.Decimals()
		i.decimals, i.fractional = places, m.Fractional || !finite
	}
	if bad != nil {
		return nil, bad
	}
	i.spec = s
	return i, nil
}

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

// Form returns the form of its vernier.
func (i *Instrument) Form() Form { return i.form }

// LeastCount returns c, the smallest difference it can show: d/n.
func (i *Instrument) LeastCount() length.Number { return i.leastCount }

// Cycle returns L, the length that one fine cycle covers: a vernier's is one main division.
func (i *Instrument) Cycle() length.Number { return i.spec.Main.Division }

// Decimals returns how many decimal places its readings have, and false when it writes fractions.
func (i *Instrument) Decimals() (int, bool) { return i.decimals, !i.fractional }

// Format writes a length the instrument's way: with exactly its decimals, or as a fraction.
// A length that lies between two of its steps is written out in full.
func (i *Instrument) Format(x length.Number) string {
	if i.fractional {
		return x.Fraction()
	}
	if p, ok := x.Decimals(); !ok || p > i.decimals {
		return x.String()
	}
	return x.Text(i.decimals)
}

// FormatMain writes a main mark's value: no more places than it needs.
func (i *Instrument) FormatMain(x length.Number) string {
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
