package bench

import (
	"fmt"
	"net/http"

	"cavix/core/instrument"
	"cavix/figure"
	"cavix/web/ui"
)

// pictures are the forms in which an instrument is had as a picture.
var pictures = map[string]struct {
	name, media string
	write       func(*figure.Scene) ([]byte, error)
}{
	"svg": {"SVG", "image/svg+xml", func(s *figure.Scene) ([]byte, error) { return s.SVG("", ""), nil }},
	"pdf": {"PDF", "application/pdf", (*figure.Scene).PDF},
	"png": {"PNG", "image/png", func(s *figure.Scene) ([]byte, error) { return s.PNG(2) }},
}

// Pictures names the forms of a picture, by how an address asks for them.
func (Stand) Pictures() map[string]string {
	out := make(map[string]string, len(pictures))
	for as, p := range pictures {
		out[as] = p.name
	}
	return out
}

// Picture sends an instrument as it stands on the Bench as a picture: SVG, PDF or PNG, with its lens where that is
// asked for.
func Picture(w http.ResponseWriter, r *http.Request, in *instrument.Instrument) error {
	var f struct {
		Steps int    `form:"steps"`
		As    string `form:"as"`
		Lens  string `form:"lens"`
	}
	if err := ui.Asked(r, &f); err != nil {
		return err
	}
	as, known := pictures[f.As]
	if !known {
		return ui.Unread(fmt.Errorf("a picture is had as svg, pdf or png, not as %q", ui.Clip(f.As, 20)))
	}
	_, high := in.Range()
	y := tenth(in, max(0, min(f.Steps, tenths(in, high))))
	d, err := figure.Lay(in, y, figure.Wide)
	if err != nil {
		return err
	}
	sc := d.Scene(figure.Options{Said: ui.Said(r)})
	if zoom := d.Strengths()[1]; f.Lens != "" && zoom > 0 {
		sc = figure.WithLens(d, d.LensOn(zoom, -1), ui.Said(r))
	}
	b, err := as.write(sc)
	if err != nil {
		return err
	}
	ui.Download(w, in.Name()+"."+f.As, as.media)
	_, err = w.Write(b)
	return err
}
