package ui

import (
	"context"
	"net/http"
	"slices"

	"golang.org/x/text/language"

	"cavix/core/text"
	"cavix/core/words"
	"cavix/locale"
)

type speechKey struct{}

// speech holds the words and the language in which one request is answered.
type speech struct {
	words   words.Set
	person  string // the language that the reader has chosen; "" for none
	shared  bool   // the page is for the class, whose language goes before the reader's
	printer *text.Printer
}

// speaking prepares a request for words and a language, the workshop's and the browser's until others are chosen.
func speaking(r *http.Request) *http.Request {
	return r.WithContext(context.WithValue(r.Context(), speechKey{}, &speech{}))
}

func speechOf(r *http.Request) *speech {
	if s, ok := r.Context().Value(speechKey{}).(*speech); ok {
		return s
	}
	return &speech{}
}

// Speak chooses the words of a request's page.
func Speak(r *http.Request, set words.Set) {
	s := speechOf(r)
	s.words, s.printer = set, nil
}

// SpeakToClass chooses the words of a page that a class sees together, or takes home on paper: it speaks the class's
// language.
func SpeakToClass(r *http.Request, set words.Set) {
	Speak(r, set)
	speechOf(r).shared = true
}

// speakTo chooses the language that a person prefers to those of the class and the browser.
func speakTo(r *http.Request, person string) {
	s := speechOf(r)
	s.person, s.printer = person, nil
}

// WordsOf returns the words of a request's page.
func WordsOf(r *http.Request) words.Set { return speechOf(r).words }

// Languages are the choices of a language; none is what the first says.
func Languages(none text.Text, now string) []OptionView {
	out := []OptionView{{Text: none, On: now == ""}}
	for _, t := range locale.Languages {
		out = append(out, OptionView{Value: t.String(), Text: text.Typed(locale.Name(t)), On: t.String() == now})
	}
	return out
}

// Said returns the printer of a request's answer.
func Said(r *http.Request) *text.Printer {
	s := speechOf(r)
	if s.printer == nil {
		s.printer = s.print(r)
	}
	return s.printer
}

// print makes a printer in the language that the reader has chosen, else that of the class, else one that the browser
// prefers. Numbers are written as the browser's language has it where nobody has chosen, and by the language that was
// chosen else.
func (s *speech) print(r *http.Request) *text.Printer {
	prefers, _, err := language.ParseAcceptLanguage(r.Header.Get("Accept-Language"))
	if err != nil || len(prefers) == 0 {
		prefers = []language.Tag{language.English}
	}
	region := prefers[0]
	chosen := []string{s.words.Language, s.person} // the later goes before the earlier
	if s.shared {
		slices.Reverse(chosen)
	}
	for _, chosen := range chosen {
		if tag, err := language.Parse(chosen); err == nil {
			prefers = append([]language.Tag{tag}, prefers...)
			if base, _ := region.Base(); base.String() != tag.String() {
				region = tag
			}
		}
	}
	return locale.Match(prefers...).Printer(s.words.Words(), region)
}
