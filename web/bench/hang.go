package bench

import (
	"fmt"
	"hash/fnv"
	"net/http"

	"cavix/core/instrument"
	"cavix/figure"
	"cavix/web/ui"
)

// Hung names the picture of an instrument by what it shows: as long as the document stays, so does the picture.
func Hung(document string) string {
	h := fnv.New64a()
	h.Write([]byte(document))
	return fmt.Sprintf("%x", h.Sum64())
}

// Hang sends a small picture of an instrument as it hangs on a Rack. A browser asks for it when it comes in sight, and
// once.
func Hang(w http.ResponseWriter, r *http.Request, in *instrument.Instrument) error {
	d, err := figure.Lay(in, Start(in), figure.Narrow)
	if err != nil {
		return err
	}
	svg := d.Scene(figure.Options{Said: ui.Said(r)}).SVG("", "")
	tag := `"` + Hung(string(svg)) + `"`
	w.Header().Set("Cache-Control", "private, max-age=86400")
	w.Header().Set("ETag", tag)
	if r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return nil
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	_, err = w.Write(svg)
	return err
}
