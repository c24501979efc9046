package sitting

import (
	"context"
	"time"

	"cavix/core/exercise"
)

// Place identifies a student's own card in the latest attempt: its sheet, and its number from 1.
type Place struct {
	Student, Assignment int64
	N                   int
}

// Handing says what a student does with a card.
type Handing struct {
	Written func(exercise.Item) exercise.Answer // reads the boxes
	Keep    bool                                // keep what stands in them, and no more
	Anyway  bool                                // boxes may be left empty
}

// ready reports whether a card can be handed in as it is written: every box can be read, and none is empty, unless the
// student says so or has passed over a card of a test.
func (h Handing) ready(it exercise.Item, a exercise.Answer, test bool) bool {
	empty := len(exercise.Empty(it, a))
	return exercise.Readable(it, a) == nil && (h.Anyway || empty == 0 || test && empty == len(it.Fields()))
}

// Handed is the outcome of handing in a card.
type Handed string

// What becomes of a card.
const (
	Kept     Handed = "kept"      // it stands in the boxes
	Checked  Handed = "checked"   // it was marked
	Passed   Handed = "passed"    // it is kept, and marked with the test
	NotReady Handed = "not ready" // it is kept: something cannot be read, or is missing
	Before   Handed = "before"    // it was checked already, and is told
	Hidden   Handed = "hidden"    // it was handed in already, and is not told yet
)

// Hand takes a card of a student as it is written: it is marked, or on a test kept until the end; next is the card
// after it, 0 where it is the last. It is ErrOver where the attempt is over, and ErrNotOpen where none has begun.
func (svc *Service) Hand(ctx context.Context, at Place, h Handing, now time.Time) (became Handed, next int, err error) {
	s, err := svc.stateOf(ctx, svc.store, at.Student, at.Assignment, now)
	if err != nil {
		return "", 0, err
	}
	if s.Now() == nil {
		return "", 0, ErrNotOpen
	}
	c, err := svc.CardAt(ctx, s, at.Student, at.N)
	switch {
	case err != nil:
		return "", 0, err
	case c.Done() && c.Hidden:
		return Hidden, 0, nil
	case c.Done():
		return Before, 0, nil
	}
	if at.N < s.Sheet.Cards() {
		next = at.N + 1
	}
	a := h.Written(c.Item)
	switch {
	case h.Keep:
		became = Kept
	case !h.ready(c.Item, a, s.Test()):
		became = NotReady
	case s.Test():
		became = Passed
	default:
		if counted, err := svc.Submit(ctx, at.Student, c, s, a, now); err != nil || !counted {
			return Before, next, err
		}
		return Checked, next, nil
	}
	return became, next, svc.SaveDraft(ctx, at.Student, c, s, a)
}
