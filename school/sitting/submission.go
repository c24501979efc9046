package sitting

import (
	"context"
	"errors"
	"time"

	"cavix/core/exercise"
	"cavix/core/refusal"
)

// CardRef identifies a student's own card in the latest attempt: its sheet, and its number from 1.
type CardRef struct {
	Student, Assignment int64
	N                   int
}

// Submission is a student's answer to a card, as sent.
type Submission struct {
	Read       func(exercise.Item) exercise.Answer // reads the boxes of the item
	DraftOnly  bool                                // save the boxes without checking them
	AllowEmpty bool                                // boxes may be left empty
}

// filled reports whether no box is left empty that has to be filled: empty boxes are allowed where the student allows
// them or left a whole card of a test empty.
func (s Submission) filled(it exercise.Item, a exercise.Answer, test bool) bool {
	empty := len(exercise.Empty(it, a))
	return s.AllowEmpty || empty == 0 || test && empty == len(it.Fields())
}

// Outcome is the outcome of a submission.
type Outcome string

// The outcomes.
const (
	Checked         Outcome = "checked"           // the card was marked
	DraftSaved      Outcome = "draft saved"       // the boxes were saved
	SavedForEnd     Outcome = "saved for the end" // the boxes were saved; the test is marked at its end
	Incomplete      Outcome = "incomplete"        // the boxes were saved; one cannot be read, or is empty
	AlreadyChecked  Outcome = "already checked"
	AlreadyHandedIn Outcome = "already handed in" // and not released yet
)

// SubmitCard marks a student's card, or on a test saves it for the end. Next is the number of the following card, 0
// after the last. SubmitCard returns ErrOver if the attempt is over, and ErrNotOpen if none has begun.
func (svc *Service) SubmitCard(ctx context.Context, ref CardRef, sub Submission, now time.Time) (o Outcome, next int,
	err error) {
	s, err := svc.stateOf(ctx, svc.store, ref.Student, ref.Assignment, now)
	if err != nil {
		return "", 0, err
	}
	if s.Now() == nil {
		return "", 0, ErrNotOpen
	}
	c, err := svc.CardAt(ctx, s, ref.Student, ref.N)
	switch {
	case err != nil:
		return "", 0, err
	case c.Done() && c.Hidden:
		return AlreadyHandedIn, 0, nil
	case c.Done():
		return AlreadyChecked, 0, nil
	}
	if ref.N < s.Sheet.Cards() {
		next = ref.N + 1
	}
	a := sub.Read(c.Item)
	switch {
	case sub.DraftOnly:
		o = DraftSaved
	case !sub.filled(c.Item, a, s.Test()):
		o = Incomplete
	case !s.Test():
		counted, err := svc.Submit(ctx, ref.Student, c, s, a, now)
		switch {
		case errors.As(err, new(refusal.Refusal)): // a box cannot be read
			o = Incomplete
		case err != nil || !counted:
			return AlreadyChecked, next, err
		default:
			return Checked, next, nil
		}
	case exercise.Readable(c.Item, a) != nil:
		o = Incomplete
	default:
		o = SavedForEnd
	}
	return o, next, svc.SaveDraft(ctx, ref.Student, c, s, a)
}
