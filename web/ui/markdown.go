package ui

import (
	"bytes"
	"html"
	"html/template"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
)

// tasks permits the elements of a task's text: paragraphs, lists, headings, emphasis, code, quotes and links, and no
// pictures or anything that acts.
var tasks = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(
		"p",
		"br",
		"hr",
		"em",
		"strong",
		"code",
		"pre",
		"blockquote",
		"ul",
		"ol",
		"li",
		"h1",
		"h2",
		"h3",
		"h4",
	)
	p.AllowAttrs("href").OnElements("a")
	p.AllowStandardURLs()
	p.AllowRelativeURLs(false)
	p.RequireNoFollowOnLinks(true)
	p.RequireNoReferrerOnLinks(true)
	p.AddTargetBlankToFullyQualifiedLinks(true)
	return p
}()

// Markdown sets an instructor's text as HTML that can do nothing but be read.
func Markdown(says string) template.HTML {
	var out bytes.Buffer
	if err := goldmark.Convert([]byte(says), &out); err != nil {
		return template.HTML(template.HTMLEscapeString(says))
	}
	return template.HTML(tasks.SanitizeBytes(out.Bytes()))
}

// PlainMarkdown is an instructor's text without its marks, by paragraphs, for paper.
func PlainMarkdown(says string) ([]string, error) {
	var out bytes.Buffer
	if err := goldmark.Convert([]byte(says), &out); err != nil {
		return nil, err
	}
	words := html.UnescapeString(bluemonday.StrictPolicy().Sanitize(out.String()))
	var paragraphs []string
	for _, p := range strings.Split(words, "\n") {
		if p = strings.TrimSpace(p); p != "" {
			paragraphs = append(paragraphs, p)
		}
	}
	return paragraphs, nil
}
