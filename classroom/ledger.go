package classroom

import (
	"cmp"
	"context"
	"fmt"
	"runtime/debug"
	"time"

	"golang.org/x/sync/errgroup"

	"cavix/core/exercise"
	"cavix/core/ledger"
	"cavix/core/length"
	"cavix/store"
)

// Ledger is a term of a class: its sheets, the oldest first, and a row for each student.
type Ledger struct {
	Sheets []Given
	Unread []string // titles of sheets that cannot be read: no total has them
	Rows   []LedgerRow
}

// LedgerRow is a student's term.
type LedgerRow struct {
	Student store.Student
	Moved   bool         // is in another class by now
	Cells   []LedgerCell // one a sheet
	Total   length.Number
	Has     bool          // a total
	Next    exercise.Code // what the student should practise next: the slip made most of late
	InClass store.Score   // what was answered to questions on the Board
}

// LedgerCell is what a student came to on a sheet, by the sheet's own rule for attempts.
type LedgerCell struct {
	Earned, Of length.Number
	Done       int // cards answered, of the attempt that stands for all
	Attempts   int
	Attempt    int // that stands for all
	Late       bool
	Hidden     bool // not told to the student yet
	Excused    string
	Missing    bool // the sheet has closed, and was not begun
}

// advisedFor is how far back it is looked for what to practise next.
const advisedFor = 28 * 24 * time.Hour

// Ledger reads a term of a class that an instructor teaches.
func (r *Room) Ledger(ctx context.Context, instructor, class int64, at time.Time) (l Ledger, err error) {
	read := r.read(ctx)
	if _, err := read.RoleIn(instructor, class); err != nil {
		return l, err
	}
	if l.Sheets, l.Unread, err = r.term(ctx, instructor, class); err != nil {
		return l, err
	}
	// All at once: a term of many students is much to read.
	var here, came []store.Student
	var scores, inClass []store.Score
	var excuses []store.Excuse
	var slips []store.StudentSlip
	var g errgroup.Group
	g.Go(safely(func() (err error) { scores, err = read.Scores(instructor, class); return err }))
	g.Go(safely(func() (err error) { slips, err = read.Lately(class, at.Add(-advisedFor)); return err }))
	g.Go(safely(func() (err error) { here, err = read.Everybody(instructor, class); return err }))
	g.Go(safely(func() (err error) { came, err = read.Came(instructor, class); return err }))
	g.Go(safely(func() (err error) { excuses, err = read.Excuses(instructor, class); return err }))
	g.Go(safely(func() (err error) { inClass, err = read.InClass(class); return err }))
	if err := g.Wait(); err != nil {
		return l, err
	}
	l.rows(here, came)
	l.fill(scores, excuses, at)
	l.advise(slips, inClass)
	return l, nil
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
func (r *Room) term(ctx context.Context, instructor, class int64) (out []Given, unread []string, err error) {
	list, err := r.read(ctx).Term(instructor, class)
	for _, a := range list {
		if g, err := r.opened.given(a); err == nil {
			out = append(out, g)
		} else {
			unread = append(unread, a.Title)
		}
	}
	return out, unread, err
}

func (l *Ledger) rows(here, came []store.Student) {
	for i, s := range append(here, came...) {
		l.Rows = append(l.Rows, LedgerRow{Student: s, Moved: i >= len(here), Cells: make([]LedgerCell, len(l.Sheets))})
	}
}

// fill puts what attempts came to in its place, and adds up.
func (l *Ledger) fill(scores []store.Score, excuses []store.Excuse, at time.Time) {
	row, column := map[int64]int{}, map[int64]int{}
	for i, r := range l.Rows {
		row[r.Student.ID] = i
	}
	sheets := make([]ledger.Sheet, len(l.Sheets))
	for i, g := range l.Sheets {
		column[g.ID] = i
		sheets[i] = ledger.Sheet{Weight: g.Weight, Closed: !g.Closes.IsZero() && g.Closes.Before(at)}
	}
	for begin := 0; begin < len(scores); { // those of one student and sheet stand together
		end := begin + 1
		for end < len(scores) && scores[end].Student == scores[begin].Student && scores[end].Assignment == scores[begin].Assignment {
			end++
		}
		attempts := scores[begin:end]
		begin = end
		i, known := row[attempts[0].Student]
		j, given := column[attempts[0].Assignment]
		if known && given {
			l.Rows[i].Cells[j] = newLedgerCell(l.Sheets[j].Sheet.Conduct, attempts)
		}
	}
	for _, x := range excuses {
		if i, known := row[x.Student]; known {
			if j, given := column[x.Assignment]; given {
				l.Rows[i].Cells[j].Excused = x.Reason
			}
		}
	}
	marks := make([]ledger.Mark, len(sheets))
	for i := range l.Rows {
		r := &l.Rows[i]
		for j := range r.Cells {
			c := &r.Cells[j]
			c.Missing = sheets[j].Closed && c.Attempts == 0 && c.Excused == "" && !r.Moved
			marks[j] = ledger.Mark{Earned: c.Earned, Of: c.Of, Excused: c.Excused != "" || r.Moved && c.Attempts == 0}
		}
		r.Total, r.Has = ledger.Total(sheets, marks)
	}
}

// newLedgerCell is what attempts come to by a sheet's rule.
func newLedgerCell(c exercise.Conduct, attempts []store.Score) LedgerCell {
	marks := make([]length.Number, len(attempts))
	for i, a := range attempts {
		marks[i] = halves(a.Half)
	}
	earned, at := c.Counting(marks)
	a := attempts[at]
	return LedgerCell{Earned: earned, Of: halves(a.Of), Done: a.Done, Attempts: len(attempts), Attempt: a.Attempt, Late: a.Late,
		Hidden: a.Hidden}
}

// advise says what each should practise next, and what they did in class.
func (l *Ledger) advise(slips []store.StudentSlip, inClass []store.Score) {
	most := map[int64]store.StudentSlip{}
	for _, s := range slips {
		if was, ok := most[s.Student]; !ok || cmp.Or(cmp.Compare(was.Cards, s.Cards), cmp.Compare(s.Slip, was.Slip)) < 0 {
			most[s.Student] = s
		}
	}
	did := map[int64]store.Score{}
	for _, s := range inClass {
		did[s.Student] = s
	}
	for i := range l.Rows {
		r := &l.Rows[i]
		r.Next, r.InClass = exercise.Code(most[r.Student.ID].Slip), did[r.Student.ID]
	}
}

// SetWeights sets what the sheets of a class weigh in the total, by sheet.
func (r *Room) SetWeights(ctx context.Context, by Hand, class int64, weights map[int64]int) error {
	return r.inClass(ctx, by.ID, class, store.Marks, func(tx *store.Tx) error {
		list, err := tx.Term(by.ID, class)
		if err != nil {
			return err
		}
		for _, a := range list {
			weight, set := weights[a.ID]
			if !set || weight == a.Weight {
				continue
			}
			if err := tx.SetWeight(a.ID, weight); err != nil {
				return err
			}
			if err := tx.Log(a.ID, store.Change{Who: by.Name, What: fmt.Sprintf("had it weigh %d instead of %d", weight, a.Weight),
				At: by.At}); err != nil {
				return err
			}
		}
		return nil
	})
}

// Excuse excuses a student from a sheet, with the reason; "" takes it back.
func (r *Room) Excuse(ctx context.Context, by Hand, e store.Excuse) error {
	return r.onSheet(ctx, by.ID, e.Assignment, store.Marks, func(tx *store.Tx, a store.Assignment) error {
		st, err := tx.Pupil(a.Class, e.Student)
		if err != nil {
			return err
		}
		if err := tx.SetExcuse(e); err != nil {
			return err
		}
		what := fmt.Sprintf("excused %s: %s", st.Name, e.Reason)
		if e.Reason == "" {
			what = fmt.Sprintf("took the excuse of %s back", st.Name)
		}
		return tx.Log(e.Assignment, store.Change{Who: by.Name, What: what, At: by.At})
	})
}
