package figure

import "unicode/utf8"

// uncut leaves out the numerals that an edge of the figure cuts, unless no other is in sight whole. Those out of sight
// stay, as a page may move them into it.
func uncut(numerals []Item, left, right float64) []Item {
	var out []Item
	whole := 0
	for _, it := range numerals {
		t, ok := it.(Text)
		half := t.Size * digitWidth * float64(utf8.RuneCountInString(t.S)) / 2
		switch {
		case !ok || t.X+half < left || right < t.X-half:
		case left <= t.X-half && t.X+half <= right:
			whole++
		default:
			continue
		}
		out = append(out, it)
	}
	if whole == 0 {
		return numerals
	}
	return out
}
