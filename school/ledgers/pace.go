package ledgers

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/sitting"
)

// Pace holds the times of an attempt at a sheet.
type Pace struct {
	Took    time.Duration         // from its beginning to its end, as far as it has one; 0 where that is not known
	Cards   map[int]time.Duration // by number: until it was answered, or the next one was first looked at
	TooFast bool                  // nobody reads so fast
}

// minPerCard is the least that a card takes which earns marks: who is quicker over a whole attempt has not read it.
const minPerCard = 3 * time.Second

// AttemptKey names an attempt of a student's at some sheet.
type AttemptKey struct {
	Student int64
	Attempt int
}

// Paces works out how long each attempt at a sheet of an instructor's took.
func (svc *Service) Paces(ctx context.Context, instructor, assignment int64) (map[AttemptKey]Pace, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	read := svc.store
	list, err := sitting.ListPaces(ctx, read, instructor, assignment)
	out := map[AttemptKey]Pace{}
	for begin := 0; begin < len(list); {
		end := begin + 1
		for end < len(list) && list[end].Student == list[begin].Student && list[end].Attempt == list[begin].Attempt {
			end++
		}
		out[AttemptKey{list[begin].Student, list[begin].Attempt}] = newPace(list[begin:end])
		begin = end
	}
	return out, err
}

// newPace works out one attempt; its cards come as they were first looked at.
func newPace(cards []sitting.PaceRow) Pace {
	p := Pace{Cards: map[int]time.Duration{}}
	seen, cardsWithMarks, last := false, 0, cards[0].Handed
	for i, c := range cards {
		if c.Answered.IsZero() {
			continue
		}
		if c.Earns {
			cardsWithMarks++
		}
		if c.Handed.IsZero() && c.Answered.After(last) {
			last = c.Answered
		}
		if c.Seen.IsZero() {
			continue
		}
		seen = true
		until := c.Answered
		if i+1 < len(cards) && cards[i+1].Seen.Before(until) {
			until = cards[i+1].Seen
		}
		p.Cards[c.N] = max(0, until.Sub(c.Seen))
	}
	// What nobody has looked at here was done on paper, and typed in by somebody else.
	if began := cards[0].Began; seen && !last.Before(began) && !began.IsZero() {
		p.Took = max(time.Second, last.Sub(began)) // kept to the second
		p.TooFast = p.Took < time.Duration(cardsWithMarks)*minPerCard
	}
	return p
}
