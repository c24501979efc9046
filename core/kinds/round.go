package kinds

import (
	"math/rand/v2"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
)

// RoundSteps lists what a whole class can be asked of an instrument at once, each a list of steps: the sum alone, mark
// and line too, or all down to the corrected reading.
func RoundSteps(in *instrument.Instrument) [][]string {
	parts := []string{slips.Main, slips.FineLine, slips.FinerLine}
	able := func(steps ...string) []string {
		return slices.DeleteFunc(steps, func(s string) bool { return !slips.Can(in, s) })
	}
	out := [][]string{{slips.Observed}}
	if p := able(slices.Clone(parts)...); len(p) > 1 {
		out = append(out, append(p, slips.Observed))
	}
	if in.Spec().ZeroError.Sign() != 0 {
		out = append(out, []string{slips.Corrected}, append(able(slices.Clone(parts)...), slips.Observed,
			slips.ZeroError, slips.Corrected))
	}
	return out
}

// NewRound is a reading of an instrument at a value that it indicates, as a class is asked it. What needs limits in the
// class's school is left out.
func NewRound(in *instrument.Instrument, y length.Number, steps []string, m exercise.Method) *Reading {
	if m.Tie == "unfavourable" {
		m.Tie = ""
	}
	return &Reading{Instrument: in, Indicated: &y, Ask: steps, Method: m}
}

// CanDiffer reports whether a class can be asked how far an instrument has moved between two positions.
func CanDiffer(in *instrument.Instrument) bool {
	return difference{}.wantsOf(exercise.Block{Kind: difference{}.Name()}, in) != ""
}

// RoundDifference deals two positions of an instrument, between which a class is asked the difference, with all that is
// needed for it. One seed gives the same.
func RoundDifference(in *instrument.Instrument, m exercise.Method, seed uint64) (*Difference, error) {
	if m.Tie == "unfavourable" {
		m.Tie = ""
	}
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Method: m, Blocks: []exercise.Block{{Kind: difference{}.Name(),
		Cards: 1, Instruments: []*instrument.Instrument{in}, Settings: map[string]string{"positions": "2"}}}}
	items, err := sheet.Deal(All, seed)
	if err != nil {
		return nil, err
	}
	return items[0].(*Difference), nil
}

// RoundValue draws a value for a round, as cards are dealt. One seed gives the same.
func RoundValue(in *instrument.Instrument, m exercise.Method, seed uint64) (length.Number, error) {
	it := NewRound(in, in.Closed(), []string{slips.Observed}, m)
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Method: it.Method,
		Blocks: []exercise.Block{{Kind: it.Kind(), Cards: 1, Instruments: []*instrument.Instrument{in},
			Settings: map[string]string{"ask": slips.Observed, "shape": shapeAsked}}}}
	items, err := sheet.Deal(All, seed)
	if err != nil {
		return length.Number{}, err
	}
	return items[0].(*Reading).at(), nil
}

// apartDraws is among how many values the one is looked for that tells two slips apart.
const apartDraws = 80

// ApartValue draws a value at which both slips can be made and give values of their own, told apart from each other and
// from all that other slips give, in the last of the steps. found is false where no drawn value does that.
func ApartValue(in *instrument.Instrument, steps []string, m exercise.Method, a, b exercise.Code,
	seed uint64) (y length.Number, found bool, err error) {
	draws := rand.NewPCG(seed, 2)
	most := 0
	for range apartDraws {
		at, err := RoundValue(in, m, draws.Uint64())
		if err != nil {
			return y, false, err
		}
		ps, err := NewRound(in, at, steps, m).Predictions()
		if err != nil {
			return y, false, err
		}
		if score := tellsApart(ps, steps[len(steps)-1], a, b); score > most {
			most, y = score, at
		}
	}
	return y, most > 0, nil
}

// SlipValue draws a value at which a slip can be made and gives a value of its own in the last of the steps, told apart
// from what all other slips give. found is false where no drawn value does that.
func SlipValue(in *instrument.Instrument, steps []string, m exercise.Method, slip exercise.Code,
	seed uint64) (y length.Number, found bool, err error) {
	draws := rand.NewPCG(seed, 3)
	for range apartDraws {
		at, err := RoundValue(in, m, draws.Uint64())
		if err != nil {
			return y, false, err
		}
		ps, err := NewRound(in, at, steps, m).Predictions()
		if err != nil {
			return y, false, err
		}
		for _, p := range ps {
			same := func(o exercise.Prediction) bool {
				return o.Field == p.Field && o.Code != slip && o.Value.Equal(p.Value)
			}
			if p.Code != slip || p.Field != steps[len(steps)-1] {
				continue
			}
			if !slices.ContainsFunc(ps, same) {
				return at, true, nil
			}
			y, found = at, true // with others that give the same
		}
	}
	return y, found, nil
}

// tellsApart returns how well a field tells two slips apart: 0 not, 1 from each other, 2 from all others too.
func tellsApart(ps []exercise.Prediction, field string, a, b exercise.Code) int {
	values := map[exercise.Code]length.Number{}
	others := 0
	for _, p := range ps {
		if p.Field == field && (p.Code == a || p.Code == b) {
			values[p.Code] = p.Value
		}
	}
	x, ok := values[a]
	z, too := values[b]
	if !ok || !too || x.Equal(z) {
		return 0
	}
	for _, p := range ps {
		if p.Field == field && p.Code != a && p.Code != b && (p.Value.Equal(x) || p.Value.Equal(z)) {
			others++
		}
	}
	if others > 0 {
		return 1
	}
	return 2
}

// Taken returns what is shown on the figure of a round of what somebody took who made a slip: the mark and the line
// that count, and the mark or line that was taken. ok is false where the slip took neither.
func Taken(r *Reading, slip exercise.Code) (p exercise.Pointing, ok bool, err error) {
	solutions, err := r.solutions()
	if err != nil {
		return p, false, err
	}
	s := solutions[0]
	p = s.View("", length.Number{}).Pointing(figureOpen)
	for _, single := range slip.Singles() {
		for _, step := range []string{slips.Main, slips.FineLine, slips.FinerLine} {
			for _, pr := range s.Predictions(step) {
				if pr.Code == single && slips.Can(r.Instrument, step) {
					ok = take(&p, step, pr.Value, r.Instrument) || ok
				}
			}
		}
	}
	return p, ok, nil
}

// take puts what was taken for a step on a pointing, where it stands on the scale.
func take(p *exercise.Pointing, step string, x length.Number, in *instrument.Instrument) bool {
	if step == slips.Main {
		m := in.Spec().Main
		if !x.Quo(m.Division).IsInt() || x.Less(m.From) || m.To.Less(x) {
			return false
		}
		p.TakenMark = &x
		return true
	}
	k64, whole := x.Int64()
	k := int(k64)
	switch {
	case !whole || k < 0:
		return false
	case step == slips.FineLine && k <= in.Lines():
		p.TakenLine = &k
	case step == slips.FinerLine && k <= in.FinerLines():
		p.TakenFiner = &k
	default:
		return false
	}
	return true
}
