package survey

import (
	"cmp"
	"slices"
)

// Table are the readings of a study as they came: by part and reader, each by its name.
type Table struct {
	Parts, Readers []string
	Cells          [][]Values // by part, then reader; a cell may be empty, or have fewer repeats than others
}

// Left lists the parts and appraisers left out of a study because of an empty cell.
type Left struct {
	Reader   bool // or else a part
	Name     string
	Readings int // that were left out with it
}

// Complete leaves out readers and parts until every cell is filled: of those with a cell that is not, each time the one
// that costs the fewest readings, of equals a reader, then the one whose name comes first. A cell is filled when it has
// as many repeats as the fullest.
func (t Table) Complete() (Table, []Left) {
	full := 0
	for _, row := range t.Cells {
		for _, c := range row {
			full = max(full, len(c))
		}
	}
	var left []Left
	for full > 0 {
		worst, at := t.worst(full)
		if at < 0 {
			break
		}
		left = append(left, worst)
		t = t.without(worst.Reader, at)
	}
	return t, left
}

// worst is the reader or part to be left out next, and where it stands; −1 where every cell is filled.
func (t Table) worst(full int) (worst Left, at int) {
	at = -1
	offer := func(l Left, missing bool, i int) {
		if !missing {
			return
		}
		order := cmp.Or(cmp.Compare(l.Readings, worst.Readings), compareReader(l, worst),
			cmp.Compare(l.Name, worst.Name))
		if at < 0 || order < 0 {
			worst, at = l, i
		}
	}
	for j, name := range t.Readers {
		n, missing := 0, false
		for i := range t.Parts {
			n, missing = n+len(t.Cells[i][j]), missing || len(t.Cells[i][j]) < full
		}
		offer(Left{true, name, n}, missing, j)
	}
	for i, name := range t.Parts {
		n, missing := 0, false
		for j := range t.Readers {
			n, missing = n+len(t.Cells[i][j]), missing || len(t.Cells[i][j]) < full
		}
		offer(Left{false, name, n}, missing, i)
	}
	return worst, at
}

// compareReader has a reader come before a part.
func compareReader(a, b Left) int {
	switch {
	case a.Reader == b.Reader:
		return 0
	case a.Reader:
		return -1
	}
	return 1
}

// without is the table without a reader or a part.
func (t Table) without(reader bool, at int) Table {
	if !reader {
		return Table{slices.Delete(slices.Clone(t.Parts), at, at+1), t.Readers, slices.Delete(slices.Clone(t.Cells), at,
			at+1)}
	}
	out := Table{Parts: t.Parts, Readers: slices.Delete(slices.Clone(t.Readers), at, at+1)}
	for _, row := range t.Cells {
		out.Cells = append(out.Cells, slices.Delete(slices.Clone(row), at, at+1))
	}
	return out
}
