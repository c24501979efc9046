package ui

import (
	"net/http"
	"net/url"
	"strconv"
)

// deepest bounds how far into a list a page is opened.
const deepest = 100_000

// Turn is a part of a long list, and the way to its neighbours.
type Turn struct {
	Before, After string // addresses; "" where there is nothing
	Holds         string // what the names on it hold, as typed
}

// Skipped reads how many lines of a list are passed over.
func Skipped(r *http.Request) int {
	skip, err := strconv.Atoi(r.URL.Query().Get("skip"))
	if err != nil || skip < 0 || skip > deepest {
		return 0
	}
	return skip
}

// TurnOf makes the way from a part of a list to its neighbours: keep stays in their addresses. More tells whether there are
// lines after those of this part, of which there are so many on a page.
func TurnOf(at string, keep url.Values, skip, perPage int, more bool) Turn {
	address := func(skip int) string {
		q := url.Values{}
		for name, values := range keep {
			if values[0] != "" {
				q[name] = values
			}
		}
		if skip > 0 {
			q.Set("skip", strconv.Itoa(skip))
		}
		if len(q) == 0 {
			return at
		}
		return at + "?" + q.Encode()
	}
	p := Turn{Holds: keep.Get("q")}
	if skip > 0 {
		p.Before = address(max(0, skip-perPage))
	}
	if more {
		p.After = address(skip + perPage)
	}
	return p
}

// Sought reads what the names on a list are to hold.
func Sought(r *http.Request) string { return Clip(OneLine(r.URL.Query().Get("q")), 60) }
