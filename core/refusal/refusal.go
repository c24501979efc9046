// Package refusal is how Cavix says no to input: which field, why, and what would be right. A Refusal
// is an error that names every field at fault, so that a form can show each reason where it belongs.
package refusal

import (
	"errors"
	"fmt"
	"strings"
)

// Fault is one field of a document or form that cannot stand.
type Fault struct {
	Field  string // its path, as "main.division"; "" for the document as a whole
	Reason string // what is wrong and what would be right
}

// String writes the fault on one line.
func (f Fault) String() string {
	if f.Field == "" {
		return f.Reason
	}
	return f.Field + ": " + f.Reason
}

// Refusal is the error for input that is refused: it names every field at fault.
type Refusal []Fault

// New refuses a single field.
func New(field, format string, args ...any) Refusal {
	return Refusal{{Field: field, Reason: fmt.Sprintf(format, args...)}}
}

func (r Refusal) Error() string {
	lines := make([]string, len(r))
	for i, f := range r {
		lines[i] = f.String()
	}
	return strings.Join(lines, "; ")
}

// Add puts one more field to the refusal.
func (r *Refusal) Add(field, format string, args ...any) {
	*r = append(*r, Fault{Field: field, Reason: fmt.Sprintf(format, args...)})
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
func By(err error) map[string]string {
	out := map[string]string{}
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
