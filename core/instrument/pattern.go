package instrument

import "cavix/core/length"

// Patterns lists ready instruments of every family, as they are found in shops and laboratories; an
// instructor starts from one and changes what is different in the cupboard.
func Patterns() []Spec {
	mm, in := length.Millimetre, length.Inch
	frac, whole := length.Frac, length.Int
	caliper := func(name string, unit length.Unit, d length.Number, every int, to int64, lines, spans, numbered,
		step int) Spec {
		return Spec{Name: name, Family: VernierCaliper, Unit: unit,
			Main: Main{Division: d, To: whole(to), NumberEvery: every},
			Fine: Fine{Kind: Vernier, Divisions: lines, Spans: spans, NumberEvery: numbered, NumberStep: step}}
	}
	dial := func(name string, unit length.Unit, d, travel length.Number, every int, to int64, lines, zeros int) Spec {
		return Spec{Name: name, Family: DialCaliper, Unit: unit,
			Main: Main{Division: d, To: whole(to), NumberEvery: every},
			Fine: Fine{Kind: Dial, Divisions: lines, Travel: travel, Zeros: zeros, NumberEvery: 10}}
	}
	screw := func(name string, f Family, unit length.Unit, travel length.Number, every int, from, to,
		base length.Number, lines int, v Finer) Spec {
		s := Spec{Name: name, Family: f, Unit: unit, Base: base, Finer: v,
			Main: Main{Division: travel, From: from, To: to, NumberEvery: every, HalfMarks: travel.Equal(frac(1, 2)),
				Reverse: f == DepthMicrometer},
			Fine: Fine{Kind: Drum, Divisions: lines, Travel: travel, NumberEvery: 5, Down: f == DepthMicrometer}}
		return s
	}
	zero, inch, none := whole(0), whole(1), Finer{}
	half, thou25 := frac(1, 2), frac(1, 40)
	sixteenths := caliper("Caliper 1/128 in, 8 over 7", in, frac(1, 16), 16, 6, 8, 7, 4, 4)
	sixteenths.Main.Fractional = true
	ruled := Spec{Name: "Rule in 1/16 in", Family: Rule, Unit: in,
		Main: Main{Division: frac(1, 16), To: whole(12), NumberEvery: 16, Fractional: true}}
	both := caliper("Caliper 0.05 mm, inches on the other edge", mm, whole(1), 10, 150, 20, 39, 4, 2)
	inches := caliper("", in, thou25, 4, 6, 25, 24, 5, 5)
	both.Role, both.Second = OtherScale, &inches
	nibs := caliper("Caliper 0.02 mm, plate for inside work", mm, whole(1), 10, 150, 50, 49, 5, 1)
	inside := caliper("", mm, whole(1), 10, 150, 50, 49, 5, 1)
	inside.Base = whole(10)
	nibs.Role, nibs.Second = InsidePlate, &inside
	gear := caliper("Gear-tooth vernier 0.02 mm", mm, half, 20, 50, 25, 24, 5, 5)
	upright := caliper("", mm, half, 20, 30, 25, 24, 5, 5)
	gear.Family, gear.Role, gear.Second = GearTooth, Upright, &upright
	return []Spec{
		both, nibs, gear,
		caliper("Caliper 0.1 mm, 10 over 9", mm, whole(1), 10, 150, 10, 9, 1, 1),
		caliper("Caliper 0.05 mm, 20 over 19", mm, whole(1), 10, 150, 20, 19, 4, 4),
		caliper("Caliper 0.05 mm, 20 over 39", mm, whole(1), 10, 150, 20, 39, 4, 2),
		caliper("Caliper 0.02 mm, 50 over 49", mm, whole(1), 10, 150, 50, 49, 5, 1),
		caliper("Caliper 0.001 in, 25 over 24", in, thou25, 4, 6, 25, 24, 5, 5),
		caliper("Caliper 0.001 in, 50 over 49", in, frac(1, 20), 2, 6, 50, 49, 5, 5),
		sixteenths,
		dial("Dial caliper 0.01 mm, a turn of 1 mm", mm, whole(1), whole(1), 10, 150, 100, 1),
		dial("Dial caliper 0.02 mm, two zeros", mm, whole(1), whole(2), 10, 150, 100, 2),
		dial("Dial caliper 0.05 mm, a turn of 5 mm", mm, whole(1), whole(5), 10, 150, 100, 1),
		dial("Dial caliper 0.001 in", in, frac(1, 10), frac(1, 10), 10, 6, 100, 1),
		dial("Dial caliper 0.001 in, 0.05 in beam", in, frac(1, 20), frac(1, 10), 20, 6, 100, 1),
		screw("Micrometer 0.01 mm", Micrometer, mm, half, 10, zero, whole(25), zero, 50, none),
		screw("Micrometer 0.01 mm, 25–50", Micrometer, mm, half, 10, zero, whole(25), whole(25), 50, none),
		screw("Screw gauge 0.01 mm, 1 mm a turn", Micrometer, mm, whole(1), 5, zero, whole(25), zero, 100, none),
		screw("Micrometer 0.001 in", Micrometer, in, thou25, 4, zero, inch, zero, 25, none),
		screw("Micrometer 0.002 mm, vernier 5 over 4", Micrometer, mm, half, 10, zero, whole(25), zero, 50,
			Finer{5, 4}),
		screw("Micrometer 0.001 mm, vernier 10 over 9", Micrometer, mm, half, 10, zero, whole(25), zero, 50,
			Finer{10, 9}),
		screw("Micrometer 0.0001 in, vernier 10 over 9", Micrometer, in, thou25, 4, zero, inch, zero, 25,
			Finer{10, 9}),
		screw("Depth micrometer 0.01 mm", DepthMicrometer, mm, half, 10, zero, whole(25), zero, 50, none),
		screw("Depth micrometer 0.01 mm, rod 25–50", DepthMicrometer, mm, half, 10, zero, whole(25), whole(25), 50,
			none),
		screw("Inside micrometer 0.01 mm, head and rod 50", InsideMicrometer, mm, half, 10, zero, whole(13), whole(50),
			50, none),
		{Name: "Digital caliper", Family: Digital, Unit: mm, Main: Main{To: whole(150)},
			Fine: Fine{Kind: Display, Steps: map[length.Unit]length.Number{mm: frac(1, 100), in: frac(1, 2000)}}},
		{Name: "Steel rule in mm", Family: Rule, Unit: mm,
			Main: Main{Division: whole(1), To: whole(300), NumberEvery: 10}},
		ruled,
		{Name: "Pointer scale that stands off 0", Family: Pointer, Unit: mm,
			Main: Main{Division: whole(1), To: whole(60), NumberEvery: 10}, ZeroError: whole(2)},
	}
}

// PatternNamed returns the ready instrument of a name, and whether there is one.
func PatternNamed(name string) (Spec, bool) {
	for _, p := range Patterns() {
		if p.Name == name {
			return p, true
		}
	}
	return Spec{}, false
}
