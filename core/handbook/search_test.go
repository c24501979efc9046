package handbook_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/handbook"
	"cavix/core/words"
)

func everyPage(*handbook.Page) bool { return true }

// What a reader would type leads to the section that explains it.
func TestSearchFindsTheSection(t *testing.T) {
	for query, want := range map[string]string{
		"negative zero":      "zero",
		"Zeros":              "zero",
		"half mark":          "micrometer",
		"gear tooth":         "gear",
		"excuse a student":   "getting-started",
		"archive":            "getting-started",
		"next year":          "getting-started",
		"parallax":           "care",
		"range of readings":  "repeat",
		"when the time over": "cards",
	} {
		hits, whole := book(t, words.Workshop).Search(query, 5, everyPage)
		require.NotEmpty(t, hits, query)
		assert.True(t, whole, query)
		var pages []string
		for _, h := range hits {
			pages = append(pages, h.Page.Name)
			assert.NotRegexp(t, `[{}*|\[\]]`, h.Excerpt, "an excerpt is plain text")
			assert.LessOrEqual(t, len(h.Excerpt), 230, query)
		}
		assert.Contains(t, pages[:min(3, len(pages))], want, query)
	}
}

// A search goes by the words that the reader sees, and never shows a page that is not for the reader.
func TestSearchSpeaksTheReadersWords(t *testing.T) {
	lab, _ := book(t, words.Laboratory).Search("circular scale", 20, everyPage)
	assert.NotEmpty(t, lab)
	for _, h := range lab {
		assert.NotContains(t, h.Excerpt+h.Title, "thimble")
	}
	_, whole := book(t, words.Workshop).Search("circular scale", 20, everyPage)
	assert.False(t, whole)
	hits, _ := book(t, words.Workshop).Search("archive", 20, func(p *handbook.Page) bool { return !p.ForInstructors })
	for _, h := range hits {
		assert.NotEqual(t, "getting-started", h.Page.Name)
	}
	for _, query := range []string{"", "  ", "xyzzy", "…", strings.Repeat("a ", 500)} {
		hits, _ := book(t, words.Workshop).Search(query, 20, everyPage)
		assert.LessOrEqual(t, len(hits), 20, query)
	}
	hits, _ = book(t, words.Workshop).Search("xyzzy", 20, everyPage)
	assert.Empty(t, hits)
}

func FuzzSearch(f *testing.F) {
	f.Add("negative zero")
	f.Add("İstanbul ß ŉ")
	f.Fuzz(func(t *testing.T, query string) {
		hits, _ := book(t, words.Workshop).Search(query, 3, everyPage)
		assert.LessOrEqual(t, len(hits), 3)
		handbook.Holds("İ"+query, query)
	})
}
