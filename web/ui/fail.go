package ui

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"cavix/core/text"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/sitting"
)

// ErrorView is a page that says what happened, what is kept, and what to do. Where a form was sent that could not be
// kept, it stands there again, to be sent once more.
type ErrorView struct {
	Title, Text text.Text
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

// failure explains an error to the visitor.
type failure struct {
	is          error
	status      int
	title, text text.Text
	again       bool // doing the same once more may help
}

// failures are looked through for the first that fits.
var failures = []failure{
	{school.ErrNotFound, http.StatusNotFound, text.New("ui.fail.failures"),
		text.New("ui.fail.there-no-such-page"), false},
	{access.ErrForbidden, http.StatusForbidden, text.New("ui.fail.not-class"),
		text.New("ui.fail.your-role-class-does"), false},
	{sitting.ErrInTest, http.StatusForbidden, text.New("ui.fail.closed-during-your-test"),
		text.New("ui.fail.taking-timed-test-bench"), false},
	{ErrBusy, http.StatusServiceUnavailable, text.New("ui.fail.very-many-moment"),
		text.New("ui.fail.very-many-do-moment"), true},
	{school.ErrFull, http.StatusInsufficientStorage, text.New("ui.fail.no-room-keep"),
		text.New("ui.fail.servers-disk-full-so"), true},
	{school.ErrReadOnly, http.StatusServiceUnavailable, text.New("ui.fail.nothing-can-saved-now"),
		text.New("ui.fail.server-cannot-write-its"), true},
	{school.ErrHeld, http.StatusServiceUnavailable, text.New("ui.fail.nothing-can-saved-now"),
		text.New("ui.fail.another-program-holds-servers"), true},
	{context.DeadlineExceeded, http.StatusServiceUnavailable, text.New("ui.fail.took-too-long"),
		text.New("ui.fail.server-could-not-do"), true},
}

// Fail answers a request that could not be done.
func (s *Site) Fail(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) {
		return // nobody is there to be told
	}
	status, view, again := http.StatusInternalServerError, ErrorView{Title: text.New("ui.fail.fail.title"),
		Text: text.New("ui.fail.something-failed-our-side")}, true
	var tooLarge *http.MaxBytesError
	var unread BadForm
	var full access.Full
	var damaged school.DamagedRow
	switch {
	case errors.As(err, &tooLarge):
		status, view = http.StatusRequestEntityTooLarge, ErrorView{Title: text.New("ui.fail.fail.too-much-once"),
			Text: text.New("ui.fail.fail.form-may-send-kb", "limit", int(tooLarge.Limit>>10))}
	case errors.As(err, &unread):
		status, view = http.StatusBadRequest, ErrorView{Title: text.New("ui.fail.fail.form-cannot-read"),
			Text: text.New("ui.fail.fail.what-sent-no-form")}
	case errors.As(err, &full):
		status, view = http.StatusUnprocessableEntity, ErrorView{Title: text.New("ui.fail.fail.no-more-these"),
			Text: full.Text()}
	case errors.As(err, &damaged):
		view, again = ErrorView{Title: text.New("ui.fail.fail.cannot-read"),
			Text: text.New("ui.fail.fail.version-cavix-cannot-read", "what", text.New("sort."+damaged.What))}, false
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
		http.Error(w, Said(r).Print(view.Title), status)
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
