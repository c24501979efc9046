package sitting

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
)

// Card is a student's card, opened.
type Card struct {
	CardRow
	Item      exercise.Item
	Draft     exercise.Answer  // what stands in the boxes, until it is checked
	Answer    exercise.Answer  // what was checked; nil until then
	Result    *exercise.Result // what it came to; nil until it is checked
	Marks, Of length.Number    // what stands: the instructor's own mark where there is one
}

// OpenCard opens a row of the cards: its item, what stands in its boxes, and what was checked.
func OpenCard(k CardRow) (Card, error) {
	c := Card{CardRow: k, Marks: length.FromHalves(k.Half), Of: length.FromHalves(k.Of)}
	if k.Own != nil {
		c.Marks = length.FromHalves(*k.Own)
	}
	var err error
	if c.Item, err = kinds.Open([]byte(k.Item)); err != nil {
		return c, fmt.Errorf("card %d: %w", k.ID, err)
	}
	for _, a := range []struct {
		says string
		into *exercise.Answer
	}{{k.Draft, &c.Draft}, {k.Answer, &c.Answer}} {
		if a.says == "" {
			continue
		}
		if *a.into, err = exercise.OpenAnswer(a.says); err != nil {
			return c, fmt.Errorf("card %d: %w", k.ID, err)
		}
	}
	return c, nil
}

// opened opens a card with what its fields came to.
func opened(k CardRow, err error) (Card, error) {
	if err != nil {
		return Card{}, err
	}
	c, err := OpenCard(k)
	if err != nil || !k.Done() {
		return c, err
	}
	result, err := OpenResult(k.Result)
	c.Result = &result
	if err != nil {
		err = fmt.Errorf("the result of card %d: %w", k.ID, err)
	}
	return c, err
}

// OpenResult reads what the fields of a card came to; "" is of none.
func OpenResult(doc string) (exercise.Result, error) {
	var fields []exercise.Mark
	if doc == "" {
		return exercise.Result{}, nil
	}
	if err := json.Unmarshal([]byte(doc), &fields); err != nil {
		return exercise.Result{}, err
	}
	return exercise.ResultOf(fields), nil
}

// MyCard finds a student's own card of the latest attempt, dealing the sheet on first sight.
func (svc *Service) MyCard(ctx context.Context, student, assignment int64, n int, at time.Time) (Card, State, error) {
	s, err := svc.Sit(ctx, student, assignment, at)
	if err != nil {
		return Card{}, s, err
	}
	c, err := svc.CardAt(ctx, s, student, n)
	return c, s, err
}

// CardAt finds a student's own card of the latest attempt that has begun.
func (svc *Service) CardAt(ctx context.Context, s State, student int64, n int) (Card, error) {
	now := s.Now()
	if now == nil {
		return Card{}, store.ErrNotFound
	}
	k, err := findCard(ctx, svc.store, student, s.ID, now.Attempt, n)
	return opened(k, err)
}

// CardOf finds a card of an attempt of a student in one of an instructor's classes; of the latest where it is 0.
func (svc *Service) CardOf(ctx context.Context, owner, assignment, student int64, attempt, n int) (Card, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, owner, assignment); err != nil {
		return Card{}, err
	}
	k, err := FindCard(ctx, svc.store, owner, assignment, student, attempt, n)
	return opened(k, err)
}

// Shows tells what instrument an item shows: its family, name and least count; "" where it shows none.
func Shows(it exercise.Item) (family, name, leastCount string) {
	for _, f := range it.Figures() {
		in := f.Instrument
		return string(in.Spec().Family), in.Name(), fmt.Sprintf("%s %s", in.FormatMain(in.LeastCount()), in.Unit())
	}
	return "", "", ""
}

// SaveDraft keeps what was typed into some boxes of a student's own card, beside what stands in the others. It is
// ErrOver on a card that has been checked or handed in, and after the end.
func (svc *Service) SaveDraft(ctx context.Context, student int64, c Card, s State, typed exercise.Answer) error {
	says, err := store.JSON(typed)
	if err != nil {
		return err
	}
	if !s.Working() {
		return ErrOver
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(ctx, tx, student, c, s.At); err != nil {
			return err
		}
		open, err := saveDraft(ctx, tx, student, c.ID, says)
		if err == nil && !open {
			err = ErrOver
		}
		return err
	})
}

// TakeHint notes that one more hint was taken on a student's own card.
func (svc *Service) TakeHint(ctx context.Context, student int64, c Card, s State) error {
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	if !s.Working() {
		return ErrOver
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(ctx, tx, student, c, s.At); err != nil {
			return err
		}
		return takeHint(ctx, tx, student, c.ID, len(s.Sheet.HintSteps(hints)))
	})
}

// Speak notes that a student has the figure of an own card told in words; it is store.ErrNotFound where the sheet does
// not allow it.
func (svc *Service) Speak(ctx context.Context, student int64, c Card, s State) error {
	switch {
	case !s.Working():
		return ErrOver
	case !s.Sheet.Spoken:
		return store.ErrNotFound
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(ctx, tx, student, c, s.At); err != nil {
			return err
		}
		return speak(ctx, tx, student, c.ID)
	})
}

// Submit marks an answer to a student's own card and keeps both. What help was taken costs by the sheet,
// and slips that the instructor has switched off are not counted. Of a submission sent twice only the
// first counts: counted is then false. An entry that cannot be read is a refusal.Refusal; nothing is kept.
//
// The card is marked before the transaction, so that many can be marked at once; where its sheet is being
// marked anew meanwhile, it is marked once more inside.
func (svc *Service) Submit(
	ctx context.Context,
	student int64,
	c Card,
	s State,
	a exercise.Answer,
	at time.Time,
) (counted bool, err error) {
	a = maps.Clone(a)
	maps.DeleteFunc(a, func(_, says string) bool { return exercise.Blank(says) })
	given, err := store.JSON(a)
	if err != nil {
		return false, err
	}
	if !s.Working() {
		return false, ErrOver
	}
	result, err := c.Item.Mark(a)
	if err != nil {
		return false, err
	}
	k, err := Weigh(ctx, svc.store, s.Sheet, c.CardRow, c.Item, result)
	if err != nil {
		return false, err
	}
	answer := s.answer(given, at)
	fields, err := store.JSON(k.Fields)
	if err != nil {
		return false, err
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		// Mostly the card still is as it was read. When it was marked anew meanwhile, or help was taken, it is
		// marked as it now is.
		counted, err = answeredAs(ctx, tx, student, c.CardRow, answer, k, fields, s.At.Add(-grace))
		if err != nil || counted {
			return err
		}
		if err := atWork(ctx, tx, student, c, s.At); err != nil {
			return err
		}
		now, err := findCard(ctx, tx, student, c.Assignment, c.Attempt, c.N)
		if err != nil {
			return err
		}
		if now.Item != c.CardRow.Item {
			if c, err = OpenCard(now); err != nil {
				return err
			}
			if result, err = c.Item.Mark(a); err != nil {
				return err
			}
		}
		if counted, err = answered(ctx, tx, student, now.ID, answer); err != nil || !counted {
			return err
		}
		if k, err = Weigh(ctx, tx, s.Sheet, now, c.Item, result); err != nil {
			return err
		}
		return UpdateMarks(ctx, tx, now.ID, k)
	})
	if err == nil {
		svc.hub.Tell(hub.Topic{Class: s.Class, What: hub.SheetNews})
	}
	return counted, err
}

// CanUndo reports whether the student of a card may undo its check, on a sheet as it stands with them.
func (c *Card) CanUndo(s State) bool {
	return s.Sheet.Undo && !s.Test() && s.Working() && c.Done() && !c.Undone && c.Own == nil
}

// UndoCheck takes the check of a student's card back, where its sheet allows it and only once: the entries stand in the
// boxes again. It returns ErrOver where that may not be, or not any more.
func (svc *Service) UndoCheck(ctx context.Context, student int64, c Card, s State) error {
	if !c.CanUndo(s) {
		return ErrOver
	}
	err := svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(ctx, tx, student, c, s.At); err != nil {
			return err
		}
		undone, err := undoCheck(ctx, tx, student, c.ID)
		if err == nil && !undone {
			err = ErrOver
		}
		return err
	})
	if err == nil {
		svc.hub.Tell(hub.Topic{Class: s.Class, What: hub.SheetNews})
	}
	return err
}

// Weigh says what a card came to, less what help cost, without the slips that are switched off.
func Weigh(ctx context.Context,
	rd store.Queryer,
	sheet exercise.Sheet,
	c CardRow,
	it exercise.Item,
	result exercise.Result,
) (Marked, error) {
	words, err := rack.Wordings(rack.ListStudentWordings(ctx, rd, c.Student))
	if err != nil {
		return Marked{}, err
	}
	return NewMarked(result, sheet, it, c, words)
}

// NewMarked returns a result as the store keeps it, less what help cost, and half of that where a check was undone.
func NewMarked(
	r exercise.Result,
	sheet exercise.Sheet,
	it exercise.Item,
	c CardRow,
	words exercise.SlipWordings,
) (m Marked, err error) {
	marks := r.Marks
	if c.Hints > 0 {
		hints, err := it.Hints()
		if err != nil {
			return m, err
		}
		marks = sheet.Earned(marks, hints[:min(c.Hints, len(hints))])
	}
	m.Half, m.Of = length.ToHalves(marks), length.ToHalves(r.Of)
	if c.Undone {
		m.Half /= 2
	}
	if named := words.Named(r.Slips); len(named) > 0 {
		m.Slip = string(named[0])
	}
	m.Fields = r.Fields
	return m, nil
}

// Wording returns how a card's explanation speaks to its student: with the slips made before, and in the words
// of the instructor.
func (svc *Service) Wording(ctx context.Context, student, card int64) (v exercise.Wording, err error) {
	v, err = svc.wording(ctx, student, card, true)
	v.History.Private = true
	return v, err
}

// WordingFor is Wording as an instructor sees it: without what the student made in practice, unless the class shows
// that.
func (svc *Service) WordingFor(ctx context.Context, instructor, student, card int64) (v exercise.Wording, err error) {
	if err := access.ViewClass.OnStudent(ctx, svc.store, instructor, student); err != nil {
		return v, err
	}
	st, err := roster.FindStudent(ctx, svc.store, student)
	if err != nil {
		return v, err
	}
	return svc.wording(ctx, student, card, st.Practice == roster.SeesEach)
}

func (svc *Service) wording(ctx context.Context, student, card int64, practice bool) (v exercise.Wording, err error) {
	read := svc.store
	count := func(list []Tally, err error) (map[exercise.Code]int, error) {
		out := make(map[exercise.Code]int, len(list))
		for _, t := range list {
			out[exercise.Code(t.Name)] = t.Count
		}
		return out, err
	}
	if v.History.Student, err = count(listStudentSlips(ctx, read, student, card, practice)); err != nil {
		return v, err
	}
	if v.History.Class, err = count(listClassSlips(ctx, read, student, card)); err != nil {
		return v, err
	}
	v.Wordings, err = rack.Wordings(rack.ListStudentWordings(ctx, read, student))
	return v, err
}

// See notes that a student has a card in sight for the first time. Where that cannot be kept just now it is noted when
// the card is next looked at.
func (svc *Service) See(ctx context.Context, student, class int64, c Card, at time.Time) error {
	if c.Seen || c.Done() {
		return nil
	}
	err := svc.beside(ctx, func(ctx context.Context) error {
		return svc.store.Write(ctx, func(tx *store.Tx) error { return see(ctx, tx, student, c.ID, at) })
	})
	if unkept(err) {
		return nil
	}
	if err == nil {
		svc.hub.Tell(hub.Topic{Class: class, What: hub.SheetNews})
	}
	return err
}

// Assignments lists the sheets given to one of an instructor's classes, newest first.
func (svc *Service) Assignments(ctx context.Context, owner, class int64) ([]Assignment, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	return listAssignments(ctx, svc.store, owner, class)
}

// Assignment finds a sheet given to one of an instructor's classes.
func (svc *Service) Assignment(ctx context.Context, owner, id int64) (Assignment, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, owner, id); err != nil {
		return Assignment{}, err
	}
	return FindAssignment(ctx, svc.store, owner, id)
}

// Progress lists a student's own marks on a sheet, of the latest attempt, by number.
func (svc *Service) Progress(ctx context.Context, student, assignment int64) ([]Mark, error) {
	return listProgress(ctx, svc.store, student, assignment)
}

// AllProgress lists a student's own marks on all sheets, of the latest attempts, by sheet and number.
func (svc *Service) AllProgress(ctx context.Context, student int64) ([]Mark, error) {
	return listAllProgress(ctx, svc.store, student)
}
