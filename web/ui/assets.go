package ui

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"crypto/sha256"
	"encoding/base64"
	"hash"
	"io/fs"
	"maps"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"

	"cavix/figure/fonts"
	"cavix/web/static"
)

// assets serves the embedded static files. Pages ask for them under an address that holds a hash of all
// their contents, so that browsers may keep them for good, and styles find their fonts beside them.
type assets struct {
	version string
	files   map[string]asset
}

// asset is a file as it is sent.
type asset struct {
	kind         string // its media type
	plain, small []byte // small is compressed; nil where that gains nothing
}

// mediaTypes holds the media types of our files by extension. The system's own list takes half a megabyte, and may lack
// some of them.
var mediaTypes = map[string]string{
	".css":         "text/css; charset=utf-8",
	".js":          "text/javascript; charset=utf-8",
	".png":         "image/png",
	".svg":         "image/svg+xml",
	".ttf":         "font/ttf",
	".webmanifest": "application/manifest+json",
	".woff2":       "font/woff2",
}

// loadAssets reads and compresses the files, once for the process.
var loadAssets = sync.OnceValues(func() (*assets, error) {
	a := &assets{files: map[string]asset{}}
	sum := sha256.New()
	bundles, err := static.Bundles()
	if err != nil {
		return nil, err
	}
	for _, name := range slices.Sorted(maps.Keys(bundles)) {
		if err := a.add(name, bundles[name], sum); err != nil {
			return nil, err
		}
	}
	err = fs.WalkDir(static.Files, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := static.Files.ReadFile(p)
		if err != nil {
			return err
		}
		return a.add(p, b, sum)
	})
	a.version = base64.RawURLEncoding.EncodeToString(sum.Sum(nil)[:9])
	return a, err
})

// add keeps a file and what it compresses to, and counts it into the hash.
func (a *assets) add(name string, b []byte, sum hash.Hash) error {
	sum.Write([]byte(name))
	sum.Write(b)
	f := asset{kind: cmp.Or(mediaTypes[path.Ext(name)], "text/plain; charset=utf-8"), plain: b}
	var z bytes.Buffer
	w, err := gzip.NewWriterLevel(&z, gzip.BestCompression)
	if err != nil {
		return err
	}
	if _, err := w.Write(b); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	if z.Len() < len(b)*9/10 {
		f.small = z.Bytes()
	}
	a.files[name] = f
	return nil
}

// url returns the address of a static file.
func (a *assets) url(name string) string { return "/static/" + a.version + "/" + name }

func (a *assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	version, name, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/static/"), "/")
	f, ok := a.files[name]
	_, err := fs.Stat(fonts.Names, name)
	font := err == nil && path.Ext(name) == ".ttf"
	if !ok && !font {
		http.NotFound(w, r)
		return
	}
	h := w.Header()
	h.Set("Cache-Control", "no-cache")
	if version == a.version {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	if font {
		h.Set("Content-Type", mediaTypes[".ttf"])
		http.ServeFileFS(w, r, fonts.Names, name)
		return
	}
	if path.Ext(name) != ".svg" { // a drawing can be opened as a page; for what pages load these say nothing
		for _, of := range []string{"Content-Security-Policy", "Cross-Origin-Opener-Policy", "Referrer-Policy"} {
			h.Del(of)
		}
	}
	h.Set("Content-Type", f.kind)
	h.Set("Vary", "Accept-Encoding")
	body := f.plain
	if f.small != nil && strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		body = f.small
	}
	h.Set("Content-Length", strconv.Itoa(len(body)))
	_, _ = w.Write(body) // who is gone needs no answer
}
