package web_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/school"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
)

// hang brings an instrument document onto the Rack.
func (v *visitor) hang(document string) (int, string) {
	status, _, says := v.post("/rack/import", url.Values{"document": {document}}.Encode())
	return status, says
}

// As many instruments, sheets and classes as there may be: pages stay small, one more is refused in clear words, and
// what was typed stands there again.
func TestAFullRackStaysLight(t *testing.T) {
	if testing.Short() {
		t.Skip("imports hundreds of instruments; left out with -short")
	}
	base := demoSite(t)
	una := as(t, base, "una")
	_, _, says := una.get("/rack")
	before := len(regexp.MustCompile(`/workshop/\d+" aria`).FindAllString(says, -1))
	document := func(n int) string {
		b, err := json.Marshal(map[string]any{"format": "cavix/instrument", "version": 1,
			"name": fmt.Sprintf("Caliper %d of the cupboard", n), "family": "vernier-caliper", "unit": "mm",
			"main": map[string]any{"division": "1", "from": "0", "to": "300"},
			"fine": map[string]any{"kind": "vernier", "divisions": 50, "spans": 49}})
		require.NoError(t, err)
		return string(b)
	}
	for n := before; n < rack.MostInstruments; n++ {
		status, _ := una.hang(document(n))
		require.Equal(t, http.StatusOK, status)
	}
	status, says := una.hang(document(999))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "You have 300 instruments, which is the limit")
	sizes := map[string]int{"/rack": 120 << 10, "/rack?skip=288": 120 << 10, "/rack?q=cupboard": 120 << 10,
		"/sheets/new": 250 << 10, "/course": 250 << 10, "/desk": 120 << 10, "/surveys/new": 250 << 10, "/bin": 60 << 10}
	for path, most := range sizes {
		status, _, says := una.get(path)
		require.Equal(t, http.StatusOK, status, path)
		t.Logf("%s: %d KB", path, len(says)>>10)
		assert.LessOrEqual(t, len(says), most, path)
	}
	_, _, says = una.get("/rack?q=caliper+2")
	holdAll(t, says, "Caliper 20 of the cupboard", en("ui.parts.more"))
	assert.NotContains(t, says, "Caliper 31 of")
	picture := regexp.MustCompile(`/rack/\d+/hung\?v=[0-9a-f]+`).FindString(says)
	require.NotEmpty(t, picture)
	r, err := una.Get(base + picture)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, "image/svg+xml", r.Header.Get("Content-Type"))
	assert.Contains(t, r.Header.Get("Cache-Control"), "max-age")
	req, err := http.NewRequest(http.MethodGet, base+picture, nil)
	require.NoError(t, err)
	req.Header.Set("If-None-Match", r.Header.Get("ETag"))
	r, err = una.Do(req)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, http.StatusNotModified, r.StatusCode)
	status, _, _ = as(t, base, "ivo").get(picture)
	assert.Equal(t, http.StatusNotFound, status)

	// Twenty who look at it at once take little memory.
	var peak, idle runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&idle)
	var wg sync.WaitGroup
	stop := make(chan struct{})
	most := uint64(0)
	watched := make(chan struct{})
	go func() {
		defer close(watched)
		for {
			select {
			case <-stop:
				return
			case <-time.After(5 * time.Millisecond):
				runtime.ReadMemStats(&peak)
				most = max(most, peak.HeapInuse)
			}
		}
	}()
	for range 20 {
		wg.Go(func() { una.get("/rack"); una.get("/sheets/new") })
	}
	wg.Wait()
	close(stop)
	<-watched
	t.Logf("twenty at once: %d MB above %d MB", (most-min(most, idle.HeapInuse))>>20, idle.HeapInuse>>20)
	assert.Less(t, most, idle.HeapInuse+20*(64<<20))

	for n := 0; n < 400; n++ {
		status, _, says = una.post("/classes", fmt.Sprintf("name=Class+%d", n))
		if status != http.StatusOK {
			break
		}
	}
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	holds(t, says, "60 classes")
}

// A sheet of sixty cards on paper is a small file, and a card is a small page.
func TestPaperAndCardsAreSmall(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("prints sixty cards; left out with -short")
	}
	base := demoSite(t)
	maren := as(t, base, "maren")
	_, at, _ := maren.post("/sheets/new",
		"title=Sixty&blocks[0].kind=read&blocks[0].cards=60&blocks[0].settings[ask]=main&"+
			"blocks[0].settings[ask]=observed&blocks[0].instruments=1&blocks[0].instruments=2&"+
			"blocks[0].instruments=3&do=keep")
	require.Regexp(t, `^/sheets/\d+$`, at)
	_, at, says := maren.post("/classes/1/give", "sheet="+strings.TrimPrefix(at, "/sheets/"))
	require.Equal(t, "/classes/1", at)
	given := regexp.MustCompile(`/ledger/(\d+)">Sixty`).FindStringSubmatch(says)
	require.NotNil(t, given)
	maren.post("/ledger/"+given[1]+"/paper", "per=all")
	require.Eventually(t, func() bool {
		_, _, says = maren.get("/ledger/" + given[1] + "/paper")
		return strings.Contains(says, "Sheets, PDF")
	}, 30*time.Second, 100*time.Millisecond)
	for _, path := range []string{"/paper/printed", "/paper/1", "/paper/1?flash"} {
		size := len(maren.file("/ledger/" + given[1] + path))
		t.Logf("%s: %d KB", path, size>>10)
		assert.LessOrEqual(t, size, 2<<20, path)
	}
	for _, name := range []string{"Wren A.", "Elspeth O."} {
		v := as(t, base, name)
		heaviest := 0
		for sheet := 1; sheet <= 7; sheet++ {
			for n := 1; n <= 12; n++ {
				if status, _, says := v.get(fmt.Sprintf("/my/%d/%d", sheet, n)); status == http.StatusOK {
					heaviest = max(heaviest, len(says))
				}
			}
		}
		t.Logf("heaviest card of %s: %d KB", name, heaviest>>10)
		assert.LessOrEqual(t, heaviest, 250<<10)
	}
}

// Hundreds of people come in parts, can be sought, and have an end.
func TestManyPeopleComeInParts(t *testing.T) {
	if testing.Short() {
		t.Skip("adds a thousand people; left out with -short")
	}
	base, s := demoStore(t)
	maren := as(t, base, "maren")
	list := func(n int) []roster.ImportedPerson {
		out := make([]roster.ImportedPerson, n)
		for i := range out {
			out[i].Name = fmt.Sprintf("Hand %c%c%c", 'a'+i/676, 'a'+i/26%26, 'a'+i%26)
		}
		return out
	}
	by := access.Actor{ID: 1, Name: "Maren", At: time.Now()}
	_, err := school.New(s).Roster.Import(t.Context(), by, 1, list(540))
	require.NoError(t, err)
	_, err = school.New(s).Roster.Import(t.Context(), by, 1, list(1040))
	var full access.Full
	require.ErrorAs(t, err, &full)
	_, _, says := maren.get("/classes/1/people")
	holdAll(t, says, "<small>560</small>", en("ui.parts.more"), "Alder C.")
	assert.LessOrEqual(t, len(says), 120<<10)
	assert.NotContains(t, says, "Hand arz")
	_, _, says = maren.get("/classes/1/people?q=HAND+ARZ")
	holds(t, says, "Hand arz")
	_, _, says = maren.get("/classes/1/people?skip=500")
	holdAll(t, says, en("ui.parts.before"), "Wren A.")
}
