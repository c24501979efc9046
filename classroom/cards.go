package classroom

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/store"
)

// Card is a student's card, opened.
type Card struct {
	store.Card
	Item      exercise.Item
	Draft     exercise.Answer  // what stands in the boxes, until it is checked
	Answer    exercise.Answer  // what was checked; nil until then
	Result    *exercise.Result // what it came to; nil until it is checked
	Marks, Of length.Number    // what stands: the instructor's own mark where there is one
}

func openCard(k store.Card) (Card, error) {
	c := Card{Card: k, Marks: halves(k.Half), Of: halves(k.Of)}
	if k.Own != nil {
		c.Marks = halves(*k.Own)
	}
	var err error
	if c.Item, err = kinds.Open([]byte(k.Item)); err != nil {
		return c, fmt.Errorf("card %d: %w", k.ID, err)
	}
	for says, into := range map[string]*exercise.Answer{k.Draft: &c.Draft, k.Answer: &c.Answer} {
		if says != "" {
			err = errors.Join(err, json.Unmarshal([]byte(says), into))
		}
	}
	return c, err
}

// opened opens a card with what its fields came to.
func opened(r *store.Reader, k store.Card, err error) (Card, error) {
	if err != nil {
		return Card{}, err
	}
	c, err := openCard(k)
	if err != nil || !k.Done() {
		return c, err
	}
	entries, err := r.Entries(k.ID)
	if err != nil {
		return c, err
	}
	result, err := resultOf(entries)
	c.Result = &result
	return c, err
}

// resultOf reads a result back from its entries.
func resultOf(entries []store.Entry) (exercise.Result, error) {
	marks := make([]exercise.Mark, len(entries))
	for i, e := range entries {
		m := exercise.Mark{Field: e.Field, Given: e.Given, Expected: e.Expected, Follows: e.Follows,
			Outcome: exercise.Outcome(e.Outcome), Marks: halves(e.Half), Of: halves(e.Of)}
		err := json.Unmarshal([]byte(e.Slips), &m.Slips)
		if e.Faults != "[]" {
			err = errors.Join(err, json.Unmarshal([]byte(e.Faults), &m.Faults))
		}
		if err != nil {
			return exercise.Result{}, fmt.Errorf("entry %q of card %d: %w", e.Field, e.Card, err)
		}
		marks[i] = m
	}
	return exercise.ResultOf(marks), nil
}

// MyCard finds a student's own card of the latest attempt, dealing the sheet on first sight.
func (r *Room) MyCard(ctx context.Context, student, assignment int64, n int, at time.Time) (Card, State, error) {
	s, err := r.Sit(ctx, student, assignment, at)
	if err != nil {
		return Card{}, s, err
	}
	c, err := r.CardAt(ctx, s, student, n)
	return c, s, err
}

// CardAt finds a student's own card of the latest attempt that has begun.
func (r *Room) CardAt(ctx context.Context, s State, student int64, n int) (Card, error) {
	k, err := r.read(ctx).Card(student, s.ID, n)
	return opened(r.read(ctx), k, err)
}

// CardOf finds a card of an attempt of a student in one of an instructor's classes; of the latest where it is 0.
func (r *Room) CardOf(ctx context.Context, owner, assignment, student int64, attempt, n int) (Card, error) {
	k, err := r.read(ctx).CardOf(owner, assignment, student, attempt, n)
	return opened(r.read(ctx), k, err)
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
func (r *Room) SaveDraft(ctx context.Context, student int64, c Card, s State, typed exercise.Answer) error {
	says, err := toJSON(typed)
	if err != nil {
		return err
	}
	if !s.Working() {
		return ErrOver
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(tx, student, c, s.At); err != nil {
			return err
		}
		open, err := tx.SaveDraft(student, c.ID, says)
		if err == nil && !open {
			err = ErrOver
		}
		return err
	})
}

// TakeHint notes that one more rung of help was taken on a student's own card.
func (r *Room) TakeHint(ctx context.Context, student int64, c Card, s State) error {
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	if !s.Working() {
		return ErrOver
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(tx, student, c, s.At); err != nil {
			return err
		}
		return tx.TakeHint(student, c.ID, len(s.Sheet.Rungs(hints)))
	})
}

// Submit marks an answer to a student's own card and keeps both. What help was taken costs by the sheet,
// and slips that the instructor has switched off are not counted. Of a submission sent twice only the
// first counts: counted is then false. An entry that cannot be read is a refusal.Refusal; nothing is kept.
//
// The card is marked before the transaction, so that many can be marked at once; where its sheet is being
// marked anew meanwhile, it is marked once more inside.
func (r *Room) Submit(
	ctx context.Context,
	student int64,
	c Card,
	s State,
	a exercise.Answer,
	at time.Time,
) (counted bool, err error) {
	a = maps.Clone(a)
	maps.DeleteFunc(a, func(_, says string) bool { return exercise.Blank(says) })
	given, err := toJSON(a)
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
	k, err := weigh(r.store.Read(ctx), s.Sheet, c.Card, c.Item, result)
	if err != nil {
		return false, err
	}
	answer := s.answer(given, at)
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(tx, student, c, s.At); err != nil {
			return err
		}
		// Mostly the card still is as it was read. When it was marked anew meanwhile, or help was taken, it is
		// marked as it now is.
		if counted, err = tx.AnsweredAs(student, c.Card, answer, k); err != nil || counted {
			return err
		}
		now, err := tx.Card(student, c.Assignment, c.N)
		if err != nil {
			return err
		}
		if now.Item != c.Card.Item {
			if c, err = openCard(now); err != nil {
				return err
			}
			if result, err = c.Item.Mark(a); err != nil {
				return err
			}
		}
		if now.ID != c.ID { // a further attempt has begun
			return nil
		}
		if counted, err = tx.Answered(student, now.ID, answer); err != nil || !counted {
			return err
		}
		if k, err = weigh(&tx.Reader, s.Sheet, now, c.Item, result); err != nil {
			return err
		}
		return tx.SetMarks(now.ID, k)
	})
	if err == nil {
		r.Hub.Tell(Topic{s.Class, SheetNews})
	}
	return counted, err
}

// CanUndo reports whether the student of a card may undo its check, on a sheet as it stands with them.
func (c *Card) CanUndo(s State) bool {
	return s.Sheet.Undo && !s.Test() && s.Working() && c.Done() && !c.Undone && c.Own == nil
}

// UndoCheck takes the check of a student's card back, where its sheet allows it and only once: the entries stand in the boxes again.
// It returns ErrOver where that may not be, or not any more.
func (r *Room) UndoCheck(ctx context.Context, student int64, c Card, s State) error {
	if !c.CanUndo(s) {
		return ErrOver
	}
	err := r.store.Write(ctx, func(tx *store.Tx) error {
		if err := atWork(tx, student, c, s.At); err != nil {
			return err
		}
		undone, err := tx.UndoCheck(student, c.ID)
		if err == nil && !undone {
			err = ErrOver
		}
		return err
	})
	if err == nil {
		r.Hub.Tell(Topic{s.Class, SheetNews})
	}
	return err
}

// weigh says what a card came to, less what help cost, without the slips that are switched off.
func weigh(
	rd *store.Reader,
	sheet exercise.Sheet,
	c store.Card,
	it exercise.Item,
	result exercise.Result,
) (store.Marked, error) {
	words, err := wordings(rd.StudentWordings(c.Student))
	if err != nil {
		return store.Marked{}, err
	}
	return marked(result, sheet, it, c, words)
}

// marked is a result as the store keeps it, less what help cost, and half of that where a check was undone.
func marked(
	r exercise.Result,
	sheet exercise.Sheet,
	it exercise.Item,
	c store.Card,
	words exercise.Wordings,
) (m store.Marked, err error) {
	marks := r.Marks
	if c.Hints > 0 {
		ladder, err := it.Hints()
		if err != nil {
			return m, err
		}
		marks = sheet.Earned(marks, ladder[:min(c.Hints, len(ladder))])
	}
	m.Half, m.Of = twice(marks), twice(r.Of)
	if c.Undone {
		m.Half /= 2
	}
	if named := words.Named(r.Slips); len(named) > 0 {
		m.Slip = string(named[0])
	}
	m.Entries, err = entriesOf(r.Fields)
	return m, err
}

// entriesOf are the fields of a result as the store keeps them; resultOf reads them back.
func entriesOf(fields []exercise.Mark) ([]store.Entry, error) {
	entries := make([]store.Entry, len(fields))
	for i, f := range fields {
		e := store.Entry{Field: f.Field, Given: f.Given, Expected: f.Expected, Follows: f.Follows,
			Outcome: string(f.Outcome), Half: twice(f.Marks), Of: twice(f.Of), Slips: "[]", Faults: "[]"}
		var err error
		if len(f.Slips) > 0 {
			e.Slip = string(f.Slips[0])
			if e.Slips, err = toJSON(f.Slips); err != nil {
				return nil, err
			}
		}
		if len(f.Faults) > 0 {
			if e.Faults, err = toJSON(f.Faults); err != nil {
				return nil, err
			}
		}
		entries[i] = e
	}
	return entries, nil
}

// Voice is how a card's explanation speaks to its student: with the slips made before, and in the words
// of the instructor.
func (r *Room) Voice(ctx context.Context, student, card int64) (v exercise.Voice, err error) {
	return r.voice(ctx, student, card, true)
}

// VoiceFor is Voice as an instructor hears it: without what the student made in practice, unless the class shows that.
func (r *Room) VoiceFor(ctx context.Context, student, card int64) (v exercise.Voice, err error) {
	st, err := r.read(ctx).Student(student)
	if err != nil {
		return v, err
	}
	return r.voice(ctx, student, card, st.Practice == store.SeesEach)
}

func (r *Room) voice(ctx context.Context, student, card int64, practice bool) (v exercise.Voice, err error) {
	read := r.read(ctx)
	count := func(list []store.Tally, err error) (map[exercise.Code]int, error) {
		out := make(map[exercise.Code]int, len(list))
		for _, t := range list {
			out[exercise.Code(t.Name)] = t.Count
		}
		return out, err
	}
	if v.History.Student, err = count(read.StudentSlips(student, card, practice)); err != nil {
		return v, err
	}
	if v.History.Class, err = count(read.ClassSlips(student, card)); err != nil {
		return v, err
	}
	v.Wordings, err = wordings(read.StudentWordings(student))
	return v, err
}

func wordings(list []store.Wording, err error) (exercise.Wordings, error) {
	out := make(exercise.Wordings, len(list))
	for _, w := range list {
		out[exercise.Code(w.Code)] = exercise.Wording{Off: w.Off, Advice: w.Advice, Note: w.Note}
	}
	return out, err
}

// Wordings are an instructor's own words for slips.
func (r *Room) Wordings(ctx context.Context, owner int64) (exercise.Wordings, error) {
	return wordings(r.read(ctx).Wordings(owner))
}

// SetWording keeps an instructor's words for one slip.
func (r *Room) SetWording(ctx context.Context, owner int64, code exercise.Code, w exercise.Wording) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		return tx.SetWording(owner, store.Wording{Code: string(code), Off: w.Off, Advice: w.Advice, Note: w.Note})
	})
}

// See notes that a student has a card in sight for the first time. Where that cannot be kept just now it is noted when the
// card is next looked at.
func (r *Room) See(ctx context.Context, student, class int64, c Card, at time.Time) error {
	if c.Seen || c.Done() {
		return nil
	}
	err := r.beside(ctx, func(ctx context.Context) error {
		return r.store.Write(ctx, func(tx *store.Tx) error { return tx.See(student, c.ID, at) })
	})
	if unkept(err) {
		return nil
	}
	if err == nil {
		r.Hub.Tell(Topic{class, SheetNews})
	}
	return err
}
