package server_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/schooltest"
	"cavix/school/server"
)

// What stands ready of a class's marks follows whatever happens to its cards, and the check finds it where it does not.
func TestWhatStandsReadyFollowsTheCards(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	faults := func() []string {
		t.Helper()
		a, err := s.Server.Audit(ctx, server.Auditing{})
		require.NoError(t, err)
		return a.Faults
	}
	for n := 1; n <= 2; n++ {
		for _, who := range []int64{s.Pupil, s.Rival} {
			c := s.Card(who, n)
			a := exercise.Answer{"main": "7", "observed": "8.1"}
			if n == 1 {
				a = s.Right(c)
			}
			s.Submit(c, a)
		}
	}
	require.Empty(t, faults())
	// as an instructor's own mark, an undone check, results held back and let go, a record deleted
	for _, change := range []string{
		"UPDATE cards SET own_half_marks = 1 WHERE n = 1 AND answered IS NOT NULL",
		"UPDATE cards SET hidden = 1, late = 1 WHERE answered IS NOT NULL",
		"UPDATE cards SET hidden = 0",
		"UPDATE cards SET seen = answered - 5 WHERE answered IS NOT NULL",
	} {
		s.Change(change)
		for _, f := range faults() {
			assert.NotContains(t, f, "tally", change)
			assert.NotContains(t, f, "the marks are not those", change)
			assert.NotContains(t, f, "the sums are not those", change)
		}
	}
	s.Change("UPDATE cards SET own_half_marks = NULL")
	s.Change(fmt.Sprintf("DELETE FROM cards WHERE student = %d", s.Rival))
	s.Change(fmt.Sprintf("DELETE FROM sittings WHERE student = %d", s.Rival))
	require.Empty(t, faults())
	marks, err := s.Ledgers.SheetMarks(ctx, s.Anna, s.Assignment)
	require.NoError(t, err)
	for _, m := range marks {
		assert.NotEqual(t, s.Rival, m.Student)
		if m.Done {
			c := s.Card(s.Pupil, m.N)
			assert.Equal(t, c.Result.Marks.MulInt(2).String(), fmt.Sprint(m.Half))
		}
	}
	seen, err := s.Ledgers.Watched(ctx, s.Anna, s.Assignment)
	require.NoError(t, err)
	assert.WithinDuration(t, time.Now(), seen[0].Answered, time.Minute)
	assert.Equal(t, 5*time.Second, seen[0].Answered.Sub(seen[0].Seen))

	for _, broken := range []string{
		"UPDATE marks SET cards = jsonb_remove(cards, '$.\"1\"')",
		"UPDATE marks SET cards = x'07'",
		"UPDATE tallies SET cards = cards + 1",
		"DELETE FROM makers",
		"DELETE FROM tallies",
	} {
		s.Change(broken)
		assert.NotEmpty(t, faults(), broken)
	}
}

// Somebody may be at work while a school is looked through: sums are compared with the cards of the same moment.
func TestTheCheckBesideThoseAtWork(t *testing.T) {
	s := schooltest.New(t)
	for _, who := range []int64{s.Pupil, s.Rival} {
		c := s.Card(who, 1)
		s.Submit(c, s.Right(c))
	}
	stop, stopped := make(chan bool), make(chan bool)
	go func() {
		defer close(stopped)
		for {
			select {
			case <-stop:
				return
			default:
				s.Change("UPDATE cards SET late = 1 - late WHERE answered IS NOT NULL")
			}
		}
	}()
	for range 120 {
		a, err := s.Server.Audit(t.Context(), server.Auditing{})
		require.NoError(t, err)
		assert.Empty(t, a.Faults)
	}
	close(stop)
	<-stopped
}
