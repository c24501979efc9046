package ui

import (
	"net/http"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// Numbers are written with a point in templates and by the core. Where a reader's language writes a comma, pages say them so;
// what is typed is read either way. A figure keeps what is engraved on it; a chart is written as the text beside it.

// asWritten are the elements whose text stays as it is: drawings, what somebody typed or named, and what is no prose.
var asWritten = []string{"svg", "h1", "a", "title", "code", "pre", "textarea", "option", "script", "style", "time"}

// withComma reports whether decimals are written with a comma in the language that a browser prefers.
func withComma(r *http.Request) bool {
	prefers, _, err := language.ParseAcceptLanguage(r.Header.Get("Accept-Language"))
	if err != nil || len(prefers) == 0 {
		return false
	}
	return message.NewPrinter(prefers[0]).Sprint(number.Decimal(1.5)) == "1,5"
}

// commas writes the decimals in the text of a page with a comma.
func commas(page string) string {
	var out strings.Builder
	out.Grow(len(page))
	inside := 0 // how many elements that stay as written are open
	charts := 0 // and how many drawings that do not
	for z := html.NewTokenizer(strings.NewReader(page)); ; {
		kind := z.Next()
		raw := string(z.Raw())
		switch kind {
		case html.ErrorToken:
			out.WriteString(raw)
			return out.String()
		case html.StartTagToken, html.EndTagToken:
			name, more := z.TagName()
			switch drawing := string(name) == "svg"; {
			case !slices.Contains(asWritten, string(name)):
			case drawing && kind == html.StartTagToken && more && isChart(z):
				charts++
			case drawing && kind == html.EndTagToken && charts > 0:
				charts--
			case kind == html.StartTagToken:
				inside++
			default:
				inside = max(inside-1, 0)
			}
		case html.TextToken:
			if inside == 0 {
				raw = decimals(raw)
			}
		}
		out.WriteString(raw)
	}
}

// isChart reports whether the element that was just begun is a chart.
func isChart(z *html.Tokenizer) bool {
	for {
		name, value, more := z.TagAttr()
		if string(name) == "class" {
			return slices.Contains(strings.Fields(string(value)), "plot")
		}
		if !more {
			return false
		}
	}
}

// decimals puts a comma into each number with one point in it. What only looks like one stays: a version, an address, a word.
func decimals(text string) string {
	if strings.IndexByte(text, '.') < 0 {
		return text
	}
	digit := func(i int) bool { return i >= 0 && i < len(text) && text[i] >= '0' && text[i] <= '9' }
	b := []byte(text)
	for i := range b {
		if b[i] != '.' || !digit(i-1) || !digit(i+1) {
			continue
		}
		from, to := i-1, i+1
		for digit(from - 1) {
			from--
		}
		for digit(to + 1) {
			to++
		}
		if from > 0 && (isWord(text[from-1]) || strings.IndexByte(".,:", text[from-1]) >= 0) || to+1 < len(text) && text[to+1] == '.' && digit(to+2) {
			continue
		}
		b[i] = ','
	}
	return string(b)
}

func isWord(c byte) bool { return c == '_' || c|0x20 >= 'a' && c|0x20 <= 'z' }
