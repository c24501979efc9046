package main

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
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

// BenchmarkDemo is the time from starting the demo to its first page.
func BenchmarkDemo(b *testing.B) {
	program := built(b)
	for b.Loop() {
		demo := exec.Command(program, "demo", "--addr", "127.0.0.1:0")
		out, err := demo.StdoutPipe()
		require.NoError(b, err)
		require.NoError(b, demo.Start())
		lines := bufio.NewScanner(out)
		require.True(b, lines.Scan(), "the demo does not start")
		found := regexp.MustCompile(`http://[0-9.:]+`).FindString(lines.Text())
		r, err := http.Get(found + "/signin")
		require.NoError(b, err)
		require.NoError(b, r.Body.Close())
		b.StopTimer()
		require.NoError(b, demo.Process.Signal(os.Interrupt))
		_, _ = io.Copy(io.Discard, out)
		require.NoError(b, demo.Wait())
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

// BenchmarkSubmissionCost is what a submission costs the server, alone in a process of its own: its processor time, by
// what the system has counted, and the slowest hundredth of the answers. 64 students hand in a sheet of soakCards cards
// a round; there are soakSheets sheets, so no more rounds.
func BenchmarkSubmissionCost(b *testing.B) {
	w := newWorked(b, b.TempDir(), false, 64)
	w.start()
	b.Cleanup(w.kill)
	w.signIn()
	var cost time.Duration
	var each []time.Duration
	var mu sync.Mutex
	for sheet := 1; b.Loop() && sheet <= soakSheets; sheet++ {
		b.StopTimer()
		path := fmt.Sprintf("/my/%d/", sheet)
		all := func(do func(p *soaker)) {
			var wg sync.WaitGroup
			for _, p := range w.pupils {
				wg.Go(func() { do(p) })
			}
			wg.Wait()
		}
		all(func(p *soaker) { // begins it
			r, err := p.client.Get("http://" + w.addr + path + "1")
			if err == nil {
				_ = r.Body.Close()
			}
		})
		began := processor(b, w.process.Process.Pid)
		b.StartTimer()
		all(func(p *soaker) {
			for n := 1; n <= soakCards; n++ {
				sent := time.Now()
				status, err := p.send(w, path+strconv.Itoa(n), url.Values{"main": {"31"}, "observed": {"31.40"}})
				took := time.Since(sent)
				mu.Lock()
				each = append(each, took)
				mu.Unlock()
				if err != nil || status != http.StatusSeeOther {
					b.Errorf("card %d: status %d, %v", n, status, err)
				}
			}
		})
		cost += processor(b, w.process.Process.Pid) - began
	}
	slices.Sort(each)
	b.ReportMetric(float64(cost.Microseconds())/float64(len(each)), "µs-of-processor")
	b.ReportMetric(float64(each[len(each)*99/100].Microseconds())/1000, "p99-ms")
	b.ReportMetric(float64(len(each))/b.Elapsed().Seconds(), "handed-in/s")
	b.ReportMetric(0, "ns/op")
}

// processor returns the processor time that a process has taken, of its own and in the system; it is counted in
// hundredths of a second.
func processor(b *testing.B, pid int) time.Duration {
	b.Helper()
	stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		b.Skip("this system does not tell what a program takes:", err)
	}
	after := stat[bytes.LastIndexByte(stat, ')')+2:] // the name may hold spaces
	fields := strings.Fields(string(after))
	user, err := strconv.Atoi(fields[11])
	require.NoError(b, err)
	system, err := strconv.Atoi(fields[12])
	require.NoError(b, err)
	return time.Duration(user+system) * 10 * time.Millisecond
}
