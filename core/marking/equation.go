package marking

// Sum is one equation of a card, as the boxes stand on the sheet: terms with the operators between them.
type Sum []Term

// Term is one piece of a Sum. Just one of its kinds is set: an operator or bracket, a box to fill in, an
// echo of what stands in an earlier box, a number printed as given, or a word for what is not asked.
type Term struct {
	Operator string // "+", "−", "×", "=", "(" or ")"
	Box      Step   // a box for this step
	Echo     Step   // what was entered for this step
	Given    string // a number the card prints, written the instrument's way
	Word     string // the name of a step that is neither asked nor given
}

// Sums lays the asked steps out as the work goes: the main reading, line × least count = fine,
// base + main + fine = observed, observed − (zero error) = corrected. Every line is a true equation and
// begins with what was found before. On a closed card, where two ways of counting are right, the
// boxes stand alone.
func (c *Card) Sums() []Sum {
	box := func(s Step) Term { return Term{Box: s} }
	op := func(s string) Term { return Term{Operator: s} }
	in := c.Instrument
	// known is a step as a later equation shows it.
	known := func(s Step) Term {
		switch {
		case c.Asks(s):
			return Term{Echo: s}
		case s == LeastCount:
			return Term{Given: in.FormatMain(in.LeastCount())}
		}
		return Term{Word: c.Method.Label(s)}
	}
	var out []Sum
	if c.Closed {
		for _, s := range c.Ask {
			out = append(out, Sum{box(s)})
		}
		return out
	}
	if c.Asks(LeastCount) {
		out = append(out, Sum{box(LeastCount)})
	}

	main, fine, finer := known(Main), known(Fine), known(Finer)
	switch {
	case c.Asks(Main) && (c.Asks(Fine) || c.Asks(Finer) || !c.Asks(FineLine) && !c.Asks(Observed)):
		out = append(out, Sum{box(Main)})
	case c.Asks(Main):
		main = box(Main)
	}
	counted := []Term{fine}
	product := func(line, length Step, worth Term) []Term {
		switch {
		case c.Asks(line) && c.Asks(length):
			out = append(out, Sum{box(line), op("×"), worth, op("="), box(length)})
		case c.Asks(line):
			return []Term{box(line), op("×"), worth}
		case c.Asks(length) && c.Asks(Observed):
			return []Term{box(length)}
		case c.Asks(length):
			out = append(out, Sum{box(length)})
		}
		return nil
	}
	worth := known(LeastCount)
	if in.HasFiner() {
		worth = Term{Given: in.FormatMain(in.LineWorth())}
	}
	if p := product(FineLine, Fine, worth); p != nil {
		counted = p
	}
	if in.HasFiner() {
		more := []Term{finer}
		if p := product(FinerLine, Finer, known(LeastCount)); p != nil {
			more = p
		}
		counted = append(append(counted, op("+")), more...)
	}
	loose := c.Asks(FineLine) && !c.Asks(Fine) || c.Asks(FinerLine) && !c.Asks(Finer) // a line whose product stands in the sum
	parts := c.Asks(Main) || c.Asks(FineLine) || c.Asks(Fine) || c.Asks(FinerLine) || c.Asks(Finer)
	switch total := known(Observed); {
	case !c.Asks(Observed) && !loose:
	case !in.HasFine() && c.Asks(Observed), !parts:
		if c.Asks(Observed) {
			total = box(Observed)
		}
		if main.Box != "" {
			out = append(out, Sum{main})
		}
		out = append(out, Sum{total})
	default:
		if c.Asks(Observed) {
			total = box(Observed)
		}
		var sum Sum
		if b := in.Spec().Base; b.Sign() != 0 {
			sum = append(sum, Term{Given: in.FormatMain(b)}, op("+"))
		}
		sum = append(append(sum, main, op("+")), counted...)
		out = append(out, append(sum, op("="), total))
	}

	if c.Asks(Corrected) {
		zero := box(ZeroError)
		if !c.Asks(ZeroError) {
			zero = Term{Given: c.Text(ZeroError, c.zeroTerm())}
		}
		sign := "−"
		if c.Method.correction() {
			sign = "+"
		}
		out = append(out, Sum{known(Observed), op(sign), op("("), zero, op(")"), op("="), box(Corrected)})
	} else if c.Asks(ZeroError) {
		out = append(out, Sum{box(ZeroError)})
	}
	return out
}
