package exercise

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"
)

// Dot says what one card can tell of one slip.
type Dot int

// What a card can tell.
const (
	Never        Dot = iota // the slip cannot happen on it
	WithOthers              // a wrong answer names the slip together with another, or another before it
	WithSynonyms            // together with slips only that put a value off by the same, whatever the value
	Alone                   // a wrong answer names it first and alone
)

// Coverage says what a sheet, as one student gets it, can tell.
type Coverage struct {
	Slips    []Covered
	Together [][2]Slip // pairs that can both happen and that no card tells apart
}

// Covered is a slip with what each card can tell of it.
type Covered struct {
	Slip
	Dots []Dot
}

// Count returns the number of cards that identify the slip at least to this degree.
func (c Covered) Count(least Dot) int {
	n := 0
	for _, d := range c.Dots {
		if d >= least {
			n++
		}
	}
	return n
}

// Coverer finds out what cards can tell. It remembers it of each card: of a sheet that is changed a little, most cards
// stay. The zero Coverer remembers nothing yet.
type Coverer struct {
	mu    sync.Mutex
	named map[string]named // by the card's document
}

// named is what marking a card names when a slip is made.
type named map[Code][]Code

// remembered bounds the cards that a Coverer remembers: some kilobytes each.
const remembered = 1000

// Cover finds out what cards can tell: on each, every slip that can happen is made and the answer marked. Slips are
// listed in the order that is given; those that happen on none of the cards are left out, but for the possible ones.
func (c *Coverer) Cover(items []Item, slips []Slip, possible map[Code]bool) (Coverage, error) {
	known := make(map[Code]Slip, len(slips))
	for _, s := range slips {
		known[s.Code] = s
	}
	all, err := c.ask(items, known)
	if err != nil {
		return Coverage{}, err
	}
	dots := make(map[Code][]Dot, len(slips))
	for i, one := range all {
		for code, names := range one {
			if dots[code] == nil {
				dots[code] = make([]Dot, len(items))
			}
			dots[code][i] = dotOf(code, names, known)
		}
	}
	var out Coverage
	for _, s := range slips {
		of := dots[s.Code]
		if of == nil && possible[s.Code] {
			of = make([]Dot, len(items))
		}
		if of != nil {
			out.Slips = append(out.Slips, Covered{s, of})
		}
	}
	out.together(all)
	return out, nil
}

// ask returns what marking names on each of some cards.
func (c *Coverer) ask(items []Item, known map[Code]Slip) ([]named, error) {
	return onEach(items, func(it Item) (named, error) {
		key, err := Document(it)
		if err != nil {
			return nil, err
		}
		c.mu.Lock()
		out, asked := c.named[string(key)]
		c.mu.Unlock()
		if asked {
			return out, nil
		}
		if out, err = namedOn(it, known); err != nil {
			return nil, err
		}
		c.mu.Lock()
		defer c.mu.Unlock()
		if c.named == nil || len(c.named) >= remembered {
			c.named = map[string]named{}
		}
		c.named[string(key)] = out
		return out, nil
	})
}

// onEach asks for each of some cards, on all processors. A panic is an error.
func onEach[T any](items []Item, ask func(Item) (T, error)) ([]T, error) {
	out := make([]T, len(items))
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i, it := range items {
		g.Go(func() (err error) {
			defer func() {
				if p := recover(); p != nil {
					err = fmt.Errorf("panic: %v\n%s", p, debug.Stack())
				}
			}()
			out[i], err = ask(it)
			return err
		})
	}
	return out, g.Wait()
}

// Possible returns the slips that can happen on cards of the sheet, as some students get them.
func (s *Sheet) Possible(kinds Kinds, students int) (map[Code]bool, error) {
	var items []Item
	for seed := range uint64(students) {
		dealt, err := s.Deal(kinds, mix(seed, streamOf))
		if err != nil {
			return nil, err
		}
		items = append(items, dealt...)
	}
	known := kinds.slips()
	all, err := onEach(items, func(it Item) (map[Code]bool, error) { return possibleOn(it, known) })
	out := map[Code]bool{}
	for _, one := range all {
		maps.Copy(out, one)
	}
	return out, err
}

// possibleOn returns the slips that can happen on a card.
func possibleOn(it Item, known map[Code]Slip) (map[Code]bool, error) {
	w, err := newWriting(it)
	if err != nil {
		return nil, err
	}
	chosen, out := named{}, map[Code]bool{}
	if err := w.choose(chosen, known); err != nil {
		return nil, err
	}
	for code := range chosen {
		out[code] = true
	}
	for _, p := range w.all {
		if p.Part != Anywhere {
			out[p.Code] = true
		}
	}
	return out, nil
}

// namedOn makes every slip that can happen on a card, and returns what marking then names.
func namedOn(it Item, known map[Code]Slip) (named, error) {
	w, err := newWriting(it)
	if err != nil {
		return nil, err
	}
	out := named{}
	draws := rand.New(rand.NewPCG(0, 0)) // of a slip with several values, one
	for _, p := range w.all {
		if _, done := out[p.Code]; done || p.Part == Anywhere {
			continue
		}
		first := w.where(p.Code, draws)
		if first == nil {
			continue
		}
		a, err := w.fill([]Prediction{*first})
		if err != nil {
			return nil, err
		}
		r, err := it.Mark(a)
		if err != nil {
			return nil, err
		}
		out[p.Code] = r.Slips
	}
	return out, w.choose(out, known)
}

// choose makes every wrong choice in an answer that is right otherwise, and adds what marking then names. What is
// named fewer others with stays. Slips of whole values are left out, as they can be made on any card.
func (w *writing) choose(out named, known map[Code]Slip) error {
	for _, f := range w.fields {
		for _, option := range f.Options {
			a := maps.Clone(w.expected)
			if a[f.Name] = option; f.Input != Options || option == w.expected[f.Name] {
				continue
			}
			r, err := w.it.Mark(a)
			if err != nil {
				return err
			}
			if len(r.Slips) == 0 || known[r.Slips[0]].Whole {
				continue
			}
			first := r.Slips[0]
			if names, done := out[first]; !done || len(r.Slips) < len(names) {
				out[first] = r.Slips
			}
		}
	}
	return nil
}

// dotOf says what names tell of the slip that was made.
func dotOf(code Code, names []Code, known map[Code]Slip) Dot {
	if !slices.Contains(names, code) {
		return WithOthers
	}
	dot := Alone
	for _, o := range names {
		switch {
		case o == code:
		case known[code].Alike(known[o]):
			dot = min(dot, WithSynonyms)
		default:
			return WithOthers
		}
	}
	return dot
}

// together finds the pairs that no card tells apart: wherever one is made the other is named too.
func (c *Coverage) together(all []named) {
	apart := func(a, b Code) (both, apart bool) {
		for _, card := range all {
			names, can := card[a]
			if _, other := card[b]; !can || !other {
				apart = apart || can != other
				continue
			}
			both = true
			apart = apart || !slices.Contains(names, b)
		}
		return both, apart
	}
	for i, a := range c.Slips {
		for _, b := range c.Slips[i+1:] {
			if both, told := apart(a.Code, b.Code); both && !told {
				c.Together = append(c.Together, [2]Slip{a.Slip, b.Slip})
			}
		}
	}
}
