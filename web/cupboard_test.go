package web_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An instrument that is changed: under another name it is asked which is meant, an older form does not overwrite, and
// the state before comes back.
func TestACupboard(t *testing.T) {
	long(t)
	t.Parallel()
	v := as(t, demoSite(t), "maren")
	_, _, rack := v.get("/rack?order=newest")
	names := func(page string) []string {
		var out []string
		name := regexp.MustCompile(`<h2 class="m-0"><a [^>]*href="/workshop/\d+">([^<]*)</a>`)
		for _, m := range name.FindAllStringSubmatch(page, -1) {
			out = append(out, m[1])
		}
		return out
	}
	at := regexp.MustCompile(`/workshop/\d+`).FindString(rack)
	_, _, page := v.get(at)
	form := fields(page)
	was := form.Get("name")

	form.Set("name", was+" B")
	form.Set("do", "keep")
	status, _, says := v.post(at, form.Encode())
	assert.Equal(t, http.StatusConflict, status)
	holds(t, says, "What do you want to do?")
	form = fields(says)
	assert.Equal(t, was+" B", form.Get("name"), "what was typed stays")
	form.Set("do", "another")
	_, where, _ := v.post(at, form.Encode())
	require.NotEqual(t, at, where)
	_, _, other := v.get(strings.Split(where, "?")[0])
	assert.Equal(t, was+" B", fields(other).Get("name"))
	_, _, same := v.get(at)
	assert.Equal(t, was, fields(same).Get("name"), "the first keeps its name")

	form = fields(same)
	form.Set("do", "another")
	_, where, _ = v.post(at, form.Encode())
	_, _, other = v.get(strings.Split(where, "?")[0])
	assert.Equal(t, was+" 2", fields(other).Get("name"), "another of the same name gets a number")

	first, second := fields(same), fields(same)
	first.Set("main.number_every", "7")
	first.Set("main.number_step", "")
	first.Set("do", "keep")
	status, _, _ = v.post(at, first.Encode())
	require.Equal(t, http.StatusOK, status)
	second.Set("name", was+" C")
	second.Set("do", "rename")
	status, _, says = v.post(at, second.Encode())
	assert.Equal(t, http.StatusConflict, status)
	holds(t, says, "changed in another window", "both are shown")
	holds(t, says, en("author.workshop.in-this-window"))
	_, _, now := v.get(at)
	assert.Equal(t, "7", fields(now).Get("main.number_every"), "not overwritten")
	second = fields(says)
	second.Set("do", "overwrite")
	v.post(at, second.Encode())
	_, _, now = v.get(at)
	assert.Equal(t, was+" C", fields(now).Get("name"))

	earlier := strings.Replace(at, "/workshop/", "/rack/", 1) + "/earlier"
	_, _, says = v.get(earlier)
	states := regexp.MustCompile(`name="state" value="(\d+)"`).FindAllStringSubmatch(says, -1)
	require.Len(t, states, 2)
	status, _, _ = as(t, v.base, "ivo").post(earlier, "state="+states[1][1])
	assert.Equal(t, http.StatusNotFound, status, "not another's")
	_, _, says = v.post(earlier, "state="+states[1][1])
	holds(t, says, "The earlier state is back")
	assert.Equal(t, was, fields(says).Get("name"))

	alike := strings.Replace(at, "/workshop/", "/rack/", 1) + "/alike"
	before := len(names(rack))
	_, _, rack = v.post(alike, "count=8&zeros=yes")
	made := names(rack)[:8]
	assert.Greater(t, len(names(rack)), before)
	for _, name := range made {
		assert.True(t, strings.HasPrefix(name, was+" "), name)
	}
	zeros := map[string]bool{}
	for _, m := range regexp.MustCompile(`closed, it shows ([^ ]*)`).FindAllStringSubmatch(rack, 8) {
		zeros[m[1]] = true
	}
	assert.Len(t, zeros, 8, "eight zero errors of their own")
	_, _, rack = v.get("/rack?q=" + "zzz")
	holds(t, rack, "No instrument on the Rack matches")
	_, _, rack = v.get("/rack?show=micrometer")
	assert.NotContains(t, rack, was)
	status, _, _ = v.post(alike, "count=4000")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

// A sheet that was changed in another window is not overwritten silently, and its state before comes back.
func TestASheetInTwoWindows(t *testing.T) {
	long(t)
	t.Parallel()
	v := as(t, demoSite(t), "maren")
	_, _, list := v.get("/sheets")
	at := regexp.MustCompile(`/sheets/\d+`).FindString(list)
	_, _, page := v.get(at)
	one, two := fields(page), fields(page)
	was := one.Get("title")
	one.Set("title", "From the first window")
	one.Set("do", "keep")
	_, _, _ = v.post(at, one.Encode())
	two.Set("title", "From the second window")
	two.Set("do", "keep")
	status, _, says := v.post(at, two.Encode())
	assert.Equal(t, http.StatusConflict, status)
	holds(t, says, "Saved: From the first window")
	holds(t, says, "In this window: From the second window")
	_, _, says = v.get(at)
	assert.Equal(t, "From the first window", fields(says).Get("title"))
	_, _, says = v.get(at + "/earlier")
	state := regexp.MustCompile(`name="state" value="(\d+)"`).FindStringSubmatch(says)
	require.NotNil(t, state)
	_, _, says = v.post(at+"/earlier", "state="+state[1])
	assert.Equal(t, was, fields(says).Get("title"))
	_, _, says = v.get("/sheets?show=new&order=newest")
	assert.NotContains(t, says, ">"+was+"<", "it is given already")
}
