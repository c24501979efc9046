package main

import (
	"fmt"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"cavix/school"
	"cavix/school/roster"
	"cavix/store"
)

// built is the program as it is served.
func built(b *testing.B) string {
	b.Helper()
	program := filepath.Join(b.TempDir(), "cavix")
	out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput()
	require.NoError(b, err, "%s", out)
	return program
}

// BenchmarkStart is the time from starting the program, on a file that is there, to its first page.
func BenchmarkStart(b *testing.B) {
	w := &worked{program: built(b), data: filepath.Join(b.TempDir(), "school.db"), addr: "127.0.0.1:0"}
	s, err := store.Open(b.Context(), w.data)
	require.NoError(b, err)
	_, err = school.New(s).Roster.SetUp(b.Context(), roster.Instructor{Login: "maren", Name: "Maren"})
	require.NoError(b, err)
	require.NoError(b, s.Close())
	w.tb = b
	w.errs, err = os.OpenFile(os.DevNull, os.O_WRONLY, 0)
	require.NoError(b, err)
	for b.Loop() {
		w.start()
		r, err := http.Get("http://" + w.addr + "/signin")
		require.NoError(b, err)
		require.NoError(b, r.Body.Close())
		b.StopTimer()
		w.kill()
		b.StartTimer()
	}
}

// BenchmarkFiveHundred is how much memory a server takes at most while 500 students, who are signed in, open a card and
// hand it in.
func BenchmarkFiveHundred(b *testing.B) {
	const students = 500
	w := newWorked(b, b.TempDir(), false, students)
	w.start()
	b.Cleanup(w.kill)
	w.signIn()
	// What hashing passphrases took is given back first: they are signed in, and at work.
	time.Sleep(5 * time.Second)
	if err := os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", w.process.Process.Pid), []byte("5"), 0); err != nil {
		b.Skip("this system does not tell how much memory a program takes:", err)
	}
	peak := regexp.MustCompile(`VmHWM:\s+(\d+) kB`)
	for n := 1; b.Loop(); n = n%soakCards + 1 {
		var wg sync.WaitGroup
		for _, p := range w.pupils {
			wg.Go(func() {
				r, err := p.client.Get(fmt.Sprintf("http://%s/my/1/%d", w.addr, n))
				if err == nil {
					_ = r.Body.Close()
				}
				_, _ = p.send(w, fmt.Sprintf("/my/1/%d", n), url.Values{"main": {"31"}, "observed": {"31.40"},
					"do": {"anyway"}})
			})
		}
		wg.Wait()
		time.Sleep(200 * time.Millisecond)
	}
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", w.process.Process.Pid))
	require.NoError(b, err)
	kb, err := strconv.Atoi(peak.FindStringSubmatch(string(status))[1])
	require.NoError(b, err)
	b.ReportMetric(float64(kb)/1024, "MB-at-most")
	b.ReportMetric(0, "ns/op")
}
