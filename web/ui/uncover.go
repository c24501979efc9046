package ui

import "cavix/core/text"

// Part is one step of a reading, as it is uncovered.
type Part struct {
	Name   text.Text // while it is covered too
	Worked text.Text // its name with its numbers, once it is uncovered; nothing is the name
	Value  text.Text
	Says   text.Text // how it is seen
	Total  bool
	Shown  bool
}

// Uncovered are the steps of a reading, some of them covered.
type Uncovered struct {
	ID      string // of what they belong to
	Parts   []Part
	Uncover int  // how many are uncovered
	Covered bool // some are covered
}

// Uncover uncovers so many steps, as far as there are.
func Uncover(id string, parts []Part, n int) Uncovered {
	n = max(0, min(n, len(parts)))
	for i := range parts {
		parts[i].Shown = i < n
		if parts[i].Shown && !parts[i].Worked.IsZero() {
			parts[i].Name = parts[i].Worked
		}
	}
	return Uncovered{id, parts, n, n < len(parts)}
}
