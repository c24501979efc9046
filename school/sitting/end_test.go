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
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
)

// What arrives after an attempt was handed in, or from one who has left the class, does not count, however early its
// page was read.
func TestNothingCountsAfterTheEnd(t *testing.T) {
	ctx := t.Context()
	late := func(s *schooltest.School, c sitting.Card, before sitting.State) map[string]error {
		_, err := s.Sitting.Submit(ctx, s.Pupil, c, before, s.Right(c), time.Now())
		return map[string]error{"answer": err, "draft": s.Sitting.SaveDraft(ctx, s.Pupil, c, before,
			exercise.Answer{"main": "3"}), "hint": s.Sitting.TakeHint(ctx, s.Pupil, c, before)}
	}
	t.Run("handed in", func(t *testing.T) {
		s := schooltest.New(t)
		c, before := s.Card(s.Pupil, 1), s.Stands(s.Pupil)
		require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, s.Assignment, time.Now()))
		for what, err := range late(s, c, before) {
			assert.ErrorIs(t, err, sitting.ErrOver, what)
		}
		now := s.Card(s.Pupil, 1)
		assert.False(t, now.Done())
	})
	type end func(s *schooltest.School, by access.Actor) error
	for name, end := range map[string]end{
		"left": func(s *schooltest.School, by access.Actor) error {
			return s.Roster.SetLeft(ctx, by, s.Class, s.Pupil, false)
		},
		"removed": func(s *schooltest.School, by access.Actor) error {
			return s.Roster.DropStudent(ctx, by, s.Class, s.Pupil)
		},
		"archived": func(s *schooltest.School, by access.Actor) error {
			return s.Roster.Archive(ctx, by, s.Class, false)
		},
	} {
		t.Run(name, func(t *testing.T) {
			s := schooltest.New(t)
			c, before := s.Card(s.Pupil, 1), s.Stands(s.Pupil)
			practised, err := s.Sitting.NextCard(ctx, s.Pupil, 3)
			require.NoError(t, err)
			require.NoError(t, end(s, access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}))
			for what, err := range late(s, c, before) {
				assert.ErrorIs(t, err, sitting.ErrOver, what)
			}
			gone := func(err error) { t.Helper(); assert.ErrorIs(t, err, store.ErrNotFound) }
			gone(s.Sitting.CheckPractice(ctx, s.Pupil, practised, exercise.Answer{}, time.Now()))
			gone(s.Sitting.KeepPractice(ctx, s.Pupil, practised, exercise.Answer{"main": "3"}))
			gone(s.Sitting.HelpPractice(ctx, s.Pupil, practised))
			again, err := s.Sitting.Stands(ctx, s.Rival, s.Assignment, time.Now())
			if err == nil && name == "archived" {
				_, err = s.Sitting.Sit(ctx, s.Rival, s.Assignment, again.At)
				gone(err)
			}
		})
	}
}

// While a student takes a timed test the Bench and practice are closed for instruments like those of the test, unless
// its sheet says otherwise; afterwards they are open again. A test without an end closes nothing.
func TestAidsDuringATest(t *testing.T) {
	for name, tt := range map[string]struct {
		minutes int
		mode    exercise.Mode
		aids    exercise.Aids
		closed  bool
	}{"timed": {30, exercise.Test, exercise.AidsClosed, true}, "allowed": {30, exercise.Test, exercise.AidsOpen, false},
		"no end":   {0, exercise.Test, exercise.AidsClosed, false},
		"practice": {30, exercise.Practice, exercise.AidsClosed, false}} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s := schooltest.New(t)
			ctx := t.Context()
			in := schooltest.Twentieth(t)
			sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Half-term", Racked: [][]int64{{}},
				Definition: exercise.Sheet{
					Dealer: exercise.Dealing, Delivery: exercise.Delivery{Mode: tt.mode, Minutes: tt.minutes,
						Aids: tt.aids},
					Blocks: []exercise.Block{{Kind: "read", Cards: 2, Instruments: []*instrument.Instrument{in}}}}}))
			test := s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 7, time.Now()))
			practised, err := s.Sitting.NextCard(ctx, s.Pupil, 1)
			require.NoError(t, err)
			bench, err := s.Sitting.StudentBench(ctx, s.Pupil)
			require.NoError(t, err)
			require.NotEmpty(t, bench)
			check := func(closed bool) {
				t.Helper()
				now, err := s.Sitting.StudentBench(ctx, s.Pupil)
				require.NoError(t, err)
				_, stand := s.Sitting.Stand(ctx, s.Pupil, bench[0].Key)
				_, next := s.Sitting.NextCard(ctx, s.Pupil, 2)
				_, again := s.Sitting.PractisedCard(ctx, s.Pupil, practised.N)
				if !closed {
					assert.Len(t, now, len(bench))
					assert.NoError(t, stand)
					assert.NoError(t, next)
					assert.NoError(t, again)
					return
				}
				assert.Empty(t, now)
				for _, err := range []error{stand, next, again} {
					assert.ErrorIs(t, err, sitting.ErrInTest)
				}
			}
			check(false)
			_, err = s.Sitting.Sit(ctx, s.Pupil, test, time.Now())
			require.NoError(t, err)
			check(tt.closed)
			other, err := s.Sitting.StudentBench(ctx, s.Rival)
			require.NoError(t, err)
			assert.Len(t, other, len(bench), "others are not in the test")
			require.NoError(t, s.Sitting.HandIn(ctx, s.Pupil, test, time.Now()))
			check(false)
		})
	}
}
