package demo

import (
	"math/rand/v2"
	"strings"

	"cavix/core/exercise"
	"cavix/core/marking"
)

// answer fills in a card as somebody would who makes the slip. Without one, or where it cannot happen,
// all is right.
func answer(c *marking.Card, slip marking.Code, draws *rand.Rand) (marking.Answer, error) {
	st := exercise.Student{}
	if slip != "" {
		st = exercise.Student{Slips: []marking.Code{slip}, Often: 1}
	}
	a, _, err := st.Answer(c, draws)
	if slip == marking.DigitsSwapped && err == nil {
		last := c.Ask[len(c.Ask)-1]
		a[last] = swapped(a[last])
	}
	return a, err
}

// swapped exchanges the first two neighbouring digits that differ.
func swapped(text string) string {
	b := []byte(text)
	for i := range len(b) - 1 {
		if b[i] >= '0' && b[i] <= '9' && b[i+1] >= '0' && b[i+1] <= '9' && b[i] != b[i+1] {
			b[i], b[i+1] = b[i+1], b[i]
			break
		}
	}
	return string(b)
}

// dropZeros writes the sums without the zeros at their end, as on a pocket calculator.
func dropZeros(c *marking.Card, a marking.Answer) {
	for _, st := range []marking.Step{marking.Observed, marking.Corrected} {
		if t, ok := a[st]; ok && strings.Contains(t, ".") && c.Asks(st) {
			a[st] = strings.TrimSuffix(strings.TrimRight(t, "0"), ".")
		}
	}
}
