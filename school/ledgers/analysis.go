package ledgers

import (
	"context"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/analysis"
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// Analysis holds the mistakes on a sheet, card by card.
type Analysis struct {
	Given  sitting.Given
	Cards  []analysis.Card
	Slips  []analysis.Slip
	Names  map[int64]string        // of students
	Shown  map[int]sitting.CardRow // by number: the kind and the instrument
	Astray map[astrayKey]MeanDeviation
}

type astrayKey struct {
	Card int
	Slip exercise.Code
}

// MeanDeviation is the mean error that a slip caused on a card, in the instrument's unit.
type MeanDeviation struct {
	Sum   float64
	Count int
}

// By is the mean of how far it led.
func (a MeanDeviation) By() float64 {
	if a.Count == 0 {
		return 0
	}
	return a.Sum / float64(a.Count)
}

// Led is the deviation that a slip caused on a card.
func (a *Analysis) Led(card int, slip exercise.Code) float64 {
	return a.Astray[astrayKey{card, slip}].By()
}

// Mistakes looks at a sheet that was given to a class which an instructor teaches: of each student the attempt that
// counts.
func (svc *Service) Mistakes(ctx context.Context, instructor, assignment int64) (a Analysis, err error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return a, err
	}
	read := svc.store
	if a.Given, err = svc.sitting.GivenSheet(ctx, instructor, assignment); err != nil {
		return a, err
	}
	var attempts []sitting.AttemptRow
	var cells map[int64]LedgerCell
	var g errgroup.Group
	g.Go(safely(func() (err error) {
		attempts, err = sitting.ListAttempts(ctx, read, instructor, assignment)
		return err
	}))
	g.Go(safely(func() error {
		people, err := a.name(ctx, read, instructor)
		if err == nil {
			cells, err = svc.SheetCells(ctx, instructor, a.Given, people, time.Now())
		}
		return err
	}))
	g.Go(safely(func() error { return a.show(ctx, read, instructor) }))
	if err := g.Wait(); err != nil {
		return a, err
	}
	cards := counting(attempts, cells)
	list := outcomes(cards)
	a.Cards, a.Slips = analysis.Cards(list), analysis.Slips(list)
	a.Astray = map[astrayKey]MeanDeviation{}
	for _, c := range cards {
		if c.Led != nil {
			key := astrayKey{c.N, exercise.Code(c.Slip)}
			was := a.Astray[key]
			a.Astray[key] = MeanDeviation{was.Sum + *c.Led, was.Count + 1}
		}
	}
	return a, nil
}

// name notes what the students are called who are, or were, in the class, and returns them.
func (a *Analysis) name(ctx context.Context, read store.Queryer, instructor int64) ([]roster.Student, error) {
	here, err := roster.ListAll(ctx, read, instructor, a.Given.Class)
	if err != nil {
		return nil, err
	}
	came, err := listMovedStudents(ctx, read, instructor, a.Given.Class)
	if err != nil {
		return nil, err
	}
	people := append(here, came...)
	a.Names = map[int64]string{}
	for _, s := range people {
		a.Names[s.ID] = s.Name
	}
	return people, nil
}

// show notes a card for each number of the sheet.
func (a *Analysis) show(ctx context.Context, read store.Queryer, instructor int64) error {
	cards, err := listCardNames(ctx, read, instructor, a.Given.ID)
	if err != nil {
		return err
	}
	a.Shown = map[int]sitting.CardRow{}
	for _, c := range cards { // what most have comes last
		a.Shown[c.N] = c
	}
	return nil
}

// counting are the answered cards of each student's attempt that counts.
func counting(attempts []sitting.AttemptRow, cells map[int64]LedgerCell) []sitting.CardState {
	all := 0
	for _, a := range attempts {
		all += len(a.Cards)
	}
	out := make([]sitting.CardState, 0, all)
	for _, a := range attempts {
		for _, c := range a.Cards {
			if c.Done && a.Attempt == cells[a.Student].Attempt {
				out = append(out, c)
			}
		}
	}
	return out
}

// outcomes returns the results of cards.
func outcomes(cards []sitting.CardState) []analysis.Outcome {
	out := make([]analysis.Outcome, len(cards))
	for i, c := range cards {
		out[i] = analysis.Outcome{Student: c.Student, Card: c.N, Earned: length.FromHalves(c.Half),
			Of: length.FromHalves(c.Of), Slip: exercise.Code(c.Slip)}
	}
	return out
}
