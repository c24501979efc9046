package exercise

import "cavix/core/length"

// Target is a right value that an entry is compared with.
type Target interface {
	// Meets reports whether an entry is it, and the value that later entries then go on with.
	Meets(*Entry) (length.Number, bool)
	// Value is the value itself, where an entry is not asked.
	Value() length.Number
	// Text returns how the target is written.
	Text() string
}

// half is the difference allowed between a converted entry and a reading, in least counts.
var half = length.Frac(1, 2)

// Exactly is met by the value itself: an entry in the field's own unit exactly, one that was written in
// another unit within Near.
type Exactly struct {
	Is      length.Number
	Written string // as it should be filled in
	Near    length.Number
}

// Meets, Value and Text make Exactly a Target.
func (t Exactly) Meets(e *Entry) (length.Number, bool) { return t.Is, e.Is(t.Is, t.Near) }
func (t Exactly) Value() length.Number                 { return t.Is }
func (t Exactly) Text() string                         { return t.Written }

// Within is met by every value that lies at most By from Of, the first entry being the student's own
// estimate: later entries go on with it. A turn that is not 0 goes round: 0 is met from the top of it.
type Within struct {
	Exactly
	Of, By length.Number
	Turn   length.Number
}

// Meets reports whether an entry is the value, or near enough to the true one.
func (t Within) Meets(e *Entry) (length.Number, bool) {
	if e.Is(t.Is, t.Near) {
		return t.Is, true
	}
	off := e.Value.Sub(t.Of).Abs()
	if t.Turn.Sign() == 0 {
		return e.Value, off.Cmp(t.By) <= 0
	}
	in := e.Value.Sign() >= 0 && e.Value.Cmp(t.Turn) <= 0
	return e.Value, in && (off.Cmp(t.By) <= 0 || t.Turn.Sub(off).Abs().Cmp(t.By) <= 0)
}

// Circular is met by a value with any number of full circles in it. Below Low, or not below High, it is right in value
// alone.
type Circular struct {
	Exactly
	Turn      length.Number
	Low, High length.Number
}

// Meets reports whether an entry is the value but for full circles.
func (t Circular) Meets(e *Entry) (length.Number, bool) {
	return t.Is, e.Value.Sub(t.Is).Quo(t.Turn).IsInt()
}

// Faults says that a full circle is in the entry that does not belong there.
func (t Circular) Faults(e *Entry) []FormFault {
	if e.Value.Less(t.Low) || !e.Value.Less(t.High) {
		return []FormFault{OutOfCircle}
	}
	return nil
}

// Fraction is met by the value, and by a decimal of at least three places that is the value rightly rounded: that is
// right, but not in the form of an instrument that is read in fractions, where that is judged.
type Fraction struct {
	Exactly
	Strict bool
}

// leastPlaces is the number of decimals that an entry needs where the value is a fraction.
const leastPlaces = 3

// Meets reports whether an entry is the value, or a decimal for it.
func (t Fraction) Meets(e *Entry) (length.Number, bool) {
	x, is := t.Exactly.Meets(e)
	return x, is || t.rounded(e)
}

func (t Fraction) rounded(e *Entry) bool {
	return !e.Converted && !e.Typed.Fraction && e.Typed.Decimals >= leastPlaces && e.Value.Sign() != 0 &&
		e.Value.Equal(t.Is.Round(e.Typed.Decimals))
}

// Faults says that a fraction was wanted where a rounded decimal was written.
func (t Fraction) Faults(e *Entry) []FormFault {
	if t.Strict && !e.Is(t.Is, t.Near) {
		return []FormFault{NoFraction}
	}
	return nil
}

// With is met by a value, and also by another that says the same: later entries go on with the value.
type With struct {
	Target
	Also Exactly
}

// Meets reports whether an entry is one of the two.
func (t With) Meets(e *Entry) (length.Number, bool) {
	if x, ok := t.Target.Meets(e); ok {
		return x, true
	}
	_, ok := t.Also.Meets(e)
	return t.Value(), ok
}

// Faults are those of the target.
func (t With) Faults(e *Entry) []FormFault {
	if f, ok := t.Target.(Former); ok && !e.Is(t.Also.Is, t.Also.Near) {
		return f.Faults(e)
	}
	return nil
}

// Loosely is met as its target is, and in any form: what follows from own entries cannot always be written
// with the places that the field wants.
type Loosely struct{ Target }

// Option is met by one text of a choice: the one to be written, or any other that is as right.
type Option struct {
	Written string
	Also    []string
}

// Meets reports whether an option was taken; what is chosen has no value.
func (t Option) Meets(e *Entry) (length.Number, bool) {
	if e.Choice == t.Written {
		return length.Number{}, true
	}
	for _, a := range t.Also {
		if e.Choice == a {
			return length.Number{}, true
		}
	}
	return length.Number{}, false
}

// Value and Text make Option a Target.
func (t Option) Value() length.Number { return length.Number{} }
func (t Option) Text() string         { return t.Written }

// same reports whether two targets ask for the same.
func same(a, b Target) bool { return a.Value().Equal(b.Value()) && a.Text() == b.Text() }

// Rounded is met by a value that may be written with more or fewer decimals, as long as they are rightly
// rounded: with at least so many places, half away from zero. Later entries go on with what was written.
type Rounded struct {
	Is     length.Number
	Places int         // the least
	Part   length.Part // the largest in which an angle may end that is written in parts; 0 for decimals
	Near   length.Number
}

// Meets reports whether an entry is the value rounded to the places that it is written with.
func (t Rounded) Meets(e *Entry) (length.Number, bool) {
	if e.Converted || e.Typed.Fraction {
		return e.Value, e.Is(t.Is, t.Near)
	}
	return e.Value, e.Value.Equal(t.Is.RoundTo(finer(e.Typed.Step(), least(t.Places, t.Part))))
}

// least returns the step of the least places, or of a part of an angle.
func least(places int, part length.Part) length.Number {
	if part != 0 {
		return part.Worth()
	}
	return length.Pow10(-places)
}

func finer(a, b length.Number) length.Number {
	if a.Less(b) {
		return a
	}
	return b
}

// further writes an angle in parts, one part further than it has to be.
func further(x length.Number, part length.Part) string {
	step := length.Seconds.Worth()
	if part == length.Seconds {
		step = step.Quo(length.Int(10))
	}
	return length.DMS(x.RoundTo(step), part)
}

// Value and Text make Rounded a Target.
func (t Rounded) Value() length.Number { return t.Is }
func (t Rounded) Text() string {
	if t.Part != 0 {
		return further(t.Is, t.Part)
	}
	if p, finite := t.Is.Decimals(); finite && p <= t.Places+1 {
		return t.Is.Text(max(p, t.Places))
	}
	return t.Is.Text(t.Places + 1)
}

// Cut is met by a value whose further decimals were cut off, not rounded.
type Cut struct{ Rounded }

// Meets reports whether an entry is the value cut off at the places that it is written with.
func (t Cut) Meets(e *Entry) (length.Number, bool) {
	return e.Value, !e.Converted && !e.Typed.Fraction &&
		e.Value.Equal(t.Is.CutTo(finer(e.Typed.Step(), least(t.Places, t.Part))))
}

// Root is met by the square root of a number, within one unit of the last place that is written, of which
// there must be at least Places; the root 0 may be written with fewer.
type Root struct {
	Square length.Number
	Places int
	Part   length.Part // as of Rounded
	Near   length.Number
}

// Meets compares squares, so that nothing is rounded on the way.
func (t Root) Meets(e *Entry) (length.Number, bool) {
	x, unit := e.Value, e.Typed.Step()
	switch {
	case x.Sign() < 0, e.Typed.Fraction:
		return x, false
	case e.Converted:
		unit = t.Near
	case least(t.Places, t.Part).Less(unit):
		return x, x.Sign() == 0 && t.Square.Sign() == 0
	}
	low, high := x.Sub(unit), x.Add(unit)
	return x, t.Square.Cmp(high.Mul(high)) <= 0 && (low.Sign() <= 0 || low.Mul(low).Cmp(t.Square) <= 0)
}

// Value and Text make Root a Target.
func (t Root) Value() length.Number {
	if t.Part != 0 {
		const below = 6 // decimals of a degree that are less than a tenth of a second
		return t.Square.Sqrt(below)
	}
	return t.Square.Sqrt(t.Places + 1)
}

func (t Root) Text() string {
	if t.Part != 0 {
		return further(t.Value(), t.Part)
	}
	return t.Value().Text(t.Places + 1)
}
