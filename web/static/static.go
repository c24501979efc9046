// Package static holds the files that pages load: styles, scripts and fonts, ours and those of others.
package static

import (
	"bytes"
	"embed"
)

// Files are the embedded files.
//
//go:embed *.css *.js *.svg vendor/*.svg vendor/*.css vendor/*.js vendor/*.woff2
var Files embed.FS

// parts of the style, a file each, in the order in which they overrule one another.
var parts = []string{"vendor/bootstrap", "theme", "figure", "rule", "card", "board", "plot", "tables", "author",
	"places", "print"}

// Style returns Bootstrap's style and the parts of our own as one file; the addresses in it count from this folder.
func Style() ([]byte, error) {
	var all bytes.Buffer
	for _, name := range parts {
		b, err := Files.ReadFile(name + ".css")
		if err != nil {
			return nil, err
		}
		all.Write(b)
	}
	return all.Bytes(), nil
}
