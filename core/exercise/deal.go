package exercise

import (
	"fmt"
	"math/bits"
	"math/rand/v2"
	"slices"

	"cavix/core/instrument"
	"cavix/core/length"
)

// Dealing is the version of the newest way to deal. A sheet is dealt for ever as it was when it was given: a change of
// dealing is a new version, and the older ones stay.
//
// Version 1 draws a whole sheet from one stream of numbers, so that a card's values hang on all cards before it.
// Version 2 gives each card a stream of its own, and no student the same position twice. Version 3 spreads an
// instrument's cards over its range, off the grid too, gives neighbours in a class other cards, and prefers values at
// which slips that the sheet has not shown yet stand alone. Version 4 knows more slips, spreads an instrument's cards
// over the cycle of its fine scale too, and does not repeat a zero error. Version 5 knows more items of care.
const Dealing = 5

// Dealer deals the cards of one student. It knows what the student has had on this sheet.
type Dealer struct {
	Case     Case // of the card that is dealt
	Between  bool // it is to stand between two steps of the grid, where that makes a difference
	HalfMark bool // its main reading is to be a half mark, where the instrument has any

	version int
	effort  int
	atOnce  bool // nothing is tried twice
	seed    uint64
	seat    int // where its student sits among those who get the sheet
	card    int // from 0, in its block
	first   bool
	stream  *rand.PCG
	had     map[string]bool
	last    map[string]length.Number // of each instrument, the position before
	shown   map[Code]bool            // slips that a card before would name
	slips   map[Code]Slip
	names   map[*instrument.Instrument]string
	turn    int
	parts   [][]int   // of each instrument of the block, the parts of its range in the order of its cards
	cycle   []Stretch // of each card of the block that is not awkward, its part of the cycle of a fine scale
}

// Seat says who gets a sheet.
type Seat struct {
	Sheet   uint64 // the seed with which the sheet was given
	Student int64  // number
	Place   int    // in the class, from 0; students of 32 places next to one another get other first cards
	Attempt int    // from 1
}

// Case says how awkward a card is to be.
type Case int

// The cases.
const (
	Plain  Case = iota
	OnMark      // the fine scale's 0 exactly on a mark; a rule's end on one, a display's last digit 0
	// a line near the end of the cycle: a plate's 0 nearly at the next mark, a drum's mark just in sight; of
	NearEnd
	// a scale without lines, midway between two marks or a last digit 5
	JustPast // the 0 just past a mark; of a scale without lines, near its own 0

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

// Turn is a number from 0 to 11 that is the student's own in this block, so that what goes by turns begins elsewhere.
func (d *Dealer) Turn() int { return d.turn }

// Version is the version of dealing.
func (d *Dealer) Version() int { return d.version }

// Had reports whether the student has had this position of an instrument on this sheet.
func (d *Dealer) Had(in *instrument.Instrument, y length.Number) bool {
	return d.version > 1 && d.had[d.position(in, y)]
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

// Own returns a number from 0 to n−1 that was not drawn under this name before on this sheet, on its first card the one
// that falls to the student's place.
func (d *Dealer) Own(name string, n int) int {
	if !d.first {
		return d.Other(name, n)
	}
	i := (d.seat%n + n) % n
	d.had[fmt.Sprintf("%s\x00%d", name, i)] = true
	return i
}

// Deals notes a position that the student has now had.
func (d *Dealer) Deals(in *instrument.Instrument, y length.Number) {
	d.had[d.position(in, y)] = true
	d.last[d.named(in)] = y
}

// Before returns the position of the instrument's card before this one.
func (d *Dealer) Before(in *instrument.Instrument) (length.Number, bool) {
	y, ok := d.last[d.named(in)]
	return y, ok
}

// named tells instruments apart, whatever their zero errors.
func (d *Dealer) named(in *instrument.Instrument) string {
	name, known := d.names[in]
	if !known {
		name = in.Name() + "\x00" + in.Describe().String()
		d.names[in] = name
	}
	return name
}

func (d *Dealer) position(in *instrument.Instrument, y length.Number) string {
	return d.named(in) + "\x00" + y.String()
}

// Part says in which of so many equal parts of its instrument's range the card is to lie.
func (d *Dealer) Part() (part, of int) {
	if len(d.parts) == 0 {
		return 0, 1
	}
	order := d.parts[d.card%len(d.parts)]
	return order[d.card/len(d.parts)%len(order)], len(order)
}

// Try draws another case for a card that is to be awkward, so that the one which tells most can be kept.
func (d *Dealer) Try() {
	if d.Case != Plain {
		d.Case = OnMark + Case(d.Below(cases-1))
	}
}

// Tries returns the number of values to draw for a card; the dealer keeps the most telling one.
func (d *Dealer) Tries() int {
	if d.atOnce {
		return 1
	}
	return []int{8, 24, 72}[min(max(d.effort, 0), MaxEffort)]
}

// seats is the number of neighbours whose first cards differ.
const seats = 32

// Mine reports whether a value is one that the student may have on the first card of the sheet: values are shared
// out by a number that every position has, so that neighbours' first cards differ.
func (d *Dealer) Mine(number int) bool {
	return !d.first || (number%seats+seats)%seats == d.seat%seats
}

// Draws returns the number of times an unwanted value is drawn again before a wish is given up.
func (d *Dealer) Draws() int {
	if d.first {
		return 10 * seats // to find one that no neighbour has
	}
	return 20
}

// Cost rates a value by its predictions: pairs of slips that it cannot tell apart cost, slips that it would be the
// first on the sheet to name are worth something. Slips that are alike count as one. A slip that can be taken for one
// of a whole value costs nothing, but is worth nothing either.
func (d *Dealer) Cost(all []Prediction) int {
	told, pairs := d.told(Firsts(all))
	fresh, worth := 0, 4
	if d.version < 4 {
		worth = 2
	}
	for code := range told {
		if !d.shown[code] {
			fresh++
		}
	}
	return 3*pairs - worth*fresh
}

// Known leaves out the predictions of slips that came after the version of dealing.
func (d *Dealer) Known(all []Prediction) []Prediction {
	if d.version >= Dealing {
		return all
	}
	return slices.DeleteFunc(slices.Clone(all), func(p Prediction) bool { return d.slips[p.Code].Since > d.version })
}

// told returns what predictions tell, and how many pairs of slips cannot be told apart.
func (d *Dealer) told(all []Prediction) (named map[Code]bool, pairs int) {
	return telling(d.Known(all), d.slips)
}

// Telling returns the slips that some wrong entry on a card would name, with no other beside but those that are alike.
func (ks Kinds) Telling(it Item) (map[Code]bool, error) {
	all, err := it.Predictions()
	if err != nil {
		return nil, err
	}
	named, _ := telling(Firsts(all), ks.slips())
	return named, nil
}

// telling returns the slips that some prediction names alone, and how many pairs of slips, but for those of whole
// values, predict the same value. The predictions of a field stand together.
func telling(all []Prediction, slips map[Code]Slip) (named map[Code]bool, pairs int) {
	named = map[Code]bool{}
	for begin := 0; begin < len(all); {
		end := begin + 1
		for end < len(all) && all[end].Field == all[begin].Field {
			end++
		}
		field := all[begin:end]
		begin = end
		for _, a := range field {
			if a.Part == Anywhere { // it tells nothing of the value, but can be taken for a slip that does
				continue
			}
			shared := false
			for _, b := range field {
				if a.Code == b.Code || !a.Value.Equal(b.Value) || slips[a.Code].Alike(slips[b.Code]) {
					continue
				}
				shared = true
				if b.Part != Anywhere {
					pairs++
				}
			}
			if !shared {
				named[a.Code] = true
			}
		}
	}
	return named, pairs / 2
}

// Shows notes the slips that the card which is dealt would name.
func (d *Dealer) Shows(all []Prediction) {
	told, _ := d.told(Firsts(all))
	for code := range told {
		d.shown[code] = true
	}
}

// Firsts keeps of every slip the predictions in the first field that it can happen in: who makes it makes it there,
// and whatever comes later follows. Slips of whole values can be made in every field.
func Firsts(all []Prediction) []Prediction {
	first := map[Code]string{}
	out := make([]Prediction, 0, len(all))
	for _, p := range all {
		if _, known := first[p.Code]; !known {
			first[p.Code] = p.Field
		}
		if first[p.Code] == p.Field || p.Part == Anywhere {
			out = append(out, p)
		}
	}
	return out
}

// Clashes counts the pairs of slips that predict the same value of the same field.
func Clashes(all []Prediction) int {
	n := 0
	for i, a := range all {
		for _, b := range all[i+1:] {
			if a.Field == b.Field && a.Code != b.Code && a.Value.Equal(b.Value) {
				n++
			}
		}
	}
	return n
}

// DealBlocks returns the cards that come of a seed, each with its block.
func (s *Sheet) DealBlocks(kinds Kinds, seed uint64) ([]Dealt, error) {
	return s.deal(kinds, seed, int(seed%seats), false)
}

// Deal returns the cards that come of a seed.
func (s *Sheet) Deal(kinds Kinds, seed uint64) ([]Item, error) {
	dealt, err := s.DealBlocks(kinds, seed)
	items := make([]Item, len(dealt))
	for i, d := range dealt {
		items[i] = d.Item
	}
	return items, err
}

// Dealt is a card with the block that it comes from, from 1.
type Dealt struct {
	Item  Item
	Block int
}

// DealTo returns the cards that a student gets.
func (s *Sheet) DealTo(kinds Kinds, seat Seat) ([]Dealt, error) {
	seed := StudentSeed(seat.Sheet, seat.Student)
	if seat.Attempt > 1 {
		seed = mix(seed, uint64(seat.Attempt))
	}
	return s.deal(kinds, seed, seat.Place+int(seat.Sheet%seats), false)
}

// DealOne returns the card that comes of a seed on a sheet of one card, for those who choose among many: no value of
// it was chosen for what it tells, and no neighbour is thought of.
func (s *Sheet) DealOne(kinds Kinds, seed uint64) (Item, error) {
	dealt, err := s.deal(kinds, seed, 0, true)
	if err != nil {
		return nil, err
	}
	return dealt[0].Item, nil
}

// deal deals all cards, at once with the first values that come.
func (s *Sheet) deal(kinds Kinds, seed uint64, seat int, atOnce bool) ([]Dealt, error) {
	if err := s.Check(kinds); err != nil {
		return nil, err
	}
	d := &Dealer{version: max(1, s.Dealer), effort: s.Effort, atOnce: atOnce, seed: seed, seat: seat,
		stream: rand.NewPCG(seed, streamOf), had: map[string]bool{}, last: map[string]length.Number{},
		shown: map[Code]bool{}, slips: kinds.slips(), names: map[*instrument.Instrument]string{}}
	items := make([]Dealt, 0, s.Cards())
	for i := range s.Blocks {
		b := s.block(i)
		kind, _ := kinds.Find(b.Kind) // Check has found it
		of := kind.Settings()
		d.begin(i)
		awkward := d.awkward(b.Cards, b.Int(of, "awkward"))
		var between, halves []bool
		if d.version > 2 {
			between, halves = d.share(b.Cards, b.Int(of, "between")), d.shares(b, b.Int(of, "halves"))
			d.spread(b)
			d.turn = d.Below(12)
			if d.version > 3 {
				d.spreadCycle(b, awkward)
			}
		}
		for n := range b.Cards {
			d.next(len(items))
			d.Case, d.card, d.first = awkward[n], n, len(items) == 0 && !atOnce
			if d.version > 2 {
				d.Between, d.HalfMark = between[n], halves[n]
			}
			it, err := kind.Deal(b, d)
			if err != nil {
				return nil, fmt.Errorf("card %d: %w", len(items)+1, err)
			}
			items = append(items, Dealt{it, i + 1})
		}
	}
	if s.Shuffled && d.version > 2 {
		d.stream = rand.NewPCG(mix(seed, ^uint64(MaxBlocks)), streamOf)
		Shuffle(d, items)
	}
	return items, nil
}

// spread shares the range of every instrument of a block out among its cards, in an order of its own.
func (d *Dealer) spread(b Block) {
	d.parts = nil
	for i := range b.Instruments {
		order := make([]int, max(1, b.cardsOf(i)))
		for k := range order {
			order[k] = k
		}
		Shuffle(d, order)
		d.parts = append(d.parts, order)
	}
}

// Stretch is a part of a whole, in thousandths.
type Stretch struct{ From, To int }

// Of returns the part of n things: the first, and how many; at least one.
func (s Stretch) Of(n int) (first, count int) {
	first = n * s.From / 1000
	return first, max(1, n*s.To/1000-first)
}

// spreadCycle shares the cycle of a fine scale out among the plain cards of every instrument of a block, in an order of
// their own. They leave to the awkward cards the ends where those stand, up to the first tenth and the last two, so
// that all cards together are spread evenly.
func (d *Dealer) spreadCycle(b Block, awkward []Case) {
	d.cycle = make([]Stretch, b.Cards)
	for i := range b.Instruments {
		var plain []int
		low, high := 0, 0
		for n := i; n < b.Cards; n += len(b.Instruments) {
			switch awkward[n] {
			case Plain:
				plain = append(plain, n)
			case NearEnd:
				high++
			default:
				low++
			}
		}
		cards := b.cardsOf(i)
		from, to := 0, 1000
		if cards > 0 {
			from, to = min(100, 1000*low/cards), 1000-min(200, 1000*high/cards)
		}
		Shuffle(d, plain)
		for k, n := range plain {
			d.cycle[n] = Stretch{from + (to-from)*k/len(plain), from + (to-from)*(k+1)/len(plain)}
		}
	}
}

// Stretch returns the part of the cycle of a fine scale that is the card's, and whether there is one.
func (d *Dealer) Stretch() (Stretch, bool) {
	if d.card >= len(d.cycle) || d.cycle[d.card] == (Stretch{}) {
		return Stretch{}, false
	}
	return d.cycle[d.card], true
}

// cardsOf returns the number of cards of a block that use its nth instrument.
func (b Block) cardsOf(n int) int { return (b.Cards - n + len(b.Instruments) - 1) / len(b.Instruments) }

// shares chooses just so many per cent of the cards of every instrument of a block.
func (d *Dealer) shares(b Block, percent int) []bool {
	out := make([]bool, b.Cards)
	for i := range b.Instruments {
		for k, on := range d.share(b.cardsOf(i), percent) {
			out[i+k*len(b.Instruments)] = on
		}
	}
	return out
}

// share chooses just so many per cent of the cards of a block.
func (d *Dealer) share(cards, percent int) []bool {
	out := make([]bool, cards)
	for i := range Share(cards, percent) {
		out[i] = true
	}
	Shuffle(d, out)
	return out
}

// awkward chooses which cards of a block are awkward and how: just the share asked for, spread by chance.
func (d *Dealer) awkward(cards, share int) []Case {
	out := make([]Case, cards)
	for i := range Share(cards, share) {
		out[i] = OnMark + Case(i%(cases-1))
	}
	Shuffle(d, out)
	return out
}
