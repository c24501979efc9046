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

// DrumMet returns the drum number that the coinciding line of the finer scale meets, from 0 to n−1:
// k + j·k₂, or k − j·k₂ on a vernier in retrograde form.
func (i *Instrument) DrumMet(r Reading) int {
	step := i.finerForm.J * r.FinerLine
	if i.finerForm.Retrograde {
		step = -step
	}
	return ((r.Line+step)%i.lines + i.lines) % i.lines
}
