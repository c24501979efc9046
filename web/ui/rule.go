package ui

import (
	"fmt"
	"html"
	"html/template"
	"strconv"
	"strings"
	"time"

	"cavix/core/exercise"
	"cavix/core/text"
	"cavix/school/sitting"
)

// RuleMark is one card on the progress rule.
type RuleMark struct {
	N    int
	Href string
	Here bool // it is the one in sight
	came outcome
}

// outcome is how a card came out: what is said of one is said of all of its sort.
type outcome struct {
	n           int
	done, typed bool
	half, of    int64
}

// class is how a card is drawn on a rule.
func (o outcome) class() string {
	switch {
	case o.done && o.half == o.of:
		return "done"
	case o.done:
		return "slip"
	case o.typed:
		return "typed"
	}
	return ""
}

// word says how a card came out.
func (o outcome) word() text.Text {
	switch o.class() {
	case "done":
		return text.New("ui.card.new-rule")
	case "slip":
		return text.New("card.of-marks", "marks", Halves(o.half), "of", Halves(o.of))
	case "typed":
		return text.New("ui.card.something-written")
	}
	return text.New("ui.card.new-rule.word")
}

// NewRule lays out the progress rule; the card numbered here is the one in sight.
func NewRule(marks []sitting.Mark, here int, href func(n int) string) []RuleMark {
	out := make([]RuleMark, len(marks))
	for i, m := range marks {
		out[i] = RuleMark{m.N, href(m.N), m.N == here, outcome{m.N, m.Done, m.Typed, m.Half, m.Of}}
	}
	return out
}

// rule prints a progress rule. It is written without a template, and what is said of a card is printed once: a class at
// work has thousands.
func (c *copied) rule(marks []RuleMark) template.HTML {
	if c.told == nil {
		c.told = map[outcome]string{}
	}
	b := append(make([]byte, 0, 200+120*len(marks)),
		`<ol class="rule d-flex align-items-end mb-0 px-1 list-unstyled" aria-label="`...)
	b = append(b, html.EscapeString(c.said.Say("ui.parts.cards-of-this-sheet"))...)
	b = append(b, `">`...)
	for _, m := range marks {
		says, known := c.told[m.came]
		if !known {
			says = html.EscapeString(c.said.Print(text.New("ui.parts.card", "n", m.N, "word", m.came.word())))
			c.told[m.came] = says
		}
		b = append(append(b, `<li><a class="`...), m.came.class()...)
		if m.Here {
			b = append(b, " here"...)
		}
		b = append(append(b, `" href="`...), m.Href...)
		b = append(append(b, `" title="`...), says...)
		b = append(b, `"></a></li>`...)
	}
	return template.HTML(append(b, "</ol>"...)) //nolint:gosec // addresses are the program's own, all else is escaped
}

// CellPrinter prints the cards of a large table without a template; what is said of a card is printed once.
type CellPrinter struct {
	say   *text.Printer
	told  map[cameTo]string
	Times bool // how long a card took instead of what it came to
}

// cameTo is what is said of a card.
type cameTo struct {
	half, of int64
	slip     string
}

// NewCellPrinter prints in the language and words of a printer.
func NewCellPrinter(say *text.Printer, times bool) *CellPrinter {
	return &CellPrinter{say, map[cameTo]string{}, times}
}

// Row prints so many cells, of an attempt's cards; at is the address of a card with %d for its number.
func (p *CellPrinter) Row(cells int, cards []sitting.CardState, took map[int]time.Duration, at string) template.HTML {
	before, after, _ := strings.Cut(at, "%d")
	b, next := make([]byte, 0, 120*cells), 0
	for n := 1; n <= cells; n++ {
		for next < len(cards) && cards[next].N < n {
			next++
		}
		b = append(b, `<td class="n">`...)
		if next == len(cards) || cards[next].N != n || !cards[next].Done {
			b = append(b, `<span class="todo">·</span></td>`...)
			continue
		}
		b = strconv.AppendInt(append(append(b, `<a href="`...), before...), int64(n), 10)
		b = append(append(b, after...), '"')
		if p.Times {
			b = append(append(b, '>'), p.took(took, n)...)
		} else {
			b = append(b, p.mark(cards[next].Mark)...)
		}
		b = append(b, "</a></td>"...)
	}
	return template.HTML(b) //nolint:gosec // addresses are the program's own, all else is escaped
}

// took is how long a card took; "?" where that is not known.
func (p *CellPrinter) took(all map[int]time.Duration, n int) string {
	if d, known := all[n]; known {
		return html.EscapeString(p.say.Print(Duration(max(d, time.Second))))
	}
	return "?"
}

// mark is what a card came to, from within its link on.
func (p *CellPrinter) mark(m sitting.Mark) string {
	key := cameTo{m.Half, m.Of, m.Slip}
	says, known := p.told[key]
	if known {
		return says
	}
	class, sign := "half", "◇"
	title := text.New("count.of", "n", Half(m.Half), "of", Half(m.Of))
	switch {
	case m.Half == m.Of:
		class, sign = "right", "●"
	case m.Slip != "":
		class, sign = "wrong", "▲"
	}
	if m.Slip != "" {
		title = exercise.Code(m.Slip).Name()
	}
	says = fmt.Sprintf(` class="%s" title="%s">%s<small>%s</small>`, class, html.EscapeString(p.say.Print(title)), sign,
		html.EscapeString(p.say.Math(Half(m.Half))))
	p.told[key] = says
	return says
}
