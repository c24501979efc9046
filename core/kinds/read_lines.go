package kinds

import (
	"slices"

	"cavix/core/exercise"
	"cavix/core/slips"
	"cavix/core/text"
)

// Lines lays the asked steps out as the work goes: the main reading, line × least count = fine,
// base + main + fine = observed, observed − (zero error) = corrected. Every line is a true equation and
// begins with what was found before. On a closed card, where two ways of counting are right, the
// boxes stand alone.
func (r *Reading) Lines() []exercise.Line {
	if r.Closed { // of one plate or both
		var out []exercise.Line
		for _, s := range r.Ask {
			out = append(out, lineOf(box(s)))
		}
		return out
	}
	l := laying{Reading: r}
	l.lay()
	return l.out
}

func box(s string) exercise.Term   { return exercise.Term{Box: s} }
func op(s string) exercise.Term    { return exercise.Term{Operator: s} }
func given(s string) exercise.Term { return exercise.Term{Given: text.Math(s)} }

func lineOf(terms ...exercise.Term) exercise.Line { return exercise.Line{Terms: terms} }

// laying lays out the equations of a reading.
type laying struct {
	*Reading
	out []exercise.Line
}

func (l *laying) add(terms ...exercise.Term) { l.out = append(l.out, lineOf(terms...)) }

// known is a step as a later equation shows it.
func (l *laying) known(s string) exercise.Term {
	switch {
	case l.asks(s):
		return exercise.Term{Echo: s}
	case s == slips.LeastCount:
		return given(l.Instrument.FormatMain(l.Instrument.LeastCount()))
	}
	return exercise.Term{Word: text.ShortWord(l.place().Term(s))}
}

// product lays out line × worth = length, or returns what of it stands in the sum.
func (l *laying) product(line, length string, worth exercise.Term) []exercise.Term {
	switch {
	case l.asks(line) && l.asks(length):
		l.add(box(line), op("×"), worth, op("="), box(length))
	case l.asks(line):
		return []exercise.Term{box(line), op("×"), worth}
	case l.asks(length) && l.asks(slips.Observed):
		return []exercise.Term{box(length)}
	case l.asks(length):
		l.add(box(length))
	}
	return nil
}

func (l *laying) lay() {
	in := l.Instrument
	if l.asks(slips.LeastCount) {
		l.add(box(slips.LeastCount))
	}
	main := l.known(slips.Main)
	switch {
	case l.asks(slips.Main) && (l.asks(slips.Fine) || l.asks(slips.Finer) || !l.asks(slips.FineLine) &&
		!l.asks(slips.Observed)):
		l.add(box(slips.Main))
	case l.asks(slips.Main):
		main = box(slips.Main)
	}
	counted := []exercise.Term{l.known(slips.Fine)}
	worth := l.known(slips.LeastCount)
	if in.HasFiner() {
		worth = given(in.FormatMain(in.LineWorth()))
	}
	if p := l.product(slips.FineLine, slips.Fine, worth); p != nil {
		counted = p
	}
	if in.HasFiner() {
		more := []exercise.Term{l.known(slips.Finer)}
		if p := l.product(slips.FinerLine, slips.Finer, l.known(slips.LeastCount)); p != nil {
			more = p
		}
		counted = append(append(counted, op("+")), more...)
	}
	l.sum(main, counted)
	l.correct()
	l.opposite()
}

// opposite lays out what is read on the opposite plate, and the mean of both.
func (l *laying) opposite() {
	b := func(step string) string { return step + slips.PlateB }
	main, line, sum := l.asks(b(slips.Main)), l.asks(b(slips.FineLine)), l.asks(b(slips.Observed))
	switch {
	case main && line && sum:
		l.add(box(b(slips.Main)), op("+"), box(b(slips.FineLine)), op("×"), l.known(slips.LeastCount), op("="),
			box(b(slips.Observed)))
	default:
		for _, step := range []string{slips.Main, slips.FineLine, slips.Observed} {
			if l.asks(b(step)) {
				l.add(box(b(step)))
			}
		}
	}
	if l.asks(slips.Mean) {
		l.add(box(slips.Mean))
	}
}

// sum lays out base + main + what was counted = observed.
func (l *laying) sum(main exercise.Term, counted []exercise.Term) {
	in := l.Instrument
	// A line whose product stands in the sum.
	loose := l.asks(slips.FineLine) && !l.asks(slips.Fine) || l.asks(slips.FinerLine) && !l.asks(slips.Finer)
	parts := slices.ContainsFunc([]string{slips.Main, slips.FineLine, slips.Fine, slips.FinerLine, slips.Finer},
		l.asks)
	total := l.known(slips.Observed)
	if l.asks(slips.Observed) {
		total = box(slips.Observed)
	}
	switch {
	case !l.asks(slips.Observed) && !loose:
	case !in.HasFine() && l.asks(slips.Observed), !parts:
		if main.Box != "" {
			l.add(main)
		}
		l.add(total)
	default:
		var terms []exercise.Term
		if b := in.Spec().Base; b.Sign() != 0 {
			terms = append(terms, given(in.FormatMain(b)), op("+"))
		}
		if !in.Traits().Signed { // which has no main reading
			terms = append(terms, main, op("+"))
		}
		terms = append(terms, counted...)
		l.add(append(terms, op("="), total)...)
	}
}

// correct lays out observed − (zero error) = corrected.
func (l *laying) correct() {
	switch {
	case l.asks(slips.Corrected):
		zero := box(slips.ZeroError)
		if !l.asks(slips.ZeroError) {
			zero = given(l.place().Text(slips.ZeroError, l.place().ZeroTerm()))
		}
		sign := "−"
		if l.Method.Correction() {
			sign = "+"
		}
		l.add(l.known(slips.Observed), op(sign), op("("), zero, op(")"), op("="), box(slips.Corrected))
	case l.asks(slips.ZeroError):
		l.add(box(slips.ZeroError))
	}
}
