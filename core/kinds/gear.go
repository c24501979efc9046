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

// gear asks for the thickness of a gear tooth: the addendum, the upright scale set to it, the level scale read.
type gear struct{}

func (gear) Name() string     { return "gear" }
func (gear) Title() text.Text { return text.New("gear.title") }

// The slips of the addendum and of setting it, in the order in which they are named; those of reading come after.
const (
	notHalved     exercise.Code = "not-halved"
	fromOutside   exercise.Code = "from-outside"
	offsetLeftOut exercise.Code = "offset-left-out"
)

func (gear) Slips() []exercise.Slip {
	out := []exercise.Slip{}
	for _, code := range []exercise.Code{notHalved, fromOutside, offsetLeftOut} {
		out = append(out, exercise.Slip{Code: code})
	}
	return append(out, slips.All()...)
}

const (
	fieldAddendum = "addendum"
	fieldUpright  = "upright"
)

// gearFields are the fields in the order of the work.
var gearFields = []string{fieldAddendum, fieldUpright, slips.Main, slips.FineLine, slips.Observed}

// Settings of a block.
func (gear) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "ask", Title: text.New("gear.settings.title"), Input: exercise.AnyOf,
			Default: "addendum upright main fine_line observed",
			Choices: []exercise.Choice{{Value: fieldAddendum, Words: text.New("gear.addendum")},
				{Value: fieldUpright, Words: text.New("gear.settings.words")},
				{Value: slips.Main, Words: text.Word("main reading")},
				{Value: slips.FineLine, Words: text.Word("line")},
				{Value: slips.Observed, Words: text.Word("observed reading")}}}}
}

// Check refuses a block of other instruments.
func (k gear) Check(b exercise.Block) error {
	for _, in := range b.Instruments {
		if !in.Definition().Paired {
			return refusal.New("instruments", "gear.check", "in", in.Name())
		}
	}
	if len(listOf(b, k.Settings(), "ask")) == 0 {
		return refusal.New("ask", "gear.choose-least-one-step")
	}
	return nil
}

// Deal draws a gear whose tooth both scales can take.
func (k gear) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	in := next(b, d)
	upright, _ := in.Second()
	c, spec := upright.LeastCount(), upright.Spec()
	from, to := upright.Range()
	// The addendum is a tenth to three tenths of what the upright scale can be set to.
	room := to.Sub(from)
	steps, _ := room.Quo(c).Floor().Int64()
	up := from.Sub(spec.ZeroError).Add(c.MulInt(int(steps)/10 + d.Below(max(1, int(steps)/5))))
	teeth := 12 + d.Below(29)
	pitch := up.MulInt(teeth) // a module as large as the addendum
	it := &GearTooth{Instrument: in, Outside: pitch.Add(up).Add(up), Pitch: pitch, Method: b.Method, Marks: b.Marks}
	for _, name := range gearFields {
		if slices.Contains(listOf(b, k.Settings(), "ask"), name) {
			it.Ask = append(it.Ask, name)
		}
	}
	err := it.tooth(d, up)
	away := spec.Main.Division.MulInt(3 + d.Below(4))
	it.Start = it.target(up).Add(away)
	if to.Less(it.Start) || from.Cmp(it.target(up).Sub(away)) <= 0 && d.Below(2) == 0 {
		it.Start = it.target(up).Sub(away)
	}
	if it.Start.Less(from) || to.Less(it.Start) { // a short scale: as far as it goes
		it.Start = to
	}
	return it, err
}

// tooth draws a thickness: about one and a half times the addendum, as real teeth have it, where the level scale
// takes that.
func (it *GearTooth) tooth(d *exercise.Dealer, up length.Number) error {
	in := it.Instrument
	c := in.LeastCount()
	low, high := in.Range()
	thick := in.Closed().Add(up.Mul(length.Frac(3, 2)).Quo(c).Floor().Mul(c))
	for range tries {
		y := thick.Add(c.MulInt(d.Below(2 * in.Lines())))
		if it.Indicated = y; !d.Had(in, y) && low.Cmp(y) <= 0 && y.Cmp(high) <= 0 {
			d.Deals(in, y)
			return nil
		}
	}
	var err error
	it.Indicated, err = best(d, in, nil, plain)
	return err
}

// Decode reads a body.
func (gear) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &GearTooth{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	if it.Instrument == nil {
		return nil, refusal.New("instrument", "gear.decode")
	}
	if upright, _ := it.Instrument.Second(); upright == nil {
		return nil, refusal.New("instrument", "gear.upright-scale")
	}
	if it.Ask == nil {
		it.Ask = slices.Clone(gearFields)
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return slices.Index(gearFields, a) - slices.Index(gearFields, b) })
	return it, nil
}

// GearTooth is a card of a gear-tooth vernier.
type GearTooth struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Outside    length.Number          `json:"outside"` // diameter
	Pitch      length.Number          `json:"pitch"`   // diameter
	// the indicated value at which the upright scale stands at first
	Start     length.Number   `json:"start"`
	Indicated length.Number   `json:"indicated"` // by the level scale
	Ask       []string        `json:"ask,omitempty"`
	Method    exercise.Method `json:"method,omitzero"`
	Marks     map[string]int  `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *GearTooth) Kind() string { return gear{}.Name() }

func (it *GearTooth) upright() *instrument.Instrument {
	upright, _ := it.Instrument.Second()
	return upright
}

// addendum returns the value to which the upright scale must be set.
func (it *GearTooth) addendum() length.Number { return it.Outside.Sub(it.Pitch).Mul(halfCount) }

// target returns the reading of the upright scale for an addendum, with its zero error.
func (it *GearTooth) target(addendum length.Number) length.Number {
	return addendum.Add(it.upright().Spec().ZeroError)
}

// tenth returns the length of one move, a tenth of a least count.
func (it *GearTooth) tenth() length.Number { return it.upright().LeastCount().Mul(length.Frac(1, 10)) }

// reading is the level scale alone.
func (it *GearTooth) reading() *Reading {
	r := &Reading{Instrument: it.Instrument, Indicated: &it.Indicated, Method: it.Method, Marks: it.Marks}
	for _, s := range it.Ask {
		if s != fieldAddendum && s != fieldUpright {
			r.Ask = append(r.Ask, s)
		}
	}
	return r
}

// Check refuses what cannot be set or read.
func (it *GearTooth) Check() error {
	var bad refusal.Refusal
	if !it.Instrument.Definition().Paired {
		bad.Add("instrument", "gear.gear-tooth-vernier")
	}
	if it.Outside.Cmp(it.Pitch) <= 0 {
		bad.Add("outside", "gear.more-than-pitch-diameter")
	}
	from, to := it.upright().Range()
	if y := it.target(it.addendum()); y.Less(from) || to.Less(y) {
		bad.Add("outside", "gear.gives-addendum-which-upright", "addendum", it.addendum(), "from", from, "to", to)
	}
	if it.Start.Less(from) || to.Less(it.Start) {
		bad.Add("start", "gear.from", "from", from, "to", to, "start", it.Start)
	}
	for _, s := range it.Ask {
		if !slices.Contains(gearFields, s) {
			bad.Add("ask", "gear.no-field-card", "s", s)
		}
	}
	if bad != nil {
		return bad
	}
	return it.reading().Check()
}

// Fields are those that are asked.
func (it *GearTooth) Fields() []exercise.Field {
	p := slips.Place{Instrument: it.upright(), Method: it.Method}
	var out []exercise.Field
	if slices.Contains(it.Ask, fieldAddendum) {
		f := p.Field(slips.Observed)
		f.Name, f.Term, f.Label = fieldAddendum, text.New("gear.addendum"), text.New("gear.addendum")
		out = append(out, f)
	}
	if slices.Contains(it.Ask, fieldUpright) {
		out = append(out, exercise.Field{Name: fieldUpright, Term: text.New("gear.fields.term"),
			Label: text.New("gear.fields.label"), Input: exercise.Position, Form: exercise.Form{Places: -1},
			Figure: figureOpen, Grain: length.Int(1)})
	}
	return append(out, it.reading().Fields()...)
}

// Facts stand beside the figure.
func (it *GearTooth) Facts() exercise.Facts {
	upright, unit := it.upright(), it.Instrument.Unit()
	f := exercise.Facts{About: []text.Text{text.Typed(it.Instrument.Name()), it.Instrument.Describe()},
		Task: text.New("gear.task"),
		Given: []text.Text{text.New("gear.given", "outside", text.Math(upright.Format(it.Outside)), "pitch",
			text.Math(upright.Format(it.Pitch)), "unit", unit)}}
	if e := upright.Spec().ZeroError; e.Sign() != 0 {
		f.Given = append(f.Given, text.New("gear.upright-closed", "shows", text.Math(upright.Format(e)), "unit", unit))
	}
	return f
}

// Lines are the addendum, the setting, and the reading.
func (it *GearTooth) Lines() []exercise.Line {
	var out []exercise.Line
	if slices.Contains(it.Ask, fieldAddendum) {
		out = append(out, lineOf(box(fieldAddendum)))
	}
	if slices.Contains(it.Ask, fieldUpright) {
		out = append(out, lineOf(box(fieldUpright)))
	}
	if r := it.reading(); len(r.Ask) > 0 {
		out = append(out, r.Lines()...)
	}
	return out
}

// Figures is the pair, its upright scale to be moved where that is asked, and set rightly where it is not.
func (it *GearTooth) Figures() []exercise.Figure {
	at := it.target(it.addendum())
	f := exercise.Figure{Name: figureOpen, Instrument: it.Instrument, At: it.Indicated,
		Caption: text.New("gear.figures.caption"), Upright: &at}
	if slices.Contains(it.Ask, fieldUpright) {
		f.Upright, f.Moves = &it.Start, true
	}
	return []exercise.Figure{f}
}

// Mark marks an answer.
func (it *GearTooth) Mark(a exercise.Answer) (exercise.Result, error) {
	result, _, err := it.mark(a)
	return result, err
}

func (it *GearTooth) mark(a exercise.Answer) (exercise.Result, *slips.Solution, error) {
	return it.reading().mark(a, it.Fields(), func(w *exercise.Working, _ *slips.Solution, steps func()) {
		up := it.upright()
		p := slips.Place{Instrument: up, Method: it.Method}
		exact := func(x length.Number) exercise.Target {
			return exercise.Exactly{Is: x, Written: up.Format(x), Near: up.LeastCount().Mul(halfCount)}
		}
		want := exact(it.addendum())
		w.Judge(fieldAddendum, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
			return causes{
				{notHalved, exact(it.Outside.Sub(it.Pitch))}, {fromOutside, exact(it.Outside.Mul(halfCount))},
			}.named(e)
		})
		moves := func(addendum length.Number) exercise.Target {
			return stand{moves: it.target(addendum).Sub(it.Start).Quo(it.tenth()), by: length.Int(5)}
		}
		var follows exercise.Target
		if w.Can(fieldAddendum) {
			follows = moves(w.Value(fieldAddendum))
		}
		missed := func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
			return it.misset(p, w.Value(fieldAddendum), it.Start.Add(e.Value.Mul(it.tenth())))
		}
		w.Judge(fieldUpright, moves(it.addendum()), follows, missed)
		steps()
	})
}

// misset names why the upright scale was set to y for an addendum.
func (it *GearTooth) misset(p slips.Place, addendum, y length.Number) []exercise.Code {
	found := []exercise.Code{}
	stands, err := p.Instrument.ReadBy(y, it.Method.Between)
	if err != nil {
		return found
	}
	base := p.Instrument.Spec().Base
	if right, err := p.Instrument.Read(it.target(addendum)); err != nil || right.Observed.Equal(stands.Observed) {
		return found
	} else if base.Sign() != 0 && stands.Observed.Equal(right.Observed.Add(base)) {
		found = append(found, offsetLeftOut)
	}
	return append(found, p.Misplaced(slips.Corrected, stands.Observed, addendum)...)
}

// Predictions are those of the level scale and of the addendum.
func (it *GearTooth) Predictions() ([]exercise.Prediction, error) {
	out, err := it.reading().Predictions()
	if err == nil && slices.Contains(it.Ask, fieldAddendum) {
		out = append([]exercise.Prediction{{Field: fieldAddendum, Code: notHalved, Value: it.Outside.Sub(it.Pitch)},
			{Field: fieldAddendum, Code: fromOutside, Value: it.Outside.Mul(halfCount)}}, out...)
	}
	return out, err
}

// work is the arithmetic.
func (it *GearTooth) work(v slips.View) []exercise.Equation {
	up, unit := it.upright(), " "+string(it.Instrument.Unit())
	out := []exercise.Equation{exercise.Sum(fmt.Sprintf("(%s − %s) ÷ 2", up.Format(it.Outside), up.Format(it.Pitch)),
		up.Format(it.addendum())+unit)}
	if e := up.Spec().ZeroError; e.Sign() != 0 {
		out = append(out, exercise.Equation{
			Left: text.New("gear.upright-sum", "sum",
				text.Math(up.Format(it.addendum())+" + "+exercise.Bracket(up.Format(e)))),
			Right: numbers(up.Format(it.target(it.addendum())) + unit)})
	}
	return append(out, it.reading().work(v)...)
}

// Hints lead from the addendum over the upright scale to the level one.
func (it *GearTooth) Hints() ([]exercise.Hint, error) {
	hints, err := it.reading().Hints()
	if err != nil {
		return nil, err
	}
	return append([]exercise.Hint{{Text: text.Run(text.New("gear.rule"), text.New("gear.set-it"))}}, hints...), nil
}

// Explain puts an answer in words.
func (it *GearTooth) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	result, s, err := it.mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	r, up := it.reading(), it.upright()
	target := text.Math(up.Format(it.target(it.addendum())) + " " + string(it.Instrument.Unit()))
	e := exercise.Explanation{Work: it.work(s.View("", length.Number{}))}
	story{fields: it.Fields(), result: result, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		switch f.Name {
		case fieldAddendum:
			says := wording.Account(m.Slips, func(exercise.Code) text.Text { return text.New("gear.rule") })
			if says == nil {
				says = []text.Text{text.New("gear.rule")}
			}
			return wrote(f, m), says
		case fieldUpright:
			says := wording.Account(m.Slips, func(c exercise.Code) text.Text {
				return text.New("gear.probably", "slip", c.Name())
			})
			if says == nil {
				says = []text.Text{text.New("gear.read-again")}
			}
			return text.New("gear.upright-shows", "shows", it.shows(it.Start.Add(m.Value.Mul(it.tenth()))), "target",
				target), says
		}
		return r.explain(s.View(f.Name, m.Value), f, m, wording)
	}}.tell(&e)
	if m := result.Field(fieldUpright); m != nil && m.Outcome == exercise.Right && e.Field == "" && len(r.Ask) == 0 {
		e.Headline = text.New("gear.right", "target", target)
	}
	r.point(&e, s, result)
	return e, nil
}

// shows returns the reading of the upright scale at a position.
func (it *GearTooth) shows(y length.Number) text.Text {
	r, err := it.upright().Read(y)
	if err != nil {
		return text.New("card.nothing")
	}
	return numbers(it.upright().Format(r.Observed) + " " + string(it.Instrument.Unit()))
}
