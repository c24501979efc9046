package classroom

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/practice"
	"cavix/store"
)

// Practising is how a student stands with practice without end.
type Practising struct {
	store.Practice
	Memory   practice.Memory
	Families []instrument.Family // that the student can choose from
	Chosen   []instrument.Family // that are practised on; none is what is needed most
}

// lately is of how many cards no position is asked again.
const lately = 400

// Practice tells how a student practises.
func (r *Room) Practice(ctx context.Context, student int64) (p Practising, err error) {
	rd := r.read(ctx)
	if p, err = practising(rd, student); err != nil {
		return p, err
	}
	instruments, err := r.practised(rd, student)
	for _, in := range instruments {
		if f := in.Spec().Family; !slices.Contains(p.Families, f) {
			p.Families = append(p.Families, f)
		}
	}
	return p, err
}

func practising(rd *store.Reader, student int64) (p Practising, err error) {
	if p.Practice, err = rd.Practice(student); err != nil {
		return p, err
	}
	for f := range strings.FieldsSeq(p.Practice.Families) {
		p.Chosen = append(p.Chosen, instrument.Family(f))
	}
	list, err := rd.Evidence(student)
	p.Memory = practice.Memory{Cards: p.Cards, Level: practice.Level(p.Level), Wrong: p.Wrong, Right: p.Right,
		Tallies: map[practice.Key]practice.Tally{}}
	for _, e := range list {
		p.Memory.Tallies[practice.Key{Family: instrument.Family(e.Family), Slip: exercise.Code(e.Slip)}] =
			practice.Tally{Could: e.Could, Did: e.Did, At: e.At}
	}
	return p, err
}

// practised are the instruments that a student can practise on: those of the sheets that the class was given, or a few
// ready ones while there is no sheet.
func (r *Room) practised(rd *store.Reader, student int64) (out []*instrument.Instrument, err error) {
	add := func(in *instrument.Instrument) {
		same := func(o *instrument.Instrument) bool { return o.Name() == in.Name() && o.Describe() == in.Describe() }
		// Of a pair nothing is read alone, and from what today's rules would not make nothing is dealt anew.
		if in.Spec().Family != instrument.GearTooth && in.Check() == nil && !slices.ContainsFunc(out, same) {
			out = append(out, in)
		}
	}
	err = r.ofSheets(rd, student, func(_ string, in *instrument.Instrument) { add(in) })
	if err == nil && len(out) == 0 {
		err = readyInstruments(add)
	}
	return out, err
}

// ChooseFamilies sets what a student practises on; none is what is needed most. A card that is open stays.
func (r *Room) ChooseFamilies(ctx context.Context, student int64, families []string) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		p, err := tx.Practice(student)
		if err != nil {
			return err
		}
		var known []string
		for _, f := range families {
			if instrument.Family(f).Name() != f && !slices.Contains(known, f) { // one that has a name for people
				known = append(known, f)
			}
		}
		p.Families = strings.Join(known, " ")
		return tx.SetPractice(student, p)
	})
}

// NextCard is the card that a student practises on: the one that is open, or another that is drawn now.
func (r *Room) NextCard(ctx context.Context, student int64, seed uint64) (Card, error) {
	rd := r.read(ctx)
	k, err := rd.Open(student)
	if err == nil || !errors.Is(err, store.ErrNotFound) {
		return opened(rd, k, err)
	}
	p, err := practising(rd, student)
	if err != nil {
		return Card{}, err
	}
	instruments, err := r.practised(rd, student)
	if err != nil {
		return Card{}, err
	}
	if chosen := slices.DeleteFunc(slices.Clone(instruments), func(in *instrument.Instrument) bool {
		return !slices.Contains(p.Chosen, in.Spec().Family)
	}); len(chosen) > 0 {
		instruments = chosen
	}
	had, err := hadLately(rd, student)
	if err != nil {
		return Card{}, err
	}
	next, err := p.Memory.Next(instruments, seed, func(it exercise.Item) bool { return had[positionOf(it)] })
	if err != nil {
		return Card{}, err
	}
	doc, err := exercise.Document(next.Item)
	if err != nil {
		return Card{}, err
	}
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		now, err := tx.Practice(student)
		if err != nil {
			return err
		}
		now.Why = next.Why
		err = tx.AddCard(store.Card{Student: student, Attempt: 1, N: now.Cards + 1, Kind: next.Item.Kind(),
			Family: familyOf(next.Item), Item: string(doc)})
		if errors.Is(err, store.ErrTaken) { // another tab was faster
			return nil
		}
		return errors.Join(err, tx.SetPractice(student, now))
	})
	if err != nil {
		return Card{}, err
	}
	k, err = rd.Open(student)
	return opened(rd, k, err)
}

// positionOf tells cards apart by instrument and position.
func positionOf(it exercise.Item) string {
	in, y := practice.At(it)
	return in.Name() + "\x00" + in.Describe() + "\x00" + y.String()
}

// hadLately are the positions that a student has had.
func hadLately(rd *store.Reader, student int64) (map[string]bool, error) {
	items, err := rd.PractisedLately(student, lately)
	out := make(map[string]bool, len(items))
	for _, text := range items {
		it, bad := kinds.Open([]byte(text))
		if bad != nil {
			return nil, bad
		}
		out[positionOf(it)] = true
	}
	return out, err
}

// PractisedCard finds a card that a student practised, by its number.
func (r *Room) PractisedCard(ctx context.Context, student int64, n int) (Card, error) {
	k, err := r.read(ctx).Practised(student, n)
	return opened(r.read(ctx), k, err)
}

// KeepPractice keeps what was typed into some boxes of a practised card; ErrOver on one that is checked.
func (r *Room) KeepPractice(ctx context.Context, student int64, c Card, typed exercise.Answer) error {
	text, err := toJSON(typed)
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error {
		open, err := tx.SaveDraft(student, c.ID, text)
		if err == nil && !open {
			err = ErrOver
		}
		return err
	})
}

// HelpPractice notes that one more rung of help was taken on a practised card. It costs nothing.
func (r *Room) HelpPractice(ctx context.Context, student int64, c Card) error {
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error { return tx.TakeHint(student, c.ID, len(hints)) })
}

// CheckPractice marks a practised card and remembers what it tells. A card whose whole working was shown tells nothing of
// the student. Checking it twice does nothing.
func (r *Room) CheckPractice(ctx context.Context, student int64, c Card, a exercise.Answer, at time.Time) error {
	given, err := toJSON(a)
	if err != nil {
		return err
	}
	result, err := c.Item.Mark(a)
	if err != nil {
		return err
	}
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	shown := slices.ContainsFunc(hints[:min(c.Hints, len(hints))], func(h exercise.Hint) bool { return h.Worked })
	return r.store.Write(ctx, func(tx *store.Tx) error {
		counted, err := tx.Answered(student, c.ID, store.Answer{Text: given, At: at})
		if err != nil || !counted {
			return err
		}
		m, err := weigh(&tx.Reader, exercise.Sheet{}, c.Card, c.Item, result)
		if err != nil {
			return err
		}
		if err := tx.SetMarks(c.ID, m); err != nil {
			return err
		}
		return remember(tx, student, c.Item, result, shown)
	})
}

// remember takes in what a card came to.
func remember(tx *store.Tx, student int64, it exercise.Item, result exercise.Result, shown bool) error {
	p, err := practising(&tx.Reader, student)
	if err != nil {
		return err
	}
	if shown {
		p.Memory.Cards++
	} else if err := p.Memory.Note(it, result); err != nil {
		return err
	}
	p.Practice.Cards, p.Practice.Level = p.Memory.Cards, int(p.Memory.Level)
	p.Practice.Wrong, p.Practice.Right = p.Memory.Wrong, p.Memory.Right
	if err := tx.SetPractice(student, p.Practice); err != nil {
		return err
	}
	for key, t := range p.Memory.Tallies {
		if t.At != p.Memory.Cards {
			continue
		}
		if err := tx.SetEvidence(student, store.Evidence{Family: string(key.Family), Slip: string(key.Slip), Could: t.Could,
			Did: t.Did, At: t.At}); err != nil {
			return err
		}
	}
	return nil
}
