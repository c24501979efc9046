package kinds

import (
	"slices"
	"strings"
	"sync"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// askSetting asks which steps are to be asked.
func askSetting() exercise.Setting {
	ask := exercise.Setting{Name: "ask", Title: text.New("read.ask-setting.title"), Input: exercise.AnyOf,
		Default: strings.Join([]string{slips.Main, slips.FineLine, slips.Observed, slips.ZeroError, slips.Corrected},
			" ")}
	for _, s := range slips.Steps {
		choice := exercise.Choice{Value: s, Words: text.Word(slips.StepTerm(s))}
		if of, b := strings.CutSuffix(s, slips.PlateB); b {
			choice.Words = text.New("plate.b", "term", text.Word(slips.StepTerm(of)))
		}
		ask.Choices = append(ask.Choices, choice)
	}
	return ask
}

// Settings of a block of readings.
func (read) Settings() []exercise.Setting { return readSettings() }

var readSettings = sync.OnceValue(func() []exercise.Setting {
	return []exercise.Setting{
		shapeSetting,
		askSetting(),
		zeroSetting,
		scaleSetting,
		displaySetting,
		awkwardSetting,
		betweenSetting,
		halvesSetting,
		{Name: "lower", Title: text.New("read.settings.title"), Input: exercise.Number, Unit: true, For: byLimits},
		{Name: "upper", Title: text.New("read.settings.upper-limit"), Input: exercise.Number, Unit: true, For: byLimits,
			Why: text.New("read.settings.why")},
		{Name: "transfer", Title: text.New("read.settings.transfer-gauge-measured"), Input: exercise.YesNo,
			Why: text.New("read.settings.set-hole-locked-micrometer"),
			For: func(in *instrument.Instrument, _ exercise.Method) bool { return takesTransfer(in) }},
	}
})

// The shapes of a card.
const (
	shapeAsked  = "asked"  // as the steps say: a closed figure beside the open one where the zero error is asked
	shapeOpen   = "open"   // on the work alone; the zero error is told
	shapeClosed = "closed" // closed: the zero error is read
	shapeBoth   = "both"   // on the work and closed: the zero error is read and taken away
)

// shapeSetting asks what a card shows.
var shapeSetting = exercise.Setting{Name: "shape", Title: text.New("read.shape-setting.title"), Input: exercise.OneOf,
	Default: shapeAsked, Choices: []exercise.Choice{{Value: shapeAsked, Words: text.New("read.shape-setting.words")},
		{Value: shapeOpen, Words: text.New("read.shape-setting.instrument-work-its-zero")},
		{Value: shapeClosed, Words: text.New("read.shape-setting.closed-instrument-its-zero")},
		{Value: shapeBoth, Words: text.New("read.shape-setting.both-zero-error-read")}}}

// ofShape reports whether a step is asked on a card of a shape.
func ofShape(shape, step string) bool {
	switch shape {
	case shapeOpen:
		return step != slips.ZeroError
	case shapeClosed:
		return step != slips.LeastCount && step != slips.Observed && step != slips.Corrected
	}
	return true
}

// byLimits reports whether a tie is settled by limits.
func byLimits(_ *instrument.Instrument, m exercise.Method) bool { return m.Tie == "unfavourable" }

// takesTransfer reports whether a transfer gauge is measured with an instrument.
func takesTransfer(in *instrument.Instrument) bool { return in.Definition().Transfers }

// Check refuses a block that leaves nothing to ask of one of its instruments.
func (k read) Check(b exercise.Block) error {
	var bad refusal.Refusal
	of := k.Settings()
	checkShares(b, of, &bad)
	limits, err := limitsOf(b, of)
	if err := bad.Take("", err); err != nil {
		return err
	}
	if b.Method.Tie == "unfavourable" && limits == nil && len(bad) == 0 {
		bad.Add("lower", "read.missing-unfavourable-line-needs")
	}
	if shape := b.Setting(of, "shape"); (shape == shapeClosed || shape == shapeBoth) &&
		b.Setting(of, "zero") == zeroNone {
		bad.Add("zero", "read.leave-instruments-zero-error")
	}
	if len(listOf(b, of, "ask")) == 0 {
		bad.Add("ask", "read.choose-least-one-step")
		return bad
	}
	for _, in := range b.Instruments {
		if len(k.asked(b, in)) == 0 {
			bad.Add("ask",
				"read.none-these-steps-can", "in", in.Name())
			break
		}
	}
	return bad.Err()
}

// limitsOf reads the limits of a block; nil where it has none.
func limitsOf(b exercise.Block, of []exercise.Setting) (*exercise.Limits, error) {
	lower, upper := b.Setting(of, "lower"), b.Setting(of, "upper")
	if lower == "" && upper == "" {
		return nil, nil
	}
	var bad refusal.Refusal
	length1 := func(field, typed string) (x length.Number) {
		t, err := length.ReadAny(typed)
		if x = t.Value; err == nil && len(b.Instruments) > 0 {
			x, err = t.In(b.Instruments[0].Unit())
		}
		if err != nil {
			bad.Put(field, text.Says(err))
		}
		return x
	}
	l := exercise.Limits{Lower: length1("lower", lower), Upper: length1("upper", upper)}
	if len(bad) == 0 && l.Upper.Less(l.Lower) {
		bad.Add("upper", "read.limits-of")
	}
	return &l, bad.Err()
}

// asked returns the steps that are asked of an instrument, in the order of the work: those that the block
// asks and the instrument has.
func (k read) asked(b exercise.Block, in *instrument.Instrument) []string {
	of := k.Settings()
	shape, asked := b.Setting(of, "shape"), askedOf(b, of, in)
	var out []string
	for _, step := range slips.Steps {
		must := step == slips.ZeroError && (shape == shapeClosed || shape == shapeBoth)
		if must && b.Setting(of, "zero") != zeroNone ||
			ofShape(shape, step) && slices.Contains(asked, step) {
			out = append(out, step)
		}
	}
	return out
}

// askedOf are the steps that a block asks and an instrument has.
func askedOf(b exercise.Block, of []exercise.Setting, in *instrument.Instrument) []string {
	var out []string
	asked, zero := listOf(b, of, "ask"), b.Setting(of, "zero")
	for _, step := range slips.Steps {
		if zero == zeroNone && (step == slips.ZeroError || step == slips.Corrected) {
			continue
		}
		if slices.Contains(asked, step) && slips.Can(in, step) {
			out = append(out, step)
		}
	}
	return out
}

// Deal makes a card with a good value: away from the ends, and such that different slips give different
// answers, so that a wrong one names its cause.
func (k read) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := taken(b, d, of)
	if err != nil {
		return nil, err
	}
	limits, err := limitsOf(b, of)
	if err != nil {
		return nil, err
	}
	r := &Reading{Instrument: in, Ask: k.asked(b, in), Method: b.Method, Marks: b.Marks, Limits: limits}
	if b.Setting(of, "shape") == shapeClosed {
		r.Closed = true
		return r, nil
	}
	r.Transfer = b.Setting(of, "transfer") == "yes" && takesTransfer(in)
	y, err := best(d, in, &b.Method, func(y length.Number) (int, []exercise.Prediction, error) {
		r.Indicated = &y
		if d.Version() < 3 {
			solutions, err := r.solutions()
			if err != nil {
				return 0, nil, err
			}
			return exercise.Clashes(d.Known(solutions[0].Predictions(r.Ask[len(r.Ask)-1]))), nil, nil
		}
		all, err := r.foretold(d)
		return 0, all, err
	})
	r.Indicated = &y
	if slices.ContainsFunc(r.Ask, isOnB) { // eccentricity is not the same all round
		second, _ := in.Second()
		b := second.Around(in.OnSecond(y).Add(in.LeastCount().MulInt(d.Below(7) - 3)))
		r.IndicatedB = &b
	}
	return r, err
}

// foretold returns the wrong entries by which a dealer rates a card: since version 4 rounded values too, for which many
// a slip of reading can be taken.
func (r *Reading) foretold(d *exercise.Dealer) ([]exercise.Prediction, error) {
	if d.Version() < 4 {
		return r.Predictions()
	}
	return r.misreadings(slips.RoundedOff)
}
