package sitting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/schooltest"
	"cavix/school/sitting"
)

// A check is undone once, where the sheet allows it: the entries stand in the boxes again, nothing is counted, and the
// next check earns half of what it comes to, also once it is marked anew. The marks of the sheet follow, and the audit
// finds nothing.
func TestACheckIsUndoneOnce(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	card := s.Card(s.Pupil, 1)
	s.Submit(card, exercise.Answer{"main": "1", "observed": "1"})
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.Pupil, s.Card(s.Pupil, 1), s.Stands(s.Pupil)), sitting.ErrOver,
		"the sheet does not allow it")

	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Title, sh.Definition.Undo = 0, "With undo", true
	s.Assignment = s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, s.Must(s.Rack.KeepSheet(ctx, s.Anna, sh)), 9,
		time.Now()))
	card = s.Card(s.Pupil, 2)
	wrong := exercise.Answer{"main": "1", "observed": "1"}
	s.Submit(card, wrong)
	done := s.Card(s.Pupil, 2)
	require.NoError(t, s.Sitting.UndoCheck(ctx, s.Pupil, done, s.Stands(s.Pupil)))
	again := s.Card(s.Pupil, 2)
	assert.False(t, again.Done())
	assert.Equal(t, wrong, again.Draft)
	assert.Equal(t, "0", s.Total())
	s.Submit(again, s.Right(again))
	assert.Equal(t, "1", s.Total())
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.Pupil, s.Card(s.Pupil, 2), s.Stands(s.Pupil)), sitting.ErrOver,
		"only once")
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.Rival, done, s.Stands(s.Rival)), sitting.ErrOver, "it is not theirs")
	_, err = s.Marking.Remark(ctx, s.Anna, s.Assignment, exercise.Method{}, false)
	require.NoError(t, err)
	assert.Equal(t, "1", s.Total())

	bad := exercise.Sheet{Delivery: exercise.Delivery{Mode: exercise.Test, Undo: true}}
	assert.ErrorContains(t, bad.Check(nil), "undo")
}
