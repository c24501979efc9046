package exercise

import (
	"fmt"
	"math/bits"
	"math/rand/v2"

	"cavix/core/instrument"
	"cavix/core/length"
)

// Dealing is the version of the newest way to deal. A sheet is dealt for ever as it was when it was given:
// a change of dealing is a new version, and the older ones stay.
//
// Version 1 draws a whole sheet from one stream of numbers, so that a card's values hang on all cards
// before it. Version 2 gives each card a stream of its own, and no student the same position twice.
const Dealing = 2

// Dealer deals the cards of one student. It knows what the student has had on this sheet.
type Dealer struct {
	Case Case // of the card that is dealt

	version int
	seed    uint64
	card    int // from 0
	stream  *rand.PCG
	had     map[string]bool
}

// Case says how awkward a card is to be.
type Case int

// The cases.
const (
	Plain    Case = iota
	OnMark        // the fine scale's 0 exactly on a mark
	NearEnd       // a line near the end of the cycle: a plate's 0 nearly at the next mark, a drum's mark just in sight
	JustPast      // the 0 just past a mark

	cases = iota
)

// streamOf keeps the numbers of dealing apart from others that are drawn from the same seed.
const streamOf = 0x6d61726b_6c696e65

// begin begins the numbers of another block.
func (d *Dealer) begin(block int) {
	if d.version > 1 {
		d.stream = rand.NewPCG(mix(d.seed, ^uint64(block)), streamOf)
	}
}

// next begins the numbers of another card.
func (d *Dealer) next(card int) {
	d.card = card
	if d.version > 1 {
		d.stream = rand.NewPCG(mix(d.seed, uint64(card)+1), streamOf)
	}
}

// mix makes unrelated seeds of neighbouring numbers (the finalizer of SplitMix64).
func mix(seed, n uint64) uint64 {
	z := seed + n*0x9e3779b97f4a7c15
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// StudentSeed mixes a sheet's seed with a student's number, so that every student has values of their own.
func StudentSeed(seed uint64, student int64) uint64 { return mix(seed, uint64(student)) }

// Below returns a number from 0 to n−1. It uses the generator alone, whose sequence is fixed by its
// definition, and none of the convenience methods whose ways may change.
func (d *Dealer) Below(n int) int {
	hi, _ := bits.Mul64(d.stream.Uint64(), uint64(n))
	return int(hi)
}

// Shuffle brings a list into another order.
func Shuffle[T any](d *Dealer, list []T) {
	for i := len(list) - 1; i > 0; i-- {
		j := d.Below(i + 1)
		list[i], list[j] = list[j], list[i]
	}
}

// Card is the number of the card that is dealt within its block, from 0.
func (d *Dealer) Card() int { return d.card }

// Had reports whether the student has had this position of an instrument on this sheet.
func (d *Dealer) Had(in *instrument.Instrument, y length.Number) bool {
	return d.version > 1 && d.had[position(in, y)]
}

// Other returns a number from 0 to n−1 that was not drawn under this name before on this sheet; once all have
// been, any.
func (d *Dealer) Other(name string, n int) int {
	key := func(i int) string { return fmt.Sprintf("%s\x00%d", name, i) }
	i := d.Below(n)
	for range n {
		if !d.had[key(i)] {
			break
		}
		i = (i + 1) % n
	}
	d.had[key(i)] = true
	return i
}

// Deals notes a position that the student has now had.
func (d *Dealer) Deals(in *instrument.Instrument, y length.Number) { d.had[position(in, y)] = true }

func position(in *instrument.Instrument, y length.Number) string {
	return in.Name() + "\x00" + in.Describe() + "\x00" + y.String()
}

// Deal returns the cards that a student with this seed gets.
func (s *Sheet) Deal(kinds Kinds, seed uint64) ([]Item, error) {
	if err := s.Check(kinds); err != nil {
		return nil, err
	}
	d := &Dealer{version: max(1, s.Dealer), seed: seed, stream: rand.NewPCG(seed, streamOf), had: map[string]bool{}}
	items := make([]Item, 0, s.Cards())
	for i := range s.Blocks {
		b := s.block(i)
		kind, _ := kinds.Find(b.Kind) // Check has found it
		d.begin(i)
		awkward := d.awkward(b.Cards, b.Int(kind.Settings(), "awkward"))
		for n := range b.Cards {
			d.next(len(items))
			d.Case, d.card = awkward[n], n
			it, err := kind.Deal(b, d)
			if err != nil {
				return nil, fmt.Errorf("card %d: %w", len(items)+1, err)
			}
			items = append(items, it)
		}
	}
	return items, nil
}

// awkward chooses which cards of a block are awkward and how: just the share asked for, spread by chance.
func (d *Dealer) awkward(cards, share int) []Case {
	out := make([]Case, cards)
	count := (cards*share + 50) / 100
	for i := range min(count, cards) {
		out[i] = OnMark + Case(i%(cases-1))
	}
	Shuffle(d, out)
	return out
}
