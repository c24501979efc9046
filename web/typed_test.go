package web_test

import (
	"html"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/words"
	"cavix/store"
)

// awkward is a name that has everything pages put words and decimals into, and what they escape.
const awkward = `{drum} "5,0" 0.02 <b>'`

// rewritten are what a name becomes that is taken for text of ours.
var rewritten = map[string]*regexp.Regexp{
	"a point became a comma": regexp.MustCompile("0,02 <b>'"),
	"a name became a term":   regexp.MustCompile(`(thimble|circular scale|maker's wheel) "5,0"`),
	"a mark is left":         regexp.MustCompile("[\ue000\ue001]"),
}

// scripted is a class's own word within an expression of a script.
var scripted = regexp.MustCompile(`(x-[a-z]+|:[a-z-]+|@[a-z.]+)="[^"]*maker`)

// What people type is shown as typed on every page, in a browser that wants decimal commas too: a class, a student, an
// instrument, a sheet and a study whose names look like terms and numbers. A class's own word with an apostrophe is no
// expression of a script.
func TestWhatIsTypedIsShownAsTyped(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("opens every page with odd names; left out with -short")
	}
	base, s := demoStore(t)
	visitors := map[string]*visitor{"maren": as(t, base, "maren"), "Wren A.": as(t, base, "Wren A.")}
	require.NoError(t, s.Write(t.Context(), func(tx *store.Tx) error {
		for _, change := range []string{"UPDATE classes SET name = ?", "UPDATE students SET name = ? WHERE id = 2", "UPDATE surveys SET title = ?",
			"UPDATE assignments SET title = ?", "UPDATE sheets SET title = ?", "UPDATE students SET team = ?",
			"UPDATE instruments SET name = ?1, document = json_set(document, '$.name', ?1)",
			"UPDATE cards SET item = json_replace(item, '$.body.instrument.name', ?1, '$.instrument.name', ?1)"} {
			if _, err := tx.Exec(change, awkward); err != nil {
				return err
			}
		}
		_, err := tx.Exec("UPDATE classes SET words = ?", `{"own":{"drum":"maker's wheel","observed reading":"maker's reading"}}`)
		return err
	}))
	set := words.Set{Own: map[words.Term]string{"drum": "maker's wheel"}}
	require.Equal(t, "maker's wheel", set.Word("drum").Long)
	seen := 0
	for who, v := range visitors {
		for _, path := range everyPage[who] {
			if strings.HasSuffix(path, "/practice/next") {
				continue
			}
			req, err := http.NewRequest(http.MethodGet, base+path, http.NoBody)
			require.NoError(t, err)
			req.Header.Set("Accept-Language", "de")
			r, err := v.Do(req)
			require.NoError(t, err)
			b, err := io.ReadAll(r.Body)
			require.NoError(t, errClose(r, err))
			text := html.UnescapeString(string(b))
			for what, wrong := range rewritten {
				if at := wrong.FindStringIndex(text); at != nil {
					t.Errorf("%s: %s: %q", path, what, text[max(0, at[0]-70):min(len(text), at[1]+20)])
				}
			}
			if at := scripted.FindIndex(b); at != nil {
				t.Errorf("%s: a word stands in an expression: %q", path, b[at[0]:at[1]])
			}
			assert.False(t, strings.Contains(string(b), "<b>'"), "%s: a name is not escaped", path)
			seen += strings.Count(text, awkward)
		}
	}
	assert.Greater(t, seen, 100, "the name stands on the pages")
}

func errClose(r *http.Response, err error) error {
	if closed := r.Body.Close(); err == nil {
		err = closed
	}
	return err
}
