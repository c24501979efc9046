package classroom

import (
	"context"

	"cavix/core/analysis"
	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/store"
)

// Analysis is what went wrong on a sheet.
type Analysis struct {
	Given  Given
	Cards  []analysis.Card
	Slips  []analysis.Slip
	Names  map[int64]string   // of students
	Shown  map[int]store.Card // by number: the kind and the instrument
	Astray map[astrayKey]Astray
}

type astrayKey struct {
	Card int
	Slip exercise.Code
}

// Astray is how far a slip led off on a card, on the mean, in the instrument's own unit.
type Astray struct {
	Sum   float64
	Count int
}

// By is the mean of how far it led.
func (a Astray) By() float64 {
	if a.Count == 0 {
		return 0
	}
	return a.Sum / float64(a.Count)
}

// Led is how far a slip led off on a card.
func (a *Analysis) Led(card int, slip exercise.Code) float64 {
	return a.Astray[astrayKey{card, slip}].By()
}

// WhatWentWrong looks at a sheet that was given to a class which an instructor teaches: of each student the attempt that
// counts.
func (r *Room) WhatWentWrong(ctx context.Context, instructor, assignment int64) (a Analysis, err error) {
	read := r.read(ctx)
	if a.Given, err = r.GivenSheet(ctx, instructor, assignment); err != nil {
		return a, err
	}
	marks, err := read.Ledger(instructor, assignment)
	if err != nil {
		return a, err
	}
	list := outcomes(a.Given.Sheet.Conduct, marks)
	a.Cards, a.Slips = analysis.Cards(list), analysis.Slips(list)
	if err := a.name(read, instructor); err != nil {
		return a, err
	}
	astray, err := read.Astray(instructor, assignment)
	if err != nil {
		return a, err
	}
	a.Astray = map[astrayKey]Astray{}
	for _, e := range astray {
		given, err := length.ReadTyped(e.Given)
		expected, bad := length.ParseStored(e.Expected)
		if err != nil || bad != nil {
			continue // no number: what is left out, or a choice
		}
		key := astrayKey{e.Card, exercise.Code(e.Slip)}
		was := a.Astray[key]
		a.Astray[key] = Astray{was.Sum + given.Value.Sub(expected).Abs().Float(), was.Count + 1}
	}
	return a, nil
}

func (a *Analysis) name(read *store.Reader, instructor int64) error {
	here, err := read.Everybody(instructor, a.Given.Class)
	if err != nil {
		return err
	}
	came, err := read.Came(instructor, a.Given.Class)
	if err != nil {
		return err
	}
	a.Names = map[int64]string{}
	for _, s := range append(here, came...) {
		a.Names[s.ID] = s.Name
	}
	cards, err := read.CardNames(instructor, a.Given.ID)
	if err != nil {
		return err
	}
	a.Shown = map[int]store.Card{}
	for _, c := range cards { // what most have comes last
		a.Shown[c.N] = c
	}
	return nil
}

// outcomes are what the cards came to, of each student's attempt that counts.
func outcomes(c exercise.Conduct, marks []store.Mark) (out []analysis.Outcome) {
	for begin := 0; begin < len(marks); { // those of one student stand together
		end := begin + 1
		for end < len(marks) && marks[end].Student == marks[begin].Student {
			end++
		}
		for _, m := range Counting(c, marks[begin:end]) {
			if m.Done {
				out = append(out, analysis.Outcome{Student: m.Student, Card: m.N, Earned: halves(m.Half), Of: halves(m.Of),
					Slip: exercise.Code(m.Slip)})
			}
		}
		begin = end
	}
	return out
}

// Counting are those of a student's marks on a sheet, by attempt, that count by the sheet's rule.
func Counting(c exercise.Conduct, marks []store.Mark) []store.Mark {
	var attempts [][]store.Mark
	for _, m := range marks {
		for len(attempts) < m.Attempt {
			attempts = append(attempts, nil)
		}
		attempts[m.Attempt-1] = append(attempts[m.Attempt-1], m)
	}
	sums := make([]length.Number, len(attempts))
	for i, one := range attempts {
		for _, m := range one {
			sums[i] = sums[i].Add(halves(m.Half))
		}
	}
	if _, at := c.Counting(sums); at >= 0 {
		return attempts[at]
	}
	return nil
}
