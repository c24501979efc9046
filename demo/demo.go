// Package demo fills a store with the Skerry Point tide-mill restoration course: made-up people who
// measure the parts of an old mill, their instruments, sheets and weeks of answers. It is the same
// every time, so that screenshots, examples and tests can count on it.
package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school"
	"cavix/school/access"
	"cavix/school/ledgers"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/store"
)

// Passphrase is the passphrase of everybody in the demo.
const Passphrase = "skerry-point"

// SignIn is one way into the demo. Code is a class's joining code, empty for an instructor.
type SignIn struct {
	Who                    text.Text
	Code, Name, Passphrase string
}

// SignIns lists the people that the demo's pages offer.
func SignIns() []SignIn {
	return []SignIn{
		{text.New("demo.maren"), "", "maren", Passphrase},
		{text.New("demo.ivo"), "", "ivo", Passphrase},
		{text.New("demo.una"), "", "una", Passphrase},
		{text.New("demo.wren"), "MILL47", "Wren A.", Passphrase},
		{text.New("demo.tobin"), "MILL47", "Tobin F.", Passphrase},
		{text.New("demo.elspeth"), "MILL47", "Elspeth O.", Passphrase},
		{text.New("demo.isolde"), "TIDE93", "Isolde M.", Passphrase},
	}
}

// term is when the course takes place: it began on a Monday seven weeks before the one of this week, and a class is at
// work just now.
type term struct{ begin, now time.Time }

func newTerm(now time.Time) term {
	now = now.UTC()
	monday := time.Date(now.Year(), now.Month(), now.Day()-(int(now.Weekday())+6)%7, 9, 0, 0, 0, time.UTC)
	return term{monday.AddDate(0, 0, -49), now}
}

// day is nine o'clock on a day of the course.
func (t term) day(n int) time.Time { return t.begin.AddDate(0, 0, n) }

// Fill puts the whole scenario into an empty store, as it stands at a time. But for dates it is the same every time.
func Fill(ctx context.Context, s *store.DB, now time.Time) error {
	t := newTerm(now)
	hash, err := roster.HashPassphrase(Passphrase)
	if err != nil {
		return err
	}
	room := school.New(s)
	owners := map[string]int64{}
	for _, i := range instructors {
		id, err := room.Roster.AddInstructor(ctx, roster.Instructor{Login: i.login, Name: i.name, Hash: hash,
			Keeper: i.keeper})
		if err != nil {
			return err
		}
		owners[i.login] = id
	}
	racks := map[string]map[string]rack.Racked{}
	keep := func(owner string, in *instrument.Instrument, err error) error {
		if err != nil {
			return err
		}
		id, err := room.Rack.KeepInstrument(ctx, owners[owner], 0, in)
		if err != nil {
			return err
		}
		if racks[owner] == nil {
			racks[owner] = map[string]rack.Racked{}
		}
		racks[owner][in.Name()] = rack.Racked{ID: id, Instrument: in}
		return nil
	}
	for _, r := range racked {
		in, err := instrument.Parse([]byte(r.document()))
		if err := keep(r.owner, in, err); err != nil {
			return fmt.Errorf("%s: %w", r.name, err)
		}
	}
	for _, p := range patterned {
		in, err := named(p.name, p.pattern, p.zero)
		if err := keep(p.owner, in, err); err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
	}
	if err := checked(ctx, room, owners["maren"], racks["maren"], t); err != nil {
		return err
	}
	sheetIDs := map[string]int64{}
	for _, sh := range sheets {
		kept := rack.Sheet{
			Title:      sh.title,
			Definition: exercise.Sheet{Delivery: sh.conduct, HintCost: 1, Dealer: exercise.Dealing},
		}
		if sh.picture != "" {
			kept.Definition.Picture = racks[sh.owner][sh.picture].Instrument
		}
		for _, b := range sh.blocks {
			made := exercise.Block{Kind: b.kind, Cards: b.cards, Settings: settings(b.settings)}
			var ids []int64
			for _, name := range b.with {
				k := racks[sh.owner][name]
				ids, made.Instruments = append(ids, k.ID), append(made.Instruments, k.Instrument)
			}
			kept.Racked, kept.Definition.Blocks = append(kept.Racked, ids), append(kept.Definition.Blocks, made)
		}
		id, err := room.Rack.KeepSheet(ctx, owners[sh.owner], kept)
		if err != nil {
			return err
		}
		sheetIDs[sh.title] = id
	}
	var practising errgroup.Group
	atWork := make([]func() error, len(classes))
	for i, c := range classes {
		f := filling{room, owners[c.owner], 0, nil, sheetIDs, t}
		if err := f.class(ctx, c, hash, &practising); err != nil {
			return err
		}
		if i == 0 {
			for _, m := range surveys {
				if err := f.measure(ctx, m, racks[c.owner][m.with].Instrument); err != nil {
					return err
				}
			}
		}
		if c.atWork != nil {
			atWork[i] = func() error { return f.give(ctx, *c.atWork) }
		}
	}
	if err := practising.Wait(); err != nil {
		return err
	}
	for _, give := range atWork {
		if give != nil {
			if err := give(); err != nil {
				return err
			}
		}
	}
	return nil
}

// settings reads "name=value|name=value".
func settings(pairs string) map[string]string {
	out := map[string]string{}
	for pair := range strings.SplitSeq(pairs, "|") {
		if name, value, ok := strings.Cut(pair, "="); ok {
			out[name] = value
		}
	}
	return out
}

// named makes an instrument from a ready pattern, with a name and a zero error of its own.
func named(name, pattern, zero string) (*instrument.Instrument, error) {
	for _, p := range instrument.Patterns() {
		if p.Name != pattern {
			continue
		}
		e, err := length.Parse(zero)
		if err != nil {
			return nil, err
		}
		p.Name, p.ZeroError = name, e
		return instrument.New(p)
	}
	return nil, fmt.Errorf("there is no pattern %q", pattern)
}

// filling is a class that is being filled.
type filling struct {
	room   *school.School
	owner  int64
	id     int64 // of the class
	seats  []pupilAt
	sheets map[string]int64
	term
}

// class makes a class with its pupils and what they were given. Some practise meanwhile: whoever goes on with the class
// waits for those.
func (f *filling) class(ctx context.Context, c class, hash string, practising *errgroup.Group) (err error) {
	if f.id, err = f.room.Roster.AddClass(ctx, f.owner, c.name, c.code); err != nil {
		return err
	}
	settings := roster.Settings{Name: c.name, Words: words.Set{Base: c.words}, Joining: roster.JoinOpen}
	if err := f.room.Roster.SaveSettings(ctx, access.Actor{ID: f.owner, Name: "Skerry Point", At: f.begin}, f.id,
		settings); err != nil {
		return err
	}
	for i, p := range c.pupils {
		n, err := f.room.Roster.Join(ctx, f.id, p.name, hash, f.begin)
		if err != nil {
			return err
		}
		f.seats = append(f.seats, pupilAt{p, n})
		crew := roster.Student{ID: n, Class: f.id, Name: p.name, Team: crews[i%len(crews)]}
		if err := f.room.Roster.ChangeStudent(ctx, access.Actor{ID: f.owner, Name: "Skerry Point", At: f.begin},
			crew); err != nil {
			return err
		}
	}
	for _, g := range c.given {
		if err := f.give(ctx, g); err != nil {
			return err
		}
	}
	for _, st := range f.seats[:min(c.practise, len(f.seats))] {
		practising.Go(func() error { return st.practise(ctx, f.room, st.id, practiceDays, f.term) })
	}
	if c.asked == nil {
		return nil
	}
	return c.asked.ask(ctx, f.room, f.owner, f.id, f.seats, f.term)
}

// give gives the class a sheet and has its pupils work on it.
func (f *filling) give(ctx context.Context, g given) error {
	at := f.day(g.day)
	if g.running {
		at = f.now.Add(-runningSince)
	}
	asg, err := f.room.Sitting.Give(ctx, f.owner, f.id, f.sheets[g.sheet],
		uint64(len(g.sheet))*0x9e3779b9+uint64(g.day), at)
	if err != nil {
		return err
	}
	if g.closes > 0 {
		closes := at.Add(g.closes)
		if g.fromNow {
			closes = f.now.Add(g.closes).Truncate(24 * time.Hour).Add(16 * time.Hour)
		}
		if err := f.room.Sitting.SetDates(ctx, f.owner, asg, at, closes); err != nil {
			return err
		}
	}
	// All seats at once: the store commits what waits together.
	var working errgroup.Group
	for _, st := range f.seats {
		working.Go(func() error { return st.work(ctx, f.room, f.id, st.id, asg, g, at) })
	}
	if err := working.Wait(); err != nil {
		return err
	}
	if g.printed {
		return f.onPaper(ctx, asg, at)
	}
	return nil
}

// onPaper prints a sheet for each, and types back what those wrote who were not there.
func (f *filling) onPaper(ctx context.Context, assignment int64, at time.Time) error {
	hand := access.Actor{ID: f.owner, Name: "Skerry Point", At: at.Add(26 * time.Hour)}
	if _, err := f.room.Ledgers.MakeVersions(ctx, hand, assignment,
		ledgers.Printing{Per: ledgers.PerStudent}); err != nil {
		return err
	}
	list, err := f.room.Ledgers.Papers(ctx, f.owner, assignment)
	if err != nil {
		return err
	}
	for _, p := range list {
		st, err := f.room.Sitting.Stands(ctx, p.Has[0].ID, assignment, hand.At)
		if err != nil {
			return err
		}
		if len(st.Sittings) > 0 {
			continue
		}
		whole, err := f.room.Ledgers.Paper(ctx, f.owner, assignment, p.Version)
		if err != nil {
			return err
		}
		w := ledgers.EnteredPaper{Student: p.Has[0].ID, Version: p.Version, Answers: map[int]exercise.Answer{}}
		draws := rand.New(rand.NewPCG(uint64(w.Student), uint64(p.Version)))
		for i, it := range whole.Items {
			slip := exercise.Code("")
			if i%3 == 1 {
				slip = anybodys[draws.IntN(len(anybodys))]
			}
			if w.Answers[i+1], err = answer(it, slip, draws); err != nil {
				return err
			}
		}
		if err := f.room.Ledgers.EnterAnswers(ctx, hand, assignment, []ledgers.EnteredPaper{w}); err != nil {
			return err
		}
	}
	return nil
}

// practise has a pupil practise some cards, on several days after the last sheet.
func (p pupil) practise(ctx context.Context, room *school.School, student int64, days []int, t term) error {
	draws := rand.New(rand.NewPCG(uint64(student), 4711))
	for i, day := range days {
		for n := range 4 + draws.IntN(4) {
			c, err := room.Sitting.NextCard(ctx, student, uint64(100*day+n))
			if err != nil {
				return err
			}
			slip := exercise.Code("")
			if draws.Float64() < p.often*(1-0.2*float64(i)) {
				slip = p.habit
			}
			a, err := answer(c.Item, slip, draws)
			if err != nil {
				return err
			}
			at := t.day(day).Add(time.Duration(8*60+n*3) * time.Minute)
			if err := room.Sitting.CheckPractice(ctx, student, c, a, at); err != nil {
				return err
			}
		}
	}
	return nil
}

// work has a pupil answer a share of a sheet's cards.
func (p pupil) work(ctx context.Context, room *school.School, class, student, assignment int64, g given,
	at time.Time) error {
	draws := rand.New(rand.NewPCG(uint64(student), uint64(g.day)))
	share := g.done
	if p.name == "Wren A." && share > 0 && share < 1 {
		share = 0.4
	}
	if share == 0 || draws.Float64() > 0.94 && p.name != "Wren A." {
		return nil // was not there
	}
	seated := at.Add(time.Duration(18+student*3) * time.Minute)
	if g.running {
		seated = at.Add(time.Duration(student%5) * time.Minute)
	}
	st, err := room.Sitting.Sit(ctx, student, assignment, seated)
	if err != nil {
		return err
	}
	marks, err := room.Sitting.Progress(ctx, student, assignment)
	if err != nil {
		return err
	}
	upTo := int(float64(len(marks))*share + draws.Float64()*0.8)
	pace := 95 * time.Second
	if g.running { // some are quick, some slow, a few stuck
		upTo = int(float64(len(marks)) * (0.5 + 0.7*draws.Float64()))
		idle := time.Duration(20+draws.IntN(80)) * time.Second
		if student%9 == 3 {
			idle = 7 * time.Minute
		}
		pace = (runningSince - seated.Sub(at) - 2*time.Minute - idle) / time.Duration(max(1, min(upTo, len(marks))))
	}
	for n := 1; n <= min(upTo, len(marks)); n++ {
		when := seated.Add(2*time.Minute + time.Duration(n)*pace)
		k, now, err := room.Sitting.MyCard(ctx, student, assignment, n, when)
		if err != nil {
			return err
		}
		if err := room.Sitting.See(ctx, student, class, k,
			when.Add(-time.Duration(35+draws.IntN(50))*time.Second)); err != nil {
			return err
		}
		// Those who improve make their slip less with every week and every card.
		chance := p.often
		if p.improves {
			chance *= max(0, 1-float64(g.day)/24-float64(n)/30)
		}
		slip := exercise.Code("")
		switch {
		case draws.Float64() < chance:
			slip = p.habit
		case draws.Float64() < 0.05:
			slip = anybodys[draws.IntN(len(anybodys))]
		}
		a, err := answer(k.Item, slip, draws)
		if err != nil {
			return err
		}
		if p.dropsZeros {
			dropZeros(a)
		}
		if st.Test() {
			err = room.Sitting.SaveDraft(ctx, student, k, now, a)
		} else {
			_, err = room.Sitting.Submit(ctx, student, k, now, a, when)
		}
		if err != nil {
			return err
		}
	}
	if g.running && upTo < len(marks) { // at work on the next
		k, _, err := room.Sitting.MyCard(ctx, student, assignment, upTo+1, seated)
		if err != nil {
			return err
		}
		return room.Sitting.See(ctx, student, class, k, seated.Add(2*time.Minute+time.Duration(upTo)*pace))
	}
	if st.Test() {
		return room.Sitting.HandIn(ctx, student, assignment, seated.Add(25*time.Minute))
	}
	return nil
}

// pupilAt is a pupil with the number under which the class has one.
type pupilAt struct {
	pupil
	id int64
}

// ask asks a class a question at once, and has its pupils answer; the answers are uncovered then.
func (q question) ask(ctx context.Context, room *school.School, owner, class int64, pupils []pupilAt, t term) error {
	kept, err := room.Rack.Rack(ctx, owner)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(kept, func(k rack.Racked) bool { return k.Name == q.instrument })
	if i < 0 {
		return fmt.Errorf("no instrument %q", q.instrument)
	}
	y, err := length.Parse(q.shows)
	if err != nil {
		return err
	}
	at := t.day(q.day).Add(9 * time.Hour)
	it := kinds.NewRound(kept[i].Instrument, y, []string{slips.Observed}, exercise.Method{})
	round, err := room.Rounds.Open(ctx, owner, class, it, true, at)
	if err != nil {
		return err
	}
	draws := rand.New(rand.NewPCG(7, uint64(class)))
	for n, p := range pupils {
		if n%q.silent == q.silent-1 {
			continue // has not answered yet
		}
		slip := p.habit
		if draws.Float64() > 2.2*p.often {
			slip = ""
		}
		a, err := answer(it, slip, draws)
		if err != nil {
			return err
		}
		if err := room.Rounds.Reply(ctx, p.id, class, round, a, at.Add(time.Duration(20+n)*time.Second)); err != nil {
			return err
		}
	}
	return room.Rounds.Reveal(ctx, owner, class, at.Add(time.Minute))
}

// anybodys are slips that anybody makes once.
var anybodys = []exercise.Code{slips.NeighbourLine, slips.MainMarkMissed, slips.ZeroSignFlipped, slips.DigitsSwapped}
