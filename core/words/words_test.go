package words_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/words"
)

func ExampleSet_Say() {
	text := "The last {mark} clear of the {drum}'s edge counts; then the {drum} {line} at the {index line}."
	fmt.Println(words.Set{}.Say(text))
	fmt.Println(words.Set{Base: words.Laboratory}.Say(text))
	fmt.Println(words.Set{Own: map[words.Term]string{"drum": "barrel"}}.Say(text))
	// Output:
	// The last mark clear of the thimble's edge counts; then the thimble line at the datum line.
	// The last main scale division clear of the circular scale's edge counts; then the circular scale division at the reference line.
	// The last mark clear of the barrel's edge counts; then the barrel line at the datum line.
}

// A term has its article, its plural, its beginning of a sentence and its short form; all else stays as it stands.
func TestSay(t *testing.T) {
	own := words.Set{Base: words.Laboratory, Own: map[words.Term]string{"plate": "index box", "line": "entry", "mark": "stroke"}}
	for _, tt := range []struct {
		set        words.Set
		text, want string
	}{
		{words.Set{}, "{a index line}, {A plate}", "a datum line, A vernier plate"},
		{own, "{a plate}, {A plate}", "an index box, An index box"},
		{own, "two {line}s, {Line}s; {plate}s; {plate}'s", "two entries, Entries; index boxes; index box's"},
		{words.Set{}, "{coinciding line}s", "lines that line up"},
		{own, "{short main reading}, {short mark}, {mark}sun", "M.S.R., stroke, strokesun"},
		{words.Set{}, "{short observed reading}", "reading"},
		{words.Set{Base: "no such"}, "{drum}", "thimble"},
		{own, `x-data="{open: 1}" {{drum}} {plate`, `x-data="{open: 1}" {circular scale} {plate`},
		{own, "{nothing} {} {a } {short } }{", "{nothing} {} {a } {short } }{"},
	} {
		assert.Equal(t, tt.want, tt.set.Say(tt.text), tt.text)
	}
}

// Every term has a word in both sets, and what it is; a text of nothing else leaves no brace behind.
func TestEveryTermCanBeSpoken(t *testing.T) {
	for _, a := range words.List() {
		assert.NotEmpty(t, a.Is, a.Term)
		for _, base := range []words.Base{"", words.Laboratory, words.Documents} {
			said := words.Set{Base: base}.Say(fmt.Sprintf("{%s} {a %s} {short %s} {%s}s", a.Term, a.Term, a.Term, a.Term))
			assert.NotContains(t, said, "{", a.Term)
			assert.NotContains(t, said, "  ", a.Term)
		}
		assert.LessOrEqual(t, len([]rune(a.Workshop.Long)), 40, "could be a class's own word")
	}
}

// A class's own words can be printed anywhere: what could be read as markup, and what is no term, is refused by name.
func TestOwnWordsAreChecked(t *testing.T) {
	for word, ok := range map[string]bool{"barrel": true, "ring scale (B)": true, "tambour gradué": true, "मुख्य पैमाना": true,
		"V.S.R. × L.C.": true, "": false, "  ": false, "<b>": false, "a\nb": false, `say "x"`: false, "{drum}": false, "a & b": false,
		strings.Repeat("x", 41): false} {
		err := words.Set{Own: map[words.Term]string{"drum": word}}.Check()
		if ok {
			assert.NoError(t, err, word)
		} else {
			assert.ErrorContains(t, err, "own.drum", "%q", word)
		}
	}
	assert.ErrorContains(t, words.Set{Base: "kitchen"}.Check(), "base")
	assert.ErrorContains(t, words.Set{Own: map[words.Term]string{"spoon": "x"}}.Check(), "own.spoon")
}

func FuzzSay(f *testing.F) {
	f.Add("{a drum}s {short {mark}} {")
	f.Fuzz(func(t *testing.T, text string) {
		said := words.Set{Base: words.Laboratory}.Say(text)
		if !strings.Contains(text, "{") {
			assert.Equal(t, text, said)
		}
	})
}
