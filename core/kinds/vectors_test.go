package kinds_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
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

// marked marks an answer to an item document.
func marked(t *testing.T, item json.RawMessage, a exercise.Answer) (exercise.Item, exercise.Result) {
	t.Helper()
	it, err := kinds.Parse(item)
	require.NoError(t, err, "%s", item)
	r, err := it.Mark(a)
	require.NoError(t, err, "%s answered %v", item, a)
	return it, r
}

func number(t *testing.T, s string) length.Number {
	t.Helper()
	n, err := length.Parse(s)
	require.NoError(t, err)
	return n
}

func TestSlipVectors(t *testing.T) {
	vectors := load[struct {
		Item   json.RawMessage
		Answer exercise.Answer
		Expect struct {
			Outcome  exercise.Outcome
			Slip     exercise.Code
			All      []exercise.Code
			Expected string
		}
	}](t, "slips.json")
	require.Len(t, vectors, 160)
	for _, v := range vectors {
		it, r := marked(t, v.Item, v.Answer)
		st := r.Field(it.Fields()[0].Name)
		assert.Equal(t, v.Expect.Outcome, st.Outcome)
		assert.Equal(t, v.Expect.All, st.Slips, "%s answered %v", v.Item, v.Answer)
		assert.Equal(t, v.Expect.Slip, r.Slips[0])
		assert.True(t, number(t, v.Expect.Expected).Equal(number(t, st.Expected)))
	}
}

func TestCardVectors(t *testing.T) {
	vectors := load[struct {
		What   string
		Item   json.RawMessage
		Answer exercise.Answer
		Expect struct {
			Steps     map[string]exercise.Outcome
			Slip      *exercise.Code
			Marks, Of string
		}
	}](t, "cards.json")
	require.NotEmpty(t, vectors)
	for _, v := range vectors {
		_, r := marked(t, v.Item, v.Answer)
		outcomes := map[string]exercise.Outcome{}
		for _, st := range r.Fields {
			outcomes[st.Field] = st.Outcome
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

// kindVector is a card with an answer, and what it comes to.
type kindVector struct {
	Kind, Note string
	Item       json.RawMessage
	Answer     exercise.Answer
	Expect     struct {
		Marks, Of string
		Steps     map[string]struct {
			Outcome  exercise.Outcome
			Expected *string
			Slip     json.RawMessage // null says that there is none; left out, that it is not held
		}
		First json.RawMessage `json:"slips_first"`
	}
}

// scaleVectors are the vectors of angles, indicators and the other scales, and of differences.
func scaleVectors(t *testing.T) (v struct {
	Cards, Difference []kindVector
	Refuse            []struct {
		Item   json.RawMessage
		Answer exercise.Answer
		Names  string
	}
}) {
	data, err := os.ReadFile("../../testdata/scales.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &v))
	return v
}

func TestScaleRefusals(t *testing.T) {
	held := 0
	for _, v := range scaleVectors(t).Refuse {
		if v.Item == nil {
			continue
		}
		held++
		it, err := kinds.Parse(v.Item)
		if err == nil {
			_, err = it.Mark(v.Answer)
		}
		if assert.Error(t, err, "%s answered %v", v.Item, v.Answer) {
			at := strings.TrimPrefix(err.Error(), "body.")
			assert.True(t, strings.HasPrefix(at, v.Names+": "), "%q should name %q first", err, v.Names)
		}
	}
	assert.Equal(t, 9, held)
}

// Cards of the kinds beside reading; care has no vectors.
func TestKindVectors(t *testing.T) {
	held := map[string]int{}
	scales := scaleVectors(t)
	for _, v := range slices.Concat(load[kindVector](t, "kinds.json"), scales.Cards, scales.Difference) {
		held[v.Kind]++
		it, r := marked(t, v.Item, v.Answer)
		about := v.Kind + ", " + v.Note + ": " + string(v.Item)
		assert.Equal(t, v.Expect.Marks+" of "+v.Expect.Of, r.Marks.String()+" of "+r.Of.String(), about)
		assert.Len(t, r.Fields, len(v.Expect.Steps), about)
		for name, want := range v.Expect.Steps {
			got := r.Field(name)
			if !assert.NotNil(t, got, "%s %s", name, about) {
				continue
			}
			assert.Equal(t, want.Outcome, got.Outcome, "%s = %s %s", name, v.Answer[name], about)
			if want.Expected != nil {
				if x, err := length.Parse(*want.Expected); err == nil {
					assert.True(
						t,
						x.Equal(number(t, strings.TrimPrefix(got.Expected, "+"))),
						"%s is %s, want %s: %s",
						name,
						got.Expected,
						*want.Expected,
						about,
					)
				} else {
					assert.Equal(t, *want.Expected, strings.TrimPrefix(got.Expected, "+"), about)
				}
			}
			if want.Outcome == exercise.Wrong || want.Slip != nil {
				first(t, want.Slip, got.Slips, name+" = "+v.Answer[name]+", "+about)
			}
		}
		first(t, v.Expect.First, r.Slips, about)
		// What is asked is stored whole, and everything that is shown of it can be worked out.
		doc, err := exercise.Document(it)
		require.NoError(t, err)
		again, err := kinds.Open(doc)
		require.NoError(t, err, "%s", doc)
		r2, err := again.Mark(v.Answer)
		require.NoError(t, err)
		assert.Equal(t, r, r2)
		_, err = it.Explain(v.Answer, exercise.Wording{})
		require.NoError(t, err)
		_, err = it.Hints()
		require.NoError(t, err)
	}
	assert.Equal(t, []int{56, 58}, []int{held["read"], held["difference"]})
	delete(held, "read")
	delete(held, "difference")
	require.Len(t, held, 9)
	for kind, n := range held {
		assert.Equal(t, 15, n, kind)
	}
}

// first holds the first slip that is named against the one that a vector wants.
func first(t *testing.T, want json.RawMessage, got []exercise.Code, about string) {
	t.Helper()
	if want == nil {
		return
	}
	var code *exercise.Code
	require.NoError(t, json.Unmarshal(want, &code))
	if code == nil {
		assert.Empty(t, got, about)
	} else if assert.NotEmpty(t, got, "%s wanted: %s", *code, about) {
		assert.Equal(t, *code, got[0], about)
	}
}
