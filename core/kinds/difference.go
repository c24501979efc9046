package kinds

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/slips"
	"cavix/core/text"
)

// difference asks how far a scale has moved between two positions, or more of one turn: a zero error cancels.
type difference struct{}

func (difference) Name() string     { return "difference" }
func (difference) Title() text.Text { return text.New("difference.title") }

// What is wanted of the positions.
const (
	wantsLength    = "length"    // a diameter, a step
	wantsTurned    = "turned"    // an angle turned through
	wantsDeviation = "deviation" // a part against a standard
	wantsRunout    = "runout"    // of a part that is turned once
	wantsSagitta   = "sagitta"   // how far a curved face rises between three legs
)

// The directions of a turn, by the numbers that pass.
const (
	rising  = "rising"
	falling = "falling"
)

// The fields after the readings.
const (
	fieldDifference  = "difference"
	fieldDifferenceA = "difference_a"
	fieldDifferenceB = "difference_b"
	fieldHalf        = "half"
	fieldSize        = "size"
	fieldRadius      = "radius"
)

// The slips of a difference and of what follows from it, in the order in which they are named.
const (
	secondAlone       exercise.Code = "second-alone"
	addedInstead      exercise.Code = "added-instead"
	wrapMissed        exercise.Code = "wrap-missed"
	orderSwapped      exercise.Code = "order-swapped"
	zeroApplied       exercise.Code = "zero-applied"
	oneSideOnly       exercise.Code = "one-side-only"
	halfRunout        exercise.Code = "half-runout"
	standardLeftOut   exercise.Code = "standard-left-out"
	signLost          exercise.Code = "sign-lost"
	signSwapped       exercise.Code = "sign-swapped"
	legsNotSquared    exercise.Code = "legs-not-squared"
	halfHLeftOut      exercise.Code = "half-h-left-out"
	diameterForRadius exercise.Code = "diameter-for-radius"
)

func (difference) Slips() []exercise.Slip {
	out := slips.All()
	for _, code := range []exercise.Code{secondAlone, addedInstead, wrapMissed, orderSwapped, zeroApplied, oneSideOnly,
		halfRunout, meanOfOne, notHalved, standardLeftOut, signLost, signSwapped, legsNotSquared, halfHLeftOut,
		diameterForRadius} {
		s := exercise.Slip{Code: code}
		if code == wrapMissed || code == orderSwapped { // over 0 both give what is left of the circle
			s.Like = []string{"the other way round"}
		}
		out = append(out, s)
	}
	return out
}

// Difference is a card of two positions of an instrument, or of up to six of a runout.
type Difference struct {
	Instrument *instrument.Instrument `json:"instrument"`
	Wants      string                 `json:"wants"`
	Indicated  []length.Number        `json:"indicated"`
	IndicatedB []length.Number        `json:"indicated_b,omitempty"` // of the opposite plate; nil for half a circle on
	Direction  string                 `json:"direction,omitempty"`   // of a turn
	Half       bool                   `json:"half,omitempty"`        // half of the turn is wanted: the angle of a prism
	Standard   *length.Number         `json:"standard,omitempty"`    // of a deviation
	Legs       *length.Number         `json:"legs,omitempty"`        // their mean distance, of a sagitta
	Places     *int                   `json:"places,omitempty"`      // decimals of a radius; 1 where left out
	Ask        []string               `json:"ask,omitempty"`
	Method     exercise.Method        `json:"method,omitzero"`
	Marks      map[string]int         `json:"marks,omitempty"`
}

// Kind names the kind.
func (it *Difference) Kind() string { return difference{}.Name() }

// Decode reads a body.
func (difference) Decode(body json.RawMessage) (exercise.Item, error) {
	it := &Difference{}
	if err := exercise.DecodeBody(body, it); err != nil {
		return nil, err
	}
	if it.Instrument == nil {
		return nil, refusal.New("instrument", "read.decode")
	}
	if len(it.Indicated) < 2 {
		return nil, refusal.New("indicated", "difference.two")
	}
	if it.Legs == nil && it.Wants == wantsSagitta {
		return nil, refusal.New("legs", "difference.missing", "wants", it.Wants)
	}
	if it.Standard == nil && it.Wants == wantsDeviation {
		return nil, refusal.New("standard", "difference.missing", "wants", it.Wants)
	}
	all := it.all()
	if it.Ask == nil {
		it.Ask = all
	}
	slices.SortFunc(it.Ask, func(a, b string) int { return slices.Index(all, a) - slices.Index(all, b) })
	return it, nil
}

// both reports whether two opposite plates are read.
func (it *Difference) both() bool {
	_, role := it.Instrument.Second()
	return role == instrument.Opposite
}

// plate is one of the plates that are read: the only one, or A or B.
type plate struct {
	suffix     string // of its readings
	difference string // the field of its difference
	in         *instrument.Instrument
	at         []length.Number
}

// plates lists what is read at each position.
func (it *Difference) plates() []plate {
	if !it.both() {
		return []plate{{"", fieldDifference, it.Instrument, it.Indicated}}
	}
	second, _ := it.Instrument.Second()
	b := it.IndicatedB
	if b == nil {
		for _, y := range it.Indicated {
			b = append(b, it.Instrument.OnSecond(y))
		}
	}
	return []plate{{".a", fieldDifferenceA, it.Instrument, it.Indicated}, {".b", fieldDifferenceB, second, b}}
}

// reading names the field of a reading, from 0.
func (p plate) reading(i int) string { return fmt.Sprintf("reading.%d", i+1) + p.suffix }

// all lists every field in the order of the work.
func (it *Difference) all() []string {
	var out []string
	plates := it.plates()
	for i := range it.Indicated {
		for _, p := range plates {
			out = append(out, p.reading(i))
		}
	}
	for _, p := range plates {
		out = append(out, p.difference)
	}
	if len(plates) > 1 {
		out = append(out, slips.Mean)
	}
	switch {
	case it.Half:
		out = append(out, fieldHalf)
	case it.Wants == wantsDeviation:
		out = append(out, fieldSize)
	case it.Wants == wantsSagitta:
		out = append(out, fieldRadius)
	}
	return out
}

// Check refuses what cannot be asked.
func (it *Difference) Check() error {
	var bad refusal.Refusal
	if err := bad.Take("instrument", it.Instrument.Check()); err != nil {
		return err
	}
	refuse := func(is bool, field, why string, args ...any) {
		if is {
			bad.Add(field, why, args...)
		}
	}
	if !serves(it.Instrument, it.Wants) {
		return refusal.New("wants", "difference.not-of", "wants", it.Wants, "family", it.Instrument.Definition().Name)
	}
	most := 2
	if it.Wants == wantsRunout {
		most = maxRepeats
	}
	refuse(len(it.Indicated) > most, "indicated", "difference.most", "n", most)
	for _, y := range it.Indicated {
		if _, err := it.Instrument.ReadBy(y, it.Method.Between); err != nil {
			bad.Put("indicated", text.Says(err))
			break
		}
	}
	moves := it.Wants != wantsDeviation && it.Wants != wantsRunout
	a, b := it.Indicated[0], it.Indicated[1]
	refuse(moves && it.Instrument.Around(a).Equal(it.Instrument.Around(b)), "indicated", "difference.equal")
	refuse(it.IndicatedB != nil && !it.both(), "indicated_b", "read.no-opposite-plate")
	refuse(it.IndicatedB != nil && it.both() && len(it.IndicatedB) != len(it.Indicated), "indicated_b",
		"difference.as-many")
	turned := it.Wants == wantsTurned
	refuse(turned && it.Direction == "", "direction", "difference.missing", "wants", it.Wants)
	refuse(!turned && it.Direction != "", "direction", "difference.needless", "wants", it.Wants)
	against := it.Direction == rising && b.Less(a) || it.Direction == falling && a.Less(b)
	refuse(turned && it.Instrument.Turn().Sign() == 0 && against, "indicated", "difference.against")
	refuse(it.Half && !turned, "half", "difference.needless", "wants", it.Wants)
	refuse(it.Standard != nil && it.Wants != wantsDeviation, "standard", "difference.needless", "wants", it.Wants)
	refuse(it.Standard != nil && it.Standard.Sign() <= 0, "standard", "difference.more-than-0")
	refuse(it.Legs != nil && it.Wants != wantsSagitta, "legs", "difference.needless", "wants", it.Wants)
	refuse(it.Legs != nil && it.Legs.Sign() <= 0, "legs", "difference.more-than-0")
	refuse(it.Places != nil && it.Wants != wantsSagitta, "places", "difference.needless", "wants", it.Wants)
	refuse(it.Places != nil && (*it.Places < 0 || *it.Places > 4), "places", "difference.places")
	for _, name := range it.Ask {
		refuse(!slices.Contains(it.all(), name), "ask", "repeat.cannot-asked-card", "name", name)
	}
	return bad.Err()
}

// serves reports whether an instrument can show what is wanted.
func serves(in *instrument.Instrument, wants string) bool {
	has, angular := in.Traits(), in.Unit().Angular()
	switch wants {
	case wantsLength:
		return !angular && !has.Digits
	case wantsTurned:
		return angular && !has.Digits
	case wantsDeviation, wantsRunout:
		return has.Indicates
	case wantsSagitta:
		return in.Spec().Family == instrument.Spherometer
	}
	return false
}

func (it *Difference) place(p plate) slips.Place {
	return slips.Place{Instrument: p.in, Method: it.Method}
}

// Fields are those that are asked.
func (it *Difference) Fields() []exercise.Field {
	out := make([]exercise.Field, len(it.Ask))
	for i, name := range it.Ask {
		out[i] = it.field(name)
	}
	return out
}

func (it *Difference) field(name string) exercise.Field {
	f := it.place(it.plates()[0]).Field(slips.Observed)
	f.Name = name
	part, rest, _ := strings.Cut(name, ".")
	n, on, _ := strings.Cut(rest, ".")
	switch part {
	case "reading":
		f.Figure = name
		f.Term, f.Label = it.readingTerm(n, on), text.New("difference.short-reading", "n", text.Math(n))
		if on != "" {
			f.Label = text.New("difference.short-reading-"+on, "n", text.Math(n))
		}
		return f
	case slips.Mean, fieldHalf:
		if f.Form.Places >= 0 {
			f.Form.More = mostExact
		}
	case fieldSize:
		if p, finite := it.Standard.Decimals(); finite && f.Form.Places >= 0 {
			f.Form.Places = max(f.Form.Places, p)
		}
	case fieldRadius:
		if f.Form.Places >= 0 {
			f.Form.Places = it.places()
		}
	}
	f.Term = text.New("difference.field." + it.termOf(part))
	f.Label = f.Term
	return f
}

// mostExact is how many decimals more than the instrument's an exact mean or half may have.
const mostExact = 6

// readingTerm names a reading: of a deviation by what the indicator stands on.
func (it *Difference) readingTerm(n, on string) text.Text {
	if it.Wants == wantsDeviation {
		return text.New("difference.reading-on." + n)
	}
	if on != "" {
		return text.New("difference.reading-"+on, "n", text.Math(n))
	}
	return text.New("difference.reading", "n", text.Math(n))
}

// termOf is the last part of a field's term.
func (it *Difference) termOf(part string) string {
	if part == fieldDifference {
		return it.Wants
	}
	return part
}

func (it *Difference) places() int {
	if it.Places != nil {
		return *it.Places
	}
	return 1
}
