package instrument

import (
	"fmt"

	"cavix/core/length"
)

// Reading is what an instrument shows at a position, part by part, in its own unit.
type Reading struct {
	Indicated length.Number // y, as it was asked for, on the grid or not
	Main      length.Number // M, the scale's own part, without the base; −L for a negative zero
	Line      int           // k, 0 … n−1
	Fine      length.Number // F = k·L/n
	Base      length.Number // B
	Observed  length.Number // O = B + M + F
	ZeroError length.Number // e
	Corrected length.Number // R = O − e
	Tie       bool          // y stood exactly between two lines and was brought to the lower
}

// RangeError says that an instrument cannot show a position. Above and Below bound what it can show,
// both exclusive.
type RangeError struct {
	Indicated, Above, Below length.Number
	Unit                    length.Unit
}

func (e *RangeError) Error() string {
	return fmt.Sprintf("indicated: %s %s is off the scale; it must be above %s and below %s", e.Indicated, e.Unit, e.Above, e.Below)
}

var half = length.Frac(1, 2)

// Read returns the reading at the indicated value y (base and zero error included in y). A position
// between two steps is brought to the nearest; exactly half-way to the lower, and is a tie.
// It fails with a *RangeError outside from − L < y − B < to + L.
func (i *Instrument) Read(y length.Number) (Reading, error) {
	s := y.Sub(i.spec.Base)
	d := i.spec.Main.Division
	low, high := i.spec.Main.From.Sub(d), i.spec.Main.To.Add(d)
	if s.Cmp(low) <= 0 || s.Cmp(high) >= 0 {
		return Reading{}, &RangeError{y, low.Add(i.spec.Base), high.Add(i.spec.Base), i.spec.Unit}
	}
	steps := s.Quo(i.leastCount)
	g := steps.Floor()
	tie := false
	switch steps.Sub(g).Cmp(half) {
	case 0:
		tie = true
	case 1:
		g = g.Add(length.Int(1))
	}
	r := i.at(g)
	r.Indicated, r.Tie = y, tie
	return r, nil
}

// at reads the scales moved by g least counts from their 0.
func (i *Instrument) at(g length.Number) Reading {
	n := length.Int(int64(i.spec.Fine.Divisions))
	marks := g.Quo(n).Floor()
	k, _ := g.Sub(marks.Mul(n)).Int64()
	r := Reading{
		Main:      marks.Mul(i.spec.Main.Division),
		Line:      int(k),
		Fine:      i.leastCount.MulInt(int(k)),
		Base:      i.spec.Base,
		ZeroError: i.spec.ZeroError,
	}
	r.Observed = r.Base.Add(r.Main).Add(r.Fine)
	r.Corrected = r.Observed.Sub(r.ZeroError)
	r.Indicated = r.Observed
	return r
}

// Above returns the reading one least count higher than r, on the grid: the other one of a tie.
func (i *Instrument) Above(r Reading) Reading {
	up := i.at(r.Observed.Sub(r.Base).Quo(i.leastCount).Add(length.Int(1)))
	up.Indicated, up.Tie = r.Indicated, r.Tie
	return up
}

// Closed returns the indicated value of the closed instrument: base, lowest value and zero error.
func (i *Instrument) Closed() length.Number {
	return i.spec.Base.Add(lowest(i.spec.Main)).Add(i.spec.ZeroError)
}

// Range returns the least and the greatest value it is meant to read, base and zero error included.
func (i *Instrument) Range() (from, to length.Number) {
	off := i.spec.Base.Add(i.spec.ZeroError)
	return i.spec.Main.From.Add(off), i.spec.Main.To.Add(off)
}
