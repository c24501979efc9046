package instrument

import (
	"fmt"

	"cavix/core/length"
)

// Form is how a vernier's plate is cut: n divisions over J·n−1 main divisions (direct) or J·n+1
// (retrograde). J = 1 is the short form, J = 2 the long one, whose lines stand wider apart.
type Form struct {
	J          int
	Retrograde bool
}

// String names the form as an instructor would.
func (f Form) String() string {
	s := "short"
	switch {
	case f.J == 2:
		s = "long"
	case f.J > 2:
		s = fmt.Sprintf("%d-fold", f.J)
	}
	if f.Retrograde {
		if f.J == 1 {
			return "retrograde"
		}
		return s + " retrograde"
	}
	return s
}

// Spans returns the main divisions that n plate divisions cover in this form.
func (f Form) Spans(n int) int {
	if f.Retrograde {
		return f.J*n + 1
	}
	return f.J*n - 1
}

// FormOf returns the form of a plate of n divisions over m main divisions, and false when such a
// plate is no vernier. Where both forms fit (n = 2), it is direct.
func FormOf(n, m int) (Form, bool) {
	if n < 2 || m < 1 {
		return Form{}, false
	}
	if (m+1)%n == 0 {
		return Form{J: (m + 1) / n}, true
	}
	if m > n && (m-1)%n == 0 {
		return Form{J: (m - 1) / n, Retrograde: true}, true
	}
	return Form{}, false
}

// NearestSpans returns the usable span nearest to m for n ≥ 2 lines. Of two that are equally near the
// direct one wins, and of two direct ones the shorter.
func NearestSpans(n, m int) int {
	best, bestOff := n-1, -1
	for j := max(1, m/n-1); j <= m/n+2; j++ {
		for _, f := range []Form{{J: j}, {J: j, Retrograde: true}} {
			off := f.Spans(n) - m
			if off < 0 {
				off = -off
			}
			better := bestOff < 0 || off < bestOff
			if off == bestOff && !f.Retrograde {
				was, _ := FormOf(n, best)
				better = was.Retrograde
			}
			if better {
				best, bestOff = f.Spans(n), off
			}
		}
	}
	return best
}

// PlateDivision returns the length of one plate division, m·d/n.
func (i *Instrument) PlateDivision() length.Number {
	return i.leastCount.MulInt(i.spec.Fine.Spans)
}

// PlateEdge returns how far the plate's edge stands before its line 0: one and a half plate divisions.
// A student who reads the main scale there takes the wrong mark.
func (i *Instrument) PlateEdge() length.Number {
	return i.PlateDivision().Mul(length.Frac(3, 2))
}

// LineOffset returns where line k stands, measured from the plate's line 0 in the direction of growing
// main numbers. A retrograde plate's lines lie on the other side of its 0, so theirs are negative.
func (i *Instrument) LineOffset(k int) length.Number {
	off := i.PlateDivision().MulInt(k)
	if i.form.Retrograde {
		return off.Neg()
	}
	return off
}

// Opposite returns the value of the main mark that line k of the reading r stands opposite.
// It is exact for the coinciding line alone: M + k·j·d, or M − k·j·d on a retrograde plate.
func (i *Instrument) Opposite(r Reading) length.Number {
	step := i.spec.Main.Division.MulInt(r.Line * i.form.J)
	if i.form.Retrograde {
		return r.Main.Sub(step)
	}
	return r.Main.Add(step)
}

// Proposal is a vernier that gives a wanted least count.
type Proposal struct {
	Unit       length.Unit
	Division   length.Number
	Fractional bool // the division is best written as a fraction
	Divisions  int
	Spans      int
	Form       Form
	Plate      length.Number // the plate's length from line 0 to line n
	Spacing    length.Number // between two neighbouring plate lines; wider is easier on the eye
}

// usual lists the main divisions found on real beams.
var usual = map[length.Unit][]struct {
	division   length.Number
	fractional bool
}{
	length.Millimetre: {{length.Int(1), false}, {length.Frac(1, 2), false}},
	length.Centimetre: {{length.Frac(1, 10), false}, {length.Frac(1, 20), false}},
	length.Inch:       {{length.Frac(1, 40), false}, {length.Frac(1, 20), false}, {length.Frac(1, 10), false}, {length.Frac(1, 16), true}, {length.Frac(1, 32), true}},
}

// Propose returns the verniers that give the least count c over a main scale of the given division,
// short form first, then long, then retrograde. With a division of 0 the unit's usual divisions are
// tried. The error says why none gives it and what would.
func Propose(unit length.Unit, c, division length.Number) ([]Proposal, error) {
	if c.Sign() <= 0 {
		return nil, fmt.Errorf("a least count must be more than 0, as 0.02; it is %s", c)
	}
	if division.Sign() < 0 {
		return nil, fmt.Errorf("a main division must be more than 0, as 1; it is %s", division)
	}
	var out []Proposal
	add := func(d length.Number, fractional bool) {
		n, ok := d.Quo(c).Int64()
		if !ok || n < 2 || n > maxLines {
			return
		}
		for _, f := range []Form{{J: 1}, {J: 2}, {J: 1, Retrograde: true}} {
			m := f.Spans(int(n))
			if got, _ := FormOf(int(n), m); got != f {
				continue // with two lines some forms are one and the same
			}
			out = append(out, Proposal{
				Unit: unit, Division: d, Fractional: fractional, Divisions: int(n), Spans: m, Form: f,
				Plate: d.MulInt(m), Spacing: d.MulInt(m).Quo(length.Int(n)),
			})
		}
	}
	if division.Sign() > 0 {
		add(division, false)
		if out != nil {
			return out, nil
		}
		ratio := division.Quo(c)
		if ratio.Cmp(length.Int(2)) < 0 {
			return nil, fmt.Errorf("a vernier divides the main division into 2 lines or more: %s is too coarse for a division of %s; the coarsest is %s", c, division, division.Quo(length.Int(2)))
		}
		if ratio.Cmp(length.Int(maxLines)) > 0 {
			return nil, fmt.Errorf("%s on a division of %s would need more than %d lines; the finest is %s", c, division, maxLines, division.Quo(length.Int(maxLines)))
		}
		lines := ratio.Floor()
		return nil, fmt.Errorf("%s does not go into a division of %s a whole number of times; %s lines give %s, %s lines give %s",
			c, division, lines, division.Quo(lines), lines.Add(length.Int(1)), division.Quo(lines.Add(length.Int(1))))
	}
	for _, u := range usual[unit] {
		add(u.division, u.fractional)
	}
	if out == nil {
		return nil, fmt.Errorf("none of the usual %s divisions gives %s; name the main division as well", unit, c)
	}
	return out, nil
}
