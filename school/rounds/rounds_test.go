package rounds_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/access"
	"cavix/school/rounds"
	"cavix/school/schooltest"
)

// A class's round keeps its stage however many press at once: what pages are told is what stands in the file.
func TestStagesOfARoundInAnyOrder(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	it := s.Card(s.Pupil, 1).Item
	for range 10 {
		done := make(chan error, 9)
		for range 3 {
			go func() { _, err := s.Rounds.Open(ctx, s.Anna, s.Class, it, true, time.Now()); done <- err }()
			go func() { done <- s.Rounds.Close(ctx, s.Anna, s.Class, time.Now()) }()
			go func() { done <- s.Rounds.Reveal(ctx, s.Anna, s.Class, time.Now()) }()
		}
		for range 9 {
			require.NoError(t, <-done)
		}
		told, err := s.Rounds.ClassStamp(ctx, s.Class)
		require.NoError(t, err)
		kept, err := s.Rounds.LatestRound(ctx, s.Anna, s.Class)
		require.NoError(t, err)
		require.Equal(t, kept.Stamp(), told)
	}
	k, err := s.Rounds.LatestRound(ctx, s.Anna, s.Class)
	require.NoError(t, err)
	require.NoError(t, s.Rounds.Reveal(ctx, s.Anna, s.Class, time.Now()))
	assert.ErrorIs(t, s.Rounds.Reply(ctx, s.Pupil, s.Class, k.ID, exercise.Answer{}, time.Now()), rounds.ErrClosed)
	id := s.Must(s.Rounds.Open(ctx, s.Anna, s.Class, it, true, time.Now()))
	require.NoError(t, s.Roster.SetLeft(ctx, access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}, s.Class, s.Pupil,
		false))
	assert.ErrorIs(t, s.Rounds.Reply(ctx, s.Pupil, s.Class, id, exercise.Answer{}, time.Now()), rounds.ErrClosed,
		"who has left answers nothing")
}
