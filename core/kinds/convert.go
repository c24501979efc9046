package kinds

import (
	"encoding/json"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// convert asks for a length in another unit, or for an angle in the other way of writing, rounded to a step.
type convert struct{}

func (convert) Name() string     { return "convert" }
func (convert) Title() text.Text { return text.New("convert.title") }

// The slips of converting, in the order in which they are named.
const (
	wrongWay      exercise.Code = "wrong-way"
	tenfold       exercise.Code = "tenfold"
	cutNotRounded exercise.Code = "cut-not-rounded"
)

func (convert) Slips() []exercise.Slip {
	return []exercise.Slip{{Code: wrongWay},
		{Code: tenfold}, {Code: cutNotRounded}}
}

const fieldValue = "value"

// autoStep is the step to which a value is rounded where a block leaves it open.
var autoStep = map[length.Unit]string{length.Millimetre: "0.01", length.Centimetre: "0.001", length.Inch: "0.001"}

// Settings of a block.
func (convert) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "to", Title: text.New("convert.settings.title"), Input: exercise.OneOf, Default: string(length.Inch),
			Choices: []exercise.Choice{{Value: "mm", Words: numbers("mm")}, {Value: "cm", Words: numbers("cm")},
				{Value: "in", Words: text.New("unit.whole.in")}},
			Why: text.New("convert.settings.why")},
		{Name: "step", Title: text.New("convert.settings.rounded"), Input: exercise.Number, Unit: true,
			Why: text.New("convert.settings.as-0-01-1")},
	}
}

// Check refuses a block whose step is none.
func (k convert) Check(b exercise.Block) error {
	if step := b.Setting(k.Settings(), "step"); step != "" {
		if x, err := length.Parse(step); err != nil || x.Sign() <= 0 {
			return refusal.New("step", "convert.check")
		}
	}
	return nil
}

// Deal takes a value that the instrument can show.
func (k convert) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := next(b, d).WithZeroError(length.Number{})
	if err != nil {
		return nil, err
	}
	y, err := best(d, in, nil, plain)
	if err != nil {
		return nil, err
	}
	if in.Unit().Angular() {
		return dealAngle(b, d, y, in.PartBy("")), nil
	}
	to := length.Unit(b.Setting(of, "to"))
	if to == in.Unit() {
		if to = length.Millimetre; in.Unit() == to {
			to = length.Inch
		}
	}
	step := b.Setting(of, "step")
	if step == "" {
		step = autoStep[to]
	}
	return &Conversion{Value: in.Format(y), From: in.Unit(), To: to, Step: step, Method: b.Method, Marks: b.Marks}, nil
}

// Decode reads a body.
func (convert) Decode(body json.RawMessage) (exercise.Item, error) {
	angle := &AngleConversion{}
	if exercise.DecodeBody(body, angle) == nil && angle.From.Angular() {
		return decodeAngle(angle)
	}
	it := &Conversion{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	var x length.Number
	if err := x.UnmarshalText([]byte(it.Value)); err != nil {
		return nil, refusal.Because("value", err)
	}
	if err := x.UnmarshalText([]byte(it.Step)); err != nil {
		return nil, refusal.Because("step", err)
	}
	if x.Sign() <= 0 {
		return nil, refusal.New("step", "convert.more-than-0")
	}
	return it, nil
}

// Conversion is a card that asks for a length in another unit. Numbers keep the way they are written: a step of
// 1/64 wants fractions.
type Conversion struct {
	Value  string          `json:"value"`
	From   length.Unit     `json:"from"`
	To     length.Unit     `json:"to"`
	Step   string          `json:"step"` // in the unit To
	Ask    []string        `json:"ask,omitempty"`
	Method exercise.Method `json:"method,omitzero"`
	Marks  map[string]int  `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Conversion) Kind() string { return convert{}.Name() }

// Check refuses what cannot be asked.
func (it *Conversion) Check() error {
	if it.From == it.To || it.To.Angular() {
		return refusal.New("to", "convert.another-unit-than-from")
	}
	return nil
}

// value and step are the numbers as they are written; Decode has read them before.
func (it *Conversion) value() length.Number { return parsed(it.Value) }
func (it *Conversion) step() length.Number  { return parsed(it.Step) }

func parsed(text string) (x length.Number) {
	if x.UnmarshalText([]byte(text)) != nil {
		return length.Number{}
	}
	return x
}

// exactly is the length in the unit that is asked for, before it is rounded.
func (it *Conversion) exactly() length.Number { return length.Convert(it.value(), it.From, it.To) }

// rounded brings a length to the step, half away from zero.
func (it *Conversion) rounded(x length.Number) length.Number { return x.RoundTo(it.step()) }

// places are the decimals of the step; −1 where it is a fraction.
func (it *Conversion) places() int {
	if p, finite := it.step().Decimals(); finite && !strings.Contains(it.Step, "/") {
		return p
	}
	return -1
}

func (it *Conversion) text(x length.Number) string {
	if p := it.places(); p >= 0 {
		return x.Text(p)
	}
	return x.Fraction()
}

// Fields is the value.
func (it *Conversion) Fields() []exercise.Field {
	form := exercise.Form{Places: -1, Unit: it.Method.UnitRequired()}
	if it.Method.Strict() {
		form.Places = it.places()
	}
	return []exercise.Field{{Name: fieldValue, Term: text.New("convert.value"), Label: text.New("convert.in", "units",
		units(it.To)), Input: exercise.Length, Unit: it.To, Form: form, Grain: it.step()}}
}

// Facts stand beside the figure.
func (it *Conversion) Facts() exercise.Facts {
	return exercise.Facts{About: []text.Text{numbers(it.Value + " " + string(it.From)), text.New("convert.inch")},
		Task: text.New("convert.task", "units", units(it.To), "step", text.Math(it.Step+" "+string(it.To)))}
}

// Lines is the equation.
func (it *Conversion) Lines() []exercise.Line {
	return []exercise.Line{lineOf(given(it.Value), exercise.Term{Word: numbers(string(it.From))}, op("="),
		box(fieldValue))}
}

// Figures is a display that shows the value; none where no display can.
func (it *Conversion) Figures() []exercise.Figure {
	x := it.value()
	step := length.Int(1)
	if p, finite := x.Decimals(); finite && !strings.Contains(it.Value, "/") {
		if _, after, ok := strings.Cut(it.Value, "."); ok {
			p = len(after)
		}
		step = length.Pow10(-p)
	} else {
		for n := int64(2); n <= 1024 && !x.Quo(step).IsInt(); n *= 2 {
			step = length.Frac(1, n)
		}
	}
	in, err := instrument.NewDisplay("Display", it.From, step, x.Sub(length.Int(1)).Floor(),
		x.Abs().Floor().Add(length.Int(10)), strings.Contains(it.Value, "/"))
	if err != nil {
		return nil
	}
	if _, err := in.Read(x); err != nil {
		return nil
	}
	return []exercise.Figure{{Name: figureOpen, Instrument: in, At: x, Caption: text.New("convert.figures.caption")}}
}

// inUnit is met by a value that is not written in another unit than the one that is asked for.
type inUnit struct{ exercise.Exactly }

func (t inUnit) Meets(e *exercise.Entry) (length.Number, bool) {
	return t.Is, !e.Converted && e.Value.Equal(t.Is)
}

func (it *Conversion) target(x length.Number) inUnit {
	return inUnit{exercise.Exactly{Is: x, Written: it.text(x)}}
}

// causes are the slips with what each gives.
func (it *Conversion) causes() causes {
	x, ten, tenth := it.exactly(), length.Int(10), length.Frac(1, 10)
	right := it.rounded(x)
	back := length.Convert(it.value(), it.To, it.From) // the factor the other way
	list := causes{{wrongWay, it.target(it.rounded(back))}}
	for _, wrong := range []length.Number{it.rounded(x.Mul(ten)), right.Mul(ten), it.rounded(x.Mul(tenth)),
		right.Mul(tenth)} {
		list = append(list, cause{tenfold, it.target(wrong)})
	}
	return append(list, cause{cutNotRounded, it.target(x.CutTo(it.step()))})
}

// Mark marks an answer.
func (it *Conversion) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	want := it.target(it.rounded(it.exactly()))
	w.Judge(fieldValue, want, want, func(_ exercise.Target,
		e *exercise.Entry) []exercise.Code {
		return it.causes().named(e)
	})
	return w.Result(), nil
}

// Predictions lists the values that the slips give.
func (it *Conversion) Predictions() ([]exercise.Prediction, error) {
	var out []exercise.Prediction
	right := it.rounded(it.exactly())
	for _, p := range it.causes().predictions(fieldValue) {
		if !p.Value.Equal(right) {
			out = append(out, p)
		}
	}
	return out, nil
}

// factor returns the conversion between the units as a text: "÷ 25.4".
func (it *Conversion) factor() text.Math {
	one := length.Convert(length.Int(1), it.From, it.To)
	if one.Cmp(length.Int(1)) >= 0 {
		return text.Math("× " + one.String())
	}
	return text.Math("÷ " + length.Int(1).Quo(one).String())
}

// work is the arithmetic.
func (it *Conversion) work() []exercise.Equation {
	x := it.exactly()
	digits := max(it.places(), 3) + 3
	unit := " " + string(it.To)
	right := x.Cut(digits).Text(digits) + " …" + unit
	if p, finite := x.Decimals(); finite && p <= digits {
		right = x.String() + unit
	}
	return []exercise.Equation{exercise.Sum(it.Value+" "+string(it.factor()), right),
		{Left: text.New("convert.rounded", "step", text.Math(it.Step)), Right: numbers(it.text(it.rounded(x)) + unit)}}
}

// Hints lead from the factor to the whole working.
func (it *Conversion) Hints() ([]exercise.Hint, error) {
	hint := "convert.comes-out-smaller"
	if length.Convert(length.Int(1), it.From, it.To).Cmp(length.Int(1)) > 0 {
		hint = "convert.comes-out-larger"
	}
	return []exercise.Hint{{Text: text.New(hint, "units", units(it.To), "factor", it.factor())},
		{Text: text.New("convert.round")}, {Text: worked(it.work()), Worked: true}}, nil
}

// Explain puts an answer in words.
func (it *Conversion) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	entries, err := exercise.Read(it.Fields(), a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Work: it.work()}
	for _, f := range it.Figures() {
		e.Shown = append(e.Shown, exercise.Pointing{Figure: f.Name, Line: -1, Look: -1})
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
			switch {
			case c == tenfold && strings.Contains(m.Expected, "/"):
				return text.New("convert.tenfold-fraction." + sizeOf(m))
			case c == tenfold:
				return text.New("slips.point-moved.seen-tenfold-" + sizeOf(m))
			}
			return it.advice(c)
		})
		switch {
		case entries[0].Converted:
			says = []text.Text{text.New("convert.other-unit", "units", units(it.To))}
		case says == nil:
			says = []text.Text{text.New("convert.step-by-step")}
		}
		return wrote(f, m), says
	}}.tell(&e)
	return e, nil
}

func (it *Conversion) advice(c exercise.Code) text.Text {
	if c == wrongWay {
		return text.New("convert.wrong-way", "from", units(it.From), "to", units(it.To), "factor", it.factor())
	}
	return text.New("convert.cut")
}

// units names a unit in words, as several of it.
func units(u length.Unit) text.Text { return text.New("unit.whole." + string(u)) }
