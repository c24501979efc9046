package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/comparator"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/logbook"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/marking"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/school/sitting"
	"cavix/school/studies"
	"cavix/store"
)

// Audit holds the findings of a check of the whole database.
type Audit struct {
	Documents int               // of every sort that is kept
	Numbers   int               // deviations, readings and limits
	Cards     int               // dealt
	Answers   int               // marked anew: of cards and of rounds
	Faults    []string          // what cannot be read or is marked otherwise than the core marks it, up to a bound
	More      int               // faults beyond those
	Earlier   []marking.Earlier // sheets with cards that were marked by an earlier version's rules, which is no fault
}

// Auditing says from where a check goes on, and who is told how far it has come. The zero Auditing checks everything.
type Auditing struct {
	After int64                  // the card up to which an earlier check has come
	Say   func(card, last int64) // which card it has come to, of which; nil where nobody asks
	// Gently looks at one thing at a time, with pauses as long as the work: for a database that is being served.
	Gently bool
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

// kept is one sort of what is kept: documents, or single numbers.
type kept struct {
	what   string // as "instrument", before the id
	from   Shelf
	number bool
	read   func([]byte) error
}

// keptEverywhere are the sorts whose rows stand alone. Cards, sheets that were given and what hangs on rounds and
// studies is read by functions of its own.
var keptEverywhere = []kept{
	{"instrument", Instruments, false, readsInto[instrument.Instrument]},
	{"zero limit of instrument", ZeroBounds, true, readsNumber},
	{"logbook entry", LogEntries, false, readsInto[logbook.Entry]},
	{"sheet", SheetsMade, false, readsSheet},
	{"sheet before re-marking", BeforeMarked, false, readsSheet},
	{"care question", CareItems, false, func(doc []byte) error { _, err := kinds.Open(doc); return err }},
	{"convention of class", Conventions, false, readsInto[exercise.Method]},
	{"words of class", Terms, false, func(doc []byte) error { _, err := roster.Words(string(doc)); return err }},
	{"Board of class", Boards, false, readsInto[map[string]any]},
	{"comparison", Comparisons, false, readsInto[comparator.Plan]},
	{"line of a comparison", Deviations, true, readsNumber},
}

func readsInto[T any](doc []byte) error { return json.Unmarshal(doc, new(T)) }

func readsNumber(says []byte) error { return new(length.Number).UnmarshalText(says) }

func readsSheet(doc []byte) error {
	_, err := kinds.All.ReadSheet(doc)
	return err
}

// Audit reads every number, document, item and answer that is kept, and marks every answer anew by the item and the
// sheet as they are kept: its marks must be those that stand. It changes nothing, and an instructor's own marks are not
// its business. Cards are looked through on all processors.
func (svc *Service) Audit(ctx context.Context, by Auditing) (a Audit, err error) {
	rd := svc.store
	for _, k := range keptEverywhere {
		if err := a.shelf(ctx, rd, k); err != nil {
			return a, err
		}
	}
	sheets, err := a.given(ctx, rd)
	if err != nil {
		return a, err
	}
	if err := a.cards(ctx, rd, sheets, by); err != nil {
		return a, err
	}
	return a, errors.Join(a.sums(ctx, rd, by), a.rounds(ctx, rd), a.studies(ctx, rd))
}

// sideBySide goes through numbers in spans, as many at a time as there are processors, or gently, and hands over what
// was found in each in their order, with the last number of the span.
func sideBySide[T any](ctx context.Context, by Auditing, after, last, span int64,
	look func(ctx context.Context, after, to int64) (T, error), found func(T, int64)) error {
	workers := int64(runtime.GOMAXPROCS(0))
	if by.Gently {
		workers = 1
	}
	for ; after < last; after += workers * span {
		began := time.Now()
		parts := make([]T, workers)
		g, working := errgroup.WithContext(ctx)
		for i := range workers {
			g.Go(func() (err error) {
				parts[i], err = look(working, after+i*span, after+(i+1)*span)
				return err
			})
		}
		if err := g.Wait(); err != nil {
			return err
		}
		for i, part := range parts {
			found(part, min(after+int64(i+1)*span, last))
		}
		if by.Gently {
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(time.Since(began)):
			}
		}
	}
	return nil
}

// add adds the findings of a part.
func (a *Audit) add(part Audit) {
	a.Cards += part.Cards
	a.Answers += part.Answers
	a.More += part.More
	for _, f := range part.Faults {
		a.fault("%s", f)
	}
}

// shelf reads everything of one sort.
func (a *Audit) shelf(ctx context.Context, rd store.Queryer, k kept) error {
	return shelved(ctx, rd, k.from, func(row store.Kept) error {
		if k.number {
			a.Numbers++
		} else {
			a.Documents++
		}
		if err := k.read([]byte(row.Document)); err != nil {
			a.fault("%s %d cannot be read: %s", k.what, row.ID, err)
		}
		return nil
	})
}

// studies reads the plans of studies, and what students read and set in them.
func (a *Audit) studies(ctx context.Context, rd store.Queryer) error {
	return shelved(ctx, rd, PlansGiven, func(k store.Kept) error {
		a.Documents++
		s, _ := studies.OpenSurvey(studies.SurveyRow{ID: k.ID, Plan: k.Document}, nil)
		if s.Err != nil {
			a.fault("study %d cannot be read: %s", k.ID, errors.Unwrap(s.Err))
		}
		read, damaged, err := studies.OpenReadings(studies.ListAllReadings(ctx, rd, k.ID))
		if err != nil {
			return err
		}
		a.Numbers += len(read) + len(damaged)
		for _, g := range damaged {
			a.fault("study %d, student %d, reading %d cannot be read: %q is no number", k.ID, g.Student, g.Cell+1,
				g.Value)
		}
		for _, g := range read {
			if s.Err == nil && (g.Cell < 0 || g.Cell >= s.Plan.Cells()) {
				a.fault("study %d, student %d: there is no reading %d in the plan", k.ID, g.Student, g.Cell+1)
			}
		}
		set, err := studies.ListSetups(ctx, rd, k.ID)
		for _, answer := range set {
			a.Documents++
			if err := readsInto[exercise.Answer]([]byte(answer.Document)); err != nil {
				a.fault("study %d, student %d: what was set cannot be read: %s", k.ID, answer.ID, err)
			}
		}
		return err
	})
}

// shelved hands out every document of a shelf.
func shelved(ctx context.Context, rd store.Queryer, from Shelf, each func(store.Kept) error) error {
	for after := int64(0); ; {
		list, err := listShelved(ctx, rd, from, after, auditStep)
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
func (a *Audit) given(ctx context.Context, rd store.Queryer) (map[int64]exercise.Sheet, error) {
	sheets := map[int64]exercise.Sheet{}
	return sheets, shelved(ctx, rd, SheetsGiven, func(k store.Kept) error {
		a.Documents++
		sheet, err := kinds.All.ReadSheet([]byte(k.Document))
		if err != nil {
			a.fault("given sheet %d cannot be read: %s", k.ID, err)
			return nil
		}
		sheets[k.ID] = sheet
		return a.papers(ctx, rd, sitting.Given{Assignment: sitting.Assignment{ID: k.ID}, Sheet: sheet})
	})
}

// papers reads the versions of a sheet that were printed.
func (a *Audit) papers(ctx context.Context, rd store.Queryer, g sitting.Given) error {
	list, err := ledgers.ListPapers(ctx, rd, g.ID, ledgers.MostPapers)
	for _, p := range list {
		a.Documents++
		if _, _, err := ledgers.Printed(ctx, rd, g, p.Version); err != nil {
			a.fault("version %d on paper of sheet %d cannot be read: %s", p.Version, g.ID, err)
		}
	}
	return err
}

// marked is a card that was marked by an earlier version's rule.
type marked struct {
	card sitting.CardRow
	rule *marking.EarlierRule
}

// cards reads every card, and marks those that were answered.
func (a *Audit) cards(ctx context.Context, rd store.Queryer, sheets map[int64]exercise.Sheet, by Auditing) error {
	last, err := sitting.LastCard(ctx, rd)
	if err != nil {
		return err
	}
	type part struct {
		Audit
		earlier []marked
	}
	earlier := map[int64]*marking.Earlier{}
	var failed error
	if err := sideBySide(ctx, by, by.After, last, auditStep, func(ctx context.Context, after, to int64) (p part,
		err error) {
		list, err := sitting.ListCardsBetween(ctx, rd, after, to)
		for _, k := range list {
			if rule := p.card(k, sheets[k.Assignment]); rule != nil && k.Assignment != 0 { // practice has no marks
				p.earlier = append(p.earlier, marked{k, rule})
			}
		}
		return p, errors.Join(err, ctx.Err())
	}, func(p part, to int64) {
		a.add(p.Audit)
		for _, m := range p.earlier {
			failed = errors.Join(failed, countEarlier(ctx, rd, earlier, m.card, m.rule))
		}
		if by.Say != nil {
			by.Say(to, last)
		}
	}); err != nil {
		return err
	}
	for _, id := range slices.Sorted(maps.Keys(earlier)) {
		a.Earlier = append(a.Earlier, *earlier[id])
	}
	return failed
}

// card looks at a card, and returns the earlier version's rule that it was marked by, if any.
func (a *Audit) card(k sitting.CardRow, sheet exercise.Sheet) *marking.EarlierRule {
	a.Cards++
	if k.Done() {
		a.Answers++
	}
	rule, why := audited(k, sheet)
	switch {
	case why != "" && k.Assignment == 0:
		a.fault("card %d (%s, card %d of practice): %s", k.ID, k.Name, k.N, why)
	case why != "":
		a.fault("card %d (%s, card %d of sheet %d): %s", k.ID, k.Name, k.N, k.Assignment, why)
	}
	return rule
}

// countEarlier counts a card that was marked by an earlier version's rule with its sheet.
func countEarlier(ctx context.Context, rd store.Queryer, by map[int64]*marking.Earlier, k sitting.CardRow,
	rule *marking.EarlierRule) error {
	e := by[k.Assignment]
	if e == nil {
		title, class, err := sitting.SheetTitle(ctx, rd, k.Assignment)
		if err != nil {
			return err
		}
		e = &marking.Earlier{Assignment: k.Assignment, Title: title, Class: class, N: k.N, Student: k.Name,
			Code: rule.Code}
		by[k.Assignment] = e
	}
	e.Cards++
	return nil
}

// audited says what is wrong with a card as it is kept, or "" and the earlier version's rule that it was marked by, if
// any.
func audited(k sitting.CardRow, sheet exercise.Sheet) (*marking.EarlierRule, string) {
	c, err := sitting.OpenCard(k)
	switch {
	case err != nil:
		return nil, err.Error()
	case !k.Done() && k.Result != "":
		return nil, "it has marks and was not answered"
	case !k.Done():
		return nil, ""
	}
	result, err := c.Item.Mark(c.Answer)
	if err != nil {
		return nil, "its answer cannot be marked: " + err.Error()
	}
	m, err := sitting.NewMarked(result, sheet, c.Item, k, nil)
	if err != nil {
		return nil, err.Error()
	}
	same := m.Half == k.Half && m.Of == k.Of
	if doc, err := store.JSON(m.Fields); err == nil && doc == k.Result && same && m.Form() == k.Form {
		return nil, "" // the very same, as nearly all are
	}
	stands, err := sitting.OpenResult(k.Result)
	if err != nil {
		return nil, "its result cannot be read: " + err.Error()
	}
	if (sitting.Marked{Fields: stands.Fields}).Form() != k.Form {
		return nil, "whether it lost marks for form is not what its fields say"
	}
	if same && slices.EqualFunc(m.Fields, stands.Fields, sameMarks) {
		return nil, ""
	}
	if rule := marking.EarlierRuleOf(stands.Fields, m.Fields); rule != nil {
		half, err := earned(stands, sheet, c.Item, k)
		if err != nil {
			return nil, err.Error()
		}
		if half == k.Half && m.Of == k.Of {
			return rule, ""
		}
	}
	return nil, discrepancy(k, m, stands.Fields)
}

// sameMarks reports whether two fields are marked alike; how they are explained may be another matter.
func sameMarks(a, b exercise.Mark) bool {
	return a.Field == b.Field && a.Outcome == b.Outcome && a.Marks.Equal(b.Marks) && a.Expected == b.Expected
}

// earned is twice what fields as they stand come to on a card, less what help cost.
func earned(result exercise.Result, sheet exercise.Sheet, it exercise.Item, k sitting.CardRow) (int64, error) {
	m, err := sitting.NewMarked(result, sheet, it, k, nil)
	return m.Half, err
}

// discrepancy says in what the marks that stand are not those that the core gives.
func discrepancy(k sitting.CardRow, m sitting.Marked, stands []exercise.Mark) string {
	if m.Half != k.Half || m.Of != k.Of {
		return fmt.Sprintf("%s of %s stand, the core gives %s of %s", length.FromHalves(k.Half),
			length.FromHalves(k.Of), length.FromHalves(m.Half), length.FromHalves(m.Of))
	}
	if len(m.Fields) != len(stands) {
		return fmt.Sprintf("%d fields stand, the core marks %d", len(stands), len(m.Fields))
	}
	for i, e := range m.Fields {
		if was := stands[i]; !sameMarks(was, e) {
			return fmt.Sprintf("field %s stands as %s, expecting %s; the core says %s, expecting %s", was.Field,
				was.Outcome, was.Expected, e.Outcome, e.Expected)
		}
	}
	return "the marks that stand are not those that the core gives"
}

// rounds reads the questions that classes were asked, and marks their answers.
func (a *Audit) rounds(ctx context.Context, rd store.Queryer) error {
	return shelved(ctx, rd, RoundsAsked, func(k store.Kept) error {
		a.Documents++
		it, err := kinds.Open([]byte(k.Document))
		if err != nil {
			a.fault("round %d cannot be read: %s", k.ID, err)
			return nil
		}
		for after := int64(0); ; {
			list, err := rounds.ListRepliesAfter(ctx, rd, k.ID, after, auditStep)
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

func auditedReply(it exercise.Item, reply rounds.Reply) string {
	answer := exercise.Answer{}
	if err := json.Unmarshal([]byte(reply.Answer), &answer); err != nil {
		return err.Error()
	}
	result, err := it.Mark(answer)
	if err != nil {
		return "the answer cannot be marked: " + err.Error()
	}
	if length.ToHalves(result.Marks) != reply.Half || length.ToHalves(result.Of) != reply.Of {
		return fmt.Sprintf("%s of %s stand, the core gives %s of %s", length.FromHalves(reply.Half),
			length.FromHalves(reply.Of), result.Marks, result.Of)
	}
	return ""
}

// Numbers counts what is kept.
func (svc *Service) Numbers(ctx context.Context, keeper int64) (n Numbers, err error) {
	if err := access.KeepsServer(ctx, svc.store, keeper); err != nil {
		return n, err
	}
	return readNumbers(ctx, svc.store)
}
