package web_test

import (
	"bufio"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/web/ui"
)

// Who may only view a class sees its pages, and takes nothing out of it: no table, no paper, no report, no joining
// code.
func TestAViewerDownloadsNothing(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	_, _, page := maren.post("/classes/1/staff", "login=ivo&role=looks")
	holds(t, page, "Ivo")
	_, _, page = maren.get("/surveys")
	survey := regexp.MustCompile(`href="(/surveys/\d+)"`).FindStringSubmatch(page)
	require.NotNil(t, survey)
	_, _, page = maren.get("/classes/1")
	require.Contains(t, page, "MILL47")
	for _, path := range []string{"/classes/1", "/classes/1/people", "/classes/1/ledger", "/classes/1/wrong",
		"/ledger/2", "/board/1", survey[1]} {
		status, _, page := ivo.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		assert.NotContains(t, page, "MILL47", path)
		for _, m := range regexp.MustCompile(`href="([^"#]*)"`).FindAllStringSubmatch(page, -1) {
			assert.NotRegexp(t, `^/(classes|ledger|surveys)/.*/(table|list|slips|answers|data|report|printed)\b`, m[1],
				"%s links to what a viewer is refused", path)
		}
	}
	for _, path := range []string{"/classes/1/people/list", "/classes/1/people/slips", "/classes/1/people/1/data",
		"/classes/1/ledger/table", "/classes/1/answers", "/ledger/2/answers", "/ledger/2/paper/printed",
		"/ledger/2/paper/table", "/ledger/2/paper/1",
		"/ledger/2/paper/1/cards", survey[1] + "/table", survey[1] + "/report", survey[1] + "/plot/1",
		"/course/file?class=1&answers=true", "/course/file?class=1&people=true"} {
		status, _, says := ivo.get(path)
		assert.Equal(t, http.StatusForbidden, status, path)
		holds(t, says, "Your role in this class does not allow this", path)
	}
}

// listen reads a stream of events and closes ended when the server ends it.
func (v *visitor) listen(path string) (status int, ended <-chan struct{}) {
	v.t.Helper()
	r, err := v.Get(v.base + path)
	require.NoError(v.t, err)
	v.t.Cleanup(func() { _ = r.Body.Close() })
	end := make(chan struct{})
	go func() {
		defer close(end)
		for lines := bufio.NewScanner(r.Body); lines.Scan(); {
		}
	}()
	return r.StatusCode, end
}

// What keeps a page up to date ends when who listens may no longer: signed out, left the class, or with a role taken
// away.
func TestStreamsEndWithTheRight(t *testing.T) {
	if testing.Short() {
		t.Skip("waits for seconds to pass; left out with -short")
	}
	t.Parallel()
	base := demoSite(t)
	maren, ivo, wren, tobin := as(t, base, "maren"), as(t, base, "ivo"), as(t, base, "Wren A."), as(t, base, "Tobin F.")
	maren.post("/classes/1/staff", "login=ivo&role=marks")
	status, taken := ivo.listen("/board/1/events")
	require.Equal(t, http.StatusOK, status)
	status, left := wren.listen("/round/events")
	require.Equal(t, http.StatusOK, status)
	status, out := tobin.listen("/round/events")
	require.Equal(t, http.StatusOK, status)
	_, stays := maren.listen("/board/1/events")
	maren.post("/classes/1/staff", "login=ivo&role=")
	maren.post("/classes/1/people/1", "do=leave")
	tobin.post("/signout", "")
	for name, end := range map[string]<-chan struct{}{"the role taken": taken, "left": left, "signed out": out} {
		select {
		case <-end:
		case <-time.After(10 * time.Second):
			assert.Fail(t, "the stream goes on", name)
		}
	}
	select {
	case <-stays:
		assert.Fail(t, "the stream of who still may has ended")
	default:
	}
	maren.post("/classes/1/people/1", "do=back")
	_, at, _ := wren.get("/my")
	assert.Equal(t, "/join", at, "who comes back signs in anew")
}

// One person has so many pages kept up to date, and no more; when one is closed another may be opened.
func TestStreamsAreCounted(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	wren, tobin := as(t, base, "Wren A."), as(t, base, "Tobin F.")
	for i := range ui.MostStreams {
		status, _ := wren.listen("/round/events")
		require.Equal(t, http.StatusOK, status, i)
	}
	status, _, says := wren.get("/round/events")
	assert.Equal(t, http.StatusTooManyRequests, status)
	holds(t, says, fmt.Sprint("you have ", ui.MostStreams))
	status, _ = tobin.listen("/round/events")
	assert.Equal(t, http.StatusOK, status, "others are not held up")
	assert.False(t, strings.Contains(says, "Wren"))
}
