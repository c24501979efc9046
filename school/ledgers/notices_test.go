package ledgers_test

import (
	"fmt"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/notice"
	"cavix/core/slips"
	"cavix/school/schooltest"
	"cavix/store/storetest"
)

// What costs a student marks for form is told to who teaches them, and no longer once they are in somebody else's
// class.
func TestNoticesAreOfOnesOwnStudents(t *testing.T) {
	s := schooltest.New(t)
	ctx, since := t.Context(), time.Now().Add(-time.Hour)
	for n := 1; n <= 4; n++ {
		c := s.Card(s.Pupil, n)
		a := s.Right(c)
		a["observed"] += "00" // right, with two decimals too many
		s.Submit(c, a)
	}
	lost, err := s.Ledgers.FormLost(ctx, s.Anna, since)
	require.NoError(t, err)
	require.Len(t, lost, 1)
	assert.Equal(t, s.Pupil, lost[0].Student)
	assert.Equal(t, 4, lost[0].Times)
	storetest.Exec(t, s.DB, "UPDATE students SET name = 'Wren B.', folded = 'wren b.', class = ? WHERE id = ?", s.Other,
		s.Pupil)
	lost, err = s.Ledgers.FormLost(ctx, s.Anna, since)
	require.NoError(t, err)
	assert.Empty(t, lost)
	_, err = s.Ledgers.Notices(ctx, s.Anna, since, 5)
	require.NoError(t, err)
}

// A slip made on half of the cards of the first sheet that could show it is told at once.
func TestAHabitIsToldAfterOneSheet(t *testing.T) {
	s := schooltest.New(t)
	ctx, since := t.Context(), time.Now().Add(-time.Hour)
	for n := 1; n <= 4; n++ {
		c := s.Card(s.Pupil, n)
		a := s.Right(c)
		if n > 1 {
			main, err := strconv.Atoi(a["main"])
			require.NoError(t, err)
			a["main"] = strconv.Itoa(main + 1)
		}
		s.Submit(c, a)
	}
	list, err := s.Ledgers.Notices(ctx, s.Anna, since, 5)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	assert.Equal(t, notice.Habit, list[0].Kind)
	assert.Equal(t, slips.MainNextMark, list[0].Slip)
	assert.Equal(t, "3 of 4", fmt.Sprintf("%d of %d", list[0].Times, list[0].Of))
}
