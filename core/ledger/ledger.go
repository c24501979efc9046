// Package ledger knows how a term's marks come together: the share of marks of each sheet, and the total of a student.
package ledger

import (
	"cavix/core/length"
	"cavix/core/text"
)

// Rule says how a total is made, as it stands beside it.
var Rule = text.New("ledger.rule")

// MaxWeight is the most that a sheet can weigh; a weight of 0 leaves it out of the total.
const MaxWeight = 20

// Mark holds the marks of a student on a sheet, by the attempt that counts.
type Mark struct {
	Earned   length.Number
	Answered length.Number // full marks of the cards answered
	Full     length.Number // full marks of all cards; 0 where the sheet was never begun
	Done     int           // cards answered
	Cards    int           // cards of the sheet
	Ended    bool          // closed, handed in or entered from paper
	Excused  bool
	Moved    bool // the student has moved to another class
}

// Begun reports whether the student has been dealt the sheet.
func (m Mark) Begun() bool { return m.Full.Sign() > 0 }

// IsOpen reports whether the share may still change because the student is not done with all cards.
func (m Mark) IsOpen() bool { return m.Begun() && !m.Ended && m.Done < m.Cards }

// Of returns the full marks that Earned is out of: of all cards once the sheet has ended, and of the cards answered
// before.
func (m Mark) Of() length.Number {
	if m.IsOpen() {
		return m.Answered
	}
	return m.Full
}

// Share returns the marks earned as a share of 1. It is not ok where the sheet does not count.
func (m Mark) Share() (share length.Number, ok bool) {
	switch of := m.Of(); {
	case m.Excused, m.Moved && !m.Begun():
		return length.Number{}, false
	case of.Sign() > 0:
		return m.Earned.Quo(of), true
	default:
		return length.Number{}, m.Ended
	}
}

// Sum is the total of a student.
type Sum struct {
	Share  length.Number // of 1
	Counts bool          // any sheet counts yet
	Done   int           // cards answered of the sheets that count and are open
	Cards  int           // cards of these sheets
}

// Total returns the total of a student by the rule. The weights are those of the sheets of the marks, in the same
// order.
func Total(weights []int, marks []Mark) (sum Sum) {
	weight := 0
	for i, m := range marks {
		share, ok := m.Share()
		if !ok || weights[i] == 0 {
			continue
		}
		sum.Share = sum.Share.Add(share.MulInt(weights[i]))
		weight += weights[i]
		if m.IsOpen() {
			sum.Done, sum.Cards = sum.Done+m.Done, sum.Cards+m.Cards
		}
	}
	if sum.Counts = weight > 0; sum.Counts {
		sum.Share = sum.Share.Quo(length.Int(int64(weight)))
	}
	return sum
}
