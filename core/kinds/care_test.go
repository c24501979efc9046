package kinds_test

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
)

// The bank holds enough, no item twice, and each can be dealt as a document, answered rightly and explained.
func TestTheBankOfCare(t *testing.T) {
	bank := kinds.Bank()
	require.GreaterOrEqual(t, len(bank), 40)
	seen, sorts := map[string]bool{}, map[string]int{}
	for _, it := range bank {
		sorts[it.Care]++
		key := it.Question + strings.Join(it.Steps, "|") + strings.Join(it.Statements, "|")
		assert.False(t, seen[key], key)
		seen[key] = true
		assert.True(t, strings.HasSuffix(it.Reason, "."), it.Reason)
		again, err := kinds.Parse(must(exercise.Document(&it)))
		require.NoError(t, err, "%+v", it)
		expected := must(again.Mark(nil)).Fields[0]
		answer := exercise.Answer{expected.Field: expected.Expected}
		r := must(again.Mark(answer))
		assert.Equal(t, exercise.Right, r.Fields[0].Outcome, key)
		if it.Care == "order" {
			assert.LessOrEqual(t, 4, len(it.Steps))
			assert.LessOrEqual(t, len(it.Steps), 7)
			reversed := strings.Fields(expected.Expected)
			slices.Reverse(reversed)
			wrong := must(again.Mark(exercise.Answer{"order": strings.Join(reversed, " ")}))
			assert.Equal(t, exercise.Wrong, wrong.Fields[0].Outcome, key)
		}
		if it.Care == "next" {
			assert.NotEmpty(t, it.Question)
		}
		e, err := again.Explain(answer, exercise.Wording{})
		require.NoError(t, err)
		var keys []string
		for _, says := range append(e.Body, again.Fields()[0].Words...) {
			keys = append(keys, regexp.MustCompile(`care-bank\.[a-z0-9-]+`).FindAllString(says.String(), -1)...)
		}
		assert.GreaterOrEqual(t, len(keys), len(it.Steps)+len(it.Statements)+1, "the catalogues have its sentences: %v",
			keys)
	}
	for _, sort := range []string{"order", "spot", "next"} {
		assert.GreaterOrEqual(t, sorts[sort], 8, sort)
	}
}

// Any order that keeps what matters is right; one that an exchange of neighbours mends is half.
func TestStepsInOrder(t *testing.T) {
	it := &kinds.Care{
		Care:   "order",
		Steps:  []string{"measure", "wipe", "deburr", "brush"},
		Before: [][2]int{{3, 4}, {4, 2}, {2, 1}},
		Reason: "Clean before you measure.",
	}
	require.NoError(t, it.Check())
	for answer, want := range map[string]exercise.Outcome{"3 4 2 1": exercise.Right, " 3,4, 2 1": exercise.Right,
		"4 3 2 1": exercise.InForm, "1 2 4 3": exercise.Wrong, "": exercise.Missing} {
		assert.Equal(t, want, must(it.Mark(exercise.Answer{"order": answer})).Fields[0].Outcome, answer)
	}
	for _, bad := range []string{"3 4 2", "3 4 2 2", "first", "1 2 3 4 5", strconv.Itoa(3421)} {
		_, err := it.Mark(exercise.Answer{"order": bad})
		assert.ErrorContains(t, err, "order: must contain each number from 1 to 4 once", bad)
	}
	e := must(it.Explain(exercise.Answer{"order": "1 2 4 3"}, exercise.Wording{}))
	assert.Equal(t, "“deburr” must come before “brush”.", said(e.Headline))
	it.Before = append(it.Before, [2]int{1, 3})
	assert.ErrorContains(t, it.Check(), "circle")
}
