package kinds_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/kinds"
)

// layout writes the equations of a card in one line: [box], {echo}, numbers and words as they are.
func layout(c *kinds.Reading) string {
	var sums []string
	for _, sum := range c.Lines() {
		var terms []string
		for _, t := range sum.Terms {
			switch {
			case t.Box != "":
				terms = append(terms, "["+t.Box+"]")
			case t.Echo != "":
				terms = append(terms, "{"+t.Echo+"}")
			default:
				terms = append(terms, t.Operator+string(t.Given)+said(t.Word))
			}
		}
		sums = append(sums, strings.Join(terms, " "))
	}
	return strings.Join(sums, " · ")
}

func TestSums(t *testing.T) {
	for _, tt := range []struct{ ask, more, want string }{
		{"main", "", "[main]"},
		{"main fine_line", "", "[main] + [fine_line] × 0.05 = observed"},
		{"main fine_line observed", "", "[main] + [fine_line] × 0.05 = [observed]"},
		{"fine_line observed", "", "main + [fine_line] × 0.05 = [observed]"},
		{"main fine_line fine observed", "", "[main] · [fine_line] × 0.05 = [fine] · {main} + {fine} = [observed]"},
		{"main fine observed", "", "[main] · {main} + [fine] = [observed]"},
		{"main fine", "", "[main] · [fine]"},
		{"fine_line fine", "", "[fine_line] × 0.05 = [fine]"},
		{"observed", "", "[observed]"},
		{"least_count main fine_line observed", "",
			"[least_count] · [main] + [fine_line] × {least_count} = [observed]"},
		{"observed zero_error corrected", "", "[observed] · {observed} − ( [zero_error] ) = [corrected]"},
		{"corrected", "", "observed − ( -0.10 ) = [corrected]"},
		{"observed corrected", `,"method":{"zero_term":"correction"}`,
			"[observed] · {observed} + ( +0.10 ) = [corrected]"},
		{"zero_error", "", "[zero_error]"},
	} {
		assert.Equal(t, tt.want, layout(twentieth(t, "-0.10", "0", at4735, tt.ask, tt.more)), tt.ask)
	}
	assert.Equal(t, "25 + [main] + [fine_line] × 0.05 = [observed]",
		layout(twentieth(t, "0", "25", `"indicated":"72.35"`, "main fine_line observed", "")))
	assert.Equal(t, "[main] · [fine_line] · [zero_error]",
		layout(twentieth(t, "-0.10", "0", `"closed":true`, "main fine_line zero_error", "")))
}
