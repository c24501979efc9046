package author

import (
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// rescale proposes range and numbering anew where the unit or the division of the main scale has changed since the form
// was printed. What somebody typed in the same step stays.
func (f *workForm) rescale() {
	f.takeUnits()
	old, unit := length.Unit(f.WasUnit), length.Unit(f.Unit)
	if old != "" && old != unit && slices.Contains(units, old) && slices.Contains(units, unit) {
		f.changeUnit(old, unit)
	}
	if division, ok := read(f.Main.Division); ok && (f.WasDivision != f.Main.Division || old != unit) &&
		f.WasDivision != "" {
		f.renumber(division, unit)
	}
	f.noteScale()
}

// noteScale notes the scale for which range and numbering stand.
func (f *workForm) noteScale() {
	f.WasUnit, f.WasNumbers = f.Unit, f.numbers()
	if _, ok := read(f.Main.Division); ok {
		f.WasDivision = f.Main.Division
	}
}

func (f *workForm) numbers() string { return f.Main.NumberEvery + "|" + f.Main.NumberStep }

// read reads a length above 0 as it was typed.
func read(says string) (length.Typed, bool) {
	t, err := length.ReadTyped(says)
	return t, err == nil && t.Value.Sign() > 0
}

// takeUnits has a unit that is typed behind the division, or behind the least count that is wanted, be that of the
// scale. The signs of an angle's minutes and seconds are no units of length.
func (f *workForm) takeUnits() {
	if length.Unit(f.Unit).Angular() {
		return
	}
	for _, says := range []*string{&f.Main.Division, &f.Want, &f.WantDivision} {
		t, ok := read(*says)
		if ok && t.Unit != "" && slices.Contains(units, t.Unit) {
			f.Unit, *says = string(t.Unit), written(t.Value, t.Fraction)
		}
	}
}

// written writes a length as it is typed.
func written(x length.Number, fraction bool) string {
	if fraction {
		return x.Fraction()
	}
	return exercise.Show(x.String())
}

// changeUnit writes the scale in another unit. Millimetres and centimetres are converted exactly. From and to inches a
// ready instrument of the family stands in, since no usual division of the one is one of the other.
func (f *workForm) changeUnit(old, unit length.Unit) {
	typed := f.WasDivision != f.Main.Division // with its unit, or for the new one
	if old != length.Inch && unit != length.Inch {
		fields := []*string{&f.Main.From, &f.Main.To, &f.Base, &f.ZeroError, &f.Fine.Travel, &f.At}
		if !typed {
			fields = append(fields, &f.Main.Division)
		}
		for _, says := range fields {
			if t, err := length.ReadTyped(*says); err == nil && t.Unit == "" {
				*says = written(length.Convert(t.Value, old, unit), t.Fraction)
			}
		}
		return
	}
	division := f.Main.Division
	if i := slices.IndexFunc(instrument.Patterns(), func(p instrument.Spec) bool {
		return string(p.Family) == f.Family && p.Unit == unit &&
			(p.Second == nil || p.Role == instrument.ToothDepthScale)
	}); i >= 0 {
		f.adopt(instrument.Patterns()[i])
	} else {
		f.convertRange(old, unit)
	}
	if typed {
		f.Main.Division = division
	}
}

// convertRange brings the range of a scale to round values in another unit; base and zero error begin anew.
func (f *workForm) convertRange(old, unit length.Unit) {
	if t, err := length.ReadTyped(f.Main.To); err == nil {
		to := length.Convert(t.Value, old, unit)
		if rounded := to.Round(0); rounded.Sign() > 0 {
			to = rounded
		}
		f.Main.To = written(to, false)
	}
	f.Main.From, f.Base, f.ZeroError, f.At = "0", "0", "0", ""
}

// renumber proposes where the numbers stand, the travel of a screw that moved one division a turn, and a range of whole
// divisions.
func (f *workForm) renumber(division length.Typed, unit length.Unit) {
	every := instrument.UsualNumbering(instrument.Family(f.Family), unit, division.Value, division.Fraction)
	apart := division.Value.MulInt(every)
	if f.numbers() == f.WasNumbers || f.WasUnit != f.Unit {
		f.Main.NumberEvery, f.Main.NumberStep = strconv.Itoa(every), written(apart, division.Fraction)
	}
	if strings.TrimSpace(f.Fine.Travel) == f.WasDivision && f.WasUnit == f.Unit {
		f.Fine.Travel = f.Main.Division
	}
	if t, err := length.ReadTyped(f.Main.To); err == nil && t.Unit == "" && t.Value.Sign() > 0 {
		marks := t.Value.Quo(division.Value).Floor()
		to := marks.Mul(division.Value)
		if most := length.Int(instrument.MaxMainMarks); most.Less(marks) {
			to = apart.Mul(most.Quo(length.Int(int64(every))).Floor())
		}
		if to.Less(apart) {
			to = apart
		}
		if !to.Equal(t.Value) {
			f.Main.To = written(to, division.Fraction)
		}
	}
}
