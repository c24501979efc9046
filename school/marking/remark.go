package marking

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/sitting"
	"cavix/store"
)

// Remarked is one answered card as another method marks it.
type Remarked struct {
	Student string
	N       int
	Before  length.Number
	After   length.Number
	Own     bool // the instructor's own mark stands over both
	Stays   bool // it would be lower, and stays since it was right for the card as it was asked
}

// anew is a card marked by another method.
type anew struct {
	card sitting.CardRow
	item string          // as it is then asked
	kept *sitting.Marked // nil while it is not answered
}

// remark works out every card of a given sheet by another method. It changes nothing: marking is a pure
// function of what is stored.
func remark(ctx context.Context, r store.Queryer, g sitting.Given, m exercise.Method,
	words exercise.SlipWordings) ([]anew, error) {
	cards, err := sitting.ListCards(ctx, r, g.ID)
	if err != nil {
		return nil, err
	}
	out := make([]anew, len(cards))
	for i, k := range cards {
		item, err := exercise.WithMethod([]byte(k.Item), m)
		if err != nil {
			return nil, fmt.Errorf("card %d: %w", k.ID, err)
		}
		out[i] = anew{card: k, item: string(item)}
		if !k.Done() {
			continue
		}
		k.Item = string(item)
		c, err := sitting.OpenCard(k)
		if err != nil {
			return nil, err
		}
		result, err := c.Item.Mark(c.Answer)
		if err != nil {
			return nil, fmt.Errorf("card %d of %s: %w", k.N, k.Name, err)
		}
		marks, err := sitting.NewMarked(result, g.Sheet, c.Item, k, words)
		if err != nil {
			return nil, err
		}
		out[i].kept = &marks
	}
	return out, nil
}

// prepared finds an instructor's given sheet and works it out by another method.
func prepared(ctx context.Context, r store.Queryer, owner, assignment int64, m exercise.Method) (sitting.Given, []anew,
	error) {
	g, err := sitting.Whole(sitting.OpenGiven(sitting.FindAssignment(ctx, r, owner, assignment)))
	if err != nil {
		return g, nil, err
	}
	words, err := rack.Wordings(rack.ListClassWordings(ctx, r, g.Class))
	if err != nil {
		return g, nil, err
	}
	list, err := remark(ctx, r, g, m, words)
	return g, list, err
}

// Remark tells what an instructor's given sheet would be marked by another method, card by card. A card that would lose
// marks stays as it was asked and marked, unless marks are to be lowered too.
func (svc *Service) Remark(ctx context.Context, owner, assignment int64, m exercise.Method, lower bool) ([]Remarked,
	error) {
	if err := access.RemarkSheet.OnSheet(ctx, svc.store, owner, assignment); err != nil {
		return nil, err
	}
	_, list, err := prepared(ctx, svc.store, owner, assignment, m)
	var out []Remarked
	for _, a := range list {
		if a.kept == nil {
			continue
		}
		one := Remarked{Student: a.card.Name, N: a.card.N, Before: length.FromHalves(a.card.Half),
			After: length.FromHalves(a.kept.Half), Own: a.card.Own != nil, Stays: a.loses() && !lower}
		out = append(out, one)
	}
	return out, err
}

// loses reports whether an answered card has fewer marks by the other method.
func (a anew) loses() bool { return a.kept != nil && a.kept.Half < a.card.Half }

// asAsked returns the cards with those as they were asked and marked that would lose marks.
func asAsked(list []anew) []anew {
	out := slices.Clone(list)
	for i, a := range out {
		if a.loses() {
			out[i] = anew{card: a.card, item: a.card.Item}
		}
	}
	return out
}

// set puts a card marked anew in place.
func (a anew) set(ctx context.Context, tx *store.Tx) error {
	if err := sitting.UpdateItem(ctx, tx, a.card.ID, a.item); err != nil || a.kept == nil {
		return err
	}
	return sitting.UpdateMarks(ctx, tx, a.card.ID, *a.kept)
}

// ApplyRemark marks a given sheet anew by another method. The old marks are kept, and cards not yet answered are asked
// by the new method too. Cards that would lose marks stay as they were asked and marked, unless marks are to be lowered
// too.
func (svc *Service) ApplyRemark(ctx context.Context, owner, assignment int64, m exercise.Method, lower bool, who string,
	at time.Time) error {
	return svc.sitting.OnSheet(ctx, access.RemarkSheet, owner, assignment,
		func(tx *store.Tx, _ sitting.Assignment) error {
			return applyRemark(ctx, tx, owner, assignment, m, lower,
				access.Change{Who: who, What: text.New("log.apply-remark.what"), At: at})
		})
}

// applyRemark marks a sheet anew and logs it, with how many marks changed.
func applyRemark(ctx context.Context, tx *store.Tx, owner, assignment int64, m exercise.Method, lower bool,
	log access.Change) error {
	g, list, err := prepared(ctx, tx, owner, assignment, m)
	if err != nil {
		return err
	}
	if !lower {
		list = asAsked(list)
	}
	id, err := insertRemarking(ctx, tx, assignment, g.Definition, log.At)
	if err != nil {
		return err
	}
	if err := sitting.ForgetTold(ctx, tx, assignment); err != nil {
		return err
	}
	g.Sheet.Method = m
	after, err := store.JSON(g.Sheet)
	if err != nil {
		return err
	}
	if err := sitting.UpdateDefinition(ctx, tx, assignment, after); err != nil {
		return err
	}
	results, err := resultsOf(ctx, tx, assignment)
	if err != nil {
		return err
	}
	changed, answered := 0, 0
	for _, a := range list {
		if err := saveBefore(ctx, tx, id, before(a.card, results)); err != nil {
			return err
		}
		if a.card.Done() {
			answered++
		}
		if a.kept != nil {
			if a.kept.Half != a.card.Half {
				changed++
			}
		}
		if err := a.set(ctx, tx); err != nil {
			return err
		}
	}
	if err := forgetEarlier(ctx, tx, assignment, log.At); err != nil {
		return err
	}
	log.What = text.New("log.changed", "what", log.What, "changed", changed, "answered", answered)
	return access.Log(ctx, tx, assignment, log)
}

// resultsOf are the results of all answered cards of a given sheet, by card.
func resultsOf(ctx context.Context, r store.Queryer, assignment int64) (map[int64]string, error) {
	list, err := sitting.ListResults(ctx, r, assignment)
	if err != nil {
		return nil, err
	}
	out := make(map[int64]string, len(list))
	for _, k := range list {
		result, err := sitting.OpenResult(k.Document)
		if err != nil {
			return nil, fmt.Errorf("the result of card %d: %w", k.Card, err)
		}
		if out[k.Card], err = store.JSON(result); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// before returns the state of a card before it is marked anew, as it is kept.
func before(k sitting.CardRow, results map[int64]string) Before {
	b := Before{Card: k.ID, Item: k.Item}
	if result, ok := results[k.ID]; ok && k.Done() {
		b.Result, b.Half, b.Of = &result, &k.Half, &k.Of
		if k.Slip != "" {
			b.Slip = &k.Slip
		}
	}
	return b
}

// UndoRemark puts back the marks that stood before the latest re-marking of a given sheet;
// store.ErrNotFound when there is none. Cards answered since are marked by the method that is put back.
func (svc *Service) UndoRemark(ctx context.Context, owner, assignment int64, who string, at time.Time) error {
	return svc.sitting.OnSheet(ctx, access.RemarkSheet, owner, assignment,
		func(tx *store.Tx, _ sitting.Assignment) error {
			last, err := findLastRemarking(ctx, tx, assignment)
			if err != nil {
				return err
			}
			sheet, err := sitting.OpenGiven(sitting.Assignment{ID: assignment, Definition: last.Definition}, nil)
			if err != nil || sheet.Err != nil {
				return sheet.Err
			}
			_, list, err := prepared(ctx, tx, owner, assignment, sheet.Sheet.Method)
			if err != nil {
				return err
			}
			kept, err := listBefore(ctx, tx, last.ID)
			if err != nil {
				return err
			}
			was := make(map[int64]Before, len(kept))
			for _, b := range kept {
				was[b.Card] = b
			}
			for _, a := range list {
				if b, ok := was[a.card.ID]; ok {
					a.item = b.Item
					if a.kept, err = restored(a.kept, b); err != nil {
						return err
					}
				}
				if err := a.set(ctx, tx); err != nil {
					return err
				}
			}
			if err := sitting.UpdateDefinition(ctx, tx, assignment, last.Definition); err != nil {
				return err
			}
			if err := sitting.ForgetTold(ctx, tx, assignment); err != nil {
				return err
			}
			if err := deleteRemarking(ctx, tx, last.ID); err != nil {
				return err
			}
			return access.Log(ctx, tx, assignment, access.Change{Who: who, What: text.New("log.undo-remark.what"),
				At: at})
		})
}

// restored returns what a card came to before it was marked anew; of one answered since, what the method that
// is put back makes of it.
func restored(now *sitting.Marked, b Before) (*sitting.Marked, error) {
	if b.Result == nil || b.Half == nil || b.Of == nil {
		return now, nil
	}
	var result exercise.Result
	if err := json.Unmarshal([]byte(*b.Result), &result); err != nil {
		return nil, err
	}
	m := sitting.Marked{Half: *b.Half, Of: *b.Of, Fields: result.Fields}
	if b.Slip != nil {
		m.Slip = *b.Slip
	}
	return &m, nil
}

// CanUndo reports whether a given sheet has been marked anew.
func (svc *Service) CanUndo(ctx context.Context, instructor, assignment int64) (bool, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return false, err
	}
	_, err := findLastRemarking(ctx, svc.store, assignment)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

// SetOwnMark sets an instructor's own mark on a student's card, in halves, with the reason; nil takes it
// away again.
func (svc *Service) SetOwnMark(ctx context.Context, owner int64, c sitting.CardRow, half *int64, reason, who string,
	at time.Time) error {
	return svc.sitting.OnSheet(ctx, access.SetMark, owner, c.Assignment,
		func(tx *store.Tx, _ sitting.Assignment) error {
			now, err := sitting.FindCard(ctx, tx, owner, c.Assignment, c.Student, c.Attempt, c.N)
			if err != nil {
				return err
			}
			if err := updateOwnMark(ctx, tx, now.ID, half, reason); err != nil {
				return err
			}
			what := text.New("log.set-own-mark", "n", now.N, "name", now.Name)
			if half != nil {
				what = text.New("log.gave-card", "halves", length.FromHalves(*half), "n", now.N, "name", now.Name,
					"reason", reason)
			}
			return access.Log(ctx, tx, c.Assignment, access.Change{Who: who, What: what, At: at})
		})
}

// Release tells the students of an instructor's given test what it came to.
func (svc *Service) Release(ctx context.Context, owner, assignment int64, at time.Time) error {
	return svc.sitting.OnSheet(ctx, access.ReleaseResults, owner, assignment,
		func(tx *store.Tx, _ sitting.Assignment) error {
			return sitting.Release(ctx, tx, assignment, at)
		})
}
