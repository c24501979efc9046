package kinds

import (
	"encoding/json"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// set asks to move the scale until it measures a size, or shows a value.
type set struct{}

func (set) Name() string     { return "set" }
func (set) Title() text.Text { return text.New("set.title") }

// fieldPosition is the one field: how far the scale was moved from where it stood.
const fieldPosition = "position"

// backlash is a right position of a screw that was brought down to it, not up.
const backlash exercise.Code = "backlash"

func (set) Slips() []exercise.Slip {
	return []exercise.Slip{{Code: backlash}}
}

// The targets of setting.
const (
	targetSize  = "size"
	targetShown = "indicated"
)

// Settings of a block.
func (set) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "target", Title: text.New("set.settings.title"), Input: exercise.OneOf, Default: targetSize,
			Why: text.New("set.settings.why"),
			Choices: []exercise.Choice{{Value: targetSize, Words: text.New("set.settings.words")},
				{Value: targetShown, Words: text.New("set.settings.reading-shown")}}},
		zeroSetting, scaleSetting, awkwardSetting, halvesSetting,
		{Name: "below", Title: text.New("set.settings.screw-set-from-below"), Input: exercise.YesNo,
			Why: text.New("set.settings.turned-its-value-never")},
	}
}

// Check refuses a block that cannot be dealt.
func (k set) Check(b exercise.Block) error {
	var bad refusal.Refusal
	checkShares(b, k.Settings(), &bad)
	return bad.Err()
}

// Deal makes a card whose start lies at least three main divisions away, of a display 100 steps.
func (k set) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := taken(b, d, of)
	if err != nil {
		return nil, err
	}
	low, high := in.Lowest(), length.Number{}
	_, high = in.Range()
	outside := func(y length.Number) bool { return y.Less(low) || high.Less(y) }
	y, err := best(d, in, nil, func(y length.Number) (int, []exercise.Prediction, error) {
		if outside(y) {
			return 1, nil, nil
		}
		return 0, nil, nil
	})
	if err != nil {
		return nil, err
	}
	if outside(y) { // a scale of a few marks: about its middle
		steps, _ := high.Sub(low).Quo(in.LeastCount()).Floor().Int64()
		y = low.Add(in.LeastCount().MulInt(int(steps) / 2))
	}
	away := in.Spec().Main.Division.MulInt(3)
	if in.Traits().Digits {
		away = in.LeastCount().MulInt(100)
	}
	start := value(d, in)
	for range 50 {
		if away.Cmp(start.Sub(y).Abs()) <= 0 {
			break
		}
		start = value(d, in)
	}
	if start.Sub(y).Abs().Less(away) { // a short scale: as far as it goes
		from, to := in.Range()
		if start = from; to.Sub(y).Cmp(y.Sub(from)) > 0 {
			start = to
		}
	}
	it := &Set{Instrument: in, Start: start, Method: b.Method, Marks: b.Marks,
		Below: b.Setting(of, "below") == "yes" && in.Traits().HasThimble}
	if b.Setting(of, "target") == targetShown {
		it.Indicated = &y
	} else {
		x := y.Sub(in.Spec().ZeroError)
		it.Size = &x
	}
	return it, nil
}

// Decode reads a body.
func (set) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Set{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	switch {
	case it.Instrument == nil:
		return nil, refusal.New("instrument", "set.decode")
	case it.Size == nil && it.Indicated == nil:
		return nil, refusal.New("size", "set.value-indicated-missing")
	}
	return it, nil
}

// Set is a card that asks to set an instrument.
type Set struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Size       *length.Number         `json:"size,omitempty"`      // to be measured, or else
	Indicated  *length.Number         `json:"indicated,omitempty"` // to be shown
	Start      length.Number          `json:"start"`               // the indicated value where it stands at first
	Tolerance  *length.Number         `json:"tolerance,omitempty"` // in least counts; ½ when left out
	Below      bool                   `json:"below,omitempty"`     // to be set from below
	Ask        []string               `json:"ask,omitempty"`
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Set) Kind() string { return set{}.Name() }

// wanted is the indicated value that is right, the value that the card names, and the step that it is of.
func (it *Set) wanted() (y, named length.Number, step string) {
	if it.Indicated != nil {
		return *it.Indicated, *it.Indicated, slips.Observed
	}
	return it.Size.Add(it.Instrument.Spec().ZeroError), *it.Size, slips.Corrected
}

func (it *Set) place() slips.Place { return slips.Place{Instrument: it.Instrument, Method: it.Method} }

// tenth returns the length of one move, a tenth of a least count.
func (it *Set) tenth() length.Number { return it.Instrument.LeastCount().Mul(length.Frac(1, 10)) }

// Check refuses what cannot be set.
func (it *Set) Check() error {
	var bad refusal.Refusal
	if err := bad.Take("instrument", it.Instrument.Check()); err != nil {
		return err
	}
	y, _, _ := it.wanted()
	from, to := it.Instrument.Lowest(), length.Number{}
	_, to = it.Instrument.Range()
	if y.Less(from) || to.Less(y) {
		field := "size"
		if it.Indicated != nil {
			field = "indicated"
		}
		bad.Add(field, "set.check", "from", from, "to", to)
	}
	if it.Start.Less(from) || to.Less(it.Start) {
		bad.Add("start", "set.from", "from", from, "to", to, "start", it.Start)
	}
	if t := it.Tolerance; t != nil && (t.Sign() < 0 || length.Int(100).Less(*t)) {
		bad.Add("tolerance", "set.from-0-100-least", "t", t)
	}
	if it.Below && !it.Instrument.Traits().HasThimble {
		bad.Add("below", "set.only-screw-set-from")
	}
	return bad.Err()
}

// Fields is the position.
func (it *Set) Fields() []exercise.Field {
	return []exercise.Field{{Name: fieldPosition, Term: text.New("set.position"), Label: text.New("set.position"),
		Input: exercise.Position, Form: exercise.Form{Places: -1}, Figure: figureOpen, Grain: length.Int(1)}}
}

// Figures is the instrument where it starts, to be moved.
func (it *Set) Figures() []exercise.Figure {
	return []exercise.Figure{{Name: figureOpen, Instrument: it.Instrument, At: it.Start,
		Caption: text.New("set.figures.caption"), Moves: true}}
}

// sizeAs says as what the task names a size: an angle, how far a part differs, or a size.
func (it *Set) sizeAs() string {
	switch in := it.Instrument; {
	case in.Unit().Angular():
		return "angle"
	case in.Traits().Signed && in.Spec().Fine.Anticlockwise: // whose readings run against what it measures
		return "corrected"
	case in.Traits().Signed:
		return "deviation"
	}
	return "size"
}

// Facts stand beside the figure.
func (it *Set) Facts() exercise.Facts {
	_, named, _ := it.wanted()
	f := exercise.Facts{About: about(it.Instrument), Task: text.New("set.task-shown", "value", it.withUnit(named))}
	if it.Size != nil {
		f.Task = text.New("set.task-"+it.sizeAs(), "value", it.withUnit(named))
		f.Given = []text.Text{closedFact(it.Instrument)}
	}
	if it.Below {
		f.Convention = text.New("set.from-below")
	}
	return f
}

// withUnit is a value as the instrument shows it, with its unit.
func (it *Set) withUnit(x length.Number) text.Math {
	return text.Math(it.Instrument.Unit().With(it.Instrument.Format(x)))
}

// Lines is the position alone.
func (it *Set) Lines() []exercise.Line { return []exercise.Line{lineOf(box(fieldPosition))} }

// stand is a target: the figure moved to within a tolerance of a position, from below where that is asked.
type stand struct {
	moves, by length.Number
	below     bool
}

func (t stand) Meets(e *exercise.Entry) (length.Number, bool) {
	return e.Value, e.Value.Sub(t.moves).Abs().Cmp(t.by) <= 0
}
func (t stand) Value() length.Number { return t.moves }
func (t stand) Text() string         { return t.moves.String() }

// Faults of form: a screw that came from above.
func (t stand) Faults(e *exercise.Entry) []exercise.FormFault {
	if t.below && e.Downwards {
		return []exercise.FormFault{exercise.FromAbove}
	}
	return nil
}

// Mark marks where the figure was brought. A wrong position is named by reading it backwards: what slip
// would somebody make here, who then takes it for the value that was wanted?
func (it *Set) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	y, named, step := it.wanted()
	by := length.Frac(1, 2)
	if it.Tolerance != nil {
		by = *it.Tolerance
	}
	want := stand{y.Sub(it.Start).Quo(it.tenth()), by.MulInt(10), it.Below}
	w := exercise.NewWorking(fields, entries, it.Marks)
	m := w.Judge(fieldPosition, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		stands, err := it.Instrument.ReadBy(it.stands(e), it.Method.Between)
		if err != nil || stands.Observed.Equal(y) {
			return []exercise.Code{}
		}
		return it.place().Misplaced(step, stands.Observed, named)
	})
	if m.Outcome == exercise.InForm {
		m.Slips = []exercise.Code{backlash}
	}
	return w.Result(), nil
}

// stands is the indicated value where an entry has brought the figure.
func (it *Set) stands(e *exercise.Entry) length.Number { return it.Start.Add(e.Value.Mul(it.tenth())) }

// Predictions are the moves to each position that a slip takes for the value: for coverage, near the right
// one.
func (it *Set) Predictions() ([]exercise.Prediction, error) {
	y, named, step := it.wanted()
	solutions, err := it.place().Solutions(y, nil)
	if err != nil {
		return nil, err
	}
	var out []exercise.Prediction
	for _, p := range solutions[0].Predictions(step) {
		// Where the slip's difference is the same at both places, it is made good by standing as far on the
		// other side; where it is not, no position near gives it.
		at := y.Add(y).Sub(p.Value)
		if step == slips.Corrected {
			at = y.Add(named).Sub(p.Value)
		}
		for _, code := range it.place().Misplaced(step, at, named) {
			if code == p.Code {
				out = append(out, exercise.Prediction{Field: fieldPosition, Code: code,
					Value: at.Sub(it.Start).Quo(it.tenth())})
			}
		}
	}
	return out, nil
}

// Hints lead from what must be shown to how it is found.
func (it *Set) Hints() ([]exercise.Hint, error) {
	y, named, _ := it.wanted()
	solutions, err := it.place().Solutions(y, nil)
	if err != nil {
		return nil, err
	}
	in, v := it.Instrument, solutions[0].View("", length.Number{})
	first := text.New("set.work-out-first")
	if it.Size != nil && in.Spec().ZeroError.Sign() != 0 {
		first = text.New("set.add-zero-error")
	}
	where := text.Run(text.New("set.bring-main-scale", "mark", v.MarkText()), v.Where())
	if in.Traits().Digits {
		where = text.New("set.move-display")
	}
	work := worked(it.work(v, named))
	if in.HasFine() {
		work = text.Run(work, text.New("set.line-must-count", "line",
			text.Math(v.Text(slips.FineLine, v.Shown.LineNumber()))))
	}
	return []exercise.Hint{{Text: first}, {Text: where}, {Text: work, Worked: true}}, nil
}

// work returns the reading that it must show, with its working.
func (it *Set) work(v slips.View, named length.Number) []exercise.Equation {
	in := it.Instrument
	var out []exercise.Equation
	if e := in.Spec().ZeroError; it.Size != nil && e.Sign() != 0 {
		out = append(out, exercise.Sum(in.Format(named)+" + "+exercise.Bracket(in.Format(e)),
			string(it.withUnit(named.Add(e)))))
	}
	if eq, adds := v.Sum(); adds {
		out = append(out, eq)
	}
	if out == nil {
		out = []exercise.Equation{{Left: text.New("set.shows"), Right: text.Numbers(it.withUnit(v.Shown.Observed))}}
	}
	return out
}

// Explain puts an answer in words, and points at what is read where the figure stands.
func (it *Set) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	y, named, _ := it.wanted()
	solutions, err := it.place().Solutions(y, nil)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Work: it.work(solutions[0].View("", length.Number{}), named)}
	write := func(x length.Number) text.Math {
		return text.Math(it.Instrument.Unit().With(it.Instrument.FormatBy(x, it.Method.Between)))
	}
	m := r.Fields[0]
	stands := text.New("card.nothing")
	if at, err := it.place().Solutions(it.Start.Add(m.Value.Mul(it.tenth())), nil); err == nil {
		stands = text.Numbers(write(at[0].Observed))
		e.Shown = []exercise.Pointing{at[0].View("", length.Number{}).Pointing(figureOpen)}
	}
	task := text.New("set.must-show", "value", write(y))
	if it.Size != nil {
		task = text.New("set.must-show-for", "size", write(named), "value", write(y))
	}
	story{fields: it.Fields(), result: r, right: text.Run(text.New("set.right", "shows", stands), task),
		wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
			says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
				return text.New("set.reads-to", "value", write(named), "slip", c.Name())
			})
			if says == nil {
				says = []text.Text{text.New("set.read-again")}
			}
			return text.Run(text.New("set.it-shows", "shows", stands), task), says
		}}.tell(&e)
	if m.Outcome == exercise.InForm {
		e.Headline = text.New("set.way-wrong")
	}
	if m.Outcome == exercise.Missing {
		e.Headline, e.Body = text.Run(text.New("set.not-moved", "shows", write(it.Start)), task), nil
	}
	return e, nil
}
