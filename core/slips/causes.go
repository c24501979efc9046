package slips

import (
	"slices"
	"strings"
	"sync"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// Causes names what explains the wrong entries of one card.
type Causes struct {
	place    Place
	solution *Solution
	work     *exercise.Working
	now      *attempt   // at the step that is looked at: room that is used again at every step
	changes  []change   // room for slips, likewise
	asked    []*attempt // what earlier entries should have been, for slips that later sums look back on
}

// usualChanges is the number of changes that slips make at a step of most instruments.
const usualChanges = 24

// change is the amount that a slip would add to the value of a step.
type change struct {
	*row
	by    length.Number
	units int64 // of the grid on which pairs are compared
}

// NewCauses begins to name the causes of entries that are marked against a solution of a place.
func NewCauses(p Place, s *Solution, w *exercise.Working) *Causes {
	return &Causes{place: p, solution: s, work: w}
}

// Of names every slip that explains a wrong entry of a step that should hold want, in table order; pairs
// only where no single one does. A main reading may be written with the base in it or without.
func (c *Causes) Of(step string, want length.Number, e *exercise.Entry) []exercise.Code {
	if c.now == nil {
		c.now, c.changes = &attempt{made: make([]length.Number, 0, usualChanges)}, make([]change, 0, usualChanges)
	}
	a := c.now
	c.set(a, step, want)
	a.write(e.Value)
	a.whole = c.partsRight(step)
	if e.Converted {
		a.near = c.place.Near(step)
	}
	if within := c.place.tolerance(); within.Sign() > 0 && slices.Contains(estimated, step) {
		a.estimate = within.Mul(c.place.Instrument.LineWorth())
		if IsLine(step) {
			a.estimate, a.round = within, length.Int(int64(c.place.Instrument.Lines()))
		}
	}
	tries := []*attempt{a}
	if base := c.solution.Base; step == Main && base.Sign() != 0 {
		with := *a
		with.want = want.Add(base)
		with.write(a.own)
		tries = append(tries, &with)
	}
	found := []exercise.Code{}
	changes := c.changes[:0]
	defer func() { c.changes = changes }()
	for _, s := range c.place.order(step) {
		if s.fits != nil {
			if (s.code != SumSlip || len(found) == 0) && fitsAny(s, tries) {
				found = append(found, s.code)
			}
			continue
		}
		hit := false
		for _, by := range s.delta(a) {
			if !s.alone {
				changes = append(changes, change{row: s, by: by})
			}
			for _, a := range tries {
				hit = hit || a.differs(by)
			}
		}
		if hit && !c.ruledOut(s, step) {
			found = append(found, s.code)
		}
	}
	if len(found) > 0 {
		return found
	}
	for _, a := range tries {
		for _, pair := range c.pairs(a, changes) {
			if !slices.Contains(found, pair) {
				found = append(found, pair)
			}
		}
	}
	return found
}

func fitsAny(s *row, tries []*attempt) bool {
	return slices.ContainsFunc(tries, func(a *attempt) bool { return s.fits(a) })
}

// orders holds what order has returned, by orderKey: slips are asked for at every wrong entry.
var orders sync.Map // of []*row

// orderKey is what the order of the slips depends on.
type orderKey struct {
	has    instrument.Traits
	step   string
	closed bool
}

// order is the table in the order in which it is named at a step, without what the step or the instrument rules out: on
// a zero error its own slips stand at the head, and on what a zero error is read off on a closed card.
func (p *Place) order(step string) []*row {
	k := orderKey{p.Instrument.Traits(), step, p.Closed}
	if rows, ok := orders.Load(k); ok {
		return rows.([]*row)
	}
	var head, rest []*row
	for i := range table {
		r := &table[i]
		switch zero := step == ZeroError || p.Closed && step != Observed && step != Corrected; {
		case !r.possible(step, &k.has):
		case zero && r.part == partZero:
			head = append(head, r)
		default:
			rest = append(rest, r)
		}
	}
	rows := append(head, rest...)
	orders.Store(k, rows)
	return rows
}

// pairs names two slips of different parts that together give what was written, each pair in table order.
func (c *Causes) pairs(a *attempt, changes []change) []exercise.Code {
	found := []exercise.Code{}
	in := c.place.Instrument
	grid, off := a.grid(changes)
	for i := range changes {
		x := &changes[i]
		for j := i + 1; j < len(changes); j++ {
			y := &changes[j]
			if grid != 0 && x.units+y.units != off || !a.differs(x.by.Add(y.by)) || x.partOn(in) == y.partOn(in) ||
				c.ruledOut(x.row, a.step) || c.ruledOut(y.row, a.step) {
				continue
			}
			first, second := x.row, y.row
			if second.place < first.place { // at a zero error its own slips are looked at first
				first, second = second, first
			}
			if pair := first.code.Pair(second.code); !slices.Contains(found, pair) {
				found = append(found, pair)
			}
		}
	}
	return found
}

// grid expresses the changes, and by how much what was written differs, in units of a common grid; it returns 0 where
// an entry need not be exact, or numbers go round.
func (a *attempt) grid(changes []change) (grid length.Grid, off int64) {
	if a.near.Sign() > 0 || a.estimate.Sign() > 0 || a.has.Round {
		return 0, 0
	}
	grid = 1
	grid.Hold(a.off)
	for i := range changes {
		grid.Hold(changes[i].by)
	}
	if grid == 0 {
		return 0, 0
	}
	for i := range changes {
		changes[i].units = grid.Of(changes[i].by)
	}
	return grid, grid.Of(a.off)
}

// set makes a the try at a step that should hold want, with what the earlier steps have come to.
func (c *Causes) set(a *attempt, step string, want length.Number) {
	v := func(step string) length.Number { return c.work.Value(c.place.name(step)) }
	zero := v(ZeroError)
	if c.place.Method.Correction() {
		zero = zero.Neg()
	}
	*a = attempt{Place: &c.place, step: step, want: want, at: &c.solution.Shown,
		line: v(FineLine), fine: v(Fine), finer: v(Finer), obs: v(Observed), zero: zero,
		work: c.work, fromEnd: c.solution.FromEnd, made: a.made[:0]}
	a.settle()
}

// settle puts what the step itself should hold in place of what was written, and for a zero error the
// closed position in place of the open one.
func (a *attempt) settle() {
	a.has = a.Instrument.Traits()
	switch a.step {
	case FineLine:
		a.line = a.want
	case Fine:
		a.fine = a.want
	case Finer:
		a.finer = a.want
	}
	if a.step == ZeroError && !a.Closed {
		// It was never on the card as a main and a fine entry.
		r := a.atRest(*a.at)
		a.at, a.line, a.fine, a.finer = &r, r.LineNumber(), r.Fine, r.ThimbleVernier
	}
}

// onlyUnread are the slips of reading the zero error.
var onlyUnread = []exercise.Code{ZeroCountedForward, ZeroEndNotTaken, ZeroCountedBack}

// OnlyUnread reports whether a slip of reading the zero error explains a corrected reading only where that was not
// asked.
func OnlyUnread(c exercise.Code) bool { return slices.Contains(onlyUnread, c) }

// own lists each part's own steps, in which a slip of that part would have shown.
var own = map[part][]string{partMain: {Main}, partFine: {FineLine, Fine}, partFiner: {FinerLine, Finer},
	partZero: {ZeroError}}

// ruledOut reports whether a slip cannot explain a sum, since its part was asked and answered without it.
func (c *Causes) ruledOut(s *row, step string) bool {
	switch step {
	case Observed:
	case ZeroError:
		if !c.place.Closed {
			return false
		}
	case Corrected:
		if s.part == partZero { // a zero error that is read rightly can still be applied wrongly
			return OnlyUnread(s.code) && c.work.Entry(c.place.name(ZeroError)) != nil
		}
		done := c.work.Done()
		for i := range done {
			m := &done[i]
			if m.Field == c.place.name(Observed) && m.Outcome != exercise.Wrong && m.Outcome != exercise.Missing {
				return true // what went into it is settled
			}
		}
	default:
		return false
	}
	done, parts := c.work.Done(), own[s.partOn(c.place.Instrument)]
	for i := range done {
		m := &done[i]
		of := strings.TrimSuffix(m.Field, c.place.Plate)
		if c.place.name(of) != m.Field || !slices.Contains(parts, of) || of == step ||
			m.Outcome == exercise.Missing || m.Outcome == exercise.Carried || slices.Contains(m.Slips, s.code) {
			continue
		}
		if a := c.askedFor(of); s.possible(of, &a.has) && len(s.delta(a)) > 0 {
			return true
		}
	}
	return false
}

// askedFor is the attempt at an earlier step, as it should have been.
func (c *Causes) askedFor(step string) *attempt {
	for _, a := range c.asked {
		if a.step == step {
			return a
		}
	}
	a := &attempt{}
	c.set(a, step, c.solution.Step(step))
	c.asked = append(c.asked, a)
	return a
}

// partsRight reports whether a sum's parts were all asked and are right in value.
func (c *Causes) partsRight(step string) bool {
	right := func(name string) bool {
		done := c.work.Done()
		for i := range done {
			if done[i].Field == c.place.name(name) {
				return done[i].ByValue()
			}
		}
		return false
	}
	switch step {
	case Observed:
		in := c.place.Instrument
		asked := func(length, line string) string {
			if c.work.Entry(c.place.name(length)) != nil {
				return length
			}
			return line // the card prints the least count beside the line
		}
		return right(Main) && (!in.HasFine() || right(asked(Fine, FineLine))) &&
			(!in.HasFiner() || right(asked(Finer, FinerLine)))
	case Corrected:
		return right(Observed) && right(ZeroError)
	}
	return false
}

// clean is an attempt at a step whose earlier entries are all right.
func (s *Solution) clean(step string) *attempt {
	a := &attempt{Place: &s.place, step: step, want: s.Step(step), at: &s.Shown,
		line: s.Step(FineLine), fine: s.Fine, finer: s.ThimbleVernier, obs: s.Observed,
		zero: s.place.Instrument.ZeroError(), made: make([]length.Number, 0, 16)}
	a.settle()
	return a
}

// Predictions returns what each slip of a definite value would make of a step whose earlier entries are
// right, in table order.
func (s *Solution) Predictions(step string) []exercise.Prediction {
	return s.predictions(s.clean(step))
}

func (s *Solution) predictions(a *attempt) []exercise.Prediction {
	out := make([]exercise.Prediction, 0, 32)
	for _, r := range s.place.order(a.step) {
		if r.delta == nil {
			continue
		}
		for _, by := range r.delta(a) {
			out = append(out, exercise.Prediction{Field: a.step, Code: r.code, Value: a.want.Add(by),
				Part: partNames[r.partOn(s.place.Instrument)]})
		}
	}
	return out
}

// Misreadings returns what slips of whole values may make of a step, besides its predictions: all of them, or those
// named.
func (s *Solution) Misreadings(step string, only ...exercise.Code) []exercise.Prediction {
	a := s.clean(step)
	out := s.predictions(a)
	for _, r := range s.place.order(step) {
		if r.gives == nil || len(only) > 0 && !slices.Contains(only, r.code) {
			continue
		}
		for _, x := range r.gives(a) {
			if a.write(x); a.off.Sign() != 0 && r.fits(a) {
				out = append(out, exercise.Prediction{Field: step, Code: r.code, Value: x, Part: exercise.Anywhere})
			}
		}
	}
	return out
}

// Misplaced returns the single slips by which somebody who has set the instrument to y believes that it shows x, in
// table order. Slips that would fit far too many positions are left out.
func (p Place) Misplaced(step string, y, x length.Number) []exercise.Code {
	return slices.DeleteFunc(p.Names(step, y, x), func(c exercise.Code) bool {
		return c == LineAsUnits ||
			c == RoundedOff
	})
}

// Names returns the single slips by which somebody who reads the instrument at y comes to x for a step,
// in table order; none where x is right.
func (p Place) Names(step string, y, x length.Number) []exercise.Code {
	found := []exercise.Code{}
	solutions, err := p.Solutions(y, nil)
	if err != nil {
		return found
	}
	s := solutions[0]
	a := s.clean(step)
	if a.write(x); a.off.Sign() == 0 {
		return found
	}
	for _, t := range p.order(step) {
		if t.fits != nil {
			if t.fits(a) {
				found = append(found, t.code)
			}
			continue
		}
		for _, by := range t.delta(a) {
			if a.equal(a.want.Add(by)) {
				found = append(found, t.code)
				break
			}
		}
	}
	return found
}

// All lists the slips of reading in table order.
func All() []exercise.Slip {
	out := make([]exercise.Slip, len(table))
	for i, s := range table {
		out[i] = exercise.Slip{Code: s.code, Like: alike(s.code), Whole: s.part == partWhole,
			Since: s.since}
	}
	return out
}

// IsWhole reports whether a slip of reading is one of the whole value, which can be made on any card.
func IsWhole(c exercise.Code) bool {
	return slices.ContainsFunc(table, func(r row) bool { return r.code == c && r.part == partWhole })
}

// alike names the slips that put every value off by one main division more, by one less, or tenfold: each is a way
// of its own to do so, and by the number alone nobody can tell which it was.
func alike(c exercise.Code) []string {
	switch c {
	case LastLineCounted, MarkCountedEarly, HiddenMarkMissed, HalfMarkAdded, TurnCountedTwice, MainNextMark:
		return []string{"a mark more"}
	case MarkCountedLate, HalfMarkMissed, MainMarkMissed, MainAtPlateEdge, HalfDivisionMissed:
		// From the middle of a short plate on, the edge stands just after the mark before: to keep them apart only the
		// plate's first half could be asked.
		return []string{"a mark less"}
	case ZeroCountedForward, ZeroCountedBack: // one puts the zero error off by a cycle more, the other by one less
		return []string{"a mark more", "a mark less"}
	case FineBackwards, ZeroEndNotTaken: // of the zero error of a drum or dial
		return []string{"from the wrong end"}
	case PlaceShift, UnitTenfold: // of a fine reading that is asked by itself
		return []string{"tenfold"}
	}
	return nil
}
