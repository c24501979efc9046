package web

import (
	"crypto/sha256"
	"embed"
	"encoding/base64"
	"io/fs"
	"net/http"
	"path"
	"strings"
)

//go:embed static
var staticFiles embed.FS

// assets serves the embedded static files. A page asks for them under a name that holds a hash of the
// contents, so browsers may keep them for good.
type assets struct {
	files http.Handler
	hash  map[string]string
}

func loadAssets() (*assets, error) {
	sub, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	a := &assets{files: http.StripPrefix("/static/", http.FileServerFS(sub)), hash: map[string]string{}}
	err = fs.WalkDir(sub, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(sub, p)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(b)
		a.hash[p] = base64.RawURLEncoding.EncodeToString(sum[:9])
		return nil
	})
	return a, err
}

// url returns the address of a static file, with its hash.
func (a *assets) url(name string) string { return "/static/" + name + "?v=" + a.hash[name] }

func (a *assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimPrefix(path.Clean(r.URL.Path), "/static/")
	h, ok := a.hash[name]
	if !ok {
		http.NotFound(w, r)
		return
	}
	if r.URL.Query().Get("v") == h {
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		w.Header().Set("Cache-Control", "no-cache")
	}
	a.files.ServeHTTP(w, r)
}
