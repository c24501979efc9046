// Package analysis knows what a class's answers to a sheet say: how many are right card by card, which slips are behind
// the others, who makes them, and how well a card tells those who can read from those who cannot. Everything follows
// from what each card came to.
package analysis

import (
	"cmp"
	"slices"

	"cavix/core/exercise"
	"cavix/core/length"
)

// Outcome is the result of one student's card.
type Outcome struct {
	Student    int64
	Card       int // its number on the sheet
	Earned, Of length.Number
	Slip       exercise.Code // the first; "" for none
}

// Right reports whether the card earned all its marks.
func (o Outcome) Right() bool { return o.Of.Sign() > 0 && o.Earned.Equal(o.Of) }

// Card summarises the answers to one card of a sheet.
type Card struct {
	N        int
	Answered int
	Right    int               // that earned all marks
	Slips    []Slip            // behind the others, those made most first
	Unnamed  int               // others, without a slip
	Apart    length.Number     // how well it tells those who can from those who cannot, from −1 to 1
	Told     bool              // enough have answered to say so
	Students map[int64]Outcome // by student
}

// Slip is a slip with who made it and on which cards.
type Slip struct {
	Code     exercise.Code
	Made     int     // cards
	Students []int64 // each once, in order
	Cards    []int   // numbers, each once, in order
}

// fewest is the number of students who must have answered before thirds of them are compared.
const fewest = 6

// Cards looks at a sheet card by card, in the order of their numbers.
func Cards(list []Outcome) []Card {
	by, of := map[int]*Card{}, map[int][]Outcome{}
	for _, o := range list {
		of[o.Card] = append(of[o.Card], o)
	}
	for n, some := range of {
		by[n] = &Card{N: n, Students: make(map[int64]Outcome, len(some))}
	}
	for _, o := range list {
		c := by[o.Card]
		c.Students[o.Student] = o
		c.Answered++
		switch {
		case o.Right():
			c.Right++
		case o.Slip == "":
			c.Unnamed++
		}
	}
	low, high := thirds(list)
	out := make([]Card, 0, len(by))
	for _, c := range by {
		c.Slips = Slips(of[c.N])
		c.Apart, c.Told = apart(c.Students, low, high)
		out = append(out, *c)
	}
	slices.SortFunc(out, func(a, b Card) int { return cmp.Compare(a.N, b.N) })
	return out
}

// thirds are the students with the least and with the greatest share of marks on the whole sheet; none where there are
// too few to compare.
func thirds(list []Outcome) (low, high []int64) {
	type student struct {
		id         int64
		earned, of length.Number
	}
	by := map[int64]*student{}
	for _, o := range list {
		s := by[o.Student]
		if s == nil {
			s = &student{id: o.Student}
			by[o.Student] = s
		}
		s.earned, s.of = s.earned.Add(o.Earned), s.of.Add(o.Of)
	}
	var all []student
	for _, s := range by {
		if s.of.Sign() > 0 {
			all = append(all, *s)
		}
	}
	if len(all) < fewest {
		return nil, nil
	}
	slices.SortFunc(all, func(a, b student) int {
		return cmp.Or(a.earned.Quo(a.of).Cmp(b.earned.Quo(b.of)), cmp.Compare(a.id, b.id))
	})
	n := len(all) / 3
	for _, s := range all[:n] {
		low = append(low, s.id)
	}
	for _, s := range all[len(all)-n:] {
		high = append(high, s.id)
	}
	return low, high
}

// apart is the discrimination of a card: the share of its marks that the upper third earned, less that of the lower
// third.
func apart(by map[int64]Outcome, low, high []int64) (length.Number, bool) {
	share := func(ids []int64) (length.Number, bool) {
		var earned, of length.Number
		for _, id := range ids {
			o := by[id]
			earned, of = earned.Add(o.Earned), of.Add(o.Of)
		}
		if of.Sign() == 0 {
			return length.Number{}, false
		}
		return earned.Quo(of), true
	}
	l, some := share(low)
	h, others := share(high)
	return h.Sub(l), some && others
}

// Slips lists the slips that were made, by how many students made them, then on how many cards.
func Slips(list []Outcome) []Slip {
	by := map[exercise.Code]*Slip{}
	for _, o := range list {
		if o.Slip == "" {
			continue
		}
		s := by[o.Slip]
		if s == nil {
			s = &Slip{Code: o.Slip}
			by[o.Slip] = s
		}
		s.Made++
		if n := len(s.Students); n == 0 || s.Students[n-1] != o.Student {
			s.Students = append(s.Students, o.Student)
		}
		if at, has := slices.BinarySearch(s.Cards, o.Card); !has {
			s.Cards = slices.Insert(s.Cards, at, o.Card)
		}
	}
	out := make([]Slip, 0, len(by))
	for _, s := range by {
		slices.Sort(s.Students)
		s.Students = slices.Compact(s.Students)
		out = append(out, *s)
	}
	slices.SortFunc(out, func(a, b Slip) int {
		return cmp.Or(cmp.Compare(len(b.Students), len(a.Students)), cmp.Compare(b.Made, a.Made),
			cmp.Compare(a.Code, b.Code))
	})
	return out
}
