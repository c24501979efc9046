// Package static holds the files that pages load: styles, scripts and fonts, ours and those of others.
package static

import (
	"bytes"
	"embed"
	"fmt"

	"github.com/tdewolff/minify/v2"
	"github.com/tdewolff/minify/v2/css"
	"github.com/tdewolff/minify/v2/js"
)

// Files are the embedded files.
//
//go:embed *.css *.js *.svg *.png *.webmanifest vendor/*.svg vendor/*.css vendor/*.js vendor/*.woff2
var Files embed.FS

// Bundles returns the files that pages load under one name each, without comments and spare spaces: style.css,
// Bootstrap's style and the parts of our own in the order in which they overrule one another, and script.js, the
// scripts in the order in which they must run. Addresses in them count from this folder.
func Bundles() (map[string][]byte, error) {
	m := minify.New()
	m.AddFunc("css", css.Minify)
	m.AddFunc("js", js.Minify)
	all := map[string][]byte{}
	for kind, names := range map[string][]string{
		"css": {"vendor/bootstrap", "vendor/fonts", "theme", "figure", "rule", "card", "board", "plot", "tables",
			"author", "places", "print"},
		"js": {"vendor/alpine-morph.min", "vendor/alpine-persist.min", "vendor/alpine-ajax.min", "cavix",
			"live", "page", "connection", "figure", "vendor/alpine-csp.min"},
	} {
		var parts, small bytes.Buffer
		for _, name := range names {
			b, err := Files.ReadFile(name + "." + kind)
			if err != nil {
				return nil, err
			}
			parts.Write(b)
			parts.WriteByte('\n')
		}
		if err := m.Minify(kind, &small, &parts); err != nil {
			return nil, fmt.Errorf("the %s of the pages: %w", kind, err)
		}
		all[map[string]string{"css": "style.css", "js": "script.js"}[kind]] = small.Bytes()
	}
	return all, nil
}
