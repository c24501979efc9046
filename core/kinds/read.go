package kinds

import (
	"encoding/json"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// read asks for the steps of a reading: an instrument at a position, or closed.
type read struct{}

func (read) Name() string           { return "read" }
func (read) Title() text.Text       { return text.New("read.title") }
func (read) Slips() []exercise.Slip { return append(slips.All(), oppositeSlips...) }

// Decode reads a body.
func (read) Decode(body json.RawMessage) (exercise.Item, error) {
	r := &Reading{}
	if err := exercise.DecodeBody(body, r); err != nil {
		return nil, err
	}
	if r.Instrument == nil {
		return nil, refusal.New("instrument", "read.decode")
	}
	if r.Indicated == nil && !r.Closed {
		return nil, refusal.New("indicated", "read.decode")
	}
	slices.SortFunc(r.Ask, func(a, b string) int {
		return slices.Index(slips.Steps, a) - slices.Index(slips.Steps,
			b)
	})
	return r, nil
}

// Reading is a card that asks for steps of a reading.
type Reading struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Indicated  *length.Number         `json:"indicated,omitempty"` // y; nil on a closed card
	// y of a circle's opposite plate; nil where it stands just half a circle on
	IndicatedB *length.Number `json:"indicated_b,omitempty"`
	Closed     bool           `json:"closed,omitempty"` // the instrument is shown closed
	// a transfer gauge, set in a hole and locked, is measured
	Transfer bool             `json:"transfer,omitempty"`
	Ask      []string         `json:"ask"` // in the order of the work
	Method   exercise.Method  `json:"method,omitzero"`
	Marks    map[string]int   `json:"marks,omitempty"` // full marks of a step; 1 where left out
	Limits   *exercise.Limits `json:"limits,omitempty"`
}

// Kind names the kind.
func (r *Reading) Kind() string { return read{}.Name() }

// at is the indicated value that the figure shows.
func (r *Reading) at() length.Number {
	if r.Closed {
		return r.Instrument.Closed()
	}
	return *r.Indicated
}

// atB is the indicated value of the opposite plate.
func (r *Reading) atB() length.Number {
	if r.IndicatedB != nil {
		return *r.IndicatedB
	}
	return r.Instrument.OnSecond(r.at())
}

// placeOf returns where a step is read, on which of a circle's plates, and its name there.
func (r *Reading) placeOf(step string) (slips.Place, string) {
	p := r.place()
	if of, b := strings.CutSuffix(step, slips.PlateB); b {
		p.Instrument, _ = r.Instrument.Second()
		p.Plate = slips.PlateB
		return p, of
	}
	return p, step
}

func (r *Reading) place() slips.Place {
	return slips.Place{Instrument: r.Instrument, Method: r.Method, Closed: r.Closed}
}

func (r *Reading) solutions() ([]*slips.Solution, error) {
	return r.place().Solutions(r.at(), r.Limits)
}

func (r *Reading) asks(step string) bool { return slices.Contains(r.Ask, step) }

// Check refuses what cannot be asked.
func (r *Reading) Check() error {
	if err := r.Instrument.Check(); err != nil {
		return refusal.Within("instrument", err)
	}
	if r.Closed && r.Instrument.Definition().Open {
		return refusal.New("closed", "instrument.never-closed")
	}
	if _, err := r.Instrument.ReadBy(r.at(), r.Method.Between); err != nil {
		return refusal.Because("indicated", err)
	}
	if _, role := r.Instrument.Second(); r.IndicatedB != nil && role != instrument.Opposite {
		return refusal.New("indicated_b", "read.no-opposite-plate")
	}
	for _, s := range r.Ask {
		if !slips.Can(r.Instrument, s) {
			return refusal.New("ask", "read.cannot-asked-no-such", "s", s, "family", r.Instrument.Spec().Family)
		}
	}
	switch {
	case r.Transfer && !takesTransfer(r.Instrument):
		return refusal.New("transfer", "read.needs-outside-micrometer-transfer")
	case r.Method.Tie == "unfavourable" && r.Limits == nil:
		return refusal.New("limits", "read.missing-tie-unfavourable-needs")
	case r.Limits != nil && r.Limits.Upper.Less(r.Limits.Lower):
		return refusal.New("limits.upper", "read.not-below-limits-lower")
	}
	return nil
}

// Fields are the steps that are asked.
func (r *Reading) Fields() []exercise.Field {
	out := make([]exercise.Field, len(r.Ask))
	for i, s := range r.Ask {
		p, step := r.placeOf(s)
		out[i] = p.Field(step)
	}
	return out
}

// Facts stand beside the figure.
func (r *Reading) Facts() exercise.Facts {
	f := exercise.Facts{About: about(r.Instrument),
		Convention: text.Steps(r.place().Convention(r.Limits, r.asks(slips.ZeroError))...)}
	if r.Transfer {
		f.Task = text.New("read.facts")
	}
	if r.asks(slips.Corrected) && !r.asks(slips.ZeroError) {
		f.Given = []text.Text{closedFact(r.Instrument)}
	}
	return f
}

// Names of a reading's figures.
const (
	figureOpen   = "open"
	figureClosed = "closed"
	figureB      = "opposite"
)

// Figures are the instrument on the work, and closed where its zero error is asked.
func (r *Reading) Figures() []exercise.Figure {
	out := []exercise.Figure{{Name: figureOpen, Instrument: r.Instrument, At: r.at(),
		Caption: text.New("read.figures.caption")}}
	if r.asks(slips.ZeroError) && !r.Closed {
		out = append(out, exercise.Figure{Name: figureClosed, Instrument: r.Instrument, At: r.Instrument.Closed(),
			Caption: text.Word("closed")})
	}
	if slices.ContainsFunc(r.Ask, isOnB) {
		second, _ := r.Instrument.Second()
		out[0].Caption = text.New("plate.a-caption")
		out = append(out, exercise.Figure{Name: figureB, Instrument: second, At: r.atB(),
			Caption: text.New("plate.b-caption"), Beside: figureOpen})
	}
	return out
}

// isOnB reports whether a step needs the opposite plate.
func isOnB(step string) bool { return step == slips.Mean || strings.HasSuffix(step, slips.PlateB) }

// Mark marks an answer. Where a card has several right answers, the one that gives the most marks counts.
func (r *Reading) Mark(answer exercise.Answer) (exercise.Result, error) {
	result, _, err := r.mark(answer, r.Fields(), nil)
	return result, err
}

// mark also returns the right answer that the marks were given against. around has the
// steps judged by calling steps, and before and after it what a kind asks besides; it may be nil.
func (r *Reading) mark(answer exercise.Answer, fields []exercise.Field,
	around func(w *exercise.Working, s *slips.Solution, steps func())) (best exercise.Result, against *slips.Solution,
	err error) {
	entries, err := exercise.Read(fields, answer)
	if err != nil {
		return best, against, err
	}
	solutions, err := r.solutions()
	if err != nil {
		return best, against, err
	}
	try := func(s *slips.Solution, based bool) exercise.Result {
		w := exercise.NewWorking(fields, entries, r.Marks)
		steps := func() { r.judge(w, s, based) }
		if around == nil {
			steps()
		} else {
			around(w, s, steps)
		}
		return w.Result()
	}
	best, against = try(solutions[0], false), solutions[0]
	for i, s := range solutions {
		if i > 0 {
			if got := try(s, false); best.Marks.Less(got.Marks) {
				best, against = got, s
			}
		}
		if m := best.Field(slips.Main); m != nil && m.Outcome == exercise.Wrong && r.mayHoldBase(m.Value) {
			if got := try(s, true); best.Marks.Less(got.Marks) {
				best, against = got, s
			}
		}
	}
	return best, against, nil
}

// mayHoldBase reports whether a wrong main reading can have the base in it: it is no slip's without, and what is
// left without the base is on the scale.
func (r *Reading) mayHoldBase(main length.Number) bool {
	spec := r.Instrument.Spec()
	return spec.Base.Sign() != 0 && spec.Main.From.Cmp(main.Sub(spec.Base)) <= 0 &&
		len(r.place().Names(slips.Main, r.at(), main)) == 0
}

// judge judges the steps against one right answer. A main reading that is wrong may hold the base or not: what
// comes after it goes on with the one that is told by based.
func (r *Reading) judge(w *exercise.Working, s *slips.Solution, based bool) {
	c := slips.NewCauses(r.place(), s, w)
	for _, step := range slips.OnePlate {
		if !slips.Can(r.Instrument, step) && step != slips.Main {
			continue
		}
		want := s.Target(step, s.Step(step))
		follows := want
		if x, known, can := r.follows(s, w, step); !can {
			follows = nil
		} else if known && !x.Equal(want.Value()) {
			follows = r.following(step, x)
		}
		m := w.Judge(step, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
			return c.Of(step, due.Value(), e)
		})
		if based && step == slips.Main && m.Outcome == exercise.Wrong {
			w.Restate(step, m.Value.Sub(s.Base))
		}
	}
	if slices.ContainsFunc(r.Ask, isOnB) {
		r.judgeOpposite(w, s)
	}
}

// following returns the right value of a step by the student's own earlier entries. Where that cannot be written with
// the places that the step wants, it is judged without form, and where it has no end, by its rounding.
func (r *Reading) following(step string, x length.Number) exercise.Target {
	x = r.place().Bring(step, x)
	exact := r.place().Exactly(step, x)
	form := r.place().Form(step)
	places, finite := x.Decimals()
	decimals, decimal := r.Instrument.Decimals()
	switch {
	case decimal && !finite:
		return exercise.Loosely{Target: exercise.Rounded{Is: x, Places: decimals, Near: r.place().Near(step)}}
	case form.Places >= 0 && places > form.Places:
		return exercise.Loosely{Target: exact}
	}
	return exact
}

// follows returns what a step comes to by the student's own earlier entries: known where there are such,
// and can where none that it needs was left empty. What the instrument does not have is not needed.
func (r *Reading) follows(s *slips.Solution, w *exercise.Working, step string) (x length.Number, known, can bool) {
	v := w.Value
	fine := v(slips.Fine).Add(v(slips.Finer))
	if !r.Instrument.HasFine() {
		fine = s.Fine // tenths of a division that are estimated have no box of their own
	}
	switch step {
	case slips.Fine:
		x = v(slips.FineLine).Mul(v(slips.LeastCount)).MulInt(r.Instrument.FinerLines())
		if s.FromEnd {
			x = x.Neg()
		}
		return x, true, w.Can(slips.FineLine, slips.LeastCount)
	case slips.Finer:
		return v(slips.FinerLine).Mul(v(slips.LeastCount)), true, w.Can(slips.FinerLine, slips.LeastCount)
	case slips.Observed:
		return s.Base.Add(v(slips.Main)).Add(fine), true, w.Can(slips.Main, slips.Fine, slips.Finer)
	case slips.ZeroError:
		if !r.Closed {
			break
		}
		lowest := r.Instrument.Nearer(r.at().Sub(s.Base).Sub(s.ZeroError))
		x = v(slips.Main).Add(fine).Sub(lowest)
		if r.Method.Correction() {
			x = x.Neg()
		}
		return x, true, w.Can(slips.Main, slips.Fine, slips.Finer)
	case slips.Corrected:
		zero := v(slips.ZeroError)
		if r.Method.Correction() {
			zero = zero.Neg()
		}
		return v(slips.Observed).Sub(zero), true, w.Can(slips.Observed, slips.ZeroError)
	}
	return x, false, true
}

// Predictions are those of every asked step.
func (r *Reading) Predictions() ([]exercise.Prediction, error) {
	return r.foretell((*slips.Solution).Predictions)
}

// Misreadings are the predictions with those of whole values.
func (r *Reading) Misreadings() ([]exercise.Prediction, error) { return r.misreadings() }

// misreadings are the predictions with those of whole values: of all of these slips, or of those named.
func (r *Reading) misreadings(only ...exercise.Code) ([]exercise.Prediction, error) {
	return r.foretell(func(s *slips.Solution, step string) []exercise.Prediction {
		return s.Misreadings(step,
			only...)
	})
}

// foretell collects the wrong entries of every asked step. Slips of reading the zero error show there, where it is
// asked, and no more in the corrected reading.
func (r *Reading) foretell(of func(s *slips.Solution, step string) []exercise.Prediction) ([]exercise.Prediction,
	error) {
	solutions, err := r.solutions()
	if err != nil {
		return nil, err
	}
	asksZero := slices.Contains(r.Ask, slips.ZeroError)
	out := make([]exercise.Prediction, 0, 32*len(r.Ask))
	for _, step := range r.Ask {
		if isOnB(step) {
			out = append(out, r.foretellOpposite(step, of)...)
			continue
		}
		for _, p := range of(solutions[0], step) {
			if step != slips.Corrected || !asksZero || !slips.OnlyUnread(p.Code) {
				out = append(out, p)
			}
		}
	}
	return out, nil
}

// FinalOnly returns a card of reading that asks for its final value alone: the last that it asks for. Cards of other
// kinds stay as they are.
func FinalOnly(it exercise.Item) exercise.Item {
	r, ok := it.(*Reading)
	if !ok || len(r.Ask) < 2 {
		return it
	}
	last := *r
	last.Ask = r.Ask[len(r.Ask)-1:]
	return &last
}

// Hints lead from where to look over which mark counts to the whole working.
func (r *Reading) Hints() ([]exercise.Hint, error) {
	solutions, err := r.solutions()
	if err != nil {
		return nil, err
	}
	v := solutions[0].View("", length.Number{})
	mark := v.MarkStands()
	if r.Instrument.Traits().Digits {
		mark = text.New("read.mind-the-unit")
	}
	hints := []exercise.Hint{{Text: text.Run(v.Where(), v.FindLine())}, {Text: mark},
		{Text: worked(r.work(v)), Worked: true}}
	if r.Instrument.HasFine() {
		all := v.Pointing(figureOpen)
		markOnly := all
		markOnly.Line, markOnly.LineText, markOnly.FinerLine, markOnly.Look = -1, text.Text{}, nil, -1
		hints[1].Shown, hints[2].Shown = []exercise.Pointing{markOnly}, []exercise.Pointing{all}
	}
	return hints, nil
}

// worked writes a working as sentences.
func worked(work []exercise.Equation) text.Text {
	var lines []text.Text
	for _, eq := range work {
		if eq.Right.IsZero() {
			lines = append(lines, text.New("card.worked-line", "line", eq.Left))
			continue
		}
		lines = append(lines, text.New("card.worked", "left", eq.Left, "right", eq.Right))
	}
	return text.Run(lines...)
}

// work is the arithmetic of the card in the class's manner.
func (r *Reading) work(v slips.View) []exercise.Equation {
	var out []exercise.Equation
	if r.asks(slips.LeastCount) {
		out = append(out, v.Counting())
	}
	if eq, adds := v.Sum(); adds {
		out = append(out, eq)
	}
	if r.Closed || r.asks(slips.ZeroError) {
		out = append(out, v.Closing())
	}
	if r.asks(slips.Corrected) {
		out = append(out, v.Correcting())
	}
	if out == nil {
		out = []exercise.Equation{{Left: text.New("card.reads"),
			Right: numbers(r.Instrument.Unit().With(r.Instrument.FormatBy(v.Shown.Observed, r.Method.Between)))}}
	}
	return out
}

// Explain puts an answer in words: what is right so far, the first step that went wrong, how the two
// differ to the eye, and one sentence of advice.
func (r *Reading) Explain(a exercise.Answer, wording exercise.Wording) (exercise.Explanation, error) {
	result, s, err := r.mark(a, r.Fields(), nil)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{Work: r.work(s.View("", length.Number{}))}
	story{fields: r.Fields(), result: result, wrong: func(f exercise.Field, m exercise.Mark) (text.Text, []text.Text) {
		return r.explain(s.View(f.Name, m.Value), f, m, wording)
	}}.tell(&e)
	r.point(&e, s, result)
	return e, nil
}

// point shows on the figures what counts.
func (r *Reading) point(e *exercise.Explanation, s *slips.Solution, result exercise.Result) {
	e.Shown = []exercise.Pointing{r.pointing(s, result, e.Field)}
	if len(r.Figures()) > 1 {
		e.Shown = append(e.Shown, slips.ClosedPointing(r.Instrument, figureClosed))
		if e.Field == slips.ZeroError {
			e.Figure = figureClosed
		}
	}
}

// explain puts the first wrong step in words.
func (r *Reading) explain(v slips.View, f exercise.Field, m exercise.Mark, wording exercise.Wording) (text.Text,
	[]text.Text) {
	headline := wrote(f, m)
	switch f.Name {
	case slips.FineLine:
		headline = text.Run(text.New("story.wrote-it", "given", entered(m)), v.LineStands())
	case slips.FinerLine:
		headline = text.Run(text.New("story.wrote-it", "given", entered(m)),
			text.New("sight.vernier-line-meets", "line", v.Shown.FinerLine))
	case slips.Main:
		headline = text.Run(text.New("story.wrote-it", "given", entered(m)), v.MarkStands())
	}
	body := fromOwn(f, m)
	says := wording.Account(m.Slips, v.Advice)
	if says == nil {
		says = []text.Text{v.Again()}
	}
	return headline, append(body, says...)
}

// pointing flags what counts on the work, and what was taken instead.
func (r *Reading) pointing(s *slips.Solution, result exercise.Result, wrong string) exercise.Pointing {
	in := r.Instrument
	p := s.View("", length.Number{}).Pointing(figureOpen)
	if wrong == slips.Main {
		p.Look = -1
	}
	wrongValue := func(step string) (length.Number, bool) {
		m := result.Field(step)
		if m == nil || m.Outcome != exercise.Wrong {
			return length.Number{}, false
		}
		return m.Value, true
	}
	if v, ok := wrongValue(slips.Main); ok {
		m := in.Spec().Main
		if v.Quo(m.Division).IsInt() && m.From.Cmp(v) <= 0 && v.Cmp(m.To) <= 0 {
			p.TakenMark = &v
		}
	}
	line := func(step string, n int) *int {
		v, ok := wrongValue(step)
		k, whole := v.Int64()
		if !ok || !whole || k < 0 || k > int64(n) {
			return nil
		}
		at := int(k)
		return &at
	}
	if p.TakenLine = line(slips.FineLine, in.Lines()); p.TakenLine != nil && s.FromEnd {
		*p.TakenLine = in.Lines() - *p.TakenLine
	}
	p.TakenFiner = line(slips.FinerLine, in.FinerLines())
	return p
}
