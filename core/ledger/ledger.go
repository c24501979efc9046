// Package ledger knows how a term's marks come together: what each sheet weighs, who is excused, what is not handed in, and
// the total that follows. The rule is the same for everybody and can be said in two sentences, which Rule does.
package ledger

import "cavix/core/length"

// Rule says how a total is made, as it stands beside it.
const Rule = "The total is the mean of the shares of marks, each sheet as often as it weighs. Excused sheets and sheets that " +
	"are still open and not begun are left out; one that has closed without being begun counts nothing."

// MaxWeight is the most that a sheet can weigh; a weight of 0 leaves it out of the total.
const MaxWeight = 20

// Sheet is a sheet of the term.
type Sheet struct {
	Weight int
	Closed bool // nothing more can be handed in
}

// Mark is what a student came to on a sheet.
type Mark struct {
	Earned, Of length.Number // of the cards answered
	Excused    bool
}

// Begun reports whether anything was answered that marks are given for.
func (m Mark) Begun() bool { return m.Of.Sign() > 0 }

// Total is a student's total by the rule, as a share of 1. It is not ok where nothing counts yet. Marks are those of the
// sheets, in the same order.
func Total(sheets []Sheet, marks []Mark) (share length.Number, ok bool) {
	var sum length.Number
	weight := 0
	for i, s := range sheets {
		m := marks[i]
		switch {
		case m.Excused || s.Weight == 0 || !m.Begun() && !s.Closed:
			continue
		case m.Begun():
			sum = sum.Add(m.Earned.Quo(m.Of).MulInt(s.Weight))
		}
		weight += s.Weight
	}
	if weight == 0 {
		return length.Number{}, false
	}
	return sum.Quo(length.Int(int64(weight))), true
}
