package survey

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/refusal"
	"cavix/core/text"
)

// Bounds of a plan.
const (
	MaxParts   = 12
	MaxPlaces  = 6
	MaxRepeats = 5
	MaxScatter = 30
)

// Plan is a survey as it is set: which made-up parts are measured, where, how often, and by whom.
type Plan struct {
	Instruments []*instrument.Instrument `json:"instruments"` // taken in turn by parts
	Parts       []Part                   `json:"parts"`
	Places      int                      `json:"places"`  // on each part
	Repeats     int                      `json:"repeats"` // of each place
	// all read the same parts; or else everybody has parts of their own
	Same bool `json:"same,omitempty"`
	// how far the instrument may stand off, in tenths of its least count
	Scatter int            `json:"scatter,omitempty"`
	Feature string         `json:"feature,omitempty"` // shaft or hole; "" is a shaft
	Lower   *length.Number `json:"lower,omitempty"`   // limits, both inclusive
	Upper   *length.Number `json:"upper,omitempty"`
	Nominal *length.Number `json:"nominal,omitempty"`
	// a display, or an indicator, is set to 0 at the nominal size: deviations are read
	Compare bool `json:"compare,omitempty"`
	// the parts are teeth of a gear; nil where they are none
	Gear     *Gear           `json:"gear,omitempty"`
	Gauge    limits.Kind     `json:"gauge,omitempty"`    // parts are tried in it first; "" for none
	Verdicts string          `json:"verdicts,omitempty"` // of each part: two, three; "" asks for none
	Method   exercise.Method `json:"method,omitzero"`
}

// Gear is a gear whose teeth are measured with a gear-tooth vernier.
type Gear struct {
	Outside length.Number `json:"outside"` // diameter
	Pitch   length.Number `json:"pitch"`   // diameter
	Teeth   int           `json:"teeth"`   // of the gear; those that are measured are among them, evenly spaced
}

// MaxTeeth is the most teeth of a gear.
const MaxTeeth = 80

// Part is a made-up part with its own true profile.
type Part struct {
	Name  string        `json:"name"`
	Size  length.Number `json:"size"`           // at its first place
	Taper length.Number `json:"taper,omitzero"` // how much it grows from the first place to the last
	Round length.Number `json:"round,omitzero"` // out-of-round: how much every second place is smaller
	Wear  length.Number `json:"wear,omitzero"`  // how much is worn off at one place
	Worn  int           `json:"worn,omitempty"` // that place, from 1
}

// Cell is one reading that is to be taken.
type Cell struct{ Part, Place, Repeat int } // each from 0

// Cells returns the number of readings of a student.
func (p Plan) Cells() int { return len(p.Parts) * p.Places * p.Repeats }

// Number is a cell's number, from 0, in the order of the table.
func (p Plan) Number(c Cell) int { return (c.Part*p.Places+c.Place)*p.Repeats + c.Repeat }

// Cell is the cell of a number.
func (p Plan) Cell(n int) Cell {
	return Cell{n / (p.Places * p.Repeats), n / p.Repeats % p.Places, n % p.Repeats}
}

// Instrument returns the instrument that a part is measured with.
func (p Plan) Instrument(part int) *instrument.Instrument {
	return p.Instruments[part%len(p.Instruments)]
}

// Hole reports whether holes are measured, on which wear makes larger.
func (p Plan) Hole() bool { return p.Feature == "hole" }

// Profile is the true size of a part at a place, from 0.
func (p Plan) Profile(part, place int) length.Number {
	d := p.Parts[part]
	x := d.Size
	if p.Places > 1 {
		x = x.Add(d.Taper.Mul(length.Frac(int64(place), int64(p.Places-1))))
	}
	worn := length.Number{}
	if place%2 == 1 {
		worn = worn.Add(d.Round)
	}
	if d.Worn == place+1 {
		worn = worn.Add(d.Wear)
	}
	if p.Hole() {
		return x.Add(worn)
	}
	return x.Sub(worn)
}

// Reader identifies an appraiser: the seed of the study, and the number of the student.
type Reader struct {
	Seed    uint64
	Student int64
}

// streams keeps the numbers of a survey's readings apart.
const (
	orderStream = 0x6f72646572 + iota
	partStream
	noiseStream
)

// seed is of what a reader reads: that of all, or of the reader's own.
func (p Plan) seed(r Reader) uint64 {
	if p.Same {
		return r.Seed
	}
	return exercise.StudentSeed(r.Seed, r.Student)
}

// below draws a number from 0 to n−1 from a stream by its place.
func below(seed, stream uint64, at int64, n int) int {
	return int(rand.NewPCG(exercise.StudentSeed(seed, at), stream).Uint64() % uint64(n))
}

// True is the true size that a reader measures in a cell. Where everybody has own parts, each part is larger or smaller
// than planned by up to a third of the tolerance, or by three least counts where that is more.
func (p Plan) True(r Reader, c Cell) length.Number {
	x := p.Profile(c.Part, c.Place)
	if p.Same {
		return x
	}
	count := p.Instrument(c.Part).LeastCount()
	far := 3
	if p.Lower != nil && p.Upper != nil {
		n, _ := p.Upper.Sub(*p.Lower).Quo(count.MulInt(3)).Floor().Int64()
		far = max(far, min(int(n), 10_000))
	}
	return x.Add(count.MulInt(below(p.seed(r), partStream, int64(c.Part), 2*far+1) - far))
}

// Indicated returns the reading of the instrument in a cell: the true size, its zero error, and its scatter.
func (p Plan) Indicated(r Reader, c Cell) length.Number {
	in := p.Instrument(c.Part)
	off := below(p.seed(r), noiseStream, int64(p.Number(c)), 2*p.Scatter+1) - p.Scatter
	return p.shows(in, p.True(r, c)).Add(in.LeastCount().MulInt(off).Mul(length.Frac(1, 10)))
}

// shows returns what an instrument shows of a true size, without scatter: an indicator that compares, how far the size
// is from the nominal one.
func (p Plan) shows(in *instrument.Instrument, size length.Number) length.Number {
	if p.Compare && in.Traits().Signed {
		size = size.Sub(*p.Nominal)
	}
	return size.Add(in.Spec().ZeroError)
}

// Compares reports whether an instrument can show deviations from a size at which it was set to 0: a display can, and
// an indicator that is numbered both ways from 0 and whose pointer turns clockwise as parts get larger.
func Compares(in *instrument.Instrument) bool {
	return in.Traits().Digits || in.Traits().Signed && !in.Spec().Fine.Anticlockwise
}

// Order is the order in which a reader takes the cells: mixed, so that a repeat is not recognised.
func (p Plan) Order(r Reader) []int {
	out := make([]int, p.Cells())
	for i := range out {
		out[i] = i
	}
	stream := rand.NewPCG(exercise.StudentSeed(r.Seed, r.Student), orderStream)
	for i := len(out) - 1; i > 0; i-- {
		j := int(stream.Uint64() % uint64(i+1))
		out[i], out[j] = out[j], out[i]
	}
	return out
}

// Asked returns the step that a reading asks for: the corrected reading where the instrument has a zero error.
func (p Plan) Asked(part int) string {
	if p.Gear == nil && !p.Compare && p.Instrument(part).Spec().ZeroError.Sign() != 0 {
		return "corrected"
	}
	return "observed"
}

// Check refuses a plan that cannot be read, with a refusal.Refusal naming each field.
func (p Plan) Check() error {
	var bad refusal.Refusal
	if len(p.Instruments) == 0 || slices.Contains(p.Instruments, nil) {
		bad.Add("instrument", "survey.check")
	}
	if n := len(p.Parts); n < 1 || n > MaxParts {
		bad.Add("parts", "survey.from-1-they", "max_parts", MaxParts, "n", n)
	}
	for field, v := range map[string][2]int{"places": {p.Places, MaxPlaces}, "repeats": {p.Repeats, MaxRepeats}} {
		if v[0] < 1 || v[0] > v[1] {
			bad.Add(field, "survey.whole-number-from-1", "v", v[1])
		}
	}
	if p.Scatter < 0 || p.Scatter > MaxScatter {
		bad.Add("scatter", "survey.from-0-tenths-least", "max_scatter", MaxScatter)
	}
	if p.Lower != nil && p.Upper != nil && p.Upper.Less(*p.Lower) {
		bad.Add("upper", "survey.not-less-than-lower")
	}
	switch {
	case p.Gauge == "":
	case p.Lower == nil || p.Upper == nil:
		bad.Add("tried", "survey.needs-both-limits")
	case !p.Gauge.Fits(p.Hole()):
		bad.Add("tried", "survey.ring-snap-shafts-plug")
	}
	if p.Verdicts != "" && p.Lower == nil && p.Upper == nil {
		bad.Add("verdicts", "survey.need-limit")
	}
	p.checkGear(&bad)
	p.checkCompare(&bad)
	names := map[string]bool{}
	for i, d := range p.Parts {
		field := fmt.Sprintf("parts.%d", i)
		switch {
		case d.Name == "" || len([]rune(d.Name)) > 20:
			bad.Add(field, "survey.name-most-20-characters")
		case names[d.Name]:
			bad.Add(field, "survey.name-another-part")
		case d.Worn < 0 || d.Worn > p.Places:
			bad.Add(field, "survey.worn-place-there-not")
		}
		names[d.Name] = true
	}
	if bad != nil {
		return bad
	}
	return p.inRange()
}

// checkGear refuses a gear that cannot be measured.
func (p Plan) checkGear(bad *refusal.Refusal) {
	if p.Gear == nil {
		return
	}
	if p.Gear.Outside.Cmp(p.Gear.Pitch) <= 0 {
		bad.Add("outside", "survey.check-gear")
	}
	if p.Gear.Teeth < len(p.Parts) || p.Gear.Teeth > MaxTeeth {
		bad.Add("teeth", "survey.from-those-measured", "parts", len(p.Parts), "max_teeth", MaxTeeth)
	}
	for _, in := range p.Instruments {
		if in == nil {
			continue
		}
		upright, role := in.Second()
		switch {
		case role == "" || !in.Definition().Paired:
			bad.Add("instrument", "survey.gear-tooth-vernier")
		case in.Spec().ZeroError.Sign() != 0:
			bad.Add("instrument", "survey.level-scale-without-zero")
		default:
			from, to := upright.Range()
			y := p.Gear.Addendum().Add(upright.Spec().ZeroError)
			if y.Less(from) || to.Less(y) {
				bad.Add("outside", "survey.gives-addendum-which-upright", "addendum", p.Gear.Addendum())
			}
		}
	}
}

// Tooth is the number of the tooth that a part is: the one that is its name, or else one of so many evenly spaced ones.
func (p Plan) Tooth(part int) int {
	if n, err := strconv.Atoi(p.Parts[part].Name); err == nil && n >= 1 && n <= p.Gear.Teeth {
		return n
	}
	return 1 + part*p.Gear.Teeth/len(p.Parts)
}

// checkCompare refuses a comparison that shows no deviation.
func (p Plan) checkCompare(bad *refusal.Refusal) {
	if !p.Compare {
		return
	}
	if p.Nominal == nil {
		bad.Add("nominal", "survey.check-compare")
		return
	}
	for _, in := range p.Instruments {
		if in == nil {
			continue
		}
		zero := length.Number{} // of an indicator; a display was zeroed at the nominal size
		if in.Traits().Digits {
			zero = p.Nominal.Neg()
		}
		if !Compares(in) || !in.Spec().ZeroError.Equal(zero) {
			bad.Add("instrument", "survey.digital-one-zeroed-nominal")
		}
	}
}

// Value is the size that a reading stands for: of a comparison the nominal size and the deviation that was read.
func (p Plan) Value(read length.Number) length.Number {
	if p.Compare {
		return p.Nominal.Add(read)
	}
	return read
}

// Addendum returns the setting of the upright scale: half the difference of outside diameter and pitch diameter.
func (g Gear) Addendum() length.Number { return g.Outside.Sub(g.Pitch).Mul(length.Frac(1, 2)) }

// Worn is the group whose readings lie furthest off the others and below them, by more than a least count; −1 where
// there is none.
func Worn(groups []Values, leastCount length.Number) int {
	for _, g := range Furthest(groups) {
		others := All(slices.Delete(slices.Clone(groups), g, g+1))
		if leastCount.Less(others.Mean().Sub(groups[g].Mean())) {
			return g
		}
	}
	return -1
}

// inRange refuses parts that the instrument cannot reach, whoever reads them.
func (p Plan) inRange() error {
	var bad refusal.Refusal
	for i := range p.Parts {
		in := p.Instrument(i)
		low, high := in.Range()
		spare := in.LeastCount().MulInt(MaxScatter/10 + 1)
		if !p.Same {
			spare = spare.Add(in.LeastCount().MulInt(3))
			if p.Lower != nil && p.Upper != nil {
				spare = spare.Add(p.Upper.Sub(*p.Lower).Mul(length.Frac(1, 3)))
			}
		}
		for place := range p.Places {
			y := p.shows(in, p.Profile(i, place))
			if y.Sub(spare).Less(low) || !y.Add(spare).Less(high) || y.Sub(spare).Less(in.Lowest()) {
				bad.Add(fmt.Sprintf("parts.%d", i), "survey.in-range", "place", place+1, "in", in.Name(), "low",
					text.Math(in.Format(low)), "high", text.Math(in.Format(high)), "unit", in.Unit())
				break
			}
		}
	}
	return bad.Err()
}

// Good reports whether a size lies within the limits.
func (p Plan) Good(x length.Number) bool {
	return (p.Lower == nil || !x.Less(*p.Lower)) && (p.Upper == nil || !p.Upper.Less(x))
}

// Verdict returns the right decision on a part with these sizes at its places: accept, else rework where material can
// still be taken off everywhere that is out, else scrap; with two verdicts reject.
func (p Plan) Verdict(sizes []length.Number) string {
	bad, small := false, false
	for _, x := range sizes {
		if p.Good(x) {
			continue
		}
		bad = true
		tooSmall := p.Lower != nil && x.Less(*p.Lower)
		if tooSmall != p.Hole() { // a shaft that is too small, or a hole that is too large, is lost
			small = true
		}
	}
	switch {
	case !bad:
		return "accept"
	case p.Verdicts != "three":
		return "reject"
	case small:
		return "scrap"
	}
	return "rework"
}

// Limits are the limits of a plan that has both.
func (p Plan) Limits() limits.Limits {
	return limits.Limits{Lower: *p.Lower, Upper: *p.Upper, Hole: p.Hole()}
}

// Passes reports whether a reader's part passes a gauge: GO when it does at all its places, NO-GO when it does at one.
func (p Plan) Passes(r Reader, part int, goes bool) bool {
	for place := range p.Places {
		if passes := p.Limits().Passes(goes, p.True(r, Cell{Part: part, Place: place})); passes != goes {
			return !goes
		}
	}
	return goes
}

// Gauged returns the right verdict on a part by its gauges.
func (p Plan) Gauged(r Reader, part int) string {
	if p.Passes(r, part, true) && !p.Passes(r, part, false) {
		return "accept"
	}
	return "reject"
}

// Beyond is by how much sizes lie beyond the limits, the furthest; 0 where none does.
func (p Plan) Beyond(sizes []length.Number) (far length.Number) {
	for _, x := range sizes {
		if p.Lower != nil && far.Less(p.Lower.Sub(x)) {
			far = p.Lower.Sub(x)
		}
		if p.Upper != nil && far.Less(x.Sub(*p.Upper)) {
			far = x.Sub(*p.Upper)
		}
	}
	return far
}

// VerdictChoices lists the verdicts that are possible on a part.
func (p Plan) VerdictChoices() []string {
	switch p.Verdicts {
	case "two":
		return []string{"accept", "reject"}
	case "three":
		return []string{"accept", "rework", "scrap"}
	}
	return nil
}
