package kinds

import (
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// The two ways in which an angle is written.
const (
	writtenParts   = "dms"     // in degrees, minutes and seconds
	writtenDecimal = "decimal" // in decimal degrees
)

// AngleConversion is a card that asks for an angle in the other way of writing: degrees, minutes and seconds for
// decimal degrees, or decimal degrees for the others.
type AngleConversion struct {
	Value  string          `json:"value"` // as it is written
	From   length.Unit     `json:"from"`  // deg
	To     string          `json:"to"`    // "dms" or "decimal"
	Step   string          `json:"step"`  // in degrees: "0.001", "1/60", "1/3600"
	Ask    []string        `json:"ask,omitempty"`
	Method exercise.Method `json:"method,omitzero"`
	Marks  map[string]int  `json:"marks,omitempty"`
}

// dealAngle makes a card of an angle; the cards of a block ask now for the one way and now for the other.
func dealAngle(b exercise.Block, d *exercise.Dealer, y length.Number, least length.Part) exercise.Item {
	it := &AngleConversion{From: length.Degree, To: writtenDecimal, Method: b.Method, Marks: b.Marks}
	least = max(least, length.Minutes)
	if d.Card()%2 == 0 {
		it.Value, it.Step = length.DMS(y, least), "0.001"
		if least == length.Seconds {
			it.Step = "0.0001"
		}
		return it
	}
	it.To, it.Step = writtenParts, least.Worth().Fraction()
	places := 3
	if least == length.Seconds {
		places = 4
	}
	it.Value = y.Text(places)
	return it
}

// decodeAngle reads a body.
func decodeAngle(it *AngleConversion) (exercise.Item, error) {
	if _, err := length.ReadAngle(it.Value); err != nil {
		return nil, refusal.Because("value", err)
	}
	var x length.Number
	if err := x.UnmarshalText([]byte(it.Step)); err != nil {
		return nil, refusal.Because("step", err)
	}
	if x.Sign() <= 0 {
		return nil, refusal.New("step", "convert.more-than-0")
	}
	return it, nil
}

// Kind names the kind.
func (it *AngleConversion) Kind() string { return convert{}.Name() }

// Check refuses what cannot be asked.
func (it *AngleConversion) Check() error {
	var bad refusal.Refusal
	if it.To != writtenParts && it.To != writtenDecimal {
		bad.Add("to", "convert.angle.to")
	}
	_, decimal := it.step().Decimals()
	if part, whole := length.PartOf(it.step()); it.To == writtenParts && (!whole || !part.Worth().Equal(it.step())) ||
		it.To == writtenDecimal && !decimal {
		bad.Add("step", "convert.angle.step")
	}
	return bad.Err()
}

func (it *AngleConversion) step() length.Number { return parsed(it.Step) }

// exactly is the angle in degrees; decodeAngle has read it before.
func (it *AngleConversion) exactly() length.Number {
	t, err := length.ReadAngle(it.Value)
	if err != nil {
		return length.Number{}
	}
	return t.Value
}

// part is the part in which the answer ends; 0 for decimals.
func (it *AngleConversion) part() length.Part {
	if it.To != writtenParts {
		return 0
	}
	p, _ := length.PartOf(it.step())
	return p
}

func (it *AngleConversion) text(x length.Number) string {
	if part := it.part(); part != 0 {
		return length.DMS(x, part)
	}
	places, _ := it.step().Decimals()
	return x.Text(places)
}

// Fields is the angle.
func (it *AngleConversion) Fields() []exercise.Field {
	form := exercise.Form{Places: -1}
	if it.Method.Strict() {
		form.Part = it.part()
		if form.Part == 0 {
			form.Places, _ = it.step().Decimals()
		}
	}
	return []exercise.Field{{Name: fieldValue, Term: text.New("convert.value"),
		Label: text.New("convert.angle.in-" + it.To), Input: exercise.Length, Unit: length.Degree,
		Part: it.part(), Form: form, Grain: it.step()}}
}

// stepped is the step as people read it.
func (it *AngleConversion) stepped() text.Math {
	switch it.part() {
	case length.Degrees:
		return "1°"
	case length.Minutes:
		return "1′"
	case length.Seconds:
		return "1″"
	}
	return text.Math(length.Degree.With(it.Step))
}

// Facts stand beside the equation.
func (it *AngleConversion) Facts() exercise.Facts {
	return exercise.Facts{About: []text.Text{numbers(length.Degree.With(it.Value)), text.New("convert.angle.sixty")},
		Task: text.New("convert.angle.task-"+it.To, "step", it.stepped())}
}

// Lines is the equation.
func (it *AngleConversion) Lines() []exercise.Line {
	return []exercise.Line{lineOf(given(length.Degree.With(it.Value)), op("="), box(fieldValue))}
}

// Figures is none: the card is about what is written.
func (it *AngleConversion) Figures() []exercise.Figure { return nil }

func (it *AngleConversion) target(x length.Number) exercise.Exactly {
	return exercise.Exactly{Is: x, Written: it.text(x)}
}

func (it *AngleConversion) right() length.Number { return it.exactly().RoundTo(it.step()) }

// causes are the slips with what each gives.
func (it *AngleConversion) causes() (out causes) {
	x := it.exactly()
	cut := cause{cutNotRounded, it.target(x.CutTo(it.step()))}
	if it.part() == 0 {
		for _, wrong := range slips.Hundredths(x) {
			out = append(out, cause{slips.MinutesAsHundredths, it.target(wrong)})
		}
		return append(out, cut)
	}
	// The hundredths of a degree are written as minutes.
	whole := x.CutTo(length.Int(1))
	minutes := x.Sub(whole).MulInt(100).RoundTo(length.Int(1))
	if minutes.Abs().Less(length.Int(60)) {
		out = append(out, cause{slips.MinutesAsHundredths, it.target(whole.Add(minutes.Mul(length.Minutes.Worth())))})
	}
	return append(out, cut)
}

// Mark marks an answer.
func (it *AngleConversion) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	want := it.target(it.right())
	w.Judge(fieldValue, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		return it.causes().named(e)
	})
	return w.Result(), nil
}

// Predictions lists the values that the slips give.
func (it *AngleConversion) Predictions() ([]exercise.Prediction, error) {
	var out []exercise.Prediction
	right := it.right()
	for _, p := range it.causes().predictions(fieldValue) {
		if !p.Value.Equal(right) {
			out = append(out, p)
		}
	}
	return out, nil
}

// work is the arithmetic.
func (it *AngleConversion) work() []exercise.Equation {
	x := it.exactly()
	whole := x.Abs().Floor()
	rest := x.Abs().Sub(whole)
	minutes := rest.MulInt(60)
	answer := numbers(length.Degree.With(it.text(it.right())))
	if it.part() == 0 {
		const further = 2
		places, _ := it.step().Decimals()
		parts := whole.String() + " + " + minutes.Floor().String() + " ÷ 60"
		if seconds := minutes.Sub(minutes.Floor()).MulInt(60); seconds.Sign() != 0 {
			parts += " + " + seconds.String() + " ÷ 3600"
		}
		sum := x.Abs().Cut(places+further).Text(places+further) + " …"
		if p, finite := rest.Decimals(); finite && p <= places+further {
			sum = x.Abs().String()
		}
		return []exercise.Equation{exercise.Sum(parts, sum+"°"),
			{Left: text.New("convert.rounded", "step", it.stepped()), Right: answer}}
	}
	out := []exercise.Equation{exercise.Sum(rest.String()+" × 60", minutes.String()+"′")}
	if seconds := minutes.Sub(minutes.Floor()); it.part() == length.Seconds && seconds.Sign() != 0 {
		out = append(out, exercise.Sum(seconds.String()+" × 60", seconds.MulInt(60).String()+"″"))
	}
	return append(out, exercise.Equation{Left: text.New("convert.rounded", "step", it.stepped()), Right: answer})
}

// Hints lead from what a minute is to the whole working.
func (it *AngleConversion) Hints() ([]exercise.Hint, error) {
	return []exercise.Hint{{Text: text.New("convert.angle.hint-" + it.To)}, {Text: text.New("convert.round")},
		{Text: worked(it.work()), Worked: true}}, nil
}

// Explain puts an answer in words.
func (it *AngleConversion) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Work: it.work()}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
			if c == slips.MinutesAsHundredths {
				return text.New("convert.angle.hundredths-" + it.To)
			}
			return text.New("convert.cut")
		})
		if says == nil {
			says = []text.Text{text.New("convert.step-by-step")}
		}
		return wrote(f, m), says
	}}.tell(&e)
	return e, nil
}
