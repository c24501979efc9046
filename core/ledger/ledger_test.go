package ledger_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/ledger"
	"cavix/core/length"
)

// ten is a sheet of ten cards of two marks each, so many of them answered.
func ten(done int, earned int64, change ...func(*ledger.Mark)) ledger.Mark {
	m := ledger.Mark{Earned: length.Int(earned), Answered: length.Int(int64(2 * done)), Full: length.Int(20),
		Done: done, Cards: 10}
	for _, c := range change {
		c(&m)
	}
	return m
}

func ended(m *ledger.Mark)   { m.Ended = true }
func excused(m *ledger.Mark) { m.Excused = true }
func moved(m *ledger.Mark)   { m.Moved = true }

var neverBegun = ledger.Mark{Cards: 10}

func closedNeverBegun(change ...func(*ledger.Mark)) ledger.Mark {
	m := ledger.Mark{Cards: 10, Ended: true}
	for _, c := range change {
		c(&m)
	}
	return m
}

func TestShareOfASheet(t *testing.T) {
	for name, tt := range map[string]struct {
		mark ledger.Mark
		want string // "" where the sheet does not count
		open bool
	}{
		"open, six of ten cards":        {ten(6, 12), "1", true},
		"open, dealt and not answered":  {ten(0, 0), "", true},
		"open, all cards answered":      {ten(10, 15), "0.75", false},
		"closed, six of ten cards":      {ten(6, 12, ended), "0.6", false},
		"closed, dealt, none answered":  {ten(0, 0, ended), "0", false},
		"handed in, all cards answered": {ten(10, 15, ended), "0.75", false},
		"from paper, 3 of 128 marks": {ledger.Mark{Earned: length.Int(3), Answered: length.Int(5),
			Full: length.Int(128), Done: 1, Cards: 32, Ended: true}, "0.0234375", false},
		"excused, never begun":       {closedNeverBegun(excused), "", false},
		"excused, though answered":   {ten(10, 20, ended, excused), "", false},
		"moved before beginning":     {closedNeverBegun(moved), "", false},
		"moved after handing in":     {ten(6, 12, ended, moved), "0.6", false},
		"moved while it was open":    {ten(6, 12, moved), "1", true},
		"never begun, still open":    {neverBegun, "", false},
		"never begun, closed by now": {closedNeverBegun(), "0", false},
	} {
		share, ok := tt.mark.Share()
		assert.Equal(t, tt.want != "", ok, name)
		if ok {
			assert.Equal(t, tt.want, share.String(), name)
		}
		assert.Equal(t, tt.open, tt.mark.IsOpen(), name)
	}
}

func TestTotal(t *testing.T) {
	for name, tt := range map[string]struct {
		weights []int
		marks   []ledger.Mark
		want    string
		cards   string // of open sheets
	}{
		"nothing yet":          {[]int{1}, []ledger.Mark{neverBegun}, "", "0/0"},
		"weights":              {[]int{1, 3}, []ledger.Mark{ten(10, 0, ended), ten(10, 20, ended)}, "0.75", "0/0"},
		"open and not begun":   {[]int{1, 1}, []ledger.Mark{ten(10, 20, ended), neverBegun}, "1", "0/0"},
		"closed and not begun": {[]int{1, 1}, []ledger.Mark{ten(10, 20, ended), closedNeverBegun()}, "0.5", "0/0"},
		"excused":              {[]int{1, 3}, []ledger.Mark{ten(10, 20, ended), ten(3, 1, ended, excused)}, "1", "0/0"},
		"weighs nothing":       {[]int{1, 0}, []ledger.Mark{ten(10, 10, ended), ten(4, 8)}, "0.5", "0/0"},
		"open sheets are told": {[]int{1, 1, 1}, []ledger.Mark{ten(6, 12), ten(4, 4), ten(10, 20, ended)}, "0.83",
			"10/20"},
	} {
		sum := ledger.Total(tt.weights, tt.marks)
		assert.Equal(t, tt.want != "", sum.Counts, name)
		if sum.Counts {
			assert.Equal(t, tt.want, sum.Share.Round(2).String(), name)
		}
		assert.Equal(t, tt.cards, fmt.Sprintf("%d/%d", sum.Done, sum.Cards), name)
	}
}

func ExampleTotal() {
	sum := ledger.Total([]int{1, 2}, []ledger.Mark{ten(5, 9), ten(8, 12, ended)})
	fmt.Printf("%s %%, %d of %d cards\n", sum.Share.MulInt(100).Text(1), sum.Done, sum.Cards)
	// Output: 70.0 %, 5 of 10 cards
}
