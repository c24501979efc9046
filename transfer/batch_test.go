package transfer_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/transfer"
)

const stack = `{"format":"cavix/cards","version":1,"cards":{
	"pin 1":{"format":"cavix/item","version":1,"indicated":"31.40","ask":["main","fine_line","observed","zero_error",
	"corrected"],"instrument":` + caliper + `},
	"pin 2":{"format":"cavix/item","version":1,"indicated":"52.15","ask":["observed"],"instrument":` + caliper + `}}}`

const caliper = `{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm","main":{"division":"1",
	"from":"0","to":"150"},
	"fine":{"kind":"vernier","divisions":20,"spans":39},"zero_error":"-0.15"}`

func cards(t testing.TB) exercise.Cards {
	t.Helper()
	c, err := kinds.All.ParseCards([]byte(stack))
	require.NoError(t, err)
	return c
}

func ExampleMarkBatch() {
	cards, _ := kinds.All.ParseCards([]byte(stack))
	answers := "student,card,main,fine_line,observed,zero_error,corrected\nWren,pin " +
		"1,32,8,32.40,−0.15,32.55\nBram,pin 2,,,\"52,15\",,\nAlder,pin 9,,,1,,\n"
	var marked bytes.Buffer
	bad, err := transfer.MarkBatch(cards, strings.NewReader(answers), &marked, nil)
	fmt.Print(marked.String())
	fmt.Println(bad, err)
	// Output:
	// student,card,marks,of,slip,main,fine_line,observed,zero_error,corrected
	// Wren,pin 1,4,5,main-next-mark,wrong,right,carried,right,carried
	// Bram,pin 2,1,1,,,,right,,
	// [line 4: card: there is no card "pin 9"] <nil>
}

func TestBadRowsAreNamedByLineAndNothingIsLost(t *testing.T) {
	answers := "\ufeffStudent, Card ,observed\n" +
		"A,pin 2,52.15\n" +
		"B,pin 2,fifty\n" +
		"C,pin 2\n" +
		"\n" +
		"\"D\nD\",pin 2,52.2\n" +
		"E,pin 2,\"52\n" // a quote that never ends
	var marked bytes.Buffer
	var told []int
	bad, err := transfer.MarkBatch(cards(t), strings.NewReader(answers), &marked,
		func(n int) { told = append(told, n) })
	require.NoError(t, err)
	var said []string
	for _, b := range bad {
		said = append(said, b.String())
	}
	require.Len(t, said, 3, "%v", said)
	assert.Contains(t, said[0], "line 3: observed: contains no number")
	assert.Contains(t, said[1], "line 4: has 2 fields, the header 3")
	assert.Contains(t, said[2], "line 8: is no CSV")
	rows, err := csv.NewReader(&marked).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 3, "the header and the two rows that can be read")
	assert.Equal(t, []int{5}, told)
}

func TestFilesThatAreNone(t *testing.T) {
	for answers, says := range map[string]string{
		"":                          "no header",
		"student,observed\n":        `the column "card" is missing`,
		"student,card,colour\n":     `"colour" is no column`,
		"student,card,main,main\nx": `"main" is there twice`,
	} {
		_, err := transfer.MarkBatch(cards(t), strings.NewReader(answers), io.Discard, nil)
		assert.ErrorContains(t, err, says)
	}
	for doc, says := range map[string]string{
		`{"format":"cavix/cards","version":1,"cards":{}}`:                                "cards",
		strings.Replace(stack, `"divisions":20`, `"divisions":21`, 1):                    "instrument.fine.spans",
		strings.Replace(stack, `"indicated":"52.15"`, `"indicated":"900"`, 1):            "cards.pin 2.indicated",
		strings.Replace(stack, `"ask":["observed"]`, `"ask":["observed","finer"]`, 1):    "cards.pin 2.ask: ",
		strings.Replace(stack, `"version":1,"cards"`, `"version":1,"more":1,"cards"`, 1): "more: is not a field",
	} {
		_, err := kinds.All.ParseCards([]byte(doc))
		assert.ErrorContains(t, err, says)
	}
}

// Cards come back from the document they are written to, and mark as before.
func TestCardsComeBack(t *testing.T) {
	cards, err := kinds.All.ParseCards([]byte(stack))
	require.NoError(t, err)
	document, err := json.Marshal(cards)
	require.NoError(t, err)
	back, err := kinds.All.ParseCards(document)
	require.NoError(t, err)
	require.Len(t, back, len(cards))
	for name, c := range cards {
		empty, err := c.Mark(nil)
		require.NoError(t, err)
		a := exercise.Answer{}
		for _, m := range empty.Fields {
			a[m.Field] = m.Expected
		}
		before, err := c.Mark(a)
		require.NoError(t, err)
		after, err := back[name].Mark(a)
		require.NoError(t, err)
		assert.True(t, before.Marks.Equal(before.Of), name)
		assert.Equal(t, before.Marks.String(), after.Marks.String(), name)
	}
}

func FuzzMarkBatch(f *testing.F) {
	f.Add("student,card,observed\nA,pin 2,52.15\n")
	f.Add("card,student,main\npin 1,\"A\n")
	f.Add("student,card,observed\nA,pin 2,1/0\n\x00,,\n")
	stacked := cards(f)
	f.Fuzz(func(t *testing.T, answers string) {
		var marked bytes.Buffer
		done := 0
		bad, err := transfer.MarkBatch(stacked, strings.NewReader(answers), &marked, func(n int) { done = n })
		if err != nil {
			return
		}
		rows, err := csv.NewReader(&marked).ReadAll()
		require.NoError(t, err, "what is written can be read")
		require.Len(t, rows, 1+done-len(bad), "every row is marked or named")
		for _, b := range bad {
			require.Greater(t, b.Line, 1)
			require.NotEmpty(t, b.Reason)
		}
	})
}

func BenchmarkMarkBatch(b *testing.B) {
	const rows = 20000
	var says strings.Builder
	says.WriteString("student,card,main,fine_line,observed,zero_error,corrected\n")
	for i := range rows {
		fmt.Fprintf(&says, "Pupil %d,pin 1,%d,%d,31.40,+0.15,31.25\n", i, 30+i%3, i%20)
	}
	stacked := cards(b)
	for b.Loop() {
		if _, err := transfer.MarkBatch(stacked, strings.NewReader(says.String()), io.Discard, nil); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.N)*rows/b.Elapsed().Seconds(), "cards/s")
}

// One stack may hold cards of several kinds; each row is marked by its card's own.
func TestAStackOfSeveralKinds(t *testing.T) {
	several, err := kinds.All.ParseCards([]byte(`{"format":"cavix/cards","version":1,"cards":{
		"pin":{"format":"cavix/item","version":1,"indicated":"31.40","ask":["observed"],"instrument":` + caliper + `},
		"count":{"format":"cavix/item","version":2,"kind":"least_count","body":{"ask":["divisions","least_count"],
		"instrument":` + caliper + `}}}}`))
	require.NoError(t, err)
	var out bytes.Buffer
	_, err = transfer.MarkBatch(several, strings.NewReader(
		"student,card,observed,divisions,least_count\nA,pin,31.40,,\nA,count,,20,0.05\nB,count,,20,0.5\n"), &out, nil)
	require.NoError(t, err)
	rows, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 4)
	column := func(name string) int {
		for i, head := range rows[0] {
			if head == name {
				return i
			}
		}
		t.Fatalf("no column %s in %v", name, rows[0])
		return 0
	}
	marks := column("marks")
	assert.Equal(t, []string{"1", "2", "1"}, []string{rows[1][marks], rows[2][marks], rows[3][marks]})
}
