package rounds

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/store"
)

// ErrClosed is for an answer to a round that takes none any more.
var ErrClosed = errors.New("the round takes no more answers")

// Stage is the stage of a round: open, closed, or answered.
type Stage string

// The stages.
const (
	NoRound  Stage = "none"   // the class has been asked nothing yet
	Open     Stage = "open"   // answers are taken
	Closed   Stage = "closed" // no more; nothing is told yet
	Revealed Stage = "told"   // the answers are uncovered
)

// Stamp is a round and its stage: what a student's page must know to be up to date. The zero value is no round.
type Stamp struct {
	Round int64
	Stage Stage
}

// before reports whether other comes after s: a later round, or a later stage of the same.
func (s Stamp) before(other Stamp) bool {
	order := []Stage{NoRound, Open, Closed, Revealed}
	return cmp.Or(cmp.Compare(s.Round, other.Round), cmp.Compare(slices.Index(order, s.Stage),
		slices.Index(order, other.Stage))) < 0
}

// String writes a stamp as events carry it.
func (s Stamp) String() string {
	if s.Round == 0 {
		return string(NoRound)
	}
	return fmt.Sprintf("%s-%d", s.Stage, s.Round)
}

// Round is a question that a whole class is asked at once.
type Round struct {
	RoundRow
	Item exercise.Item
}

// Stage tells how far it is.
func (r Round) Stage() Stage {
	switch {
	case r.ID == 0:
		return NoRound
	case !r.Revealed.IsZero():
		return Revealed
	case !r.Closed.IsZero():
		return Closed
	}
	return Open
}

// Stamp is the round with its stage.
func (r Round) Stamp() Stamp { return Stamp{r.ID, r.Stage()} }

// Stamps remembers the stamps of classes, since every student's page asks for that of its class. What is not in it is
// read from the database.
type Stamps struct {
	mu sync.Mutex
	by map[int64]Stamp
}

// set remembers a stamp, unless a later one is remembered, and returns what counts: commits are told in any order.
func (s *Stamps) set(class int64, st Stamp) Stamp {
	s.mu.Lock()
	defer s.mu.Unlock()
	if now, known := s.by[class]; known && !now.before(st) {
		return now
	}
	if s.by == nil {
		s.by = map[int64]Stamp{}
	}
	s.by[class] = st
	return st
}

func (s *Stamps) get(class int64) (Stamp, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	st, ok := s.by[class]
	return st, ok
}

func openRound(k RoundRow, err error) (Round, error) {
	if err != nil {
		return Round{}, err
	}
	it, err := kinds.Open([]byte(k.Item))
	if err != nil {
		return Round{RoundRow: k}, store.DamagedRow{What: "round", ID: k.ID, Err: err}
	}
	return Round{k, it}, nil
}

// orNone makes no round of one that is not found, and of one that cannot be read: a class goes on with the next
// question.
func orNone(r Round, err error) (Round, error) {
	if damaged := (store.DamagedRow{}); errors.Is(err, store.ErrNotFound) || errors.As(err, &damaged) {
		return Round{}, nil
	}
	return r, err
}

// ClassStamp is the round of a class with its stage.
func (svc *Service) ClassStamp(ctx context.Context, class int64) (Stamp, error) {
	if st, known := svc.stamps.get(class); known {
		return st, nil
	}
	k, err := orNone(openRound(findLatestRound(ctx, svc.store, class)))
	if err != nil {
		return Stamp{}, err
	}
	return svc.stamps.set(class, k.Stamp()), nil
}

// LatestRound is the last round of one of an instructor's classes; the zero round where there was none.
func (svc *Service) LatestRound(ctx context.Context, owner, class int64) (Round, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return Round{}, err
	}
	return orNone(openRound(findLatestRound(ctx, svc.store, class)))
}

// Rounds lists what one of an instructor's classes was asked, the latest first, up to most. A round that cannot be read
// has no Item.
func (svc *Service) Rounds(ctx context.Context, owner, class int64, most int) ([]Round, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	list, err := listRounds(ctx, svc.store, owner, class, most)
	if err != nil {
		return nil, err
	}
	out := make([]Round, len(list))
	for i, k := range list {
		out[i], _ = openRound(k, nil)
	}
	return out, nil
}

// StudentRound is the last round of a student's class, and what the student answered; the zero round where there was
// none.
func (svc *Service) StudentRound(ctx context.Context, student int64) (Round, exercise.Answer, error) {
	rd := svc.store
	k, err := orNone(openRound(findStudentRound(ctx, rd, student)))
	if err != nil || k.ID == 0 {
		return k, nil, err
	}
	reply, err := findReply(ctx, rd, k.ID, student)
	if errors.Is(err, store.ErrNotFound) {
		return k, nil, nil
	}
	if err != nil {
		return k, nil, err
	}
	a := exercise.Answer{}
	return k, a, json.Unmarshal([]byte(reply.Answer), &a)
}

// Open asks a class of an instructor's a question. One that is still open is closed.
func (svc *Service) Open(ctx context.Context, owner, class int64, it exercise.Item, shown bool, at time.Time) (id int64,
	err error) {
	if err := it.Check(); err != nil {
		return 0, err
	}
	doc, err := exercise.Document(it)
	if err != nil {
		return 0, err
	}
	err = svc.access.InClass(ctx, access.AskClass, owner, class, func(tx *store.Tx) error {
		if err := closeRounds(ctx, tx, class, at); err != nil {
			return err
		}
		id, err = insertRound(ctx, tx, class, string(doc), shown, at)
		return err
	})
	return id, svc.told(class, Stamp{id, Open}, err)
}

// Close takes no more answers to a class's round.
func (svc *Service) Close(ctx context.Context, owner, class int64, at time.Time) error {
	var now Stamp
	err := svc.access.InClass(ctx, access.AskClass, owner, class, func(tx *store.Tx) error {
		k, err := orNone(openRound(findLatestRound(ctx, tx, class)))
		now = k.Stamp()
		if err != nil || now.Stage != Open {
			return err
		}
		now.Stage = Closed
		return closeRounds(ctx, tx, class, at)
	})
	return svc.told(class, now, err)
}

// Reveal uncovers the answers to a class's round, which is closed then.
func (svc *Service) Reveal(ctx context.Context, owner, class int64, at time.Time) error {
	var now Stamp
	err := svc.access.InClass(ctx, access.AskClass, owner, class, func(tx *store.Tx) error {
		k, err := orNone(openRound(findLatestRound(ctx, tx, class)))
		now = k.Stamp()
		if err != nil || k.ID == 0 {
			return err
		}
		now.Stage = Revealed
		return tellRound(ctx, tx, k.ID, at)
	})
	return svc.told(class, now, err)
}

// told has everybody of a class know of its round, once that is kept.
func (svc *Service) told(class int64, st Stamp, err error) error {
	if err == nil {
		svc.stamps.set(class, st)
		svc.hub.Tell(hub.Topic{Class: class, What: hub.RoundNews}, hub.Topic{Class: class, What: hub.AnswerNews})
	}
	return err
}

// Reply keeps what a student answers to a round; the latest counts while answers are taken, and then it is ErrClosed.
// An entry that cannot be read is a refusal.Refusal, and nothing is kept.
func (svc *Service) Reply(ctx context.Context, student, class, round int64, a exercise.Answer, at time.Time) error {
	k, err := openRound(findStudentRound(ctx, svc.store, student))
	if err != nil {
		return err
	}
	if k.ID != round {
		return ErrClosed
	}
	result, err := k.Item.Mark(a)
	if err != nil {
		return err
	}
	says, err := store.JSON(a)
	if err != nil {
		return err
	}
	reply := Reply{Student: student, Answer: says, Half: length.ToHalves(result.Marks), Of: length.ToHalves(result.Of),
		Answered: at}
	if len(result.Slips) > 0 {
		reply.Slip = string(result.Slips[0])
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error { return updateReply(ctx, tx, round, reply) })
	if err == nil {
		svc.hub.Tell(hub.Topic{Class: class, What: hub.AnswerNews})
	}
	return err
}

// Said is a value that was given for the last field of a round, and by how many.
type Said struct {
	Text  string // as it is to be read
	Value length.Number
	Count int
	Right bool
	Slip  exercise.Code // "" where none is known
}

// Answers tells what a class answered to a round of an instructor's, value by value; without names. Values that cannot
// stand on a rule, since their field has none, have no Value.
func (svc *Service) Answers(ctx context.Context, instructor int64, k Round) ([]Said, error) {
	if err := access.ViewClass.OnRound(ctx, svc.store, instructor, k.ID); err != nil {
		return nil, err
	}
	if k.Item == nil {
		return nil, nil
	}
	list, err := listReplies(ctx, svc.store, k.ID)
	if err != nil {
		return nil, err
	}
	fields := k.Item.Fields()
	asked := fields[len(fields)-1].Name
	var out []Said
	at := map[string]int{}
	for _, reply := range list {
		a := exercise.Answer{}
		if json.Unmarshal([]byte(reply.Answer), &a) != nil {
			continue // what this program cannot read any more
		}
		result, err := k.Item.Mark(a)
		if err != nil {
			continue
		}
		m := result.Field(asked)
		s := Said{Text: written(k.Item, m), Value: m.Value, Count: 1,
			Right: m.Outcome == exercise.Right || m.Outcome == exercise.InForm}
		if len(result.Slips) > 0 && !s.Right {
			s.Slip = result.Slips[0]
		}
		key := fmt.Sprint(m.Value, s.Right)
		if exercise.Blank(m.Given) {
			key, s.Text = "", ""
		}
		if i, known := at[key]; known {
			out[i].Count++
			continue
		}
		at[key] = len(out)
		out = append(out, s)
	}
	return out, nil
}

// written is a value as the round's instrument writes it, however it was typed.
func written(it exercise.Item, m *exercise.Mark) string {
	figures := it.Figures()
	places, finite := m.Value.Decimals()
	if len(figures) == 0 || !finite {
		return exercise.Show(m.Given)
	}
	in := figures[0].Instrument
	if most, decimal := in.Decimals(); !decimal || places > most {
		return exercise.Show(m.Given)
	}
	return exercise.Show(in.Format(m.Value))
}

// Board returns the state of the Board of one of an instructor's classes, as its page left it; "" for nothing.
func (svc *Service) Board(ctx context.Context, owner, class int64) (string, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return "", err
	}
	return boardState(ctx, svc.store, owner, class)
}

// SetBoard keeps what stands on it.
func (svc *Service) SetBoard(ctx context.Context, owner, class int64, state string) error {
	return svc.access.InClass(ctx, access.AskClass, owner, class,
		func(tx *store.Tx) error { return updateBoard(ctx, tx, class, state) })
}

// RepliesOf lists what a student of a class answered to questions, the oldest first.
func (svc *Service) RepliesOf(ctx context.Context, instructor, class, student int64) ([]Replied, error) {
	if err := access.ExportPerson.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listRepliesOf(ctx, svc.store, class, student)
}

// Replies lists the answers to a round in the order in which they were last changed.
func (svc *Service) Replies(ctx context.Context, instructor, round int64) ([]Reply, error) {
	if err := access.ViewClass.OnRound(ctx, svc.store, instructor, round); err != nil {
		return nil, err
	}
	return listReplies(ctx, svc.store, round)
}

// CountReplies tells how many have answered a round, and how many could: students who are in the class, and guests.
func (svc *Service) CountReplies(ctx context.Context, instructor, round int64) (answered, of int, err error) {
	if err := access.ViewClass.OnRound(ctx, svc.store, instructor, round); err != nil {
		return answered, of, err
	}
	return countReplies(ctx, svc.store, round)
}
