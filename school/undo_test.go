package school_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/sitting"
)

// A check is undone once, where the sheet allows it: the entries stand in the boxes again, nothing is counted, and the
// next check earns half of what it comes to, also once it is marked anew. The marks of the sheet follow, and the audit
// finds nothing.
func TestACheckIsUndoneOnce(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	card := s.card(s.pupil, 1)
	s.submit(card, exercise.Answer{"main": "1", "observed": "1"})
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.pupil, s.card(s.pupil, 1), s.stands(s.pupil)), sitting.ErrOver,
		"the sheet does not allow it")

	sheets, err := s.Rack.Sheets(ctx, s.anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Title, sh.Definition.Undo = 0, "With undo", true
	s.assignment = s.must(s.Sitting.Give(ctx, s.anna, s.class, s.must(s.Rack.KeepSheet(ctx, s.anna, sh)), 9,
		time.Now()))
	card = s.card(s.pupil, 2)
	wrong := exercise.Answer{"main": "1", "observed": "1"}
	s.submit(card, wrong)
	done := s.card(s.pupil, 2)
	require.NoError(t, s.Sitting.UndoCheck(ctx, s.pupil, done, s.stands(s.pupil)))
	again := s.card(s.pupil, 2)
	assert.False(t, again.Done())
	assert.Equal(t, wrong, again.Draft)
	assert.Equal(t, "0", s.total())
	s.submit(again, s.right(again))
	assert.Equal(t, "1", s.total())
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.pupil, s.card(s.pupil, 2), s.stands(s.pupil)), sitting.ErrOver,
		"only once")
	require.ErrorIs(t, s.Sitting.UndoCheck(ctx, s.rival, done, s.stands(s.rival)), sitting.ErrOver, "it is not theirs")
	_, err = s.Marking.Remark(ctx, s.anna, s.assignment, exercise.Method{}, false)
	require.NoError(t, err)
	assert.Equal(t, "1", s.total())

	bad := exercise.Sheet{Delivery: exercise.Delivery{Mode: exercise.Test, Undo: true}}
	assert.ErrorContains(t, bad.Check(nil), "undo")
}
