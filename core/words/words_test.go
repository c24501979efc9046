package words_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/text"
	"cavix/core/words"
)

// A class's own words can be printed anywhere: what could be read as markup, and what is no term, is refused by name.
func TestOwnWordsAreChecked(t *testing.T) {
	for word, ok := range map[string]bool{"barrel": true, "ring scale (B)": true, "tambour gradué": true,
		"मुख्य पैमाना":  true,
		"V.S.R. × L.C.": true, "": false, "  ": false, "<b>": false, "a\nb": false, `say "x"`: false, "{drum}": false,
		"a & b":                 false,
		strings.Repeat("x", 41): false} {
		err := words.Set{Own: map[text.Term]string{"drum": word}}.Check()
		if ok {
			assert.NoError(t, err, word)
		} else {
			assert.ErrorContains(t, err, "own.drum", "%q", word)
		}
	}
	assert.ErrorContains(t, words.Set{Base: "kitchen"}.Check(), "base")
	assert.ErrorContains(t, words.Set{Own: map[text.Term]string{"spoon": "x"}}.Check(), "own.spoon")
}
