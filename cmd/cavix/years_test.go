package main

import (
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/store"
)

// BenchmarkYears measures a school that has worked for ten years, in the file that CAVIX_YEARS names; it is made by
// `cavix demo --school --keep FILE`. It is the start of a server until its first page, the pages of one of the oldest
// classes, 20 times each, a copy that is made while pages are asked for, with the slowest of these, and the check of
// the file. Each is done once: -benchtime 1x.
func BenchmarkYears(b *testing.B) {
	w := &worked{tb: b, program: built(b), data: os.Getenv("CAVIX_YEARS"), addr: "127.0.0.1:0"}
	if w.data == "" {
		b.Skip("CAVIX_YEARS names no file")
	}
	s, err := store.Inspect(b.Context(), w.data)
	require.NoError(b, err)
	var class, sheet, student int
	err = store.One(b.Context(), s, store.Named("years", `SELECT a.class, max(a.id), (SELECT min(s.id) FROM students s
		WHERE s.class = a.class) FROM assignments a JOIN classes c ON c.id = a.class
		JOIN instructors i ON i.id = c.owner WHERE i.login = 'maren'
		GROUP BY a.class ORDER BY count(*) DESC, min(a.given) LIMIT 1`), nil, &class, &sheet, &student)
	require.NoError(b, err)
	require.NoError(b, s.Close())
	w.errs, err = os.OpenFile(os.DevNull, os.O_WRONLY, 0)
	require.NoError(b, err)
	require.NoError(b, exec.Command("sync").Run()) // what was done before does not keep the disk busy
	began := time.Now()
	w.start()
	b.Cleanup(w.kill)
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	client := http.Client{Jar: jar}
	ask := func(path string) (took time.Duration) {
		began := time.Now()
		r, err := client.Get("http://" + w.addr + path)
		require.NoError(b, err)
		_, err = io.Copy(io.Discard, r.Body)
		require.NoError(b, err)
		require.NoError(b, r.Body.Close())
		require.Equal(b, http.StatusOK, r.StatusCode, path)
		return time.Since(began)
	}
	ask("/signin")
	start := time.Since(began)
	r, err := client.PostForm("http://"+w.addr+"/signin",
		url.Values{"name": {"maren"}, "passphrase": {demo.Passphrase}})
	require.NoError(b, err)
	require.NoError(b, r.Body.Close())
	b.Run("start", func(b *testing.B) { b.ReportMetric(float64(start.Milliseconds()), "ms") })

	pages := []string{"/desk", fmt.Sprintf("/classes/%d", class), fmt.Sprintf("/classes/%d/ledger", class),
		fmt.Sprintf("/classes/%d/wrong", class), fmt.Sprintf("/classes/%d/people", class),
		fmt.Sprintf("/classes/%d/people/%d", class, student), fmt.Sprintf("/ledger/%d", sheet),
		fmt.Sprintf("/wrong/%d", sheet), fmt.Sprintf("/watch/%d", sheet), fmt.Sprintf("/ledger/%d/paper", sheet)}
	for _, page := range pages {
		b.Run(page[1:], func(b *testing.B) {
			var each []time.Duration
			for range 20 {
				each = append(each, ask(page))
			}
			slices.Sort(each)
			b.ReportMetric(float64(each[len(each)/2].Microseconds())/1000, "median-ms")
		})
	}
	b.Run("backup", func(b *testing.B) {
		copied := filepath.Join(b.TempDir(), "copy.db")
		var done atomic.Bool
		began := time.Now()
		var took time.Duration
		go func() {
			defer done.Store(true)
			out, err := exec.Command(w.program, "backup", "--data", w.data, "--to", copied).CombinedOutput()
			took = time.Since(began)
			if err != nil {
				b.Errorf("%v: %s", err, out)
			}
		}()
		var slowest time.Duration
		for i := 0; !done.Load(); i++ {
			slowest = max(slowest, ask(pages[i%len(pages)]))
		}
		b.ReportMetric(took.Seconds(), "s")
		b.ReportMetric(float64(slowest.Milliseconds()), "slowest-page-ms")
	})
	w.kill()
	b.Run("check", func(b *testing.B) {
		began := time.Now()
		out, err := exec.Command(w.program, "check", "--data", w.data).CombinedOutput()
		require.NoError(b, err, "%s", out)
		b.ReportMetric(time.Since(began).Seconds(), "s")
	})
}
