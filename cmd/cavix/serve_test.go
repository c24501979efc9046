package main

import (
	"bufio"
	"bytes"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// served is the program as it runs at a school, with somebody at a browser.
type served struct {
	t           *testing.T
	program     string
	data        string
	process     *exec.Cmd
	base, setup string
	http.Client
}

var (
	announced  = regexp.MustCompile(`Cavix is at (http://\S+)`)
	setupPlace = regexp.MustCompile(`instructor at (http://\S+)`)
)

// start runs the program until it says where it is.
func (s *served) start() {
	s.t.Helper()
	s.process = exec.Command(s.program, "serve", "--addr", "127.0.0.1:0", "--data", s.data, "--new")
	out, err := s.process.StdoutPipe()
	require.NoError(s.t, err)
	require.NoError(s.t, s.process.Start())
	lines := bufio.NewScanner(out)
	require.True(s.t, lines.Scan())
	found := announced.FindStringSubmatch(lines.Text())
	require.NotNil(s.t, found, lines.Text())
	first := s.base == ""
	s.base = found[1]
	if first {
		require.True(s.t, lines.Scan())
		s.setup = setupPlace.FindStringSubmatch(lines.Text())[1]
	}
	go func() { _, _ = io.Copy(io.Discard, out) }()
}

// kill ends the program without a word of warning.
func (s *served) kill() {
	s.t.Helper()
	require.NoError(s.t, s.process.Process.Kill())
	_ = s.process.Wait() // killed: that is its error
}

func (s *served) page(r *http.Response, err error) (path, says string) {
	s.t.Helper()
	require.NoError(s.t, err)
	defer r.Body.Close()
	b, err := io.ReadAll(r.Body)
	require.NoError(s.t, err)
	return r.Request.URL.Path, string(b)
}

func (s *served) open(path string) (string, string) {
	s.t.Helper()
	return s.page(s.Get(s.base + path))
}

func (s *served) send(path, form string) (string, string) {
	s.t.Helper()
	values, err := url.ParseQuery(form)
	require.NoError(s.t, err)
	return s.page(s.PostForm(s.base+path, values))
}

// The program is killed in the middle of everything; who comes back finds what they had been told is kept.
func TestAKilledServerLosesNothing(t *testing.T) {
	if testing.Short() {
		t.Skip("builds and runs the program; left out with -short")
	}
	dir := t.TempDir()
	program := filepath.Join(dir, "cavix")
	out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput()
	require.NoError(t, err, "%s", out)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	s := &served{t: t, program: program, data: filepath.Join(dir, "school.db"), Client: http.Client{Jar: jar}}
	s.start()
	t.Cleanup(func() { _ = s.process.Process.Kill() })

	key := s.setup[strings.Index(s.setup, "key=")+4:]
	at, _ := s.send("/setup", "key="+key+"&name=Maren&login=maren&passphrase=long+enough")
	require.Equal(t, "/desk", at)
	_, says := s.send("/rack/import", url.Values{"document": {caliper}}.Encode())
	require.NotContains(t, says, `class="fault"`)
	at, _ = s.send(
		"/sheets/new",
		"title=Pins&blocks[0].kind=read&blocks[0].cards=3&blocks[0].settings[ask]=main&"+
			"blocks[0].settings[ask]=observed&blocks[0].instruments=1&do=keep",
	)
	require.Equal(t, "/sheets/1", at)
	_, says = s.send("/classes", "name=Mondays")
	code := regexp.MustCompile(`bigcode">([A-Z0-9]{6})<`).FindStringSubmatch(says)
	require.NotNil(t, code)
	s.send("/classes/1/give", "sheet=1")
	s.kill()

	s.start()
	at, says = s.open("/ledger/1")
	require.Equal(t, "/ledger/1", at, "still signed in")
	assert.Contains(t, says, "Pins")
	s.send("/signout", "")
	at, _ = s.send("/join", "name=Wren+A.&passphrase=tide+mill&do=join&code="+code[1])
	require.Equal(t, "/my", at)
	s.open("/my/1/1") // deals the cards
	s.send("/my/1/1/draft", "main=12&observed=")
	_, says = s.send("/my/1/2", "main=1&observed=1.00")
	require.Contains(t, says, "of 2")
	s.kill()

	s.start()
	_, says = s.open("/my/1/1")
	assert.Contains(t, says, `name="main" value="12"`, "the half-filled card")
	_, says = s.open("/my/1/2")
	assert.Contains(t, says, `value="1.00"`, "the answer that was marked")
	_, again := s.open("/my/1/3")
	_, third := s.open("/my/1/3")
	assert.Equal(t, again, third, "the card is not dealt anew")

	// Two tabs hand in the same card at the same moment: one of them counts, and both then show it.
	var tabs sync.WaitGroup
	shown := make([]string, 8)
	for i := range shown {
		tabs.Go(func() {
			r, err := s.PostForm(s.base+"/my/1/3", url.Values{"main": {string(rune('1' + i))}, "observed": {"5.00"}})
			if err == nil {
				defer r.Body.Close()
				b, _ := io.ReadAll(r.Body)
				shown[i] = string(b)
			}
		})
	}
	tabs.Wait()
	counted := regexp.MustCompile(`name="main" value="([^"]*)"`)
	_, says = s.open("/my/1/3")
	kept := counted.FindStringSubmatch(says)
	require.NotNil(t, kept)
	for _, tab := range shown {
		found := counted.FindStringSubmatch(tab)
		require.NotNil(t, found)
		assert.Equal(t, kept[1], found[1], "the first answer counts in every tab")
	}
}

// A file that is taken away under the server stops it, with a line that says where everything is now.
func TestAFileThatVanishesStopsTheServer(t *testing.T) {
	if testing.Short() {
		t.Skip("serves until a file is missed; left out with -short")
	}
	data := filepath.Join(t.TempDir(), "school.db")
	var out, errs synced
	ended := make(chan int, 1)
	go func() { ended <- run([]string{"serve", "--addr", "127.0.0.1:0", "--data", data, "--new"}, &out, &errs) }()
	require.Eventually(t, func() bool { return strings.Contains(out.String(), "Cavix is at") }, 20*time.Second,
		10*time.Millisecond, "%s", &errs)
	require.NoError(t, os.Rename(data, data+".moved"))
	select {
	case code := <-ended:
		assert.Equal(t, 1, code)
		assert.Contains(t, errs.String(),
			"was moved, removed or replaced while it was served. All that was kept until now is in "+data+".rescued-")
	case <-time.After(30 * time.Second):
		t.Fatal("it went on without its file")
	}
}

// synced is a buffer that one writes while another reads.
type synced struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (s *synced) Write(p []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.Write(p)
}

func (s *synced) String() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.String()
}

// The made-up gauge sends to what listens, a numbered line each.
func TestTheGaugeSends(t *testing.T) {
	var mu sync.Mutex
	var lines []string
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b, _ := io.ReadAll(r.Body)
		mu.Lock()
		defer mu.Unlock()
		if lines = append(lines, string(b)); len(lines) > 3 {
			http.Error(w, "the comparison is full", http.StatusConflict)
			return
		}
		_, _ = io.WriteString(w, "1 read, 0 again, 0 apart\n")
	}))
	defer srv.Close()
	code, out, errs := call(t, "gauge", "--to", srv.URL+"/gauge/x", "--count", "3", "--pace", "1ms")
	require.Zero(t, code, errs)
	assert.Equal(t, 3, strings.Count(out, "1 read"))
	for n, line := range lines {
		assert.Regexp(t, regexp.MustCompile(`^`+string(rune('1'+n))+` [+-]?\d+\.\d\d mm\n$`), line)
	}
	code, _, errs = call(t, "gauge", "--to", srv.URL+"/gauge/x", "--count", "1")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "the comparison is full")
}
