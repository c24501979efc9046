package practice

import (
	"cmp"
	"slices"
	"time"
)

// habit is how it went with a slip on a family of instruments, over all cards on which it could have been made.
type habit struct {
	did   int           // times that it was made
	clean int           // cards since then without it
	last  time.Time     // when the last card was answered
	wait  time.Duration // after how long without such a card it comes back, once it is learned
}

const (
	habitual  = 2 // times that make a habit
	unlearned = 5 // cards without it that end one

	firstWait = 2 * 24 * time.Hour
	longest   = 64 * 24 * time.Hour
)

// after is a habit after one more card, on which the slip was made or not. When it comes back and is not made, it waits
// twice as long; when it is made, it must be learned anew.
func (h habit) after(made bool, at time.Time) habit {
	waited := at.Sub(h.last)
	h.last = at
	if made {
		h.did, h.clean, h.wait = h.did+1, 0, 0
		return h
	}
	h.clean++
	switch {
	case h.did < habitual || h.clean < unlearned:
	case h.wait == 0:
		h.wait = firstWait
	case waited >= h.wait:
		h.wait = min(2*h.wait, longest)
	}
	return h
}

// Learned is a slip, on a family of instruments, that a student used to make and has not made for a while.
type Learned struct {
	Key
	Last time.Time // when it could last have been made
	Due  time.Time // when it comes back, unless a card on which it can be made comes before
}

// Learned lists what a student has learned, by when it comes back, the soonest first.
func (m *Memory) Learned() []Learned {
	var out []Learned
	for key, h := range m.habits {
		if h.wait > 0 {
			out = append(out, Learned{key, h.last, h.last.Add(h.wait)})
		}
	}
	slices.SortFunc(out, func(a, b Learned) int {
		return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.Slip, b.Slip), cmp.Compare(a.Family, b.Family))
	})
	return out
}
