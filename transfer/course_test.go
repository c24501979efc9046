package transfer_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/course"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/transfer"
)

// aCourse holds something of everything.
func aCourse(t testing.TB) course.Course {
	t.Helper()
	c := course.Course{Name: "Evening boards", Class: &course.Class{Method: exercise.Method{Decimals: "lenient"},
		Words: words.Set{Base: words.Laboratory, Own: map[text.Term]string{"drum": "barrel"}}}}
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		c.Instruments = append(c.Instruments, in, in) // two of one name, as a Rack may have
	}
	for _, r := range kinds.ReadySheets {
		s, _, err := r.Compose(nil)
		require.NoError(t, err)
		s.Task, s.Mode, s.Attempts = "Read *twice*.", exercise.Test, 3
		c.Sheets = append(c.Sheets, exercise.TitledSheet{Title: r.Title.Key(), Sheet: s})
	}
	for _, k := range kinds.All {
		if banked, ok := k.(exercise.Banked); ok {
			for i, body := range banked.Shipped()[:3] {
				c.Bank = append(c.Bank, course.Item{Kind: banked, Body: body, Retired: i == 1})
			}
		}
	}
	return c
}

func written(t testing.TB, c course.Course, people []transfer.Person) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, transfer.WriteCourse(&b, c, people, nil))
	return b.Bytes()
}

func TestACourseFileLosesNothing(t *testing.T) {
	c := aCourse(t)
	people := []transfer.Person{{Name: "=cmd|' /C calc'!A0", Group: "Tide crew", ExtraMinutes: 10}, {Name: "Žofie Č."}}
	f, err := transfer.ReadCourse(written(t, c, people))
	require.NoError(t, err)
	require.Empty(t, f.Refused)
	for i := range f.People {
		f.People[i].Line = 0
	}
	assert.Equal(t, people, f.People)
	before, err := json.Marshal(c)
	require.NoError(t, err)
	after, err := json.Marshal(f.Course)
	require.NoError(t, err)
	assert.JSONEq(t, string(before), string(after))
	assert.Equal(t, written(t, c, people), written(t, f.Course, f.People))
}

// Documents come in one by one too.
func TestADocumentAlone(t *testing.T) {
	c := aCourse(t)
	for _, v := range []any{c.Instruments[0], c.Sheets[0], c.Bank[0]} {
		b, err := json.Marshal(v)
		require.NoError(t, err)
		f, err := transfer.ReadCourse(b)
		require.NoError(t, err)
		require.Empty(t, f.Refused)
		assert.Equal(t, 1, len(f.Instruments)+len(f.Sheets)+len(f.Bank))
		assert.Nil(t, f.Class)
	}
}

// zipped is a zip file of texts by name.
func zipped(t testing.TB, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, says := range files {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = f.Write([]byte(says))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func TestHostileCourses(t *testing.T) {
	head := func(more string) string {
		return `{"format": "cavix/course", "version": 1, "name": "Mill"` + more + `}`
	}
	for _, tt := range []struct {
		says string
		data []byte
	}{
		{"⟦course-file.read-course⟧", nil},
		{"⟦course-file.file name=course.json⟧", zipped(t, map[string]string{"a": "b"})},
		{"⟦course-file.no-zip-file-can ", []byte("PK and then nothing")},
		{"is not a field of this document", zipped(t, map[string]string{"course.json": head(`, "marks": 1`)})},
		{"version", zipped(t, map[string]string{
			"course.json": `{"format": "cavix/course", "version": 2, "name": "x"}`})},
		{"words.own", zipped(t, map[string]string{"course.json": head(`, "words": {"own": {"drum": 7}}`)})},
		{"words", zipped(t, map[string]string{"course.json": head(`, "words": {"own": {"drum": "<script>"}}`)})},
		{"⟦course-file.too-long-document-most name=course.json ",
			zipped(t, map[string]string{"course.json": strings.Repeat(" ", 3<<20)})},
	} {
		_, err := transfer.ReadCourse(tt.data)
		assert.ErrorContains(t, err, tt.says)
	}
	for says, file := range map[string]string{
		"⟦course-file.file name=no.json⟧":                          "",
		"⟦document.document-not-json ":                             "{",
		"⟦course.course-takes-cavix-instrument format=cavix/none⟧": `{"format": "cavix/none"}`,
		"marked": `{"format": "cavix/sheet", "version": 1, "title": "x", "blocks": [], "marked": true}`,
		"⟦sheet.no-kind-exercise-known kind=none ": `{"format": "cavix/sheet", "version": 1, "title": "x",
			"blocks": [{"kind": "none", "cards": 3}]}`,
		"got null, want object": `{"format": "cavix/sheet", "version": 1, "title": "x",
			"blocks": [{"kind": "read", "cards": 3, "instruments": [null]}]}`,
		"field=title": `{"format": "cavix/sheet", "version": 1, "title": " ",
			"blocks": [{"kind": "care", "cards": 3}]}`,
		"field=item":                           `{"format": "cavix/care", "version": 1}`,
		"field=item.reason":                    `{"format": "cavix/care", "version": 1, "item": {"care": "spot"}}`,
		"⟦course-file.too-long-document-most ": strings.Repeat(" ", 3<<20),
	} {
		files := map[string]string{"course.json": head(`, "sheets": ["no.json"]`), "../../etc/passwd": "root"}
		if file != "" {
			files["no.json"] = file
		}
		f, err := transfer.ReadCourse(zipped(t, files))
		require.NoError(t, err, says)
		require.Len(t, f.Refused, 1, says)
		assert.Contains(t, f.Refused[0].Reason.String(), says)
	}
	f, err := transfer.ReadCourse(zipped(t, map[string]string{"course.json": head(""),
		"people.csv": "name\nAsh W.\nash w.\n"}))
	require.NoError(t, err)
	require.Len(t, f.Refused, 1)
	assert.Contains(t, f.Refused[0].Reason.String(), "⟦people.same-name-as-line first=2⟧")
	// A bomb: little in the file, much when it is read.
	bomb := map[string]string{}
	names := []string{}
	for _, n := range strings.Fields("a b c d e f g h i j k l m n o p q r s t") {
		bomb[n] = strings.Repeat(" ", 2<<20)
		names = append(names, `"`+n+`"`)
	}
	bomb["course.json"] = head(`, "sheets": [` + strings.Join(names, ",") + `]`)
	f, err = transfer.ReadCourse(zipped(t, bomb))
	require.NoError(t, err)
	assert.Contains(t, f.Refused[len(f.Refused)-1].Reason.String(), "⟦course-file.too-long-document-most ")
}

func FuzzReadCourse(f *testing.F) {
	f.Add(written(f, course.Course{Name: "x", Class: &course.Class{}}, nil))
	f.Add([]byte(`{"format": "cavix/sheet", "version": 1, "title": "x", "blocks": [{"kind": "care", "cards": 3}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		c, err := transfer.ReadCourse(data)
		if err != nil || len(c.Refused) > 0 {
			return
		}
		// What is accepted can be dealt, drawn and written again.
		for _, s := range c.Sheets {
			_, err := s.Deal(kinds.All, 1)
			require.NoError(t, err)
		}
		require.NoError(t, transfer.WriteCourse(&bytes.Buffer{}, c.Course, nil, nil))
	})
}
