package handbook

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Hit is a section of a page that a search has found.
type Hit struct {
	Page    *Page
	Title   string // of the section; "" at the head of the page
	Anchor  string // of the section; "" at the head of the page
	Excerpt string // some of its text, around the first word found
	score   int
}

// section is a page's text from one heading to the next, as a reader sees it.
type section struct{ title, anchor, text string }

var (
	headed  = regexp.MustCompile(`^## (.*) \{#([a-z0-9-]+)\}$`)
	link    = regexp.MustCompile(`\[([^\]]*)\]\([^)]*\)`)
	marks   = strings.NewReplacer("**", "", "*", "", "`", "", "|", " ", "---", " ")
	listing = regexp.MustCompile(`(?m)^(?:- |\d+\. |> |#+ )`)
)

// sections takes a page apart at its headings, without Markdown.
func (p *Page) sections() []section {
	out := []section{{text: p.About + ". "}}
	add := func(text string) { out[len(out)-1].text += text + "\n" }
	for _, part := range p.Parts {
		if part.Figure != nil {
			add(part.Figure.Caption)
		}
		for line := range strings.SplitSeq(part.Text, "\n") {
			if h := headed.FindStringSubmatch(line); h != nil {
				out = append(out, section{title: h[1], anchor: h[2]})
			} else {
				add(line)
			}
		}
	}
	for i, s := range out {
		text := link.ReplaceAllString(listing.ReplaceAllString(s.text, ""), "$1")
		out[i].text = strings.Join(strings.Fields(marks.Replace(text)), " ")
	}
	return out
}

// mostSought is the number of words of a query that are looked for.
const mostSought = 8

// common are words that are left out of a query that has others.
var common = strings.Fields(
	"a an and are by can do for from how i in is it my of on or the to what when where which with")

// sought returns the words of a query in lower case. The s of a plural is left off, so that "zeros" finds "zero".
func sought(query string) []string {
	list := strings.FieldsFunc(strings.ToLower(query), func(r rune) bool {
		return !unicode.IsLetter(r) &&
			!unicode.IsDigit(r) && r != '-'
	})
	if telling := slices.DeleteFunc(slices.Clone(list),
		func(w string) bool { return slices.Contains(common, w) }); len(telling) > 0 {
		list = telling
	}
	list = list[:min(len(list), mostSought)]
	for i, w := range list {
		if utf8.RuneCountInString(w) > 3 {
			list[i] = strings.TrimSuffix(w, "s")
		}
	}
	return list
}

// Holds reports whether a text has all words of a query.
func Holds(text, query string) bool {
	text = strings.ToLower(text)
	wanted := sought(query)
	return len(wanted) > 0 && !slices.ContainsFunc(wanted, func(w string) bool { return !strings.Contains(text, w) })
}

// Search returns up to most sections of the pages that are shown, those that fit a query best first: a section is found
// if its text, its heading or the title of its page has all words of the query. If there is none, it returns the
// sections with the most of the words, and whole is false.
func (b *Book) Search(query string, most int, shown func(*Page) bool) (hits []Hit, whole bool) {
	wanted := sought(query)
	phrase := strings.Join(wanted, " ")
	pages := b.Pages
	best := 1
	for _, p := range pages {
		if !shown(p) {
			continue
		}
		page := strings.ToLower(p.Title)
		for _, s := range p.sections() {
			found, score, first := 0, 0, -1
			title, text := strings.ToLower(s.title), strings.ToLower(s.text)
			for _, w := range wanted {
				at := strings.Index(text, w)
				inTitle, inPage := strings.Contains(title, w), strings.Contains(page, w)
				if at < 0 && !inTitle && !inPage {
					continue
				}
				found++
				score += strings.Count(text, w)
				if inTitle {
					score += 20
				}
				if inPage {
					score += 10
				}
				if at >= 0 && (first < 0 || at < first) {
					first = at
				}
			}
			if strings.Contains(title+" "+text, phrase) {
				score += 15
			}
			if found > best {
				best, hits = found, nil
			}
			if found == best && len(wanted) > 0 {
				hits = append(hits, Hit{p, s.title, s.anchor, excerpt(s.text, max(first, 0)), score})
			}
		}
	}
	slices.SortStableFunc(hits, func(a, b Hit) int { return cmp.Compare(b.score, a.score) })
	return hits[:min(len(hits), most)], best == len(wanted)
}

// excerpt is some of a text around a place in it, in whole words.
func excerpt(text string, at int) string {
	const before, after = 50, 150
	if len(strings.ToLower(text)) != len(text) { // places in the two do not fit
		at = 0
	}
	from, to := max(at-before, 0), min(at+after, len(text))
	if from > 0 {
		from += strings.IndexByte(text[from:]+" ", ' ') + 1
	}
	if to < len(text) {
		to = max(from, strings.LastIndexByte(text[:to], ' '))
	}
	out := text[min(from, to):to]
	if from > 0 {
		out = "… " + out
	}
	if to < len(text) {
		out += " …"
	}
	return out
}
