package web

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"cavix/core/length"
	"cavix/core/schema"
	"cavix/store"
)

// form reads what was typed into a form and gathers what is wrong with it, field by field.
type form struct {
	r    *http.Request
	bad  schema.Refusal
	Text map[string]string // every field as it was typed
}

func newForm(r *http.Request) *form {
	f := &form{r: r, Text: map[string]string{}}
	for k := range r.PostForm {
		f.Text[k] = r.PostForm.Get(k)
	}
	return f
}

func (f *form) refuse(field, format string, args ...any) {
	f.bad = append(f.bad, schema.Fault{Field: field, Reason: fmt.Sprintf(format, args...)})
}

// number reads a length in the given unit, as people write it; an empty field is 0.
func (f *form) number(field string, unit length.Unit) length.Typed {
	text := f.Text[field]
	if strings.TrimSpace(text) == "" {
		return length.Typed{}
	}
	t, err := length.ReadTyped(text)
	if err != nil {
		f.refuse(field, "%s", err)
		return length.Typed{}
	}
	if t.Unit != "" && unit != "" {
		t.Value = length.Convert(t.Value, t.Unit, unit)
	}
	return t
}

// whole reads a whole number; an empty field is 0.
func (f *form) whole(field string) int {
	text := strings.TrimSpace(f.Text[field])
	if text == "" {
		return 0
	}
	n, err := strconv.Atoi(text)
	if err != nil {
		f.refuse(field, "must be a whole number, as 20; it is %q", text)
	}
	return n
}

// line reads a single line of text.
func (f *form) line(field string) string { return strings.Join(strings.Fields(f.Text[field]), " ") }

// errors returns the first thing that is wrong with each field.
func (f *form) errors() map[string]string { return faultsOf(f.bad) }

// take keeps a refusal of the core beside the form's own, and returns any other error.
func (f *form) take(err error) error {
	r, ok := err.(schema.Refusal)
	if !ok {
		return err
	}
	f.bad = append(f.bad, r...)
	return nil
}

// id reads a number from the address; what is none is not found.
func id(r *http.Request, name string) (int64, error) {
	n, err := strconv.ParseInt(chi.URLParam(r, name), 10, 64)
	if err != nil || n < 1 {
		return 0, store.ErrNotFound
	}
	return n, nil
}
