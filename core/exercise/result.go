package exercise

import (
	"slices"

	"cavix/core/length"
)

// Outcome says what an entry is worth.
type Outcome string

// The outcomes of a field.
const (
	Right   Outcome = "right"   // the expected value in the expected form: full marks
	Carried Outcome = "carried" // wrong, but just what follows from the student's earlier entries: full marks
	InForm  Outcome = "form"    // right or carried, but in the wrong form: half the marks
	Wrong   Outcome = "wrong"
	Missing Outcome = "missing"
)

// FormFault says in what an entry's form is wrong.
type FormFault string

// The faults of form.
const (
	WrongDecimals FormFault = "decimals"  // not exactly the instrument's decimals
	WrongParts    FormFault = "parts"     // not in the degrees, minutes and seconds of the instrument
	OutOfCircle   FormFault = "circle"    // with a full circle too many or too few
	Negative      FormFault = "negative"  // a minus before what has no sign
	NoUnit        FormFault = "unit"      // no unit where one must be written
	NoSign        FormFault = "sign"      // a positive zero error without its plus
	NoFraction    FormFault = "fraction"  // a rounded decimal where a fraction says it exactly
	FromAbove     FormFault = "direction" // a screw was brought down to its value, not up
	Exchanged     FormFault = "exchanged" // two neighbouring steps have changed places
)

// Mark is the outcome of one field, with its marks and slips.
type Mark struct {
	Field    string        `json:"step"`
	Given    string        `json:"given"`    // as it was typed
	Expected string        `json:"expected"` // as it should be filled in
	Outcome  Outcome       `json:"outcome"`
	Marks    length.Number `json:"marks"`
	Of       length.Number `json:"of"`
	// what explains the entry, in table order; pairs only where no single slip does
	Slips []Code `json:"slips"`

	// Faults of form: what a form mark is lost for.
	Faults []FormFault `json:"form,omitempty"`
	// Follows is the value that follows from the earlier entries, where that differs from the expected one.
	Follows string `json:"follows,omitempty"`
	// Value is the entry as a number in the field's unit; meaningless when missing, and not stored.
	Value length.Number `json:"-"`
}

// Due returns the value that follows from the student's earlier entries.
func (m *Mark) Due() string {
	if m.Follows != "" {
		return m.Follows
	}
	return m.Expected
}

// ByValue reports whether the entry's value is the expected one, whatever its form.
func (m *Mark) ByValue() bool { return m.Outcome == Right || m.Outcome == InForm && m.Follows == "" }

// Result is the mark of a card, as `cavix mark` prints it.
type Result struct {
	Marks  length.Number `json:"marks"`
	Of     length.Number `json:"of"`
	Fields []Mark        `json:"steps"`
	Slips  []Code        `json:"slips"` // what best explains the card, most likely first
}

// ResultOf adds up the marks of a card's fields and ranks their slips.
func ResultOf(fields []Mark) Result {
	r := Result{Fields: fields}
	for i := range fields {
		r.Marks, r.Of = r.Marks.Add(fields[i].Marks), r.Of.Add(fields[i].Of)
	}
	r.Slips = rank(fields)
	return r
}

// FullMarks returns the marks that a card is given when every field is right.
func FullMarks(it Item) (length.Number, error) {
	r, err := it.Mark(Answer{})
	return r.Of, err
}

// Field returns what a field came to; nil when it was not asked.
func (r *Result) Field(name string) *Mark {
	for i := range r.Fields {
		if r.Fields[i].Field == name {
			return &r.Fields[i]
		}
	}
	return nil
}

// rank lists the codes of a card: by how many fields they explain, then by the earliest field, then by
// table order.
func rank(fields []Mark) []Code {
	type tally struct {
		code Code
		n    int
	}
	var counts []tally
	for i := range fields { // first met: earliest field, then table order
		for _, c := range fields[i].Slips {
			if at := slices.IndexFunc(counts, func(t tally) bool { return t.code == c }); at >= 0 {
				counts[at].n++
			} else {
				counts = append(counts, tally{c, 1})
			}
		}
	}
	slices.SortStableFunc(counts, func(a, b tally) int { return b.n - a.n })
	out := make([]Code, len(counts))
	for i, t := range counts {
		out[i] = t.code
	}
	return out
}
