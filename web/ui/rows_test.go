package ui

import (
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Of 100 rows a page that is opened has ten, and its link twenty more; what an address asks for beyond the table is not
// there.
func TestRowsOfALongTable(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		method, address string
		least           int
		want            Shown
	}{
		{"GET", "/t", 0, Shown{From: 0, To: 10, More: "?shown=30", Whole: "?shown=all"}},
		{"GET", "/t", 15, Shown{From: 0, To: 15, More: "?shown=35", Whole: "?shown=all"}},
		{"GET", "/t?sort=name&shown=30", 0, Shown{To: 30, More: "?shown=50&sort=name", Whole: "?shown=all&sort=name"}},
		{"GET", "/t?shown=30&from=10&at=s7", 0, Shown{From: 10, To: 30, More: "?shown=50", Whole: "?shown=all"}},
		{"GET", "/t?shown=90&from=95", 0, Shown{From: 90, To: 90, More: "?shown=110", Whole: "?shown=all"}},
		{"GET", "/t?shown=all", 0, Shown{To: 100}},
		{"GET", "/t?shown=1000000000000000000000&from=-1", 0, Shown{To: 100}},
		{"GET", "/t?shown=x", 0, Shown{To: 10, More: "?shown=30", Whole: "?shown=all"}},
		{"POST", "/t/give", 0, Shown{To: 100}}, // a link would lead to the form's address
	} {
		c.want.All, c.want.Columns = 100, 40
		got := ShownOf(httptest.NewRequest(c.method, c.address, nil), 100, c.least, 40, 20)
		assert.Equal(t, c.want, got, "%s %s", c.method, c.address)
	}
}
