// Package exercise composes sheets of cards: from instruments, the steps to ask and the share of
// awkward cases it deals every student own values. The same sheet and seed give the same cards for ever.
package exercise

import (
	"fmt"
	"math/bits"
	"math/rand/v2"
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/marking"
	"cavix/core/schema"
)

// Zero says which zero errors a sheet's cards carry.
type Zero string

// The choices for zero errors.
const (
	ZeroNone   Zero = "none"   // every instrument shows nothing when closed; zero steps are not asked
	ZeroOwn    Zero = "own"    // each instrument's own, the same for all
	ZeroVaried Zero = "varied" // another on every card, of either sign, less than half a cycle
)

// MaxCards is the most cards a sheet may have.
const MaxCards = 60

// Sheet is a set of reading exercises as an instructor composes it.
type Sheet struct {
	Instruments []*instrument.Instrument `json:"instruments"` // taken in turn
	Cards       int                      `json:"cards"`       // 1 … MaxCards
	Ask         []marking.Step           `json:"ask"`
	Zero        Zero                     `json:"zero"`
	Awkward     int                      `json:"awkward"` // share of awkward cases, in per cent
	Method      marking.Method           `json:"method"`
	Marks       map[marking.Step]int     `json:"marks,omitempty"`
	Limits      *marking.Limits          `json:"limits,omitempty"`    // for the tie "unfavourable"
	HintCost    int                      `json:"hint_cost,omitempty"` // half marks for each rung of help that is taken
}

// Cost is what so many rungs of help take off a card's marks.
func (s *Sheet) Cost(hints int) length.Number { return length.Frac(int64(hints*s.HintCost), 2) }

// Check refuses a sheet that cannot be dealt, with a schema.Refusal naming each field.
func (s *Sheet) Check() error {
	var bad schema.Refusal
	refuse := func(field, format string, args ...any) {
		bad = append(bad, schema.Fault{Field: field, Reason: fmt.Sprintf(format, args...)})
	}
	if len(s.Instruments) == 0 {
		refuse("instruments", "choose at least one")
	}
	if s.Cards < 1 || s.Cards > MaxCards {
		refuse("cards", "must be a whole number from 1 to %d", MaxCards)
	}
	if s.Awkward < 0 || s.Awkward > 100 {
		refuse("awkward", "must be a whole number of per cent from 0 to 100")
	}
	switch s.Zero {
	case ZeroNone, ZeroOwn, ZeroVaried:
	default:
		refuse("zero", "must be none, own or varied")
	}
	for _, step := range s.Ask {
		if !slices.Contains(marking.Steps, step) {
			refuse("ask", "%q is no step of a card", step)
		}
	}
	for step, m := range s.Marks {
		if m < 0 || m > 100 {
			refuse("marks."+string(step), "must be a whole number from 0 to 100; it is %d", m)
		}
	}
	if s.HintCost < 0 || s.HintCost > 20 {
		refuse("hint_cost", "must be from 0 to 10 marks")
	}
	switch {
	case s.Method.Tie == "unfavourable" && s.Limits == nil:
		refuse("limits", "are missing: the unfavourable line needs a lower and an upper limit")
	case s.Limits != nil && s.Limits.Upper.Less(s.Limits.Lower):
		refuse("limits", "the upper one must not be below the lower one")
	}
	if len(s.Ask) == 0 {
		refuse("ask", "choose at least one step")
	} else {
		for _, in := range s.Instruments {
			if len(s.asked(in)) == 0 {
				refuse("ask", "none of these steps can be asked of %q (without zero errors there is nothing to ask of the zero); choose another step too", in.Name())
				break
			}
		}
	}
	if bad != nil {
		return bad
	}
	return nil
}

// asked returns the steps that are asked of an instrument, in the order of the work: those that the sheet
// asks and the instrument has.
func (s *Sheet) asked(in *instrument.Instrument) []marking.Step {
	var out []marking.Step
	for _, step := range marking.Steps {
		if s.Zero == ZeroNone && (step == marking.ZeroError || step == marking.Corrected) {
			continue
		}
		if slices.Contains(s.Ask, step) && step.Can(in) {
			out = append(out, step)
		}
	}
	return out
}

// dealer draws numbers. It uses the generator alone, whose sequence is fixed by its definition, and
// none of the convenience methods whose ways may change.
type dealer struct{ *rand.PCG }

// below returns a number from 0 to n−1.
func (d dealer) below(n int) int {
	hi, _ := bits.Mul64(d.Uint64(), uint64(n))
	return int(hi)
}

// Deal returns the cards that a student with this seed gets.
func (s *Sheet) Deal(seed uint64) ([]*marking.Card, error) {
	if err := s.Check(); err != nil {
		return nil, err
	}
	d := dealer{rand.NewPCG(seed, 0x6d61726b_6c696e65)}
	awkward := s.awkwardCards(d)
	cards := make([]*marking.Card, s.Cards)
	for i := range cards {
		in, err := s.zeroed(d, s.Instruments[i%len(s.Instruments)])
		if err != nil {
			return nil, err
		}
		card, err := s.draw(d, in, awkward[i])
		if err != nil {
			return nil, err
		}
		cards[i] = card
	}
	return cards, nil
}

// plain, and the awkward cases.
const (
	plain     = iota
	zeroOnA   // the fine scale's 0 exactly on a mark
	nearEnd   // a line near the end of the cycle: a plate's 0 nearly at the next mark, a drum's mark just in sight
	justPast  // the 0 just past a mark
	caseCount // how many there are
)

// awkwardCards chooses which cards are awkward and how: just the share asked for, spread by chance.
func (s *Sheet) awkwardCards(d dealer) []int {
	kinds := make([]int, s.Cards)
	count := (s.Cards*s.Awkward + 50) / 100
	for i := range count {
		kinds[i] = zeroOnA + i%(caseCount-1)
	}
	for i := len(kinds) - 1; i > 0; i-- {
		j := d.below(i + 1)
		kinds[i], kinds[j] = kinds[j], kinds[i]
	}
	return kinds
}

// zeroed gives an instrument the zero error of a card.
func (s *Sheet) zeroed(d dealer, in *instrument.Instrument) (*instrument.Instrument, error) {
	switch s.Zero {
	case ZeroNone:
		return in.WithZeroError(length.Number{})
	case ZeroVaried:
		reach := max(1, min((in.Lines()*in.FinerLines()-1)/2, 12))
		k := 1 + d.below(reach)
		if d.below(2) == 0 {
			k = -k
		}
		return in.WithZeroError(in.LeastCount().MulInt(k))
	}
	return in, nil
}

// tries is how many values are drawn for a card; the most telling is kept.
const tries = 6

// draw makes a card with a good value: away from the ends, and such that different slips give
// different answers, so that a wrong one names its cause.
func (s *Sheet) draw(d dealer, in *instrument.Instrument, kind int) (*marking.Card, error) {
	spec := in.Spec()
	n, v := in.Lines(), in.FinerLines()
	first, _ := spec.Main.From.Quo(in.Cycle()).Floor().Int64()
	last, _ := spec.Main.To.Quo(in.Cycle()).Floor().Int64()
	span := int(last - first)
	margin := min(span/3, max(span/20, 3))
	var best *marking.Card
	var bestClashes int
	for range tries {
		mark := int(first) + margin + d.below(max(1, span-2*margin))
		line := 0
		switch {
		case n == 1: // no lines to choose from
		case kind == plain:
			line = 1 + d.below(n-1)
		case kind == nearEnd:
			tail := max(1, n/5)
			line = n - 1 - d.below(tail)
		case kind == justPast:
			line = 1 + d.below(max(1, n/10))
		}
		steps := line * v
		if v > 1 && kind != zeroOnA {
			steps += d.below(v)
		}
		y := spec.Base.Add(in.Cycle().MulInt(mark)).Add(in.LeastCount().MulInt(steps))
		card := &marking.Card{Instrument: in, Indicated: y, Ask: s.asked(in), Method: s.Method, Marks: s.Marks, Limits: s.Limits}
		clashes, err := clashes(card)
		if err != nil {
			return nil, err
		}
		if best == nil || clashes < bestClashes {
			best, bestClashes = card, clashes
		}
	}
	return best, nil
}

// clashes counts the pairs of slips that the card's last step cannot tell apart.
func clashes(c *marking.Card) (int, error) {
	ps, err := c.Predictions(c.Ask[len(c.Ask)-1])
	if err != nil {
		return 0, err
	}
	n := 0
	for i, a := range ps {
		for _, b := range ps[i+1:] {
			if a.Code != b.Code && a.Value.Equal(b.Value) {
				n++
			}
		}
	}
	return n, nil
}
