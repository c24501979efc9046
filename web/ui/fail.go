package ui

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"cavix/classroom"
	"cavix/store"
)

// ErrorView is a page that says what happened, what is kept, and what to do. Where a form was sent that could not be kept, it
// stands there again, to be sent once more.
type ErrorView struct {
	Title, Text string
	Action      string // to which the form is sent again; "" where there is none
	Fields      []sentField
	Secret      bool   // the form had a passphrase, which is not repeated
	Again       bool   // opening the page again may help
	Number      string // of the request, as it stands in the log; "" where it is nobody's business
}

// sentField is a field of a form as it was sent.
type sentField struct{ Name, Value string }

// Shown is the field's value where a person has typed it.
func (f sentField) Shown() bool { return strings.TrimSpace(f.Value) != "" }

// ErrBusy is for work that was not done, since too much of its kind waits.
var ErrBusy = errors.New("too much waits to be done")

// failure is what an error means to the visitor.
type failure struct {
	is          error
	status      int
	title, text string
	again       bool // doing the same once more may help
}

// failures are looked through for the first that fits.
var failures = []failure{
	{store.ErrNotFound, http.StatusNotFound, "Not here",
		"There is no such page, or it is not yours to see. Nothing is lost; go back to the start.", false},
	{classroom.ErrMayNot, http.StatusForbidden, "Not in this class",
		"Your role in this class does not allow this, so nothing was changed. Ask the owner of the class.", false},
	{classroom.ErrInTest, http.StatusForbidden, "Closed during your test",
		"You are taking a timed test. The Bench, practice and the handbook are closed for its instruments until you hand it in.", false},
	{ErrBusy, http.StatusServiceUnavailable, "Very many at this moment",
		"Very many do this at this moment, so yours was not done. Send it again in a few seconds.", true},
	{store.ErrFull, http.StatusInsufficientStorage, "No room to keep it",
		"The server's disk is full, so this was not saved. Tell the person who runs the server, and send it again later.", true},
	{store.ErrReadOnly, http.StatusServiceUnavailable, "Nothing can be saved now",
		"The server cannot write its file, so this was not saved. Tell the person who runs the server, and send it again later.", true},
	{store.ErrHeld, http.StatusServiceUnavailable, "Nothing can be saved now",
		"Another program holds the server's file, so this was not kept. Send it again in a moment.", true},
	{context.DeadlineExceeded, http.StatusServiceUnavailable, "That took too long",
		"The server could not do it in time, so nothing was changed. Send it again in a moment.", true},
}

// Fail answers a request that could not be done.
func (s *Site) Fail(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) {
		return // nobody is there to be told
	}
	status, view, again := http.StatusInternalServerError, ErrorView{Title: "That did not work",
		Text: "Something failed on our side. What you had saved is kept; please try again in a moment."}, true
	var tooLarge *http.MaxBytesError
	var unread BadForm
	var full classroom.Full
	var damaged classroom.Damaged
	switch {
	case errors.As(err, &tooLarge):
		status, view = http.StatusRequestEntityTooLarge, ErrorView{Title: "Too much at once",
			Text: fmt.Sprintf("This form may send %d KB at the most. Nothing was saved; please shorten what you sent.",
				tooLarge.Limit>>10)}
	case errors.As(err, &unread):
		status, view = http.StatusBadRequest, ErrorView{Title: "That form cannot be read",
			Text: "What was sent is no form of this site. Nothing was saved; go back and send it again."}
	case errors.As(err, &full):
		status, view = http.StatusUnprocessableEntity, ErrorView{Title: "No more of these", Text: full.Error()}
	case errors.As(err, &damaged):
		view, again = ErrorView{Title: "This cannot be read", Text: fmt.Sprintf("This version of Cavix cannot read what is kept of this %s. "+
			"It has not been changed. Tell the person who runs the server.", damaged.What)}, false
	default:
		if i := slices.IndexFunc(failures, func(f failure) bool { return errors.Is(err, f.is) }); i >= 0 {
			f := failures[i]
			status, view.Title, view.Text, again = f.status, f.title, f.text, f.again
		}
	}
	if status >= http.StatusInternalServerError {
		view.Number = middleware.GetReqID(r.Context())
		s.Log.Error("request failed", "id", view.Number, "method", r.Method, "path", r.URL.Path, "err", err)
		w.Header().Set("Retry-After", "3")
	}
	if again && r.Method == http.MethodPost {
		view.repeat(r)
	}
	view.Again = again && r.Method == http.MethodGet
	if err := s.Render(w, r, status, "error", view.Title, view); err != nil {
		http.Error(w, view.Title, status)
	}
}

// secrets are fields that are never printed.
var secrets = []string{"passphrase", "old", "key"}

// repeat has the form that was sent stand on the page again.
func (v *ErrorView) repeat(r *http.Request) {
	if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/") {
		return // a file is chosen again
	}
	names := make([]string, 0, len(r.PostForm))
	for name := range r.PostForm {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if slices.Contains(secrets, name) {
			v.Secret = true
			continue
		}
		for _, value := range r.PostForm[name] {
			v.Fields = append(v.Fields, sentField{name, value})
		}
	}
	if !v.Secret { // one with a passphrase is typed anew
		v.Action = r.URL.RequestURI()
	}
}
