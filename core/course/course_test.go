package course_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/course"
	"cavix/core/refusal"
)

// examples are the example documents of a schema.
func examples(t testing.TB, name string) []json.RawMessage {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("..", "schema", name+".schema.json"))
	require.NoError(t, err)
	var s struct {
		Examples []json.RawMessage `json:"examples"`
	}
	require.NoError(t, json.Unmarshal(data, &s))
	require.NotEmpty(t, s.Examples, name)
	return s.Examples
}

// written are the documents of a course, each written anew.
func written(t testing.TB, c course.Course) []string {
	t.Helper()
	var out []string
	add := func(v any) {
		b, err := json.Marshal(v)
		require.NoError(t, err)
		out = append(out, string(b))
	}
	for _, in := range c.Instruments {
		add(in)
	}
	for _, s := range c.Sheets {
		add(s)
	}
	for _, it := range c.Bank {
		add(it)
	}
	return out
}

// What is brought in and written again is the same when it is brought in once more.
func TestNothingIsLostOnTheWay(t *testing.T) {
	for _, name := range []string{"instrument", "sheet", "banked"} {
		for _, document := range examples(t, name) {
			var first, second course.Course
			require.NoError(t, first.Add(document), "%s", document)
			out := written(t, first)
			require.Len(t, out, 1, "one document is one thing")
			require.NoError(t, second.Add([]byte(out[0])))
			assert.Equal(t, out, written(t, second))
		}
	}
	var bank course.Course
	for _, d := range examples(t, "banked") {
		require.NoError(t, bank.Add(d))
	}
	assert.NotEmpty(t, bank.Bank[0].Says())
}

// The head names the class, its school and its words, and is written as it was read.
func TestTheHeadOfACourse(t *testing.T) {
	for _, document := range examples(t, "course") {
		h, c, err := course.ReadHead(document)
		require.NoError(t, err)
		assert.Equal(t, h.Name, c.Name)
		again := course.NewHead(c)
		again.Instruments, again.Sheets, again.Care = h.Instruments, h.Sheets, h.Care
		assert.Equal(t, h, again)
	}
	_, c, err := course.ReadHead(
		[]byte(`{"format": "cavix/course", "version": 1, "name": "  Mill \n parts ", "instruments": [], "sheets": []}`))
	require.NoError(t, err)
	assert.Equal(t, "Mill parts", c.Name, "a name is one line")
	assert.NotNil(t, c.Class, "a class without a school of its own has the usual one")
}

// What cannot stand is refused by the field that is wrong, and leaves the course as it was.
func TestWhatACourseRefuses(t *testing.T) {
	for _, tt := range []struct{ document, field, says string }{
		{`{`, "", "not JSON"},
		{`[]`, "", "not JSON"},
		{`{"format": "cavix/elsewhere"}`, "format", "a course can contain"},
		// its items have no bank
		{`{"format": "cavix/read", "version": 1, "item": {}}`, "format", "a course can contain"},
		{`{"format": "cavix/instrument", "version": 1, "name": "Rule", "family": "vernier-caliper", "unit": "mm",
			"main": {"division": "0", "from": "0", "to": "150"}, "fine": {"kind": "vernier", "divisions": 20,
			"spans": 39}, "zero_error": "0"}`,
			"main.division", "must be"},
		{`{"format": "cavix/care", "version": 1, "item": {"care": "next"}}`, "item.reason", "is missing"},
		{`{"format": "cavix/care", "version": 1, "item": {"care": "next", "reason": "So it is."}}`, "item.steps",
			"give just one of these: steps with before, or statements with right"},
		{`{"format": "cavix/care", "version": 1, "item": {"care": "next"}, "answers": []}`, "answers", "not a field"},
	} {
		var c course.Course
		err := c.Add([]byte(tt.document))
		var bad refusal.Refusal
		require.ErrorAs(t, err, &bad, tt.document)
		assert.ErrorContains(t, err, tt.says, tt.document)
		assert.ErrorContains(t, err, tt.field, tt.document)
		assert.Empty(t, written(t, c))
	}
	for document, says := range map[string]string{
		`{"format": "cavix/course", "version": 1, "name": " ", "instruments": [],
			"sheets": []}`: "must not be empty",
		`{"format": "cavix/course", "version": 9, "name": "Mill", "instruments": [], "sheets": []}`: "version",
		`{"format": "cavix/course", "version": 1, "name": "Mill", "instruments": [], "sheets": [],
			"words": {"own": {"drum": "{drum}"}}}`: "words",
	} {
		_, _, err := course.ReadHead([]byte(document))
		assert.ErrorContains(t, err, says, document)
	}
}

// FuzzAdd: whatever is taken is written as a document that is taken again, and comes out the same.
func FuzzAdd(f *testing.F) {
	for _, name := range []string{"instrument", "sheet", "banked", "item"} {
		for _, document := range examples(f, name) {
			f.Add([]byte(document))
		}
	}
	f.Fuzz(func(t *testing.T, document []byte) {
		var first, second course.Course
		if first.Add(document) != nil {
			return
		}
		for _, d := range written(t, first) {
			require.NoError(t, second.Add([]byte(d)), "%s", d)
		}
		assert.Equal(t, written(t, first), written(t, second))
	})
}
