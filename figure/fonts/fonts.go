// Package fonts holds the fonts that pictures and pages on paper are set in: cuts of Archivo, made from the same
// package as the font of the pages by web/static/vendor/refresh.sh, and for names in other scripts one font each, made
// by names/refresh.sh.
package fonts

import (
	"embed"
	_ "embed"
)

// The cuts of Archivo, as TrueType: for running text, for headings, and the narrow one of numerals on figures. They
// hold the Latin letters of Europe and Vietnam.
var (
	//go:embed archivo.ttf
	Text []byte
	//go:embed archivo-bold.ttf
	Bold []byte
	//go:embed archivo-narrow.ttf
	Narrow []byte
)

// Names are the fonts of other scripts, as TrueType: Greek, Cyrillic, Hebrew, Arabic, Devanagari, Chinese, Japanese,
// Korean.
//
//go:embed names/*.ttf
var Names embed.FS
