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
	pages := []string{"/keeping", "/keeping/people", "/keeping/signins", "/keeping/log",
		"/keeping/signins?who=student&skip=50", "/keeping/log?skip=-4"}
	for _, path := range pages {
		status, _, _ := maren.get(path)
		assert.Equal(t, http.StatusOK, status, path)
		for _, name := range []string{"ivo", "Wren A."} {
			status, at, _ := as(t, base, name).get(path)
			assert.True(t, status == http.StatusNotFound || at == "/signin", "%s: %s gets %d at %s", path, name, status,
				at)
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
	for path, form := range map[string]string{"/keeping/copy": "", "/keeping/check": "",
		"/keeping/people": "name=X&login=x", "/keeping/people/1": "do=link", "/keeping/people/2": "do=keeper"} {
		status, _, _ := as(t, base, "ivo").post(path, form)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
	_, _, says := maren.post("/keeping/copy", "")
	holdAll(t, says, en("admin.notes"), "demo-daily-")
	maren.post("/keeping/check", "")
	require.Eventually(t, func() bool { // on a busy machine it goes on in the background
		_, _, says = maren.get("/keeping")
		return strings.Contains(says, "intact: ") && strings.Contains(says, "answers marked again")
	}, time.Minute, 100*time.Millisecond)
	_, _, says = maren.get("/keeping/signins")
	holdAll(t, says, "ivo", en("admin.signins.came-in"), en("admin.signins.this-machine")+"</td>")
}

// An instructor is added with a link that is good once, is signed out, kept out and let in again; somebody always keeps
// the server.
func TestTheKeeperAddsInstructors(t *testing.T) {
	long(t)
	t.Parallel()
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, _, says := maren.post("/keeping/people", "name=Brin+Latchford&login=ivo")
	holdAll(t, says, "Somebody signs in with this name already", `value="Brin Latchford"`)
	link := func(says string) string {
		found := regexp.MustCompile(`value="http://[^/]+(/welcome\?key=[A-Z0-9]+)"`).FindStringSubmatch(says)
		require.NotNil(t, found)
		return found[1]
	}
	_, _, says = maren.post("/keeping/people", "name=Brin+Latchford&login=brin")
	first := link(says)
	_, _, says = maren.get("/keeping/people")
	assert.NotContains(t, says, "/welcome", "the link is shown once")
	brin := newVisitor(t, base)
	_, _, says = brin.post("/signin", "name=brin&passphrase=")
	holds(t, says, en("account.coming.sign-in-post"))
	_, _, says = brin.get(first)
	holds(t, says, "Welcome, Brin Latchford")
	key, err := url.Parse(first)
	require.NoError(t, err)
	choose := func(v *visitor, passphrase string) (int, string, string) {
		return v.post("/welcome", url.Values{"key": {key.Query().Get("key")}, "passphrase": {passphrase}}.Encode())
	}
	_, _, says = choose(brin, "short")
	holds(t, says, "8 to 200 characters")
	_, at, _ := choose(brin, "paddle and shaft")
	assert.Equal(t, "/desk", at)
	status, _, says := choose(newVisitor(t, base), "somebody else now")
	assert.Equal(t, http.StatusNotFound, status)
	holds(t, says, en("account.own.expired"))
	_, _, says = brin.get("/keeping")
	holds(t, says, en("ui.fail.failures"))

	_, _, says = maren.get("/keeping/people")
	id := regexp.MustCompile(`brin</span>(?s:.*?)action="(/keeping/people/\d+)"`).FindStringSubmatch(says)
	require.NotNil(t, id)
	maren.post(id[1], "do=end")
	_, at, _ = brin.get("/desk")
	assert.Equal(t, "/signin", at)
	_, at, _ = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	assert.Equal(t, "/desk", at)
	maren.post(id[1], "do=bar")
	_, at, _ = brin.get("/desk")
	assert.Equal(t, "/signin", at)
	_, _, says = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	holds(t, says, en("account.coming.sign-in-post"))
	maren.post(id[1], "do=unbar")
	_, at, _ = brin.post("/signin", "name=brin&passphrase=paddle+and+shaft")
	assert.Equal(t, "/desk", at)

	_, _, says = maren.post("/keeping/people/1", "do=nokeeper")
	holds(t, says, en("admin.people.somebody-keep-server-somebody"))
	_, _, says = maren.post("/keeping/people/1", "do=bar")
	holds(t, says, en("admin.people.somebody-keep-server-somebody"))
	maren.post(id[1], "do=keeper")
	status, _, _ = brin.get("/keeping")
	assert.Equal(t, http.StatusOK, status)
	maren.post("/keeping/people/1", "do=nokeeper")
	status, _, _ = maren.get("/keeping")
	assert.Equal(t, http.StatusNotFound, status)

	// A reset ends what was before.
	_, _, says = brin.post("/keeping/people/1", "do=link")
	again := link(says)
	_, at, _ = maren.get("/desk")
	assert.Equal(t, "/signin", at)
	_, _, says = maren.post("/signin", "name=maren&passphrase="+demo.Passphrase)
	holds(t, says, en("account.coming.sign-in-post"))
	_, _, says = maren.get(again)
	holds(t, says, "Welcome, Maren")
	_, _, says = brin.get("/keeping/log")
	holdAll(t, says, "Brin Latchford was added as an instructor", en("log.keeps-server-too"),
		en("log.reset-passphrase"))
}
