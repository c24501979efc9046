package names_test

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"cavix/core/names"
)

func Example() {
	fmt.Println(names.Fold("  WREN\tA. ") == names.Fold("wren a."))
	fmt.Println(names.Alike("Anna", "Аnnа")) // with two Cyrillic letters
	fmt.Println(names.Check("Ash\u202e.W").Args()[0].Value)
	// Output:
	// true
	// true
	// 202E
}

func TestNames(t *testing.T) {
	for _, good := range []string{"Wren A.", "Ángel Ñ.", "Zoë", "Åsa Ö.", "O’Neill-Brown", "Анна К.", "Γιώργος",
		"山田 太郎", "김민수", "عمر", "נועם", "Bench 2", "Nguyễn Văn A", "M₂", "Straße", "Team α", "Łukasz", "ash-w_3",
		"अनीता"} {
		assert.Empty(t, names.Check(good), good)
		assert.True(t, names.Alike(good, strings.ToUpper(good)) || strings.Contains(good, "ß"), good)
	}
	for _, bad := range []string{"", "   ", "a\u200bb", "a\u202eb", "\u2066x", "a\u00adb", "\ufeffa", "a\u034fb",
		"\u3164", "\u2800", "a\tb", "a\nb", "a\x00b", "Аnna", "Wrеn", "pαul", "z\u0301\u0302\u0303\u0304", "...", "—",
		"a\xffb", strings.Repeat("x", 61), "a\U000E0041b", "x\ufe0f"} {
		assert.NotEmpty(t, names.Check(bad), "%q", bad)
	}
	for _, same := range [][2]string{{"Ｗｒｅｎ", "wren"}, {"ﬁnn", "Finn"}, {"e\u0301mile", "Émile"}, {"Straße", "STRASSE"},
		{" A  B ", "a b"}} {
		assert.Equal(t, names.Fold(same[0]), names.Fold(same[1]), same)
	}
	for _, alike := range [][2]string{{"Сосо", "Coco"}, {"Ash 1", "Ash l"}, {"B0b", "Bob"}} {
		assert.True(t, names.Alike(alike[0], alike[1]), alike)
	}
	assert.False(t, names.Alike("Anna", "Hanna"))
}

// Folding a folded name changes nothing, and never makes what is no text.
func FuzzFold(f *testing.F) {
	f.Add("Wren A.")
	f.Add("ǅ\u0345ẞ")
	f.Fuzz(func(t *testing.T, s string) {
		once := names.Fold(s)
		if names.Fold(once) != once {
			t.Errorf("%q folds to %q, and that to %q", s, once, names.Fold(once))
		}
		if utf8.ValidString(s) && !utf8.ValidString(once) {
			t.Errorf("%q folds to what is no text", s)
		}
		_ = names.Check(s)
	})
}
