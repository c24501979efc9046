// Package watch looks at a sheet while a class works on it: who has been on one card for long against the others, and
// which slip is spreading just now.
package watch

import (
	"cmp"
	"slices"
	"time"

	"cavix/core/exercise"
)

// CardState is a card as far as a student has come with it.
type CardState struct {
	Student  int64
	Card     int           // its number
	Seen     time.Time     // when the student first looked at it; zero where that is not known
	Answered time.Time     // zero while it is not answered
	Slip     exercise.Code // the first that was made; "" for none
}

// Wait is a student's time on the present card.
type Wait struct {
	Card   int
	For    time.Duration
	Median time.Duration // of those who have answered it; 0 where fewer than three have
}

// When somebody is stuck: at least so long, and so many times as long as the median of those who have answered the
// card. Where too few have, anybody is who has been on it for long. Who has not moved for hours is not there any more.
const (
	least   = 2 * time.Minute
	times   = 2
	long    = 6 * time.Minute
	gone    = 45 * time.Minute
	enough  = 3
	atLeast = 2 // students who make a slip that spreads
)

// Stuck tells, of each student who is on a card for long against the others, how long.
func Stuck(list []CardState, now time.Time) map[int64]Wait {
	took := map[int][]time.Duration{}
	on := map[int64]CardState{}
	moved := map[int64]time.Time{}
	for _, s := range list {
		switch {
		case s.Seen.IsZero():
		case !s.Answered.IsZero():
			took[s.Card] = append(took[s.Card], s.Answered.Sub(s.Seen))
		case on[s.Student].Seen.Before(s.Seen):
			on[s.Student] = s
		}
		if moved[s.Student].Before(s.Answered) {
			moved[s.Student] = s.Answered
		}
	}
	out := map[int64]Wait{}
	for student, s := range on {
		since := s.Seen
		if since.Before(moved[student]) { // was at another card meanwhile
			since = moved[student]
		}
		w := Wait{Card: s.Card, For: now.Sub(since), Median: median(took[s.Card])}
		limit := max(least, times*w.Median)
		if w.Median == 0 {
			limit = long
		}
		if w.For >= limit && w.For < gone {
			out[student] = w
		}
	}
	return out
}

// median is the middle one of durations; 0 of fewer than three.
func median(list []time.Duration) time.Duration {
	if len(list) < enough {
		return 0
	}
	list = slices.Clone(list)
	slices.Sort(list)
	return list[len(list)/2]
}

// Spread is a slip that several students make.
type Spread struct {
	Slip     exercise.Code
	Students []int64
	Cards    int
}

// Spreading lists the slips that were made since a time by two students or more, those made by most first.
func Spreading(list []CardState, since time.Time) []Spread {
	by := map[exercise.Code]*Spread{}
	for _, s := range list {
		if s.Slip == "" || s.Answered.Before(since) {
			continue
		}
		if by[s.Slip] == nil {
			by[s.Slip] = &Spread{Slip: s.Slip}
		}
		by[s.Slip].Cards++
		if !slices.Contains(by[s.Slip].Students, s.Student) {
			by[s.Slip].Students = append(by[s.Slip].Students, s.Student)
		}
	}
	var out []Spread
	for _, s := range by {
		if len(s.Students) >= atLeast {
			out = append(out, *s)
		}
	}
	slices.SortFunc(out, func(a, b Spread) int {
		return cmp.Or(cmp.Compare(len(b.Students), len(a.Students)), cmp.Compare(b.Cards, a.Cards),
			cmp.Compare(a.Slip, b.Slip))
	})
	return out
}
