package ui

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-playground/form/v4"

	"cavix/core/length"
	"cavix/core/names"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/school"
)

// decoder reads forms into structs by their form tags.
var decoder = func() *form.Decoder {
	d := form.NewDecoder()
	d.SetMaxArraySize(100)
	return d
}()

var encoder = form.NewEncoder()

// Decode reads the form of a request into a struct. Fields are text as it was typed, so that it can stand
// there again; what is no form of ours is a BadForm.
func Decode(r *http.Request, into any) error { return decoded(r.PostForm, into) }

// Asked reads what the address of a request asks for into a struct, as Decode reads a form.
func Asked(r *http.Request, into any) error { return decoded(r.URL.Query(), into) }

// Bounds of the keys of a form: the longest of ours is a box of a sheet's block.
const (
	mostKeys = 4000
	longKey  = 120
	deepKey  = 4 // lists within each other
)

func decoded(values url.Values, into any) (err error) {
	if len(values) > mostKeys {
		return BadForm{fmt.Errorf("a form of %d fields", len(values))}
	}
	for key := range values {
		if len(key) > longKey || strings.Count(key, "[") > deepKey || strings.Count(key, ".") > 2*deepKey {
			return BadForm{fmt.Errorf("a field called %q", Clip(key, 40))}
		}
	}
	defer func() { // the decoder panics on some keys that no page of ours sends
		if p := recover(); p != nil {
			err = BadForm{fmt.Errorf("a field that cannot be read: %v", p)}
		}
	}()
	if err := decoder.Decode(into, values); err != nil {
		return BadForm{err}
	}
	return nil
}

// BadForm is a form that cannot be read.
type BadForm struct{ error }

// Unread makes a BadForm of what was wrong with it.
func Unread(err error) error { return BadForm{err} }

// Unwrap returns what was wrong.
func (e BadForm) Unwrap() error { return e.error }

// Texts are the fields of a form by their names, as they stand on the page.
type Texts map[string]string

// TextsOf writes a struct that Decode can read.
func TextsOf(of any) Texts {
	values, err := encoder.Encode(of)
	if err != nil {
		panic(err) // structs of text only, which every test of the page writes
	}
	t := Texts{}
	for name := range values {
		t[name] = values.Get(name)
	}
	return t
}

// Faults gathers what is wrong with a form, field by field.
type Faults struct{ refusal.Refusal }

// By returns the first reason given for each field.
func (f *Faults) By() map[string]text.Text { return refusal.By(f.Refusal) }

// Number reads a length in the given unit, as people write it; an empty text is 0.
func (f *Faults) Number(field, says string, unit length.Unit) length.Typed {
	if strings.TrimSpace(says) == "" {
		return length.Typed{}
	}
	t, err := unit.Read(says)
	if err != nil {
		f.Put(field, text.Says(err))
		return length.Typed{}
	}
	if t.Value, err = t.In(unit); err != nil {
		f.Put(field, text.Says(err))
	}
	return t
}

// Whole reads a whole number; an empty text is 0.
func (f *Faults) Whole(field, says string) int {
	says = strings.TrimSpace(says)
	if says == "" {
		return 0
	}
	n, err := strconv.Atoi(says)
	if err != nil || n > 1_000_000 || n < -1_000_000 {
		f.Add(field, "ui.form.whole", "x", Clip(says, 20))
		return 0
	}
	return n
}

// Slider reads what a slider from −most to most holds; what is no number is not ok.
func Slider(says string, most float64) (x float64, ok bool) {
	x, err := strconv.ParseFloat(says, 64)
	if err != nil || x != x { // a NaN is not even itself
		return 0, false
	}
	return max(-most, min(x, most)), true
}

// Person checks what a person is called.
func (f *Faults) Person(field, name string) { f.unless(field, names.Check(name)) }

// Name checks what a thing is called.
func (f *Faults) Name(field, name string) { f.unless(field, names.CheckTitle(name)) }

func (f *Faults) unless(field string, bad text.Text) {
	if !bad.IsZero() {
		f.Put(field, bad)
	}
}

// OneLine brings a text to one line with single spaces.
func OneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// Clip cuts what is far too long.
func Clip(s string, runes int) string {
	if r := []rune(s); len(r) > runes {
		return string(r[:runes])
	}
	return s
}

// ID reads a number from the address; what is none is not found.
func ID(r *http.Request, name string) (int64, error) {
	n, err := strconv.ParseInt(chi.URLParam(r, name), 10, 64)
	if err != nil || n < 1 {
		return 0, school.ErrNotFound
	}
	return n, nil
}

// FormID reads a number from the form that was sent; what is none is not found.
func FormID(r *http.Request, name string) (int64, error) {
	n, err := strconv.ParseInt(r.PostForm.Get(name), 10, 64)
	if err != nil || n < 1 {
		return 0, school.ErrNotFound
	}
	return n, nil
}

// Status is the status of a form's page: unprocessable where something is wrong with it.
func Status(errs map[string]text.Text) int {
	if len(errs) > 0 {
		return http.StatusUnprocessableEntity
	}
	return http.StatusOK
}
