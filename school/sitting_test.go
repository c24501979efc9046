package school_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// clock is a school at a time of its own, with a test that was given.
type clock struct {
	*testSchool
	now  time.Time
	test int64
}

func newTest(t *testing.T, c exercise.Delivery) *clock {
	t.Helper()
	s := &clock{testSchool: newSchool(t), now: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)}
	c.Mode = exercise.Test
	in := twentieth(t)
	sheet := s.must(s.Rack.KeepSheet(t.Context(), s.anna, rack.Sheet{Title: "Test", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Delivery: c, Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 3, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{"ask": "main observed"}}}}}))
	s.test = s.must(s.Sitting.Give(t.Context(), s.anna, s.class, sheet, 5, s.now))
	s.assignment = s.test
	return s
}

func (s *clock) sit(student int64) sitting.State {
	s.t.Helper()
	st, err := s.Sitting.Sit(s.t.Context(), student, s.test, s.now)
	require.NoError(s.t, err)
	return st
}

func (s *clock) at(student int64) sitting.State {
	s.t.Helper()
	st, err := s.Sitting.Stands(s.t.Context(), student, s.test, s.now)
	require.NoError(s.t, err)
	st, err = s.Sitting.Score(s.t.Context(), student, st)
	require.NoError(s.t, err)
	return st
}

func (s *clock) cardAt(student int64, n int) sitting.Card {
	s.t.Helper()
	c, _, err := s.Sitting.MyCard(s.t.Context(), student, s.test, n, s.now)
	require.NoError(s.t, err)
	return c
}

func (s *clock) types(student int64, n int, a exercise.Answer) error {
	s.t.Helper()
	return s.Sitting.SaveDraft(s.t.Context(), student, s.cardAt(student, n), s.at(student), a)
}

// marks checks a card with an answer.
func (s *clock) marks(student int64, n int, a exercise.Answer) {
	s.t.Helper()
	c, st, err := s.Sitting.MyCard(s.t.Context(), student, s.test, n, s.now)
	require.NoError(s.t, err)
	counted, err := s.Sitting.Submit(s.t.Context(), student, c, st, a, s.now)
	require.NoError(s.t, err)
	require.True(s.t, counted)
}

// standing is a student's total of the sheet in the ledger of the class, alone.
func (s *clock) standing(student int64) string {
	s.t.Helper()
	l, err := s.Ledgers.Ledger(s.t.Context(), s.anna, s.class, s.now)
	require.NoError(s.t, err)
	weights := map[int64]int{}
	for _, g := range l.Sheets {
		weights[g.ID] = 0
	}
	weights[s.test] = 1
	require.NoError(s.t, s.Ledgers.SetWeights(s.t.Context(), access.Actor{ID: s.anna, At: s.now}, s.class, weights))
	l, err = s.Ledgers.Ledger(s.t.Context(), s.anna, s.class, s.now)
	require.NoError(s.t, err)
	for _, row := range l.Rows {
		if row.Student.ID != student {
			continue
		}
		sum := row.Total
		if !sum.Counts {
			return "not counted"
		}
		share := sum.Share.MulInt(100).Text(0) + " %"
		if sum.Cards > 0 {
			return fmt.Sprintf("%d of %d cards, %s", sum.Done, sum.Cards, share)
		}
		return share
	}
	return "not in the ledger"
}

// What is typed in a test is kept box by box, and handed in at its end as it stands; nothing is told before it is
// released.
func TestATestIsHandedInByTheClock(t *testing.T) {
	s := newTest(t, exercise.Delivery{Minutes: 20, Release: exercise.ReleaseHand})
	ctx := t.Context()
	s.sit(s.pupil)
	first := s.right(s.cardAt(s.pupil, 1))
	require.NoError(t, s.types(s.pupil, 1, exercise.Answer{"main": first["main"]}))
	require.NoError(t, s.types(s.pupil, 1, exercise.Answer{"observed": first["observed"]})) // from another tab
	require.NoError(t, s.types(s.pupil, 2, exercise.Answer{"main": "ab", "observed": "1.00"}))
	assert.Equal(t, first, s.cardAt(s.pupil, 1).Draft, "one box does not wipe the other")

	s.now = s.now.Add(20*time.Minute + 2*time.Second)
	require.NoError(t, s.types(s.pupil, 3, exercise.Answer{"main": "7"}), "what was under way at the end is taken")
	require.NoError(t, s.Sitting.CloseOver(ctx, s.now))
	assert.True(t, s.at(s.pupil).Now().Handed.IsZero(), "not yet")
	s.now = s.now.Add(10 * time.Second)
	require.NoError(t, s.db.Close())
	s.open() // the server was down at the end
	require.NoError(t, s.Sitting.CloseOver(ctx, s.now))

	st := s.at(s.pupil)
	assert.Equal(t, "09:20", st.Now().Handed.UTC().Format("15:04"), "at its end, not when the server came back")
	assert.False(t, st.Working())
	c := s.cardAt(s.pupil, 1)
	assert.True(t, c.Done() && c.Hidden && !c.Late)
	assert.Equal(t, "2", c.Marks.String())
	unread := s.cardAt(s.pupil, 2)
	assert.Equal(t, exercise.Answer{"observed": "1.00"}, unread.Answer, "what cannot be read counts as empty")
	assert.Equal(t, "7", s.cardAt(s.pupil, 3).Answer["main"])
	assert.ErrorIs(t, s.types(s.pupil, 1, exercise.Answer{"main": "9"}), sitting.ErrOver)
	assert.Zero(t, st.Now().Half, "not told")
	v, err := s.Sitting.Wording(ctx, s.pupil, 0)
	require.NoError(t, err)
	assert.Empty(t, v.History.Student, "nor by the advice on another card")

	require.ErrorIs(t, s.Marking.Release(ctx, s.otto, s.test, s.now), store.ErrNotFound, "not another's")
	require.NoError(t, s.Marking.Release(ctx, s.anna, s.test, s.now))
	assert.EqualValues(t, 4, s.at(s.pupil).Now().Half, "half marks")
	assert.False(t, s.cardAt(s.pupil, 1).Hidden)
}

// Times are kept by the clock of the server: before the opening and after the close nothing begins; extra minutes move
// the end of what is under way; late work is taken where the sheet says so, and marked late.
func TestTimesOfASheet(t *testing.T) {
	s := newTest(t, exercise.Delivery{Minutes: 30})
	ctx := t.Context()
	opens, closes := s.now.Add(time.Hour), s.now.Add(2*time.Hour)
	require.ErrorIs(t, s.Sitting.SetDates(ctx, s.otto, s.test, opens, closes), store.ErrNotFound)
	require.NoError(t, s.Sitting.SetDates(ctx, s.anna, s.test, opens, closes))
	_, err := s.Sitting.Sit(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, sitting.ErrNotOpen)
	s.now = opens.Add(45 * time.Minute)
	assert.Equal(t, closes, s.sit(s.pupil).Now().Ends.UTC(), "thirty minutes, but not past the close")
	require.NoError(t, s.extra(10))
	assert.Equal(t, closes.Add(10*time.Minute), s.at(s.pupil).Now().Ends.UTC())
	require.NoError(t, s.Sitting.SetDates(ctx, s.anna, s.test, opens, closes.Add(time.Hour)))
	assert.Equal(t, s.now.Add(40*time.Minute), s.at(s.pupil).Now().Ends.UTC(),
		"the close moved: thirty and ten minutes")
	s.now = closes.Add(time.Hour)
	_, err = s.Sitting.Sit(ctx, s.rival, s.test, s.now)
	require.ErrorIs(t, err, sitting.ErrOver)

	closing := newTest(t, exercise.Delivery{})
	require.NoError(t, closing.Sitting.SetDates(ctx, closing.anna, closing.test, time.Time{},
		closing.now.Add(time.Hour)))
	closing.sit(closing.pupil)
	closing.now = closing.now.Add(2 * time.Hour)
	assert.False(t, closing.at(closing.pupil).Working())
	assert.False(t, closing.cardAt(closing.pupil, 1).Late, "handed in by the close itself")

	late := newTest(t, exercise.Delivery{Late: true})
	require.NoError(t, late.Sitting.SetDates(ctx, late.anna, late.test, time.Time{}, late.now))
	late.now = late.now.Add(time.Hour)
	late.sit(late.pupil)
	require.NoError(t, late.Sitting.HandIn(ctx, late.pupil, late.test, late.now))
	c := late.cardAt(late.pupil, 1)
	assert.True(t, c.Late && c.Done() && !c.Hidden, "%+v", c.CardRow)
}

// Practice that closes is handed in too: what is typed counts, and what nobody has begun on stays open in the ledger.
func TestPracticeThatCloses(t *testing.T) {
	s := newTest(t, exercise.Delivery{})
	ctx := t.Context()
	sheet := s.must(s.Rack.KeepSheet(ctx, s.anna, rack.Sheet{Title: "Practice", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 3,
			Instruments: []*instrument.Instrument{twentieth(t)},
			Settings:    map[string]string{"ask": "main observed"}}}}}))
	s.test = s.must(s.Sitting.Give(ctx, s.anna, s.class, sheet, 6, s.now))
	require.NoError(t, s.Sitting.SetDates(ctx, s.anna, s.test, time.Time{}, s.now.Add(time.Hour)))
	s.sit(s.pupil)
	third := s.right(s.cardAt(s.pupil, 3))
	s.marks(s.pupil, 3, third)
	assert.Equal(t, "1 of 3 cards, 100 %", s.standing(s.pupil), "while it is open, of the cards answered")
	require.NoError(t, s.types(s.pupil, 2, exercise.Answer{"main": "5"}))
	s.now = s.now.Add(2 * time.Hour)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.now))
	assert.Equal(t, "33 %", s.standing(s.pupil), "then of all six marks")
	assert.Equal(t, "0 %", s.standing(s.rival), "closed, never begun")
	first, second := s.cardAt(s.pupil, 1), s.cardAt(s.pupil, 2)
	assert.False(t, first.Done())
	assert.True(t, second.Done())
	assert.False(t, s.at(s.pupil).Working())
}

// Of several attempts each has other values, and the marks of each are kept.
func TestSeveralAttempts(t *testing.T) {
	s := newTest(t, exercise.Delivery{Attempts: 2})
	ctx := t.Context()
	s.sit(s.pupil)
	_, err := s.Sitting.SitAgain(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, sitting.ErrNoAttempt, "the first is under way")
	was := s.cardAt(s.pupil, 1)
	require.NoError(t, s.types(s.pupil, 1, s.right(was)))
	require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, s.test, s.now))
	require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, s.test, s.now.Add(time.Minute)), "twice is once")
	st, err := s.Sitting.SitAgain(ctx, s.pupil, s.test, s.now)
	require.NoError(t, err)
	assert.Equal(t, 2, st.Now().Attempt)
	again := s.cardAt(s.pupil, 1)
	assert.NotEqual(t, was.CardRow.Item, again.CardRow.Item)
	assert.False(t, again.Done())
	require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, s.test, s.now))
	_, err = s.Sitting.SitAgain(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, sitting.ErrNoAttempt)
	st = s.at(s.pupil)
	require.Len(t, st.Sittings, 2)
	assert.Equal(t, "2 0", st.MarkOf(st.Sittings[0]).Earned.String()+" "+st.MarkOf(st.Sittings[1]).Earned.String())
	assert.Equal(t, 0, st.CountingAttempt(), "the best")
	list, err := s.Ledgers.SheetMarks(ctx, s.anna, s.test)
	require.NoError(t, err)
	assert.Len(t, list, 6)
	old, err := s.Sitting.CardOf(ctx, s.anna, s.test, s.pupil, 1, 1)
	require.NoError(t, err)
	assert.Equal(t, was.CardRow.Item, old.CardRow.Item)
}

// A group and a student have dates of their own: the student's count before the group's, and both before the class's.
func TestDatesOfTheirOwn(t *testing.T) {
	s := newTest(t, exercise.Delivery{})
	ctx, by := t.Context(), access.Actor{ID: s.anna, Name: "Anna", At: s.now}
	closes := s.now.Add(time.Hour)
	require.NoError(t, s.Sitting.SetDates(ctx, s.anna, s.test, time.Time{}, closes))
	require.NoError(t, s.Roster.ChangeStudent(ctx, by, roster.Student{ID: s.rival, Class: s.class, Name: "Bram H.",
		Team: "Tide"}))
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.test, Team: "Tide",
		Closes: closes.Add(24 * time.Hour)}))
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.test, Student: s.pupil,
		Closes: closes.Add(-30 * time.Minute)}))
	assert.Equal(t, closes.Add(-30*time.Minute), s.sit(s.pupil).Now().Ends.UTC(), "earlier for one")
	assert.Equal(t, closes.Add(24*time.Hour), s.sit(s.rival).Now().Ends.UTC(), "later for the group")
	require.NoError(t, s.Sitting.SetDates(ctx, s.anna, s.test, time.Time{}, closes.Add(time.Minute)))
	assert.Equal(t, closes.Add(24*time.Hour), s.at(s.rival).Now().Ends.UTC(), "the class's close moved; theirs did not")
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.test, Student: s.pupil}))
	assert.Equal(t, closes.Add(time.Minute), s.at(s.pupil).Now().Ends.UTC(),
		"the class's again, for what is under way too")

	s.now = closes.Add(2 * time.Hour)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.now))
	assert.True(t, s.at(s.rival).Working())
	assert.Equal(t, "0 %", s.standing(s.pupil), "closed for one")
	assert.Equal(t, "not counted", s.standing(s.rival), "and open for the other")
	require.ErrorIs(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.test, Student: s.stranger,
		Closes: closes}), store.ErrNotFound)
}

// A test that was interrupted goes on: what the clock handed in is a draft again, until the results are told.
func TestMoreMinutesAfterAnInterruption(t *testing.T) {
	s := newTest(t, exercise.Delivery{Minutes: 20, Release: exercise.ReleaseHand})
	ctx := t.Context()
	s.sit(s.pupil)
	right := s.right(s.cardAt(s.pupil, 1))
	require.NoError(t, s.types(s.pupil, 1, right))
	s.now = s.now.Add(30 * time.Minute)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.now))
	require.False(t, s.at(s.pupil).Working())
	by := access.Actor{ID: s.anna, Name: "Anna", At: s.now}
	require.ErrorIs(t, s.Sitting.MoreMinutes(ctx, by, s.test, s.rival, 10), store.ErrNotFound, "has not begun")
	require.NoError(t, s.Sitting.MoreMinutes(ctx, by, s.test, s.pupil, 10))
	st := s.at(s.pupil)
	assert.True(t, st.Working())
	assert.Equal(t, s.now.Add(10*time.Minute), st.Now().Ends.UTC())
	first := s.cardAt(s.pupil, 1)
	assert.Equal(t, right, first.Draft, "nothing that was typed is lost")
	assert.False(t, first.Done())
	require.NoError(t, s.types(s.pupil, 2, s.right(s.cardAt(s.pupil, 2))))
	require.NoError(t, s.extra(5))
	assert.Equal(t, s.now.Add(15*time.Minute), s.at(s.pupil).Now().Ends.UTC(), "extra minutes come on top")
	require.NoError(t, s.Sitting.HandIn(ctx, s.pupil, s.test, s.now.Add(time.Minute)))
	require.NoError(t, s.Marking.Release(ctx, s.anna, s.test, s.now))
	assert.EqualValues(t, 8, s.at(s.pupil).Now().Half, "two cards of three, in half marks")
	require.ErrorIs(t, s.Sitting.MoreMinutes(ctx, by, s.test, s.pupil, 10), sitting.ErrTold)
}

// Re-marking by the other quantity leaves right what was right for the card as it was asked, and gives marks to who
// wrote the other one; marks are lowered only where that is told.
func TestRemarkingByTheOtherQuantity(t *testing.T) {
	s := newTest(t, exercise.Delivery{})
	ctx := t.Context()
	in, err := twentieth(t).WithZeroError(length.Frac(3, 20))
	require.NoError(t, err)
	sheet := s.must(s.Rack.KeepSheet(ctx, s.anna, rack.Sheet{Title: "Zero errors", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 1, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{"ask": "zero_error"}}}}}))
	s.test = s.must(s.Sitting.Give(ctx, s.anna, s.class, sheet, 6, s.now))
	for student, answer := range map[int64]string{s.pupil: "+0.15", s.rival: "-0.15"} {
		s.sit(student)
		s.marks(student, 1, exercise.Answer{"zero_error": answer})
	}
	by := exercise.Method{ZeroTerm: "correction"}
	list, err := s.Marking.Remark(ctx, s.anna, s.test, by, false)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.NoError(t, s.Marking.ApplyRemark(ctx, s.anna, s.test, by, false, "Anna", s.now))
	assert.Equal(t, "100 % 100 %", s.standing(s.pupil)+" "+s.standing(s.rival))
	audit, err := s.Server.Audit(ctx)
	require.NoError(t, err)
	assert.Empty(t, audit.Faults, "each card is marked as it is asked")
	require.NoError(t, s.Marking.UndoRemark(ctx, s.anna, s.test, "Anna", s.now))
	assert.Equal(t, "100 % 0 %", s.standing(s.pupil)+" "+s.standing(s.rival))
	require.NoError(t, s.Marking.ApplyRemark(ctx, s.anna, s.test, by, true, "Anna", s.now))
	assert.Equal(t, "0 % 100 %", s.standing(s.pupil)+" "+s.standing(s.rival), "lowered too, as was told")
}

// extra gives the pupil minutes on top of whatever is timed.
func (s *testSchool) extra(minutes int) error {
	ctx := s.t.Context()
	st, err := s.Roster.Student(ctx, s.pupil)
	require.NoError(s.t, err)
	st.Extra = minutes
	return s.Roster.ChangeStudent(ctx, access.Actor{ID: s.anna, Name: "Anna", At: time.Now()}, st)
}
