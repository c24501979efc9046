package classroom_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/classroom"
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/store"
)

// clock is a school at a time of its own, with a test that was given.
type clock struct {
	*school
	now  time.Time
	test int64
}

func newTest(t *testing.T, c exercise.Conduct) *clock {
	t.Helper()
	s := &clock{school: newSchool(t), now: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)}
	c.Mode = exercise.Test
	in := twentieth(t)
	sheet := s.must(s.KeepSheet(t.Context(), s.anna, classroom.Sheet{Title: "Test", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Conduct: c, Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 3,
			Instruments: []*instrument.Instrument{in}, Settings: map[string]string{"ask": "main observed"}}}}}))
	s.test = s.must(s.Give(t.Context(), s.anna, s.class, sheet, 5, s.now))
	s.assignment = s.test
	return s
}

func (s *clock) sit(student int64) classroom.State {
	s.t.Helper()
	st, err := s.Sit(s.t.Context(), student, s.test, s.now)
	require.NoError(s.t, err)
	return st
}

func (s *clock) at(student int64) classroom.State {
	s.t.Helper()
	st, err := s.Stands(s.t.Context(), student, s.test, s.now)
	require.NoError(s.t, err)
	st, err = s.Score(s.t.Context(), student, st)
	require.NoError(s.t, err)
	return st
}

func (s *clock) cardAt(student int64, n int) classroom.Card {
	s.t.Helper()
	c, _, err := s.MyCard(s.t.Context(), student, s.test, n, s.now)
	require.NoError(s.t, err)
	return c
}

func (s *clock) types(student int64, n int, a exercise.Answer) error {
	s.t.Helper()
	return s.SaveDraft(s.t.Context(), student, s.cardAt(student, n), s.at(student), a)
}

// What is typed in a test is kept box by box, and handed in at its end as it stands; nothing is told before it is
// released.
func TestATestIsHandedInByTheClock(t *testing.T) {
	s := newTest(t, exercise.Conduct{Minutes: 20, Release: exercise.ReleaseHand})
	ctx := t.Context()
	s.sit(s.pupil)
	first := s.right(s.cardAt(s.pupil, 1))
	require.NoError(t, s.types(s.pupil, 1, exercise.Answer{"main": first["main"]}))
	require.NoError(t, s.types(s.pupil, 1, exercise.Answer{"observed": first["observed"]})) // from another tab
	require.NoError(t, s.types(s.pupil, 2, exercise.Answer{"main": "ab", "observed": "1.00"}))
	assert.Equal(t, first, s.cardAt(s.pupil, 1).Draft, "one box does not wipe the other")

	s.now = s.now.Add(20*time.Minute + 2*time.Second)
	require.NoError(t, s.types(s.pupil, 3, exercise.Answer{"main": "7"}), "what was under way at the end is taken")
	require.NoError(t, s.CloseOver(ctx, s.now))
	assert.True(t, s.at(s.pupil).Now().Handed.IsZero(), "not yet")
	s.now = s.now.Add(10 * time.Second)
	require.NoError(t, s.Store().Close())
	s.open() // the server was down at the end
	require.NoError(t, s.CloseOver(ctx, s.now))

	st := s.at(s.pupil)
	assert.Equal(t, "09:20", st.Now().Handed.UTC().Format("15:04"), "at its end, not when the server came back")
	assert.False(t, st.Working())
	c := s.cardAt(s.pupil, 1)
	assert.True(t, c.Done() && c.Hidden && !c.Late)
	assert.Equal(t, "2", c.Marks.String())
	unread := s.cardAt(s.pupil, 2)
	assert.Equal(t, exercise.Answer{"observed": "1.00"}, unread.Answer, "what cannot be read counts as empty")
	assert.Equal(t, "7", s.cardAt(s.pupil, 3).Answer["main"])
	assert.ErrorIs(t, s.types(s.pupil, 1, exercise.Answer{"main": "9"}), classroom.ErrOver)
	assert.Zero(t, st.Now().Half, "not told")
	v, err := s.Voice(ctx, s.pupil, 0)
	require.NoError(t, err)
	assert.Empty(t, v.History.Student, "nor by the advice on another card")

	require.ErrorIs(t, s.Release(ctx, s.otto, s.test, s.now), store.ErrNotFound, "not another's")
	require.NoError(t, s.Release(ctx, s.anna, s.test, s.now))
	assert.EqualValues(t, 4, s.at(s.pupil).Now().Half, "half marks")
	assert.False(t, s.cardAt(s.pupil, 1).Hidden)
}

// Times are kept by the clock of the server: before the opening and after the close nothing begins; extra minutes move
// the end of what is under way; late work is taken where the sheet says so, and marked late.
func TestTimesOfASheet(t *testing.T) {
	s := newTest(t, exercise.Conduct{Minutes: 30})
	ctx := t.Context()
	opens, closes := s.now.Add(time.Hour), s.now.Add(2*time.Hour)
	require.ErrorIs(t, s.SetTimes(ctx, s.otto, s.test, opens, closes), store.ErrNotFound)
	require.NoError(t, s.SetTimes(ctx, s.anna, s.test, opens, closes))
	_, err := s.Sit(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, classroom.ErrNotOpen)
	s.now = opens.Add(45 * time.Minute)
	assert.Equal(t, closes, s.sit(s.pupil).Now().Ends.UTC(), "thirty minutes, but not past the close")
	require.NoError(t, s.SetExtra(ctx, s.anna, s.class, s.pupil, 10))
	assert.Equal(t, closes.Add(10*time.Minute), s.at(s.pupil).Now().Ends.UTC())
	require.NoError(t, s.SetTimes(ctx, s.anna, s.test, opens, closes.Add(time.Hour)))
	assert.Equal(t, s.now.Add(40*time.Minute), s.at(s.pupil).Now().Ends.UTC(), "the close moved: thirty and ten minutes")
	s.now = closes.Add(time.Hour)
	_, err = s.Sit(ctx, s.rival, s.test, s.now)
	require.ErrorIs(t, err, classroom.ErrOver)

	closing := newTest(t, exercise.Conduct{})
	require.NoError(t, closing.SetTimes(ctx, closing.anna, closing.test, time.Time{}, closing.now.Add(time.Hour)))
	closing.sit(closing.pupil)
	closing.now = closing.now.Add(2 * time.Hour)
	assert.False(t, closing.at(closing.pupil).Working())
	assert.False(t, closing.cardAt(closing.pupil, 1).Late, "handed in by the close itself")

	late := newTest(t, exercise.Conduct{Late: true})
	require.NoError(t, late.SetTimes(ctx, late.anna, late.test, time.Time{}, late.now))
	late.now = late.now.Add(time.Hour)
	late.sit(late.pupil)
	require.NoError(t, late.HandIn(ctx, late.pupil, late.test, late.now))
	c := late.cardAt(late.pupil, 1)
	assert.True(t, c.Late && c.Done() && !c.Hidden, "%+v", c.Card)
}

// Practice that closes is handed in too: what is typed counts, and what nobody has begun on stays open in the ledger.
func TestPracticeThatCloses(t *testing.T) {
	s := newTest(t, exercise.Conduct{})
	ctx := t.Context()
	sheet := s.must(s.KeepSheet(ctx, s.anna, classroom.Sheet{Title: "Practice", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 3,
			Instruments: []*instrument.Instrument{twentieth(t)}, Settings: map[string]string{"ask": "main observed"}}}}}))
	s.test = s.must(s.Give(ctx, s.anna, s.class, sheet, 6, s.now))
	require.NoError(t, s.SetTimes(ctx, s.anna, s.test, time.Time{}, s.now.Add(time.Hour)))
	s.sit(s.pupil)
	require.NoError(t, s.types(s.pupil, 2, exercise.Answer{"main": "5"}))
	s.now = s.now.Add(2 * time.Hour)
	require.NoError(t, s.CloseOver(ctx, s.now))
	first, second := s.cardAt(s.pupil, 1), s.cardAt(s.pupil, 2)
	assert.False(t, first.Done())
	assert.True(t, second.Done())
	assert.False(t, s.at(s.pupil).Working())
}

// Of several attempts each has other values, and the marks of each are kept.
func TestSeveralAttempts(t *testing.T) {
	s := newTest(t, exercise.Conduct{Attempts: 2})
	ctx := t.Context()
	s.sit(s.pupil)
	_, err := s.SitAgain(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, classroom.ErrTaken, "the first is under way")
	was := s.cardAt(s.pupil, 1)
	require.NoError(t, s.types(s.pupil, 1, s.right(was)))
	require.NoError(t, s.HandIn(ctx, s.pupil, s.test, s.now))
	require.NoError(t, s.HandIn(ctx, s.pupil, s.test, s.now.Add(time.Minute)), "twice is once")
	st, err := s.SitAgain(ctx, s.pupil, s.test, s.now)
	require.NoError(t, err)
	assert.Equal(t, 2, st.Now().Attempt)
	again := s.cardAt(s.pupil, 1)
	assert.NotEqual(t, was.Card.Item, again.Card.Item)
	assert.False(t, again.Done())
	require.NoError(t, s.HandIn(ctx, s.pupil, s.test, s.now))
	_, err = s.SitAgain(ctx, s.pupil, s.test, s.now)
	require.ErrorIs(t, err, classroom.ErrTaken)
	marks := classroom.MarksOf(s.at(s.pupil).Sittings)
	require.Len(t, marks, 2)
	assert.Equal(t, "2 0", marks[0].String()+" "+marks[1].String())
	list, err := s.Store().Read(ctx).Ledger(s.anna, s.test)
	require.NoError(t, err)
	assert.Len(t, list, 6)
	old, err := s.CardOf(ctx, s.anna, s.test, s.pupil, 1, 1)
	require.NoError(t, err)
	assert.Equal(t, was.Card.Item, old.Card.Item)
}
