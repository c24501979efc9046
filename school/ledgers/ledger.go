package ledgers

import (
	"cmp"
	"context"
	"fmt"
	"runtime/debug"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/exercise"
	"cavix/core/ledger"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/school/sitting"
	"cavix/store"
)

// Ledger is a term of a class: its sheets, the oldest first, and a row for each student.
type Ledger struct {
	Sheets []sitting.Given
	Unread []string // titles of sheets that cannot be read: no total has them
	Rows   []LedgerRow
}

// LedgerRow is a student's term.
type LedgerRow struct {
	Student roster.Student
	Moved   bool         // is in another class by now
	Cells   []LedgerCell // one a sheet
	Total   ledger.Sum
	Next    exercise.Code // what the student should practise next: the slip made most of late
	InClass rounds.Total  // what was answered to questions on the Board
}

// LedgerCell holds the marks of a student on a sheet, by the sheet's rule for attempts.
type LedgerCell struct {
	ledger.Mark
	Attempts int
	Attempt  int // that counts
	Late     bool
	Hidden   bool   // not told to the student yet
	Reason   string // why the student is excused
	Missing  bool   // the sheet has closed, and was not begun
}

// advisedFor is the period on which the advice of what to practise next is based.
const advisedFor = 28 * 24 * time.Hour

// Ledger reads a term of a class that an instructor teaches.
func (svc *Service) Ledger(ctx context.Context, instructor, class int64, at time.Time) (Ledger, error) {
	return svc.ledger(ctx, instructor, class, 0, at)
}

// LedgerFor is Ledger with the row of one student alone.
func (svc *Service) LedgerFor(ctx context.Context, instructor, class, student int64, at time.Time) (Ledger, error) {
	return svc.ledger(ctx, instructor, class, student, at)
}

// ledger reads a term of all of a class, or of one student.
func (svc *Service) ledger(ctx context.Context, instructor, class, only int64, at time.Time) (l Ledger, err error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return l, err
	}
	read := svc.store
	if l.Sheets, l.Unread, err = svc.term(ctx, instructor, class); err != nil {
		return l, err
	}
	// All at once: a term of many students is much to read.
	var here, came []roster.Student
	var scores []Score
	var inClass []rounds.Total
	var excuses []Excuse
	var slips []StudentSlip
	var dates []sitting.SheetDates
	var g errgroup.Group
	g.Go(safely(func() (err error) { dates, err = sitting.ListClassDates(ctx, read, instructor, class); return err }))
	g.Go(safely(func() (err error) {
		if only != 0 {
			scores, err = listScoresOf(ctx, read, instructor, class, only)
		} else {
			scores, err = listScores(ctx, read, instructor, class)
		}
		return err
	}))
	g.Go(safely(func() (err error) { slips, err = listLately(ctx, read, class, at.Add(-advisedFor)); return err }))
	g.Go(safely(func() (err error) { here, err = roster.ListAll(ctx, read, instructor, class); return err }))
	g.Go(safely(func() (err error) { came, err = listMovedStudents(ctx, read, instructor, class); return err }))
	g.Go(safely(func() (err error) { excuses, err = listExcuses(ctx, read, instructor, class); return err }))
	g.Go(safely(func() (err error) { inClass, err = rounds.ListInClass(ctx, read, class); return err }))
	if err := g.Wait(); err != nil {
		return l, err
	}
	if only != 0 {
		other := func(s roster.Student) bool { return s.ID != only }
		here, came = slices.DeleteFunc(here, other), slices.DeleteFunc(came, other)
	}
	l.rows(here, came)
	l.fill(scores, excuses, datesOf(dates), at)
	l.advise(slips, inClass)
	return l, nil
}

// FullMarks returns the most full marks that any student's cards of a column have; 0 while nobody has begun the sheet.
func (l *Ledger) FullMarks(column int) (full length.Number) {
	for _, r := range l.Rows {
		if c := r.Cells[column]; full.Less(c.Full) {
			full = c.Full
		}
	}
	return full
}

// safely makes an error of a panic in work that runs beside others.
func safely(work func() error) func() error {
	return func() (err error) {
		defer func() {
			if p := recover(); p != nil {
				err = fmt.Errorf("panic: %v\n%s", p, debug.Stack())
			}
		}()
		return work()
	}
}

// term lists the sheets of a class, the oldest first, and the titles of those that cannot be read.
func (svc *Service) term(ctx context.Context, instructor, class int64) (out []sitting.Given, unread []string,
	err error) {
	list, err := sitting.ListTerm(ctx, svc.store, instructor, class)
	for _, a := range list {
		if g, err := svc.sitting.Opened(a); err == nil {
			out = append(out, g)
		} else {
			unread = append(unread, a.Title)
		}
	}
	return out, unread, err
}

func (l *Ledger) rows(here, came []roster.Student) {
	for i, s := range append(here, came...) {
		l.Rows = append(l.Rows, LedgerRow{Student: s, Moved: i >= len(here), Cells: make([]LedgerCell, len(l.Sheets))})
	}
}

// fill puts what attempts came to in its place, and adds up.
func (l *Ledger) fill(scores []Score, excuses []Excuse, dates ownDates, at time.Time) {
	row, column := map[int64]int{}, map[int64]int{}
	for i, r := range l.Rows {
		row[r.Student.ID] = i
	}
	weights := make([]int, len(l.Sheets))
	for i, g := range l.Sheets {
		column[g.ID] = i
		weights[i] = g.Weight
	}
	for i := range l.Rows {
		for j, g := range l.Sheets {
			l.Rows[i].Cells[j].Mark = ledger.Mark{Cards: g.Sheet.Cards(), Ended: dates.closed(g, l.Rows[i].Student, at)}
		}
	}
	for begin := 0; begin < len(scores); { // those of one student and sheet stand together
		end := begin + 1
		for end < len(scores) && scores[end].Student == scores[begin].Student &&
			scores[end].Assignment == scores[begin].Assignment {
			end++
		}
		attempts := scores[begin:end]
		begin = end
		i, known := row[attempts[0].Student]
		j, given := column[attempts[0].Assignment]
		if known && given {
			l.Rows[i].Cells[j] = newLedgerCell(l.Sheets[j], attempts, dates.closed(l.Sheets[j], l.Rows[i].Student, at))
		}
	}
	for _, x := range excuses {
		if i, known := row[x.Student]; known {
			if j, given := column[x.Assignment]; given {
				c := &l.Rows[i].Cells[j]
				c.Reason, c.Excused = x.Reason, true
			}
		}
	}
	marks := make([]ledger.Mark, len(l.Sheets))
	for i := range l.Rows {
		r := &l.Rows[i]
		for j := range r.Cells {
			c := &r.Cells[j]
			c.Moved = r.Moved
			c.Missing = c.Ended && c.Attempts == 0 && !c.Excused && !c.Moved
			marks[j] = c.Mark
		}
		r.Total = ledger.Total(weights, marks)
	}
}

// newLedgerCell returns what the attempts of a student at a sheet come to. The latest is left out while the student
// works on it, unless it is the only one.
func newLedgerCell(g sitting.Given, attempts []Score, closed bool) LedgerCell {
	cards := g.Sheet.Cards()
	hasEnded := func(a Score) bool { return a.HandedIn || closed || a.Done >= cards }
	marks := make([]length.Number, len(attempts))
	for i, a := range attempts {
		marks[i] = length.FromHalves(a.Half)
	}
	earned, counts := g.Sheet.Counting(marks, !hasEnded(attempts[len(attempts)-1]))
	a := attempts[counts]
	return LedgerCell{
		Mark: ledger.Mark{Earned: earned, Answered: length.FromHalves(a.Of), Full: length.FromHalves(a.Full),
			Done: a.Done, Cards: cards, Ended: hasEnded(a) || counts < len(attempts)-1},
		Attempts: len(attempts), Attempt: a.Attempt, Late: a.Late, Hidden: a.Hidden,
	}
}

// ownDates are the dates of sheets that groups and students have of their own.
type ownDates map[datesKey]sitting.SheetDates

type datesKey struct {
	assignment, student int64
	team                string
}

func datesOf(list []sitting.SheetDates) ownDates {
	out := ownDates{}
	for _, d := range list {
		out[datesKey{d.Assignment, d.Student, d.Team}] = d
	}
	return out
}

// closed reports whether a sheet has closed for a student.
func (o ownDates) closed(g sitting.Given, st roster.Student, at time.Time) bool {
	if len(o) > 0 {
		if own, has := o[datesKey{g.ID, st.ID, ""}]; has && !own.Closes.IsZero() {
			g.Closes = own.Closes
		} else if own, has := o[datesKey{g.ID, 0, st.Team}]; has && !own.Closes.IsZero() && st.Team != "" {
			g.Closes = own.Closes
		}
	}
	return g.HasClosed(at)
}

// SheetCells returns what each of these students who has begun a sheet earned on it.
func (svc *Service) SheetCells(ctx context.Context, instructor int64, g sitting.Given, students []roster.Student,
	at time.Time) (map[int64]LedgerCell, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, g.ID); err != nil {
		return nil, err
	}
	rd := svc.store
	list, err := sitting.ListSheetDates(ctx, rd, instructor, g.ID)
	if err != nil {
		return nil, err
	}
	dates, who := datesOf(list), map[int64]roster.Student{}
	for _, s := range students {
		who[s.ID] = s
	}
	scores, err := listSheetScores(ctx, rd, g.ID)
	out := map[int64]LedgerCell{}
	for begin := 0; begin < len(scores); {
		end := begin + 1
		for end < len(scores) && scores[end].Student == scores[begin].Student {
			end++
		}
		if st, known := who[scores[begin].Student]; known {
			out[st.ID] = newLedgerCell(g, scores[begin:end], dates.closed(g, st, at))
		}
		begin = end
	}
	return out, err
}

// advise says what each should practise next, and what they did in class.
func (l *Ledger) advise(slips []StudentSlip, inClass []rounds.Total) {
	most := map[int64]StudentSlip{}
	for _, s := range slips {
		if was, ok := most[s.Student]; !ok || cmp.Or(cmp.Compare(was.Cards, s.Cards),
			cmp.Compare(s.Slip, was.Slip)) < 0 {
			most[s.Student] = s
		}
	}
	did := map[int64]rounds.Total{}
	for _, s := range inClass {
		did[s.Student] = s
	}
	for i := range l.Rows {
		r := &l.Rows[i]
		r.Next, r.InClass = exercise.Code(most[r.Student.ID].Slip), did[r.Student.ID]
	}
}

// SetWeights sets what the sheets of a class weigh in the total, by sheet.
func (svc *Service) SetWeights(ctx context.Context, by access.Actor, class int64, weights map[int64]int) error {
	return svc.access.InClass(ctx, access.SetWeights, by.ID, class, func(tx *store.Tx) error {
		list, err := sitting.ListTerm(ctx, tx, by.ID, class)
		if err != nil {
			return err
		}
		for _, a := range list {
			weight, set := weights[a.ID]
			if !set || weight == a.Weight {
				continue
			}
			if err := sitting.UpdateWeight(ctx, tx, a.ID, weight); err != nil {
				return err
			}
			if err := access.Log(ctx, tx, a.ID,
				access.Change{Who: by.Name, What: text.New("log.set-weights.what", "weight", weight, "weight2",
					a.Weight), At: by.At}); err != nil {
				return err
			}
		}
		return nil
	})
}

// Excuse excuses a student from a sheet, with the reason; "" takes it back.
func (svc *Service) Excuse(ctx context.Context, by access.Actor, e Excuse) error {
	return svc.sitting.OnSheet(ctx, access.ExcuseStudent, by.ID, e.Assignment,
		func(tx *store.Tx, a sitting.Assignment) error {
			st, err := roster.FindInClass(ctx, tx, a.Class, e.Student)
			if err != nil {
				return err
			}
			if err := updateExcuse(ctx, tx, e); err != nil {
				return err
			}
			what := text.New("log.excuse", "name", st.Name, "reason", e.Reason)
			if e.Reason == "" {
				what = text.New("log.took-excuse-back", "name", st.Name)
			}
			return access.Log(ctx, tx, e.Assignment, access.Change{Who: by.Name, What: what, At: by.At})
		})
}

// SheetMarks lists the marks of all cards of a sheet of an instructor's class, by student, attempt and number.
func (svc *Service) SheetMarks(ctx context.Context, instructor, assignment int64) ([]sitting.Mark, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return nil, err
	}
	return listSheetMarks(ctx, svc.store, instructor, assignment)
}

// LedgerOf lists one student's marks of an attempt at a sheet, by number.
func (svc *Service) LedgerOf(ctx context.Context, owner, assignment, student int64, attempt int) ([]sitting.Mark,
	error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, owner, assignment); err != nil {
		return nil, err
	}
	return listLedgerOf(ctx, svc.store, owner, assignment, student, attempt)
}

// Watched lists the cards of all students' latest attempts at a sheet of an instructor's.
func (svc *Service) Watched(ctx context.Context, owner, assignment int64) ([]sitting.CardState, error) {
	if err := access.ViewClass.OnSheet(ctx, svc.store, owner, assignment); err != nil {
		return nil, err
	}
	return listWatched(ctx, svc.store, owner, assignment)
}

// Excuses lists who is excused from the sheets of a class that an instructor teaches.
func (svc *Service) Excuses(ctx context.Context, instructor, class int64) ([]Excuse, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listExcuses(ctx, svc.store, instructor, class)
}

// MovedStudents lists the students who have answered sheets of a class that an instructor teaches and are in another by
// now.
func (svc *Service) MovedStudents(ctx context.Context, instructor, class int64) ([]roster.Student, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listMovedStudents(ctx, svc.store, instructor, class)
}
