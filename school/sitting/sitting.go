package sitting

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/ledger"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// Why a student cannot work on a sheet just now.
var (
	ErrNotOpen   = errors.New("the sheet is not open yet")
	ErrGiven     = errors.New("the class has been given this sheet already")
	errBegun     = errors.New("the attempt, or the card, has begun already")
	ErrOver      = errors.New("the sheet is closed, or its time is over")
	ErrNoAttempt = errors.New("there is no further attempt")
)

// grace is the time after the end in which an answer is still accepted.
const grace = 5 * time.Second

// State is the state of a student's work on a sheet that was given.
type State struct {
	Given
	Sittings []Sitting // attempts, the first first; none before first sight
	At       time.Time
	Extra    int // minutes that the student has on top of whatever is timed
}

// Now is the latest attempt; nil before first sight.
func (s State) Now() *Sitting {
	if len(s.Sittings) == 0 {
		return nil
	}
	return &s.Sittings[len(s.Sittings)-1]
}

// NotYet reports whether the sheet opens later.
func (s State) NotYet() bool { return s.At.Before(s.Opens) }

// Shut reports whether the sheet has closed and takes no late work.
func (s State) Shut() bool { return s.past() && !s.Sheet.Late }

// past reports whether the closing time has gone by, with the minutes that the student has on top.
func (s State) past() bool {
	extra := time.Duration(0)
	if n := s.Now(); n != nil {
		extra = time.Duration(n.Extra+n.More) * time.Minute
	}
	return !s.Closes.IsZero() && !s.At.Before(s.Closes.Add(extra))
}

// Test reports whether nothing is told before the end.
func (s State) Test() bool { return s.Sheet.Mode == exercise.Test }

// MarkOf returns what an attempt came to. It needs the marks that Score adds.
func (s State) MarkOf(a Sitting) ledger.Mark {
	return ledger.Mark{Earned: length.FromHalves(a.Half), Answered: length.FromHalves(a.Of),
		Full: length.FromHalves(a.Full), Done: a.Done, Cards: s.Sheet.Cards(), Ended: !a.Handed.IsZero() || s.past() ||
			a.Attempt < len(s.Sittings)}
}

// CountingAttempt returns the index of the attempt that counts by the sheet's rule; -1 before first sight. It needs the
// marks that Score adds.
func (s State) CountingAttempt() int {
	marks := make([]length.Number, len(s.Sittings))
	for i, a := range s.Sittings {
		marks[i] = length.FromHalves(a.Half)
	}
	n := s.Now()
	_, at := s.Sheet.Counting(marks, n != nil && s.MarkOf(*n).IsOpen())
	return at
}

// IsReleased reports whether what was handed in may be told by now.
func (s State) IsReleased() bool {
	return !s.Test() || s.Sheet.Release == exercise.ReleaseAtEnd || !s.Released.IsZero()
}

// Working reports whether the latest attempt is under way.
func (s State) Working() bool {
	n := s.Now()
	return n != nil && n.Handed.IsZero() && (n.Ends.IsZero() || s.At.Before(n.Ends.Add(grace)))
}

// Again reports whether a further attempt may begin: the one before is handed in, or all its cards are checked.
func (s State) Again(allDone bool) bool {
	n := s.Now()
	return n != nil && n.Attempt < s.Sheet.Tries() && !s.NotYet() && !s.Shut() &&
		(!n.Handed.IsZero() || allDone && !s.Test())
}

// besideWithin is the time that a page which only reads waits for a write beside it.
const besideWithin = 250 * time.Millisecond

// beside does work that a page has written beside what it reads, and waits for it a moment only.
func (svc *Service) beside(ctx context.Context, work func(context.Context) error) error {
	ctx, cancel := context.WithTimeout(ctx, besideWithin)
	defer cancel()
	return work(ctx)
}

// unkept reports whether an error says that nothing can be written just now: the disk is full, the file is held or may
// not be written, or too much waits.
func unkept(err error) bool {
	for _, why := range []error{store.ErrFull, store.ErrHeld, store.ErrReadOnly, context.DeadlineExceeded} {
		if errors.Is(err, why) {
			return true
		}
	}
	return false
}

// CloseBeside hands in what is over by the clock, for a page that shows it. Where that cannot be kept just now the page
// shows what is there, and the server goes on trying.
func (svc *Service) CloseBeside(ctx context.Context, at time.Time) error {
	err := svc.beside(ctx, func(ctx context.Context) error { return svc.CloseOver(ctx, at) })
	if unkept(err) {
		return nil
	}
	return err
}

// stateOf reads how a student stands.
func (svc *Service) stateOf(ctx context.Context, rd store.Queryer, student, assignment int64, at time.Time) (s State,
	err error) {
	a, err := FindStudentAssignment(ctx, rd, student, assignment)
	if err != nil {
		return s, err
	}
	if s.Given, err = svc.opened.given(a); err != nil {
		return s, err
	}
	s.At = at
	who, err := roster.FindStudent(ctx, rd, student)
	if err != nil {
		return s, err
	}
	s.Extra = who.Extra
	s.Sittings, err = listSittings(ctx, rd, student, assignment)
	return s, err
}

// Stands tells how a student stands with a sheet. An attempt whose time has gone by is handed in first, as it stands.
func (svc *Service) Stands(ctx context.Context, student, assignment int64, at time.Time) (State, error) {
	s, err := svc.stateOf(ctx, svc.store, student, assignment, at)
	if err != nil {
		return s, err
	}
	if n := s.Now(); n != nil && n.Handed.IsZero() && !s.Working() {
		if err := svc.beside(ctx, func(ctx context.Context) error { return svc.handIn(ctx, *n, n.Ends) }); unkept(err) {
			return s, nil // its time is over all the same, and the server hands it in as soon as it can
		} else if err != nil {
			return s, err
		}
		return svc.stateOf(ctx, svc.store, student, assignment, at)
	}
	return s, nil
}

// Score adds the marks of the attempts to how a student stands.
func (svc *Service) Score(ctx context.Context, student int64, s State) (State, error) {
	var err error
	s.Sittings, err = listScored(ctx, svc.store, student, s.ID)
	return s, err
}

// Sit lets a student begin the first attempt at a sheet, or go on with the latest; the cards are dealt on first sight.
// ErrNotOpen and ErrOver where it is too early or too late to begin.
func (svc *Service) Sit(ctx context.Context, student, assignment int64, at time.Time) (State, error) {
	s, err := svc.Stands(ctx, student, assignment, at)
	if err != nil || s.Now() != nil {
		return s, err
	}
	return svc.begin(ctx, s, student, 1)
}

// SitAgain begins a further attempt, with other values; ErrNoAttempt where there is none.
func (svc *Service) SitAgain(ctx context.Context, student, assignment int64, at time.Time) (State, error) {
	s, err := svc.Stands(ctx, student, assignment, at)
	if err != nil {
		return s, err
	}
	marks, err := listProgress(ctx, svc.store, student, assignment)
	if err != nil {
		return s, err
	}
	done := true
	for _, m := range marks {
		done = done && m.Done
	}
	if !s.Again(done) {
		return s, ErrNoAttempt
	}
	return svc.begin(ctx, s, student, s.Now().Attempt+1)
}

// Present is store.ErrNotFound for a student who is not in a class that runs.
func Present(ctx context.Context, tx *store.Tx, student int64) error {
	st, err := roster.FindStudent(ctx, tx, student)
	if err == nil && !st.Here() {
		err = store.ErrNotFound
	}
	return err
}

// atWork is ErrOver where a student may not work on a card of a sheet any more: what the page read of it may be old.
func atWork(ctx context.Context, tx *store.Tx, student int64, c Card, at time.Time) error {
	may, err := mayWork(ctx, tx, student, c.Assignment, c.Attempt, at.Add(-grace))
	if err == nil && !may {
		err = ErrOver
	}
	return err
}

// begin deals an attempt.
func (svc *Service) begin(ctx context.Context, s State, student int64, attempt int) (State, error) {
	switch {
	case s.NotYet():
		return s, ErrNotOpen
	case s.Shut():
		return s, ErrOver
	}
	g, cards, err := svc.dealInTurn(ctx, student, s.ID, attempt)
	if err != nil {
		return s, err
	}
	who, err := roster.FindStudent(ctx, svc.store, student)
	if err != nil {
		return s, err
	}
	sit := Sitting{Assignment: s.ID, Student: student, Attempt: attempt, Began: s.At}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		if err := Present(ctx, tx, student); err != nil {
			return err
		}
		now, err := FindStudentAssignment(ctx, tx, student, s.ID)
		if err != nil {
			return err
		}
		still := s
		still.Opens, still.Closes = now.Opens, now.Closes
		switch {
		case still.NotYet():
			return ErrNotOpen
		case still.Shut():
			return ErrOver
		}
		sit.Ends = s.Sheet.Ends(s.At, now.Closes, who.Extra)
		if now.Definition != g.Definition { // it was marked anew meanwhile
			if _, cards, err = dealt(ctx, tx, student, s.ID, attempt); err != nil {
				return err
			}
		}
		if err := insertSitting(ctx, tx, sit); err != nil {
			return err
		}
		for _, c := range cards {
			if err := InsertCard(ctx, tx, c); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil && !errors.Is(err, errBegun) { // another tab was faster
		return s, err
	}
	return svc.stateOf(ctx, svc.store, student, s.ID, s.At)
}

// dealInTurn deals when it is its turn: a whole school may open a sheet at once.
func (svc *Service) dealInTurn(ctx context.Context, student, assignment int64, attempt int) (Given, []CardRow, error) {
	if err := svc.dealing.Acquire(ctx, 1); err != nil {
		return Given{}, nil, err
	}
	defer svc.dealing.Release(1)
	return dealt(ctx, svc.store, student, assignment, attempt)
}

// dealt works out the cards that a student gets of a sheet.
func dealt(ctx context.Context, read store.Queryer, student, assignment int64, attempt int) (Given, []CardRow, error) {
	g, err := Whole(OpenGiven(FindStudentAssignment(ctx, read, student, assignment)))
	if err != nil {
		return g, nil, err
	}
	place, err := placeInClass(ctx, read, student)
	if err != nil {
		return g, nil, err
	}
	items, err := g.Sheet.DealTo(
		kinds.All,
		exercise.Seat{Sheet: uint64(g.Seed), Student: student, Place: place, Attempt: attempt},
	)
	if err != nil {
		return g, nil, err
	}
	cards := make([]CardRow, len(items))
	for i, d := range items {
		if cards[i], err = NewCard(d.Item); err != nil {
			return g, nil, err
		}
		c := &cards[i]
		c.Assignment, c.Student, c.Attempt, c.N, c.Block = assignment, student, attempt, i+1, d.Block
	}
	return g, cards, nil
}

// NewCard is an item as it is kept, before it is anybody's.
func NewCard(it exercise.Item) (CardRow, error) {
	doc, err := exercise.Document(it)
	if err != nil {
		return CardRow{}, err
	}
	full, err := exercise.FullMarks(it)
	c := CardRow{Kind: it.Kind(), Item: string(doc), Full: length.ToHalves(full)}
	c.Family, c.Instrument, c.LeastCount = Shows(it)
	return c, err
}

// HandIn hands a student's latest attempt in as it stands: what is typed is marked, what is empty is missing. Doing it
// twice does nothing.
func (svc *Service) HandIn(ctx context.Context, student, assignment int64, at time.Time) error {
	s, err := svc.Stands(ctx, student, assignment, at)
	if err != nil || s.Now() == nil || !s.Now().Handed.IsZero() {
		return err
	}
	return svc.handIn(ctx, *s.Now(), at)
}

// handIn marks all cards of an attempt that are not checked, in one transaction.
func (svc *Service) handIn(ctx context.Context, sit Sitting, at time.Time) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		first, err := handIn(ctx, tx, sit.Student, sit.Assignment, sit.Attempt, at)
		if err != nil || !first {
			return err
		}
		s, err := svc.stateOf(ctx, tx, sit.Student, sit.Assignment, at)
		if err != nil {
			return err
		}
		cards, err := ListSat(ctx, tx, sit.Student, sit.Assignment, sit.Attempt)
		if err != nil {
			return err
		}
		for _, k := range cards {
			if k.Done() || !s.Test() && !typed(k) {
				continue // of practice only what somebody has begun on
			}
			if err := takeIn(ctx, tx, s, k, at); err != nil {
				return err
			}
		}
		return nil
	})
}

// typed reports whether anything stands in a card's boxes.
func typed(k CardRow) bool {
	var draft exercise.Answer
	if k.Draft == "" || json.Unmarshal([]byte(k.Draft), &draft) != nil {
		return false
	}
	for _, says := range draft {
		if !exercise.Blank(says) {
			return true
		}
	}
	return false
}

// takeIn marks a card by what stands in its boxes. An entry that cannot be read is taken for an empty one, since
// nobody can be asked any more.
func takeIn(ctx context.Context, tx *store.Tx, s State, k CardRow, at time.Time) error {
	c, err := OpenCard(k)
	if err != nil {
		return err
	}
	a := exercise.Answer{}
	for _, f := range c.Item.Fields() {
		one := exercise.Answer{f.Name: c.Draft[f.Name]}
		if exercise.Readable(c.Item, one) == nil && !exercise.Blank(c.Draft[f.Name]) {
			a[f.Name] = c.Draft[f.Name]
		}
	}
	given, err := store.JSON(a)
	if err != nil {
		return err
	}
	result, err := c.Item.Mark(a)
	if err != nil {
		return err
	}
	if _, err := answered(ctx, tx, k.Student, k.ID, s.answer(given, at)); err != nil {
		return err
	}
	m, err := Weigh(ctx, tx, s.Sheet, k, c.Item, result)
	if err != nil {
		return err
	}
	return UpdateMarks(ctx, tx, k.ID, m)
}

// answer returns the answer that is handed in at a time.
func (s State) answer(says string, at time.Time) Answer {
	s.At = at
	return Answer{Text: says, At: at, Late: s.past() && s.Sheet.Late, Hidden: !s.IsReleased()}
}

// sweep is the number of ended attempts that are handed in at a time.
const sweep = 200

// CloseOver hands in all attempts whose time has gone by, as they stand. The server calls it every few seconds, so that
// a ledger is whole soon after a test has closed; one that cannot be handed in is told and passed over.
func (svc *Service) CloseOver(ctx context.Context, at time.Time) error {
	list, err := listOver(ctx, svc.store, at.Add(-grace), sweep)
	for _, s := range list {
		err = errors.Join(err, svc.handIn(ctx, s, s.Ends))
	}
	return err
}

// SetDates changes when one of an instructor's given sheets can be taken; attempts under way get the new end.
func (svc *Service) SetDates(ctx context.Context, owner, assignment int64, opens, closes time.Time) error {
	return svc.OnSheet(ctx, access.ChangeDates, owner, assignment, func(tx *store.Tx, a Assignment) error {
		g, err := Whole(OpenGiven(a, nil))
		if err != nil {
			return err
		}
		if err := updateTimes(ctx, tx, assignment, opens, closes); err != nil {
			return err
		}
		return setEnds(ctx, tx, g)
	})
}

// setEnds brings the attempts under way at a sheet to the end that they have by its dates now.
func setEnds(ctx context.Context, tx *store.Tx, g Given) error {
	list, err := listUnderWay(ctx, tx, g.ID, 0)
	for _, s := range list {
		own, bad := FindStudentAssignment(ctx, tx, s.Student, g.ID)
		if errors.Is(bad, store.ErrNotFound) {
			continue // has moved to another class
		}
		err = errors.Join(err, bad, updateEnds(ctx, tx, s, g.Sheet.Ends(s.Began, own.Closes, s.Extra+s.More)))
	}
	return err
}

// SheetDates lists the dates of a sheet that groups or students have of their own.
func (svc *Service) SheetDates(ctx context.Context, instructor, assignment int64) ([]SheetDates, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	return ListSheetDates(ctx, svc.store, instructor, assignment)
}

// SetSheetDates gives a group or a student other dates of a sheet than the class has; without a date they have those of
// the class again. Attempts under way get the new end.
func (svc *Service) SetSheetDates(ctx context.Context, by access.Actor, d SheetDates) error {
	return svc.OnSheet(ctx, access.ChangeDates, by.ID, d.Assignment, func(tx *store.Tx, a Assignment) error {
		g, err := Whole(OpenGiven(a, nil))
		if err != nil {
			return err
		}
		who := text.New("log.group", "group", d.Team)
		if d.Student != 0 {
			st, err := roster.FindInClass(ctx, tx, a.Class, d.Student)
			if err != nil {
				return err
			}
			d.Team, who = "", text.Typed(st.Name)
		}
		said := text.New("log.set-sheet-dates")
		if d.Opens.IsZero() && d.Closes.IsZero() {
			err = deleteSheetDates(ctx, tx, a.ID, d.Student, d.Team)
		} else {
			said, err = text.New("log.dates-their-own"), updateSheetDates(ctx, tx, d)
		}
		if err != nil {
			return err
		}
		if err := access.Log(ctx, tx, a.ID,
			access.Change{Who: by.Name, What: text.New("log.of", "who", who, "said", said), At: by.At}); err != nil {
			return err
		}
		return setEnds(ctx, tx, g)
	})
}

// Errors of giving an attempt more minutes.
var (
	ErrNoEnd = errors.New("the attempt has no end, so it needs no more minutes")
	ErrTold  = errors.New("the student has been told the results")
)

// MostMore is the largest number of minutes that an attempt can be given at once.
const MostMore = 240

// MoreMinutes gives a student's latest attempt at a sheet more minutes from now on, or from its end where that is
// later. What the clock has handed in is taken back, as long as its results are not told.
func (svc *Service) MoreMinutes(ctx context.Context, by access.Actor, assignment, student int64, minutes int) error {
	return svc.OnSheet(ctx, access.GiveMinutes, by.ID, assignment, func(tx *store.Tx, a Assignment) error {
		st, err := roster.FindInClass(ctx, tx, a.Class, student)
		if err != nil {
			return err
		}
		s, err := svc.stateOf(ctx, tx, student, assignment, by.At)
		if err != nil {
			return err
		}
		n := s.Now()
		switch {
		case n == nil:
			return store.ErrNotFound
		case n.Ends.IsZero():
			return ErrNoEnd
		case !n.Handed.IsZero() && s.IsReleased() && s.Test():
			return ErrTold
		case !n.Handed.IsZero():
			if err := reopen(ctx, tx, *n); err != nil {
				return err
			}
		}
		from := by.At
		if n.Handed.IsZero() && from.Before(n.Ends) {
			from = n.Ends
		}
		ends := from.Add(time.Duration(min(max(minutes, 1), MostMore)) * time.Minute)
		more := n.More + int((ends.Sub(n.Ends)+time.Minute-1)/time.Minute)
		if err := moreMinutes(ctx, tx, *n, more, n.Ends.Add(time.Duration(more-n.More)*time.Minute)); err != nil {
			return err
		}
		return access.Log(ctx, tx, assignment,
			access.Change{Who: by.Name, What: text.New("log.more-minutes.what", "name", st.Name, "minutes", minutes),
				At: by.At})
	})
}

// Retime brings the attempts of a student that are under way to the end that they have with so many extra minutes.
func (svc *Service) Retime(ctx context.Context, tx *store.Tx, student int64, minutes int) error {
	list, err := listUnderWay(ctx, tx, 0, student)
	for _, s := range list {
		g, bad := Whole(OpenGiven(FindStudentAssignment(ctx, tx, student, s.Assignment)))
		if bad == nil {
			bad = updateEnds(ctx, tx, s, g.Sheet.Ends(s.Began, g.Closes, minutes+s.More))
		}
		err = errors.Join(err, bad)
	}
	return err
}

// Sat lists the cards of one attempt of a student, opened, by number.
func (svc *Service) Sat(ctx context.Context, student, assignment int64, attempt int) ([]Card, error) {
	list, err := ListSat(ctx, svc.store, student, assignment, attempt)
	if err != nil {
		return nil, err
	}
	out := make([]Card, len(list))
	for i, k := range list {
		if out[i], err = OpenCard(k); err != nil {
			return nil, err
		}
	}
	return out, nil
}
