package web_test

import (
	"archive/zip"
	"bytes"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/web/ui"
)

// An instructor takes a course out and another brings it in, after a look at each thing; half a course never comes in,
// and nobody takes out what is not theirs.
func TestACourseByThePages(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a course to another server; left out with -short")
	}
	base := demoSite(t)
	maren, ivo := as(t, base, "maren"), as(t, base, "ivo")
	_, _, page := maren.get("/course")
	holds(t, page, "Mill parts, Monday")
	whole := maren.file("/course/file?class=1&people=true&answers=true")
	z, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	require.NoError(t, err)
	names := []string{}
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	assert.Contains(t, names, "people.csv")
	assert.Contains(t, names, "answers.csv")
	part := maren.file("/course/file?class=1&some=true&sheet=2")
	z, err = zip.NewReader(bytes.NewReader(part), int64(len(part)))
	require.NoError(t, err)
	sheets, instruments := 0, 0
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "sheets/") {
			sheets++
		}
		if strings.HasPrefix(f.Name, "instruments/") {
			instruments++
		}
	}
	assert.Equal(t, []int{1, 0}, []int{sheets, instruments}, "what is ticked, and no more")
	status, _, _ := ivo.get("/course/file?class=1")
	assert.Equal(t, http.StatusNotFound, status)
	for _, path := range []string{"/sheets/2/document", "/sheets/2/flash/1", "/sheets/2/package/1"} {
		status, _, _ := ivo.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
		assert.NotEmpty(t, maren.file(path))
	}

	// A file as large as may be: what passes its preview passes the import. A zip may have anything before what it
	// lists.
	large := append([]byte("PK\x03\x04"), bytes.Repeat([]byte("\x00+/% "), (ui.MostFile-len(part))/5-1)...)
	if large = append(large, part...); testing.Short() {
		large = part
	}
	_, page = ivo.upload("/course/preview", "file", "mill.cavix", large)
	for _, says := range []string{"Sluice pins", "instrument", "</b> new", ">Import<"} {
		holds(t, page, says)
	}
	_, at, page := ivo.post("/course/bring", fields(page).Encode())
	assert.Equal(t, "/course", at)
	holds(t, page, "The course is imported", "Sluice pins")
	_, page = ivo.upload("/course/preview", "file", "mill.cavix", part)
	assert.NotContains(t, page, "</b> new", "everything is there")
	_, _, desk := ivo.get("/desk")
	holds(t, desk, "Mill parts, Monday")

	// A document that cannot stand is said with its field; nothing is brought in, also past the preview.
	bad := []byte(`{"format": "cavix/instrument", "version": 1, "name": "Impossible", "family": "vernier-caliper",
		"unit": "mm",
		"main": {"division": "1", "from": "0", "to": "150", "number_every": 10, "number_step": "10"},
		"fine": {"kind": "vernier", "divisions": 20, "spans": 37, "number_every": 5, "number_step": 5}}`)
	_, page = ivo.upload("/course/preview", "file", "one.json", bad)
	holds(t, page, "cannot be imported")
	holds(t, page, "fine.spans")
	assert.NotContains(t, page, "Import</button>")
	status, _, _ = ivo.post("/course/bring", url.Values{"file": {"UEsDBA=="}}.Encode())
	assert.Equal(t, http.StatusBadRequest, status)
	status, _, _ = ivo.post("/course/bring", "file=no+base64")
	assert.Equal(t, http.StatusBadRequest, status)
	_, page = ivo.upload("/course/preview", "file", "none.txt", []byte("PK, no zip"))
	holds(t, page, "is not a zip file that can be read")
	_, page = ivo.upload("/course/preview", "file", "big.cavix", bytes.Repeat([]byte("x"), 6<<20))
	assert.NotContains(t, page, "Import</button>")

	// Pictures of an instrument as it stands.
	for as, begins := range map[string]string{"svg": "<svg", "pdf": "%PDF-", "png": "\x89PNG"} {
		assert.True(t, bytes.HasPrefix(maren.file("/bench/1/picture?steps=3140&lens=on&as="+as), []byte(begins)), as)
	}
	status, _, _ = maren.get("/bench/1/picture?steps=3140&as=gif")
	assert.Equal(t, http.StatusBadRequest, status)
	status, _, _ = ivo.get("/bench/1/picture?steps=1&as=svg")
	assert.Equal(t, http.StatusNotFound, status)
}
