package ui

import (
	"context"
	"net/http"

	"cavix/core/words"
)

// Pages leave the house through one door, where the terms that stand in braces in texts of the core and of templates are
// put in the words of the class that the page is for: a student's own, or the one that an instructor looks at.

type speechKey struct{}

// speech is what the page of one request is spoken in.
type speech struct{ set words.Set }

// speaking prepares a request for words, the workshop's until others are chosen.
func speaking(r *http.Request) *http.Request {
	return r.WithContext(context.WithValue(r.Context(), speechKey{}, &speech{}))
}

// Speak chooses the words of a request's page.
func Speak(r *http.Request, set words.Set) {
	if s, ok := r.Context().Value(speechKey{}).(*speech); ok {
		s.set = set
	}
}

// WordsOf are the words of a request's page.
func WordsOf(r *http.Request) words.Set {
	if s, ok := r.Context().Value(speechKey{}).(*speech); ok {
		return s.set
	}
	return words.Set{}
}
