package ledgers

import (
	"context"
	"slices"
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

// Attempts lists all attempts at a sheet of an instructor's, by student and attempt, with what their cards came to.
func (svc *Service) Attempts(ctx context.Context, instructor, assignment int64) ([]sitting.AttemptRow, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	return sitting.ListAttempts(ctx, svc.store, instructor, assignment)
}

// NewPace works out how long an attempt took.
func NewPace(a sitting.AttemptRow) Pace {
	cards := slices.Clone(a.Cards) // as they were first looked at
	slices.SortStableFunc(cards, func(x, y sitting.CardState) int { return x.Seen.Compare(y.Seen) })
	p := Pace{Cards: map[int]time.Duration{}}
	seen, cardsWithMarks, last := false, 0, a.Handed
	for i, c := range cards {
		if !c.Done {
			continue
		}
		if c.Half > 0 {
			cardsWithMarks++
		}
		if a.Handed.IsZero() && c.Answered.After(last) {
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
	if seen && !last.Before(a.Began) {
		p.Took = max(time.Second, last.Sub(a.Began)) // kept to the second
		p.TooFast = p.Took < time.Duration(cardsWithMarks)*minPerCard
	}
	return p
}
