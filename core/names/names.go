// Package names knows what people may be called and when two names are the same. A name is kept as it reads; spellings
// that differ only in how a machine writes them are one name, and what is not to be seen, or poses as another letter,
// is refused.
package names

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"

	"cavix/core/text"
)

// Longest is the largest number of characters in a name.
const Longest = 60

// mostMarks is the largest number of accents on one letter.
const mostMarks = 2

// Tidy brings a name to one line with single spaces, in the composed form of Unicode (NFKC): a wide or a joined letter
// is the plain one.
func Tidy(name string) string { return strings.Join(strings.Fields(norm.NFKC.String(name)), " ") }

// Fold brings a name to the form in which two spellings of it are the same: tidied, and without upper case.
func Fold(name string) string { return Tidy(cases.Fold().String(Tidy(name))) }

// Check says what is wrong with a person's name, or "".
func Check(name string) text.Text {
	if bad := CheckTitle(name); !bad.IsZero() {
		return bad
	}
	for word := range strings.FieldsSeq(name) {
		if a, b := mixed(word); a != "" {
			return text.New("names.check", "word", word, "first", text.New("names.alphabet-"+a), "second",
				text.New("names.alphabet-"+b))
		}
	}
	if !strings.ContainsFunc(name, func(r rune) bool {
		return unicode.IsLetter(r) || unicode.IsDigit(r) ||
			unicode.IsSymbol(r)
	}) {
		return text.New("names.write-name-letter-digit")
	}
	return text.Text{}
}

// CheckTitle says what is wrong with what a thing is called, or "": in “5 µm” alphabets are mixed rightly.
func CheckTitle(name string) text.Text {
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		return text.New("names.check-title")
	case n > Longest:
		return text.New("names.use-characters-most-these", "longest", Longest, "n", n)
	case !utf8.ValidString(name):
		return text.New("names.use-letters-digits-signs")
	}
	marks := 0
	for _, r := range norm.NFKC.String(name) {
		switch {
		case r == ' ':
		case unseen(r):
			return text.New("names.use-letters-digits-signs-b", "r", text.Math(fmt.Sprintf("%04X", r)))
		}
		if unicode.Is(unicode.Mn, r) {
			marks++
		} else {
			marks = 0
		}
		if marks > mostMarks {
			return text.New("names.put-accents-letter-most", "most_marks", mostMarks)
		}
	}
	return text.Text{}
}

// blanks are letters and signs by class that show nothing.
var blanks = []rune{0x034F, 0x115F, 0x1160, 0x17B4, 0x17B5, 0x2800, 0x3164, 0xFFA0, 0xFFFC, 0xFFFD}

// unseen reports whether a character shows nothing, changes the direction in which others are read, or is none.
func unseen(r rune) bool {
	return !unicode.IsPrint(r) || unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Co, r) || unicode.Is(unicode.Zs, r) ||
		unicode.Is(unicode.Variation_Selector, r) || slices.Contains(blanks, r)
}

// alphabets are those whose letters are taken for each other's.
var alphabets = []struct {
	name  string
	table *unicode.RangeTable
}{
	{"Latin", unicode.Latin}, {"Cyrillic", unicode.Cyrillic}, {"Greek", unicode.Greek}, {"Armenian", unicode.Armenian},
	{"Cherokee", unicode.Cherokee}, {"Coptic", unicode.Coptic},
}

// mixed names two of those alphabets that a word has letters of; "" where it has of one at most.
func mixed(word string) (a, b string) {
	for _, r := range word {
		for _, set := range alphabets {
			switch {
			case !unicode.IsLetter(r) || !unicode.Is(set.table, r) || set.name == a:
			case a == "":
				a = set.name
			default:
				return a, set.name
			}
		}
	}
	return "", ""
}

// looks are small letters of other alphabets that look like a Latin one, and what people take for each other.
var looks = strings.NewReplacer("а", "a", "е", "e", "о", "o", "р", "p", "с", "c", "х", "x", "у", "y", "і", "i", "ї",
	"ï", "ј", "j", "ѕ", "s", "һ", "h", "ԁ", "d", "ԛ", "q", "ԝ", "w", "к", "k", "в", "b", "м", "m", "н", "h", "т", "t",
	"α", "a", "ε", "e", "ι", "i", "κ", "k",
	"ν", "v", "ο", "o", "ρ", "p", "τ", "t", "υ", "u", "χ", "x", "ο", "o", "β", "b", "η", "n", "ս", "u", "օ", "o", "հ",
	"h", "ո", "n", "ı", "i",
	"ɑ", "a", "ɡ", "g", "ʟ", "l", "0", "o", "1", "l", "|", "l")

// Skeleton brings a name to the form in which names that look alike are the same; see Alike.
func Skeleton(name string) string { return looks.Replace(Fold(name)) }

// Alike reports whether two names are the same or look so: spelled alike but for case and spaces, or letter by letter
// with letters of another alphabet, or with a 0 for an o or a 1 for an l.
func Alike(a, b string) bool { return Skeleton(a) == Skeleton(b) }
