package kinds

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/survey"
)

// repeat asks to read one part several times, at one or more places, and for what the readings come to.
type repeat struct{}

func (repeat) Name() string  { return "repeat" }
func (repeat) Title() string { return "Read it several times" }

// The fields besides the readings (r.1.2: group 1, reading 2), the group means and the group ranges.
const (
	fieldMean   = "mean"
	fieldMedian = "median"
	fieldRange  = "range"
	fieldS      = "s"
	fieldOdd    = "odd"
)

// maxGroups and maxRepeats bound a card.
const (
	maxGroups  = 6
	maxRepeats = 6
)

// The slips of working with several readings, in the order in which they are named.
var repeatSlips = []exercise.Slip{
	{Code: "mean-cut", Did: "cut the mean off instead of rounding it"},
	{Code: "wrong-count", Did: "divided by a wrong number of readings"},
	{Code: "reading-left-out", Did: "left one of the readings out"},
	{Code: "largest-as-range", Did: "took the largest reading for the range"},
	{Code: "range-sign", Did: "took the smallest less the largest"},
	{Code: "s-over-n", Did: "divided by the number of readings, not by one less"},
	{Code: "zero-applied-twice", Did: "took the {zero error} away twice"},
}

// repeatAdvice says how the right value is found.
var repeatAdvice = map[exercise.Code]string{
	"mean-cut":            "The digits after the last one that is written decide: 5 and more rounds away from zero.",
	"wrong-count":         "Count the readings again: the sum is divided by just as many.",
	"reading-left-out":    "One of the readings is not in the sum. Tick them off as you add.",
	"largest-as-range":    "That is the largest reading. The range is the largest less the smallest.",
	"range-sign":          "The range is the largest less the smallest: it is never negative.",
	"s-over-n":            "The sum of squares is divided by one less than the number of readings.",
	"zero-applied-twice":  "The {zero error} has gone in twice. It is taken away once.",
	slips.ZeroNotApplied:  "The {zero error} is left out: it is taken away from the mean, sign and all.",
	slips.ZeroSignFlipped: "The {zero error} is taken away with its sign: taking away a negative one adds it.",
}

func (repeat) Slips() []exercise.Slip { return repeatSlips }

// What the composer can have asked, besides the names of the fields over all.
const (
	askReadings = "readings"
	askGroups   = "groups"
)

// Settings of a block.
func (repeat) Settings() []exercise.Setting {
	return []exercise.Setting{
		{Name: "ask", Title: "What is asked", Input: exercise.AnyOf, Default: "readings groups mean range corrected",
			Choices: []exercise.Choice{{Value: askReadings, Words: "every reading"},
				{Value: askGroups, Words: "mean and range of each place"},
				{Value: fieldMean, Words: "mean of all"}, {Value: fieldMedian, Words: "median of all"},
				{Value: fieldRange, Words: "range of all"},
				{Value: fieldS, Words: "standard deviation"}, {Value: fieldOdd, Words: "the odd place out"},
				{Value: slips.Corrected, Words: "corrected mean"}}},
		{Name: "places", Title: "Places", Input: exercise.Number, Default: "3"},
		{Name: "repeats", Title: "Readings at each", Input: exercise.Number, Default: "3"},
		{Name: "correct", Title: "The {zero error} is taken away", Input: exercise.OneOf, Default: zeroOnce,
			Choices: []exercise.Choice{{Value: zeroOnce, Words: "once, from the mean"},
				{Value: zeroEach, Words: "from every reading"}}},
		{Name: "wear", Title: "One place is worn", Input: exercise.YesNo, Default: "yes"},
		zeroSetting, scaleSetting,
	}
}

// When the zero error is taken away.
const (
	zeroOnce = "once"
	zeroEach = "each"
)

// Check refuses a block that cannot be dealt.
func (k repeat) Check(b exercise.Block) error {
	var bad refusal.Refusal
	of := k.Settings()
	if n := b.Int(of, "places"); n < 1 || n > maxGroups {
		bad.Add("places", "must be from 1 to %d", maxGroups)
	}
	if n := b.Int(of, "repeats"); n < 2 || n > maxRepeats {
		bad.Add("repeats", "must be from 2 to %d", maxRepeats)
	}
	for _, in := range b.Instruments {
		if from, to := in.Range(); to.Sub(from).Quo(in.LeastCount()).Less(length.Int(20)) {
			bad.Add("instruments", "%q has too short a scale for readings that differ", in.Name())
		}
	}
	if len(bad) == 0 && len(b.Instruments) > 0 && len(k.asked(b, b.Instruments[0])) == 0 {
		bad.Add("ask", "choose something that there is to ask")
	}
	return bad.Err()
}

// asked lists the fields of a block's cards.
func (k repeat) asked(b exercise.Block, in *instrument.Instrument) []string {
	of := k.Settings()
	ask := listOf(b, of, "ask")
	it := &Repeat{Instrument: in, Zero: b.Setting(of, "correct")}
	for g := range b.Int(of, "places") {
		it.Groups = append(it.Groups, fmt.Sprintf("place %d", g+1))
		it.Readings = append(it.Readings, make([]length.Number, b.Int(of, "repeats")))
	}
	var out []string
	for _, name := range it.all() {
		part, _, _ := strings.Cut(name, ".")
		switch {
		case part == "r":
			part = askReadings
		case part != name:
			part = askGroups
		}
		none := b.Setting(of, "zero") == zeroNone && name == slips.Corrected
		plain := name == fieldOdd && b.Setting(of, "wear") != "yes"
		if slices.Contains(ask, part) && !none && !plain {
			out = append(out, name)
		}
	}
	return out
}

// Deal makes a card from a true profile: a value for each place, wear on one of them or none, and the
// spread of the readings, all on the instrument's grid.
func (k repeat) Deal(b exercise.Block, d *exercise.Dealer) (exercise.Item, error) {
	of := k.Settings()
	in, err := taken(b, d, of)
	if err != nil {
		return nil, err
	}
	y, err := best(d, in, nil, plain)
	if err != nil {
		return nil, err
	}
	c := in.LeastCount()
	_, high := in.Range()
	if low := in.Closed().Add(c.MulInt(10)); y.Less(low) { // room for wear and spread
		y = low
	}
	if top := high.Sub(c.MulInt(4)); top.Less(y) {
		y = top
	}
	it := &Repeat{Instrument: in, Zero: b.Setting(of, "correct"), Method: b.Method, Marks: b.Marks,
		Ask: k.asked(b, in)}
	places := b.Int(of, "places")
	worn := -1
	if places > 1 && b.Setting(of, "wear") == "yes" {
		worn = d.Below(places)
	}
	for g := range places {
		off := d.Below(3) - 1
		if g == worn {
			off = -5 - d.Below(4)
		}
		readings := make([]length.Number, b.Int(of, "repeats"))
		for i := range readings {
			readings[i] = y.Add(c.MulInt(off + d.Below(4) - 1))
		}
		it.Groups = append(it.Groups, fmt.Sprintf("place %d", g+1))
		it.Readings = append(it.Readings, readings)
	}
	return it, nil
}

// Decode reads a body.
func (repeat) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Repeat{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	if it.Instrument == nil {
		return nil, refusal.New("instrument", "is missing")
	}
	if len(it.Readings) == 0 || len(it.Readings[0]) == 0 {
		return nil, refusal.New("readings", "are missing")
	}
	for g := len(it.Groups); g < len(it.Readings); g++ {
		it.Groups = append(it.Groups, fmt.Sprintf("group %d", g+1))
	}
	all := it.all()
	if it.Ask == nil {
		it.Ask = all
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return slices.Index(all, a) - slices.Index(all, b) })
	return it, nil
}

// Repeat is a card of several readings.
type Repeat struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Readings   [][]length.Number      `json:"readings"`         // indicated values, group by group
	Groups     []string               `json:"groups,omitempty"` // their names
	Zero       string                 `json:"zero,omitempty"`   // "once" or "each"
	Ask        []string               `json:"ask,omitempty"`
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Repeat) Kind() string { return repeat{}.Name() }

func cell(g, i int) string              { return fmt.Sprintf("r.%d.%d", g+1, i+1) }
func ofGroup(name string, g int) string { return name + "." + strconv.Itoa(g+1) }

// each reports whether readings are corrected as they are written.
func (it *Repeat) each() bool { return it.Zero == zeroEach }

// all lists every field of the card in the order of the work.
func (it *Repeat) all() []string {
	var out []string
	for g, readings := range it.Readings {
		for i := range readings {
			out = append(out, cell(g, i))
		}
	}
	for g := range it.Readings {
		out = append(out, ofGroup(fieldMean, g), ofGroup(fieldRange, g))
	}
	out = append(out, fieldMean, fieldMedian, fieldRange, fieldS)
	if len(it.Readings) > 1 {
		out = append(out, fieldOdd)
	}
	if !it.each() {
		out = append(out, slips.Corrected)
	}
	return out
}

func (it *Repeat) place() slips.Place {
	return slips.Place{Instrument: it.Instrument, Method: it.Method}
}

// step is what a reading is written as.
func (it *Repeat) step() string {
	if it.each() {
		return slips.Corrected
	}
	return slips.Observed
}

// Check refuses what cannot be asked.
func (it *Repeat) Check() error {
	var bad refusal.Refusal
	if err := bad.Take("instrument", it.Instrument.Check()); err != nil {
		return err
	}
	if len(it.Groups) != len(it.Readings) {
		bad.Add("groups", "must name each of the %d groups of readings", len(it.Readings))
	}
	if slices.Contains(it.Groups, optionNone) {
		bad.Add("groups", "must not be called %q", optionNone)
	}
	for g, readings := range it.Readings {
		for i, y := range readings {
			if _, err := it.Instrument.ReadBy(y, it.Method.Between); err != nil {
				bad.Add(fmt.Sprintf("readings.%d.%d", g, i), "%s", err)
			}
		}
	}
	for _, name := range it.Ask {
		if !slices.Contains(it.all(), name) {
			bad.Add("ask", "%q cannot be asked on this card", name)
		}
	}
	return bad.Err()
}

// places is how many decimals the readings have.
func (it *Repeat) places() int {
	if p := it.place().Form(slips.Observed).Places; p >= 0 {
		return p
	}
	p, _ := it.Instrument.LeastCount().Decimals()
	return p
}

// Fields are those that are asked.
func (it *Repeat) Fields() []exercise.Field {
	out := make([]exercise.Field, len(it.Ask))
	for i, name := range it.Ask {
		out[i] = it.field(name)
	}
	return out
}

func (it *Repeat) field(name string) exercise.Field {
	f := it.place().Field(slips.Observed)
	f.Name, f.Figure = name, name
	part, rest, _ := strings.Cut(name, ".")
	group := func() string {
		g, _ := strconv.Atoi(strings.Split(rest, ".")[0])
		return it.Groups[g-1]
	}
	mean := func(what string) {
		f.Term, f.Label = what, what
		if f.Form.Places >= 0 {
			f.Form.More = 1
		}
	}
	switch {
	case part == "r":
		_, i, _ := strings.Cut(rest, ".")
		f.Term, f.Label = fmt.Sprintf("reading %s of %s", i, group()), "reading "+i
		return f
	case part == fieldMean && rest != "":
		mean("mean of " + group())
	case part == fieldRange && rest != "":
		f.Term = "range of " + group()
	case name == fieldMean, name == fieldMedian:
		mean(name + " of all")
	case name == fieldRange:
		f.Term = "range of all"
	case name == fieldS:
		f.Term = "standard deviation"
		f.Form.Places = -1
	case name == fieldOdd:
		return exercise.Field{Name: name, Term: "odd one out", Label: "odd one out", Input: exercise.Options,
			Form:    exercise.Form{Places: -1},
			Options: append(slices.Clone(it.Groups), optionNone)}
	case name == slips.Corrected:
		mean("corrected mean")
	}
	f.Label, f.Figure = f.Term, ""
	if rest != "" { // of a group, under the head of its column
		f.Label = part
	}
	return f
}

// Mark marks an answer: readings by the read table, what is worked out of them by the student's own.
func (it *Repeat) Mark(a exercise.Answer) (exercise.Result, error) {
	fields := it.Fields()
	entries, err := exercise.Read(fields, a)
	if err != nil {
		return exercise.Result{}, err
	}
	w := exercise.NewWorking(fields, entries, it.Marks)
	right, own := make([]survey.Values, len(it.Readings)), make([]survey.Values, len(it.Readings))
	for g, readings := range it.Readings {
		for i, y := range readings {
			x, err := it.judgeReading(w, cell(g, i), y)
			if err != nil {
				return exercise.Result{}, err
			}
			right[g], own[g] = append(right[g], x), append(own[g], w.Value(cell(g, i)))
		}
	}
	for _, name := range it.all() {
		if !strings.HasPrefix(name, "r.") {
			it.judgeWorked(w, name, right, own)
		}
	}
	return w.Result(), nil
}

// judgeReading judges one reading and returns the right one.
func (it *Repeat) judgeReading(w *exercise.Working, name string, y length.Number) (length.Number, error) {
	solutions, err := it.place().Solutions(y, nil)
	if err != nil {
		return length.Number{}, err
	}
	step := it.step()
	x := solutions[0].Step(step)
	want := solutions[0].Target(step, x)
	if len(solutions) > 1 {
		other := solutions[1].Step(step)
		want = exercise.With{Target: want, Also: exercise.Exactly{Is: other, Near: it.near()}}
	}
	w.Judge(name, want, want, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		codes := it.place().Names(step, y, e.Value)
		if e0 := it.Instrument.Spec().ZeroError; it.each() && e0.Sign() != 0 && e.Value.Equal(x.Sub(e0)) {
			codes = append(codes, "zero-applied-twice")
		}
		return codes
	})
	return x, nil
}

func (it *Repeat) near() length.Number { return it.Instrument.LeastCount().Mul(halfCount) }

// judgeWorked judges what is worked out of the readings. Nothing follows where one of them is empty.
func (it *Repeat) judgeWorked(w *exercise.Working, name string, right, own []survey.Values) {
	of, needs := it.over(name)
	from := func(all []survey.Values) survey.Values { return survey.All(all[of : of+len(needs)]) }
	var cells []string
	for g := range needs {
		for i := range it.Readings[of+g] {
			cells = append(cells, cell(of+g, i))
		}
	}
	if name == slips.Corrected {
		it.judgeCorrected(w, from(right))
		return
	}
	var want, follows exercise.Target
	if name == fieldOdd {
		want, follows = it.odd(right), it.odd(own)
	} else {
		want, follows = it.target(name, from(right)), it.target(name, from(own))
	}
	if !w.Can(cells...) {
		follows = nil
	}
	mine := from(own)
	if follows == nil {
		mine = from(right)
	}
	w.Judge(name, want, follows, func(_ exercise.Target, e *exercise.Entry) []exercise.Code {
		return it.causes(name, mine).named(e)
	})
}

// over tells which groups a field is worked out of: from the first, and as many as the list is long.
func (it *Repeat) over(name string) (first int, groups []survey.Values) {
	if _, g, one := strings.Cut(name, "."); one {
		n, _ := strconv.Atoi(g)
		return n - 1, make([]survey.Values, 1)
	}
	return 0, make([]survey.Values, len(it.Readings))
}

// target is what an entry is held against that is worked out of readings.
func (it *Repeat) target(name string, ns survey.Values) exercise.Target {
	part, _, _ := strings.Cut(name, ".")
	switch part {
	case fieldMean:
		return exercise.Rounded{Is: ns.Mean(), Places: it.places(), Near: it.near()}
	case fieldMedian:
		return exercise.Rounded{Is: ns.Median(), Places: it.places(), Near: it.near()}
	case fieldS:
		return exercise.Root{Square: survey.Over(ns.Squares(), max(1, len(ns)-1)), Places: it.places(), Near: it.near()}
	}
	x := ns.Range()
	return exercise.Exactly{Is: x, Written: it.place().Text(slips.Observed, x), Near: it.near()}
}

// judgeCorrected judges the corrected mean: from the true readings, and from the own mean as it is written.
func (it *Repeat) judgeCorrected(w *exercise.Working, right survey.Values) {
	e0 := it.Instrument.Spec().ZeroError
	at := func(x length.Number) exercise.Rounded {
		return exercise.Rounded{Is: x.Sub(e0), Places: it.places(), Near: it.near()}
	}
	want, own := at(right.Mean()), at(w.Value(fieldMean))
	var follows exercise.Target = own
	if !w.Can(fieldMean) {
		follows = nil
	}
	w.Judge(slips.Corrected, want, follows, func(due exercise.Target, e *exercise.Entry) []exercise.Code {
		t := due.Value()
		if e0.Sign() == 0 {
			return []exercise.Code{}
		}
		to := func(x length.Number) exercise.Target {
			return exercise.Rounded{Is: x, Places: it.places(), Near: it.near()}
		}
		return causes{{slips.ZeroNotApplied, to(t.Add(e0))}, {slips.ZeroSignFlipped, to(t.Add(e0).Add(e0))},
			{"zero-applied-twice", to(t.Sub(e0))}}.named(e)
	})
}

// odd is met by each group whose mean lies furthest from the mean of the others; by none where all are equal.
func (it *Repeat) odd(groups []survey.Values) exercise.Target {
	furthest := []string{}
	for _, g := range survey.Furthest(groups) {
		furthest = append(furthest, it.Groups[g])
	}
	if len(furthest) == 0 {
		furthest = append(furthest, optionNone)
	}
	return exercise.Option{Written: furthest[0], Also: furthest[1:]}
}

// causes are the slips of what is worked out of readings, made from the student's own.
func (it *Repeat) causes(name string, ns survey.Values) causes {
	to := func(x length.Number) exercise.Target {
		return exercise.Rounded{Is: x, Places: it.places(), Near: it.near()}
	}
	exact := func(x length.Number) exercise.Target { return plainly(x, it.near()) }
	part, _, _ := strings.Cut(name, ".")
	n := len(ns)
	switch part {
	case fieldMean:
		out := causes{{"mean-cut", exercise.Cut{Rounded: exercise.Rounded{Is: ns.Mean(), Places: it.places()}}},
			{"wrong-count", to(survey.Over(ns.Sum(), n+1))}}
		if n > 1 {
			out = append(out, cause{"wrong-count", to(survey.Over(ns.Sum(), n-1))})
			for _, x := range ns {
				out = append(out, cause{"reading-left-out", to(survey.Over(ns.Sum().Sub(x), n-1))})
			}
		}
		return out
	case fieldMedian:
		return causes{{"mean-cut", exercise.Cut{Rounded: exercise.Rounded{Is: ns.Median(), Places: it.places()}}}}
	case fieldRange:
		return causes{{"largest-as-range", exact(ns.Sorted()[n-1])}, {"range-sign", exact(ns.Range().Neg())}}
	case fieldS:
		return causes{{"s-over-n", exercise.Root{Square: survey.Over(ns.Squares(), n), Places: it.places(),
			Near: it.near()}}}
	}
	return nil
}

// truth are the right readings.
func (it *Repeat) truth() ([]survey.Values, error) {
	out := make([]survey.Values, len(it.Readings))
	for g, readings := range it.Readings {
		for _, y := range readings {
			solutions, err := it.place().Solutions(y, nil)
			if err != nil {
				return nil, err
			}
			out[g] = append(out[g], solutions[0].Step(it.step()))
		}
	}
	return out, nil
}

// Predictions are those of the asked fields.
func (it *Repeat) Predictions() ([]exercise.Prediction, error) {
	right, err := it.truth()
	if err != nil {
		return nil, err
	}
	var out []exercise.Prediction
	for _, name := range it.Ask {
		if _, rest, reading := strings.Cut(name, "r."); reading && strings.HasPrefix(name, "r.") {
			g, i := cellOf(rest)
			solutions, err := it.place().Solutions(it.Readings[g][i], nil)
			if err != nil {
				return nil, err
			}
			for _, p := range solutions[0].Predictions(it.step()) {
				p.Field = name
				out = append(out, p)
			}
			continue
		}
		of, groups := it.over(name)
		if name != slips.Corrected && name != fieldOdd {
			out = append(out, it.causes(name,
				survey.All(right[of:of+len(groups)])).predictions(name)...)
		}
	}
	return out, nil
}

// cellOf reads the group and the reading of a cell's name behind its "r.", from 0.
func cellOf(rest string) (g, i int) {
	a, b, _ := strings.Cut(rest, ".")
	g, _ = strconv.Atoi(a)
	i, _ = strconv.Atoi(b)
	return g - 1, i - 1
}

// Figures are the instrument at every reading.
func (it *Repeat) Figures() []exercise.Figure {
	var out []exercise.Figure
	for g, readings := range it.Readings {
		for i, y := range readings {
			out = append(out, exercise.Figure{Name: cell(g, i), Instrument: it.Instrument, At: y,
				Caption: fmt.Sprintf("%s, reading %d", it.Groups[g], i+1)})
		}
	}
	return out
}

// Facts stand beside the figure.
func (it *Repeat) Facts() exercise.Facts {
	f := exercise.Facts{About: about(it.Instrument), Task: "Read it at every place, as often as the table asks."}
	if it.Instrument.Spec().ZeroError.Sign() != 0 {
		f.Given = []string{closedFact(it.Instrument)}
		if it.each() {
			f.Task = "Read it at every place; correct each reading as you write it."
		}
	}
	f.School = strings.Join(it.place().School(nil, false), "; ")
	return f
}

// Lines are a table of the readings with the mean and range of each group, then what is asked over all.
func (it *Repeat) Lines() []exercise.Line {
	right, err := it.truth()
	asked := func(name string) bool { return slices.Contains(it.Ask, name) }
	var out []exercise.Line
	for g, readings := range it.Readings {
		line := exercise.Line{Row: true, Head: it.Groups[g]}
		for i := range readings {
			switch {
			case asked(cell(g, i)):
				line.Terms = append(line.Terms, box(cell(g, i)))
			case err == nil:
				line.Terms = append(line.Terms, given(it.place().Text(slips.Observed, right[g][i])))
			}
		}
		for _, name := range []string{ofGroup(fieldMean, g), ofGroup(fieldRange, g)} {
			if asked(name) {
				line.Terms = append(line.Terms, box(name))
			}
		}
		out = append(out, line)
	}
	mean := exercise.Term{Word: fieldMean}
	if asked(fieldMean) {
		mean = exercise.Term{Echo: fieldMean}
	}
	for _, name := range []string{fieldMean, fieldMedian, fieldRange, fieldS, fieldOdd} {
		if asked(name) {
			out = append(out, lineOf(box(name)))
		}
	}
	if asked(slips.Corrected) {
		zero := it.Instrument.Format(it.Instrument.Spec().ZeroError)
		out = append(out, lineOf(mean, op("−"), op("("), given(zero), op(")"), op("="), box(slips.Corrected)))
	}
	return out
}

// Hints lead from how to read over the sums to the whole working.
func (it *Repeat) Hints() ([]exercise.Hint, error) {
	work, err := it.work()
	if err != nil {
		return nil, err
	}
	v := slips.Sight{Place: it.place()}
	text := ""
	for _, eq := range work {
		text += fmt.Sprintf("%s = %s. ", eq.Left, eq.Right)
	}
	return []exercise.Hint{{Text: strings.TrimSpace(v.Where() + " " + v.FindLine())},
		{
			Text: "The mean is the sum of the readings divided by their number; the range is the largest less the smallest.",
		}, {Text: text, Worked: true}}, nil
}

// work is the arithmetic over all readings.
func (it *Repeat) work() ([]exercise.Equation, error) {
	right, err := it.truth()
	if err != nil {
		return nil, err
	}
	all := survey.All(right)
	write := func(x length.Number) string { return exercise.Show(it.Instrument.FormatBy(x, it.Method.Between)) }
	unit := " " + string(it.Instrument.Unit())
	mean := it.target(fieldMean, all)
	s := all.Sorted()
	out := []exercise.Equation{{Left: fmt.Sprintf("%s ÷ %d", write(all.Sum()), len(all)),
		Right: exercise.Show(mean.Text()) + unit},
		{Left: write(s[len(s)-1]) + " − " + exercise.Bracket(it.Instrument.FormatBy(s[0], it.Method.Between)),
			Right: write(all.Range()) + unit}}
	if e := it.Instrument.Spec().ZeroError; !it.each() && slices.Contains(it.Ask, slips.Corrected) {
		out = append(out, exercise.Equation{Left: exercise.Show(mean.Text()) + " − " +
			exercise.Bracket(it.Instrument.Format(e)),
			Right: exercise.Show(exercise.Rounded{Is: all.Mean().Sub(e), Places: it.places()}.Text()) + unit})
	}
	return out, nil
}

// Explain puts an answer in words, and points at the reading that went wrong.
func (it *Repeat) Explain(a exercise.Answer, voice exercise.Voice) (exercise.Explanation, error) {
	r, err := it.Mark(a)
	if err != nil {
		return exercise.Explanation{}, err
	}
	e := exercise.Explanation{}
	if e.Work, err = it.work(); err != nil {
		return e, err
	}
	story{fields: it.Fields(), result: r, wrong: func(f exercise.Field, m exercise.Mark) (string, []string) {
		return it.explain(&e, f, m, voice)
	}}.tell(&e)
	return e, nil
}

// explain puts the first wrong field in words. Of a reading it is told like any reading, on its figure.
func (it *Repeat) explain(e *exercise.Explanation, f exercise.Field, m exercise.Mark, voice exercise.Voice) (string,
	[]string) {
	if rest, reading := strings.CutPrefix(f.Name, "r."); reading {
		g, i := cellOf(rest)
		solutions, err := it.place().Solutions(it.Readings[g][i], nil)
		if err == nil {
			v := solutions[0].Look(it.step(), m.Value)
			e.Figure, e.Shown = f.Name, []exercise.Pointing{v.Pointing(f.Name)}
			says := voice.Account(m.Slips, Did, func(c exercise.Code) string {
				if c == "zero-applied-twice" {
					return repeatAdvice[c]
				}
				return v.Advice(c)
			})
			if says == nil {
				says = []string{v.Stands()}
			}
			return wrote(f, m), says
		}
	}
	says := voice.Account(m.Slips, Did, func(c exercise.Code) string { return repeatAdvice[c] })
	if says == nil {
		says = []string{"Go through the sum again, reading by reading."}
	}
	return wrote(f, m), append(fromOwn(f, m), says...)
}
