package ui

import (
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A download that fails sends nothing at all, so that a page can say so; one that does not arrives whole. Nothing of
// either stays on the disk.
func TestADownloadIsWholeOrNotAtAll(t *testing.T) {
	folder := t.TempDir()
	t.Setenv("TMPDIR", folder)
	failed := errors.New("no more")
	w := httptest.NewRecorder()
	err := Spooled(w, "Mill parts answers.csv", "text/csv", func(to io.Writer) error {
		_, _ = io.WriteString(to, "half of it")
		return failed
	})
	require.ErrorIs(t, err, failed)
	assert.Empty(t, w.Body.String())
	assert.Empty(t, w.Header())

	w = httptest.NewRecorder()
	require.NoError(t, Spooled(w, "Mill parts answers.csv", "text/csv", func(to io.Writer) error {
		_, err := io.WriteString(to, "all of it")
		return err
	}))
	assert.Equal(t, "all of it", w.Body.String())
	assert.Contains(t, w.Header().Get("Content-Disposition"), "mill-parts-answers.csv")
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Empty(t, left)
}

// A file that is long in the making is sent all the same.
func TestADownloadHasTimeToBeSent(t *testing.T) {
	s := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		assert.NoError(t, Spooled(w, "answers.csv", "text/csv", func(to io.Writer) error {
			time.Sleep(100 * time.Millisecond)
			_, err := io.WriteString(to, "all of it")
			return err
		}))
	}))
	s.Config.WriteTimeout = 50 * time.Millisecond
	s.Start()
	defer s.Close()
	r, err := http.Get(s.URL)
	require.NoError(t, err)
	defer r.Body.Close()
	all, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	assert.Equal(t, "all of it", string(all))
}
