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
	"cavix/core/text"
)

// repeat asks to read one part several times, at one or more places, and for what the readings come to.
type repeat struct{}

func (repeat) Name() string     { return "repeat" }
func (repeat) Title() text.Text { return text.New("repeat.title") }

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
	{Code: "mean-cut"},
	{Code: "wrong-count"},
	{Code: "reading-left-out"},
	{Code: "largest-as-range"},
	{Code: "range-sign"},
	{Code: "s-over-n"},
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
		{Name: "ask", Title: text.New("repeat.settings.title"), Input: exercise.AnyOf,
			Default: "readings groups mean range corrected",
			Choices: []exercise.Choice{{Value: askReadings, Words: text.New("repeat.settings.words")},
				{Value: askGroups, Words: text.New("repeat.settings.mean-range-each-place")},
				{Value: fieldMean, Words: text.New("repeat.settings.mean-all")},
				{Value: fieldMedian, Words: text.New("repeat.settings.median-all")},
				{Value: fieldRange, Words: text.New("repeat.settings.range-all")},
				{Value: fieldS, Words: text.New("repeat.settings.standard-deviation")},
				{Value: fieldOdd, Words: text.New("repeat.settings.odd-place-out")},
				{Value: slips.Corrected, Words: text.New("repeat.settings.corrected-mean")}}},
		{Name: "places", Title: text.New("repeat.settings.places"), Input: exercise.Number, Default: "3"},
		{Name: "repeats", Title: text.New("repeat.settings.readings-each"), Input: exercise.Number, Default: "3"},
		{Name: "correct", Title: text.New("repeat.settings.zero-error-taken-away"), Input: exercise.OneOf,
			Default: zeroOnce, Choices: []exercise.Choice{{Value: zeroOnce,
				Words: text.New("repeat.settings.once-from-mean")},
				{Value: zeroEach, Words: text.New("repeat.settings.from-every-reading")}}},
		{Name: "wear", Title: text.New("repeat.settings.one-place-worn"), Input: exercise.YesNo, Default: "yes"},
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
		bad.Add("places", "repeat.check", "max_groups", maxGroups)
	}
	if n := b.Int(of, "repeats"); n < 2 || n > maxRepeats {
		bad.Add("repeats", "repeat.from-2", "max_repeats", maxRepeats)
	}
	for _, in := range b.Instruments {
		if from, to := in.Range(); to.Sub(from).Quo(in.LeastCount()).Less(length.Int(20)) {
			bad.Add("instruments", "repeat.too-short-scale-readings", "in", in.Name())
		}
	}
	if len(bad) == 0 && len(b.Instruments) > 0 && len(k.asked(b, b.Instruments[0])) == 0 {
		bad.Add("ask", "repeat.choose-something-there-ask")
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
		return nil, refusal.New("instrument", "repeat.decode")
	}
	if len(it.Readings) == 0 || len(it.Readings[0]) == 0 {
		return nil, refusal.New("readings", "repeat.missing")
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

// step returns the step to which a reading is written.
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
		bad.Add("groups", "repeat.name-each-groups-readings", "readings", len(it.Readings))
	}
	if slices.Contains(it.Groups, optionNone) {
		bad.Add("groups", "repeat.not-called", "option_none", optionNone)
	}
	for g, readings := range it.Readings {
		for i, y := range readings {
			if _, err := it.Instrument.ReadBy(y, it.Method.Between); err != nil {
				bad.Put(fmt.Sprintf("readings.%d.%d", g, i), text.Says(err))
			}
		}
	}
	for _, name := range it.Ask {
		if !slices.Contains(it.all(), name) {
			bad.Add("ask", "repeat.cannot-asked-card", "name", name)
		}
	}
	return bad.Err()
}

// places returns the number of decimals of the readings.
func (it *Repeat) places() int {
	if p := it.place().Form(slips.Observed).Places; p >= 0 {
		return p
	}
	p, _ := it.Instrument.LeastCount().Decimals()
	return p
}

// part returns the part of an angle in which the readings end; 0 for decimals.
func (it *Repeat) part() length.Part { return it.Instrument.PartBy(it.Method.Between) }

// Fields are those that are asked.
func (it *Repeat) Fields() []exercise.Field {
	out := make([]exercise.Field, len(it.Ask))
	for i, name := range it.Ask {
		out[i] = it.field(name)
	}
	return out
}

// group names a group of readings: dealt ones are places that are counted, others have names of their own.
func (it *Repeat) group(g int) text.Text {
	var n int
	for _, known := range []string{"place", "group"} {
		if _, err := fmt.Sscanf(it.Groups[g], known+" %d", &n); err == nil && it.Groups[g] == fmt.Sprintf(known+" %d",
			n) {
			return text.New("repeat."+known, "n", n)
		}
	}
	return text.Typed(it.Groups[g])
}

func (it *Repeat) field(name string) exercise.Field {
	f := it.place().Field(slips.Observed)
	f.Name, f.Figure = name, name
	part, rest, _ := strings.Cut(name, ".")
	group := func() text.Text {
		g, _ := strconv.Atoi(strings.Split(rest, ".")[0])
		return it.group(g - 1)
	}
	mean := func(what text.Text) {
		f.Term, f.Label = what, what
		if f.Form.Places >= 0 {
			f.Form.More = 1
		}
	}
	switch {
	case part == "r":
		_, i, _ := strings.Cut(rest, ".")
		f.Term, f.Label = text.New("repeat.reading-of", "n", text.Math(i), "group", group()),
			text.New("repeat.reading", "n", text.Math(i))
		return f
	case part == fieldMean && rest != "":
		mean(text.New("repeat.mean-of", "group", group()))
	case part == fieldRange && rest != "":
		f.Term = text.New("repeat.range-of", "group", group())
	case name == fieldMean, name == fieldMedian:
		mean(text.New("repeat." + name + "-of-all"))
	case name == fieldRange:
		f.Term = text.New("repeat.range-of-all")
	case name == fieldS:
		f.Term = text.New("repeat.s")
		f.Form.Places = -1
	case name == fieldOdd:
		f := exercise.Field{Name: name, Term: text.New("repeat.odd"), Label: text.New("repeat.odd"),
			Input: exercise.Options, Form: exercise.Form{Places: -1}, Options: append(slices.Clone(it.Groups),
				optionNone)}
		for g := range it.Groups {
			f.Words = append(f.Words, it.group(g))
		}
		f.Words = append(f.Words, option(optionNone))
		return f
	case name == slips.Corrected:
		mean(text.New("repeat.corrected-mean"))
	}
	f.Label, f.Figure = f.Term, ""
	if rest != "" { // of a group, under the head of its column
		f.Label = text.New("repeat." + part)
	}
	return f
}
