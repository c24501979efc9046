package instrument

import (
	"cavix/core/length"
	"cavix/core/text"
)

// UsualNumbering returns after how many divisions of a main scale the next number usually stands: as on a ready
// instrument of the family where there is one with that division, else such that the numbers stand on round values at a
// distance that can be read.
func UsualNumbering(f Family, unit length.Unit, division length.Number, fractional bool) int {
	for _, p := range Patterns() {
		if p.Family == f && p.Unit == unit && p.Main.Division.Equal(division) && p.Main.Fractional == fractional {
			return p.Main.NumberEvery
		}
	}
	if division.Sign() <= 0 {
		return 10
	}
	apart := length.Int(10) // mm between two numbers
	switch {
	case unit == length.Inch && fractional || unit == length.Inch && length.Frac(1, 20).Less(division):
		apart = length.Frac(127, 5)
	case unit == length.Inch:
		apart = length.Frac(127, 50)
	case f == Micrometer || f == DepthMicrometer || f == InsideMicrometer:
		apart = length.Int(5)
	}
	apart = length.Convert(apart, length.Millimetre, unit)
	for _, times := range []int{1, 2, 5, 10, 20, 50, 100} {
		every := apart.MulInt(times).Quo(division)
		if n, whole := every.Int64(); whole && n >= 2 && n <= 100 {
			return int(n)
		}
	}
	return 10
}

// Misnumbered returns the first numbered mark after 0 and the number printed there where the two differ in no usual
// way: a scale in millimetres may be numbered in centimetres, and the other way round, and tenths of an inch may be
// counted.
func (i *Instrument) Misnumbered() (at, printed length.Number, misleads bool) {
	m := i.spec.Main
	if !i.traits.HasMarks || m.NumberEvery < 1 {
		return at, printed, false
	}
	at = m.Division.MulInt(m.NumberEvery)
	switch ratio := m.NumberStep.Quo(at); {
	case ratio.Equal(length.Int(1)):
	case i.spec.Unit == length.Millimetre && ratio.Equal(length.Frac(1, 10)):
	case i.spec.Unit != length.Millimetre && ratio.Equal(length.Int(10)):
	default:
		return at, m.NumberStep, true
	}
	return at, m.NumberStep, false
}

// Misnumbering says which number misleads on the main scale, in a sentence; "" where none does.
func (i *Instrument) Misnumbering() text.Text {
	at, printed, misleads := i.Misnumbered()
	if !misleads {
		return text.Text{}
	}
	return text.New("instrument.misnumbering", "at", text.Math(i.FormatMain(at)), "unit", i.Unit(), "printed", printed)
}
