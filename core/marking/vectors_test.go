package marking_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/marking"
)

// load reads a file of vectors.
func load[T any](t *testing.T, file string) []T {
	t.Helper()
	data, err := os.ReadFile("../../testdata/" + file)
	require.NoError(t, err)
	var all []T
	require.NoError(t, json.Unmarshal(data, &all))
	return all
}

type slipVector struct {
	Item   json.RawMessage
	Answer marking.Answer
	Expect struct {
		Outcome  marking.Outcome
		Slip     marking.Code
		All      []marking.Code
		Expected string
	}
}

func TestSlipVectors(t *testing.T) {
	vectors := load[slipVector](t, "slips.json")
	require.Len(t, vectors, 120)
	for _, v := range vectors {
		card, err := marking.Parse(v.Item)
		require.NoError(t, err)
		r, err := card.Mark(v.Answer)
		require.NoError(t, err)
		st, ok := r.Step(card.Ask[0])
		require.True(t, ok)
		assert.Equal(t, v.Expect.Outcome, st.Outcome)
		assert.Equal(t, v.Expect.All, st.Slips, "%s answered %v", v.Item, v.Answer)
		assert.Equal(t, v.Expect.Slip, r.Slips[0])
		want, got := number(t, v.Expect.Expected), number(t, st.Expected)
		assert.True(t, want.Equal(got), "expected %s, want %s", got, want)
	}
}

type cardVector struct {
	What   string
	Item   json.RawMessage
	Answer marking.Answer
	Expect struct {
		Steps     map[marking.Step]marking.Outcome
		Slip      *marking.Code
		Marks, Of string
	}
}

func TestCardVectors(t *testing.T) {
	vectors := load[cardVector](t, "cards.json")
	require.NotEmpty(t, vectors)
	for _, v := range vectors {
		card, err := marking.Parse(v.Item)
		require.NoError(t, err)
		r, err := card.Mark(v.Answer)
		require.NoError(t, err)
		outcomes := map[marking.Step]marking.Outcome{}
		for _, st := range r.Steps {
			outcomes[st.Step] = st.Outcome
		}
		assert.Equal(t, v.Expect.Steps, outcomes, "%s: %s answered %v", v.What, v.Item, v.Answer)
		assert.Equal(t, v.Expect.Marks, r.Marks.String(), v.What)
		assert.Equal(t, v.Expect.Of, r.Of.String(), v.What)
		if v.Expect.Slip == nil {
			assert.Empty(t, r.Slips, v.What)
		} else if assert.NotEmpty(t, r.Slips, v.What) {
			assert.Equal(t, *v.Expect.Slip, r.Slips[0], v.What)
		}
	}
}
