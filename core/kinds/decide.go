package kinds

import (
	"encoding/json"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// decide asks for a reading and then for a verdict by limits.
type decide struct{}

func (decide) Name() string     { return "decide" }
func (decide) Title() text.Text { return text.New("decide.title") }

// Slips of the verdict come after those of reading.
func (decide) Slips() []exercise.Slip {
	out := slips.All()
	for _, code := range verdictSlips {
		out = append(out, exercise.Slip{Code: code, Like: verdictLike[code]})
	}
	return out
}

// The slips of a verdict, in the order in which they are named.
const (
	verdictUncorrected exercise.Code = "verdict-uncorrected"
	limitAsOutside     exercise.Code = "limit-as-outside"
	featureSwapped     exercise.Code = "feature-swapped"
	nominalAsLimit     exercise.Code = "nominal-as-limit"
)

var verdictSlips = []exercise.Code{verdictUncorrected, limitAsOutside, featureSwapped, nominalAsLimit}

// verdictLike are the groups of slips that are alike: of two verdicts the wrong one is the same, whatever led to it.
var verdictLike = map[exercise.Code][]string{verdictUncorrected: {"verdict"}, limitAsOutside: {"verdict"},
	featureSwapped: {"verdict", "swapped"}, nominalAsLimit: {"verdict"}}

const (
	fieldVerdict = "verdict"
	accept       = "accept"
	reject       = "reject"
	rework       = "rework"
	scrap        = "scrap"

	shaft = "shaft"
	hole  = "hole"
)

// Settings of a block.
func (decide) Settings() []exercise.Setting {
	ask := askSetting()
	ask.Default += " " + fieldVerdict
	ask.Choices = append(ask.Choices, exercise.Choice{Value: fieldVerdict, Words: text.New("decide.verdict")})
	return []exercise.Setting{
		ask,
		zeroSetting,
		scaleSetting,
		displaySetting,
		awkwardSetting,
		betweenSetting,
		halvesSetting,
		{Name: "feature", Title: text.New("decide.settings.title"), Input: exercise.OneOf, Default: shaft,
			Choices: []exercise.Choice{{Value: shaft, Words: text.New("decide.shaft")},
				{Value: hole, Words: text.New("decide.hole")}}},
		{Name: "verdicts", Title: text.New("decide.settings.verdicts"), Input: exercise.OneOf, Default: "two",
			Choices: []exercise.Choice{{Value: "two", Words: text.New("decide.settings.words")},
				{Value: "three", Words: text.New("decide.settings.accept-rework-scrap")}}},
		{Name: "width", Title: text.New("decide.settings.tolerance-least-counts"), Input: exercise.Number,
			Default: "20", Why: text.New("decide.settings.why")},
	}
}

// Check refuses a block that cannot be dealt.
func (k decide) Check(b exercise.Block) error {
	var bad refusal.Refusal
	of := k.Settings()
	checkShares(b, of, &bad)
	if !slices.Contains(listOf(b, of, "ask"), fieldVerdict) {
		bad.Add("ask", "decide.check")
	}
	if n := b.Int(of, "width"); n < 8 || n > 200 {
		bad.Add("width", "decide.whole-number-least-counts")
	}
	return bad.Err()
}

// Deal makes a card whose part lies clearly inside, near a limit, exactly on one, or outside; where there is a
// zero error, one card in four would be judged otherwise without it.
func (k decide) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := taken(b, d, of)
	if err != nil {
		return nil, err
	}
	it := &Decision{Instrument: in, Ask: append(askedOf(b, of, in), fieldVerdict), Method: b.Method, Marks: b.Marks,
		Feature: b.Setting(of, "feature"), Verdicts: b.Setting(of, "verdicts")}
	y, err := best(d, in, &b.Method, func(y length.Number) (int, []exercise.Prediction, error) {
		it.Indicated = &y
		it.Limits = DecisionLimits{Lower: y, Upper: y}
		if d.Version() < 3 {
			solutions, err := it.reading().solutions()
			if err != nil {
				return 0, nil, err
			}
			return exercise.Clashes(d.Known(solutions[0].Predictions(slips.Corrected))), nil, nil
		}
		all, err := it.reading().foretold(d)
		return 0, all, err
	})
	if err != nil {
		return nil, err
	}
	it.Indicated = &y
	c, width := in.LeastCount(), b.Int(of, "width")
	r, err := in.ReadBy(y, b.Method.Between)
	if err != nil {
		return nil, err
	}
	below := k.inside(d, r, c, width)
	it.Limits.Lower = r.Corrected.Sub(c.MulInt(below))
	it.Limits.Upper = it.Limits.Lower.Add(c.MulInt(width))
	return it, nil
}

// Where parts lie.
const (
	clear       = iota // well inside
	near               // within 2 least counts of a limit
	uncorrected        // the same, and judged otherwise by the reading that is not corrected
	onLimit
	beyond
)

// verdicts places the parts of twelve cards, begun anywhere: a third well inside, a third near a limit, one in
// six on it, one in four such that the zero error decides.
var verdicts = [...]int{
	uncorrected,
	clear,
	onLimit,
	clear,
	uncorrected,
	beyond,
	clear,
	near,
	onLimit,
	clear,
	uncorrected,
	beyond,
}

// inside returns how many least counts the part lies above its lower limit; less than 0 or more than the width is
// outside.
func (decide) inside(d *exercise.Dealer, r instrument.Reading, c length.Number, width int) int {
	upper := d.Below(2) == 0
	from := func(limit int) int { // so far inside the limit
		if upper {
			return width - limit
		}
		return limit
	}
	e := r.ZeroError
	if d.Version() > 2 {
		switch how := verdicts[(d.Card()+d.Turn())%len(verdicts)]; {
		case how == clear:
			return width/4 + d.Below(width/2+1)
		case how == uncorrected && e.Sign() != 0: // the reading itself lies beyond the limit
			upper = e.Sign() > 0
			if c.Less(e.Abs()) {
				return from(1)
			}
			return from(0)
		case how == near || how == uncorrected:
			return from(1 + d.Below(2) - 3*d.Below(2))
		case how == onLimit:
			if e.Sign() != 0 { // where the reading itself lies inside
				upper = e.Sign() < 0
			}
			return from(0)
		}
		return from(-3 - d.Below(width))
	}
	if e.Sign() != 0 && d.Card()%4 == 3 { // the reading itself lies beyond a limit
		upper = e.Sign() > 0
		return from(0)
	}
	switch d.Card() % 6 {
	case 0, 3:
		return width/4 + d.Below(width/2+1)
	case 1, 4:
		return from(1 + d.Below(2) - 3*d.Below(2))
	case 2:
		return from(0)
	}
	return from(-3 - d.Below(width))
}

// Decode reads a body.
func (decide) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Decision{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	switch {
	case it.Instrument == nil:
		return nil, refusal.New("instrument", "decide.decode")
	case it.Indicated == nil && !it.Closed:
		return nil, refusal.New("indicated", "decide.decode")
	}
	order := append(slices.Clone(slips.Steps), fieldVerdict)
	if it.Ask == nil {
		for _, s := range order {
			if s == fieldVerdict || slips.Can(it.Instrument, s) {
				it.Ask = append(it.Ask, s)
			}
		}
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return slices.Index(order, a) - slices.Index(order, b) })
	return it, nil
}

// Decision is a card that asks for a reading and a verdict.
type Decision struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Indicated  *length.Number         `json:"indicated,omitempty"`
	Closed     bool                   `json:"closed,omitempty"`
	Ask        []string               `json:"ask"` // steps of the reading, and the verdict
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
	Limits     DecisionLimits         `json:"limits"`
	Feature    string                 `json:"feature"`            // shaft or hole
	Verdicts   string                 `json:"verdicts,omitempty"` // two if left out, or three
}

// DecisionLimits are the limits of a part, both inclusive, and its nominal size; where that is not given, it is
// their middle.
type DecisionLimits struct {
	Lower   length.Number  `json:"lower"`
	Upper   length.Number  `json:"upper"`
	Nominal *length.Number `json:"nominal,omitempty"`
}

// Kind names the kind.
func (it *Decision) Kind() string { return decide{}.Name() }

// reading is the card without its verdict. A tie goes to the line less favourable to acceptance, unless the
// school says otherwise.
func (it *Decision) reading() *Reading {
	r := &Reading{Instrument: it.Instrument, Indicated: it.Indicated, Closed: it.Closed, Method: it.Method,
		Marks: it.Marks, Limits: &exercise.Limits{Lower: it.Limits.Lower, Upper: it.Limits.Upper}}
	if r.Method.Tie == "" {
		r.Method.Tie = "unfavourable"
	}
	for _, s := range it.Ask {
		if s != fieldVerdict {
			r.Ask = append(r.Ask, s)
		}
	}
	return r
}

// Check refuses what cannot be asked.
func (it *Decision) Check() error {
	if it.Limits.Upper.Less(it.Limits.Lower) {
		return refusal.New("limits.upper", "decide.not-below-limits-lower")
	}
	if !slices.Contains(it.Ask, fieldVerdict) {
		return refusal.New("ask", "decide.hold-verdict")
	}
	return it.reading().Check()
}

// options are the verdicts that can be given.
func (it *Decision) options() []string {
	if it.Verdicts == "three" {
		return []string{accept, rework, scrap}
	}
	return []string{accept, reject}
}

// verdict returns the decision on a size by its limits: metal can still be taken off a shaft that is too large and a
// hole that is too small.
func (it *Decision) verdict(size length.Number, l DecisionLimits) string {
	low, high := size.Less(l.Lower), l.Upper.Less(size)
	switch {
	case !low && !high:
		return accept
	case it.Verdicts != "three":
		return reject
	case high == (it.Feature == shaft):
		return rework
	}
	return scrap
}

// Fields are the steps that are asked, and the verdict.
func (it *Decision) Fields() []exercise.Field {
	return append(it.reading().Fields(), exercise.Field{Name: fieldVerdict, Term: text.New("decide.verdict"),
		Label: text.New("decide.verdict"), Input: exercise.Options, Options: it.options(),
		Words: options(it.options()...), Form: exercise.Form{Places: -1}, Figure: figureOpen})
}

// limits are the limits as the card prints them.
func (it *Decision) limits() text.Text {
	in := it.Instrument
	return text.New("card.limits", "lower", text.Math(in.Format(it.Limits.Lower)), "upper",
		text.Math(in.Format(it.Limits.Upper)), "unit", in.Unit())
}

// Facts stand beside the figure.
func (it *Decision) Facts() exercise.Facts {
	r := it.reading()
	f := r.Facts()
	if it.Method.Tie == "" { // what a tie takes follows from the limits, which stand there
		f.Convention = text.Steps(r.place().Convention(nil, r.asks(slips.ZeroError))...)
	}
	if !r.asks(slips.ZeroError) && f.Given == nil {
		f.Given = append(f.Given, closedFact(it.Instrument))
	}
	asks := it.Feature
	switch {
	case it.Instrument.Unit().Angular():
		asks = "angle"
	case it.Instrument.Traits().Signed:
		asks = "deviation"
	}
	f.Task = text.New("decide.task-"+asks, "limits", it.limits())
	if it.Instrument.Traits().Indicates && it.hands() != nil {
		f.Given = append(f.Given, text.New("decide.hands"))
	}
	return f
}

// Figures are those of the reading. Tolerance hands stand at the limits where no zero error has to be taken off first.
func (it *Decision) Figures() []exercise.Figure {
	out := it.reading().Figures()
	out[0].Limits = it.hands()
	return out
}

func (it *Decision) hands() *exercise.Limits {
	if it.Instrument.Spec().ZeroError.Sign() != 0 {
		return nil
	}
	return &exercise.Limits{Lower: it.Limits.Lower, Upper: it.Limits.Upper}
}

// Lines are those of the reading, then the verdict.
func (it *Decision) Lines() []exercise.Line {
	r := it.reading()
	var out []exercise.Line
	if len(r.Ask) > 0 {
		out = r.Lines()
	}
	return append(out, lineOf(box(fieldVerdict)))
}

// Mark marks an answer.
func (it *Decision) Mark(a exercise.Answer) (exercise.Result, error) {
	result, _, err := it.mark(a)
	return result, err
}

func (it *Decision) mark(a exercise.Answer) (exercise.Result, *slips.Solution, error) {
	return it.reading().mark(a, it.Fields(), func(w *exercise.Working, s *slips.Solution, steps func()) {
		steps()
		want := exercise.Option{Written: it.verdict(s.Corrected, it.Limits)}
		var follows exercise.Target
		if w.Can(slips.Corrected) {
			follows = exercise.Option{Written: it.verdict(w.Value(slips.Corrected), it.Limits)}
		}
		w.Judge(fieldVerdict, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
			return it.causes(w, s, due.Text(), e.Choice)
		})
	})
}

// causes names what explains a wrong verdict; due is what it should have been.
func (it *Decision) causes(w *exercise.Working, s *slips.Solution, due, given string) []exercise.Code {
	found := []exercise.Code{}
	size := w.Value(slips.Corrected)
	l := it.Limits
	nominal := l.Lower.Add(l.Upper).Mul(halfCount)
	if l.Nominal != nil {
		nominal = *l.Nominal
	}
	c := it.Instrument.LeastCount()
	meets := map[exercise.Code]bool{
		verdictUncorrected: s.ZeroError.Sign() != 0 && it.verdict(w.Value(slips.Observed), l) == given,
		limitAsOutside: size.Equal(l.Lower) && it.verdict(l.Lower.Sub(c), l) == given ||
			size.Equal(l.Upper) && it.verdict(l.Upper.Add(c), l) == given,
		featureSwapped: due == rework && given == scrap || due == scrap && given == rework,
		nominalAsLimit: it.verdict(size, DecisionLimits{Lower: nominal, Upper: nominal}) == given,
	}
	for _, code := range verdictSlips {
		if meets[code] {
			found = append(found, code)
		}
	}
	return found
}

// Predictions are those of the asked steps.
func (it *Decision) Predictions() ([]exercise.Prediction, error) { return it.reading().Predictions() }

// judged is the working of the verdict.
func (it *Decision) judged(size length.Number) (left text.Text, verdict string) {
	in := it.Instrument
	written := in.FormatBy(size, it.Method.Between)
	left = text.New("decide.within", "size", text.Math(written), "limits", it.limits())
	switch {
	case size.Less(it.Limits.Lower):
		left = numbers(written + " < " + in.Format(it.Limits.Lower))
	case it.Limits.Upper.Less(size):
		left = numbers(written + " > " + in.Format(it.Limits.Upper))
	}
	return left, it.verdict(size, it.Limits)
}

// Hints are those of the reading, and what is compared.
func (it *Decision) Hints() ([]exercise.Hint, error) {
	hints, err := it.reading().Hints()
	if err != nil {
		return nil, err
	}
	return slices.Insert(
		hints,
		len(hints)-1,
		exercise.Hint{Text: text.New("decide.compare", "limits", it.limits())},
	), nil
}

// Explain puts an answer in words.
func (it *Decision) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	result, s, err := it.mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	r := it.reading()
	v := s.View("", length.Number{})
	left, verdict := it.judged(s.Corrected)
	e := exercise.Explanation{Work: r.work(v)}
	if !r.asks(slips.Corrected) && s.ZeroError.Sign() != 0 {
		e.Work = append(e.Work, v.Correcting())
	}
	e.Work = append(e.Work, exercise.Equation{Left: text.New("decide.judged", "left", left, "verdict",
		option(verdict))})
	own := s.Corrected
	if m := result.Field(slips.Corrected); m != nil && m.Outcome != exercise.Missing && m.Outcome != exercise.Right {
		own = m.Value
	}
	story{fields: it.Fields(), result: result, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		if f.Name != fieldVerdict {
			return r.explain(s.View(f.Name, m.Value), f, m, wording)
		}
		left, verdict := it.judged(own)
		return text.New("decide.wrong", "given", option(m.Given), "due", option(m.Due())),
			append(wording.Account(m.Slips, func(c exercise.Code) text.Text { return it.advice(c, s) }),
				text.New("decide.because", "left", left, "verdict", option(verdict)))
	}, right: text.New("decide.right", "left", left, "verdict", option(verdict))}.tell(&e)
	r.point(&e, s, result)
	return e, nil
}

// advice says how the verdict is found.
func (it *Decision) advice(c exercise.Code, s *slips.Solution) text.Text {
	in := it.Instrument
	switch c {
	case verdictUncorrected:
		return text.New("decide.uncorrected", "observed", text.Math(in.FormatBy(s.Observed, it.Method.Between)),
			"corrected", text.Math(in.FormatBy(s.Corrected, it.Method.Between)))
	case limitAsOutside:
		return text.New("decide.limits-are-good")
	case featureSwapped:
		if it.Instrument.Unit().Angular() {
			return text.New("decide.is-angle-" + it.Feature)
		}
		return text.New("decide.is-" + it.Feature)
	}
	return text.New("decide.not-nominal")
}
