package web_test

import (
	"bytes"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/ops"
	"cavix/school"
	"cavix/store"
	"cavix/web"
)

// What Prometheus reads counts requests by place and commits by size, and names nobody; a failed request stands in the
// log under the number that its page shows.
func TestTheServerIsWatched(t *testing.T) {
	data, err := demoData()
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "demo.db")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	s, err := store.Open(t.Context(), file)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	var said bytes.Buffer
	log := slog.New(slog.NewTextHandler(&said, nil))
	a := &ops.Supervisor{Path: file, Store: s, Log: log, Jobs: ops.NewJobs(log)}
	metrics := ops.NewMetrics(a)
	base := site(t, web.Config{School: school.New(s), Log: log, Supervisor: a, Metrics: metrics})
	maren := newVisitor(t, base)
	maren.post("/signin", "name=maren&passphrase="+demo.Passphrase)
	maren.get("/classes/1")
	maren.get("/classes/2")
	maren.get("/classes/Maren")
	maren.get("/nowhere/Maren")
	numbers := httptest.NewRecorder()
	metrics.Handler().ServeHTTP(numbers, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	says := numbers.Body.String()
	holdAll(t, says, `cavix_request_seconds_count{method="GET",place="/classes/{class}",status="200"}`,
		`cavix_request_seconds_count{method="POST",place="/signin",status="303"} 1`, "cavix_commit_pieces_count",
		"cavix_disk_left_bytes",
		"cavix_newest_copy_seconds +Inf", "process_resident_memory_bytes")
	assert.NotContains(t, says, "Maren")

	set(t, s, "PRAGMA query_only = 1")
	req, err := http.NewRequest(http.MethodPost, base+"/classes", http.NoBody)
	require.NoError(t, err)
	req.Header.Set("X-Request-Id", "made up\" by=me")
	r, err := maren.Do(req)
	require.NoError(t, err)
	defer r.Body.Close()
	_, err = io.ReadAll(r.Body)
	require.NoError(t, err)
	_, _, page := maren.post("/classes", "name=Mondays")
	number := regexp.MustCompile(`under <span class="mono">([^<]+)</span>`).FindStringSubmatch(page)
	require.NotNil(t, number)
	assert.Contains(t, said.String(), "id="+number[1])
	assert.NotContains(t, said.String(), "made up")
}
