package instrument

import "cavix/core/text"

// Form tells how a vernier's plate is cut: n divisions over J·n−1 main divisions (direct) or J·n+1
// (retrograde). J = 1 is the short form, J = 2 the long one, whose lines stand wider apart.
type Form struct {
	J          int
	Retrograde bool
}

// Text names the form as an instructor would.
func (f Form) Text() text.Text {
	key := "form.short"
	switch {
	case f.Retrograde && f.J == 1:
		key = "form.retrograde"
	case f.Retrograde && f.J == 2:
		key = "form.long-retrograde"
	case f.Retrograde:
		return text.New("form.fold-retrograde", "times", f.J)
	case f.J == 2:
		key = "form.long"
	case f.J > 2:
		return text.New("form.fold", "times", f.J)
	}
	return text.New(key)
}

// MainDivisions returns the main divisions that n plate divisions cover in this form.
func (f Form) MainDivisions(n int) int {
	if f.Retrograde {
		return f.J*n + 1
	}
	return f.J*n - 1
}

// FormOf returns the form of a plate of n divisions over m main divisions, and false when such a
// plate is no vernier. Where both forms fit (n = 2), it is direct.
func FormOf(n, m int) (Form, bool) {
	if n < 2 || m < 1 {
		return Form{}, false
	}
	if (m+1)%n == 0 {
		return Form{J: (m + 1) / n}, true
	}
	if m > n && (m-1)%n == 0 {
		return Form{J: (m - 1) / n, Retrograde: true}, true
	}
	return Form{}, false
}

// NearestSpans returns the usable span nearest to m for n ≥ 2 lines. Of two that are equally near the
// direct one wins, and of two direct ones the shorter.
func NearestSpans(n, m int) int {
	best, bestOff := n-1, -1
	for j := max(1, m/n-1); j <= m/n+2; j++ {
		for _, f := range []Form{{J: j}, {J: j, Retrograde: true}} {
			off := f.MainDivisions(n) - m
			if off < 0 {
				off = -off
			}
			better := bestOff < 0 || off < bestOff
			if off == bestOff && !f.Retrograde {
				was, _ := FormOf(n, best)
				better = was.Retrograde
			}
			if better {
				best, bestOff = f.MainDivisions(n), off
			}
		}
	}
	return best
}
