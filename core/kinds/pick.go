package kinds

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// pick asks which of several instruments serves a job.
type pick struct{}

func (pick) Name() string     { return "pick" }
func (pick) Title() text.Text { return text.New("pick.title") }

// Why an instrument does not serve, in the order in which that is named.
const (
	cannotReach     exercise.Code = "cannot-reach"
	outOfRange      exercise.Code = "out-of-range"
	tooCoarse       exercise.Code = "too-coarse"
	finerThanNeeded exercise.Code = "finer-than-needed"
)

func (pick) Slips() []exercise.Slip {
	return []exercise.Slip{{Code: cannotReach},
		{Code: outOfRange},
		{Code: tooCoarse},
		{Code: finerThanNeeded}}
}

// bestAny and bestPlainest say which of several that serve are right.
const (
	bestAny      = "any"
	bestPlainest = "plainest" // the coarsest of them
	mostPicked   = 8
	usualRatio   = 10
)

// Settings of a block.
func (pick) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "best", Title: text.New("pick.settings.title"), Input: exercise.OneOf, Default: bestAny,
			Choices: []exercise.Choice{{Value: bestAny, Words: text.New("pick.settings.words")},
				{Value: bestPlainest, Words: text.New("pick.settings.plainest-serves")}}},
		{Name: "ratio", Title: text.New("pick.settings.tolerance-over-least-count"), Input: exercise.OneOf,
			Default: "10", Choices: []exercise.Choice{{Value: "10", Words: text.New("pick.settings.10-more")},
				{Value: "5", Words: text.New("pick.settings.5-more")},
				{Value: "4", Words: text.New("pick.settings.4-more")}},
			Why: text.New("pick.settings.why")},
	}
}

// feature names what is to be measured.
func (it *Picking) feature() text.Text { return text.New("feature." + string(it.Feature)) }

// Check refuses a block that leaves nothing to choose.
func (k pick) Check(b exercise.Block) error {
	if n := len(b.Instruments); n < 3 || n > mostPicked {
		return refusal.New("instruments", "pick.check", "most_picked", mostPicked)
	}
	if mixed(b.Instruments) {
		return refusal.New("instruments", "pick.mixed")
	}
	if len(k.able(b)) == 0 {
		return refusal.New("instruments",
			"pick.choose-least-one-measures", "x", 2*b.Int(k.Settings(), "ratio"))
	}
	return nil
}

// mixed reports whether some instruments measure angles, and others lengths.
func mixed(all []*instrument.Instrument) bool {
	return slices.ContainsFunc(all, func(in *instrument.Instrument) bool {
		return in.Unit().Angular() != all[0].Unit().Angular()
	})
}

// able are the instruments that a job can be made for.
func (k pick) able(b exercise.Block) []*instrument.Instrument {
	var out []*instrument.Instrument
	for _, in := range b.Instruments {
		from, to := k.room(in)
		if len(in.Definition().Measures) > 0 && in.LeastCount().MulInt(2*b.Int(k.Settings(),
			"ratio")).Cmp(to.Sub(from)) <= 0 {
			out = append(out, in)
		}
	}
	return out
}

// Deal draws a job that one of the instruments serves, if it can be not all of them, and of another size each time.
func (k pick) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	able := k.able(b)
	var kept *Picking
	least := 0 // what the kept one costs
	for try := range 8 * tries {
		in := able[d.Below(len(able))]
		features := in.Definition().Measures
		it := &Picking{Unit: in.Unit(), Feature: features[d.Below(len(features))], Ratio: b.Int(of, "ratio"),
			Best: b.Setting(of, "best"), Method: b.Method, Marks: b.Marks}
		for _, x := range b.Instruments { // the job is about true sizes
			plain, err := x.WithZeroError(length.Number{})
			if err != nil {
				return nil, err
			}
			it.Instruments = append(it.Instruments, plain)
		}
		it.Tolerance = in.LeastCount().MulInt(it.Ratio * (1 + d.Below(2)))
		from, to := k.room(in)
		steps, _ := to.Sub(from).Quo(in.LeastCount()).Floor().Int64()
		it.Size = from.Add(in.LeastCount().MulInt(int(steps) / 10 * (1 + d.Below(8))))
		if try == 0 { // in the middle of the range, which serves whatever else does
			it.Tolerance, it.Size = in.LeastCount().MulInt(it.Ratio), from.Add(to).Mul(halfCount)
		}
		right := len(it.rights())
		cost := 0
		if right == len(it.Instruments) { // nothing to choose
			cost++
		}
		if d.Had(in, it.Size) {
			cost += 2
		}
		if right > 0 && (kept == nil || cost < least) {
			if kept, least = it, cost; cost == 0 {
				break
			}
		}
	}
	for _, in := range able {
		d.Deals(in, kept.Size)
	}
	exercise.Shuffle(d, kept.Instruments)
	return kept, nil
}

// room is the range of an instrument in true sizes.
func (pick) room(in *instrument.Instrument) (from, to length.Number) {
	s := in.Spec()
	return s.Base.Add(s.Main.From), s.Base.Add(s.Main.To)
}

// Decode reads a body.
func (pick) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Picking{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	if len(it.Instruments) == 0 {
		return nil, refusal.New("instruments", "pick.decode")
	}
	if slices.Contains(it.Instruments, nil) {
		return nil, refusal.New("instruments", "pick.hold-empty-one")
	}
	return it, nil
}

// Picking is a card of a job and several instruments.
type Picking struct {
	Unit        length.Unit              `json:"unit"`
	Feature     string                   `json:"feature"`
	Size        length.Number            `json:"size"`
	Tolerance   length.Number            `json:"tolerance"`       // the size may be off by so much, either way
	Ratio       int                      `json:"ratio,omitempty"` // least counts in the tolerance; 10 if left out
	Best        string                   `json:"best,omitempty"`  // any if left out, or plainest
	Instruments []*instrument.Instrument `json:"instruments"`
	Ask         []string                 `json:"ask,omitempty"`
	Method      exercise.Method          `json:"method,omitzero"`
	Marks       map[string]int           `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Picking) Kind() string { return pick{}.Name() }

// Check refuses a job that no instrument serves.
func (it *Picking) Check() error {
	if it.Tolerance.Sign() <= 0 {
		return refusal.New("tolerance", "pick.more-than-0")
	}
	for i, in := range it.Instruments {
		if err := in.Check(); err != nil {
			return refusal.Within(fmt.Sprintf("instruments.%d", i), err)
		}
	}
	if mixed(it.Instruments) || it.Unit.Angular() != it.Instruments[0].Unit().Angular() {
		return refusal.New("instruments", "pick.mixed")
	}
	if len(it.rights()) == 0 {
		return refusal.New("instruments", "pick.hold-none-serves-job")
	}
	return nil
}

// finest is the greatest least count that the tolerance allows.
func (it *Picking) finest() length.Number {
	ratio := it.Ratio
	if ratio == 0 {
		ratio = usualRatio
	}
	return it.Tolerance.Quo(length.Int(int64(ratio)))
}

// whyNot are the reasons why an instrument does not serve, the first first.
func (it *Picking) whyNot(in *instrument.Instrument) []exercise.Code {
	out := []exercise.Code{}
	own := func(x length.Number) length.Number { return length.Convert(x, it.Unit, in.Unit()) }
	if !in.Definition().MadeFor(it.Feature) {
		out = append(out, cannotReach)
	}
	from, to := pick{}.room(in)
	if own(it.Size.Sub(it.Tolerance)).Less(from) || to.Less(own(it.Size.Add(it.Tolerance))) {
		out = append(out, outOfRange)
	}
	if own(it.finest()).Less(in.LeastCount()) {
		out = append(out, tooCoarse)
	}
	return out
}

// rights are the numbers, from 1, of the instruments that are right.
func (it *Picking) rights() []string {
	var serve []int
	var coarsest length.Number
	for i, in := range it.Instruments {
		if len(it.whyNot(in)) > 0 {
			continue
		}
		c := length.Convert(in.LeastCount(), in.Unit(), it.Unit)
		if serve = append(serve, i); coarsest.Less(c) {
			coarsest = c
		}
	}
	var out []string
	for _, i := range serve {
		in := it.Instruments[i]
		if it.Best != bestPlainest || length.Convert(in.LeastCount(), in.Unit(), it.Unit).Equal(coarsest) {
			out = append(out, strconv.Itoa(i+1))
		}
	}
	return out
}

// named is an instrument as it stands to be chosen.
func (it *Picking) named(i int) text.Text {
	in := it.Instruments[i]
	from, to := pick{}.room(in)
	with := in.Unit().With
	return text.New("pick.named", "number", i+1, "name", in.Name(), "from", text.Math(in.FormatMain(from)), "to",
		text.Math(with(in.FormatMain(to))), "least_count", text.Math(with(in.FormatMain(in.LeastCount()))))
}

// Fields is the choice.
func (it *Picking) Fields() []exercise.Field {
	f := exercise.Field{Name: fieldChoice, Term: text.New("pick.instrument"), Label: text.New("pick.instrument"),
		Worded: true, Input: exercise.Options, Form: exercise.Form{Places: -1}}
	for i := range it.Instruments {
		f.Options, f.Words = append(f.Options, strconv.Itoa(i+1)), append(f.Words, it.named(i))
	}
	return []exercise.Field{f}
}

// size is the job's size with its tolerance.
func (it *Picking) size() text.Math {
	if it.Unit.Angular() {
		return text.Math(it.write(it.Size) + " ± " + it.write(it.Tolerance))
	}
	return text.Math(fmt.Sprintf("%s ± %s %s", it.Size, it.Tolerance, it.Unit))
}

// write writes a size with its unit, an angle in degrees and minutes.
func (it *Picking) write(x length.Number) string {
	if it.Unit.Angular() {
		return length.DMS(x, length.Minutes)
	}
	return it.Unit.With(x.String())
}

func (it *Picking) finestText() text.Math { return text.Math(it.write(it.finest())) }

// Facts stand at the head of the card.
func (it *Picking) Facts() exercise.Facts {
	f := exercise.Facts{About: []text.Text{text.Numbers(it.size()), it.feature()}, Task: text.New("pick.which")}
	if it.Best == bestPlainest {
		f.Task = text.New("pick.which-simplest")
	}
	f.Convention = text.New("pick.finest", "finest", it.finestText())
	return f
}

// Lines is the choice alone.
func (it *Picking) Lines() []exercise.Line { return []exercise.Line{lineOf(box(fieldChoice))} }

// Figures are the instruments, closed, to be flipped through.
func (it *Picking) Figures() []exercise.Figure {
	var out []exercise.Figure
	for i, in := range it.Instruments {
		out = append(out, exercise.Figure{Name: "i." + strconv.Itoa(i+1), Instrument: in, At: in.Closed(),
			Caption: numbers(strconv.Itoa(i + 1)), Plain: true})
	}
	return out
}

// Mark marks an answer.
func (it *Picking) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	want := exercise.Option{Written: "1"}
	if rights := it.rights(); len(rights) > 0 {
		want = exercise.Option{Written: rights[0], Also: rights[1:]}
	}
	w.Judge(fieldChoice, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		n, _ := strconv.Atoi(e.Choice)
		if why := it.whyNot(it.Instruments[n-1]); len(why) > 0 {
			return why
		}
		return []exercise.Code{finerThanNeeded}
	})
	return w.Result(), nil
}

// Predictions are none: a choice holds no value.
func (it *Picking) Predictions() ([]exercise.Prediction, error) { return nil, nil }

// Hints lead from the place over the range to the least count.
func (it *Picking) Hints() ([]exercise.Hint, error) {
	return []exercise.Hint{{Text: text.New("pick.hint-place", "feature", it.feature())},
		{Text: text.New("pick.hint-range", "size", it.size())},
		{Text: text.New("pick.hint-fine", "finest", it.finestText())}}, nil
}

// Explain puts an answer in words.
func (it *Picking) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	m := r.Fields[0]
	right, _ := strconv.Atoi(m.Expected)
	best := it.Instruments[right-1].Name()
	e := exercise.Explanation{Work: []exercise.Equation{
		exercise.Sum(it.write(it.Tolerance)+" ÷ "+it.Tolerance.Quo(it.finest()).String(), it.write(it.finest())),
		{Left: text.New("pick.serves", "name", best)}}}
	if m.Outcome != exercise.Missing {
		e.Figure = "i." + m.Given
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		n, _ := strconv.Atoi(m.Given)
		in := it.Instruments[n-1]
		var says []text.Text // every reason is one
		for _, c := range wording.Wordings.Named(m.Slips) {
			advice := it.advice(c, in)
			if own := wording.Wordings[c].Advice; own != "" {
				advice = text.Typed(own)
			}
			says = append(says, text.Run(advice, text.Typed(wording.Wordings[c].Note)))
		}
		return text.New("pick.wrong", "name", in.Name(), "right", best), says
	}, right: text.New("pick.right")}.tell(&e)
	return e, nil
}

// advice says why an instrument does not serve.
func (it *Picking) advice(c exercise.Code, in *instrument.Instrument) text.Text {
	from, to := pick{}.room(in)
	switch c {
	case cannotReach:
		return text.New("pick.not-made-for", "feature", it.feature())
	case outOfRange:
		return text.New("pick.not-in-range", "from", text.Math(in.FormatMain(from)), "to",
			text.Math(in.Unit().With(in.FormatMain(to))), "size", it.size())
	case tooCoarse:
		steps := in.Unit().With(in.FormatMain(in.LeastCount()))
		if in.Unit() != it.Unit {
			steps += fmt.Sprintf(" (%s %s)", length.Convert(in.LeastCount(), in.Unit(), it.Unit).Round(4), it.Unit)
		}
		return text.New("pick.too-coarse", "steps", text.Math(steps), "finest", it.finestText())
	}
	return text.New("pick.finer-than-needed")
}
