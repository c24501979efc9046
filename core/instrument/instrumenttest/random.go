// Package instrumenttest draws instruments by chance, for property tests of whatever reads, draws or
// marks them. What it draws can always exist, and covers every form, unit and sign.
package instrumenttest

import (
	"fmt"
	"math/rand/v2"

	"cavix/core/instrument"
	"cavix/core/length"
)

var divisions = []struct {
	unit       length.Unit
	division   length.Number
	fractional bool
}{
	{length.Millimetre, length.Int(1), false}, {length.Millimetre, length.Frac(1, 2), false},
	{length.Millimetre, length.Int(2), false},
	{length.Centimetre, length.Frac(1, 10), false}, {length.Inch, length.Frac(1, 40), false},
	{length.Inch, length.Frac(1, 20), false},
	{length.Inch, length.Frac(1, 16), true}, {length.Inch, length.Frac(1, 10), false},
	{length.Inch, length.Frac(3, 32), true},
}

// Vernier draws a vernier caliper.
func Vernier(draws *rand.Rand) *instrument.Instrument {
	d := divisions[draws.IntN(len(divisions))]
	n := 2 + draws.IntN(59)
	form := instrument.Form{J: 1 + draws.IntN(3), Retrograde: draws.IntN(3) == 0}
	c := d.division.Quo(length.Int(int64(n)))
	every := 1 + draws.IntN(12)
	from := draws.IntN(3) * draws.IntN(20)
	in, err := instrument.New(instrument.Spec{
		Name: "drawn", Family: instrument.VernierCaliper, Unit: d.unit,
		Main: instrument.Main{Division: d.division, Fractional: d.fractional, NumberEvery: every,
			From: d.division.MulInt(from), To: d.division.MulInt(from + 1 + draws.IntN(300))},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: n, MainDivisions: form.MainDivisions(n),
			NumberEvery: 1 + draws.IntN(min(n, 12)), NumberStep: 1 + draws.IntN(9)},
		Base:      c.MulInt(draws.IntN(3) * draws.IntN(5*n)),
		ZeroError: c.MulInt(draws.IntN(2*n-1) - n + 1),
	})
	if err != nil {
		panic(fmt.Sprintf("instrumenttest: drew what cannot exist: %v", err))
	}
	return in
}

// travels of screws and pointers, with the main division that goes with them.
var travels = []struct {
	unit             length.Unit
	travel, division length.Number
	zeros            int
}{
	{length.Millimetre, length.Frac(1, 2), length.Frac(1, 2), 1}, {length.Millimetre, length.Int(1), length.Int(1), 1},
	{length.Millimetre, length.Int(1), length.Frac(1, 2), 1},
	{length.Inch, length.Frac(1, 40), length.Frac(1, 40), 1}, {length.Inch, length.Frac(1, 10), length.Frac(1, 20), 1},
	{length.Millimetre, length.Int(2), length.Int(1), 2},
	{length.Millimetre, length.Int(10), length.Int(1), 1},
	{length.Centimetre, length.Frac(1, 10), length.Frac(1, 10), 1},
	{length.Inch, length.Frac(1, 8), length.Frac(1, 8), 1},
}

// Ready draws a ready instrument of any family, with a zero error that it can have.
func Ready(draws *rand.Rand) *instrument.Instrument {
	all := instrument.Patterns()
	s := all[draws.IntN(len(all))]
	for range 20 {
		in, err := instrument.New(s)
		if err != nil {
			panic(fmt.Sprintf("instrumenttest: %s cannot exist: %v", s.Name, err))
		}
		if in, err = in.WithZeroError(in.LeastCount().MulInt(draws.IntN(41) - 20)); err == nil {
			return in
		}
	}
	in, _ := instrument.New(s)
	return in
}

// drawn are the families of which instruments of any measures are drawn.
var drawn = instrument.Families[:9]

// Any draws an instrument of any family that is read as a caliper, a micrometer or a rule is.
func Any(draws *rand.Rand) *instrument.Instrument {
	f := drawn[draws.IntN(len(drawn))]
	if f.Fine == instrument.Vernier {
		return withSecond(draws, Vernier(draws), f.Family)
	}
	t := travels[draws.IntN(len(travels))]
	s := instrument.Spec{Name: "drawn", Family: f.Family, Unit: t.unit,
		Main: instrument.Main{Division: t.division, NumberEvery: 1 + draws.IntN(12)}}
	c := t.division
	switch f.Fine {
	case instrument.Thimble:
		n := 10 + draws.IntN(91)
		s.Main.Reverse = f.Family == instrument.DepthMicrometer
		s.Main.HalfMarks = t.travel.Equal(t.division) && draws.IntN(2) == 0
		s.Fine = instrument.Fine{Kind: instrument.Thimble, Divisions: n, Travel: t.travel, Down: s.Main.Reverse,
			NumberEvery: 1 + draws.IntN(10)}
		c = t.travel.Quo(length.Int(int64(n)))
		if draws.IntN(2) == 0 {
			v := 2 + draws.IntN(9)
			form := instrument.Form{J: 1 + draws.IntN(2), Retrograde: draws.IntN(3) == 0}
			if form.MainDivisions(v) <= n-3 {
				if real, ok := instrument.FormOf(v, form.MainDivisions(v)); ok && real == form {
					s.ThimbleVernier = instrument.ThimbleVernier{Divisions: v, ThimbleDivisions: form.MainDivisions(v)}
					c = c.Quo(length.Int(int64(v)))
				}
			}
		}
	case instrument.Dial:
		n := t.zeros * (5 + draws.IntN(100/t.zeros))
		s.Fine = instrument.Fine{Kind: instrument.Dial, Divisions: n, Travel: t.travel, Zeros: t.zeros,
			NumberEvery: 1 + draws.IntN(20)}
		c = t.travel.Quo(length.Int(int64(n)))
	case instrument.Display:
		c = t.division.Quo(length.Int(50))
		s.Fine = instrument.Fine{Kind: instrument.Display, Steps: map[length.Unit]length.Number{t.unit: c}}
	}
	cycle := t.travel
	if f.Fine == instrument.Dial {
		cycle = t.travel.Quo(length.Int(int64(t.zeros)))
	}
	if f.Fine == instrument.None || f.Fine == instrument.Display {
		cycle = c
	}
	s.Main.To = cycle.MulInt(4 + draws.IntN(60))
	per, _ := cycle.Quo(c).Int64()
	s.Base = c.MulInt(draws.IntN(3) * draws.IntN(int(5*per)))
	s.ZeroError = c.MulInt(draws.IntN(int(2*per)) - int(per) + 1)
	in, err := instrument.New(s)
	if err != nil {
		panic(fmt.Sprintf("instrumenttest: drew what cannot exist: %v", err))
	}
	return in
}

// withSecond gives a vernier a second scale, always where the family must have one.
func withSecond(draws *rand.Rand, in *instrument.Instrument, family instrument.Family) *instrument.Instrument {
	s := in.Spec()
	switch {
	case family == instrument.GearTooth:
		upright := s
		s.Family, s.Role, s.Second = family, instrument.ToothDepthScale, &upright
	case draws.IntN(3) == 0:
		other := Vernier(draws).Spec()
		s.Role, s.Second = []instrument.Role{instrument.OtherScale, instrument.InsidePlate}[draws.IntN(2)], &other
	}
	in, err := instrument.New(s)
	if err != nil {
		panic(fmt.Sprintf("instrumenttest: drew what cannot exist: %v", err))
	}
	return in
}

// Position draws a value that the instrument can show: on the grid, exactly between two lines, or
// anywhere.
func Position(draws *rand.Rand, in *instrument.Instrument) length.Number {
	s := in.Spec()
	if in.Traits().Signed || in.Traits().Round {
		from, to := in.Range()
		steps, _ := to.Sub(from).Quo(in.LeastCount()).Int64()
		return from.Add(in.LeastCount().Mul(length.Frac(draws.Int64N(4*steps), 4)))
	}
	low := s.Main.From.Sub(in.ScaleInterval()).Quo(in.LeastCount())
	room, _ := s.Main.To.Add(in.ScaleInterval()).Quo(in.LeastCount()).Sub(low).Floor().Int64()
	steps := length.Int(1 + draws.Int64N(room-1))
	switch draws.IntN(4) {
	case 0:
		steps = steps.Sub(length.Frac(1, 2))
	case 1:
		steps = steps.Sub(length.Frac(draws.Int64N(997), 1000))
	}
	return s.Base.Add(low.Add(steps).Mul(in.LeastCount()))
}
