package schema_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/refusal"
	"cavix/core/schema"
)

const caliper = `{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm",` +
	`"main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier","divisions":20,"spans":19}}`

// What does not fit is refused with the path of the field, and all of it at once.
func TestDecodeNamesEveryField(t *testing.T) {
	for _, tt := range []struct {
		name, schema, from, to string // caliper with from put in the place of to
		want                   []string
	}{
		{"good", "instrument", "", "", nil},
		{"cut off", "instrument", `19}}`, ``, []string{"the document is not JSON"}},
		{"two documents", "instrument", `19}}`, `19}}{}`, []string{"followed by something else"}},
		{"not an object", "instrument", caliper, `[]`, []string{"got array, want object"}},
		{"another version", "instrument", `"version":1`, `"version":3`, []string{"version: "}},
		{"unknown field", "instrument", `"unit"`, `"colour":"red","unit"`, []string{"colour: is not a field"}},
		{"unknown field inside", "instrument", `"from"`, `"form":"0","from"`, []string{"main.form: is not a field"}},
		{"missing", "instrument", `"unit":"mm",`, ``, []string{"unit: is missing"}},
		{"missing inside", "instrument", `,"spans":19`, ``, []string{"fine.spans: is missing"}},
		{"not a length", "instrument", `"division":"1"`, `"division":"1/0"`,
			[]string{`main.division: “1/0” is not a length; write it like`}},
		{"a number for a length", "instrument", `"division":"1"`, `"division":1`, []string{"main.division: "}},
		{"of another scale", "instrument", `"spans":19`, `"spans":19,"travel":"0.5"`,
			[]string{"fine.travel: is not a field of this kind of scale"}},
		{"two faults", "instrument", `"unit":"mm","main":{`, `"unit":"m","main":{"half":1,`,
			[]string{"unit: ", "main.half: "}},
		{"both ways", "kinds/read", caliper, `{"instrument":` + caliper +
			`,"indicated":"3","closed":true,"ask":["main"]}`,
			[]string{"indicated: give just one of these: indicated, or closed"}},
		{"neither way", "kinds/read", caliper, `{"instrument":` + caliper + `,"ask":["main"]}`,
			[]string{"indicated: give just one of these: indicated, or closed"}},
		{"within another", "kinds/read", caliper, `{"instrument":` + strings.Replace(caliper, `"mm"`, `"km"`, 1) +
			`,"indicated":"3","ask":["main"]}`,
			[]string{"instrument.unit: "}},
		{"no text", "answer", caliper, `{"main":3}`, []string{"main: "}},
		{"a number that is costly to read", "instrument", `"spans":19`, `"spans":1e999999`,
			[]string{"fine.spans: is not a number for a document"}},
		{"too many digits", "instrument", `"division":"1"`, `"division":"` + strings.Repeat("9", 40) + `"`,
			[]string{"main.division: ", "too many digits"}},
		{"too fine", "instrument", `"division":"1"`, `"division":"1/1329227995784915872903807060280344576"`,
			[]string{"main.division: ", "too many digits"}},
	} {
		t.Run(tt.name, func(t *testing.T) {
			text := caliper
			if tt.from != "" {
				require.Contains(t, text, tt.from)
				text = strings.Replace(text, tt.from, tt.to, 1)
			}
			var out any
			err := schema.Decode(tt.schema, []byte(text), &out)
			if tt.want == nil {
				require.NoError(t, err)
				return
			}
			var refused refusal.Refusal
			require.ErrorAs(t, err, &refused)
			assert.Nil(t, out, "nothing is decoded of what is refused")
			for _, want := range tt.want {
				assert.ErrorContains(t, err, want)
			}
		})
	}
}

// A document is refused by its depth before it is parsed.
func TestDepthIsBounded(t *testing.T) {
	for text, says := range map[string]string{
		strings.Repeat(`[`, 900_000):                                "nested more than",
		strings.Repeat(`{"a":`, 40) + "1" + strings.Repeat("}", 40): "nested more than",
		`{"a":"` + strings.Repeat(`[{\"`, 5000) + `"}`:              "format", // within a text they nest nothing
	} {
		var out any
		err := schema.Decode("instrument", []byte(text), &out)
		require.Error(t, err)
		assert.Contains(t, err.Error(), says)
	}
}

// Every schema says what a document looks like: with examples that fit it, and that do not when something they need is
// missing.
func TestEverySchemaHasExamples(t *testing.T) {
	paths, err := filepath.Glob("*.schema.json")
	require.NoError(t, err)
	kinds, err := filepath.Glob("kinds/*.schema.json")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(kinds), 11)
	for _, path := range append(paths, kinds...) {
		b, err := os.ReadFile(path)
		require.NoError(t, err)
		var s struct {
			Title    string
			Required []string
			Examples []map[string]any
		}
		require.NoError(t, json.Unmarshal(b, &s), path)
		assert.NotEmpty(t, s.Title, path)
		assert.NotEmpty(t, s.Examples, path)
		name := strings.TrimSuffix(path, ".schema.json")
		for _, example := range s.Examples {
			fits := func() error {
				text, err := json.Marshal(example)
				require.NoError(t, err)
				var into map[string]any
				return schema.Decode(name, text, &into)
			}
			assert.NoError(t, fits(), path)
			for _, need := range s.Required {
				was := example[need]
				delete(example, need)
				assert.Error(t, fits(), "%s without %s", path, need)
				example[need] = was
			}
			example["unheard-of"] = map[string]any{}
			assert.Error(t, fits(), path)
		}
	}
}
