package text

import (
	"fmt"
	"html"
	"regexp"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	plurals "golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// Words holds the vocabulary of a class: a ready set of words, and its own words for some terms. The zero value is the
// workshop's.
type Words struct {
	Base string
	Own  map[Term]string
}

// Printer prints texts in a reader's language and a class's words. It may be used by one goroutine at a time.
type Printer struct {
	c       *Catalogue
	words   Words
	decimal string
	nested  int
}

// New returns a printer. Numbers are written as in region, which may be more exact than the language of the catalogue.
func (c *Catalogue) Printer(w Words, region language.Tag) *Printer {
	return &Printer{c: c, words: w, decimal: decimalOf(region)}
}

// decimalOf returns the decimal sign of a region.
func decimalOf(t language.Tag) string {
	if strings.ContainsRune(message.NewPrinter(t).Sprint(number.Decimal(1.5)), ',') {
		return ","
	}
	return "."
}

// Tag returns the language that is printed.
func (p *Printer) Tag() language.Tag { return p.c.Tag }

// Say prints the text of a key; see New.
func (p *Printer) Say(key string, pairs ...any) string { return p.Print(New(key, pairs...)) }

// Print prints a text.
func (p *Printer) Print(t Text) string {
	var b strings.Builder
	p.write(&b, t, false)
	return b.String()
}

// HTML prints a text as HTML. Its spans become elements: "[b: …]", "[em: …]", "[small: …]", "[code: …]" and "[kbd: …]"
// of that name, others asHTML to the address that the argument of that name holds.
func (p *Printer) HTML(t Text) string {
	var b strings.Builder
	p.write(&b, t, true)
	return b.String()
}

// plainSpans are the spans that are elements and no asHTML.
var plainSpans = map[string]bool{"b": true, "em": true, "code": true, "kbd": true, "small": true}

// deepest is the largest depth of texts within each other.
const deepest = 40

// write prints a text, as HTML or plain.
func (p *Printer) write(b *strings.Builder, t Text, asHTML bool) {
	if t.IsZero() {
		return
	}
	if p.nested++; p.nested > deepest {
		p.nested--
		b.WriteString("⟦…⟧")
		return
	}
	defer func() { p.nested-- }()
	key := t.Key()
	switch key {
	case "":
		if name, is := t[0].Value.(string); is && p.nested == 1 {
			escape(b, name, asHTML) // there is nothing around it
			return
		}
		p.value(b, t[0].Value, asHTML)
		return
	case keyAnd, keyOr, keyList, keySteps, keyRow, keyRun, keyPlus:
		p.list(b, t, asHTML)
		return
	}
	e, by := p.c.entries[key], p
	if e == nil {
		for c := p.c.Fallback; c != nil && e == nil; c = c.Fallback {
			e = c.entries[key]
			by = &Printer{c, p.words, p.decimal, p.nested}
		}
	}
	if e == nil {
		escape(b, t.String(), asHTML)
		return
	}
	by.entry(b, e, t, asHTML)
}

// list prints a text that lists others. What stands between them are entries of the catalogue.
func (p *Printer) list(b *strings.Builder, t Text, asHTML bool) {
	key, args := t.Key(), t.Args()
	between := p.raw(key)
	last := between
	if key == keyAnd || key == keyOr {
		between = p.raw(keyList)
		if len(args) > 2 {
			if more := p.c.entries[key+"-last"]; more != nil {
				last = p.raw(key + "-last")
			}
		}
	}
	for i, a := range args {
		switch {
		case i == 0:
		case i == len(args)-1:
			b.WriteString(last)
		default:
			b.WriteString(between)
		}
		p.value(b, a.Value, asHTML)
	}
}

// raw is an entry of words alone. An underscore stands for a blank at its ends.
func (p *Printer) raw(key string) string {
	for c := p.c; c != nil; c = c.Fallback {
		if e := c.entries[key]; e != nil {
			if parts := c.partsOf(e); len(parts) == 1 {
				return strings.ReplaceAll(parts[0].words, "_", " ")
			}
		}
	}
	return " "
}

// entry prints an entry with the arguments of a text.
func (p *Printer) entry(b *strings.Builder, e *entry, t Text, asHTML bool) {
	var spans []string
	parts := p.c.partsOf(e)
	for i := range parts {
		part := &parts[i]
		switch {
		case part.words != "":
			b.WriteString(part.words)
		case part.span != "":
			spans = append(spans, begin(b, part.span, t, asHTML))
		case part.ends:
			b.WriteString(spans[len(spans)-1])
			spans = spans[:len(spans)-1]
		default:
			from := b.Len()
			p.put(b, part, t, asHTML)
			if part.upper {
				raise(b, from)
			}
		}
	}
}

// begin writes the beginning of a span, and returns its end.
func begin(b *strings.Builder, name string, t Text, asHTML bool) string {
	switch {
	case !asHTML:
		return ""
	case plainSpans[name]:
		b.WriteString("<" + name + ">")
		return "</" + name + ">"
	}
	href, _ := t.arg(name)
	to, _ := href.(string)
	b.WriteString(`<a href="` + html.EscapeString(to) + `">`)
	return "</a>"
}

// raise gives what was written from a place on a capital.
func raise(b *strings.Builder, from int) {
	s := b.String()
	r, size := utf8.DecodeRuneInString(s[from:])
	if up := unicode.ToUpper(r); size > 0 && up != r {
		s = s[:from] + string(up) + s[from+size:]
		b.Reset()
		b.WriteString(s)
	}
}

// put prints an argument or a term.
func (p *Printer) put(b *strings.Builder, part *part, t Text, asHTML bool) {
	if part.arg == "" {
		if part.variants != nil {
			escape(b, part.variants[p.noun(part.term).gender], asHTML)
			return
		}
		escape(b, isolated(p.term(part, part.term)), asHTML)
		return
	}
	v, has := t.arg(part.arg)
	if !has {
		escape(b, "⟦$"+part.arg+"⟧", asHTML)
		return
	}
	n, counts := v.(int)
	switch {
	case part.variants != nil:
		if !counts {
			escape(b, fmt.Sprintf("⟦$%s: %v⟧", part.arg, v), asHTML)
			return
		}
		s := part.variants[1]
		if p.one(n) {
			s = part.variants[0]
		}
		escape(b, strings.ReplaceAll(s, "#", strconv.Itoa(n)), asHTML)
	case part.count:
		p.value(b, v, asHTML)
		b.WriteString(" ")
		of := *part
		if of.form = formOf(counts && p.one(n), part.form); of.form == singular {
			of.article = ""
		}
		escape(b, isolated(p.term(&of, part.term)), asHTML)
	default:
		if bare, is := v.(Text); is && len(bare) == 1 && bare.Key() == "" {
			v = bare[0].Value // what a text is by itself
		}
		if term, is := v.(Term); is {
			escape(b, isolated(p.term(part, term)), asHTML)
			return
		}
		p.value(b, v, asHTML)
	}
}

func formOf(one bool, f form) form {
	switch {
	case one:
		return singular
	case f == dativePlural:
		return f
	}
	return plural
}

// one reports whether a count takes the singular.
func (p *Printer) one(n int) bool {
	if n < 0 {
		n = -n
	}
	return cardinal.MatchPlural(p.c.Tag, n, 0, 0, 0, 0) == oneOf
}

// value prints the value of an argument.
func (p *Printer) value(b *strings.Builder, v any, asHTML bool) {
	switch v := v.(type) {
	case Text:
		p.write(b, v, asHTML)
	case Math:
		escape(b, p.Math(v), asHTML)
	case int:
		if v < 0 {
			b.WriteString("−")
			v = -v
		}
		b.WriteString(strconv.Itoa(v))
	case Term:
		escape(b, isolated(p.term(&part{}, v)), asHTML)
	case short:
		escape(b, p.term(&part{short: true}, Term(v)), asHTML)
	case string:
		escape(b, isolated(v), asHTML)
	default:
		if says := fmt.Sprint(v); says != degrees {
			escape(b, says, asHTML)
			return
		}
		degree(b)
	}
}

// degrees is the unit of angles.
const degrees = "deg"

// degree writes the sign of a degree behind a value, without the blank between them. A value in degrees and minutes has
// its signs already.
func degree(b *strings.Builder) {
	said := strings.TrimRight(b.String(), " ")
	signed := strings.HasSuffix(said, "°") || strings.HasSuffix(said, "′") || strings.HasSuffix(said, "″")
	if said != "" && len(said) < b.Len() {
		b.Reset()
		b.WriteString(said)
	}
	if !signed {
		b.WriteString("°")
	}
}

// isolated is a text that somebody typed, between the marks that keep letters from right to left from turning what is
// around them.
func isolated(s string) string {
	if strings.IndexFunc(s, fromTheRight) < 0 {
		return s
	}
	return "\u2068" + s + "\u2069"
}

// fromTheRight reports whether a letter is of a script that is written from right to left.
func fromTheRight(r rune) bool {
	return r >= 0x590 && (r <= 0x8FF || r >= 0xFB1D && r <= 0xFDFF || r >= 0xFE70 && r <= 0xFEFE || r >= 0x10800 &&
		r <= 0x10FFF ||
		r >= 0x1E800 && r <= 0x1EFFF)
}

func escape(b *strings.Builder, s string, asHTML bool) {
	if asHTML {
		s = html.EscapeString(s)
	}
	b.WriteString(s)
}

// Math writes numbers in the reader's manner: with the decimal sign of the region and a typographic minus.
func (p *Printer) Math(m Math) string {
	if strings.IndexByte(string(m), '-') < 0 && (p.decimal == "." || strings.IndexByte(string(m), '.') < 0) {
		return string(m)
	}
	var b strings.Builder
	digit := func(i int) bool { return i >= 0 && i < len(m) && m[i] >= '0' && m[i] <= '9' }
	for i := range len(m) {
		switch c := m[i]; {
		case c == '.' && digit(i-1) && digit(i+1):
			b.WriteString(p.decimal)
		case c == '-' && (digit(i+1) || i+1 < len(m) && m[i+1] == '('):
			b.WriteString("−")
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}

// Word returns what the class calls a term: in a sentence, and where there is no room for that.
func (p *Printer) Word(t Term) (long, short string) {
	n := p.noun(t)
	return n.word, n.shortest()
}

// noun is the word for a term: the class's own, or that of its set.
func (p *Printer) noun(t Term) noun {
	if own := p.words.Own[t]; own != "" {
		return p.c.grammar.own(own)
	}
	for c := p.c; c != nil; c = c.Fallback {
		for _, set := range []string{p.words.Base, "workshop"} {
			if n, has := c.terms[set][t]; has {
				return n
			}
		}
	}
	return noun{word: string(t)}
}

// term prints a term as a part wants it.
func (p *Printer) term(part *part, t Term) string {
	n := p.noun(t)
	if part.short {
		n.word = n.shortest()
	}
	return p.c.grammar.decline(n, part.article, part.form)
}

func (t Text) arg(name string) (any, bool) {
	for _, a := range t.Args() {
		if a.Name == name {
			return a.Value, true
		}
	}
	return nil, false
}

// The rules by which languages tell one from several.
var cardinal, oneOf = plurals.Cardinal, plurals.One

// English returns a printer of the first language for the same class and region.
func (p *Printer) English() *Printer {
	by := *p
	for by.c.Fallback != nil {
		by.c = by.c.Fallback
	}
	return &by
}

// Key tells printers apart: those with the same key print the same.
func (p *Printer) Key() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\x00%s\x00%s", p.c.Tag, p.decimal, p.words.Base)
	for _, t := range p.c.Terms() {
		if own := p.words.Own[t]; own != "" {
			fmt.Fprintf(&b, "\x00%s\x00%s", t, own)
		}
	}
	return b.String()
}

// Prose prints a longer text of the program, in which terms stand in braces. What is in braces and no term stays as it
// is.
func (p *Printer) Prose(s string) string {
	s = marks.ReplaceAllString(s, "{${1}s}")
	var b strings.Builder
	for {
		at := strings.IndexByte(s, '{')
		if at < 0 {
			break
		}
		inner, rest, found := strings.Cut(s[at+1:], "}")
		part, err := p.c.mark(inner)
		b.WriteString(s[:at])
		if !found || err != nil || part.arg != "" {
			b.WriteByte('{')
			s = s[at+1:]
			continue
		}
		from := b.Len()
		p.put(&b, &part, Text{}, false)
		if part.upper {
			raise(&b, from)
		}
		s = rest
	}
	return b.String() + s
}

// marks are terms with the s of several behind the brace.
var marks = regexp.MustCompile(`\{([A-Za-z ]+)\}s\b`)
