package instrument

import (
	"fmt"

	"cavix/core/length"
)

// Reading is the reading of an instrument at a position, step by step, in the instrument's unit.
type Reading struct {
	Indicated      length.Number // y, as it was asked for, on the grid or not
	Main           length.Number // M, the scale's own part, without the base; −L for a negative zero
	Line           int           // k, 0 … n−1; counted both ways from 0 it may be negative
	Tenth          int           // tenths of a line past it, where they are estimated
	Fine           length.Number // F = k·L/n, with the tenths
	FinerLine      int           // k₂, 0 … v−1
	ThimbleVernier length.Number // F₂ = k₂·c
	Base           length.Number // B
	Observed       length.Number // O = B + M + F + F₂
	ZeroError      length.Number // e
	Corrected      length.Number // R = O − e
	Tie            bool          // y stood exactly between two steps and was brought to the lower
	By             Between       // how it was read
}

// LineNumber returns the line with its estimated tenths.
func (r Reading) LineNumber() length.Number {
	return length.Int(int64(r.Line)).Add(length.Frac(int64(r.Tenth), 10))
}

// RangeError says that an instrument cannot show a position. Above and Below bound what it can show,
// both exclusive.
type RangeError struct {
	Indicated, Above, Below length.Number
	Unit                    length.Unit
}

func (e *RangeError) Error() string {
	return fmt.Sprintf("indicated: %s is off the scale; it must be above %s and below %s",
		e.Unit.With(e.Indicated.String()), e.Above, e.Below)
}

var half = length.Frac(1, 2)

// Read returns the reading at the indicated value y (base and zero error included in y), between two
// lines of a drum or dial by the nearest.
func (i *Instrument) Read(y length.Number) (Reading, error) { return i.ReadBy(y, Nearest) }

// ReadBy returns the reading at y by a way of reading between two lines. A position between two steps of
// the grid is brought to the nearest, exactly half-way to the lower, and is then a tie; by Whole it is
// brought to the line last passed. A display rounds half away from zero.
// It fails with a *RangeError outside from − L < y − B < to + L; a circle shows every angle, and a face that is
// numbered both ways no more than |y| ≤ L/2 − c.
func (i *Instrument) ReadBy(y length.Number, by Between) (Reading, error) {
	y = i.Around(y)
	s := y.Sub(i.spec.Base)
	low, high := i.bounds()
	if s.Cmp(low) <= 0 || s.Cmp(high) >= 0 || i.traits.Signed && i.most().Less(s.Abs()) {
		return Reading{}, &RangeError{y, low.Add(i.spec.Base), high.Add(i.spec.Base), i.spec.Unit}
	}
	steps := s.Quo(i.leastCount)
	if i.Tenths(by) {
		steps = steps.MulInt(10)
	}
	g := steps.Floor()
	rest := steps.Sub(g)
	tie, up := false, false
	switch {
	case i.traits.Digits:
		up = rest.Cmp(half) > 0 || rest.Equal(half) && s.Sign() > 0
	case by == Whole && i.IsReadAtIndex():
		up = i.traits.Signed && s.Sign() < 0 && rest.Sign() > 0 // the line last passed from 0
	default:
		tie, up = rest.Equal(half), rest.Cmp(half) > 0
	}
	if up {
		g = g.Add(length.Int(1))
	}
	r := i.at(g, by)
	r.Indicated, r.Tie = y, tie
	return r, nil
}

// bounds are the exclusive bounds of y − B. A display and a pointer also show what lies below nothing.
func (i *Instrument) bounds() (low, high length.Number) {
	switch {
	case i.traits.Round:
		return i.scaleInterval.Neg(), fullCircle
	case i.traits.Signed:
		end := i.scaleInterval.Mul(half)
		return end.Neg(), end
	}
	low, high = i.spec.Main.From.Sub(i.scaleInterval), i.spec.Main.To.Add(i.scaleInterval)
	if e := lowest(i.spec.Main).Add(i.spec.ZeroError).Sub(i.scaleInterval); i.traits.BelowZero && e.Less(low) {
		low = e
	}
	return low, high
}

// at reads the scales moved by g steps from their 0: least counts, or tenths of them.
func (i *Instrument) at(g length.Number, by Between) Reading {
	tenths := 1
	if i.Tenths(by) {
		tenths = 10
	}
	per := length.Int(int64(i.lines * i.finer * tenths)) // steps in a cycle
	cycles := g.Quo(per).Floor()
	if i.traits.Signed {
		cycles = length.Number{}
	}
	left, _ := g.Sub(cycles.Mul(per)).Int64()
	r := Reading{Main: i.Around(cycles.Mul(i.scaleInterval)), Base: i.spec.Base, ZeroError: i.spec.ZeroError, By: by}
	worth := i.LineWorth()
	if i.finer > 1 {
		r.Line, r.FinerLine = int(left)/i.finer, int(left)%i.finer
		r.ThimbleVernier = i.leastCount.MulInt(r.FinerLine)
	} else {
		r.Line, r.Tenth = int(left)/tenths, int(left)%tenths
	}
	r.Fine = worth.MulInt(r.Line)
	if r.Tenth != 0 {
		r.Fine = worth.Mul(r.LineNumber())
	}
	r.Observed = r.Base.Add(r.Main).Add(r.Fine).Add(r.ThimbleVernier)
	r.Corrected = i.Around(r.Observed.Sub(r.ZeroError))
	r.Indicated = r.Observed
	return r
}

// Above returns the reading one step higher than r, on the grid: the other one of a tie.
func (i *Instrument) Above(r Reading) Reading {
	steps := r.Observed.Sub(r.Base).Quo(i.leastCount)
	if i.Tenths(r.By) {
		steps = steps.MulInt(10)
	}
	up := i.at(steps.Add(length.Int(1)), r.By)
	up.Indicated, up.Tie = r.Indicated, r.Tie
	return up
}

// Closed returns the indicated value of the closed instrument: base, lowest value and zero error.
func (i *Instrument) Closed() length.Number {
	return i.Around(i.spec.Base.Add(lowest(i.spec.Main)).Add(i.spec.ZeroError))
}

// Lowest returns the least value to which a hand moves it: that of the closed instrument, or where it shows less than
// that the beginning of its scale.
func (i *Instrument) Lowest() length.Number {
	if from, _ := i.Range(); i.traits.Round || i.traits.Signed || i.spec.Main.From.Sign() < 0 {
		return from
	}
	return i.Closed()
}

// Range returns the least and the greatest value it is meant to read, base and zero error included.
func (i *Instrument) Range() (from, to length.Number) {
	off := i.spec.Base.Add(i.spec.ZeroError)
	if i.traits.Round || i.traits.Signed {
		off = length.Number{}
	}
	return i.spec.Main.From.Add(off), i.spec.Main.To.Add(off)
}

// OnSecond returns what the second scale of a beam indicates when the first indicates y: the same opening
// in its own unit, with its own base and zero error. An opposite plate stands half a circle on.
func (i *Instrument) OnSecond(y length.Number) length.Number {
	if i.spec.Role == Opposite {
		return i.second.Around(y.Sub(i.spec.ZeroError).Add(i.second.spec.ZeroError).Add(widest))
	}
	open := y.Sub(i.spec.Base).Sub(i.spec.ZeroError)
	s := i.second.spec
	return length.Convert(open, i.spec.Unit, s.Unit).Add(s.Base).Add(s.ZeroError)
}

// Swapped returns the instrument looked at from its other edge: its second scale as the first, and the
// first as the second. It must have a second scale on its beam.
func (i *Instrument) Swapped() *Instrument {
	a, b := i.spec, *i.spec.Second
	b.Name, b.Family, b.Role = a.Name, a.Family, a.Role
	a.Role, a.Second = "", nil
	b.Second = &a
	out, err := New(b)
	if err != nil {
		return i // both have been checked, so this cannot be
	}
	return out
}
