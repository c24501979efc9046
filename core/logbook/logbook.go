// Package logbook knows the book of an instrument: what checks found, what was decided, and whether it is fit for use.
// Entries are never rewritten: a further entry corrects one.
package logbook

import (
	"slices"
	"time"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// Standard is a standard of known size, and what the instrument indicated on it.
type Standard struct {
	Size      length.Number `json:"size"`
	Indicated length.Number `json:"indicated"`
}

// Entry is one check.
type Entry struct {
	ID        int64          `json:"-"`
	At        time.Time      `json:"-"`                // the day
	Closed    *length.Number `json:"closed,omitempty"` // what it indicated closed; nil where it was not closed
	Standards []Standard     `json:"standards,omitempty"`
	Who       string         `json:"who"`
	Condition Condition      `json:"condition"`
	Decision  Decision       `json:"decision"`
	Due       time.Time      `json:"due,omitzero"` // the next check; zero where none is set
	Note      string         `json:"note,omitempty"`
	Corrects  int64          `json:"-"` // the entry that this one stands for; 0 for none
}

// Condition is the state in which the instrument was found.
type Condition string

// Decision says whether the instrument stays in use.
type Decision string

// The conditions and decisions.
const (
	Clean    Condition = "clean"
	Nick     Condition = "nick"
	Stiff    Condition = "stiff"
	Repaired Condition = "repaired"

	InUse Decision = "in use"
	Carry Decision = "carry the error" // it is used, and its zero error taken off
	Aside Decision = "put aside"
)

// Conditions and Decisions list what there is, the usual first.
var (
	Conditions = []Condition{Clean, Nick, Stiff, Repaired}
	Decisions  = []Decision{InUse, Carry, Aside}
)

// Bounds of an entry.
const (
	MaxStandards = 8
	MaxText      = 200
)

// Check refuses an entry that says nothing of an instrument, with a refusal.Refusal naming each field.
func (e Entry) Check(in *instrument.Instrument) error {
	var bad refusal.Refusal
	if e.Closed == nil && len(e.Standards) == 0 {
		bad.Add("closed", "logbook.check")
	}
	if len(e.Standards) > MaxStandards {
		bad.Add("standards", "logbook.most", "max_standards", MaxStandards)
	}
	if !slices.Contains(Conditions, e.Condition) {
		bad.Add("condition", "logbook.none-those-there")
	}
	if !slices.Contains(Decisions, e.Decision) {
		bad.Add("decision", "logbook.none-those-there")
	}
	if e.Who == "" || len([]rune(e.Who)) > 60 {
		bad.Add("who", "logbook.say-who-checked-most")
	}
	if len([]rune(e.Note)) > MaxText {
		bad.Add("note", "logbook.most-characters", "max_text", MaxText)
	}
	if !e.Due.IsZero() && !e.Due.After(e.At) {
		bad.Add("due", "logbook.after-day-check")
	}
	far := in.LeastCount().MulInt(1000)
	off := func(field string, indicated, true length.Number) {
		if far.Less(indicated.Sub(true).Abs()) {
			bad.Add(field, "logbook.more-than-1000-least")
		}
	}
	if e.Closed != nil {
		off("closed", *e.Closed, in.Spec().Base)
	}
	for _, s := range e.Standards {
		off("standards", s.Indicated, s.Size)
	}
	return bad.Err()
}

// Zero is the zero error that a check found: what it indicated closed, less its base; without that the mean of what it
// lay off on the standards, rounded to its least count.
func (e Entry) Zero(in *instrument.Instrument) length.Number {
	if e.Closed != nil {
		return e.Closed.Sub(in.Spec().Base)
	}
	sum := length.Number{}
	for _, s := range e.Standards {
		sum = sum.Add(s.Indicated.Sub(s.Size))
	}
	c := in.LeastCount()
	counts := sum.Quo(length.Int(int64(max(1, len(e.Standards))))).Quo(c).Round(0)
	return counts.Mul(c)
}

// Differs says what bringing a check in beside those of a book would do.
type Differs string

// What it would do.
const (
	New       Differs = "new"
	Same      Differs = "the same"  // it is in the book already
	Different Differs = "different" // there is a check of that day with another finding
)

// Compare says of each check what bringing it in would do: one that is in the book is the same, and so is one that
// stands twice among them.
func Compare(book, incoming []Entry) []Differs {
	out := make([]Differs, len(incoming))
	standing := Standing(book)
	for i, e := range incoming {
		out[i] = New
		for _, there := range append(standing, incoming[:i]...) {
			switch {
			case e.sameFinding(there):
				out[i] = Same
			case out[i] == New && e.At.Equal(there.At) && e.Who == there.Who:
				out[i] = Different
			}
			if out[i] == Same {
				break
			}
		}
	}
	return out
}

// sameFinding reports whether two entries say the same: of the same day, by the same person, with the same values.
func (e Entry) sameFinding(o Entry) bool {
	return e.At.Equal(o.At) && e.Due.Equal(o.Due) && e.Who == o.Who && e.Condition == o.Condition &&
		e.Decision == o.Decision &&
		e.Note == o.Note && equal(e.Closed, o.Closed) && slices.EqualFunc(e.Standards, o.Standards,
		func(a, b Standard) bool {
			return a.Size.Equal(b.Size) && a.Indicated.Equal(b.Indicated)
		})
}

// equal reports whether two values are the same, or neither is there.
func equal(a, b *length.Number) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Equal(*b)
}

// Standing are the entries that stand, by day: those that another corrects are left out.
func Standing(all []Entry) []Entry {
	corrected := map[int64]bool{}
	for _, e := range all {
		if e.Corrects != 0 {
			corrected[e.Corrects] = true
		}
	}
	var out []Entry
	for _, e := range all {
		if !corrected[e.ID] {
			out = append(out, e)
		}
	}
	slices.SortStableFunc(out, func(a, b Entry) int { return a.At.Compare(b.At) })
	return out
}

// State is whether an instrument is fit for use.
type State struct {
	Checked bool // it has been checked at all
	Last    Entry
	Aside   bool
	Due     bool // a check is due, or overdue
	Beyond  bool // its zero error lies beyond the limit
}

// Warning says in a few words what speaks against using it; "" where nothing does.
func (s State) Warning() text.Text {
	switch {
	case s.Aside:
		return text.New("logbook.warning")
	case s.Beyond:
		return text.New("logbook.zero-error-beyond-its")
	case s.Due:
		return text.New("logbook.check-due")
	}
	return text.Text{}
}

// StateOf returns the state of an instrument on a day, by its logbook. The limit is of the zero error, either way; nil
// for none. An instrument that was never checked has no state.
func StateOf(in *instrument.Instrument, all []Entry, limit *length.Number, today time.Time) State {
	list := Standing(all)
	if len(list) == 0 {
		return State{}
	}
	last := list[len(list)-1]
	s := State{Checked: true, Last: last, Aside: last.Decision == Aside, Due: !last.Due.IsZero() &&
		!today.Before(last.Due)}
	s.Beyond = limit != nil && last.Decision != Carry && limit.Less(last.Zero(in).Abs())
	return s
}
