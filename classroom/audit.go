package classroom

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/survey"
	"cavix/store"
)

// Audit is what a look through everything that is kept found.
type Audit struct {
	Documents int      // instruments, sheets, rounds and surveys
	Cards     int      // dealt
	Answers   int      // marked anew: of cards and of rounds
	Faults    []string // what cannot be read or is marked otherwise than the core marks it, up to a bound
	More      int      // faults beyond those
}

// mostAudited bounds the faults that are listed, auditStep how many rows are held at a time.
const (
	mostAudited = 50
	auditStep   = 400
)

func (a *Audit) fault(format string, args ...any) {
	if len(a.Faults) < mostAudited {
		a.Faults = append(a.Faults, fmt.Sprintf(format, args...))
		return
	}
	a.More++
}

// Audit reads every document, item and answer that is kept, and marks every answer anew by the item and the sheet as they
// are kept: its marks must be those that stand. It changes nothing, and an instructor's own marks are not its business.
func (r *Room) Audit(ctx context.Context) (a Audit, err error) {
	rd := r.read(ctx)
	readable := func(into func() json.Unmarshaler) func([]byte) error {
		return func(doc []byte) error { return json.Unmarshal(doc, into()) }
	}
	shelves := []struct {
		what string
		from store.Shelf
		read func([]byte) error
	}{
		{"instrument", store.Instruments, readable(func() json.Unmarshaler { return new(instrument.Instrument) })},
		{"sheet", store.SheetsMade, func(doc []byte) error { _, err := kinds.All.ReadSheet(doc); return err }},
		{"survey", store.PlansGiven, func(doc []byte) error { return json.Unmarshal(doc, new(survey.Plan)) }},
	}
	for _, s := range shelves {
		err := shelved(rd, s.from, func(k store.Kept) error {
			a.Documents++
			if err := s.read([]byte(k.Document)); err != nil {
				a.fault("%s %d cannot be read: %s", s.what, k.ID, err)
			}
			return nil
		})
		if err != nil {
			return a, err
		}
	}
	sheets, err := a.given(rd)
	if err != nil {
		return a, err
	}
	if err := a.cards(ctx, rd, sheets); err != nil {
		return a, err
	}
	off, err := rd.SumsOff(mostAudited)
	for _, s := range off {
		a.fault("sheet %d, student %d, attempt %d: what it came to is not the sum of its cards", s.Assignment, s.Student, s.Attempt)
	}
	return a, errors.Join(err, a.rounds(rd))
}

// shelved hands out every document of a shelf.
func shelved(rd *store.Reader, from store.Shelf, each func(store.Kept) error) error {
	for after := int64(0); ; {
		list, err := rd.Shelved(from, after, auditStep)
		if err != nil || len(list) == 0 {
			return err
		}
		for _, k := range list {
			if err := each(k); err != nil {
				return err
			}
			after = k.ID
		}
	}
}

// given reads all sheets as they were given.
func (a *Audit) given(rd *store.Reader) (map[int64]exercise.Sheet, error) {
	sheets := map[int64]exercise.Sheet{}
	return sheets, shelved(rd, store.SheetsGiven, func(k store.Kept) error {
		a.Documents++
		sheet, err := kinds.All.ReadSheet([]byte(k.Document))
		if err != nil {
			a.fault("given sheet %d cannot be read: %s", k.ID, err)
			return nil
		}
		sheets[k.ID] = sheet
		return nil
	})
}

// cards reads every card, and marks those that were answered.
func (a *Audit) cards(ctx context.Context, rd *store.Reader, sheets map[int64]exercise.Sheet) error {
	for after := int64(0); ; {
		list, err := rd.CardsAfter(after, auditStep)
		if err != nil || len(list) == 0 {
			return err
		}
		last := list[len(list)-1].ID
		entries, err := rd.EntriesFrom(list[0].ID, last)
		if err != nil {
			return err
		}
		of := map[int64][]store.Entry{}
		for _, e := range entries {
			of[e.Card] = append(of[e.Card], e)
		}
		for _, k := range list {
			if err := ctx.Err(); err != nil {
				return err
			}
			a.Cards++
			if why := audited(k, sheets[k.Assignment], of[k.ID]); why != "" {
				a.fault("card %d (%s, card %d of sheet %d): %s", k.ID, k.Name, k.N, k.Assignment, why)
			}
			if k.Done() {
				a.Answers++
			}
		}
		after = last
	}
}

// audited says what is wrong with a card as it is kept, or "".
func audited(k store.Card, sheet exercise.Sheet, entries []store.Entry) string {
	c, err := openCard(k)
	switch {
	case err != nil:
		return err.Error()
	case !k.Done() && len(entries) > 0:
		return "it has marks and was not answered"
	case !k.Done():
		return ""
	}
	result, err := c.Item.Mark(c.Answer)
	if err != nil {
		return "its answer cannot be marked: " + err.Error()
	}
	m, err := marked(result, sheet, c.Item, k.Hints, nil)
	if err != nil {
		return err.Error()
	}
	if m.Half != k.Half || m.Of != k.Of {
		return fmt.Sprintf("%s of %s stand, the core gives %s of %s", halves(k.Half), halves(k.Of), halves(m.Half), halves(m.Of))
	}
	if len(m.Entries) != len(entries) {
		return fmt.Sprintf("%d fields stand, the core marks %d", len(entries), len(m.Entries))
	}
	for i, e := range m.Entries {
		was := entries[i]
		if e.Field != was.Field || e.Outcome != was.Outcome || e.Half != was.Half || e.Expected != was.Expected {
			return fmt.Sprintf("field %s stands as %s, expecting %s; the core says %s, expecting %s", was.Field, was.Outcome,
				was.Expected, e.Outcome, e.Expected)
		}
	}
	return ""
}

// rounds reads the questions that classes were asked, and marks their answers.
func (a *Audit) rounds(rd *store.Reader) error {
	return shelved(rd, store.RoundsAsked, func(k store.Kept) error {
		a.Documents++
		it, err := kinds.Open([]byte(k.Document))
		if err != nil {
			a.fault("round %d cannot be read: %s", k.ID, err)
			return nil
		}
		for after := int64(0); ; {
			list, err := rd.RepliesAfter(k.ID, after, auditStep)
			if err != nil || len(list) == 0 {
				return err
			}
			for _, reply := range list {
				a.Answers++
				if why := auditedReply(it, reply); why != "" {
					a.fault("round %d, student %d: %s", k.ID, reply.Student, why)
				}
				after = reply.Student
			}
		}
	})
}

func auditedReply(it exercise.Item, reply store.Reply) string {
	answer := exercise.Answer{}
	if err := json.Unmarshal([]byte(reply.Answer), &answer); err != nil {
		return err.Error()
	}
	result, err := it.Mark(answer)
	if err != nil {
		return "the answer cannot be marked: " + err.Error()
	}
	if twice(result.Marks) != reply.Half || twice(result.Of) != reply.Of {
		return fmt.Sprintf("%s of %s stand, the core gives %s of %s", halves(reply.Half), halves(reply.Of), result.Marks, result.Of)
	}
	return ""
}
