package instrument

import (
	"fmt"

	"cavix/core/length"
	"cavix/core/text"
)

// Quantity names a number from which a least count is found.
type Quantity = string

// The quantities, in the order of the work.
const (
	MainDivision     Quantity = "main_division"   // d
	TravelOfTurn     Quantity = "pitch"           // of a turn, from 0 to 0 of the same zero
	Zeros            Quantity = "zeros"           // on the face
	Divisions        Quantity = "divisions"       // n, from one 0 to the next
	FinerDivisions   Quantity = "finer_divisions" // v
	DivisionsCovered Quantity = "spans"           // m, main divisions that a plate covers
	FineDivision     Quantity = "fine_division"   // of a plate m·d/n; of a thimble what one line is worth
	TheLeastCount    Quantity = "least_count"     // c
)

// Finding tells how the least count of an instrument is found from what is drawn. The zero value is that of an
// instrument on which there is nothing to find.
type Finding struct {
	Quantities []Quantity // in the order of the work, the least count last
	Relations  []Relation // in the order of the work
	Wholes     []Quantity // divisions that somebody may take for the least count
	Hint       text.Text  // where to look first
}

// Relation is a formula: one quantity as a function of others.
type Relation struct {
	Is   Quantity
	From []Quantity // nil if it is only read off
	// the left side of its equation: quantities, the signs × ÷ −, and numbers; nil if it stands alone
	Written  []string
	Value    Quotient // nil if it is only read off
	Inverted Quotient // the same divided the wrong way round; nil if nothing is divided
}

// Quotient returns a dividend and a divisor made from the values of quantities.
type Quotient func(value func(Quantity) length.Number) (dividend, divisor length.Number)

// Relation returns how a quantity follows from others, and whether it does.
func (f Finding) Relation(q Quantity) (Relation, bool) {
	for _, r := range f.Relations {
		if r.Is == q && r.From != nil {
			return r, true
		}
	}
	return Relation{}, false
}

// Quantity returns the value of a quantity on the instrument, lengths in its unit.
func (i *Instrument) Quantity(q Quantity) length.Number {
	s := i.spec
	switch q {
	case MainDivision:
		return s.Main.Division
	case TravelOfTurn:
		return s.Fine.Travel
	case Zeros:
		return length.Int(int64(s.Fine.Zeros))
	case Divisions:
		return length.Int(int64(i.lines))
	case FinerDivisions:
		return length.Int(int64(i.finer))
	case DivisionsCovered:
		return length.Int(int64(s.Fine.MainDivisions))
	case FineDivision:
		if i.traits.Coincides {
			return i.PlateDivision()
		}
		return i.LineWorth()
	}
	return i.leastCount
}

// over divides one quantity by another.
func over(dividend, divisor Quantity) Quotient {
	return func(value func(Quantity) length.Number) (length.Number, length.Number) {
		return value(dividend), value(divisor)
	}
}

// product divides the product of two quantities by a third.
func product(a, b, divisor Quantity) Quotient {
	return func(value func(Quantity) length.Number) (length.Number, length.Number) {
		return value(a).Mul(value(b)), value(divisor)
	}
}

func (vernierScale) Finding(i *Instrument) Finding {
	whole := []string{MainDivision}
	if j := i.form.J; j > 1 {
		whole = []string{fmt.Sprint(j), "×", MainDivision}
	}
	difference := append(whole, "−", FineDivision)
	if i.form.Retrograde {
		difference = append([]string{FineDivision, "−"}, whole...)
	}
	return Finding{
		Quantities: []Quantity{MainDivision, Divisions, DivisionsCovered, FineDivision, TheLeastCount},
		Relations: []Relation{
			{Is: MainDivision},
			{Is: FineDivision, From: []Quantity{DivisionsCovered, MainDivision, Divisions},
				Written: []string{DivisionsCovered, "×", MainDivision, "÷", Divisions},
				Value:   product(DivisionsCovered, MainDivision, Divisions), Inverted: product(Divisions, MainDivision,
					DivisionsCovered)},
			{Is: TheLeastCount, From: []Quantity{MainDivision, FineDivision, DivisionsCovered, Divisions},
				Written: difference, Value: plateDifference, Inverted: over(Divisions, MainDivision)},
		},
		Wholes: []Quantity{MainDivision, FineDivision},
		Hint:   text.New("finding.finding.hint"),
	}
}

// plateDifference is the difference between one plate division and the whole number of main divisions next to it.
func plateDifference(value func(Quantity) length.Number) (length.Number, length.Number) {
	j := length.Int(1)
	if n := value(Divisions); n.Sign() != 0 && j.Less(value(DivisionsCovered).Quo(n).Round(0)) {
		j = value(DivisionsCovered).Quo(n).Round(0)
	}
	return j.Mul(value(MainDivision)).Sub(value(FineDivision)).Abs(), length.Int(1)
}

func (thimble) Finding(i *Instrument) Finding {
	line := Relation{Is: TheLeastCount, From: []Quantity{TravelOfTurn, Divisions},
		Written: []string{TravelOfTurn, "÷", Divisions}, Value: over(TravelOfTurn, Divisions),
		Inverted: over(Divisions, TravelOfTurn)}
	f := Finding{
		Quantities: []Quantity{TravelOfTurn, Divisions, TheLeastCount}, Relations: []Relation{line},
		Wholes: []Quantity{MainDivision},
		Hint:   text.New("finding.finding.how-far-does-one"),
	}
	if i.HasFiner() {
		line.Is = FineDivision
		f.Quantities = []Quantity{TravelOfTurn, Divisions, FinerDivisions, FineDivision, TheLeastCount}
		f.Relations = []Relation{line, {Is: TheLeastCount, From: []Quantity{FineDivision, FinerDivisions},
			Written: []string{FineDivision, "÷", FinerDivisions}, Value: over(FineDivision, FinerDivisions),
			Inverted: over(FinerDivisions, FineDivision)}}
		f.Wholes = []Quantity{MainDivision, FineDivision}
	}
	return f
}

func (dial) Finding(*Instrument) Finding {
	return Finding{
		Quantities: []Quantity{TravelOfTurn, Zeros, Divisions, TheLeastCount},
		Relations: []Relation{{Is: TheLeastCount, From: []Quantity{TravelOfTurn, Zeros, Divisions},
			Written: []string{TravelOfTurn, "÷", Zeros, "÷", Divisions},
			Value: func(value func(Quantity) length.Number) (length.Number, length.Number) {
				return value(TravelOfTurn), value(Zeros).Mul(value(Divisions))
			},
			Inverted: product(Divisions, Zeros, TravelOfTurn)}},
		Wholes: []Quantity{MainDivision},
		Hint:   text.New("finding.finding.how-far-does-one-b"),
	}
}

func (digits) Finding(*Instrument) Finding { return Finding{} }

func (plainScale) Finding(*Instrument) Finding {
	one := func(value func(Quantity) length.Number) (length.Number, length.Number) {
		return value(MainDivision), length.Int(1)
	}
	return Finding{
		Quantities: []Quantity{MainDivision, TheLeastCount},
		Relations:  []Relation{{Is: MainDivision}, {Is: TheLeastCount, From: []Quantity{MainDivision}, Value: one}},
		Hint:       text.New("finding.finding.there-no-fine-scale"),
	}
}
