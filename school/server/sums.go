package server

import (
	"context"
	"maps"
	"math"
	"slices"

	"cavix/school/sitting"
	"cavix/store"
)

// sheetsAtOnce is the number of given sheets, and of classes, whose sums are compared at a time.
const sheetsAtOnce = 10

// sums compares what stands ready of sheets and classes with the cards that it sums up.
func (a *Audit) sums(ctx context.Context, rd *store.DB, by Auditing) error {
	last, err := sitting.LastSummed(ctx, rd)
	if err != nil {
		return err
	}
	return sideBySide(ctx, by, 0, last, sheetsAtOnce, func(ctx context.Context, after, to int64) (found Audit,
		err error) {
		for sheet := after + 1; sheet <= to; sheet++ {
			// students may be at work on it
			if err := rd.Snapshot(ctx, func(q store.Queryer) error {
				return found.sheetSums(ctx, q, sheet)
			}); err != nil {
				return found, err
			}
		}
		makers, err := sitting.ListMakersOff(ctx, rd, after, to, mostAudited)
		for _, m := range makers {
			found.fault("class %d: the tally of who made %q is not that of the cards", m.Class, m.Slip)
		}
		return found, err
	}, func(found Audit, _ int64) { a.add(found) })
}

// sheetSums compares what stands ready of a given sheet with its cards.
func (a *Audit) sheetSums(ctx context.Context, rd store.Queryer, sheet int64) error {
	cards, err := sitting.ListSummedCards(ctx, rd, sheet)
	if err != nil {
		return err
	}
	attempts, err := sitting.ListSummedAttempts(ctx, rd, sheet)
	if err != nil {
		return err
	}
	standing, err := sitting.ListTallies(ctx, rd, sheet)
	if err != nil {
		return err
	}
	tallies := map[sitting.TallyKey]sitting.TallyTotals{}
	of := map[attempt][]sitting.SummedCard{}
	for from, i := 0, 0; i < len(cards); i++ {
		c := &cards[i]
		if next := i + 1; next == len(cards) || cards[next].Student != c.Student || cards[next].Attempt != c.Attempt {
			of[attempt{c.Student, c.Attempt}], from = cards[from:next], next
		}
		if tally, adds, counts := c.Tally(); counts {
			t := tallies[tally]
			tallies[tally] = sitting.TallyTotals{Cards: t.Cards + adds.Cards, Half: t.Half + adds.Half,
				Of: t.Of + adds.Of}
		}
	}
	for _, t := range attempts {
		cards := of[attempt{t.Student, t.Attempt}]
		if !sumUpTo(cards, t) {
			a.fault("sheet %d, student %d, attempt %d: the sums are not those of the cards", sheet, t.Student,
				t.Attempt)
		}
		if t.Unread != nil || !slices.EqualFunc(cards, t.States, func(c sitting.SummedCard, s sitting.CardState) bool {
			return sameState(c.State(), s)
		}) {
			a.fault("sheet %d, student %d, attempt %d: the marks are not those of the cards", sheet, t.Student,
				t.Attempt)
		}
	}
	if !maps.Equal(tallies, standing) {
		a.fault("sheet %d: the tallies are not those of the cards", sheet)
	}
	return nil
}

// attempt names an attempt at a sheet.
type attempt struct {
	student int64
	n       int
}

// sumUpTo reports whether the sums of an attempt are those of its cards.
func sumUpTo(cards []sitting.SummedCard, t sitting.SummedAttempt) bool {
	sum := sitting.SummedAttempt{}
	for _, c := range cards {
		if c.Answered != nil {
			sum.Cards++
		}
		sum.Half, sum.Of, sum.Full = sum.Half+c.Half, sum.Of+c.Of, sum.Full+c.Full
		sum.Late, sum.Hidden = sum.Late || c.Late, sum.Hidden || c.Hidden
	}
	return sum.Cards == t.Cards && sum.Half == t.Half && sum.Of == t.Of && sum.Full == t.Full && sum.Late == t.Late &&
		sum.Hidden == t.Hidden
}

// sameState reports whether two states are of the same card, and tell the same.
func sameState(a, b sitting.CardState) bool {
	led := a.Led == nil && b.Led == nil
	if a.Led != nil && b.Led != nil { // one is read from what SQLite wrote with 15 digits or more
		led = math.Abs(*a.Led-*b.Led) <= 1e-9*math.Abs(*b.Led)
	}
	return a.Mark == b.Mark && a.Seen.Equal(b.Seen) && a.Answered.Equal(b.Answered) && led
}
