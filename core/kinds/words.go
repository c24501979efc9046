package kinds

import (
	"fmt"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/words"
)

// about are the facts of an instrument that stand beside every figure of it.
func about(in *instrument.Instrument) []string {
	made := in.Describe()
	if b := in.Spec().Base; b.Sign() != 0 {
		made += " · its 0 stands for " + in.FormatMain(b) + " " + string(in.Unit())
	}
	return []string{words.Typed(in.Name()), made}
}

// closedFact tells what an instrument shows closed, where a card gives that.
func closedFact(in *instrument.Instrument) string {
	if isZeroed(in) {
		return "zeroed at " + in.Format(in.Spec().ZeroError.Neg()) + " " + string(in.Unit()) +
			": it shows the difference from that, and closed " + exercise.Show(in.Format(in.Spec().ZeroError))
	}
	return "closed, it shows " + exercise.Show(in.Format(in.Spec().ZeroError)) + " " + string(in.Unit())
}

// unitOf is the unit of a field behind a space, "" for what is no length.
func unitOf(f exercise.Field) string {
	if f.Unit == "" {
		return ""
	}
	return " " + string(f.Unit)
}

// formFaults is what is wrong with the form of some entries.
type formFaults struct {
	what  string
	terms []string
}

// addForm puts an entry to those whose form has the same fault.
func addForm(forms []formFaults, f exercise.Field, m exercise.Mark) []formFaults {
	what := formText(f, m)
	for i := range forms {
		if forms[i].what == what {
			forms[i].terms = append(forms[i].terms, f.Term)
			return forms
		}
	}
	return append(forms, formFaults{what, []string{f.Term}})
}

func (w formFaults) String() string {
	last := len(w.terms) - 1
	if last == 0 {
		return fmt.Sprintf("Your %s gets half marks: %s.", w.terms[0], w.what)
	}
	return fmt.Sprintf("Your %s and %s get half marks: %s.", listed(w.terms[:last]), w.terms[last], w.what)
}

// formText says what is wrong with the form of an entry.
func formText(f exercise.Field, m exercise.Mark) string {
	var says []string
	for _, fault := range m.Faults {
		switch fault {
		case exercise.WrongDecimals:
			says = append(says, decimalsText(f))
		case exercise.NoUnit:
			says = append(says, "write the unit with it")
		case exercise.NoSign:
			says = append(says, "always write its sign, + or −")
		case exercise.NoFraction:
			says = append(says, "write it as a fraction, which is exact")
		case exercise.Exchanged:
			says = append(says, "two neighbouring steps have changed places")
		case exercise.FromAbove:
			says = append(says, "bring a screw to its value from below, turning on")
		}
	}
	return strings.Join(says, ", and ")
}

// decimalsText says how many decimals a field wants.
func decimalsText(f exercise.Field) string {
	places := f.Form.Places
	switch {
	case f.Input == exercise.Count && places == 1:
		return "estimate one tenth, as 24.3"
	case f.Input == exercise.Count && f.Name == slips.FineLine || f.Name == slips.FinerLine:
		return "{a line} is a whole number"
	case f.Input == exercise.Count:
		return "it is a whole number"
	case f.Form.More > 0:
		return fmt.Sprintf("write %d decimals or %d", places, places+f.Form.More)
	case places == 0:
		return "this instrument reads whole numbers"
	case places == 1:
		return "write exactly one decimal place"
	}
	return fmt.Sprintf("write exactly %d decimal places", places)
}

// story is how a result is told: what is right so far, the first field that went wrong, what is empty and
// what is only written wrongly. wrong puts the field that went wrong in words.
type story struct {
	fields []exercise.Field
	result exercise.Result
	wrong  func(exercise.Field, exercise.Mark) (headline string, body []string)
	right  string // said when all is right; "" says the last field's value
}

// tell fills in headline, body and field of an explanation.
func (s story) tell(e *exercise.Explanation) {
	var first *exercise.Mark
	var at int
	var right, missing []string
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
			e.Body = append([]string{"Correct so far: " + listed(right) + "."}, e.Body...)
		}
	case len(missing) > 0:
		e.Headline = "Left empty: " + listed(missing) + "."
		e.Body = []string{"See the working."}
		switch {
		case len(missing) == len(s.fields):
		case len(forms) > 0:
			e.Body[0] = "The values you filled in are correct. See the working."
		default:
			e.Body[0] = "Everything you filled in is correct. See the working."
		}
	case len(forms) > 0:
		e.Headline = "Your values are correct. Check how you wrote them."
	case s.right != "":
		e.Headline = s.right
	default:
		last := len(s.result.Fields) - 1
		e.Headline = fmt.Sprintf("Right: the %s is %s.", s.fields[last].Term,
			exercise.Show(s.result.Fields[last].Expected)+unitOf(s.fields[last]))
	}
	for _, form := range forms {
		e.Body = append(e.Body, form.String())
	}
}

// listed writes names after each other; of many only the first few and how many more there are.
func listed(names []string) string {
	const most = 9
	if len(names) > most {
		return strings.Join(names[:most-1], ", ") + fmt.Sprintf(" and %d more", len(names)-most+1)
	}
	return strings.Join(names, ", ")
}

// wrote is the headline of a wrong entry: what was written and what it is.
func wrote(f exercise.Field, m exercise.Mark) string {
	return fmt.Sprintf("You wrote %s for %s. The right value is %s%s.", strings.TrimSpace(exercise.Show(m.Given)), the(f.Term),
		exercise.Show(m.Due()), unitOf(f))
}

// the is a quantity as a sentence names it: one that has a number needs no article.
func the(term string) string {
	if strings.HasPrefix(term, "reading ") {
		return term
	}
	return "the " + term
}

// fromOwn says what an entry would be from the student's own earlier ones, where that is not what is
// expected.
func fromOwn(f exercise.Field, m exercise.Mark) []string {
	if m.Follows == "" || m.Follows == m.Expected {
		return nil
	}
	return []string{fmt.Sprintf("From your own earlier entries it would be %s%s.", exercise.Show(m.Follows),
		unitOf(f))}
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

// halfCount is how near to a value an entry in another unit must lie, in least counts.
var halfCount = length.Frac(1, 2)
