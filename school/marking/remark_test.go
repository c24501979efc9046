package marking_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school/rack"
	"cavix/school/schooltest"
	"cavix/school/server"
	"cavix/store"
)

// Marking anew by another method shows beforehand what changes, keeps what stood, and is taken back in one
// step; an instructor's own mark stands over all of it.
func TestMarkingAnewAndBack(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	for n := 1; n <= 2; n++ {
		c := s.Card(s.Pupil, n)
		s.Submit(c, s.Careless(c))
	}
	assert.Equal(t, "3", s.Total())
	list, err := s.Marking.Remark(ctx, s.Anna, s.Assignment, schooltest.Lenient, false)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "1.5 → 2", list[0].Before.String()+" → "+list[0].After.String())
	assert.Equal(t, "3", s.Total(), "looking changes nothing")
	assert.ErrorIs(t, s.Marking.UndoRemark(ctx, s.Anna, s.Assignment, "Anna", time.Now()), store.ErrNotFound,
		"nothing to take back")

	require.NoError(t, s.Marking.ApplyRemark(ctx, s.Anna, s.Assignment, schooltest.Lenient, false, "Anna", time.Now()))
	assert.Equal(t, "4", s.Total())
	school := func(n int) string { return s.Card(s.Pupil, n).Item.(*kinds.Reading).Method.Decimals }
	assert.Equal(t, "lenient", school(1))
	assert.Equal(t, "lenient", school(3), "open cards are asked by it too")
	half := int64(1)
	require.NoError(t, s.Marking.SetOwnMark(ctx, s.Anna, s.Card(s.Pupil, 1).CardRow, &half, "copied", "Anna",
		time.Now()))
	assert.Equal(t, "2.5", s.Total())
	k := s.Card(s.Pupil, 1)
	assert.Equal(t, "0.5 copied", k.Marks.String()+" "+k.Reason)

	late := s.Card(s.Pupil, 3) // answered between the two, with help
	for range 2 {
		s.Hint(s.Pupil, late)
	}
	s.Submit(s.Card(s.Pupil, 3), s.Careless(late))
	assert.Equal(t, "3.5", s.Total(), "help took one mark off")

	require.NoError(t, s.Marking.UndoRemark(ctx, s.Anna, s.Assignment, "Anna", time.Now()))
	assert.Empty(t, school(1))
	require.NoError(t, s.Marking.SetOwnMark(ctx, s.Anna, k.CardRow, nil, "", "Anna", time.Now()))
	assert.Equal(t, "3.5", s.Total(), "as before, and the late card by the old method")
	changes, err := s.Access.Changes(ctx, s.Anna, s.Assignment)
	require.NoError(t, err)
	require.Len(t, changes, 4)
	assert.Contains(t, changes[3].What.String(), "changed=2 answered=2")
	assert.Contains(t, changes[2].What.String(), "halves=0.5 n=1 name=Wren A. reason=copied")
}

// A submission that waits while its sheet is marked anew is marked by the new method.
func TestASubmissionDuringARemarking(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	for n := 1; n <= 4; n++ { // the card as a page had it, before; the answer comes after
		c := s.Card(s.Pupil, n)
		method := []exercise.Method{schooltest.Lenient, {}}[n%2]
		require.NoError(t, s.Marking.ApplyRemark(ctx, s.Anna, s.Assignment, method, false, "Anna", time.Now()))
		s.Submit(c, s.Careless(c))
		assert.Equal(t, []string{"2", "1.5"}[n%2], s.Card(s.Pupil, n).Marks.String())
	}
	done := make(chan error)
	c := s.Card(s.Rival, 1)
	go func() {
		done <- s.Marking.ApplyRemark(ctx, s.Anna, s.Assignment, schooltest.Lenient, false, "Anna", time.Now())
	}()
	s.Submit(c, s.Careless(c))
	require.NoError(t, <-done)
	assert.Equal(t, "2", s.Card(s.Rival, 1).Marks.String(), "whichever was first")
}

// Re-marking by the other quantity leaves right what was right for the card as it was asked, and gives marks to who
// wrote the other one; marks are lowered only where that is told.
func TestRemarkingByTheOtherQuantity(t *testing.T) {
	s := schooltest.NewTest(t, exercise.Delivery{})
	ctx := t.Context()
	in, err := schooltest.Twentieth(t).WithZeroError(length.Frac(3, 20))
	require.NoError(t, err)
	sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Zero errors", Racked: [][]int64{nil},
		Definition: exercise.Sheet{Dealer: exercise.Dealing,
			Blocks: []exercise.Block{{Kind: "read", Cards: 1, Instruments: []*instrument.Instrument{in},
				Settings: map[string]string{"ask": "zero_error"}}}}}))
	s.Test = s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 6, s.Now))
	for student, answer := range map[int64]string{s.Pupil: "+0.15", s.Rival: "-0.15"} {
		s.Sit(student)
		s.Check(student, 1, exercise.Answer{"zero_error": answer})
	}
	by := exercise.Method{ZeroTerm: "correction"}
	list, err := s.Marking.Remark(ctx, s.Anna, s.Test, by, false)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.NoError(t, s.Marking.ApplyRemark(ctx, s.Anna, s.Test, by, false, "Anna", s.Now))
	assert.Equal(t, "100 % 100 %", s.Standing(s.Pupil)+" "+s.Standing(s.Rival))
	audit, err := s.Server.Audit(ctx, server.Auditing{})
	require.NoError(t, err)
	assert.Empty(t, audit.Faults, "each card is marked as it is asked")
	require.NoError(t, s.Marking.UndoRemark(ctx, s.Anna, s.Test, "Anna", s.Now))
	assert.Equal(t, "100 % 0 %", s.Standing(s.Pupil)+" "+s.Standing(s.Rival))
	require.NoError(t, s.Marking.ApplyRemark(ctx, s.Anna, s.Test, by, true, "Anna", s.Now))
	assert.Equal(t, "0 % 100 %", s.Standing(s.Pupil)+" "+s.Standing(s.Rival), "lowered too, as was told")
}
