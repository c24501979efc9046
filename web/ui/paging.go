package ui

import (
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"cavix/core/text"
	"cavix/school/rack"
)

// deepest bounds how far into a list a page is opened.
const deepest = 100_000

// Turn is a part of a long list, and the way to its neighbours.
type Turn struct {
	Before, After string       // addresses; "" where there is nothing
	Holds         string       // what the names on it hold, as typed
	Filters       []OptionView // what the list can be narrowed to; nil for a list that is only searched
	Orders        []OptionView
}

// Narrowed reports whether less than the whole list was asked for.
func (t Turn) Narrowed() bool {
	on := func(o OptionView) bool { return o.On && o.Value != "" }
	return t.Holds != "" || slices.ContainsFunc(t.Filters, on)
}

// searched is from how many entries on a list can be searched and put in order.
const searched = 12

// Long reports whether a list of so many entries wants a search: it is long, or has been narrowed.
func (t Turn) Long(all int) bool { return all > searched || t.Narrowed() }

// PartOf reads which part of a list is asked for, with its order and one of the filters.
func PartOf(r *http.Request, at string, perPage int, filters []OptionView) (p rack.Part, turn func(more bool) Turn) {
	q := r.URL.Query()
	p = rack.Part{Holds: Sought(r), Newest: q.Get("order") == "newest", Skip: Skipped(r), Most: perPage}
	for i := range filters {
		if filters[i].On = filters[i].Value == q.Get("show"); filters[i].On {
			p.Filter = filters[i].Value
		}
	}
	keep := url.Values{"q": {p.Holds}, "show": {p.Filter}}
	if p.Newest {
		keep.Set("order", "newest")
	}
	return p, func(more bool) Turn {
		t := TurnOf(at, keep, p.Skip, perPage, more)
		t.Filters = filters
		t.Orders = []OptionView{{Value: "", Text: text.New("ui.paging.by-name"), On: !p.Newest},
			{Value: "newest", Text: text.New("ui.paging.part-of.last-changed-first"), On: p.Newest}}
		return t
	}
}

// Skipped reads how many lines of a list are passed over.
func Skipped(r *http.Request) int {
	skip, err := strconv.Atoi(r.URL.Query().Get("skip"))
	if err != nil || skip < 0 || skip > deepest {
		return 0
	}
	return skip
}

// TurnOf makes the way from a part of a list to its neighbours: keep stays in their addresses. More tells whether there
// are lines after those of this part, of which there are so many on a page.
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
