package classroom

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
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
	for text, into := range map[string]*exercise.Answer{k.Draft: &c.Draft, k.Answer: &c.Answer} {
		if text != "" {
			err = errors.Join(err, json.Unmarshal([]byte(text), into))
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

// MyCard finds a student's own card, dealing the sheet on first sight.
func (r *Room) MyCard(ctx context.Context, student, assignment int64, n int) (Card, error) {
	k, err := r.read(ctx).Card(student, assignment, n)
	if errors.Is(err, store.ErrNotFound) {
		if err := r.Deal(ctx, student, assignment); err != nil {
			return Card{}, err
		}
		k, err = r.read(ctx).Card(student, assignment, n)
	}
	return opened(r.read(ctx), k, err)
}

// CardOf finds a card of a student in one of an instructor's classes.
func (r *Room) CardOf(ctx context.Context, owner, assignment, student int64, n int) (Card, error) {
	k, err := r.read(ctx).CardOf(owner, assignment, student, n)
	return opened(r.read(ctx), k, err)
}

// Deal gives a student the cards of a sheet on first sight; afterwards it does nothing. Each student has
// a seed of their own, from the sheet's and their number.
func (r *Room) Deal(ctx context.Context, student, assignment int64) error {
	if n, err := r.read(ctx).CountCards(student, assignment); err != nil || n > 0 {
		return err
	}
	g, cards, err := r.dealt(r.read(ctx), student, assignment)
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if n, err := tx.CountCards(student, assignment); err != nil || n > 0 {
			return err // another tab was faster
		}
		if now, err := tx.StudentAssignment(student, assignment); err != nil {
			return err
		} else if now.Definition != g.Definition { // it was marked anew meanwhile
			if _, cards, err = r.dealt(&tx.Reader, student, assignment); err != nil {
				return err
			}
		}
		for _, c := range cards {
			if err := tx.AddCard(c); err != nil {
				return err
			}
		}
		return nil
	})
}

// dealt works out the cards that a student gets of a sheet.
func (r *Room) dealt(read *store.Reader, student, assignment int64) (Given, []store.Card, error) {
	g, err := whole(openGiven(read.StudentAssignment(student, assignment)))
	if err != nil {
		return g, nil, err
	}
	items, err := g.Sheet.Deal(kinds.All, exercise.StudentSeed(uint64(g.Seed), student))
	if err != nil {
		return g, nil, err
	}
	cards := make([]store.Card, len(items))
	for i, it := range items {
		doc, err := exercise.Document(it)
		if err != nil {
			return g, nil, err
		}
		cards[i] = store.Card{Assignment: assignment, Student: student, N: i + 1, Kind: it.Kind(),
			Family: familyOf(it), Item: string(doc)}
	}
	return g, cards, nil
}

// familyOf is the family of the instrument that an item shows, "" where it shows none.
func familyOf(it exercise.Item) string {
	for _, f := range it.Figures() {
		return string(f.Instrument.Spec().Family)
	}
	return ""
}

// SaveDraft keeps what stands half filled in on a student's own card.
func (r *Room) SaveDraft(ctx context.Context, student, card int64, a exercise.Answer) error {
	text, err := toJSON(a)
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error { return tx.SaveDraft(student, card, text) })
}

// TakeHint keeps the draft of a student's own card and notes that one more rung of help was taken.
func (r *Room) TakeHint(ctx context.Context, student int64, c Card, a exercise.Answer) error {
	text, err := toJSON(a)
	if err != nil {
		return err
	}
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		return errors.Join(tx.SaveDraft(student, c.ID, text), tx.TakeHint(student, c.ID, len(hints)))
	})
}

// Submit marks an answer to a student's own card and keeps both. What help was taken costs by the sheet,
// and slips that the instructor has switched off are not counted. Of a submission sent twice only the
// first counts: counted is then false. An entry that cannot be read is a refusal.Refusal; nothing is kept.
//
// The card is marked before the transaction, so that many can be marked at once; where its sheet is being
// marked anew meanwhile, it is marked once more inside.
func (r *Room) Submit(ctx context.Context, student int64, c Card, a exercise.Answer, at time.Time) (counted bool,
	err error) {
	given, err := toJSON(a)
	if err != nil {
		return false, err
	}
	result, err := c.Item.Mark(a)
	if err != nil {
		return false, err
	}
	k, err := weigh(r.store.Read(ctx), c.Card, result)
	if err != nil {
		return false, err
	}
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		// Mostly the card still is as it was read. When it was marked anew meanwhile, or help was taken, it is
		// marked as it now is.
		if counted, err = tx.AnsweredAs(student, c.Card, given, at, k); err != nil || counted {
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
		if counted, err = tx.Answered(student, now.ID, given, at); err != nil || !counted {
			return err
		}
		if k, err = weigh(&tx.Reader, now, result); err != nil {
			return err
		}
		return tx.SetMarks(now.ID, k)
	})
	return counted, err
}

// weigh says what a card came to, less what help cost, without the slips that are switched off.
func weigh(rd *store.Reader, c store.Card, result exercise.Result) (store.Marked, error) {
	cost := length.Number{}
	if c.Hints > 0 {
		g, err := whole(openGiven(rd.StudentAssignment(c.Student, c.Assignment)))
		if err != nil {
			return store.Marked{}, err
		}
		cost = g.Sheet.Cost(c.Hints)
	}
	words, err := wordings(rd.StudentWordings(c.Student))
	if err != nil {
		return store.Marked{}, err
	}
	return marked(result, cost, words)
}

// marked is a result as the store keeps it.
func marked(r exercise.Result, cost length.Number, words exercise.Wordings) (m store.Marked, err error) {
	marks := r.Marks.Sub(cost)
	if marks.Sign() < 0 {
		marks = length.Number{}
	}
	m.Half, m.Of = twice(marks), twice(r.Of)
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
	read := r.read(ctx)
	count := func(list []store.Tally, err error) (map[exercise.Code]int, error) {
		out := make(map[exercise.Code]int, len(list))
		for _, t := range list {
			out[exercise.Code(t.Name)] = t.Count
		}
		return out, err
	}
	if v.History.Student, err = count(read.StudentSlips(student, card)); err != nil {
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
