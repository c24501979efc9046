package sitting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/schooltest"
	"cavix/school/sitting"
	"cavix/store"
)

// A card is handed in as it is written: what cannot be read, or is missing, is kept and not marked, unless the student
// says that it may stay empty; what was checked before stays as it was.
func TestSubmitCard(t *testing.T) {
	for name, tt := range map[string]struct {
		a       exercise.Answer
		keep    bool
		anyway  bool
		outcome sitting.Outcome
	}{
		"right":               {nil, false, false, sitting.Checked},
		"kept for later":      {nil, true, false, sitting.DraftSaved},
		"not a number":        {exercise.Answer{"main": "one", "observed": "1"}, false, false, sitting.Incomplete},
		"not a number anyway": {exercise.Answer{"main": "one", "observed": "1"}, false, true, sitting.Incomplete},
		"one is missing":      {exercise.Answer{"main": "1", "observed": " "}, false, false, sitting.Incomplete},
		"it may be":           {exercise.Answer{"main": "1", "observed": ""}, false, true, sitting.Checked},
		"nothing at all":      {exercise.Answer{}, false, false, sitting.Incomplete},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s := schooltest.New(t)
			c := s.Card(s.Pupil, 4)
			a := tt.a
			if a == nil {
				a = s.Right(c)
			}
			submit := func(a exercise.Answer) sitting.Outcome {
				at := sitting.CardRef{Student: s.Pupil, Assignment: s.Assignment, N: 4}
				outcome, next, err := s.Sitting.SubmitCard(t.Context(), at, sitting.Submission{DraftOnly: tt.keep,
					AllowEmpty: tt.anyway,
					Read:       func(exercise.Item) exercise.Answer { return a }}, time.Now())
				require.NoError(t, err)
				assert.Zero(t, next, "it is the last")
				return outcome
			}
			assert.Equal(t, tt.outcome, submit(a))
			now := s.Card(s.Pupil, 4)
			assert.Equal(t, tt.outcome == sitting.Checked, now.Done())
			if !now.Done() {
				for field, says := range a {
					assert.Equal(t, says, now.Draft[field], "what was typed stays")
				}
				return
			}
			was := now.Answer
			assert.Equal(t, sitting.AlreadyChecked, submit(exercise.Answer{"main": "7", "observed": "7"}))
			assert.Equal(t, was, s.Card(s.Pupil, 4).Answer)
		})
	}
}

// On a test a card is kept for the end, and one that was not touched is passed over; what has not begun, or is over, or
// is another's is refused.
func TestSubmitCardOfATest(t *testing.T) {
	t.Parallel()
	s := schooltest.NewTest(t, exercise.Delivery{Minutes: 30})
	submit := func(student int64, n int, a exercise.Answer) (sitting.Outcome, int, error) {
		return s.Sitting.SubmitCard(t.Context(), sitting.CardRef{Student: student, Assignment: s.Test, N: n},
			sitting.Submission{Read: func(exercise.Item) exercise.Answer { return a }}, s.Now)
	}
	_, _, err := submit(s.Pupil, 1, exercise.Answer{"main": "1"})
	require.ErrorIs(t, err, sitting.ErrNotOpen)
	s.Sit(s.Pupil)
	for _, tt := range []struct {
		n       int
		a       exercise.Answer
		outcome sitting.Outcome
		next    int
	}{
		{1, exercise.Answer{"main": "1", "observed": "1"}, sitting.SavedForEnd, 2},
		{2, exercise.Answer{"main": "", "observed": ""}, sitting.SavedForEnd, 3},
		{2, exercise.Answer{"main": "1", "observed": ""}, sitting.Incomplete, 3},
		{3, exercise.Answer{"main": "x", "observed": "1"}, sitting.Incomplete, 0},
		{3, exercise.Answer{"main": "2", "observed": "3"}, sitting.SavedForEnd, 0},
	} {
		outcome, next, err := submit(s.Pupil, tt.n, tt.a)
		require.NoError(t, err)
		assert.Equal(t, tt.outcome, outcome, tt.a)
		assert.Equal(t, tt.next, next)
		c := s.CardAt(s.Pupil, tt.n)
		assert.False(t, c.Done())
	}
	_, _, err = submit(s.Stranger, 1, exercise.Answer{"main": "1"})
	require.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = submit(s.Pupil, 4, exercise.Answer{"main": "1"})
	require.ErrorIs(t, err, store.ErrNotFound)
	s.Now = s.Now.Add(31 * time.Minute)
	_, _, err = submit(s.Pupil, 1, exercise.Answer{"main": "2", "observed": "2"})
	require.ErrorIs(t, err, sitting.ErrOver)
	assert.Equal(t, "1", s.CardAt(s.Pupil, 1).Answer["main"], "it was handed in as it stood")
}
