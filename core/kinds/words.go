package kinds

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
)

// numbers is a number, a length or a calculation as a text.
func numbers(s string) text.Text { return text.Numbers(text.Math(s)) }

// option is a choice as people read it.
func option(value string) text.Text { return text.New("option." + value) }

// options are choices as people read them.
func options(values ...string) []text.Text {
	out := make([]text.Text, len(values))
	for i, v := range values {
		out[i] = option(v)
	}
	return out
}

// about are the facts of an instrument that stand beside every figure of it.
func about(in *instrument.Instrument) []text.Text {
	made := in.Describe()
	if b := in.Spec().Base; b.Sign() != 0 {
		made = text.Row(made, text.New("card.base", "base", text.Math(in.FormatMain(b)), "unit", in.Unit()))
	}
	return []text.Text{text.Typed(in.Name()), made}
}

// closedFact tells what an instrument shows closed, where a card gives that.
func closedFact(in *instrument.Instrument) text.Text {
	e, unit := in.Spec().ZeroError, in.Unit()
	if isZeroed(in) {
		return text.New("card.zeroed-fact", "at", text.Math(in.Format(e.Neg())), "unit", unit, "shows",
			text.Math(in.Format(e)))
	}
	return text.New("card.closed-fact", "shows", text.Math(in.Format(e)), "unit", unit)
}

// dmsCauses predicts the slips of writing an angle in degrees, minutes and seconds; none where it is written otherwise.
// On a circle they go round.
func dmsCauses(in *instrument.Instrument, x, turn length.Number) (out causes) {
	if in.PartBy("") == 0 {
		return nil
	}
	near := in.LeastCount().Mul(halfCount)
	add := func(code exercise.Code, all []length.Number) {
		for _, x := range all {
			is := plainly(x, near)
			if turn.Sign() > 0 {
				out = append(out, cause{code, exercise.Circular{Exactly: is, Turn: turn}})
				continue
			}
			out = append(out, cause{code, is})
		}
	}
	add(slips.MinutesAsHundredths, slips.Hundredths(x))
	add(slips.MarkLeftOut, slips.Unmarked(x))
	return out
}

// ofReadings is a card of several readings and of what is worked out of them.
type ofReadings interface {
	exercise.Item
	work() ([]exercise.Equation, error)
	explain(*exercise.Explanation, exercise.Field, exercise.Mark, exercise.Wording) (text.Text, []text.Text)
}

// explained puts an answer in words, and points at the reading that went wrong.
func explained(it ofReadings, a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{}
	if e.Work, err = it.work(); err != nil {
		return e, err
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		return it.explain(&e, f, m, wording)
	}}.tell(&e)
	return e, nil
}

// formFaults lists the faults of form of some entries.
type formFaults struct {
	what  text.Text
	terms []text.Text
}

// addForm puts an entry to those whose form has the same fault.
func addForm(forms []formFaults, f exercise.Field, m exercise.Mark) []formFaults {
	what := formText(f, m)
	for i := range forms {
		if forms[i].what.Equal(what) {
			forms[i].terms = append(forms[i].terms, f.Term)
			return forms
		}
	}
	return append(forms, formFaults{what, []text.Text{f.Term}})
}

// says returns the sentence on what the faults cost, and how to write the entry.
func (w formFaults) says() text.Text {
	return text.New("card.half-marks", "n", len(w.terms), "terms", listed(w.terms), "what", w.what)
}

// formText says what is wrong with the form of an entry.
func formText(f exercise.Field, m exercise.Mark) text.Text {
	var says []text.Text
	for _, fault := range m.Faults {
		if fault == exercise.WrongDecimals {
			says = append(says, decimalsText(f))
			continue
		}
		says = append(says, text.New("form."+string(fault)))
	}
	return text.And(says...)
}

// decimalsText says how many decimals a field wants.
func decimalsText(f exercise.Field) text.Text {
	places := f.Form.Places
	switch {
	case f.Input == exercise.Count && places == 1:
		return text.New("form.tenth")
	case f.Input == exercise.Count && f.Name == slips.FineLine || f.Name == slips.FinerLine:
		return text.New("form.whole-line")
	case f.Input == exercise.Count:
		return text.New("form.whole")
	case f.Form.More > 0:
		return text.New("form.places-or-more", "places", places, "more", places+f.Form.More)
	case places == 0:
		return text.New("form.no-places")
	}
	return text.New("form.places", "n", places)
}

// story explains a result: what is right so far, the first field that went wrong, what is empty and
// what is only written wrongly. wrong puts the field that went wrong in words.
type story struct {
	fields []exercise.Field
	result exercise.Result
	wrong  func(exercise.Field, exercise.Mark) (headline text.Text, body []text.Text)
	right  text.Text // said when all is right; nothing says the last field's value
}

// tell fills in headline, body and field of an explanation.
func (s story) tell(e *exercise.Explanation) {
	var first *exercise.Mark
	var at int
	var right, missing []text.Text
	var forms []formFaults
	for i := range s.result.Fields {
		m, f := &s.result.Fields[i], s.fields[i]
		switch {
		case m.Outcome == exercise.Wrong && first == nil:
			first, at = m, i
		case m.Outcome == exercise.Missing:
			missing = append(missing, f.Term)
		case m.Outcome == exercise.InForm:
			forms = addForm(forms, f, *m)
		case m.Outcome == exercise.Right && first == nil:
			right = append(right, f.Term)
		}
	}
	switch {
	case first != nil:
		e.Field = first.Field
		e.Headline, e.Body = s.wrong(s.fields[at], *first)
		if len(right) > 0 {
			e.Body = append([]text.Text{text.New("story.correct-so-far", "terms", listed(right))}, e.Body...)
		}
	case len(missing) > 0:
		e.Headline = text.New("story.empty", "terms", listed(missing))
		says := "story.rest-correct"
		switch {
		case len(missing) == len(s.fields):
			says = "story.see-working"
		case len(forms) > 0:
			says = "story.rest-values-correct"
		}
		e.Body = []text.Text{text.New(says)}
	case len(forms) > 0:
		e.Headline = text.New("story.form")
	case !s.right.IsZero():
		e.Headline = s.right
	default:
		last := len(s.result.Fields) - 1
		e.Headline = text.New("story.right", "term", s.fields[last].Term, "value",
			text.Math(s.fields[last].Unit.With(s.result.Fields[last].Expected)))
	}
	for _, form := range forms {
		e.Body = append(e.Body, form.says())
	}
	e.Body = text.Unrepeated(e.Body, e.Headline)
}

// listed writes names after each other; of many only the first few and how many more there are.
func listed(names []text.Text) text.Text {
	const most = 9
	if len(names) > most {
		return text.New("story.and-more", "names", text.List(names[:most-1]...), "n", len(names)-most+1)
	}
	return text.And(names...)
}

// wrote is the headline of a wrong entry: what was written and what it is.
func wrote(f exercise.Field, m exercise.Mark) text.Text {
	return text.New("story.wrote", "given", entered(m), "term", f.Term, "value", text.Math(f.Unit.With(m.Due())))
}

// entered returns the entry with a typographic minus.
func entered(m exercise.Mark) string { return strings.TrimSpace(exercise.Show(m.Given)) }

// fromOwn says what an entry would be from the student's own earlier ones, where that is not what is
// expected.
func fromOwn(f exercise.Field, m exercise.Mark) []text.Text {
	if m.Follows == "" || m.Follows == m.Expected {
		return nil
	}
	return []text.Text{text.New("story.from-own", "value", text.Math(f.Unit.With(m.Follows)))}
}

// causes is an ordered list of slips of a kind's own: codes with the value that each predicts.
type causes []cause

type cause struct {
	code exercise.Code
	is   exercise.Target
}

// named returns the codes whose prediction an entry meets, in order, each once.
func (cs causes) named(e *exercise.Entry) []exercise.Code {
	out := []exercise.Code{}
	for _, c := range cs {
		if _, met := c.is.Meets(e); met && (len(out) == 0 || out[len(out)-1] != c.code) {
			out = append(out, c.code)
		}
	}
	return out
}

// predictions returns the causes of a field as predictions.
func (cs causes) predictions(field string) []exercise.Prediction {
	var out []exercise.Prediction
	for _, c := range cs {
		out = append(out, exercise.Prediction{Field: field, Code: c.code, Value: c.is.Value()})
	}
	return out
}

// plainly is met by a value, whatever its decimals.
func plainly(x, near length.Number) exercise.Exactly {
	return exercise.Exactly{Is: x, Written: x.String(), Near: near}
}

// halfCount is the largest deviation of an entry in another unit, in least counts.
var halfCount = length.Frac(1, 2)
