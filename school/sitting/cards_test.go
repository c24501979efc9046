package sitting_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/school/roster"
	"cavix/school/schooltest"
	"cavix/school/sitting"
)

func TestACardSurvivesAndCountsOnce(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	k := s.Card(s.Pupil, 2)
	require.NoError(t, s.Draft(s.Pupil, k, exercise.Answer{"main": "47"}))
	require.NoError(t, s.DB.Close())
	s.Open() // the server was started anew
	again := s.Card(s.Pupil, 2)
	assert.Equal(t, exercise.Answer{"main": "47"}, again.Draft)
	assert.Equal(t, k.CardRow.Item, again.CardRow.Item, "dealt once")
	assert.False(t, again.Done())

	first, second := exercise.Answer{"main": "1", "observed": "2.00"}, exercise.Answer{"main": "3", "observed": "4.00"}
	_, err := s.Sitting.Submit(ctx, s.Pupil, k, s.Stands(s.Pupil), exercise.Answer{"main": "one"}, time.Now())
	require.ErrorContains(t, err, "main: contains no number")
	s.Submit(k, first)
	counted, err := s.Sitting.Submit(ctx, s.Pupil, k, s.Stands(s.Pupil), second, time.Now())
	require.NoError(t, err)
	assert.False(t, counted, "sent twice counts once")
	require.ErrorIs(t, s.Draft(s.Pupil, k, second), sitting.ErrOver, "too late, and no harm")
	done := s.Card(s.Pupil, 2)
	assert.True(t, done.Done())
	assert.Equal(t, first, done.Answer)
	assert.Empty(t, done.Draft)
	assert.Equal(t, "2", done.Of.String())

	// What is read back is what marking said.
	want, err := k.Item.Mark(first)
	require.NoError(t, err)
	for i, m := range want.Fields {
		got := done.Result.Fields[i]
		assert.Equal(t, []any{m.Field, m.Given, m.Expected, m.Follows, m.Outcome, m.Slips, m.Faults},
			[]any{got.Field, got.Given, got.Expected, got.Follows, got.Outcome, got.Slips, got.Faults})
	}
	assert.Equal(t, want.Slips, done.Result.Slips)
}

func TestHintsHistoryAndWords(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	k := s.Card(s.Pupil, 1)
	for range 5 {
		s.Hint(s.Pupil, k)
	}
	require.ErrorIs(t, s.Sitting.TakeHint(ctx, s.Rival, k, s.Stands(s.Pupil)), sitting.ErrOver,
		"of another's card nothing is taken")
	assert.Equal(t, 3, s.Card(s.Pupil, 1).Hints, "there are no more hints")
	a := s.Right(k)
	x, err := length.Parse(a["main"])
	require.NoError(t, err)
	a["main"] = x.Add(length.Int(1)).String()
	s.Submit(k, a)
	assert.Zero(t, s.Card(s.Pupil, 1).Marks.Sign(), "never below nothing")

	other := s.Card(s.Pupil, 2)
	v, err := s.Sitting.Wording(ctx, s.Pupil, other.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, v.History.Student[slips.MainNextMark])
	v, err = s.Sitting.Wording(ctx, s.Rival, other.ID)
	require.NoError(t, err)
	assert.Zero(t, v.History.Student[slips.MainNextMark])
	assert.Equal(t, 1, v.History.Class[slips.MainNextMark])

	require.NoError(t, s.Rack.SetWording(ctx, s.Anna, slips.MainNextMark,
		exercise.SlipWording{Advice: "Look left.", Off: true}))
	s.Submit(other, exercise.Answer{"main": a["main"], "observed": ""})
	assert.Empty(t, s.Card(s.Pupil, 2).Slip, "a slip that is switched off is not counted")
	require.NoError(t, s.Rack.SetWording(ctx, s.Anna, slips.MainNextMark,
		exercise.SlipWording{Advice: "Look left of the 0."}))
	v, err = s.Sitting.Wording(ctx, s.Pupil, 0)
	require.NoError(t, err)
	assert.Equal(t, exercise.SlipWording{Advice: "Look left of the 0."}, v.Wordings[slips.MainNextMark])
	v, err = s.Sitting.Wording(ctx, s.Stranger, 0)
	require.NoError(t, err)
	assert.Empty(t, v.Wordings, "another instructor's students read the handbook's")

	require.NoError(t, s.Settle(func(c *roster.Settings) { c.Convention = exercise.Method{ZeroTerm: "correction"} }))
	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Definition.Method.Decimals = 0, "lenient"
	gift := s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, s.Must(s.Rack.KeepSheet(ctx, s.Anna, sh)), 1, time.Now()))
	given, err := s.Sitting.GivenSheet(ctx, s.Anna, gift)
	require.NoError(t, err)
	assert.Equal(t, exercise.Method{ZeroTerm: "correction", Decimals: "lenient"}, given.Sheet.Method,
		"the sheet's over the class's")
}
