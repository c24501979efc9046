package web_test

import (
	"net/http"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A copy goes from the Rack, and from a sheet, to a colleague's Desk; there it is looked at, kept or declined.
func TestACopyForAColleague(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	_, _, page := maren.get("/rack")
	holds(t, page, `href="/rack/1/send"`)
	_, _, page = maren.get("/sheets/2")
	holds(t, page, `href="/sheets/2/send"`)
	status, _, page := maren.post("/rack/1/send", "login=nobody+here")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holdAll(t, page, en("copies.send"), `value="nobody here"`)
	_, _, page = maren.post("/rack/1/send", "login=ivo")
	holds(t, page, "A copy was sent to")
	maren.post("/sheets/2/send", "login=ivo")

	_, _, desk := ivo.get("/desk")
	found := regexp.MustCompile(
		`sent you a copy of the (sheet|instrument)\s+<a href="(/received/\d+)">`).FindAllStringSubmatch(desk, -1)
	require.Len(t, found, 2)
	assert.Equal(t, []string{"sheet", "instrument"}, []string{found[0][1], found[1][1]}, "newest first")
	_, _, page = ivo.get(found[0][2])
	holdAll(t, page, "Sluice pins", "that Maren Tollgate sent you", "cards", found[0][2]+"/picture/1")
	status, _, picture := ivo.get(found[0][2] + "/picture/1")
	assert.Equal(t, http.StatusOK, status)
	holds(t, picture, "<svg")
	for _, path := range []string{found[0][2], found[0][2] + "/picture/1"} {
		status, _, _ = maren.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	status, _, _ = ivo.get(found[1][2] + "/picture/2")
	assert.Equal(t, http.StatusNotFound, status)

	_, at, page := ivo.post(found[0][2], "do=keep")
	assert.Regexp(t, `^/sheets/\d+$`, at)
	holds(t, page, "Sluice pins")
	_, at, _ = ivo.post(found[1][2], "do=decline")
	assert.Equal(t, "/desk", at)
	_, _, desk = ivo.get("/desk")
	assert.NotContains(t, desk, "sent you a copy")
	status, _, _ = ivo.post(found[1][2], "do=keep")
	assert.Equal(t, http.StatusNotFound, status)
}
