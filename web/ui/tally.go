package ui

import (
	"cmp"
	"slices"

	"cavix/core/length"
	"cavix/core/text"
)

// SlipCount says how often a slip was the first on a card, and who made it.
type SlipCount struct {
	Slip  string
	Count int
	Who   []string
	More  int // besides those in Who

	counted map[string]bool // who is in Who
}

// SlipTally counts slips.
type SlipTally map[string]*SlipCount

// Add counts a slip, with who made it.
func (t SlipTally) Add(slip, who string) {
	if slip == "" {
		return
	}
	c, ok := t[slip]
	if !ok {
		c = &SlipCount{Slip: slip, counted: map[string]bool{}}
		t[slip] = c
	}
	c.Count++
	if who != "" && !c.counted[who] {
		c.counted[who], c.Who = true, append(c.Who, who)
	}
}

// named bounds those who are named.
const named = 40

// Ranked lists the slips, the most frequent first.
func (t SlipTally) Ranked() []SlipCount {
	var out []SlipCount
	for _, c := range t {
		one := *c
		one.More = max(0, len(c.Who)-named)
		one.Who = c.Who[:len(c.Who)-one.More]
		out = append(out, one)
	}
	slices.SortFunc(out, func(a, b SlipCount) int {
		return cmp.Or(cmp.Compare(b.Count, a.Count), cmp.Compare(a.Slip, b.Slip))
	})
	return out
}

// PerCent writes a share of marks.
func PerCent(marks, of length.Number) text.Math {
	if of.Sign() == 0 {
		return "–"
	}
	return text.Math(marks.MulInt(100).Quo(of).Text(0) + " %")
}
