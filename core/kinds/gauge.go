package kinds

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/refusal"
	"cavix/core/text"
)

// gauge asks for the sizes of a GO and a NO-GO gauge, and how parts meet them.
type gauge struct{}

func (gauge) Name() string     { return "gauge" }
func (gauge) Title() text.Text { return text.New("gauge.title") }

// Bare says that its cards show no instrument.
func (gauge) Bare() {}

// The slips of the sizes, in the order in which they are named; the feature's, which predicts the same as the
// first, is the verdict's too.
const (
	gaugesSwapped exercise.Code = "gauges-swapped"
	nominalAsGo   exercise.Code = "nominal-as-go"
)

func (gauge) Slips() []exercise.Slip {
	return []exercise.Slip{{Code: gaugesSwapped, Like: []string{"swapped"}},
		{Code: featureSwapped, Like: verdictLike[featureSwapped]},
		{Code: nominalAsGo}}
}

// The fields of a card: the sizes, then of each part how it meets both gauges and what follows.
const (
	fieldGo   = "go"
	fieldNoGo = "no_go"
	enters    = "enters"
	stops     = "stops"
	maxGauged = 6 // parts
)

// Settings of a block.
func (gauge) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "feature", Title: text.New("gauge.settings.title"), Input: exercise.OneOf, Default: "either",
			Choices: []exercise.Choice{{Value: "either", Words: text.New("gauge.settings.words")}, {Value: shaft,
				Words: text.New("gauge.shafts")},
				{Value: hole, Words: text.New("gauge.holes")}}},
		{Name: "parts", Title: text.New("gauge.settings.parts"), Input: exercise.Number, Default: "3",
			Why: text.New("gauge.settings.why")},
		{Name: "unit", Title: text.New("gauge.settings.unit"), Input: exercise.OneOf, Default: "mm",
			Choices: []exercise.Choice{{Value: "mm", Words: numbers("mm")},
				{Value: "in", Words: text.New("unit.whole.in")}}},
	}
}

// Check refuses a block that cannot be dealt.
func (k gauge) Check(b exercise.Block) error {
	if n := b.Int(k.Settings(), "parts"); n < 1 || n > maxGauged {
		return refusal.New("parts", "gauge.check", "max_gauged", maxGauged)
	}
	return nil
}

// Deal draws limits, and parts inside, on a limit and outside.
func (k gauge) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	it := &Gauging{Unit: length.Unit(b.Setting(of, "unit")), Decimals: 2, Feature: b.Setting(of, "feature"),
		Method: b.Method, Marks: b.Marks}
	if it.Feature == "either" {
		it.Feature = []string{shaft, hole}[d.Below(2)]
	}
	step, nominal := length.Frac(1, 100), length.Int(int64(6+d.Below(50)))
	if it.Unit == length.Inch {
		it.Decimals, step, nominal = 3, length.Frac(1, 1000), length.Frac(int64(4+d.Below(20)), 16)
		nominal = nominal.Round(3)
	}
	width := 3 + d.Below(8)
	below := d.Below(width + 1)
	it.Nominal = &nominal
	it.Lower = nominal.Sub(step.MulInt(below))
	it.Upper = it.Lower.Add(step.MulInt(width))
	cases := []int{1 + d.Below(width-1), 0, width, -1 - d.Below(3), width + 1 + d.Below(3), 1 + d.Below(width-1)}
	exercise.Shuffle(d, cases)
	for _, at := range cases[:b.Int(of, "parts")] {
		it.Parts = append(it.Parts, it.Lower.Add(step.MulInt(at)))
	}
	it.Ask = it.all()
	return it, nil
}

// Decode reads a body.
func (gauge) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Gauging{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	all := it.all()
	if it.Ask == nil {
		it.Ask = all
	}
	for _, name := range it.Ask {
		if !slices.Contains(all, name) {
			return nil, refusal.New("ask", "gauge.decode", "name", name)
		}
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return slices.Index(all, a) - slices.Index(all, b) })
	return it, nil
}

// Gauging is a card of limits, two gauges and parts.
type Gauging struct {
	Unit     length.Unit     `json:"unit"`
	Decimals int             `json:"decimals"`
	Feature  string          `json:"feature"` // shaft or hole
	Lower    length.Number   `json:"lower"`
	Upper    length.Number   `json:"upper"`
	Nominal  *length.Number  `json:"nominal,omitempty"` // the middle of the limits if left out
	Parts    []length.Number `json:"parts"`
	Ask      []string        `json:"ask,omitempty"`
	Method   exercise.Method `json:"method,omitzero"`
	Marks    map[string]int  `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Gauging) Kind() string { return gauge{}.Name() }

// all are the fields in the order of the work.
func (it *Gauging) all() []string {
	out := []string{fieldGo, fieldNoGo}
	for p := range it.Parts {
		out = append(out, partField(fieldGo, p), partField(fieldNoGo, p), partField(fieldVerdict, p))
	}
	return out
}

// partField is the field of a part, counted from 0.
func partField(name string, p int) string { return fmt.Sprintf("%s.%d", name, p+1) }

// Check refuses what cannot be asked.
func (it *Gauging) Check() error {
	switch {
	case it.Upper.Cmp(it.Lower) <= 0:
		return refusal.New("upper", "gauge.above-lower-limit")
	case len(it.Parts) == 0 || len(it.Parts) > 3*maxGauged:
		return refusal.New("parts", "gauge.from-1", "x", 3*maxGauged)
	case len(it.Ask) == 0:
		return refusal.New("ask", "gauge.hold-least-one-field")
	}
	return nil
}

// sizes returns the right sizes of the gauges.
func (it *Gauging) sizes() (goes, not length.Number) {
	l := limits.Limits{Lower: it.Lower, Upper: it.Upper, Hole: it.Feature == hole}
	return l.Go(), l.NoGo()
}

func (it *Gauging) passes(gaugeSize, part length.Number, goes bool) bool {
	return limits.Pass(gaugeSize, part, goes, it.Feature == hole)
}

func (it *Gauging) text(x length.Number) string { return x.Text(it.Decimals) }

// state is met by the word for how a part meets a gauge, or for what follows; its value is 1 for the first word.
type state struct {
	exercise.Option
	is bool
}

func (t state) Value() length.Number {
	if t.is {
		return length.Int(1)
	}
	return length.Number{}
}

func (t state) Meets(e *exercise.Entry) (length.Number, bool) {
	_, ok := t.Option.Meets(e)
	return t.Value(), ok
}

func meeting(is bool) state {
	return state{exercise.Option{Written: map[bool]string{true: enters, false: stops}[is]}, is}
}

func judging(is bool) state {
	return state{exercise.Option{Written: map[bool]string{true: accept, false: reject}[is]}, is}
}

// Fields are those that are asked.
func (it *Gauging) Fields() []exercise.Field {
	out := make([]exercise.Field, len(it.Ask))
	for i, name := range it.Ask {
		out[i] = it.field(name)
	}
	return out
}

func (it *Gauging) field(name string) exercise.Field {
	what, part, of := strings.Cut(name, ".")
	label := text.New("gauge.label-" + what)
	if !of {
		form := exercise.Form{Places: -1, Unit: it.Method.UnitRequired()}
		if it.Method.Strict() {
			form.Places = it.Decimals
		}
		return exercise.Field{Name: name, Term: text.New("gauge.size-of", "gauge", label), Label: label,
			Input: exercise.Length, Unit: it.Unit, Form: form, Grain: length.Pow10(-it.Decimals)}
	}
	f := exercise.Field{Name: name, Term: text.New("gauge.at-part", "gauge", label, "part", text.Math(part)),
		Label: label, Input: exercise.Options, Options: []string{enters, stops}, Form: exercise.Form{Places: -1}}
	if what == fieldVerdict {
		f.Term, f.Options = text.New("gauge.verdict-on", "part", text.Math(part)), []string{accept, reject}
	}
	f.Words = options(f.Options...)
	return f
}

// limitsText are the limits as the card prints them.
func (it *Gauging) limitsText() text.Text {
	return text.New("card.limits", "lower", text.Math(it.text(it.Lower)), "upper", text.Math(it.text(it.Upper)), "unit",
		it.Unit)
}

// withUnit is a size as the card prints it, with its unit.
func (it *Gauging) withUnit(x length.Number) text.Math {
	return text.Math(it.text(x) + " " + string(it.Unit))
}

// Facts stand at the head of the card.
func (it *Gauging) Facts() exercise.Facts {
	f := exercise.Facts{About: []text.Text{text.New("gauge.about-" + it.Feature)},
		Given: []text.Text{text.New("gauge.good", "limits", it.limitsText())},
		Task:  text.New("gauge.task")}
	f.Gauges = &exercise.Gauges{Hole: it.Feature != shaft}
	for _, x := range it.Parts {
		f.Gauges.Parts = append(f.Gauges.Parts, it.withUnit(x))
	}
	if it.Nominal != nil {
		f.About = append(f.About, text.New("gauge.nominal", "size", it.withUnit(*it.Nominal)))
	}
	return f
}

// Figures are none: a gauge shows no number.
func (it *Gauging) Figures() []exercise.Figure { return nil }

// Lines are the sizes, and a row for each part.
func (it *Gauging) Lines() []exercise.Line {
	var out []exercise.Line
	sizes := exercise.Line{Row: true, Head: text.New("gauge.size")}
	for _, name := range it.Ask {
		if name == fieldGo || name == fieldNoGo {
			sizes.Terms = append(sizes.Terms, box(name))
		}
	}
	if sizes.Terms != nil {
		out = append(out, sizes)
	}
	for p, x := range it.Parts {
		row := exercise.Line{Row: true, Head: text.New("gauge.part", "part", p+1, "size", text.Math(it.text(x)))}
		for _, name := range []string{fieldGo, fieldNoGo, fieldVerdict} {
			if slices.Contains(it.Ask, partField(name, p)) {
				row.Terms = append(row.Terms, box(partField(name, p)))
			}
		}
		if row.Terms != nil {
			out = append(out, row)
		}
	}
	return out
}

// causes are the slips of a size.
func (it *Gauging) causes(name string, right, other length.Number) causes {
	exact := func(x length.Number) exercise.Target {
		return exercise.Exactly{Is: x, Written: it.text(x), Near: length.Pow10(-it.Decimals).Mul(halfCount)}
	}
	out := causes{{gaugesSwapped, exact(other)}, {featureSwapped, exact(other)}}
	if name == fieldGo {
		nominal := it.Lower.Add(it.Upper).Mul(halfCount)
		if it.Nominal != nil {
			nominal = *it.Nominal
		}
		if !nominal.Equal(right) {
			out = append(out, cause{nominalAsGo, exact(nominal)})
		}
	}
	return out
}

// Mark marks an answer.
func (it *Gauging) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	goes, not := it.sizes()
	size := func(name string, right, other length.Number) {
		want := exercise.Exactly{Is: right, Written: it.text(right), Near: length.Pow10(-it.Decimals).Mul(halfCount)}
		w.Judge(name, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
			return it.causes(name, right, other).named(e)
		})
	}
	size(fieldGo, goes, not)
	size(fieldNoGo, not, goes)
	for p, x := range it.Parts {
		met := func(name string, right length.Number, goes bool) bool {
			field := partField(name, p)
			return it.judge(w, field, enters, meeting(it.passes(right, x, goes)), meeting(it.passes(w.Value(name), x,
				goes)),
				w.Can(name))
		}
		in, through := met(fieldGo, goes, true), met(fieldNoGo, not, false)
		right := judging(it.passes(goes, x, true) && !it.passes(not, x, false))
		it.judge(w, partField(fieldVerdict, p), accept, right, judging(in && !through),
			w.Can(partField(fieldGo, p), partField(fieldNoGo, p)))
	}
	return w.Result(), nil
}

// judge judges a word, and returns whether later entries take it for the first of its two.
func (it *Gauging) judge(w *exercise.Working, field, first string, want, follows state, can bool) bool {
	var target exercise.Target = follows
	if !can {
		target = nil
	}
	w.Judge(field, want, target, func(exercise.Target, *exercise.Entry) []exercise.Code { return []exercise.Code{} })
	if e := w.Entry(field); e != nil && e.Given {
		w.Restate(field, state{is: e.Choice == first}.Value())
	}
	return w.Value(field).Sign() > 0
}

// Predictions are those of the sizes.
func (it *Gauging) Predictions() ([]exercise.Prediction, error) {
	goes, not := it.sizes()
	var out []exercise.Prediction
	if slices.Contains(it.Ask, fieldGo) {
		out = it.causes(fieldGo, goes, not).predictions(fieldGo)
	}
	if slices.Contains(it.Ask, fieldNoGo) {
		out = append(out, it.causes(fieldNoGo, not, goes).predictions(fieldNoGo)...)
	}
	return out, nil
}

// rule says which limit a gauge is made to.
func (it *Gauging) rule() text.Text { return text.New("gauge.rule-" + it.Feature) }

// Hints lead from the rule to the sizes.
func (it *Gauging) Hints() ([]exercise.Hint, error) {
	goes, not := it.sizes()
	return []exercise.Hint{{Text: it.rule()}, {Text: text.New("gauge.exact-size")},
		{Text: text.New("gauge.sizes", "go", text.Math(it.text(goes)), "no_go", text.Math(it.text(not)), "unit",
			it.Unit)}}, nil
}

// Explain puts an answer in words.
func (it *Gauging) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	goes, not := it.sizes()
	e := exercise.Explanation{Work: []exercise.Equation{{Left: text.New("gauge.label-go"),
		Right: text.Numbers(it.withUnit(goes))}, {Left: text.New("gauge.label-no_go"),
		Right: text.Numbers(it.withUnit(not))}}}
	for p, x := range it.Parts {
		passes, stops := it.passes(goes, x, true), !it.passes(not, x, false)
		says := "gauge.worked-good"
		switch {
		case !passes:
			says = "gauge.worked-go-stops"
		case !stops:
			says = "gauge.worked-no-go-passes"
		}
		e.Work = append(e.Work, exercise.Equation{Left: text.New(says, "part",
			text.New("gauge.part", "part", p+1, "size", text.Math(it.text(x))))})
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		if f.Input == exercise.Length {
			return wrote(f, m), append(wording.Account(m.Slips, it.advice), it.rule())
		}
		says := "gauge.of-same-size"
		if strings.HasPrefix(f.Name, fieldVerdict) {
			says = "gauge.when-good"
		}
		return text.New("gauge.wrong", "given", option(m.Given), "term", f.Term, "due", option(m.Due())),
			[]text.Text{text.New(says)}
	}, right: text.New("gauge.right", "rule", it.rule())}.tell(&e)
	return e, nil
}

func (it *Gauging) advice(c exercise.Code) text.Text {
	if c == nominalAsGo {
		return text.New("gauge.not-nominal")
	}
	return text.New("gauge.swapped")
}
