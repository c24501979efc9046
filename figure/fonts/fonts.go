// Package fonts holds the cuts of Archivo that pictures and pages on paper are set in. They are made from the same
// package as the font of the pages, by web/static/vendor/refresh.sh.
package fonts

import _ "embed"

// The cuts, as TrueType: for running text, for headings, and the narrow one of numerals on figures. They hold the Latin
// letters of Europe and Vietnam.
var (
	//go:embed archivo.ttf
	Text []byte
	//go:embed archivo-bold.ttf
	Bold []byte
	//go:embed archivo-narrow.ttf
	Narrow []byte
)
