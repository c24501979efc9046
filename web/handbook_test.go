package web_test

import (
	"io/fs"
	"net/http"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/locale"
)

// Getting started names buttons and headings as they are, and its links lead somewhere. It is for instructors.
func TestGettingStartedIsTrue(t *testing.T) {
	long(t)
	t.Parallel()
	says, err := os.ReadFile("../locale/en/handbook/getting-started.md")
	require.NoError(t, err)
	files, err := fs.Glob(locale.Files, "en/*.txt")
	require.NoError(t, err)
	var pages strings.Builder
	for _, f := range files {
		catalogue, err := locale.Files.ReadFile(f)
		require.NoError(t, err)
		pages.Write(catalogue)
	}
	named := regexp.MustCompile(`\*\*([^*]+)\*\*`).FindAllStringSubmatch(string(says), -1)
	require.Greater(t, len(named), 25)
	for _, n := range named {
		assert.Contains(t, pages.String(), n[1], "no page says so")
	}

	base := demoSite(t)
	maren := as(t, base, "maren")
	for _, link := range regexp.MustCompile(`\]\((/[^)]*)\)`).FindAllStringSubmatch(string(says), -1) {
		status, _, _ := maren.get(link[1])
		assert.Equal(t, http.StatusOK, status, link[1])
	}
	_, _, page := maren.get("/handbook")
	holdAll(t, page, "For instructors", "/handbook/getting-started")
	_, _, page = maren.get("/handbook?q=excuse+a+student")
	holds(t, page, "/handbook/getting-started#dates-and-one-who-was-ill")

	wren := as(t, base, "Wren A.")
	for _, path := range []string{"/handbook", "/handbook/zero", "/handbook/schools", "/handbook?q=excuse+a+student"} {
		_, _, page = wren.get(path)
		assert.NotContains(t, page, "getting-started", path)
	}
	status, _, _ := wren.get("/handbook/getting-started")
	assert.Equal(t, http.StatusNotFound, status)
}

// The search of the handbook finds sections and slips, shows what was typed, and says when it finds nothing.
func TestSearchingTheHandbook(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/handbook/vernier")
	holds(t, page, `action="/handbook"`)
	_, _, page = wren.get("/handbook?q=negative+zero")
	holdAll(t, page, `value="negative zero"`, `href="/handbook/zero#`)
	_, _, page = wren.get("/handbook?q=%3Cb%3E+xyzzy")
	holdAll(t, page, "No page has", "&lt;b&gt; xyzzy")
	status, _, page := wren.get("/handbook?q=" + strings.Repeat("zero+", 900))
	assert.Equal(t, http.StatusOK, status)
	assert.Less(t, strings.Count(page, "<li>"), 60)
}

// A page's check asks three questions and marks each at once. It keeps nothing, and a test that is open closes it with
// its page.
func TestThePageChecksItsReader(t *testing.T) {
	long(t)
	t.Parallel()
	base, s := demoStore(t)
	latest := func() time.Time {
		at, err := s.Latest(t.Context())
		require.NoError(t, err)
		return at
	}
	wren := as(t, base, "Wren A.")
	_, _, page := wren.get("/handbook/micrometer")
	holdAll(t, page, `href="/handbook/micrometer/check"`, "Check yourself")
	before := latest()
	_, at, page := wren.get("/handbook/micrometer/check")
	require.Regexp(t, `^/handbook/micrometer/check/\d+/1$`, at)
	holdAll(t, page, `name="main"`, `name="observed"`)
	_, _, page = wren.post(at, "main=99&fine_line=1&observed=99.01")
	holdAll(t, page, "You wrote 99", "Next question")
	_, _, page = wren.post(strings.TrimSuffix(at, "1")+"3", "do=anyway")
	holds(t, page, en("handbook.check.back"))
	assert.Equal(t, before, latest(), "nothing is written")
	for _, wrong := range []string{"/handbook/micrometer/check/7/4", "/handbook/micrometer/check/7/0",
		"/handbook/micrometer/check/x/1", "/handbook/nothing/check", "/handbook/getting-started/check/7/1"} {
		status, _, _ := wren.get(wrong)
		assert.Equal(t, http.StatusNotFound, status, wrong)
	}
}
