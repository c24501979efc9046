package web_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
)

// Who keeps the server looks after it; to everybody else nothing of it is there.
func TestKeepingIsTheKeepersAlone(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("opens every page of the server for everybody; left out with -short")
	}
	base := demoSite(t)
	maren := as(t, base, "maren")
	pages := []string{"/keeping", "/keeping/people", "/keeping/signins", "/keeping/log", "/keeping/signins?who=student&skip=50", "/keeping/log?skip=-4"}
	for _, path := range pages {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		for _, name := range []string{"ivo", "Wren A."} {
			status, at, _ := as(t, base, name).get(path)
			assert.True(t, status == http.StatusNotFound || at == "/signin", "%s: %s gets %d at %s", path, name, status, at)
		}
		_, at, _ := newVisitor(t, base).get(path)
		assert.Equal(t, "/signin", at)
	}
	for who, want := range map[*visitor]int{maren: http.StatusOK, as(t, base, "ivo"): http.StatusNotFound} {
		r, err := who.Get(base + "/keeping/pprof/heap") // no text
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		assert.Equal(t, want, r.StatusCode)
	}
	for path, form := range map[string]string{"/keeping/copy": "", "/keeping/check": "", "/keeping/people": "name=X&login=x",
		"/keeping/people/1": "do=link", "/keeping/people/2": "do=keeper"} {
		status, _, _ := as(t, base, "ivo").post(path, form)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	_, _, text := maren.post("/keeping/copy", "")
	holdAll(t, text, "A copy was made and looked through", "demo-daily-")
	maren.post("/keeping/check", "")
	require.Eventually(t, func() bool { // on a busy machine it goes on in the background
		_, _, text = maren.get("/keeping")
		return strings.Contains(text, "sound: ") && strings.Contains(text, "answers marked anew")
	}, time.Minute, 100*time.Millisecond)
	_, _, text = maren.get("/keeping/signins")
	holdAll(t, text, "ivo", "came in", "<td class=\"mono\">this machine</td>")
}

// An instructor is added with a link that is good once, is signed out, kept out and let in again; somebody always keeps the
// server.
func TestTheKeeperAddsInstructors(t *testing.T) {
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, text := maren.post("/keeping/people", "name=Brin+Latchford&login=ivo")
	holdAll(t, text, "Somebody signs in with this name already", `value="Brin Latchford"`)
	link := func(text string) string {
		found := regexp.MustCompile(`value="http://[^/]+(/welcome\?key=[A-Z0-9]+)"`).FindStringSubmatch(text)
		require.NotNil(t, found)
		return found[1]
	}
	_, _, text = maren.post("/keeping/people", "name=Brin+Latchford&login=brin")
	first := link(text)
	_, _, text = maren.get("/keeping/people")
	assert.NotContains(t, text, "/welcome", "the link is shown once")
	brin := newVisitor(t, base)
	_, _, text = brin.post("/signin", "name=brin&passphrase=")
	holds(t, text, "do not belong together")
	_, _, text = brin.get(first)
	holds(t, text, "Welcome, Brin Latchford")
	key, err := url.Parse(first)
	require.NoError(t, err)
	choose := func(v *visitor, passphrase string) (int, string, string) {
		return v.post("/welcome", url.Values{"key": {key.Query().Get("key")}, "passphrase": {passphrase}}.Encode())
	}
	_, _, text = choose(brin, "short")
	holds(t, text, "8 to 200 characters")
	_, at, _ := choose(brin, "paddle and shaft")
	assert.Equal(t, "/desk", at)
	status, _, text := choose(newVisitor(t, base), "somebody else now")
	assert.Equal(t, http.StatusNotFound, status)
	holds(t, text, "This link is good no longer")
	_, _, text = brin.get("/keeping")
	holds(t, text, "Not here")

	_, _, text = maren.get("/keeping/people")
	id := regexp.MustCompile(`brin</span>(?s:.*?)action="(/keeping/people/\d+)"`).FindStringSubmatch(text)
	require.NotNil(t, id)
	maren.post(id[1], "do=end")
	_, at, _ = brin.get("/desk")
	assert.Equal(t, "/signin", at)
	_, at, _ = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	assert.Equal(t, "/desk", at)
	maren.post(id[1], "do=bar")
	_, at, _ = brin.get("/desk")
	assert.Equal(t, "/signin", at)
	_, _, text = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	holds(t, text, "do not belong together")
	maren.post(id[1], "do=unbar")
	_, at, _ = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	assert.Equal(t, "/desk", at)

	_, _, text = maren.post("/keeping/people/1", "do=nokeeper")
	holds(t, text, "Somebody must keep the server")
	_, _, text = maren.post("/keeping/people/1", "do=bar")
	holds(t, text, "Somebody must keep the server")
	maren.post(id[1], "do=keeper")
	status, _, _ = brin.get("/keeping")
	assert.Equal(t, http.StatusOK, status)
	maren.post("/keeping/people/1", "do=nokeeper")
	status, _, _ = maren.get("/keeping")
	assert.Equal(t, http.StatusNotFound, status)

	// A reset ends what was before.
	_, _, text = brin.post("/keeping/people/1", "do=link")
	again := link(text)
	_, at, _ = maren.get("/desk")
	assert.Equal(t, "/signin", at)
	_, _, text = maren.post("/signin", "name=maren&passphrase="+demo.Passphrase)
	holds(t, text, "do not belong together")
	_, _, text = maren.get(again)
	holds(t, text, "Welcome, Maren")
	_, _, text = brin.get("/keeping/log")
	holdAll(t, text, "Brin Latchford was added as an instructor", "keeps the server too", "may choose a new passphrase")
}
