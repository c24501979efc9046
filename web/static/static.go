// Package static holds the files that pages load: styles, scripts and fonts, ours and those of others.
package static

import "embed"

// Files are the embedded files.
//
//go:embed *.css *.js *.svg vendor/*.svg vendor/*.css vendor/*.js vendor/*.woff2
var Files embed.FS
