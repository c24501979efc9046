package web_test

import (
	"io"
	"net/http"
	"net/url"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// in visits a page with a browser that prefers a language, and returns the language of the page and the page.
func (v *visitor) in(reader, path string) (language, page string) {
	v.t.Helper()
	r, err := http.NewRequest(http.MethodGet, v.base+path, nil)
	require.NoError(v.t, err)
	r.Header.Set("Accept-Language", reader)
	answer, err := v.Do(r)
	require.NoError(v.t, err)
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	require.NoError(v.t, err)
	return string(regexp.MustCompile(`<html lang="([^"]*)"`).FindSubmatch(b)[1]), string(b)
}

// A page speaks the language that its reader has chosen, else the class's, else the browser's; what a class sees
// together, or takes home on paper, speaks the class's first. Only a language that there is can be chosen.
func TestEachReadsTheirLanguage(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	maren, wren := as(t, base, "maren"), as(t, base, "Wren A.")
	speaks := func(v *visitor, reader, path, language string) {
		t.Helper()
		is, _ := v.in(reader, path)
		assert.Equal(t, language, is, path)
	}
	speaks(newVisitor(t, base), "pt-BR, fr;q=0.8, en;q=0.5", "/", "fr")
	speaks(newVisitor(t, base), "pt-BR, xx", "/", "en")
	speaks(wren, "de-AT", "/my", "de")

	set(t, s, "UPDATE classes SET words = json_set(words, '$.language', 'es') WHERE id = 1")
	for path, language := range map[string]string{"/my": "es", "/my/2/1": "es", "/my/surveys/1": "es"} {
		speaks(wren, "de", path, language)
	}
	speaks(maren, "de", "/desk", "de")
	speaks(maren, "de", "/classes/1", "es")
	speaks(maren, "de", "/board/1", "es")

	for _, v := range []*visitor{maren, wren} {
		status, at, page := v.post("/account", url.Values{"do": {"language"}, "language": {"fr"}}.Encode())
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, at, "/account")
		holdAll(t, page, `lang="fr"`)
		status, _, page = v.post("/account", url.Values{"do": {"language"}, "language": {"tlh"}}.Encode())
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		holdAll(t, page, `lang="fr"`)
	}
	speaks(wren, "de", "/my/2/1", "fr")
	speaks(maren, "de", "/classes/1", "fr")
	speaks(maren, "de", "/ledger/2", "fr")
	for _, shared := range []string{"/board/1", "/classes/1/people/slips"} {
		speaks(maren, "de", shared, "es")
	}

	wren.post("/account", url.Values{"do": {"language"}, "language": {""}}.Encode())
	speaks(wren, "de", "/my", "es")
}

// A check is explained in the language of who reads it, with the decimals they use, and what they typed as they typed
// it; the same check is explained to the instructor in theirs.
func TestAFeedbackIsReadInEveryLanguage(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	said := map[string]string{"en": "You wrote", "de": "Du hast", "es": "Escribiste", "fr": "Tu as écrit"}
	for reader, says := range said {
		language, page := wren.in(reader, "/my/2/1")
		assert.Equal(t, reader, language)
		holds(t, page, says)
	}
}
