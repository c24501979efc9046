package text_test

import (
	"errors"
	"fmt"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"cavix/core/length"
	"cavix/core/text"
)

const englishTerms = `
[about]
drum: what is turned
mark: a line of the main scale
[workshop]
drum: thimble | thbl
mark: mark
[laboratory]
drum: circular scale
`

func catalogue(t testing.TB, tag, terms, entries string, fallback *text.Catalogue) *text.Catalogue {
	t.Helper()
	c, err := text.Load(language.MustParse(tag), fstest.MapFS{"terms.txt": {Data: []byte(terms)},
		"a.txt": {Data: []byte(entries)}}, fallback)
	require.NoError(t, err)
	return c
}

func ExamplePrinter() {
	c, err := text.Load(language.German, fstest.MapFS{
		"terms.txt": {Data: []byte("[about]\ndrum: what is turned\n[workshop]\ndrum: Skalentrommel, die\n")},
		"card.txt": {Data: []byte(
			"[card]\nsays: {$name} dreht {den drum} um {$n: einen Strich | # Striche}: {$value} mm.\n")},
	}, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	says := text.New("card.says", "name", "Wren {drum} 0.5", "n", 3, "value", length.Frac(3, 100))
	fmt.Println(c.Printer(text.Words{}, language.German).Print(says))
	fmt.Println(c.Printer(text.Words{Own: map[text.Term]string{"drum": "der Zylinder"}}, language.German).Print(says))
	// Output:
	// Wren {drum} 0.5 dreht die Skalentrommel um 3 Striche: 0,03 mm.
	// Wren {drum} 0.5 dreht den Zylinder um 3 Striche: 0,03 mm.
}

func TestPrinting(t *testing.T) {
	c := catalogue(t, "en", englishTerms, `
[list]
list: ,_
and: _and_
[a]
term: {A drum} and {the drum}, {drums}; {short drum}
count: {$n marks} on {$where: one card | # cards}
many: {$Who} read {$value}
link: see [b: {$name}] on [page: the page]
long: one
   two
   three
`, nil)
	for want, says := range map[string]text.Text{
		"A thimble and the thimble, thimbles; thbl": text.New("a.term"),
		"1 mark on 3 cards":                         text.New("a.count", "n", 1, "where", 3),
		"2 marks on one card":                       text.New("a.count", "n", 2, "where", 1),
		"Ash, Wren and Bram read −0.5": text.New("a.many", "who",
			text.And(text.Typed("ash"), text.Typed("Wren"), text.Typed("Bram")), "value", length.Frac(-1, 2)),
		"Thimble read 7":    text.New("a.many", "who", text.Word("drum"), "value", 7),
		"see x on the page": text.New("a.link", "name", "x", "page", "/p"),
		"one two three":     text.New("a.long"),
		"⟦no.such n=1⟧":     text.New("no.such", "n", 1),
	} {
		assert.Equal(t, want, c.Printer(text.Words{}, language.English).Print(says))
	}
	laboratory := c.Printer(text.Words{Base: "laboratory"}, language.English)
	assert.Equal(t, "A circular scale and the circular scale, circular scales; circular scale",
		laboratory.Say("a.term"))
	assert.Equal(t, "1 mark on one card", laboratory.Say("a.count", "n", 1, "where", 1),
		"a set lacks a word: the workshop's")
	own := c.Printer(text.Words{Own: map[text.Term]string{"drum": "index barrel"}}, language.English)
	assert.Equal(t, "An index barrel and the index barrel, index barrels; index barrel", own.Say("a.term"))
}

// What people typed is no markup, no term and no number.
func TestTypedWordsStandAsTyped(t *testing.T) {
	c := catalogue(t, "de", "[about]\ndrum: x\n[workshop]\ndrum: Trommel, die\n",
		"[a]\nsays: {$name} [b: {$other}] [page: hier]\n", nil)
	p := c.Printer(text.Words{}, language.German)
	const typed = `{drum} "5,0" 0.02 <b>'[b: x]`
	says := text.New("a.says", "name", typed, "other", text.Typed(typed), "page", `/p?"<`)
	assert.Equal(t, typed+" "+typed+" hier", p.Print(says))
	escaped := `{drum} &#34;5,0&#34; 0.02 &lt;b&gt;&#39;[b: x]`
	assert.Equal(t, escaped+" <b>"+escaped+`</b> <a href="/p?&#34;&lt;">hier</a>`, p.HTML(says))
}

// German declines, Spanish contracts, French elides.
// Words from right to left keep to themselves within a sentence; alone they are as they were typed.
func TestWordsFromRightToLeftAreIsolated(t *testing.T) {
	p := catalogue(t, "en", englishTerms, "[a]\njoined: {$who} · 12\nmark: {Mark} 8\n",
		nil).Printer(text.Words{Own: map[text.Term]string{"mark": "خط"}}, language.English)
	assert.Equal(t, "\u2068שרה\u2069 · 12", p.Say("a.joined", "who", "שרה"))
	assert.Equal(t, "\u2068שרה\u2069 · 12", p.Say("a.joined", "who", text.Typed("שרה")))
	assert.Equal(t, "Wren · 12", p.Say("a.joined", "who", "Wren"))
	assert.Equal(t, "\u2068خط\u2069 8", p.Say("a.mark"))
	assert.Equal(t, "שרה", p.Print(text.Typed("שרה")))
}

func TestGrammar(t *testing.T) {
	de := catalogue(t, "de", "[about]\ndrum: x\nmark: x\nplate: x\n[workshop]\ndrum: Skalentrommel, die\nmark: "+
		"Teilstrich, der; Teilstrichs, Teilstriche\nplate: Maß, das; Maßes, Maße\n",
		"[a]\nsays: {Den letzt~ mark}; {dem drum}; {$n marks}; bei {marks.dat}; {des mark}; {drum: der | die | "+
			"das}; {zum drum}; {einen klein~ plate}\n", nil)
	assert.Equal(t, "Den letzten Teilstrich; der Skalentrommel; 2 Teilstriche; bei Teilstrichen; des Teilstrichs; "+
		"die; zur Skalentrommel; ein kleines Maß",
		de.Printer(text.Words{}, language.German).Say("a.says", "n", 2))
	es := catalogue(t, "es", "[about]\ndrum: x\nmark: x\n[workshop]\ndrum: tambor, el\nmark: división, la\n",
		"[a]\nsays: {el drum}, {del mark}, {al drum}, {el marks}, {un mark}, {$n: una | #}\n", nil)
	assert.Equal(t, "el tambor, de la división, al tambor, las divisiones, una división, 5",
		es.Printer(text.Words{}, language.Spanish).Say("a.says", "n", 5))
	fr := catalogue(t, "fr", "[about]\ndrum: x\nmark: x\n[workshop]\ndrum: tambour, le\nmark: aiguille, la\n",
		"[a]\nsays: {le drum}, {le mark}, {du mark}, {au drum}, {de mark}, {le marks}\n", nil)
	assert.Equal(t, "le tambour, l’aiguille, de l’aiguille, au tambour, d’aiguille, les aiguilles",
		fr.Printer(text.Words{}, language.French).Say("a.says"))
}

// A language that lacks an entry or a word takes that of the first.
func TestFallback(t *testing.T) {
	en := catalogue(t, "en", englishTerms, "[a]\nboth: here\nonly: {the drum} {$x}\n", nil)
	fr := catalogue(t, "fr", "[about]\nmark: trait\n[workshop]\nmark: trait, le\n", "[a]\nboth: ici\n", en)
	p := fr.Printer(text.Words{}, language.French)
	assert.Equal(t, "ici", p.Say("a.both"))
	assert.Equal(t, "the thimble 0,5", p.Print(text.New("a.only", "x", length.Frac(1, 2))))
	assert.Equal(t, "here", p.English().Say("a.both"))
	assert.NotEqual(t, p.Key(), p.English().Key())
}

// A language that no grammar is written for is spoken all the same, without articles.
func TestALanguageWithoutAGrammar(t *testing.T) {
	fi := catalogue(t, "fi", "[about]\nmark: x\n[workshop]\nmark: viiva; viivat\n",
		"[a]\nsays: {Mark}, {$n marks} {$n: rivi | riviä}\n", nil)
	assert.Equal(t, "Viiva, 3 viivat riviä", fi.Printer(text.Words{}, language.Finnish).Say("a.says", "n", 3))
	_, err := text.Load(language.Finnish, fstest.MapFS{
		"terms.txt": {Data: []byte("[about]\nmark: x\n[workshop]\nmark: viiva\n")},
		"a.txt":     {Data: []byte("[a]\nsays: {the mark}\n")}}, nil)
	assert.ErrorContains(t, err, "no grammar")
}

// Numbers are written as the reader's region writes them, whatever the language.
func TestNumbers(t *testing.T) {
	c := catalogue(t, "en", "", "[a]\nb: c\n", nil)
	for region, want := range map[string]string{"en": "−0.05 + 1 3/16 = 12.5 mm", "en-ZA": "−0,05 + 1 3/16 = 12,5 mm",
		"de-CH": "−0.05 + 1 3/16 = 12.5 mm"} {
		assert.Equal(t, want, c.Printer(text.Words{}, language.MustParse(region)).Math("-0.05 + 1 3/16 = 12.5 mm"),
			region)
	}
}

// What is kept comes back as it was; what was kept before texts were values is shown as it is.
func TestStored(t *testing.T) {
	says := text.New("a.b", "n", 3, "x", length.Frac(1, 3), "name", `{drum} "`, "term", text.Term("drum"), "more",
		text.And(text.Word("mark"), text.ShortWord("drum"), text.Typed("7")))
	assert.True(t, says.Equal(text.ReadStored(text.Stored(says))), text.Stored(says))
	assert.Equal(t, text.Typed("marked anew"), text.ReadStored("marked anew"))
	assert.True(t, text.ReadStored(text.Stored(text.Text{})).IsZero())
}

func TestErrorsSayTheirTexts(t *testing.T) {
	err := fmt.Errorf("while reading: %w", text.Error("a.b", "n", 2))
	assert.Equal(t, text.New("a.b", "n", 2), text.Says(err))
	assert.Equal(t, text.Typed("disk"), text.Says(errors.New("disk")))
	assert.Equal(t, text.New("a.c", "why", text.New("a.b", "n", 2)), text.New("a.c", "why", err),
		"an error is an argument by its text")
}

// A catalogue that cannot be printed is refused with its line.
func TestBadCatalogues(t *testing.T) {
	for entry, want := range map[string]string{"x: {nothing}": "no term", "x: {": "without its }",
		"x: [b: c": "without its ]", "x: c]": "without its [", "x: {an drum}": "article",
		"x: {$n: one}": "one and several", "x y": "key: text", "x: a\nx: b": "stands at",
		"x: {drum: a | b}": "each gender", "x: [b c]": "[name: words]"} {
		_, err := text.Load(language.English, fstest.MapFS{"terms.txt": {Data: []byte(englishTerms)},
			"a.txt": {Data: []byte("[a]\n" + entry + "\n")}}, nil)
		if assert.Error(t, err, entry) {
			assert.Contains(t, err.Error(), want, entry)
			assert.Contains(t, err.Error(), "a.txt:", entry)
		}
	}
	_, err := text.Load(language.German, fstest.MapFS{"terms.txt": {Data: []byte("[workshop]\ndrum: Trommel\n")}}, nil)
	assert.ErrorContains(t, err, "article")
}

// A text that holds itself many times over ends.
func TestDeepTextsEnd(t *testing.T) {
	c := catalogue(t, "en", "", "[a]\nb: ({$x})\n", nil)
	says := text.Typed("x")
	for range 1000 {
		says = text.New("a.b", "x", says)
	}
	assert.Less(t, len(c.Printer(text.Words{}, language.English).Print(says)), 200)
}

func FuzzReadStored(f *testing.F) {
	f.Add(text.Stored(text.New("a.b", "n", 3, "x", text.Word("drum"))))
	f.Add(`{"key":"list.and","args":[{"kind":"text"}]}`)
	c := catalogue(f, "en", englishTerms, "[a]\nb: {$n marks} {$x}\n", nil)
	f.Fuzz(func(t *testing.T, s string) {
		says := text.ReadStored(s)
		_ = c.Printer(text.Words{}, language.English).HTML(says)
	})
}

func FuzzCatalogue(f *testing.F) {
	f.Add("[a]\nb: {A drum} {$n: one | #} [b: {$x}]\n  more\n# note\n")
	f.Fuzz(func(t *testing.T, s string) {
		c, err := text.Load(language.English, fstest.MapFS{"terms.txt": {Data: []byte(englishTerms)},
			"a.txt": {Data: []byte(s)}}, nil)
		if err != nil {
			return
		}
		for _, key := range c.Keys() {
			_ = c.Printer(text.Words{}, language.English).HTML(text.New(key, "n", 1, "x", "<"))
		}
	})
}

func BenchmarkPrint(b *testing.B) {
	c := catalogue(b, "en", englishTerms, "[a]\nb: You read {the mark} {$value} of {the drum}; {$n marks} are right.\n",
		nil)
	p := c.Printer(text.Words{}, language.English)
	says := text.New("a.b", "value", length.Frac(1, 4), "n", 3)
	b.ReportAllocs()
	for b.Loop() {
		_ = p.Print(says)
	}
}
