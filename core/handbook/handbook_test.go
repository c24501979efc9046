package handbook_test

import (
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"cavix/core/exercise"
	"cavix/core/handbook"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/locale"
)

func ExampleBook_Look() {
	book, err := handbook.In(locale.English(text.Words{}))
	if err != nil {
		fmt.Println(err)
		return
	}
	p := book.Look(handbook.Asked{Kind: "read", Family: instrument.DepthMicrometer, Slip: "half-mark-added",
		Field: "main"})
	fmt.Println(p.Page, p.Anchor)
	// Output: depth the-last-hidden-mark
}

func book(t testing.TB, base words.Base) *handbook.Book {
	t.Helper()
	b, err := handbook.In(locale.English(text.Words{Base: string(base)}))
	require.NoError(t, err)
	return b
}

// textOf is all that a page says.
func textOf(p *handbook.Page) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n%s\n", p.Title, p.About)
	for _, part := range p.Parts {
		b.WriteString(part.Text + "\n")
		if part.Figure != nil {
			b.WriteString(part.Figure.Caption + "\n")
		}
	}
	return b.String()
}

// No number of a worked example is written by hand: what stands in the files outside double brackets has no decimals
// and no arithmetic, but for the inch, which is what it is by definition.
func TestWorkedValuesComeFromTheCore(t *testing.T) {
	files, err := filepath.Glob("../../locale/*/handbook/*.md")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	worked := regexp.MustCompile(`(?s)\[\[.*?\]\]`)
	inch := regexp.MustCompile(`25[.,]4 mm`)
	byHand := regexp.MustCompile(`\d+[.,/]\d+|\d+ ?[×÷=+] ?\d+|\d ?(mm|in)\b`)
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		_, body, _ := strings.Cut(string(text), "\n\n")
		body = inch.ReplaceAllString(worked.ReplaceAllString(body, ""), "")
		for _, line := range strings.Split(body, "\n") {
			if !strings.HasPrefix(line, "@figure") { // where it stands
				assert.NotRegexp(t, byHand, line, f)
			}
		}
	}
}

var (
	number   = `[−-]?\d+(?: \d+/\d+|/\d+|\.\d+)?`
	equation = regexp.MustCompile(`((?:\(?` + number + `\)?(?: mm| in)?)(?: [×÷+−] (?:\(?` + number +
		`\)?(?: mm| in)?))+) = (` + number + `)`)
	backFrom = regexp.MustCompile(`−\((\d+) − (\d+)\)`)
)

// value reads a number as it is printed, apart from the core.
func value(t *testing.T, text string) *big.Rat {
	t.Helper()
	text = strings.NewReplacer("−", "-", "(", "", ")", "", " mm", "", " in", "").Replace(text)
	whole, part, mixed := strings.Cut(text, " ")
	x, ok := new(big.Rat).SetString(whole)
	require.True(t, ok, text)
	if mixed {
		y, ok := new(big.Rat).SetString(part)
		require.True(t, ok, text)
		x.Add(x, y)
	}
	return x
}

// Every equation on every page holds, worked out anew.
func TestEquationsHold(t *testing.T) {
	found := 0
	for _, p := range book(t, words.Workshop).Pages {
		text := backFrom.ReplaceAllStringFunc(textOf(p), func(s string) string {
			of := backFrom.FindStringSubmatch(s)
			return "−" + new(big.Rat).Sub(value(t, of[1]), value(t, of[2])).RatString()
		})
		for _, eq := range equation.FindAllStringSubmatch(text, -1) {
			found++
			tokens := regexp.MustCompile(` ([×÷+−]) `).FindAllStringSubmatch(eq[1], -1)
			terms := regexp.MustCompile(` [×÷+−] `).Split(eq[1], -1)
			sum, product := new(big.Rat), value(t, terms[0])
			for i, op := range tokens {
				x := value(t, terms[i+1])
				switch op[1] {
				case "×":
					product = new(big.Rat).Mul(product, x)
				case "÷":
					product = new(big.Rat).Quo(product, x)
				case "+":
					sum, product = new(big.Rat).Add(sum, product), x
				case "−":
					sum, product = new(big.Rat).Add(sum, product), x.Neg(x)
				}
			}
			assert.Zero(t, sum.Add(sum, product).Cmp(value(t, eq[2])), "%s: %s", p.Name, eq[0])
		}
	}
	assert.Greater(t, found, 30)
}

// Pages speak every language and set of words, and say nothing broken.
func TestPagesSpeak(t *testing.T) {
	for _, lang := range locale.Languages {
		for _, base := range words.Bases {
			b, err := handbook.In(locale.Of(lang.String()).Printer(text.Words{Base: string(base)}, lang))
			require.NoError(t, err)
			for _, p := range b.Pages {
				assert.False(t, p.English && lang != language.English, "%s in %s", p.Name, lang)
				assert.NotEmpty(t, p.Group, p.Name)
				says := regexp.MustCompile(`\{#[a-z0-9-]+\}`).ReplaceAllString(textOf(p), "")
				assert.NotRegexp(t, `[{}]|\[\[|\]\]|<no value>|%!|\.\.|  \w|⟦`, says, "%s in %s", p.Name, lang)
				if lang == language.English && base == words.Laboratory {
					assert.NotContains(t, says, "thimble", p.Name)
				}
			}
		}
	}
}

// Every family has a page, every slip of every kind is explained at a heading that is there, and so is every link.
func TestEverythingHasItsPlace(t *testing.T) {
	anchors := map[string]string{}
	for _, p := range book(t, words.Workshop).Pages {
		text := textOf(p)
		anchors["/handbook/"+p.Name] = text
		for _, found := range regexp.MustCompile(`\{#([a-z0-9-]+)\}`).FindAllStringSubmatch(text, -1) {
			at := "/handbook/" + p.Name + "#" + found[1]
			assert.NotContains(t, anchors, at, "twice on one page")
			anchors[at] = found[1]
		}
	}
	for _, text := range anchors {
		for _, link := range regexp.MustCompile(`\]\((/handbook[^)]*)\)`).FindAllStringSubmatch(text, -1) {
			assert.Contains(t, anchors, link[1])
		}
	}
	for _, pattern := range instrument.Patterns() {
		at := book(t, words.Workshop).Look(handbook.Asked{Family: pattern.Family})
		require.NotEmpty(t, at.Page, pattern.Family)
		assert.Contains(t, book(t, words.Workshop).Find(at.Page).Families, pattern.Family)
	}
	for _, sl := range kinds.Slips() {
		at := book(t, words.Workshop).Look(handbook.Asked{Slip: sl.Code})
		require.NotEmpty(t, at.Anchor, "%s is explained nowhere", sl.Code)
		assert.Contains(t, anchors, "/handbook/"+at.Page+"#"+at.Anchor, sl.Code)
	}
	for _, k := range kinds.All[1:] { // the first asks for the steps of a reading, each of which has its place
		at := book(t, words.Workshop).Look(handbook.Asked{Kind: k.Name()})
		assert.NotEmpty(t, at.Anchor, "%s is explained nowhere", k.Name())
	}
}

// Every page has a figure to move and three questions, which can be dealt and answered in every language.
func TestEveryPageHasAFigureAndThreeQuestions(t *testing.T) {
	for _, lang := range locale.Languages {
		b, err := handbook.In(locale.Of(lang.String()).Printer(text.Words{}, lang))
		require.NoError(t, err)
		for _, p := range b.Pages {
			require.NotNil(t, p.Figure(1), p.Name)
			require.Len(t, p.Checks, 3, p.Name)
			sheet := exercise.Sheet{Blocks: p.Checks, Dealer: exercise.Dealing}
			items, err := sheet.Deal(kinds.All, 7)
			require.NoError(t, err, p.Name)
			for i, item := range items {
				blank, err := item.Mark(exercise.Answer{})
				require.NoError(t, err, "%s %d", p.Name, i)
				right := exercise.Answer{}
				for _, m := range blank.Fields {
					right[m.Field] = m.Expected
				}
				result, err := item.Mark(right)
				require.NoError(t, err, "%s %d", p.Name, i)
				assert.Equal(t, result.Of.String(), result.Marks.String(), "%s %d: %v", p.Name, i, right)
			}
		}
	}
}

// A translation has the headings and figures of the English page in the same order, and works the same values out.
func TestTranslationsAreComplete(t *testing.T) {
	order := regexp.MustCompile(`(?m)^@(?:figure \S+ \S+|list \S+)|^## `)
	values := regexp.MustCompile(`\[\[.*?\]\]|\]\(/[^)]*\)`)
	read := func(file string) (laid, worked []string) {
		page, err := os.ReadFile(file)
		require.NoError(t, err)
		_, body, _ := strings.Cut(string(page), "\n\n")
		worked = values.FindAllString(body, -1)
		slices.Sort(worked)
		return order.FindAllString(body, -1), slices.Compact(worked)
	}
	files, err := filepath.Glob("../../locale/en/handbook/*.md")
	require.NoError(t, err)
	for _, f := range files {
		laid, worked := read(f)
		for _, lang := range locale.Languages[1:] {
			itsLaid, itsWorked := read(strings.Replace(f, "/en/", "/"+lang.String()+"/", 1))
			assert.Equal(t, laid, itsLaid, "%s in %s", filepath.Base(f), lang)
			assert.Equal(t, worked, itsWorked, "%s in %s", filepath.Base(f), lang)
		}
	}
}

// A least count that is found from turns, or on a face, is explained in that section, whatever went wrong.
func TestEachWayToALeastCountHasItsSection(t *testing.T) {
	b := book(t, words.Workshop)
	for way, anchor := range map[string]string{"turns": "from-turns", "drum": "from-turns", "face": "from-a-dial",
		"plate": "from-a-vernier-plate", "": "from-a-vernier-plate"} {
		p := b.Look(handbook.Asked{Kind: "least_count", Field: "least_count", Slip: "ratio-upside-down", Way: way})
		assert.Equal(t, "least-count#"+anchor, p.Page+"#"+p.Anchor, way)
	}
	p := b.Look(handbook.Asked{Kind: "least_count", Field: "finer_divisions", Way: "drum"})
	assert.Contains(t, p.Anchor, "vernier")
}
