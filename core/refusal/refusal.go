// Package refusal is how Cavix says no to input: which field, why, and what would be right. A Refusal
// is an error that names every field at fault, so that a form can show each reason where it belongs.
package refusal

import (
	"errors"
	"strings"

	"cavix/core/text"
	"cavix/locale"
)

// Fault is one field of a document or form that cannot stand.
type Fault struct {
	Field  string    // its path, as "main.division"; "" for the document as a whole
	Reason text.Text // what is wrong and what would be right
}

// Text says the fault with its field.
func (f Fault) Text() text.Text {
	if f.Field == "" {
		return f.Reason
	}
	return text.New("fault.of-field", "field", f.Field, "reason", f.Reason)
}

// Refusal is the error for input that is refused: it names every field at fault.
type Refusal []Fault

// New refuses a single field.
func New(field, key string, args ...any) Refusal {
	return Refusal{{Field: field, Reason: text.New(key, args...)}}
}

// Because refuses a field for what an error says.
func Because(field string, err error) Refusal { return Refusal{{Field: field, Reason: text.Says(err)}} }

// Error names the fields at fault in English, in the words of documents, as commands and logs show it.
func (r Refusal) Error() string { return locale.Documents().Print(r.Text()) }

// Text says all faults with their fields.
func (r Refusal) Text() text.Text {
	list := make([]text.Text, len(r))
	for i, f := range r {
		list[i] = f.Text()
	}
	return text.Steps(list...)
}

// Says returns what an error says to people: the faults of a refusal, the text of a text.Problem, or else what it says
// as it is.
func Says(err error) text.Text {
	var r Refusal
	if errors.As(err, &r) {
		return r.Text()
	}
	return text.Says(err)
}

// Add puts one more field to the refusal.
func (r *Refusal) Add(field, key string, args ...any) {
	*r = append(*r, Fault{Field: field, Reason: text.New(key, args...)})
}

// Put puts one more field to the refusal, with a reason.
func (r *Refusal) Put(field string, reason text.Text) {
	*r = append(*r, Fault{Field: field, Reason: reason})
}

// Take puts the fields of an error that is a refusal to r, under a prefix, and returns any other error.
func (r *Refusal) Take(prefix string, err error) error {
	var other Refusal
	if !errors.As(err, &other) {
		return err
	}
	*r = append(*r, other.Within(prefix)...)
	return nil
}

// Err is the refusal as an error, nil when no field is at fault.
func (r Refusal) Err() error {
	if len(r) == 0 {
		return nil
	}
	return r
}

// Within returns the refusal with every field's path put behind prefix, as for a document inside another.
func (r Refusal) Within(prefix string) Refusal {
	if prefix == "" {
		return r
	}
	out := make(Refusal, len(r))
	for i, f := range r {
		out[i] = Fault{strings.TrimSuffix(prefix+"."+f.Field, "."), f.Reason}
	}
	return out
}

// Within puts the fields of an error that is a refusal behind prefix; other errors stay as they are.
func Within(prefix string, err error) error {
	var r Refusal
	if errors.As(err, &r) {
		return r.Within(prefix)
	}
	return err
}

// By returns the first reason given for each field of an error that is a refusal; it is empty for others.
func By(err error) map[string]text.Text {
	out := map[string]text.Text{}
	var r Refusal
	if errors.As(err, &r) {
		for _, f := range r {
			if _, has := out[f.Field]; !has {
				out[f.Field] = f.Reason
			}
		}
	}
	return out
}
