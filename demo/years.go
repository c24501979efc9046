package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/school"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
)

// Years is the size of a made-up school that has used Cavix for some years.
type Years struct {
	Years    int // this one is the last
	Classes  int // a year
	Students int // of a class
	Sheets   int // given to a class, a week apart
	Cards    int // of a sheet, all of them answered
}

// TenYears is a school of 1,500 students: six million cards.
var TenYears = Years{Years: 10, Classes: 40, Students: 38, Sheets: 40, Cards: 10}

// AllCards returns how many cards all classes have.
func (y Years) AllCards() int { return y.Years * y.Classes * y.Students * y.Sheets * y.Cards }

const (
	day    = 24 * 60 * 60 // seconds
	year   = 364 * day    // whole weeks, and whole quarters of an hour
	staff  = 20           // instructors who share the classes
	weekOf = 7            // days between two sheets
)

// FillYears adds the years before now to the demo. One class does all its work, card for card; the others are copies of
// it in other years and with other instructors, but for names and dates. Say is told how many classes are done, of how
// many.
func FillYears(ctx context.Context, s *store.DB, size Years, now time.Time, say func(done, of int)) error {
	room := school.New(s)
	hash, err := roster.HashPassphrase(Passphrase)
	if err != nil {
		return err
	}
	maren, err := room.Roster.InstructorByLogin(ctx, instructors[0].login)
	if err != nil {
		return err
	}
	owners := []int64{maren.ID}
	for i := 1; i < min(staff, size.Classes); i++ {
		id, err := room.Roster.AddInstructor(ctx, roster.Instructor{Login: fmt.Sprintf("staff%02d", i),
			Name: fmt.Sprintf("Millwright %d", i), Hash: hash})
		if err != nil {
			return err
		}
		owners = append(owners, id)
	}
	t := newTerm(now)
	t.begin = t.begin.AddDate(0, 0, -weekOf*size.Sheets-size.Years*year/day)
	f := filling{room, maren.ID, 0, nil, map[string]int64{}, t}
	first := class{owner: instructors[0].login, name: "Year 1, group 1", code: "AAAA1111",
		pupils: manyPupils(size.Students)}
	if err := f.weeks(ctx, size); err != nil {
		return err
	}
	for i := range size.Sheets {
		first.given = append(first.given, given{sheet: weekly(i), day: weekOf * i, done: 1})
	}
	if err := f.class(ctx, first, hash, new(errgroup.Group)); err != nil {
		return err
	}
	return copyClass(ctx, s, f.id, f.begin, owners, size, say)
}

// weekly names the sheet of a week.
func weekly(week int) string { return fmt.Sprintf("Week %d", week+1) }

// weeks makes the sheets of a year: readings on the demo's instruments, each fourth with a block of another kind.
func (f *filling) weeks(ctx context.Context, size Years) error {
	kept, err := f.room.Rack.Rack(ctx, f.owner)
	if err != nil {
		return err
	}
	var usable []rack.Racked
	for _, k := range kept {
		if k.Instrument.Spec().Family != instrument.GearTooth {
			usable = append(usable, k)
		}
	}
	for i := range size.Sheets {
		blocks := []block{{kind: "read", cards: size.Cards}}
		if other := []string{"least_count", "convert", "set"}[i/4%3]; i%4 == 3 && size.Cards > 3 {
			blocks = []block{{kind: "read", cards: size.Cards - 3}, {kind: other, cards: 3}}
		}
		sheet := rack.Sheet{Title: weekly(i), Definition: exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing}}
		for _, b := range blocks {
			k := usable[i%len(usable)]
			sheet.Racked = append(sheet.Racked, []int64{k.ID})
			sheet.Definition.Blocks = append(sheet.Definition.Blocks, exercise.Block{Kind: b.kind, Cards: b.cards,
				Instruments: []*instrument.Instrument{k.Instrument}})
		}
		if f.sheets[sheet.Title], err = f.room.Rack.KeepSheet(ctx, f.owner, sheet); err != nil {
			return fmt.Errorf("%s: %w", sheet.Title, err)
		}
	}
	return nil
}

// manyPupils are so many pupils: those of the demo's classes, with a number from the second time on.
func manyPupils(n int) []pupil {
	known := slices.Concat(classes[0].pupils, classes[1].pupils)
	out := make([]pupil, n)
	for i := range out {
		out[i] = known[i%len(known)]
		if again := i / len(known); again > 0 {
			out[i].name = fmt.Sprint(out[i].name, " ", again+1)
		}
		out[i].improves = false // a year is longer than their habits would last
	}
	return out
}

// copyClass copies a class that began at a time, with its students, sheets and all that was answered, until there are
// as many as wanted. The class's own sums are copied too, so the triggers that keep them are put aside meanwhile.
func copyClass(ctx context.Context, s *store.DB, from int64, begin time.Time, owners []int64, size Years,
	say func(done, of int)) error {
	var c copying
	if err := s.Write(ctx, func(tx *store.Tx) (err error) {
		c, err = beginCopying(ctx, tx, from)
		return err
	}); err != nil {
		return err
	}
	for n := range size.Years * size.Classes {
		y := n / size.Classes
		to := copied{
			nth: n, later: int64(y) * year, owner: owners[n%len(owners)],
			name:  fmt.Sprintf("Year %d, group %d", y+1, n%size.Classes+1),
			code:  fmt.Sprintf("AAAA%04d", 1111+n),
			since: begin.Unix() + int64(y)*year,
		}
		if y < size.Years-1 {
			over := to.since + year
			to.over = &over
		}
		if err := s.Write(ctx, func(tx *store.Tx) error { return c.write(ctx, tx, to) }); err != nil {
			return err
		}
		say(n+1, size.Years*size.Classes)
	}
	return s.Write(ctx, func(tx *store.Tx) error { return c.end(ctx, tx) })
}
