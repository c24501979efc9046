package sitting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/school/access"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
)

// What is typed in a test is kept box by box, and handed in at its end as it stands; nothing is told before it is
// released.
func TestATestIsHandedInByTheClock(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{Minutes: 20, Release: exercise.ReleaseHand})
	ctx := t.Context()
	s.Sit(s.Pupil)
	first := s.Right(s.CardAt(s.Pupil, 1))
	require.NoError(t, s.Type(s.Pupil, 1, exercise.Answer{"main": first["main"]}))
	require.NoError(t, s.Type(s.Pupil, 1, exercise.Answer{"observed": first["observed"]})) // from another tab
	require.NoError(t, s.Type(s.Pupil, 2, exercise.Answer{"main": "ab", "observed": "1.00"}))
	assert.Equal(t, first, s.CardAt(s.Pupil, 1).Draft, "one box does not wipe the other")

	s.Now = s.Now.Add(20*time.Minute + 2*time.Second)
	require.NoError(t, s.Type(s.Pupil, 3, exercise.Answer{"main": "7"}), "what was under way at the end is taken")
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))
	assert.True(t, s.At(s.Pupil).Now().Handed.IsZero(), "not yet")
	s.Now = s.Now.Add(10 * time.Second)
	require.NoError(t, s.DB.Close())
	s.Open() // the server was down at the end
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))

	st := s.At(s.Pupil)
	assert.Equal(t, "09:20", st.Now().Handed.UTC().Format("15:04"), "at its end, not when the server came back")
	assert.False(t, st.Working())
	c := s.CardAt(s.Pupil, 1)
	assert.True(t, c.Done() && c.Hidden && !c.Late)
	assert.Equal(t, "2", c.Marks.String())
	unread := s.CardAt(s.Pupil, 2)
	assert.Equal(t, exercise.Answer{"observed": "1.00"}, unread.Answer, "what cannot be read counts as empty")
	assert.Equal(t, "7", s.CardAt(s.Pupil, 3).Answer["main"])
	assert.ErrorIs(t, s.Type(s.Pupil, 1, exercise.Answer{"main": "9"}), sitting.ErrOver)
	assert.Zero(t, st.Now().Half, "not told")
	v, err := s.Sitting.Wording(ctx, s.Pupil, 0)
	require.NoError(t, err)
	assert.Empty(t, v.History.Student, "nor by the advice on another card")

	require.ErrorIs(t, s.Marking.Release(ctx, s.Otto, s.Test, s.Now), store.ErrNotFound, "not another's")
	require.NoError(t, s.Marking.Release(ctx, s.Anna, s.Test, s.Now))
	assert.EqualValues(t, 4, s.At(s.Pupil).Now().Half, "half marks")
	assert.False(t, s.CardAt(s.Pupil, 1).Hidden)
}

// Times are kept by the clock of the server: before the opening and after the close nothing begins; extra minutes move
// the end of what is under way; late work is taken where the sheet says so, and marked late.
func TestTimesOfASheet(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{Minutes: 30})
	ctx := t.Context()
	opens, closes := s.Now.Add(time.Hour), s.Now.Add(2*time.Hour)
	require.ErrorIs(t, s.Sitting.SetDates(ctx, s.Otto, s.Test, opens, closes), store.ErrNotFound)
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, opens, closes))
	_, err := s.Sitting.Sit(ctx, s.Pupil, s.Test, s.Now)
	require.ErrorIs(t, err, sitting.ErrNotOpen)
	s.Now = opens.Add(45 * time.Minute)
	assert.Equal(t, closes, s.Sit(s.Pupil).Now().Ends.UTC(), "thirty minutes, but not past the close")
	require.NoError(t, s.Extra(10))
	assert.Equal(t, closes.Add(10*time.Minute), s.At(s.Pupil).Now().Ends.UTC())
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, opens, closes.Add(time.Hour)))
	assert.Equal(t, s.Now.Add(40*time.Minute), s.At(s.Pupil).Now().Ends.UTC(),
		"the close moved: thirty and ten minutes")
	s.Now = closes.Add(time.Hour)
	_, err = s.Sitting.Sit(ctx, s.Rival, s.Test, s.Now)
	require.ErrorIs(t, err, sitting.ErrOver)

	closing := schooltest.NewTest(t, exercise.Delivery{})
	require.NoError(t, closing.Sitting.SetDates(ctx, closing.Anna, closing.Test, time.Time{},
		closing.Now.Add(time.Hour)))
	closing.Sit(closing.Pupil)
	closing.Now = closing.Now.Add(2 * time.Hour)
	assert.False(t, closing.At(closing.Pupil).Working())
	assert.False(t, closing.CardAt(closing.Pupil, 1).Late, "handed in by the close itself")

	late := schooltest.NewTest(t, exercise.Delivery{Late: true})
	require.NoError(t, late.Sitting.SetDates(ctx, late.Anna, late.Test, time.Time{}, late.Now))
	late.Now = late.Now.Add(time.Hour)
	late.Sit(late.Pupil)
	require.NoError(t, late.Sitting.HandIn(ctx, late.Pupil, late.Test, late.Now))
	c := late.CardAt(late.Pupil, 1)
	assert.True(t, c.Late && c.Done() && !c.Hidden, "%+v", c.CardRow)
}

// Practice that closes is handed in too: what is typed counts, and what nobody has begun on stays open in the ledger.
func TestPracticeThatCloses(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{})
	ctx := t.Context()
	sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Practice", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 3,
			Instruments: []*instrument.Instrument{schooltest.Twentieth(t)},
			Settings:    map[string]string{"ask": "main observed"}}}}}))
	s.Test = s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 6, s.Now))
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, time.Time{}, s.Now.Add(time.Hour)))
	s.Sit(s.Pupil)
	third := s.Right(s.CardAt(s.Pupil, 3))
	s.Check(s.Pupil, 3, third)
	assert.Equal(t, "1 of 3 cards, 100 %", s.Standing(s.Pupil), "while it is open, of the cards answered")
	require.NoError(t, s.Type(s.Pupil, 2, exercise.Answer{"main": "5"}))
	s.Now = s.Now.Add(2 * time.Hour)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))
	assert.Equal(t, "33 %", s.Standing(s.Pupil), "then of all six marks")
	assert.Equal(t, "0 %", s.Standing(s.Rival), "closed, never begun")
	first, second := s.CardAt(s.Pupil, 1), s.CardAt(s.Pupil, 2)
	assert.False(t, first.Done())
	assert.True(t, second.Done())
	assert.False(t, s.At(s.Pupil).Working())
}

// Of several attempts each has other values, and the marks of each are kept.
func TestSeveralAttempts(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{Attempts: 2})
	ctx := t.Context()
	s.Sit(s.Pupil)
	_, err := s.Sitting.SitAgain(ctx, s.Pupil, s.Test, s.Now)
	require.ErrorIs(t, err, sitting.ErrNoAttempt, "the first is under way")
	was := s.CardAt(s.Pupil, 1)
	require.NoError(t, s.Type(s.Pupil, 1, s.Right(was)))
	require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, s.Test, s.Now))
	require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, s.Test, s.Now.Add(time.Minute)), "twice is once")
	st, err := s.Sitting.SitAgain(ctx, s.Pupil, s.Test, s.Now)
	require.NoError(t, err)
	assert.Equal(t, 2, st.Now().Attempt)
	again := s.CardAt(s.Pupil, 1)
	assert.NotEqual(t, was.CardRow.Item, again.CardRow.Item)
	assert.False(t, again.Done())
	require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, s.Test, s.Now))
	_, err = s.Sitting.SitAgain(ctx, s.Pupil, s.Test, s.Now)
	require.ErrorIs(t, err, sitting.ErrNoAttempt)
	st = s.At(s.Pupil)
	require.Len(t, st.Sittings, 2)
	assert.Equal(t, "2 0", st.MarkOf(st.Sittings[0]).Earned.String()+" "+st.MarkOf(st.Sittings[1]).Earned.String())
	assert.Equal(t, 0, st.CountingAttempt(), "the best")
	list, err := s.Ledgers.SheetMarks(ctx, s.Anna, s.Test)
	require.NoError(t, err)
	assert.Len(t, list, 6)
	old, err := s.Sitting.CardOf(ctx, s.Anna, s.Test, s.Pupil, 1, 1)
	require.NoError(t, err)
	assert.Equal(t, was.CardRow.Item, old.CardRow.Item)
}

// A group and a student have dates of their own: the student's count before the group's, and both before the class's.
func TestDatesOfTheirOwn(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{})
	ctx, by := t.Context(), access.Actor{ID: s.Anna, Name: "Anna", At: s.Now}
	closes := s.Now.Add(time.Hour)
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, time.Time{}, closes))
	require.NoError(t, s.Roster.ChangeStudent(ctx, by, roster.Student{ID: s.Rival, Class: s.Class, Name: "Bram H.",
		Team: "Tide"}))
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.Test, Team: "Tide",
		Closes: closes.Add(24 * time.Hour)}))
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.Test, Student: s.Pupil,
		Closes: closes.Add(-30 * time.Minute)}))
	assert.Equal(t, closes.Add(-30*time.Minute), s.Sit(s.Pupil).Now().Ends.UTC(), "earlier for one")
	assert.Equal(t, closes.Add(24*time.Hour), s.Sit(s.Rival).Now().Ends.UTC(), "later for the group")
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Test, time.Time{}, closes.Add(time.Minute)))
	assert.Equal(t, closes.Add(24*time.Hour), s.At(s.Rival).Now().Ends.UTC(), "the class's close moved; theirs did not")
	require.NoError(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.Test, Student: s.Pupil}))
	assert.Equal(t, closes.Add(time.Minute), s.At(s.Pupil).Now().Ends.UTC(),
		"the class's again, for what is under way too")

	s.Now = closes.Add(2 * time.Hour)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))
	assert.True(t, s.At(s.Rival).Working())
	assert.Equal(t, "0 %", s.Standing(s.Pupil), "closed for one")
	assert.Equal(t, "not counted", s.Standing(s.Rival), "and open for the other")
	require.ErrorIs(t, s.Sitting.SetSheetDates(ctx, by, sitting.SheetDates{Assignment: s.Test, Student: s.Stranger,
		Closes: closes}), store.ErrNotFound)
}

// A test that was interrupted goes on: what the clock handed in is a draft again, until the results are told.
func TestMoreMinutesAfterAnInterruption(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{Minutes: 20, Release: exercise.ReleaseHand})
	ctx := t.Context()
	s.Sit(s.Pupil)
	right := s.Right(s.CardAt(s.Pupil, 1))
	require.NoError(t, s.Type(s.Pupil, 1, right))
	s.Now = s.Now.Add(30 * time.Minute)
	require.NoError(t, s.Sitting.CloseOver(ctx, s.Now))
	require.False(t, s.At(s.Pupil).Working())
	by := access.Actor{ID: s.Anna, Name: "Anna", At: s.Now}
	require.ErrorIs(t, s.Sitting.MoreMinutes(ctx, by, s.Test, s.Rival, 10), store.ErrNotFound, "has not begun")
	require.NoError(t, s.Sitting.MoreMinutes(ctx, by, s.Test, s.Pupil, 10))
	st := s.At(s.Pupil)
	assert.True(t, st.Working())
	assert.Equal(t, s.Now.Add(10*time.Minute), st.Now().Ends.UTC())
	first := s.CardAt(s.Pupil, 1)
	assert.Equal(t, right, first.Draft, "nothing that was typed is lost")
	assert.False(t, first.Done())
	require.NoError(t, s.Type(s.Pupil, 2, s.Right(s.CardAt(s.Pupil, 2))))
	require.NoError(t, s.Extra(5))
	assert.Equal(t, s.Now.Add(15*time.Minute), s.At(s.Pupil).Now().Ends.UTC(), "extra minutes come on top")
	require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, s.Test, s.Now.Add(time.Minute)))
	require.NoError(t, s.Marking.Release(ctx, s.Anna, s.Test, s.Now))
	assert.EqualValues(t, 8, s.At(s.Pupil).Now().Half, "two cards of three, in half marks")
	require.ErrorIs(t, s.Sitting.MoreMinutes(ctx, by, s.Test, s.Pupil, 10), sitting.ErrTold)
}
