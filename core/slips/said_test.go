package slips_test

import (
	"strings"

	"cavix/core/text"
	"cavix/locale"
)

// said prints texts in English, in the words of documents.
func said(list ...text.Text) string {
	out := make([]string, len(list))
	for i, t := range list {
		out[i] = locale.Documents().Print(t)
	}
	return strings.Join(out, " ")
}
