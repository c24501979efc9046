package kinds_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
)

const micrometer = `{"format":"cavix/instrument","version":1,"family":"micrometer","unit":"mm",` +
	`"main":{"division":"0.5","from":"0","to":"25"},"fine":{"kind":"drum","divisions":50,"travel":"0.5"},
		"zero_error":"0.02"}`

func ExampleOpen() {
	item, err := kinds.Open([]byte(`{"format":"cavix/item","version":2,"kind":"set","body":{"instrument":` +
		micrometer +
		`,"size":"12.34","start":"5"}}`))
	if err != nil {
		fmt.Println(err)
		return
	}
	e, err := item.Explain(nil, exercise.Wording{})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, eq := range e.Work {
		fmt.Println(said(eq.Left), "=", said(eq.Right))
	}
	// Output:
	// 12.34 + 0.02 = 12.36 mm
	// 12 + 36 × 0.01 = 12.36 mm
}

// A document that this program does not know is refused, with the field and what would be right.
func TestItemDocumentsThatAreRefused(t *testing.T) {
	right := `{"format":"cavix/item","version":2,"kind":"set","body":{"instrument":` + micrometer +
		`,"size":"12.34","start":"5"}}`
	_, err := kinds.Parse([]byte(right))
	require.NoError(t, err)
	for _, tt := range []struct{ from, to, says string }{
		{`"kind":"set"`, `"kind":"weigh"`, "kind"},
		{`"kind":"set",`, ``, "kind"},
		{`"version":2`, `"version":3`, "version"},
		{`"version":2`, `"version":"2"`, "version"},
		{`cavix/item`, `cavix/sheet`, "format"},
		{`"kind":"set"`, `"kind":"set","colour":"red"`, "colour"},
		{`"start":"5"`, `"start":"5","colour":"red"`, "colour"},
		{`"start":"5"`, `"start":5e999999`, "start"},
		{`"divisions":50`, `"divisions":1e999999`, "divisions"},
		{`"start":"5"`, `"start":"five"`, "start"},
		{`"size":"12.34"`, `"size":"900"`, "size"},
		{`,"size":"12.34"`, ``, "size"},
		{`"zero_error":"0.02"`, `"zero_error":"1/1329227995784915872903807060280344576"`, "zero_error"},
		{`"body":{`, `"body":[{`, ""},
	} {
		_, err := kinds.Parse([]byte(strings.Replace(right, tt.from, tt.to, 1)))
		if assert.Error(t, err, tt.to) {
			assert.Contains(t, err.Error(), tt.says, tt.to)
			assert.Less(t, len(err.Error()), 500, "short enough to read")
		}
	}
}

// What was stored is opened even where today's rules would refuse it.
func TestStoredItemsOpenForEver(t *testing.T) {
	for _, odd := range [][2]string{
		{`"zero_error":"0.02"`, `"zero_error":"0.0234"`}, // between two lines
		{`"divisions":50`, `"divisions":51`},             // an odd least count
		// longer than the edge takes
		{`"to":"25"`, `"to":"1329227995784915872903807060280344576/3323069989462289682259517"`},
	} {
		stored := strings.Replace(`{"format":"cavix/item","version":2,"kind":"set","body":{"instrument":`+micrometer+
			`,"size":"12.36","start":"5"}}`, odd[0], odd[1], 1)
		it, err := kinds.Open([]byte(stored))
		require.NoError(t, err, odd[1])
		_, err = it.Mark(exercise.Answer{})
		assert.NoError(t, err, odd[1])
	}
}

// Every item of the vectors is the same after it was written and read: same document, fields and marks.
func TestItemsSurviveTheirDocument(t *testing.T) {
	data, err := os.ReadFile("../../testdata/kinds.json")
	require.NoError(t, err)
	var cases []struct {
		Kind   string
		Item   json.RawMessage
		Answer exercise.Answer
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	seen := map[string]int{}
	for _, c := range cases {
		if _, built := kinds.All.Find(c.Kind); !built {
			continue
		}
		seen[c.Kind]++
		first, err := kinds.Parse(c.Item)
		require.NoError(t, err)
		document, err := exercise.Document(first)
		require.NoError(t, err)
		second, err := kinds.Open(document)
		require.NoError(t, err)
		again, err := exercise.Document(second)
		require.NoError(t, err)
		require.JSONEq(t, string(document), string(again))
		require.Equal(t, first.Fields(), second.Fields())
		a, err := first.Mark(c.Answer)
		require.NoError(t, err)
		b, err := second.Mark(c.Answer)
		require.NoError(t, err)
		require.True(t, a.Marks.Equal(b.Marks) && a.Of.Equal(b.Of))
		require.True(t, a.Marks.Cmp(length.Number{}) >= 0 && a.Marks.Cmp(a.Of) <= 0, "from nothing to all")
	}
	assert.GreaterOrEqual(t, len(seen), 4)
}

// The schema of every kind ends with an example, which can be asked and is marked.
func TestEverySchemaHasAnExample(t *testing.T) {
	for _, k := range kinds.All {
		text, err := os.ReadFile("../schema/kinds/" + k.Name() + ".schema.json")
		require.NoError(t, err)
		var schema struct{ Examples []json.RawMessage }
		require.NoError(t, json.Unmarshal(text, &schema))
		require.NotEmpty(t, schema.Examples, k.Name())
		for _, body := range schema.Examples {
			it, err := kinds.Parse(
				fmt.Appendf(nil, `{"format":"cavix/item","version":2,"kind":%q,"body":%s}`, k.Name(), body),
			)
			require.NoError(t, err, k.Name())
			a, _, err := exercise.Student{}.Answer(it, nil)
			require.NoError(t, err)
			r, err := it.Mark(a)
			require.NoError(t, err)
			require.True(t, r.Marks.Equal(r.Of) && r.Of.Sign() > 0, "%s: %+v", k.Name(), r)
		}
	}
}

// The examples in the schemas of instruments, items and sheets are documents that can be used.
func TestExamplesOfSchemasCanBeUsed(t *testing.T) {
	for name, use := range map[string]func([]byte) error{
		"instrument": func(b []byte) error { _, err := instrument.Parse(b); return err },
		"item": func(b []byte) error {
			it, err := kinds.Parse(b)
			return errors.Join(err, it.Check())
		},
		"sheet": func(b []byte) error {
			sh, err := kinds.All.ParseSheet(b)
			return errors.Join(err, sh.Check(kinds.All))
		},
	} {
		text, err := os.ReadFile("../schema/" + name + ".schema.json")
		require.NoError(t, err)
		var s struct{ Examples []json.RawMessage }
		require.NoError(t, json.Unmarshal(text, &s))
		require.NotEmpty(t, s.Examples)
		for _, example := range s.Examples {
			assert.NoError(t, use(example), "%s: %s", name, example)
		}
	}
}
