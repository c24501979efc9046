package ledgers_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/length"
	"cavix/school/schooltest"
)

func TestTheLedgerAddsUp(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	for n := 1; n <= 3; n++ {
		c := s.Card(s.Pupil, n)
		a := s.Right(c)
		x, err := length.Parse(a["main"])
		require.NoError(t, err)
		a["main"] = x.Add(length.Int(1)).String()
		s.Submit(c, a)
	}
	list, err := s.Sitting.GivenTo(ctx, s.Anna, s.Class)
	require.NoError(t, err)
	assert.Equal(t, 3, list[0].Answered)
	assert.Equal(t, "3 of 6", list[0].Marks.String()+" of "+list[0].Of.String())
	assert.Equal(t, "main-next-mark", list[0].Slip)
	assert.Equal(t, 2, list[0].Students)
	mine, err := s.Sitting.StudentSheets(ctx, s.Rival)
	require.NoError(t, err)
	assert.Zero(t, mine[0].Answered, "a student's tally is of own cards")
	marks, err := s.Ledgers.SheetMarks(ctx, s.Anna, s.Assignment)
	require.NoError(t, err)
	assert.Len(t, marks, 4)
	assert.True(t, marks[0].Done && !marks[3].Done)
}
