package sitting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/school/schooltest"
	"cavix/store"
)

// A student's Bench holds what the class's sheets show and what the own instructor shares: nobody else's, and nothing
// of a test that is not told yet.
func TestWhatStandsOnAStudentsBench(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	names := func(student int64) (out []string) {
		list, err := s.Sitting.StudentBench(ctx, student)
		require.NoError(t, err)
		for _, st := range list {
			out = append(out, st.Instrument.Name())
		}
		return out
	}
	assert.Equal(t, []string{"Twentieth"}, names(s.Pupil))
	assert.NotContains(t, names(s.Stranger), "Twentieth", "another class has ready ones while there is no sheet")
	assert.NotEmpty(t, names(s.Stranger))

	in, err := schooltest.Twentieth(t).WithZeroError(length.Frac(-3, 20))
	require.NoError(t, err)
	racked := s.Must(s.Rack.KeepInstrument(ctx, s.Anna, 0, in))
	require.ErrorIs(t, s.Rack.Share(ctx, s.Otto, racked, true), store.ErrNotFound)
	require.NoError(t, s.Rack.Share(ctx, s.Anna, racked, true))
	assert.Len(t, names(s.Pupil), 2)
	assert.NotContains(t, names(s.Stranger), "Twentieth")
	list, err := s.Sitting.StudentBench(ctx, s.Pupil)
	require.NoError(t, err)
	_, err = s.Sitting.Stand(ctx, s.Stranger, list[0].Key)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.Rack.Share(ctx, s.Anna, racked, false))
	assert.Len(t, names(s.Pupil), 1)

	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Definition.Mode = 0, exercise.Test
	sh.Definition.Release = exercise.ReleaseHand
	sh.Definition.Blocks[0].Instruments = append(sh.Definition.Blocks[0].Instruments[:0:0], in)
	test := s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, s.Must(s.Rack.KeepSheet(ctx, s.Anna, sh)), 1, time.Now()))
	assert.Len(t, names(s.Pupil), 1, "a test keeps its instruments to itself")
	require.NoError(t, s.Marking.Release(ctx, s.Anna, test, time.Now()))
	assert.Len(t, names(s.Pupil), 2)
}
