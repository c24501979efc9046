package demo

import (
	"math/rand/v2"
	"strings"

	"cavix/core/exercise"
	"cavix/core/slips"
)

// answer fills in a card as somebody would who makes the slip. Without one, or where it cannot happen,
// all is right.
func answer(it exercise.Item, slip exercise.Code, draws *rand.Rand) (exercise.Answer, error) {
	st := exercise.Student{}
	if slip != "" {
		st = exercise.Student{Slips: []exercise.Code{slip}, Often: 1}
	}
	a, _, err := st.Answer(it, draws)
	return a, err
}

// dropZeros writes the sums without the zeros at their end, as on a pocket calculator.
func dropZeros(a exercise.Answer) {
	for _, st := range []string{slips.Observed, slips.Corrected} {
		if t, ok := a[st]; ok && strings.Contains(t, ".") {
			a[st] = strings.TrimSuffix(strings.TrimRight(t, "0"), ".")
		}
	}
}
