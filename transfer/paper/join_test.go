package paper

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/locale"
)

// many is a sheet of ten cards in so many versions.
func many(t testing.TB, versions int) Sheet {
	t.Helper()
	sheet, _, err := kinds.ReadySheets[len(kinds.ReadySheets)-1].Compose(nil)
	require.NoError(t, err)
	s := Sheet{Title: "Ten cards (1 0 R)", Class: "Three hundred students", Said: locale.English(text.Words{})}
	for v := range versions {
		items, err := sheet.Deal(kinds.All, uint64(v%30))
		require.NoError(t, err)
		s.Versions = append(s.Versions, Version{Number: v + 1, Items: items[:min(10, len(items))]})
	}
	return s
}

// pagesOf are the contents of the pages of a document, as its tree has them in order.
func pagesOf(t *testing.T, doc []byte) (pages []string) {
	t.Helper()
	objects, trailer, err := objectsOf(doc)
	require.NoError(t, err)
	by := map[int][]byte{}
	for _, o := range objects {
		by[o.number] = o.body
	}
	var walk func(n int)
	walk = func(n int) {
		body := by[n]
		require.NotEmpty(t, body, "object %d", n)
		if kids := regexp.MustCompile(`(?s)/Kids \[(.*?)\]`).FindSubmatch(body); kids != nil {
			for _, kid := range references.FindAllSubmatch(kids[1], -1) {
				n, err := strconv.Atoi(string(kid[1]))
				require.NoError(t, err)
				walk(n)
			}
			return
		}
		stream := by[numberIn(regexp.MustCompile(`/Contents (\d+) 0 R`), body)]
		_, packed, ok := bytes.Cut(stream, []byte("stream\n"))
		require.True(t, ok)
		r, err := zlib.NewReader(bytes.NewReader(packed))
		require.NoError(t, err)
		says, err := io.ReadAll(r)
		require.NoError(t, err)
		pages = append(pages, string(says))
	}
	walk(numberIn(regexp.MustCompile(`/Pages (\d+) 0 R`), by[numberIn(catalogIs, trailer)]))
	return pages
}

// A document that is joined of parts has the pages of one that is set at once, in their order, says once what it is,
// and is the same each time.
func TestPartsAreJoined(t *testing.T) {
	t.Parallel()
	s := many(t, together+3)
	nothing := func(int) error { return nil }
	var done []int
	var joined, again bytes.Buffer
	require.NoError(t, s.Write(&joined, func(n int) error { done = append(done, n); return nil }))
	require.NoError(t, s.Write(&again, nothing))
	assert.True(t, bytes.Equal(joined.Bytes(), again.Bytes()))
	assert.Equal(t, []int{together, together + 3}, done)
	assert.Equal(t, 1, bytes.Count(joined.Bytes(), []byte("/Producer")))
	assert.Equal(t, 1, bytes.Count(joined.Bytes(), []byte("/Catalog")))

	var want []string
	for part := range slices.Chunk(s.Versions, together) {
		one := s
		one.Versions = part
		var doc bytes.Buffer
		require.NoError(t, one.Write(&doc, nothing))
		want = append(want, pagesOf(t, doc.Bytes())...)
	}
	assert.Equal(t, want, pagesOf(t, joined.Bytes()))
	stop := fmt.Errorf("enough")
	assert.ErrorIs(t, s.Write(io.Discard, func(int) error { return stop }), stop)
}

// BenchmarkPapers sets 300 versions of ten cards into a file, and tells how much memory that takes at most.
func BenchmarkPapers(b *testing.B) {
	s := many(b, 300)
	peak := 0
	for b.Loop() {
		f, err := os.Create(filepath.Join(b.TempDir(), "papers.pdf"))
		require.NoError(b, err)
		stop := make(chan struct{})
		go func() {
			var m runtime.MemStats
			for {
				select {
				case <-stop:
					return
				case <-time.After(50 * time.Millisecond):
					runtime.ReadMemStats(&m)
					peak = max(peak, int((m.HeapInuse+m.StackInuse)>>20))
				}
			}
		}()
		require.NoError(b, s.Write(f, func(int) error { return nil }))
		close(stop)
		require.NoError(b, f.Close())
	}
	b.ReportMetric(float64(peak), "MB-in-use")
}
