package kinds

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/words"
)

// pick asks which of several instruments serves a job.
type pick struct{}

func (pick) Name() string  { return "pick" }
func (pick) Title() string { return "Pick the instrument" }

// Why an instrument does not serve, in the order in which that is named.
const (
	cannotReach     exercise.Code = "cannot-reach"
	outOfRange      exercise.Code = "out-of-range"
	tooCoarse       exercise.Code = "too-coarse"
	finerThanNeeded exercise.Code = "finer-than-needed"
)

func (pick) Slips() []exercise.Slip {
	return []exercise.Slip{{Code: cannotReach, Did: "took an instrument that is not made for such a place"},
		{Code: outOfRange, Did: "took an instrument whose range does not hold the size"},
		{Code: tooCoarse, Did: "took an instrument that is too coarse for the tolerance"},
		{Code: finerThanNeeded, Did: "took a finer instrument than the job needs"}}
}

// featureWords are the features in a sentence.
var featureWords = map[instrument.Feature]string{instrument.Outside: "an outside size", instrument.Inside: "the width of a hole or slot",
	instrument.Depth: "a depth", instrument.Step: "the height of a step", instrument.Wire: "the thickness of a wire",
	instrument.Sheet: "the thickness of a sheet", instrument.ToothThickness: "the thickness of a gear tooth"}

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
		{Name: "best", Title: "Right is", Input: exercise.OneOf, Default: bestAny,
			Choices: []exercise.Choice{{Value: bestAny, Words: "any that serves"},
				{Value: bestPlainest, Words: "the plainest that serves"}}},
		{Name: "ratio", Title: "Tolerance over {least count}", Input: exercise.OneOf, Default: "10",
			Choices: []exercise.Choice{{Value: "10", Words: "10 or more"}, {Value: "5", Words: "5 or more"},
				{Value: "4", Words: "4 or more"}},
			Why: "How many {least count}s must go into the tolerance."},
	}
}

// Check refuses a block that leaves nothing to choose.
func (k pick) Check(b exercise.Block) error {
	if n := len(b.Instruments); n < 3 || n > mostPicked {
		return refusal.New("instruments", "choose from 3 to %d, of different families or least counts", mostPicked)
	}
	if len(k.able(b)) == 0 {
		return refusal.New("instruments",
			"choose at least one that measures work, with a range of %d {least count}s or more",
			2*b.Int(k.Settings(), "ratio"))
	}
	return nil
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
		return nil, refusal.New("instruments", "are missing")
	}
	if slices.Contains(it.Instruments, nil) {
		return nil, refusal.New("instruments", "hold an empty one")
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
		return refusal.New("tolerance", "must be more than 0")
	}
	for i, in := range it.Instruments {
		if err := in.Check(); err != nil {
			return refusal.Within(fmt.Sprintf("instruments.%d", i), err)
		}
	}
	if len(it.rights()) == 0 {
		return refusal.New("instruments", "hold none that serves the job")
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
func (it *Picking) named(i int) string {
	in := it.Instruments[i]
	from, to := pick{}.room(in)
	return fmt.Sprintf("%d · %s, %s to %s %s, reads %s %s", i+1, words.Typed(in.Name()), in.FormatMain(from), in.FormatMain(to),
		in.Unit(),
		in.FormatMain(in.LeastCount()), in.Unit())
}

// Fields is the choice.
func (it *Picking) Fields() []exercise.Field {
	f := exercise.Field{Name: fieldChoice, Term: "instrument", Label: "instrument", Input: exercise.Options,
		Form: exercise.Form{Places: -1}}
	for i := range it.Instruments {
		f.Options, f.Words = append(f.Options, strconv.Itoa(i+1)), append(f.Words, it.named(i))
	}
	return []exercise.Field{f}
}

// size is the job's size with its tolerance.
func (it *Picking) size() string {
	return fmt.Sprintf("%s ± %s %s", it.Size, it.Tolerance, it.Unit)
}

// Facts stand at the head of the card.
func (it *Picking) Facts() exercise.Facts {
	f := exercise.Facts{About: []string{it.size(), featureWords[it.Feature]}, Task: "Which of them serves?"}
	if it.Best == bestPlainest {
		f.Task = "Which is the plainest that serves?"
	}
	f.School = fmt.Sprintf("the {least count} may be at most %s %s", it.finest(), it.Unit)
	return f
}

// Lines is the choice alone.
func (it *Picking) Lines() []exercise.Line { return []exercise.Line{lineOf(box(fieldChoice))} }

// Figures are the instruments, closed, to be flipped through.
func (it *Picking) Figures() []exercise.Figure {
	var out []exercise.Figure
	for i, in := range it.Instruments {
		out = append(out, exercise.Figure{Name: "i." + strconv.Itoa(i+1), Instrument: in, At: in.Closed(),
			Caption: strconv.Itoa(i + 1), Plain: true})
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
	return []exercise.Hint{{Text: "First the place: which of them is made for " + featureWords[it.Feature] + "?"},
		{Text: fmt.Sprintf("Then the range: it must hold %s.", it.size())},
		{Text: fmt.Sprintf("Then how fine: {a least count} of %s %s or less.", it.finest(), it.Unit)}}, nil
}

// Explain puts an answer in words.
func (it *Picking) Explain(a exercise.Answer, voice exercise.Voice) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	m := r.Fields[0]
	right, _ := strconv.Atoi(m.Expected)
	e := exercise.Explanation{Work: []exercise.Equation{
		{Left: fmt.Sprintf("%s ÷ %s", it.Tolerance, it.Tolerance.Quo(it.finest())), Right: it.finest().String() +
			" " + string(it.Unit)},
		{Left: "serves", Right: words.Typed(it.Instruments[right-1].Name())}}}
	if m.Outcome != exercise.Missing {
		e.Figure = "i." + m.Given
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (string, []string) {
		n, _ := strconv.Atoi(m.Given)
		in := it.Instruments[n-1]
		var says []string // every reason is one
		for _, c := range voice.Wordings.Named(m.Slips) {
			says = append(says, strings.TrimSpace(cmp.Or(voice.Wordings[c].Advice, it.advice(c,
				in))+" "+voice.Wordings[c].Note))
		}
		return fmt.Sprintf("%s does not serve here; %s does.", words.Typed(in.Name()), words.Typed(it.Instruments[right-1].Name())), says
	}, right: "Right: its place, its range and its {least count} serve."}.tell(&e)
	return e, nil
}

// advice says why an instrument does not serve.
func (it *Picking) advice(c exercise.Code, in *instrument.Instrument) string {
	from, to := pick{}.room(in)
	switch c {
	case cannotReach:
		return "It is not made for " + featureWords[it.Feature] + "."
	case outOfRange:
		return fmt.Sprintf("It measures from %s to %s %s; %s is not within that.", in.FormatMain(from),
			in.FormatMain(to), in.Unit(),
			it.size())
	case tooCoarse:
		other := ""
		if in.Unit() != it.Unit {
			other = fmt.Sprintf(" (%s %s)", length.Convert(in.LeastCount(), in.Unit(), it.Unit).Round(4), it.Unit)
		}
		return fmt.Sprintf("It reads in steps of %s %s%s. The tolerance needs steps of %s %s or less.", in.FormatMain(in.LeastCount()),
			in.Unit(), other, it.finest(), it.Unit)
	}
	return "It would serve, but a plainer one is enough: finer instruments are kept for what needs them."
}
