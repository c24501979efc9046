package kinds_test

import (
	"bufio"
	"compress/gzip"
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
)

// golden reads a file of what was dealt, marked and said before.
func golden[T any](t *testing.T, name string) []T {
	t.Helper()
	f, err := os.Open("../../testdata/" + name)
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	lines := bufio.NewScanner(z)
	lines.Buffer(nil, 1<<20)
	var all []T
	for lines.Scan() {
		var x T
		require.NoError(t, json.Unmarshal(lines.Bytes(), &x))
		all = append(all, x)
	}
	require.NoError(t, lines.Err())
	require.NotEmpty(t, all)
	return all
}

// A sheet of the first days, dealt by the first dealer, is the same today: what students were given does
// not change under them.
func TestOldSheetsDealTheSameCards(t *testing.T) {
	for _, g := range golden[struct {
		Definition json.RawMessage
		Seed       uint64
		Items      []json.RawMessage
	}](t, "golden-deals.jsonl.gz") {
		sheet, err := kinds.All.ReadSheet(g.Definition)
		require.NoError(t, err)
		items, err := sheet.Deal(kinds.All, g.Seed)
		require.NoError(t, err)
		require.Len(t, items, len(g.Items))
		for i, it := range items {
			was, err := kinds.Open(g.Items[i])
			require.NoError(t, err)
			want, err := exercise.Document(was)
			require.NoError(t, err)
			got, err := exercise.Document(it)
			require.NoError(t, err)
			require.JSONEq(t, string(want), string(got))
		}
	}
}

// Cards of every family, school and shape are marked and explained as they were when they were handed in.
func TestOldCardsAreMarkedAndExplainedTheSame(t *testing.T) {
	voice := exercise.Voice{
		History: exercise.History{Student: map[exercise.Code]int{"main-next-mark": 2},
			Class: map[exercise.Code]int{"neighbour-line": 1}},
		Wordings: exercise.Wordings{"sum-slip": {Note: "Ask."}},
	}
	for _, g := range golden[struct {
		Item, Result    json.RawMessage
		Answer          exercise.Answer
		Headline, Field string
		Body, Hints     []string
		Work            []exercise.Equation
		Lines           [][]string
		Mark            string
		Line            int
		TakenMark       *string `json:"taken_mark"`
		TakenLine       *int    `json:"taken_line"`
		TakenFiner      *int    `json:"taken_finer"`
		Predictions     map[string][]string
	}](t, "golden-cards.jsonl.gz") {
		it, err := kinds.Open(g.Item)
		require.NoError(t, err)
		r, err := it.Mark(g.Answer)
		require.NoError(t, err)
		got, err := json.Marshal(r)
		require.NoError(t, err)
		require.JSONEq(t, string(g.Result), string(got), "%s answered %v", g.Item, g.Answer)

		e, err := it.Explain(g.Answer, voice)
		require.NoError(t, err)
		assert.Equal(t, []any{g.Headline, g.Field, g.Work}, []any{e.Headline, e.Field, e.Work})
		assert.Equal(t, append([]string{}, g.Body...), append([]string{}, e.Body...))
		p := e.Shown[0]
		assert.Equal(t, []any{g.Mark, g.Line, g.TakenLine, g.TakenFiner},
			[]any{p.Mark.String(), p.Line, p.TakenLine, p.TakenFiner})
		if assert.Equal(t, g.TakenMark == nil, p.TakenMark == nil) && p.TakenMark != nil {
			assert.Equal(t, *g.TakenMark, p.TakenMark.String())
		}
		hints, err := it.Hints()
		require.NoError(t, err)
		for i, h := range hints {
			assert.Equal(t, g.Hints[i], h.Text)
		}
		var lines [][]string
		for _, l := range it.Lines() {
			var terms []string
			for _, x := range l.Terms {
				terms = append(terms, x.Operator+x.Box+"|"+x.Echo+"|"+x.Given+"|"+x.Word)
			}
			lines = append(lines, terms)
		}
		for _, l := range g.Lines {
			for i := range l {
				l[i] = exercise.Show(l[i])
			}
		}
		assert.Equal(t, g.Lines, lines)
		predicted := map[string][]string{}
		ps, err := it.Predictions()
		require.NoError(t, err)
		for _, x := range ps {
			predicted[x.Field] = append(predicted[x.Field], string(x.Code)+" "+x.Value.String())
		}
		assert.Equal(t, g.Predictions, predicted)
	}
}
