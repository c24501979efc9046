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

// goldenCard is a card with an answer, and what marking makes of it.
type goldenCard struct {
	Item, Result json.RawMessage
	Answer       exercise.Answer
	Lines        [][]string
	Predictions  map[string][]string
}

// Cards of every family, school and shape are marked as they were when they were handed in. A rule that is
// meant to change is written anew with CAVIX_GOLDEN=write; what changed is then read in the differences that
// the run before it printed.
func TestOldCardsAreMarkedTheSame(t *testing.T) {
	const file = "golden-cards.jsonl.gz"
	cards := golden[goldenCard](t, file)
	for i, g := range cards {
		it, err := kinds.Open(g.Item)
		require.NoError(t, err)
		r, err := it.Mark(g.Answer)
		require.NoError(t, err)
		result, err := json.Marshal(r)
		require.NoError(t, err)
		now := goldenCard{Item: g.Item, Answer: g.Answer, Result: result, Predictions: map[string][]string{}}
		for _, l := range it.Lines() {
			var terms []string
			for _, x := range l.Terms {
				terms = append(terms, x.Operator+x.Box+"|"+x.Echo+"|"+exercise.Show(string(x.Given))+"|"+said(x.Word))
			}
			now.Lines = append(now.Lines, terms)
		}
		ps, err := it.Predictions()
		require.NoError(t, err)
		for _, x := range ps {
			now.Predictions[x.Field] = append(now.Predictions[x.Field], string(x.Code)+" "+x.Value.String())
		}
		for _, l := range g.Lines {
			for i := range l {
				l[i] = exercise.Show(l[i])
			}
		}
		if os.Getenv("CAVIX_GOLDEN") != "write" {
			assert.JSONEq(t, string(g.Result), string(result), "%s answered %v", g.Item, g.Answer)
			assert.Equal(t, g.Lines, now.Lines)
			assert.Equal(t, g.Predictions, now.Predictions)
		}
		cards[i] = now
	}
	if os.Getenv("CAVIX_GOLDEN") == "write" {
		writeGolden(t, file, cards)
	}
}

func writeGolden(t *testing.T, name string, cards []goldenCard) {
	t.Helper()
	f, err := os.Create("../../testdata/" + name)
	require.NoError(t, err)
	z := gzip.NewWriter(f)
	lines := json.NewEncoder(z)
	for _, c := range cards {
		require.NoError(t, lines.Encode(c))
	}
	require.NoError(t, z.Close())
	require.NoError(t, f.Close())
}
