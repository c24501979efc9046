package ledger_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/ledger"
	"cavix/core/length"
)

func of(earned, of int64) ledger.Mark {
	return ledger.Mark{Earned: length.Frac(earned, 2), Of: length.Int(of)}
}

func TestTotal(t *testing.T) {
	open, shut, heavy := ledger.Sheet{Weight: 1}, ledger.Sheet{Weight: 1, Closed: true}, ledger.Sheet{Weight: 3, Closed: true}
	none, excused := ledger.Mark{}, ledger.Mark{Excused: true}
	for name, tt := range map[string]struct {
		sheets []ledger.Sheet
		marks  []ledger.Mark
		want   string
	}{
		"nothing yet":              {[]ledger.Sheet{open}, []ledger.Mark{none}, ""},
		"half a mark of two":       {[]ledger.Sheet{open}, []ledger.Mark{of(1, 2)}, "0.25"},
		"weights":                  {[]ledger.Sheet{shut, heavy}, []ledger.Mark{of(0, 10), of(20, 10)}, "0.75"},
		"open and not begun":       {[]ledger.Sheet{shut, open}, []ledger.Mark{of(20, 10), none}, "1"},
		"closed and not begun":     {[]ledger.Sheet{shut, shut}, []ledger.Mark{of(20, 10), none}, "0.5"},
		"excused":                  {[]ledger.Sheet{shut, heavy}, []ledger.Mark{of(20, 10), excused}, "1"},
		"excused, though answered": {[]ledger.Sheet{shut, heavy}, []ledger.Mark{of(20, 10), {Earned: length.Int(0), Of: length.Int(5), Excused: true}}, "1"},
		"weighs nothing":           {[]ledger.Sheet{shut, {Weight: 0}}, []ledger.Mark{of(10, 10), of(20, 10)}, "0.5"},
	} {
		share, ok := ledger.Total(tt.sheets, tt.marks)
		assert.Equal(t, tt.want != "", ok, name)
		if ok {
			assert.Equal(t, tt.want, share.String(), name)
		}
	}
}

func ExampleTotal() {
	sheets := []ledger.Sheet{{Weight: 1}, {Weight: 2, Closed: true}}
	share, _ := ledger.Total(sheets, []ledger.Mark{of(9, 5), of(12, 8)})
	fmt.Println(share.MulInt(100).Text(1), "%")
	// Output: 80.0 %
}
