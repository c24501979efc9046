package sitting

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
	"cavix/core/text"
	"cavix/store"
)

// Practising is the state of a student's practice.
type Practising struct {
	Practice
	Past     []Past // the cards that are remembered, of sheets and practised, the oldest first
	Memory   practice.Memory
	Families []instrument.Family // that the student can choose from
	Chosen   []instrument.Family // that are practised on; none is what is needed most
	Kinds    []string            // of cards that the student can choose from
	OfKinds  []string            // that are practised; none is all
}

// Past is a card that was answered, with what it told.
type Past struct {
	Card PastRow
	practice.Past
}

const (
	lately     = 400 // cards of which no position is asked again
	remembered = 240 // cards by which a student is known: what lies further back weighs less than a thousandth
)

// Practice tells how a student practises.
func (svc *Service) Practice(ctx context.Context, student int64) (p Practising, err error) {
	if p, err = svc.practising(ctx, student); err != nil {
		return p, err
	}
	blocks, err := svc.practised(ctx, svc.store, student)
	for _, b := range blocks {
		for _, f := range familiesOf(b) {
			if b.Kind == practice.Reading && !slices.Contains(p.Families, f) {
				p.Families = append(p.Families, f)
			}
		}
		if !slices.Contains(p.Kinds, b.Kind) {
			p.Kinds = append(p.Kinds, b.Kind)
		}
	}
	return p, err
}

func (svc *Service) practising(ctx context.Context, student int64) (p Practising, err error) {
	if p.Practice, err = findPractice(ctx, svc.store, student); err != nil {
		return p, err
	}
	for f := range strings.FieldsSeq(p.Practice.Families) {
		p.Chosen = append(p.Chosen, instrument.Family(f))
	}
	p.OfKinds = strings.Fields(p.Practice.Kinds)
	if p.Past, err = svc.past(ctx, student); err != nil {
		return p, err
	}
	for _, c := range p.Past {
		p.Memory.Take(c.Past)
	}
	return p, nil
}

// past lists what a student's last cards told. What a card could tell is worked out once, when somebody first asks, and
// kept with it.
func (svc *Service) past(ctx context.Context, student int64) ([]Past, error) {
	list, err := listPast(ctx, svc.store, student, remembered)
	if err != nil {
		return nil, err
	}
	out := make([]Past, 0, len(list))
	anew := map[int64]string{}
	for _, k := range list {
		if k.Told == nil {
			told, err := toldBy(k.Item, k.Hints)
			if err != nil {
				continue // one that this program cannot read
			}
			k.Told, anew[k.Card] = &told, told
		}
		p := practice.Past{Family: instrument.Family(k.Family), Right: k.Right, At: k.Answered}
		for code := range strings.FieldsSeq(*k.Told) {
			p.Identifiable = append(p.Identifiable, exercise.Code(code))
		}
		if code := exercise.Code(k.Slip); !code.IsPair() {
			p.Did = code
		}
		out = append(out, Past{k, p})
	}
	if len(anew) == 0 {
		return out, nil
	}
	err = svc.beside(ctx, func(ctx context.Context) error {
		return svc.store.Write(ctx, func(tx *store.Tx) error {
			for card, told := range anew {
				if err := updateTold(ctx, tx, card, told); err != nil && !errors.Is(err, store.ErrNotFound) {
					return err
				}
			}
			return nil
		})
	})
	if unkept(err) {
		err = nil // it is worked out once more when somebody next asks
	}
	return out, err
}

// toldBy writes the slips that a card could tell of a student who has taken some of its help, as they are kept.
func toldBy(item string, hints int) (string, error) {
	it, err := kinds.Open([]byte(item))
	if err != nil {
		return "", err
	}
	told, err := practice.Identifiable(it, hints)
	codes := make([]string, len(told))
	for i, code := range told {
		codes[i] = string(code)
	}
	return strings.Join(codes, " "), err
}

// practised are the blocks that a student can practise on: readings on every instrument of the sheets that the class
// was given, and their blocks of other kinds; or those of the ready sheets while there is none.
func (svc *Service) practised(ctx context.Context, rd store.Queryer, student int64) (out []exercise.Block,
	err error) {
	var had []*instrument.Instrument
	add := func(b exercise.Block) {
		for _, in := range b.Instruments {
			same := func(o *instrument.Instrument) bool {
				return o.Name() == in.Name() && o.Describe().Equal(in.Describe())
			}
			if in.Check() != nil { // from what today's rules would not make nothing is dealt anew
				return
			}
			// Of a pair nothing is read alone.
			if !in.Definition().Paired && !slices.ContainsFunc(had, same) {
				had, out = append(had, in), append(out, practice.Read(in))
			}
		}
		if b.Kind != practice.Reading {
			out = append(out, b)
		}
	}
	err = svc.ofSheets(ctx, rd, student, func(_ string, b exercise.Block) { add(b) })
	if err == nil && len(out) == 0 {
		err = readyBlocks(add)
	}
	return out, err
}

// familiesOf lists the families of the instruments of a block.
func familiesOf(b exercise.Block) (out []instrument.Family) {
	for _, in := range b.Instruments {
		out = append(out, in.Spec().Family)
	}
	return out
}

// ChoosePractice sets on which families of instruments a student practises, none being what is needed most, and which
// kinds of cards, none being all. A card that is open stays.
func (svc *Service) ChoosePractice(ctx context.Context, student int64, families, ofKinds []string) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		p, err := findPractice(ctx, tx, student)
		if err != nil {
			return err
		}
		var known []string
		for _, f := range families {
			if instrument.Family(f).Known() && !slices.Contains(known, f) { // one that has a name for people
				known = append(known, f)
			}
		}
		var sorts []string
		for _, k := range kinds.All {
			if slices.Contains(ofKinds, k.Name()) {
				sorts = append(sorts, k.Name())
			}
		}
		p.Families, p.Kinds = strings.Join(known, " "), strings.Join(sorts, " ")
		return updatePractice(ctx, tx, student, p)
	})
}

// NextCard is the card that a student practises on: the one that is open, or another that is drawn now. It is ErrInTest
// where a timed test closes all instruments.
func (svc *Service) NextCard(ctx context.Context, student int64, seed uint64) (Card, error) {
	rd := svc.store
	test, err := svc.InTest(ctx, student, time.Now())
	if err != nil {
		return Card{}, err
	}
	k, err := findOpenPractice(ctx, rd, student)
	if err == nil && test.Closes(instrument.Family(k.Family)) {
		return Card{}, ErrInTest
	}
	if err == nil || !errors.Is(err, store.ErrNotFound) {
		return opened(k, err)
	}
	p, err := svc.practising(ctx, student)
	if err != nil {
		return Card{}, err
	}
	blocks, err := svc.practised(ctx, rd, student)
	if err != nil {
		return Card{}, err
	}
	if blocks = slices.DeleteFunc(blocks, func(b exercise.Block) bool {
		return test.Closes(familiesOf(b)...) || len(b.Instruments) == 0 && len(test.Titles) > 0
	}); len(blocks) == 0 {
		return Card{}, ErrInTest
	}
	isChosen := func(f instrument.Family) bool { return slices.Contains(p.Chosen, f) }
	if chosen := slices.DeleteFunc(slices.Clone(blocks), func(b exercise.Block) bool {
		return !slices.ContainsFunc(familiesOf(b), isChosen)
	}); len(chosen) > 0 {
		blocks = chosen
	}
	if chosen := slices.DeleteFunc(slices.Clone(blocks), func(b exercise.Block) bool {
		return !slices.Contains(p.OfKinds, b.Kind)
	}); len(chosen) > 0 {
		blocks = chosen
	}
	had, err := hadLately(ctx, rd, student)
	if err != nil {
		return Card{}, err
	}
	next, err := p.Memory.Next(blocks, seed, time.Now(), had.contains)
	if err != nil {
		return Card{}, err
	}
	card, err := NewCard(next.Item)
	if err != nil {
		return Card{}, err
	}
	if next.Worked {
		hints, err := next.Item.Hints()
		if err != nil {
			return Card{}, err
		}
		card.Hints = len(hints)
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		now, err := findPractice(ctx, tx, student)
		if err != nil {
			return err
		}
		now.Why = text.Stored(next.Why)
		card.Student, card.Attempt, card.N = student, 1, now.Cards+1
		err = InsertCard(ctx, tx, card)
		if errors.Is(err, errBegun) { // another tab was faster
			return nil
		}
		return errors.Join(err, updatePractice(ctx, tx, student, now))
	})
	if err != nil {
		return Card{}, err
	}
	k, err = findOpenPractice(ctx, rd, student)
	return opened(k, err)
}

// positions are those that a student has had.
type positions map[string]bool

func (had positions) contains(it exercise.Item) bool {
	at, err := practice.Position(it)
	return err == nil && had[at]
}

// hadLately are the positions that a student has had.
func hadLately(ctx context.Context, rd store.Queryer, student int64) (positions, error) {
	items, err := listPractisedLately(ctx, rd, student, lately)
	out := make(positions, len(items))
	for _, says := range items {
		it, bad := kinds.Open([]byte(says))
		if bad != nil {
			continue // one that cannot be read keeps nobody from practising
		}
		at, bad := practice.Position(it)
		if bad == nil {
			out[at] = true
		}
	}
	return out, err
}

// PractisedCard finds a card that a student practised, by its number; ErrInTest where a timed test keeps it closed.
func (svc *Service) PractisedCard(ctx context.Context, student int64, n int) (Card, error) {
	k, err := findPractised(ctx, svc.store, student, n)
	if err != nil {
		return Card{}, err
	}
	test, err := svc.InTest(ctx, student, time.Now())
	if err == nil && test.Closes(instrument.Family(k.Family)) {
		err = ErrInTest
	}
	return opened(k, err)
}

// KeepPractice keeps what was typed into some boxes of a practised card; ErrOver on one that is checked.
func (svc *Service) KeepPractice(ctx context.Context, student int64, c Card, typed exercise.Answer) error {
	says, err := store.JSON(typed)
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		open, err := saveDraft(ctx, tx, student, c.ID, says)
		if err == nil && !open {
			err = ErrOver
		}
		return err
	})
}

// HelpPractice notes that one more hint was taken on a practised card. It costs nothing.
func (svc *Service) HelpPractice(ctx context.Context, student int64, c Card) error {
	hints, err := c.Item.Hints()
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		return takeHint(ctx, tx, student, c.ID, len(hints))
	})
}

// SpeakPractice notes that a student has the figure of a practised card told in words.
func (svc *Service) SpeakPractice(ctx context.Context, student int64, c Card) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		return speak(ctx, tx, student, c.ID)
	})
}

// CheckPractice marks a practised card. Checking it twice does nothing.
func (svc *Service) CheckPractice(ctx context.Context, student int64, c Card, a exercise.Answer, at time.Time) error {
	given, err := store.JSON(a)
	if err != nil {
		return err
	}
	result, err := c.Item.Mark(a)
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		counted, err := answered(ctx, tx, student, c.ID, Answer{Text: given, At: at})
		if err != nil || !counted {
			return err
		}
		m, err := Weigh(ctx, tx, exercise.Sheet{}, c.CardRow, c.Item, result)
		if err != nil {
			return err
		}
		if err := UpdateMarks(ctx, tx, c.ID, m); err != nil {
			return err
		}
		p, err := findPractice(ctx, tx, student)
		p.Cards++
		return errors.Join(err, updatePractice(ctx, tx, student, p))
	})
}

// PracticeMarks lists the marks of the cards that a student practised last, the oldest first, up to most.
func (svc *Service) PracticeMarks(ctx context.Context, student int64, most int) ([]Mark, error) {
	return listPracticeMarks(ctx, svc.store, student, most)
}

// PracticeDays lists what a student practised by day, the oldest first, of the latest days up to most. The days are
// those of a clock that is so many seconds ahead of the world's.
func (svc *Service) PracticeDays(ctx context.Context, student int64, ahead, most int) ([]Day, error) {
	return listPracticeDays(ctx, svc.store, student, ahead, most)
}
