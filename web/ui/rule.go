package ui

import (
	"html"
	"html/template"

	"cavix/core/text"
	"cavix/school/sitting"
)

// RuleMark is one card on the progress rule.
type RuleMark struct {
	N     int
	Class string
	Word  text.Text
	Href  string
	told  ruleWord
}

// ruleWord names what is said of a card on a rule: what is said of one is said of all of its sort.
type ruleWord struct {
	n        int
	class    string
	half, of int64
}

// NewRule lays out the progress rule; the card numbered here is the one in sight.
func NewRule(marks []sitting.Mark, here int, href func(n int) string) []RuleMark {
	out := make([]RuleMark, len(marks))
	for i, m := range marks {
		r := RuleMark{N: m.N, Word: text.New("ui.card.new-rule.word"), Href: href(m.N)}
		switch {
		case m.Done && m.Half == m.Of:
			r.Class, r.Word = "done", text.New("ui.card.new-rule")
		case m.Done:
			r.Class, r.Word = "slip", text.New("card.of-marks", "marks", Halves(m.Half), "of", Halves(m.Of))
		case m.Typed:
			r.Class, r.Word = "typed", text.New("ui.card.something-written")
		}
		r.told = ruleWord{m.N, r.Class, m.Half, m.Of}
		if m.N == here {
			r.Class += " here"
		}
		out[i] = r
	}
	return out
}

// rule prints a progress rule. It is written without a template, and what is said of a card is printed once: a class at
// work has thousands.
func (c *copied) rule(marks []RuleMark) template.HTML {
	if c.told == nil {
		c.told = map[ruleWord]string{}
	}
	b := append(make([]byte, 0, 200+120*len(marks)), `<ol class="rule d-flex align-items-end mb-0 px-1 list-unstyled" aria-label="`...)
	b = append(b, html.EscapeString(c.said.Say("ui.parts.cards-of-this-sheet"))...)
	b = append(b, `">`...)
	for _, m := range marks {
		says, known := c.told[m.told]
		if !known {
			says = html.EscapeString(c.said.Print(text.New("ui.parts.card", "n", m.N, "word", m.Word)))
			c.told[m.told] = says
		}
		b = append(b, `<li><a class="`...)
		b = append(b, m.Class...)
		b = append(b, `" href="`...)
		b = append(b, html.EscapeString(m.Href)...)
		b = append(b, `" title="`...)
		b = append(b, says...)
		b = append(b, `"></a></li>`...)
	}
	return template.HTML(append(b, "</ol>"...)) //nolint:gosec // what is typed nowhere, or escaped
}

// Cell is a card of a large table.
type Cell struct {
	Href        string // "" where nothing is done
	Class, Sign string // how it came out
	Marks       text.Math
	Title, Took text.Text
	Slip        string
}

// Cells prints a row of cards, or how long each took, without a template.
func Cells(say *text.Printer, row []Cell, took bool, titles map[string]string) template.HTML {
	b := make([]byte, 0, 120*len(row))
	for _, c := range row {
		b = append(b, `<td class="n">`...)
		switch {
		case c.Href == "":
			b = append(b, `<span class="todo">·</span>`...)
		case took:
			b = append(b, `<a href="`+c.Href+`">`...)
			if says := say.Print(c.Took); says != "" {
				b = append(b, html.EscapeString(says)...)
			} else {
				b = append(b, '?')
			}
			b = append(b, "</a>"...)
		default:
			key := c.Slip + "/" + string(c.Marks)
			title, known := titles[key]
			if !known {
				title = html.EscapeString(say.Print(c.Title))
				titles[key] = title
			}
			b = append(b, `<a href="`+c.Href+`" class="`+c.Class+`" title="`+title+`">`+c.Sign+"<small>"...)
			b = append(b, html.EscapeString(say.Math(c.Marks))...)
			b = append(b, "</small></a>"...)
		}
		b = append(b, "</td>"...)
	}
	return template.HTML(b) //nolint:gosec // addresses are made of numbers, all else is escaped
}
