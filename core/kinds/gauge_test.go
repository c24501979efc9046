package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
)

// A gauge judges by the own sizes, and a card without a figure has its words.
func TestGauging(t *testing.T) {
	parts := []length.Number{number(t, "16.00"), number(t, "16.03"), number(t, "16.04")}
	it := &kinds.Gauging{Unit: length.Millimetre, Decimals: 2, Feature: "hole", Lower: number(t, "16.00"),
		Upper: number(
			t,
			"16.03",
		), Parts: parts, Ask: []string{"go", "no_go", "go.2", "no_go.2", "verdict.2", "verdict.3"}}
	require.NoError(t, it.Check())
	right := exercise.Answer{
		"go":        "16.00",
		"no_go":     "16.03",
		"go.2":      "enters",
		"no_go.2":   "stops",
		"verdict.2": "accept",
		"verdict.3": "reject",
	}
	r := must(it.Mark(right))
	assert.True(t, r.Marks.Equal(r.Of), "%+v", r)
	swapped := exercise.Answer{
		"go":        "16.03",
		"no_go":     "16.00",
		"go.2":      "enters",
		"no_go.2":   "enters",
		"verdict.2": "reject",
		"verdict.3": "reject",
	}
	r = must(it.Mark(swapped))
	assert.Equal(t, "2 wrong", wrongs(r), "one mistake in the sizes is paid for there alone: %+v", r)
	assert.EqualValues(t, "gauges-swapped", r.Slips[0])
	r = must(it.Mark(exercise.Answer{"go": "16.00", "no_go.2": "stops", "verdict.2": "accept"}))
	assert.Equal(t, exercise.Missing, r.Field("no_go").Outcome)
	assert.Equal(t, exercise.Right, r.Field("no_go.2").Outcome)
	for _, a := range []exercise.Answer{right, swapped, {}} {
		e, err := it.Explain(a, exercise.Wording{})
		require.NoError(t, err)
		assert.NotEmpty(t, e.Headline)
	}
}

func wrongs(r exercise.Result) string {
	n := 0
	for _, m := range r.Fields {
		if m.Outcome == exercise.Wrong {
			n++
		}
	}
	return map[int]string{0: "none wrong", 1: "1 wrong", 2: "2 wrong"}[n]
}
