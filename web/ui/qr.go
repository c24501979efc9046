package ui

import (
	"fmt"
	"html"
	"html/template"
	"image/color"
	"strings"

	"github.com/boombuler/barcode/qr"

	"cavix/core/text"
)

// QR draws an address as a QR code, as one path.
func QR(say *text.Printer, address string) (template.HTML, error) {
	code, err := qr.Encode(address, qr.M, qr.Auto)
	if err != nil {
		return "", err
	}
	side := code.Bounds().Dx()
	var d strings.Builder
	for y := range side {
		for x := range side {
			if code.At(x, y) == color.Black {
				fmt.Fprintf(&d, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	n := side + 4
	return template.HTML(fmt.Sprintf( //nolint:gosec // numbers alone
		`<svg class="qr" viewBox="-2 -2 %d %d" role="img" aria-label="%s">`+
			`<rect x="-2" y="-2" width="%d" height="%d" fill="#fff"/><path d="%s" fill="#000"/></svg>`,
		n, n, html.EscapeString(say.Say("ui.qr.address")), n, n, d.String())), nil
}
