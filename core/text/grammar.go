package text

import (
	"fmt"
	"strings"
)

// noun is a word of the trade with what its language wants to know of it.
type noun struct {
	word, short string
	gender      int    // masculine, feminine, neuter; of the language's own order
	genitive    string // in German
	several     string // ready-made; "" goes by the language's rule
}

// shortest is the word where there is little room.
func (n noun) shortest() string {
	if n.short != "" {
		return n.short
	}
	return n.word
}

// grammar declines the nouns of a language.
type grammar struct {
	genders int
	gender  map[string]int                       // by the article of the dictionary
	rule    func(word string, gender int) string // the plural of a word for which none is given
	article func(n noun, article string, f form) (string, error)
}

// The genders.
const (
	masculine = iota
	feminine
	neuter
)

var grammars = map[string]grammar{
	"en": {1, nil, englishPlural, english},
	"de": {3, map[string]int{"der": masculine, "die": feminine, "das": neuter}, germanPlural, german},
	"es": {2, map[string]int{"el": masculine, "la": feminine}, spanishPlural, spanish},
	"fr": {2, map[string]int{"le": masculine, "la": feminine}, frenchPlural, french},
}

// bare is the grammar of a language that none is written for: it has no articles, and the plurals that the dictionary
// gives.
var bare = grammar{1, nil, func(word string, _ int) string { return word },
	func(n noun, article string, f form) (string, error) {
		switch {
		case article != "":
			return "", fmt.Errorf("this language has no grammar for %q", article)
		case f != singular:
			return n.several, nil
		}
		return n.word, nil
	}}

// noun reads an entry of the dictionary: "word | short", with the article behind a comma in a language with genders,
// and the plural behind a semicolon (in German the genitive and the plural), where "-" stands for the word itself.
func (g grammar) noun(s string) (noun, error) {
	s, short, _ := strings.Cut(s, "|")
	s, forms, has := strings.Cut(s, ";")
	word, article, _ := strings.Cut(s, ",")
	n := noun{word: strings.TrimSpace(word), short: strings.TrimSpace(short)}
	if n.word == "" {
		return n, fmt.Errorf("the word is missing")
	}
	if g.genders > 1 {
		var known bool
		if n.gender, known = g.gender[strings.TrimSpace(article)]; !known {
			return n, fmt.Errorf("the article is missing, as in “word, die”")
		}
	}
	if !has {
		return n, nil
	}
	first, second, both := strings.Cut(forms, ",")
	if both {
		n.genitive, n.several = n.form(first), n.form(second)
	} else {
		n.several = n.form(first)
	}
	return n, nil
}

// form reads a form of a word: "-n" is the word with an n.
func (n noun) form(s string) string {
	s = strings.TrimSpace(s)
	if end, is := strings.CutPrefix(s, "-"); is {
		return n.word + end
	}
	return s
}

// own reads a class's own word. In a language with genders it may be written with its article: "die Trommel".
func (g grammar) own(s string) noun {
	if article, word, found := strings.Cut(s, " "); found {
		if gender, known := g.gender[strings.ToLower(article)]; known {
			return noun{word: word, gender: gender}
		}
	}
	return noun{word: s}
}

// check refuses an article that the language does not know.
func (g grammar) check(article string) error {
	_, err := g.article(noun{word: "x"}, article, singular)
	return err
}

// decline writes a noun with its article.
func (g grammar) decline(n noun, article string, f form) string {
	if f != singular && n.several == "" {
		n.several = g.rule(n.word, n.gender)
	}
	s, err := g.article(n, article, f)
	if err != nil { // entries were checked as they were read
		return n.word
	}
	return s
}

func errArticle(article string) error { return fmt.Errorf("%q is no article", article) }

// inForm is the noun without an article.
func (n noun) inForm(f form) string {
	if f == singular {
		return n.word
	}
	return n.several
}

func vowel(word string, of string) bool {
	for _, r := range strings.ToLower(word) {
		return strings.ContainsRune(of, r)
	}
	return false
}

func english(n noun, article string, f form) (string, error) {
	switch article {
	case "":
		return n.inForm(f), nil
	case "the":
		return "the " + n.inForm(f), nil
	case "a":
		if vowel(n.word, "aeiou") {
			return "an " + n.inForm(f), nil
		}
		return "a " + n.inForm(f), nil
	}
	return "", errArticle(article)
}

// englishPlural is several of a thing.
func englishPlural(word string, _ int) string {
	if word == "" {
		return ""
	}
	last := word[len(word)-1]
	switch {
	case strings.HasSuffix(word, "ch"), strings.HasSuffix(word, "sh"), last == 's', last == 'x', last == 'z':
		return word + "es"
	case last == 'y' && len(word) > 1 && !strings.ContainsRune("aeiou", rune(word[len(word)-2])):
		return word[:len(word)-1] + "ies"
	}
	return word + "s"
}

func spanish(n noun, article string, f form) (string, error) {
	word := n.inForm(f)
	some := f != singular
	pick := func(m, fem, ms, fs string) (string, error) {
		switch {
		case some && n.gender == feminine:
			return fs + " " + word, nil
		case some:
			return ms + " " + word, nil
		case n.gender == feminine:
			return fem + " " + word, nil
		}
		return m + " " + word, nil
	}
	switch article {
	case "":
		return word, nil
	case "el":
		return pick("el", "la", "los", "las")
	case "del":
		return pick("del", "de la", "de los", "de las")
	case "al":
		return pick("al", "a la", "a los", "a las")
	case "un":
		return pick("un", "una", "unos", "unas")
	}
	return "", errArticle(article)
}

func spanishPlural(word string, _ int) string {
	head, tail, more := strings.Cut(word, " ")
	switch {
	case head == "":
		return word
	case vowel(head[len(head)-1:], "aeiou"):
		head += "s"
	case strings.HasSuffix(head, "z"):
		head = head[:len(head)-1] + "ces"
	case strings.HasSuffix(head, "ión"):
		head = strings.TrimSuffix(head, "ión") + "iones"
	default:
		head += "es"
	}
	if more {
		return head + " " + tail
	}
	return head
}

func french(n noun, article string, f form) (string, error) {
	word := n.inForm(f)
	elided := vowel(word, "aeiouéèêâîôûœh")
	pick := func(m, fem, el, several string) (string, error) {
		switch {
		case f != singular:
			return several + word, nil
		case elided:
			return el + word, nil
		case n.gender == feminine:
			return fem + word, nil
		}
		return m + word, nil
	}
	switch article {
	case "":
		return word, nil
	case "le":
		return pick("le ", "la ", "l’", "les ")
	case "du":
		return pick("du ", "de la ", "de l’", "des ")
	case "au":
		return pick("au ", "à la ", "à l’", "aux ")
	case "un":
		if n.gender == feminine {
			return pick("", "une ", "une ", "des ")
		}
		return pick("un ", "", "un ", "des ")
	case "de":
		if elided {
			return "d’" + word, nil
		}
		return "de " + word, nil
	}
	return "", errArticle(article)
}

func frenchPlural(word string, _ int) string {
	head, tail, more := strings.Cut(word, " ")
	switch {
	case strings.HasSuffix(head, "s"), strings.HasSuffix(head, "x"), strings.HasSuffix(head, "z"):
	case strings.HasSuffix(head, "eau"), strings.HasSuffix(head, "eu"):
		head += "x"
	default:
		head += "s"
	}
	if more {
		return head + " " + tail
	}
	return head
}

// The cases of German.
const (
	nominative = iota
	genitive
	dative
	accusative
)

// germanArticles are the forms of articles by gender and case. They are named by what stands before a masculine noun:
// that tells the case.
var germanArticles = map[string]struct {
	in     int
	forms  [3]string // masculine, feminine, neuter
	ending [3]string // of an adjective behind it
}{
	"der":   {nominative, [3]string{"der", "die", "das"}, [3]string{"e", "e", "e"}},
	"des":   {genitive, [3]string{"des", "der", "des"}, [3]string{"en", "en", "en"}},
	"dem":   {dative, [3]string{"dem", "der", "dem"}, [3]string{"en", "en", "en"}},
	"den":   {accusative, [3]string{"den", "die", "das"}, [3]string{"en", "e", "e"}},
	"ein":   {nominative, [3]string{"ein", "eine", "ein"}, [3]string{"er", "e", "es"}},
	"eines": {genitive, [3]string{"eines", "einer", "eines"}, [3]string{"en", "en", "en"}},
	"einem": {dative, [3]string{"einem", "einer", "einem"}, [3]string{"en", "en", "en"}},
	"einen": {accusative, [3]string{"einen", "eine", "ein"}, [3]string{"en", "e", "es"}},
	"am":    {dative, [3]string{"am", "an der", "am"}, [3]string{"en", "en", "en"}},
	"im":    {dative, [3]string{"im", "in der", "im"}, [3]string{"en", "en", "en"}},
	"zum":   {dative, [3]string{"zum", "zur", "zum"}, [3]string{"en", "en", "en"}},
	"vom":   {dative, [3]string{"vom", "von der", "vom"}, [3]string{"en", "en", "en"}},

	"welcher": {nominative, [3]string{"welcher", "welche", "welches"}, [3]string{"e", "e", "e"}},
	"welchem": {dative, [3]string{"welchem", "welcher", "welchem"}, [3]string{"en", "en", "en"}},
	"jeden":   {accusative, [3]string{"jeden", "jede", "jedes"}, [3]string{"en", "e", "e"}},
	"jedem":   {dative, [3]string{"jedem", "jeder", "jedem"}, [3]string{"en", "en", "en"}},
	"dieses":  {genitive, [3]string{"dieses", "dieser", "dieses"}, [3]string{"en", "en", "en"}},
	"kein":    {nominative, [3]string{"kein", "keine", "kein"}, [3]string{"er", "e", "es"}},
}

// german writes a noun with its article and adjectives, as in "dem letzt~": a ~ takes the ending.
func german(n noun, article string, f form) (string, error) {
	word := n.inForm(f)
	if f == dativePlural && !strings.HasSuffix(word, "n") && !strings.HasSuffix(word, "s") {
		word += "n"
	}
	if article == "" {
		return word, nil
	}
	first, adjectives, _ := strings.Cut(article, " ")
	a, known := germanArticles[first]
	if !known || f != singular {
		return "", errArticle(article)
	}
	if a.in == genitive {
		word = n.genitive
		if word == "" {
			if word = n.word; n.gender != feminine {
				word += "s"
			}
		}
	}
	out := a.forms[n.gender] + " "
	if adjectives != "" {
		out += strings.ReplaceAll(adjectives, "~", a.ending[n.gender]) + " "
	}
	return out + word, nil
}

func germanPlural(word string, gender int) string {
	switch {
	case strings.HasSuffix(word, "e"):
		return word + "n"
	case strings.HasSuffix(word, "er"), strings.HasSuffix(word, "el"), strings.HasSuffix(word, "en"):
		if gender == feminine {
			return word + "n"
		}
		return word
	case gender == feminine:
		return word + "en"
	}
	return word + "e"
}
