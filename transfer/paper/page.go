package paper

import (
	"fmt"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"cavix/core/text"
	"cavix/figure/fonts"
)

// Measures of a page, in points. Both sizes of page have room for the same width.
const (
	mm      = 72 / 25.4
	left    = 15 * mm
	top     = 14 * mm
	across  = 180 * mm // what is printed on
	between = 6 * mm   // of cards
	tight   = 3 * mm   // of cards, where several stand on a page
)

// Size is the size of the pages.
type Size string

// The sizes.
const (
	A4     Size = "A4"
	Letter Size = "Letter"
)

// bottom returns the lower end of what is printed on a page.
func (s Size) bottom() float64 {
	if s == Letter {
		return (279.4 - 14) * mm
	}
	return (297 - 14) * mm
}

// Colours of print.
var (
	inkOf   = [3]int{0x1C, 0x28, 0x30}
	steelOf = [3]int{0x5E, 0x6B, 0x73}
	hairOf  = [3]int{0xB9, 0xBE, 0xBC}
)

// document is a PDF while it is set.
type document struct {
	*fpdf.Fpdf
	say     *text.Printer
	title   string
	class   string
	key     bool
	plainly bool // a report: no version stands on its pages
	gap     float64
	bottom  float64 // of what is printed on a page
	dense   bool    // as many cards on a page as fit, up to four
	version Version
	bold    bool   // the font that is set
	seen    *sight // what a preview sees; nil where none is made
}

func newDocument(s Sheet) *document {
	size := s.Size
	if size != Letter {
		size = A4
	}
	f := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt", SizeStr: string(size)})
	f.SetMargins(0, 0, 0)
	f.SetAutoPageBreak(false, 0)
	f.SetCellMargin(0)
	f.SetCatalogSort(true)
	f.SetCreationDate(time.Unix(0, 0).UTC()) // the same sheet gives the same file
	f.SetModificationDate(time.Unix(0, 0).UTC())
	f.SetTitle(fonts.Printable(s.Title), true)
	f.AddUTF8FontFromBytes("text", "", fonts.Text)
	f.AddUTF8FontFromBytes("text", "B", fonts.Bold)
	d := &document{Fpdf: f, say: s.Said, title: s.Title, class: s.Class, gap: between, bottom: size.bottom(),
		dense: s.Dense}
	if d.dense {
		d.gap = tight
	}
	return d
}

// GetStringWidth and SplitText take the place of those of the library, which panics on letters that its font lacks:
// names in other scripts are outlines.

// GetStringWidth returns the width of a line of text, in points.
func (d *document) GetStringWidth(s string) float64 {
	if fonts.Plain(s) {
		return d.Fpdf.GetStringWidth(s)
	}
	width := 0.0
	for _, l := range fonts.Set(s, 0) {
		width += l.Width
	}
	return width * d.size()
}

// SplitText returns the lines of a text that has a width in points.
func (d *document) SplitText(s string, width float64) (lines []string) {
	if fonts.Plain(s) {
		return d.Fpdf.SplitText(s, width)
	}
	for _, l := range fonts.Set(s, width/d.size()) {
		lines = append(lines, l.Text)
	}
	return lines
}

// size is the size of the font that is set, in points.
func (d *document) size() float64 {
	points, _ := d.GetFontSize()
	return points
}

// piece is something that stands together: it is so high, and draws itself from a height on. Where it is higher than a
// page, it has parts that may be torn apart.
type piece struct {
	high  float64
	draw  func(y float64)
	parts []piece
}

// stack is one piece of several that stand under each other.
func stack(parts []piece) piece {
	p := piece{parts: parts}
	for _, part := range parts {
		p.high += part.high
	}
	p.draw = func(y float64) {
		for _, part := range parts {
			part.draw(y)
			y += part.high
		}
	}
	return p
}

// flow sets pieces on pages from a new one on, with a head and a foot on each.
func (d *document) flow(pieces []piece) {
	type placed struct {
		piece
		y float64
	}
	var pages [][]placed
	y := d.bottom
	put := func(p piece) {
		if y+p.high > d.bottom+0.01 {
			pages, y = append(pages, nil), top+d.head()
		}
		pages[len(pages)-1] = append(pages[len(pages)-1], placed{p, y})
		y += p.high
	}
	for i, p := range pieces {
		if p.high > d.bottom-top-d.head() && p.parts != nil {
			for _, part := range p.parts {
				put(part)
			}
		} else {
			put(p)
		}
		if i > 0 {
			y += d.gap
		}
	}
	for i, page := range pages {
		d.AddPage()
		d.edge(i+1, len(pages))
		for _, p := range page {
			p.draw(p.y)
		}
	}
}

// flowTight sets pieces without room between them.
func (d *document) flowTight(pieces []piece) {
	d.gap = 0
	d.flow(pieces)
}

// head returns the height of the head of every page.
func (d *document) head() float64 { return 8 * mm }

// edge draws the head of a page: what it is of, its version and its number.
func (d *document) edge(page, of int) {
	d.SetDrawColor(inkOf[0], inkOf[1], inkOf[2])
	d.SetLineWidth(0.9)
	y := top + 4*mm
	d.Line(left, y, left+across, y)
	w := 0.0
	if !d.plainly {
		number := d.say.Say("paper.version", "label", d.version.Label())
		d.print(left, y-2*mm, bold, 10, inkOf, number)
		w = d.GetStringWidth(number) + 3*mm
	}
	says := []text.Text{text.Typed(d.title), text.Typed(d.class)}
	if d.key {
		says = append([]text.Text{text.New("paper.key")}, says...)
	}
	d.print(left+w, y-2*mm, plain, 9, steelOf, d.short(plain, 9, d.row(says), across-w-30*mm))
	end := fmt.Sprintf("%d / %d", page, of)
	d.print(left+across-d.wide(plain, 9, end), y-2*mm, plain, 9, steelOf, end)
}

// Styles of the font of text.
const (
	plain = ""
	bold  = "B"
)

// print writes one line of text from x on, on the base line y.
func (d *document) print(x, y float64, style string, size float64, colour [3]int, s string) {
	d.SetFont("text", style, size)
	d.SetTextColor(colour[0], colour[1], colour[2])
	d.Text(x, y, s)
}

// wide returns the width of a text.
func (d *document) wide(style string, size float64, s string) float64 {
	d.SetFont("text", style, size)
	return d.GetStringWidth(s)
}

// fit shortens a text to a width in the font that is set.
func (d *document) fit(s string, width float64) string {
	if d.GetStringWidth(s) <= width {
		return s
	}
	for runes := []rune(s); len(runes) > 1; {
		runes = runes[:len(runes)-1]
		if short := strings.TrimSpace(string(runes)) + "…"; d.GetStringWidth(short) <= width {
			return short
		}
	}
	return ""
}

// text is a paragraph, in lines as wide as there is room.
func (d *document) text(x, width float64, style string, size float64, colour [3]int, s string) piece {
	d.SetFont("text", style, size)
	var lines []string
	for _, one := range strings.Split(s, "\n") {
		lines = append(lines, d.SplitText(one, width)...)
	}
	line := size * 1.3
	return piece{high: float64(len(lines)) * line, draw: func(y float64) {
		for i, l := range lines {
			d.print(x, y+float64(i)*line+size, style, size, colour, l)
		}
	}}
}

// said prints a text.
func (d *document) said(t text.Text) string { return d.say.Print(t) }

// row prints texts beside each other.
func (d *document) row(list []text.Text) string { return d.said(text.Row(list...)) }

// space is room that stays empty.
func space(high float64) piece { return piece{high: high, draw: func(float64) {}} }

// opening returns the head of a version: the sheet, whose it is, and what is to be done.
func (d *document) opening(s Sheet, v Version) []piece {
	name := v.For
	var parts []piece
	if !d.dense || d.key {
		parts = append(parts, d.text(left, across, bold, 17, inkOf, s.Title), space(1.5*mm))
	}
	if !d.key { // on a dense page the title stands at its head alone
		parts = append(parts, piece{high: 9 * mm, draw: func(y float64) {
			d.print(left, y+6*mm, plain, 9, steelOf, d.say.Say("paper.name"))
			d.SetDrawColor(steelOf[0], steelOf[1], steelOf[2])
			d.SetLineWidth(0.5)
			d.Line(left+12*mm, y+7*mm, left+100*mm, y+7*mm)
			d.print(left+14*mm, y+6*mm, bold, 11, inkOf, d.fit(name, 84*mm))
			d.print(left+106*mm, y+6*mm, plain, 9, steelOf, d.say.Say("paper.date"))
			d.SetDrawColor(steelOf[0], steelOf[1], steelOf[2])
			d.Line(left+116*mm, y+7*mm, left+150*mm, y+7*mm)
		}})
		for _, p := range s.Task {
			parts = append(parts, space(1*mm), d.text(left, across, plain, 10, inkOf, p))
		}
	} else if name != "" {
		parts = append(parts, d.text(left, across, plain, 10, steelOf, name))
	}
	below := 4 * mm
	if d.dense {
		below = 1.5 * mm
	}
	return []piece{stack(append(parts, space(below)))}
}
