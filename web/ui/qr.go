package ui

import (
	"fmt"
	"html"
	"html/template"
	"strings"

	"github.com/skip2/go-qrcode"

	"cavix/core/text"
)

// QR draws an address as a QR code, as one path.
func QR(say *text.Printer, address string) (template.HTML, error) {
	q, err := qrcode.New(address, qrcode.Medium)
	if err != nil {
		return "", err
	}
	q.DisableBorder = true
	bits := q.Bitmap()
	var d strings.Builder
	for y, row := range bits {
		for x, on := range row {
			if on {
				fmt.Fprintf(&d, "M%d %dh1v1h-1z", x, y)
			}
		}
	}
	n := len(bits) + 4
	return template.HTML(fmt.Sprintf( //nolint:gosec // numbers alone
		`<svg class="qr" viewBox="-2 -2 %d %d" role="img" aria-label="%s">`+
			`<rect x="-2" y="-2" width="%d" height="%d" fill="#fff"/><path d="%s" fill="#000"/></svg>`,
		n, n, html.EscapeString(say.Say("ui.qr.address")), n, n, d.String())), nil
}
