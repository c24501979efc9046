package marking

import (
	"cavix/core/instrument"
	"cavix/core/length"
)

// Solution is one right way to answer a card. Most cards have one; a tie has two, and so has a closed
// instrument that shows less than nothing.
type Solution struct {
	instrument.Reading
	// FromEnd: a negative zero counted back from the last line, so that Main is one cycle
	// higher, Line is n − k and Fine is negative.
	FromEnd bool

	card  *Card
	shown instrument.Reading // as the figure stands, whatever the way of counting
}

// Solutions returns the right ways to answer the card, the one that the class explains first.
func (c *Card) Solutions() ([]Solution, error) {
	r, err := c.reading()
	if err != nil {
		return nil, err
	}
	in := c.Instrument
	if c.Closed {
		signed := Solution{Reading: r, shown: r, card: c}
		if e := r.ZeroError; e.Sign() >= 0 || r.Line == 0 || !in.Cycle().Neg().Less(e) || !in.HasFine() {
			return []Solution{signed}, nil
		}
		back := signed
		back.FromEnd = true
		back.Main = r.Main.Add(in.Cycle())
		back.Line = in.Lines() - r.Line
		if r.Tenth != 0 {
			back.Line, back.Tenth = back.Line-1, 10-r.Tenth
		}
		back.Fine = r.Fine.Sub(in.Cycle())
		if c.Method.NegativeZero == "signed-main" {
			return []Solution{signed, back}, nil
		}
		return []Solution{back, signed}, nil
	}
	lower := Solution{Reading: r, shown: r, card: c}
	if !r.Tie {
		return []Solution{lower}, nil
	}
	above := in.Above(r)
	upper := Solution{Reading: above, shown: above, card: c}
	switch c.Method.Tie {
	case "lower":
		return []Solution{lower}, nil
	case "upper":
		return []Solution{upper}, nil
	case "unfavourable":
		if c.Limits == nil {
			return []Solution{lower, upper}, nil
		}
		switch c.room(lower).Cmp(c.room(upper)) {
		case -1:
			return []Solution{lower}, nil
		case 1:
			return []Solution{upper}, nil
		}
	}
	return []Solution{lower, upper}, nil
}

// room is how far a solution's corrected reading stays inside the limits, at its nearer one.
func (c *Card) room(s Solution) length.Number {
	low, high := s.Corrected.Sub(c.Limits.Lower), c.Limits.Upper.Sub(s.Corrected)
	if low.Less(high) {
		return low
	}
	return high
}

// Value returns what a step should hold: a length in the instrument's unit, or the line's number.
func (s Solution) Value(step Step) length.Number {
	switch step {
	case LeastCount:
		return s.card.Instrument.LeastCount()
	case Main:
		return s.Main
	case FineLine:
		return s.LineNumber()
	case Fine:
		return s.Fine
	case FinerLine:
		return length.Int(int64(s.FinerLine))
	case Finer:
		return s.Finer
	case Observed:
		return s.Observed
	case ZeroError:
		return s.card.zeroTerm()
	case Corrected:
		return s.Corrected
	}
	panic("marking: unknown step " + string(step))
}

// zeroTerm is the zero error, or the correction where the class records that.
func (c *Card) zeroTerm() length.Number {
	e := c.Instrument.Spec().ZeroError
	if c.Method.correction() {
		return e.Neg()
	}
	return e
}

// Text writes a step's value as the card should be filled in: in the instrument's decimals, and a positive
// zero error with its plus where the school wants it.
func (c *Card) Text(step Step, x length.Number) string {
	switch step {
	case LeastCount, Main, FinerLine:
		return c.Instrument.FormatMain(x)
	case FineLine:
		if c.tenths() {
			return x.Text(1)
		}
		return x.String()
	}
	text := c.Instrument.FormatBy(x, c.Method.Between)
	if step == ZeroError && x.Sign() > 0 && c.Method.ZeroSign != "optional" {
		text = "+" + text
	}
	return text
}

// exactly is what a step should hold at the true position, before any estimate: what tenths are judged
// against.
func (s Solution) exactly(step Step) length.Number {
	off := s.shown.Indicated.Sub(s.shown.Observed)
	switch step {
	case FineLine:
		if s.FromEnd {
			off = off.Neg()
		}
		return s.Value(step).Add(off.Quo(s.card.Instrument.LineWorth()))
	case Fine, Observed, Corrected:
		return s.Value(step).Add(off)
	}
	return s.Value(step)
}
