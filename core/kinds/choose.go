package kinds

import (
	"encoding/json"
	"fmt"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// choose asks which of several readings is right. The wrong ones are what known slips would give.
type choose struct{}

func (choose) Name() string           { return "choose" }
func (choose) Title() text.Text       { return text.New("choose.title") }
func (choose) Slips() []exercise.Slip { return nil }

const (
	fieldChoice = "choice"
	optionNone  = "none" // none of these
)

// Settings of a block.
func (choose) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "ask", Title: text.New("choose.settings.title"), Input: exercise.OneOf, Default: slips.Observed,
			Choices: []exercise.Choice{{Value: slips.Observed, Words: text.New("choose.settings.words")},
				{Value: slips.Corrected, Words: text.New("choose.settings.corrected-reading")}}},
		{Name: "options", Title: text.New("choose.settings.options"), Input: exercise.Number, Default: "4",
			Why: text.New("choose.settings.why")},
		{Name: "none", Title: text.New("choose.settings.none-these-right"), Input: exercise.Number, Default: "0",
			Why: text.New("choose.settings.0-not-offered")},
		zeroSetting, scaleSetting, displaySetting, awkwardSetting, betweenSetting, halvesSetting,
	}
}

// Check refuses a block that cannot be dealt.
func (k choose) Check(b exercise.Block) error {
	var bad refusal.Refusal
	of := k.Settings()
	checkShares(b, of, &bad)
	if n := b.Int(of, "options"); n < 3 || n > 6 {
		bad.Add("options", "choose.check")
	}
	if n := b.Int(of, "none"); n < 0 || n > 100 {
		bad.Add("none", "choose.whole-number-per-cent")
	}
	if b.Setting(of, "ask") == slips.Corrected && b.Setting(of, "zero") == zeroNone {
		bad.Add("ask", "choose.without-zero-errors-there")
	}
	return bad.Err()
}

// Deal makes a card whose wrong options are single slips at its value.
func (k choose) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := taken(b, d, of)
	if err != nil {
		return nil, err
	}
	it := &Choice{Instrument: in, Ask: []string{b.Setting(of, "ask")}, Method: b.Method, Marks: b.Marks}
	count := b.Int(of, "options")
	it.Indicated, err = best(d, in, &b.Method, func(y length.Number) (int, []exercise.Prediction, error) {
		it.Indicated = y
		wrong, err := it.wrong(d)
		return max(0, count-1-len(wrong)), nil, err // as many real slips as can be
	})
	if err != nil {
		return nil, err
	}
	rights, err := it.rights()
	if err != nil {
		return nil, err
	}
	wrong, err := it.wrong(d)
	if err != nil {
		return nil, err
	}
	for step := 2; len(wrong) < count && step < 200; step++ { // nobody's slip, but near
		for _, by := range []int{step, -step} {
			if x := rights[0].Add(in.LeastCount().MulInt(by)); it.offers(x, rights, wrong) {
				wrong = append(wrong, x)
			}
		}
	}
	none := b.Int(of, "none")
	noneRight := none > 0 && d.Below(100) < none
	values := append([]length.Number{rights[0]}, wrong...)
	if noneRight {
		values = wrong
	}
	last := count
	if none > 0 {
		last--
	}
	for _, x := range values[:min(last, len(values))] {
		it.Options = append(it.Options, it.text(x))
	}
	exercise.Shuffle(d, it.Options)
	if none > 0 {
		it.Options = append(it.Options, optionNone)
	}
	return it, nil
}

// Decode reads a body.
func (choose) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Choice{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	switch {
	case it.Instrument == nil:
		return nil, refusal.New("instrument", "choose.decode")
	case len(it.Ask) != 1:
		return nil, refusal.New("ask", "choose.name-one-value-asked")
	case len(it.Options) < 2:
		return nil, refusal.New("options", "choose.two-more")
	}
	return it, nil
}

// Choice is a card that offers several readings.
type Choice struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Indicated  length.Number          `json:"indicated"`
	Ask        []string               `json:"ask"`     // the one value that is asked for: observed or corrected
	Options    []string               `json:"options"` // texts; "none" for none of these
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Choice) Kind() string { return choose{}.Name() }

func (it *Choice) place() slips.Place {
	return slips.Place{Instrument: it.Instrument, Method: it.Method}
}

func (it *Choice) text(x length.Number) string { return it.place().Text(it.Ask[0], x) }

// rights are the right values: two on a tie that either settles.
func (it *Choice) rights() ([]length.Number, error) {
	solutions, err := it.place().Solutions(it.Indicated, nil)
	var out []length.Number
	for _, s := range solutions {
		out = append(out, s.Step(it.Ask[0]))
	}
	return out, err
}

// wrong lists the values of single slips that may be offered by a dealer, in table order.
func (it *Choice) wrong(d *exercise.Dealer) ([]length.Number, error) {
	solutions, err := it.place().Solutions(it.Indicated, nil)
	if err != nil {
		return nil, err
	}
	rights, err := it.rights()
	if err != nil {
		return nil, err
	}
	var out []length.Number
	for _, p := range d.Known(solutions[0].Predictions(it.Ask[0])) {
		if it.offers(p.Value, rights, out) {
			out = append(out, p.Value)
		}
	}
	return out, nil
}

// read reads an option: as documents write lengths, or an angle.
func (it *Choice) read(option string) (length.Number, error) {
	if !it.Instrument.Unit().Angular() {
		return length.Parse(option)
	}
	t, err := length.ReadAngle(option)
	return t.Value, err
}

// offers reports whether a wrong value may be an option: unlike the others, inside the scale's range, not
// negative unless the right one is, and written with the instrument's decimals.
func (it *Choice) offers(x length.Number, rights, others []length.Number) bool {
	is := func(y length.Number) bool { return y.Equal(x) }
	from, to := it.Instrument.Range()
	text, err := it.read(it.place().Text(slips.Observed, x))
	p, finite := x.Decimals()
	places, decimal := it.Instrument.Decimals()
	if it.place().Tenths() {
		places++
	}
	return err == nil && text.Equal(x) && (!decimal || finite && p <= places) &&
		!slices.ContainsFunc(rights, is) && !slices.ContainsFunc(others, is) &&
		from.Cmp(x) <= 0 && x.Cmp(to) <= 0 && (x.Sign() >= 0 || rights[0].Sign() < 0)
}

// Check refuses what cannot be asked.
func (it *Choice) Check() error {
	if err := it.Instrument.Check(); err != nil {
		return refusal.Within("instrument", err)
	}
	rights, err := it.rights()
	if err != nil {
		return refusal.Because("indicated", err)
	}
	right := slices.Contains(it.Options, optionNone)
	for i, o := range it.Options {
		if o == optionNone {
			continue
		}
		x, err := it.read(o)
		if err != nil {
			return refusal.Because(fmt.Sprintf("options.%d", i), err)
		}
		right = right || slices.ContainsFunc(rights, x.Equal)
	}
	if !right {
		return refusal.New("options", "choose.hold-right-value-none", "text", text.Math(it.text(rights[0])))
	}
	return nil
}

// Fields is the choice.
func (it *Choice) Fields() []exercise.Field {
	return []exercise.Field{{Name: fieldChoice, Term: text.Word(it.place().Term(it.Ask[0])),
		Label: text.ShortWord(it.place().Term(it.Ask[0])), Input: exercise.Options, Unit: it.Instrument.Unit(),
		Part:    it.Instrument.PartBy(it.Method.Between),
		Options: it.Options, Form: exercise.Form{Places: -1},
		Figure: figureOpen}}
}

// Lines is the choice alone.
func (it *Choice) Lines() []exercise.Line { return []exercise.Line{lineOf(box(fieldChoice))} }

// Figures is the instrument on the work.
func (it *Choice) Figures() []exercise.Figure {
	return []exercise.Figure{{Name: figureOpen, Instrument: it.Instrument, At: it.Indicated,
		Caption: text.New("read.figures.caption")}}
}

// Facts stand beside the figure.
func (it *Choice) Facts() exercise.Facts {
	f := exercise.Facts{About: about(it.Instrument), Task: text.New("choose.which", "term", it.place().Term(it.Ask[0]))}
	if it.Ask[0] == slips.Corrected {
		f.Given = []text.Text{closedFact(it.Instrument)}
	}
	if says := it.place().Convention(nil, false); len(says) > 0 && !it.Method.UnitRequired() {
		f.Convention = says[0]
	}
	return f
}

// Mark marks which option was taken.
func (it *Choice) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	rights, err := it.rights()
	if err != nil {
		return exercise.Result{}, err
	}
	var right []string
	for _, o := range it.Options {
		if x, err := it.read(o); err == nil && slices.ContainsFunc(rights, x.Equal) {
			right = append(right, o)
		}
	}
	if right == nil {
		right = []string{optionNone}
	}
	want := exercise.Option{Written: right[0], Also: right[1:]}
	w := exercise.NewWorking(fields, entries, it.Marks)
	w.Judge(fieldChoice, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		x, err := it.read(e.Choice)
		if err != nil { // none of these
			return []exercise.Code{}
		}
		return it.place().Names(it.Ask[0], it.Indicated, x)
	})
	return w.Result(), nil
}

// Predictions are the slips behind the options.
func (it *Choice) Predictions() ([]exercise.Prediction, error) {
	var out []exercise.Prediction
	for _, o := range it.Options {
		x, err := it.read(o)
		if err != nil {
			continue
		}
		for _, code := range it.place().Names(it.Ask[0], it.Indicated, x) {
			p := exercise.Prediction{Field: fieldChoice, Code: code, Value: x}
			if slips.IsWhole(code) {
				p.Part = exercise.Anywhere
			}
			out = append(out, p)
		}
	}
	return out, nil
}

// look is the reading as it is looked at again.
func (it *Choice) look() (slips.View, error) {
	solutions, err := it.place().Solutions(it.Indicated, nil)
	if err != nil {
		return slips.View{}, err
	}
	return solutions[0].View(it.Ask[0], length.Number{}), nil
}

// work is the arithmetic of the right value.
func (it *Choice) work(v slips.View) []exercise.Equation {
	var out []exercise.Equation
	if eq, adds := v.Sum(); adds {
		out = append(out, eq)
	}
	if it.Ask[0] == slips.Corrected {
		out = append(out, v.Correcting())
	}
	if out == nil {
		out = []exercise.Equation{{Left: text.New("card.reads"), Right: numbers(it.withUnit(v.Shown.Observed))}}
	}
	return out
}

// withUnit is a value as an option has it, with the unit.
func (it *Choice) withUnit(x length.Number) string {
	return it.Instrument.Unit().With(it.text(x))
}

// Hints lead from where to look over which mark counts to the whole working.
func (it *Choice) Hints() ([]exercise.Hint, error) {
	v, err := it.look()
	if err != nil {
		return nil, err
	}
	all := v.Pointing(figureOpen)
	mark := all
	mark.Line, mark.LineText, mark.FinerLine, mark.Look = -1, text.Text{}, nil, -1
	hints := []exercise.Hint{{Text: text.Run(v.Where(), v.FindLine())}, {Text: v.MarkStands()},
		{Text: worked(it.work(v)), Worked: true}}
	if it.Instrument.HasFine() {
		hints[1].Shown, hints[2].Shown = []exercise.Pointing{mark}, []exercise.Pointing{all}
	}
	return hints, nil
}

// Explain puts an answer in words.
func (it *Choice) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	v, err := it.look()
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Work: it.work(v), Shown: []exercise.Pointing{v.Pointing(figureOpen)}}
	read := v.Shown.Observed
	if it.Ask[0] == slips.Corrected {
		read = v.Shown.Corrected
	}
	right := text.Math(it.withUnit(read))
	m := r.Fields[0]
	term := it.place().Term(it.Ask[0])
	s := story{fields: it.Fields(), result: r, right: text.New("choose.right", "term", term, "value", right)}
	s.wrong = func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		says := wording.Account(m.Slips, v.Advice)
		if says == nil {
			says = []text.Text{v.Stands()}
		}
		if m.Given == optionNone {
			return text.New("choose.one-is-right", "term", term, "value", right), says
		}
		return text.New("choose.wrong", "given", text.Math(it.Instrument.Unit().With(m.Given)), "term", term,
			"value", right), says
	}
	s.tell(&e)
	if m.Expected == optionNone && m.Outcome == exercise.Right {
		e.Headline = text.New("choose.none-is-right", "value", right)
	}
	return e, nil
}
