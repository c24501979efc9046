package exercise

import (
	"slices"

	"cavix/core/length"
)

// Working marks one answer. A kind judges its fields one by one in the order of the work, those that are
// not asked too; the working carries on what the student wrote, and adds up.
type Working struct {
	fields  []Field
	entries []Entry
	marks   map[string]int
	known   []known
	done    []Mark
}

// known is the value of a field for later entries.
type known struct {
	field  string
	value  length.Number
	broken bool // asked and left empty, or in need of such a one: nothing follows from it
}

// NewWorking begins the marking of entries, which Read has taken for the fields. Full marks stand in
// marks, 1 where a field is left out there.
func NewWorking(fields []Field, entries []Entry, marks map[string]int) *Working {
	return &Working{fields: fields, entries: entries, marks: marks,
		known: make([]known, 0, 9), done: make([]Mark, 0, len(fields))}
}

// full returns a field's full marks.
func (w *Working) full(name string) length.Number {
	if m, ok := w.marks[name]; ok {
		return length.Int(int64(m))
	}
	return length.Int(1)
}

// Value returns what later entries take a field to be: the student's own, or where it was not asked what
// follows from earlier ones.
func (w *Working) Value(name string) length.Number {
	for i := range w.known {
		if w.known[i].field == name {
			return w.known[i].value
		}
	}
	return length.Number{}
}

// Can reports whether anything follows from the fields: not when one was left empty.
func (w *Working) Can(names ...string) bool {
	for i := range w.known {
		if w.known[i].broken && slices.Contains(names, w.known[i].field) {
			return false
		}
	}
	return true
}

// Restate has later entries take a field to be something else than what its entry says as it stands.
func (w *Working) Restate(name string, x length.Number) {
	for i := range w.known {
		if w.known[i].field == name {
			w.known[i].value = x
		}
	}
}

// Done returns the marks of the fields judged so far.
func (w *Working) Done() []Mark { return w.done }

// Entry returns the entry of a field, nil when the field is not asked.
func (w *Working) Entry(name string) *Entry {
	for i := range w.fields {
		if w.fields[i].Name == name {
			return &w.entries[i]
		}
	}
	return nil
}

// Judge judges a field against what is expected, and against what follows from the student's own earlier
// entries: nil where nothing does. Of a wrong entry, slips names what explains it; due is what it should
// have been. Judge returns what the field came to, nil when it is not asked.
func (w *Working) Judge(name string, want, follows Target, slips func(due Target, e *Entry) []Code) *Mark {
	at := slices.IndexFunc(w.fields, func(f Field) bool { return f.Name == name })
	if at < 0 {
		k := known{field: name, broken: follows == nil}
		if k.value = want.Value(); follows != nil {
			k.value = follows.Value()
		}
		w.known = append(w.known, k)
		return nil
	}
	f, e := &w.fields[at], &w.entries[at]
	m := Mark{Field: name, Given: e.Text, Expected: want.Text(), Of: w.full(name), Slips: []Code{}, Value: e.Value}
	due := want
	if follows != nil && !same(follows, want) {
		m.Follows, due = follows.Text(), follows
	}
	k := known{field: name, value: e.Value}
	right, isRight := want.Meets(e)
	switch {
	case !e.Given:
		m.Outcome, k.value, k.broken = Missing, want.Value(), true
	case isRight:
		m.Outcome, k.value = Right, right
	default:
		m.Outcome = Wrong
		if follows != nil {
			if x, ok := follows.Meets(e); ok {
				m.Outcome, k.value = Carried, x
			}
		}
	}
	switch m.Outcome {
	case Right, Carried:
		m.Marks = m.Of
		met := want
		if m.Outcome == Carried {
			met = follows
		}
		if _, loose := met.(Loosely); !loose {
			m.Faults = f.Form.faults(f, e)
		}
		if t, ok := met.(Former); ok && m.Faults == nil {
			m.Faults = t.Faults(e)
		}
		if m.Faults != nil {
			m.Outcome, m.Marks = InForm, m.Of.Mul(half)
		}
	case Wrong:
		if slips != nil {
			m.Slips = slips(due, e)
		}
	}
	w.known, w.done = append(w.known, k), append(w.done, m)
	return &w.done[len(w.done)-1]
}

// Former is a target that has more to say of the form of an entry than its field has.
type Former interface{ Faults(*Entry) []FormFault }

// faults returns what is wrong with the form of a right or carried entry.
func (form Form) faults(f *Field, e *Entry) []FormFault {
	var faults []FormFault
	if form.Places >= 0 && !e.Converted && (f.Input == Length || f.Input == Count) {
		if n := e.Typed.Decimals; e.Typed.Fraction || n < form.Places || n > form.Places+form.More {
			faults = append(faults, WrongDecimals)
		}
	}
	if f.Unit.Angular() && f.Input == Length && !form.fitsAngle(e) {
		faults = append(faults, WrongParts)
	}
	if form.Unit && f.Input == Length && e.Typed.Unit == "" {
		faults = append(faults, NoUnit)
	}
	if form.Sign && e.Value.Sign() > 0 && !e.Typed.Signed {
		faults = append(faults, NoSign)
	}
	return faults
}

// fitsAngle reports whether an angle is written in the parts that the field wants, or where it wants decimals as a
// number of degrees.
func (form Form) fitsAngle(e *Entry) bool {
	if form.Part != 0 {
		return e.Typed.Manner(form.Part)
	}
	return form.Places < 0 || !e.Typed.Names(length.Minutes) && !e.Typed.Names(length.Seconds)
}

// Result returns the result of the card.
func (w *Working) Result() Result { return ResultOf(w.done) }
