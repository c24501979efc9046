package ui

import (
	"net/http"
	"net/url"
	"strconv"
)

// Shown is the part of a long table that a page has: rows from the first on. The rest comes as it is scrolled to.
type Shown struct {
	From, To int // rows of this answer, as indices
	All      int
	More     string // address of a page with more rows, and of one with all; "" where there are no more
	Whole    string
	Columns  int // of the table
}

// RowsOf is the number of rows that a table of so many columns gets each time.
func RowsOf(columns int) int { return max(12, 800/max(columns, 1)) }

// TallRows is the same for rows of several lines, or with a drawing.
const TallRows = 12

// ShownOf reads how many of a table's rows a page is to have, at least so many, and whether only those from one on are
// asked for, for a page that has the others: then the address has from. A page that is opened has half as many as come
// at once later: a browser lays them out together with the rest of the page.
func ShownOf(r *http.Request, all, least, columns, atOnce int) Shown {
	q := r.URL.Query()
	number := func(name string) int {
		n, _ := strconv.Atoi(q.Get(name))
		return min(max(n, 0), all)
	}
	s := Shown{From: number("from"), To: min(max(number("shown"), least, atOnce/2), all), All: all, Columns: columns}
	if q.Get("shown") == "all" || r.Method == http.MethodPost { // a link would lead to the address of the form
		s.To = all
	}
	s.From = min(s.From, s.To)
	if s.To < all {
		s.More, s.Whole = shownAs(q, strconv.Itoa(s.To+atOnce)), shownAs(q, "all")
	}
	return s
}

// shownAs is the address of the same page with so many rows.
func shownAs(q url.Values, rows string) string {
	out := url.Values{}
	for name, values := range q {
		if name != "from" && name != "at" {
			out[name] = values
		}
	}
	out.Set("shown", rows)
	return "?" + out.Encode()
}

// Continues reports whether a request asks for more rows of a page that is there. Rows that are fetched anew are taken
// from a page, as all that takes the place of what is there.
func Continues(r *http.Request) bool {
	return r.URL.Query().Has("from") && r.Header.Get("X-Alpine-Request") == ""
}
