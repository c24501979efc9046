// Package practice chooses what a student trains next. It remembers for every slip and family of instruments how often
// the slip could have happened and how often it did, and looks for the card that settles most of what is in doubt.
package practice

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/slips"
	"cavix/core/text"
)

// Key names what is remembered: a slip on a family of instruments.
type Key struct {
	Family instrument.Family
	Slip   exercise.Code
}

// Tally counts the cards on which a slip was possible, those of them that were not all right, and those on which it was
// made. All are weighted: 20 cards back counts half.
type Tally struct {
	Could, Wrong, Did float64
	At                int // the card at which it was last weighed
}

// Memory holds the evidence about a student's habits. The zero value is empty.
type Memory struct {
	Cards   int // that are remembered
	Level   Level
	Wrong   int // cards in a row that were not all right, with those that showed their working
	Right   int // cards in a row that were
	Tallies map[Key]Tally
	last    instrument.Family // of the last card
	habits  map[Key]habit
	weak    map[exercise.Code]bool // the habits, as they stand at the card weakAt
	weakAt  int
}

// halfLife is after how many cards what is known weighs half.
const halfLife = 20

// faded is a tally as it weighs at a card.
func (t Tally) faded(at int) Tally {
	by := math.Exp2(-float64(at-t.At) / halfLife)
	return Tally{t.Could * by, t.Wrong * by, t.Did * by, at}
}

// Of what is known before anything is: as if a slip had been made once in four times that it could have been.
const (
	priorDid   = 0.5
	priorCould = 2
)

// share returns the estimated share of cards on which the slip is made where it can be.
func (t Tally) share() float64 { return (t.Did + priorDid) / (t.Could + priorCould) }

// doubt returns how much another card would tell: most where the slip is as likely as not, and where little is known.
func (t Tally) doubt() float64 {
	p := t.share()
	return 4 * p * (1 - p) / math.Sqrt(1+t.Could/4)
}

// Level is the difficulty of a card.
type Level int

// The levels, easiest first.
const (
	Marks  Level = iota // whole marks
	Lines               // marks, lines and their sum
	Zeros               // and the zero error
	Mixed               // the same with awkward values
	levels = iota
)

// settings are those of a card of a level.
func (l Level) settings() map[string]string {
	return []map[string]string{
		{"ask": "main", "zero": "none", "awkward": "40", "between": "0"},
		{"ask": "main fine_line observed", "zero": "none", "awkward": "30", "between": "0"},
		{"ask": "main fine_line observed zero_error corrected", "zero": "varied", "awkward": "30"},
		{"ask": "main fine_line observed zero_error corrected", "zero": "varied", "awkward": "100"},
	}[min(max(l, 0), levels-1)]
}

// Card is a card to practise, with the reason why it is this one.
type Card struct {
	Item   exercise.Item
	Why    text.Text
	Worked bool // it comes with its whole working
}

// candidates is the number of cards that are drawn, of which the one that tells most is taken.
const candidates = 24

// Reading is the kind that everybody practises, and that has levels.
var Reading = kinds.All[0].Name()

// Read returns a block of readings on an instrument.
func Read(in *instrument.Instrument) exercise.Block {
	return exercise.Block{Kind: Reading, Instruments: []*instrument.Instrument{in}}
}

// Next draws the next card from the blocks that a student practises on. Readings are asked for as the student's level
// has it, on every second card or so, and more often while a habit shows; the other kinds as their blocks ask. Had
// tells cards that the student has had. What was learned and has not been met for some days comes back first. One seed
// gives the same card at the same time. It is an error where no block can be dealt.
func (m *Memory) Next(blocks []exercise.Block, seed uint64, now time.Time, had func(exercise.Item) bool) (Card, error) {
	draws := rand.New(rand.NewPCG(seed, uint64(m.Cards)))
	if again, err := m.again(blocks, draws, now, had); err != nil || again.Item != nil {
		return again, err
	}
	byKind := map[string][]exercise.Block{}
	var others []string
	for _, b := range blocks {
		if b.Kind != Reading && byKind[b.Kind] == nil {
			others = append(others, b.Kind)
		}
		byKind[b.Kind] = append(byKind[b.Kind], b)
	}
	slices.Sort(others)
	from := byKind[Reading]
	worked := m.worked()
	if m.elsewhere() { // on an instrument of another family, where there is one
		if others := slices.DeleteFunc(slices.Clone(from), func(b exercise.Block) bool {
			return b.Instruments[0].Spec().Family == m.last
		}); len(others) > 0 {
			from = others
		}
	}
	// On a first visit, and after two wrong in a row, what is read is the ground of everything else; and while a habit
	// shows, one card in four is of another kind.
	every := 2
	if len(m.Weakest(1)) > 0 {
		every = 4
	}
	if len(from) == 0 || len(others) > 0 && m.Cards > 0 && !m.eased() && !worked && draws.IntN(every) == 0 {
		from = byKind[others[draws.IntN(len(others))]]
	}
	best, err := m.drawOn(from, draws, had)
	if err != nil || best.Item == nil {
		best, err = m.drawOn(blocks, draws, nil) // all has been had
	}
	if best.Worked = worked; worked {
		best.Why = text.New("practice.worked")
	}
	return best, err
}

// drawOn draws a card of the level that is asked for, or of the easiest above it on which the slip can be made that the
// student makes most: an easier card from which a habit is kept away teaches nothing.
func (m *Memory) drawOn(from []exercise.Block, draws *rand.Rand, had func(exercise.Item) bool) (Card, error) {
	habit := m.Weakest(1)
	for level := m.asks(); ; level++ {
		worth := m.worth
		if shows := 0; len(habit) > 0 && level < Mixed {
			tried := 0
			worth = func(f instrument.Family, told map[exercise.Code]bool) (float64, exercise.Code) {
				if tried++; told[habit[0].Slip] {
					shows++
				} else if shows == 0 && tried >= enough {
					return never, ""
				}
				return m.worth(f, told)
			}
		}
		c, err := m.draw(from, draws, level, had, worth)
		if err != nil || len(habit) == 0 || level >= Mixed {
			return c, err
		}
		if c.Item != nil {
			if told, err := kinds.All.Telling(c.Item); err != nil || told[habit[0].Slip] {
				return c, err
			}
		}
	}
}

// enough is the number of cards by which it is seen that a habit cannot show on those of a level; a worth of never ends
// the drawing.
const (
	enough = 6
	never  = -2
)

// again draws a card on which a slip could be made that was learned and is due, the one that is due longest; none after
// two wrong in a row, and where no card tells the slip.
func (m *Memory) again(blocks []exercise.Block, draws *rand.Rand, now time.Time, had func(exercise.Item) bool) (Card,
	error) {
	if m.Wrong >= 2 {
		return Card{}, nil
	}
	for _, l := range m.Learned() {
		if l.Due.After(now) {
			break
		}
		from := slices.DeleteFunc(slices.Clone(blocks), func(b exercise.Block) bool {
			return b.Kind != Reading || b.Instruments[0].Spec().Family != l.Family
		})
		if len(from) == 0 {
			continue
		}
		tells := func(f instrument.Family, told map[exercise.Code]bool) (float64, exercise.Code) {
			if f != l.Family || !told[l.Slip] {
				return -1, ""
			}
			sum, _ := m.worth(f, told)
			return sum, l.Slip
		}
		c, err := m.draw(from, draws, Mixed, had, tells)
		if err != nil || c.Item == nil {
			return c, err
		}
		c.Why = text.New("practice.again", "slip", l.Slip.Name(), "days", int(now.Sub(l.Last)/(24*time.Hour)))
		return c, nil
	}
	return Card{}, nil
}

// draw draws cards of a level from some blocks and takes the one of most worth; none where all are worth less than
// nothing. A block that cannot be dealt is passed over.
func (m *Memory) draw(from []exercise.Block, draws *rand.Rand, level Level, had func(exercise.Item) bool,
	worth func(instrument.Family, map[exercise.Code]bool) (float64, exercise.Code)) (best Card, err error) {
	most := -1.0
	for range candidates {
		b := from[draws.IntN(len(from))]
		b.Cards = 1
		if n := len(b.Instruments); n > 1 { // the one card is on the first
			turn := draws.IntN(n)
			b.Instruments = slices.Concat(b.Instruments[turn:], b.Instruments[:turn])
		}
		if b.Kind == Reading {
			b.Settings = m.fits(level, b.Instruments[0])
		}
		sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{b}, Method: b.Method}
		var it exercise.Item
		if it, err = sheet.DealOne(kinds.All, draws.Uint64()); err != nil {
			continue
		}
		if had != nil && had(it) {
			continue
		}
		told, err := kinds.All.Telling(it)
		if err != nil {
			return best, err
		}
		worth, slip := worth(FamilyOf(it), told)
		if worth == never {
			return Card{}, nil
		}
		if worth > most {
			most, best = worth, Card{Item: it, Why: m.why(it, slip)}
		}
	}
	if best.Item != nil {
		err = nil
	}
	return best, err
}

// first is on how many cards a student is got to know. They ask for all there is, since such cards tell most.
const first = 10

// asks is the level of the next card.
func (m *Memory) asks() Level {
	switch {
	case m.eased(), m.worked():
		return max(m.Level-1, Marks)
	case m.Cards < first:
		return Mixed
	}
	return m.Level
}

// eased reports whether the next card is an easier one: after two wrong in a row, and at first one in three, so that
// somebody who has a habit is not kept from showing it.
func (m *Memory) eased() bool {
	if m.Cards < first {
		return m.Wrong%3 == 2
	}
	return m.Wrong%round >= 2
}

// round is the number of wrong cards after which a student who goes on getting them wrong is helped otherwise: two as
// ever, three that ask for less, one that shows its working, and then on to another instrument.
const round = 5

// worked reports whether the next card shows its working: where asking for less has not helped three times.
func (m *Memory) worked() bool { return m.Cards >= first && m.Wrong >= round && m.Wrong%round == 0 }

// elsewhere reports whether the next card is of another family: after one that showed its working.
func (m *Memory) elsewhere() bool { return m.Cards >= first && m.Wrong > round && m.Wrong%round == 1 }

// fits are a level's settings for an instrument: one without lines is asked for its reading.
func (m *Memory) fits(l Level, in *instrument.Instrument) map[string]string {
	s := l.settings()
	if !in.HasFine() {
		s["ask"] += " observed"
	}
	return s
}

// worth returns how much a card would tell and teach: the doubt that it would settle, and for each habit that can show
// on it how likely that is; and the slip that counts most.
func (m *Memory) worth(f instrument.Family, told map[exercise.Code]bool) (sum float64, most exercise.Code) {
	high := 0.0
	for _, code := range sorted(told) {
		t := m.Tallies[Key{f, code}].faded(m.Cards)
		d := t.doubt()
		if m.isHabit(code) {
			d += trains * t.share()
		}
		if sum += d; d > high {
			high, most = d, code
		}
	}
	return sum, most
}

// trains is how much a card counts on which a habit shows for certain, beside one that settles one full doubt.
const trains = 3

// isHabit reports whether a slip is made more often than chance would have it.
func (m *Memory) isHabit(code exercise.Code) bool {
	if m.weakAt != m.Cards || m.weak == nil {
		m.weak, m.weakAt = map[exercise.Code]bool{}, m.Cards
		for _, w := range m.Weakest(len(m.Tallies)) {
			m.weak[w.Slip] = true
		}
	}
	return m.weak[code]
}

func sorted(set map[exercise.Code]bool) []exercise.Code {
	out := make([]exercise.Code, 0, len(set))
	for code := range set {
		out = append(out, code)
	}
	slices.Sort(out)
	return out
}

// why says in a sentence why it is this card.
func (m *Memory) why(it exercise.Item, slip exercise.Code) text.Text {
	t := m.Tallies[Key{FamilyOf(it), slip}].faded(m.Cards)
	switch {
	case m.eased():
		return text.New("practice.less")
	case m.Cards == 0:
		return text.New("practice.first")
	case t.Did > 0.5:
		return text.New("practice.not-long-ago", "slip", slip.Name())
	case it.Kind() != Reading:
		return text.New("practice.of-class")
	}
	return text.New("practice.find-out", "name", it.Figures()[0].Instrument.Name())
}

// Past is the evidence from one practised card.
type Past struct {
	Family       instrument.Family
	Identifiable []exercise.Code // the slips that it would have told apart; none where its working was shown
	Did          exercise.Code   // the slip that was made; "" for none, and for two at once
	Right        bool            // all its marks
	At           time.Time       // when it was answered
}

// Identifiable lists the slips that a card could tell of a student who has taken some of its help: one whose whole
// working was shown tells nothing.
func Identifiable(it exercise.Item, hints int) ([]exercise.Code, error) {
	all, err := it.Hints()
	if err != nil {
		return nil, err
	}
	if slices.ContainsFunc(all[:min(hints, len(all))], func(h exercise.Hint) bool { return h.Worked }) {
		return nil, nil
	}
	told, err := kinds.All.Telling(it)
	return sorted(told), err
}

// Take takes in what a card told.
func (m *Memory) Take(p Past) {
	if m.Tallies == nil {
		m.Tallies = map[Key]Tally{}
	}
	worked := m.worked()
	m.Cards++
	m.last = p.Family
	if len(p.Identifiable) == 0 {
		if worked {
			m.Wrong++
		}
		return
	}
	could := append(slices.Clone(p.Identifiable), anywhere()...)
	if p.Did != "" && !slices.Contains(could, p.Did) {
		could = append(could, p.Did)
	}
	for _, code := range could {
		key := Key{p.Family, code}
		t := m.Tallies[key].faded(m.Cards)
		if t.Could++; !p.Right {
			t.Wrong++
		}
		if code == p.Did {
			t.Did++
		}
		m.Tallies[key] = t
		if m.habits == nil {
			m.habits = map[Key]habit{}
		}
		m.habits[key] = m.habits[key].after(code == p.Did, p.At)
	}
	m.step(p.Right)
}

// Could reports whether a slip could have been made on the card: one that it tells, one that was made, and one of those
// that can be made anywhere.
func (p Past) Could(code exercise.Code) bool {
	return p.Did == code || slices.Contains(p.Identifiable, code) || len(p.Identifiable) > 0 &&
		slices.Contains(anywhere(), code)
}

// anywhere are the slips of whole values, that can be made on every card.
var anywhere = sync.OnceValue(func() []exercise.Code {
	var out []exercise.Code
	for _, s := range kinds.Slips() {
		if s.Whole {
			out = append(out, s.Code)
		}
	}
	return out
})

// step moves the level: up after three right in a row, down after two wrong.
func (m *Memory) step(right bool) {
	if right {
		m.Right, m.Wrong = m.Right+1, 0
		if m.Right >= 3 {
			m.Level, m.Right = min(m.Level+1, levels-1), 0
		}
		return
	}
	m.Wrong, m.Right = m.Wrong+1, 0
	if m.Wrong == 2 {
		m.Level = max(m.Level-1, Marks)
	}
}

// Weakness is a slip that a student makes, on a family, with how likely it is where it can happen.
type Weakness struct {
	Key
	Share float64
	Did   float64 // weighted
}

// Weakest lists the slips that a student makes more often than chance would have it, up to most: first the one that
// explains most of what went wrong.
// It is empty while no pattern shows, as with somebody who guesses: wrong guesses hit now this slip and now that.
func (m *Memory) Weakest(most int) []Weakness {
	bySlip := map[exercise.Code]Tally{}
	for key, t := range m.Tallies {
		bySlip[key.Slip] = bySlip[key.Slip].plus(t.faded(m.Cards))
	}
	var out []Weakness
	for key, t := range m.Tallies {
		if now := t.faded(m.Cards); now.Did > 0.05 && bySlip[key.Slip].isPattern(chance(key.Slip)) {
			out = append(out, Weakness{key, now.share(), now.Did})
		}
	}
	// What explains most of what went wrong comes first.
	slices.SortFunc(out, func(a, b Weakness) int {
		return cmp.Or(cmp.Compare(bySlip[b.Slip].Did, bySlip[a.Slip].Did), cmp.Compare(a.Slip, b.Slip),
			cmp.Compare(b.Share, a.Share), cmp.Compare(a.Family, b.Family))
	})
	return out[:min(most, len(out))]
}

func (t Tally) plus(o Tally) Tally {
	return Tally{t.Could + o.Could, t.Wrong + o.Wrong, t.Did + o.Did, o.At}
}

// certain is the natural logarithm of the odds against chance from which on a pattern is believed.
const certain = 5.5

// chance returns the share of wrong cards, at the most, on which a guess is taken for a slip. Most slips give one value
// among many, and are hardly ever hit. A few explain much of what can be typed.
func chance(slip exercise.Code) float64 {
	switch slip {
	case slips.SumSlip, slips.FineLeftOut, slips.NeighbourLine, slips.NumberOff, slips.ValueForLine:
		return 0.1
	}
	return 0.03
}

// isPattern reports whether a slip is made on more of the wrong cards than chance would have it: by Chernoff's bound a
// share this large comes of chance with a probability of at most exp(-certain).
func (t Tally) isPattern(chance float64) bool {
	wrong := max(t.Wrong, t.Did)
	p := t.Did / max(wrong, 1)
	if p <= chance {
		return false
	}
	information := p * math.Log(p/chance)
	if p < 1 {
		information += (1 - p) * math.Log((1-p)/(1-chance))
	}
	return wrong*information >= certain
}

// Steady is a family of instruments that goes well: how many of its last cards were all right.
type Steady struct {
	Family    instrument.Family
	Right, Of int
}

// steadyOver is over how many of a family's last cards its share is taken; fewer than half of them say nothing.
const steadyOver = 10

// GoingWell lists the families of which at least four in five of the last cards were all right, the best first.
func GoingWell(past []Past) []Steady {
	byFamily := map[instrument.Family][]bool{}
	for _, p := range past {
		if p.Family != "" {
			byFamily[p.Family] = append(byFamily[p.Family], p.Right)
		}
	}
	var out []Steady
	for f, all := range byFamily {
		last := all[max(0, len(all)-steadyOver):]
		right := 0
		for _, r := range last {
			if r {
				right++
			}
		}
		if len(last) >= steadyOver/2 && 5*right >= 4*len(last) {
			out = append(out, Steady{f, right, len(last)})
		}
	}
	slices.SortFunc(out, func(a, b Steady) int {
		return cmp.Or(cmp.Compare(b.Right*a.Of, a.Right*b.Of), cmp.Compare(b.Of, a.Of), cmp.Compare(a.Family, b.Family))
	})
	return out
}

// NoLongerMade lists the slips that a student made, and has not made any more for the last so many cards on which each
// could have been made, the longest gone first.
func NoLongerMade(past []Past, since int) []exercise.Code {
	last, ago := map[exercise.Code]bool{}, map[exercise.Code]int{}
	for _, p := range past {
		for _, code := range p.Identifiable {
			ago[code]++
		}
		if p.Did != "" {
			last[p.Did], ago[p.Did] = true, 0
		}
	}
	var out []exercise.Code
	for code := range last {
		if ago[code] >= since {
			out = append(out, code)
		}
	}
	slices.SortFunc(out, func(a, b exercise.Code) int { return cmp.Or(cmp.Compare(ago[b], ago[a]), cmp.Compare(a, b)) })
	return out
}

// FamilyOf returns the family of the instrument that a card shows; "" for a card without one.
func FamilyOf(it exercise.Item) instrument.Family {
	for _, f := range it.Figures() {
		return f.Instrument.Spec().Family
	}
	return ""
}

// Position tells cards apart: readings by instrument and position, others by all that they ask.
func Position(it exercise.Item) (string, error) {
	if it.Kind() == Reading {
		f := it.Figures()[0]
		return f.Instrument.Name() + "\x00" + f.Instrument.Describe().String() + "\x00" + f.At.String(), nil
	}
	doc, err := exercise.Document(it)
	return string(doc), err
}
