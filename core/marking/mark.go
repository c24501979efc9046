package marking

import (
	"encoding/json"
	"slices"

	"cavix/core/length"
	"cavix/core/schema"
)

// Outcome says what an entry is worth.
type Outcome string

// The outcomes of a step.
const (
	Right   Outcome = "right"   // the expected value in the expected form: full marks
	Carried Outcome = "carried" // wrong, but just what follows from the student's earlier entries: full marks
	Form    Outcome = "form"    // right or carried, but in the wrong form: half the marks
	Wrong   Outcome = "wrong"
	Missing Outcome = "missing"
)

// Answer holds what a student wrote, by step, as it was typed.
type Answer map[Step]string

// ParseAnswer reads an answer document.
func ParseAnswer(data []byte) (Answer, error) {
	var a Answer
	if err := schema.Decode("answer", data, &a); err != nil {
		return nil, err
	}
	return a, nil
}

// StepResult is the mark of one step.
type StepResult struct {
	Step     Step          `json:"step"`
	Given    string        `json:"given"`    // as it was typed
	Expected string        `json:"expected"` // in the instrument's decimals
	Outcome  Outcome       `json:"outcome"`
	Marks    length.Number `json:"marks"`
	Of       length.Number `json:"of"`
	Slips    []Code        `json:"slips"` // what explains a wrong entry, in table order; pairs only where no single slip does

	// Faults of form: what a form mark is lost for.
	Faults []FormFault `json:"form,omitempty"`
	// Follows is what would follow from the earlier entries, where it is not what is expected.
	Follows string `json:"follows,omitempty"`
	// Value is the entry as a number in the instrument's unit; meaningless when missing.
	Value length.Number `json:"-"`
}

// FormFault says in what an entry's form is wrong.
type FormFault string

// The faults of form.
const (
	WrongDecimals FormFault = "decimals" // not exactly the instrument's decimals
	NoUnit        FormFault = "unit"     // no unit where one must be written
	NoSign        FormFault = "sign"     // a positive zero error without its plus
)

// Result is the mark of a card.
type Result struct {
	Marks length.Number `json:"marks"`
	Of    length.Number `json:"of"`
	Steps []StepResult  `json:"steps"`
	Slips []Code        `json:"slips"` // what best explains the card, most likely first

	// Solution is the right answer that the marks were given against.
	Solution Solution `json:"-"`
}

// Step returns the result of one step, and whether it was asked.
func (r *Result) Step(s Step) (StepResult, bool) {
	for _, st := range r.Steps {
		if st.Step == s {
			return st, true
		}
	}
	return StepResult{}, false
}

// JSON writes the result as `cavix mark` prints it and the store keeps it.
func (r *Result) JSON() ([]byte, error) { return json.Marshal(r) }

// entry is what stands in one box, read.
type entry struct {
	typed     length.Typed
	text      string
	value     length.Number // in the instrument's unit
	given     bool
	converted bool // written in another unit: right within half a c, its decimals are not judged
}

// read takes an answer's entries. Those that are no numbers come back as a schema.Refusal naming each
// step; nothing is marked then.
func (c *Card) read(answer Answer) (map[Step]entry, error) {
	var bad schema.Refusal
	entries := make(map[Step]entry, len(c.Ask))
	for _, s := range c.Ask {
		text := answer[s]
		if isBlank(text) {
			entries[s] = entry{text: text}
			continue
		}
		t, err := length.ReadTyped(text)
		if err != nil {
			bad = append(bad, schema.Fault{Field: string(s), Reason: err.Error()})
			continue
		}
		e := entry{typed: t, text: text, value: t.Value, given: true}
		if t.Unit != "" && s.isLine() {
			bad = append(bad, schema.Fault{Field: string(s), Reason: "is the number of a line and has no unit; write it like 7"})
			continue
		}
		if t.Unit != "" && t.Unit != c.Instrument.Unit() {
			e.converted = true
			e.value = length.Convert(t.Value, t.Unit, c.Instrument.Unit())
		}
		entries[s] = e
	}
	for s, text := range answer {
		if !c.Asks(s) && !isBlank(text) {
			bad = append(bad, schema.Fault{Field: string(s), Reason: "is not asked on this card; leave it out"})
		}
	}
	if bad != nil {
		slices.SortStableFunc(bad, func(a, b schema.Fault) int { return order(Step(a.Field)) - order(Step(b.Field)) })
		return nil, bad
	}
	return entries, nil
}

func isBlank(s string) bool {
	for _, r := range s {
		if r != ' ' && r != '\t' && r != '\n' && r != '\r' && r != '\u00a0' {
			return false
		}
	}
	return true
}

// Check reports what in an answer cannot be read, without marking it: nil, or a schema.Refusal whose
// fields are steps.
func (c *Card) Check(answer Answer) error {
	_, err := c.read(answer)
	return err
}

// Mark marks an answer. An entry that is no number is not wrong but handed back: the error is then a
// schema.Refusal whose fields are steps. Where a card has several right answers, the one that gives
// the most marks counts.
func (c *Card) Mark(answer Answer) (Result, error) {
	entries, err := c.read(answer)
	if err != nil {
		return Result{}, err
	}
	solutions, err := c.Solutions()
	if err != nil {
		return Result{}, err
	}
	var best Result
	for i, s := range solutions {
		r := c.against(s, entries)
		if i == 0 || best.Marks.Less(r.Marks) {
			best = r
		}
	}
	return best, nil
}

// worksheet holds what the marking of a card has come to so far: each step's value as the next steps
// must take it.
type worksheet struct {
	card     *Card
	solution Solution
	entries  map[Step]entry
	carry    map[Step]length.Number // value to go on with
	broken   map[Step]bool          // asked and left empty, or in need of such a one: nothing follows from it
	results  []StepResult
	changes  []change   // room for slips, used again at every step
	asked    []*attempt // what each result's entry should have been, for slips that later sums look back on
}

// change is what a slip would add to the value of a step.
type change struct {
	*slip
	by length.Number
}

// newWorksheet begins a marking with every step as it should be.
func newWorksheet(c *Card, s Solution, entries map[Step]entry) *worksheet {
	w := &worksheet{
		card: c, solution: s, entries: entries,
		carry:  make(map[Step]length.Number, len(Steps)),
		broken: make(map[Step]bool, len(Steps)),
	}
	for _, step := range Steps {
		w.carry[step] = s.Value(step)
	}
	return w
}

// against marks the entries against one right answer.
func (c *Card) against(s Solution, entries map[Step]entry) Result {
	w := newWorksheet(c, s, entries)
	r := Result{Solution: s}
	for _, step := range Steps {
		follows, can := w.follows(step)
		if !c.Asks(step) {
			w.carry[step], w.broken[step] = follows, !can
			continue
		}
		st := w.mark(step, follows, can)
		w.results, w.asked = append(w.results, st), append(w.asked, nil)
		r.Marks, r.Of = r.Marks.Add(st.Marks), r.Of.Add(st.Of)
	}
	r.Steps = w.results
	r.Slips = rank(r.Steps)
	return r
}

// follows returns what a step comes to by the student's own earlier entries, and whether anything
// does: not where one that it needs was left empty. Without earlier entries it is the expected value.
func (w *worksheet) follows(step Step) (length.Number, bool) {
	expected := w.solution.Value(step)
	need := func(steps ...Step) bool {
		return !slices.ContainsFunc(steps, func(s Step) bool { return w.broken[s] })
	}
	switch step {
	case Fine:
		if !need(FineLine, LeastCount) {
			return expected, false
		}
		f := w.carry[FineLine].Mul(w.carry[LeastCount]).MulInt(w.card.Instrument.FinerLines())
		if w.solution.FromEnd {
			f = f.Neg()
		}
		return f, true
	case Finer:
		if !need(FinerLine, LeastCount) {
			return expected, false
		}
		return w.carry[FinerLine].Mul(w.carry[LeastCount]), true
	case Observed:
		if !need(Main, Fine, Finer) {
			return expected, false
		}
		return w.solution.Base.Add(w.carry[Main]).Add(w.carry[Fine]).Add(w.carry[Finer]), true
	case Corrected:
		if !need(Observed, ZeroError) {
			return expected, false
		}
		return w.carry[Observed].Sub(w.zero()), true
	}
	return expected, true
}

// zero is the zero error as it was entered, whatever the class records.
func (w *worksheet) zero() length.Number {
	if w.card.Method.correction() {
		return w.carry[ZeroError].Neg()
	}
	return w.carry[ZeroError]
}

// mark marks one asked step and notes what the next ones go on with.
func (w *worksheet) mark(step Step, follows length.Number, can bool) StepResult {
	c, e := w.card, w.entries[step]
	expected := w.solution.Value(step)
	st := StepResult{Step: step, Given: e.text, Expected: c.Text(step, expected), Of: c.full(step), Slips: []Code{}, Value: e.value}
	if can && !follows.Equal(expected) {
		st.Follows = c.Text(step, follows)
	}
	w.carry[step] = e.value
	if !e.given {
		st.Outcome = Missing
		w.carry[step], w.broken[step] = expected, true
		return st
	}
	var near length.Number
	if e.converted {
		near = c.Instrument.LeastCount().Mul(length.Frac(1, 2))
	}
	equal := func(x length.Number) bool { return e.value.Sub(x).Abs().Cmp(near) <= 0 }
	switch {
	case equal(expected):
		st.Outcome, w.carry[step] = Right, expected
	case w.estimated(step, e.value):
		st.Outcome = Right // and what follows goes on with the student's own estimate
	case step == Main && w.solution.Base.Sign() != 0 && equal(expected.Add(w.solution.Base)):
		// With the base already in it; the base is then not added again.
		st.Outcome, w.carry[step] = Right, expected
	case can && equal(follows):
		st.Outcome, w.carry[step] = Carried, follows
	default:
		st.Outcome = Wrong
		st.Slips = w.slips(step, follows, near)
		return st
	}
	st.Faults = c.formFaults(step, e)
	st.Marks = st.Of
	if st.Faults != nil {
		st.Outcome, st.Marks = Form, st.Of.Mul(length.Frac(1, 2))
	}
	return st
}

// estimated reports whether an entry is a good estimate of the true position: within the tolerance, going
// round at 0 for a line.
func (w *worksheet) estimated(step Step, x length.Number) bool {
	c := w.card
	within := c.tolerance()
	switch step {
	case FineLine:
		n := length.Int(int64(c.Instrument.Lines()))
		off := x.Sub(w.solution.exactly(step)).Abs()
		return within.Sign() > 0 && x.Sign() >= 0 && x.Cmp(n) <= 0 && (off.Cmp(within) <= 0 || n.Sub(off).Abs().Cmp(within) <= 0)
	case Fine, Observed, ZeroError, Corrected:
		return within.Sign() > 0 && x.Sub(w.solution.exactly(step)).Abs().Cmp(within.Mul(c.Instrument.LineWorth())) <= 0
	}
	return false
}

// formFaults returns what is wrong with the form of a right or carried entry.
func (c *Card) formFaults(step Step, e entry) []FormFault {
	var faults []FormFault
	if c.Method.Decimals != "lenient" && !e.converted {
		places, decimal := c.places(step)
		if decimal && (e.typed.Fraction || e.typed.Decimals != places) {
			faults = append(faults, WrongDecimals)
		}
	}
	if c.Method.Unit == "required" && !step.isLine() && e.typed.Unit == "" {
		faults = append(faults, NoUnit)
	}
	if step == ZeroError && c.Method.ZeroSign != "optional" && e.value.Sign() > 0 && !e.typed.Signed {
		faults = append(faults, NoSign)
	}
	return faults
}

// places returns how many decimals a step must have, and whether that is judged at all.
func (c *Card) places(step Step) (int, bool) {
	extra := 0
	if c.tenths() {
		extra = 1
	}
	switch step {
	case Fine, Finer, Observed, ZeroError, Corrected:
		places, decimal := c.Instrument.Decimals()
		return places + extra, decimal
	case FineLine:
		return extra, true
	case FinerLine:
		return 0, true
	}
	return 0, false
}

// slips names every slip that explains a wrong entry, in table order; pairs only where no single does.
func (w *worksheet) slips(step Step, want, near length.Number) []Code {
	a := w.attempt(step, want)
	a.own, a.near, a.whole = w.entries[step].value, near, w.partsRight(step)
	if within := w.card.tolerance(); within.Sign() > 0 && !step.isLine() {
		a.near = within.Mul(w.card.Instrument.LineWorth())
	}
	found := []Code{}
	changes := w.changes[:0]
	defer func() { w.changes = changes }()
	for i := range table {
		s := &table[i]
		if s.fits != nil {
			if (s.code != SumSlip || len(found) == 0) && s.fits(a) {
				found = append(found, s.code)
			}
			continue
		}
		hit := false
		for _, by := range s.delta(a) {
			changes = append(changes, change{s, by})
			hit = hit || a.equal(want.Add(by))
		}
		if hit && !w.ruledOut(s, step) {
			found = append(found, s.code)
		}
	}
	if len(found) > 0 {
		return found
	}
	changes = slices.DeleteFunc(changes, func(c change) bool { return w.ruledOut(c.slip, step) })
	in := w.card.Instrument
	for i, x := range changes {
		rest := want.Add(x.by)
		for _, y := range changes[i+1:] {
			if x.partOn(in) == y.partOn(in) || !a.equal(rest.Add(y.by)) {
				continue
			}
			if pair := x.code + "+" + y.code; !slices.Contains(found, pair) {
				found = append(found, pair)
			}
		}
	}
	return found
}

// attempt is a try at a step that should hold want, with what the earlier steps have come to.
func (w *worksheet) attempt(step Step, want length.Number) *attempt {
	a := &attempt{
		card: w.card, step: step, want: want, at: w.solution.shown,
		line: w.carry[FineLine], fine: w.carry[Fine], finer: w.carry[Finer], obs: w.carry[Observed], zero: w.zero(),
	}
	switch step { // of the step itself what it should hold counts, not what was written
	case FineLine:
		a.line = want
	case Fine:
		a.fine = want
	case Finer:
		a.finer = want
	}
	if step == ZeroError && !w.card.Closed {
		// The closed position, without the base; it was never on the card as a main and a fine entry.
		if r, err := w.card.Instrument.Read(w.card.Instrument.Closed()); err == nil {
			r.Base = length.Number{}
			a.at, a.line, a.fine, a.finer = r, r.LineNumber(), r.Fine, r.Finer
		}
	}
	return a
}

// own lists each part's own steps, in which a slip of that part would have shown.
var own = map[part][]Step{partMain: {Main}, partFine: {FineLine, Fine}, partFiner: {FinerLine, Finer}, partZero: {ZeroError}}

// ruledOut reports whether a slip cannot explain a sum, since its part was asked and answered without it.
func (w *worksheet) ruledOut(s *slip, step Step) bool {
	if step != Observed && step != Corrected && (step != ZeroError || !w.card.Closed) {
		return false
	}
	for i, st := range w.results {
		if !slices.Contains(own[s.partOn(w.card.Instrument)], st.Step) || st.Outcome == Missing || st.Outcome == Carried || st.Step == step {
			continue
		}
		if slices.Contains(st.Slips, s.code) {
			continue
		}
		if w.asked[i] == nil {
			w.asked[i] = w.attempt(st.Step, w.solution.Value(st.Step))
		}
		if len(s.delta(w.asked[i])) > 0 {
			return true
		}
	}
	return false
}

// partsRight reports whether a sum's parts were all asked and are right in value.
func (w *worksheet) partsRight(step Step) bool {
	right := func(s Step) bool {
		for _, st := range w.results {
			if st.Step == s {
				return st.Outcome == Right || st.Outcome == Form && st.Follows == ""
			}
		}
		return false
	}
	switch step {
	case Observed:
		in := w.card.Instrument
		asked := func(length, line Step) Step {
			if w.card.Asks(length) {
				return length
			}
			return line // the card prints the least count beside the line
		}
		return right(Main) && (!in.HasFine() || right(asked(Fine, FineLine))) && (!in.HasFiner() || right(asked(Finer, FinerLine)))
	case Corrected:
		return right(Observed) && right(ZeroError)
	}
	return false
}

// rank lists the codes of a card: by how many steps they explain, then by the earliest step, then by
// table order.
func rank(steps []StepResult) []Code {
	counts := map[Code]int{}
	out := []Code{}
	for _, st := range steps { // first met: earliest step, then table order
		for _, c := range st.Slips {
			if counts[c] == 0 {
				out = append(out, c)
			}
			counts[c]++
		}
	}
	slices.SortStableFunc(out, func(a, b Code) int { return counts[b] - counts[a] })
	return out
}
