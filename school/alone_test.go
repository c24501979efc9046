package school_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school/roster"
	"cavix/store"
)

// What is known of a student comes from the cards of sheets too, and changes with their marks when a sheet is marked
// anew.
func TestSheetsTellOfAStudent(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	c := s.card(s.pupil, 1)
	a := s.right(c)
	x, err := length.Parse(a["observed"])
	require.NoError(t, err)
	a["observed"] = x.String() + "0000" // too many decimals: a matter of form
	s.submit(c, a)
	next := s.card(s.pupil, 2)
	a = s.right(next)
	x, err = length.Parse(a["main"])
	require.NoError(t, err)
	a["main"] = x.Add(length.Int(1)).String()
	s.submit(next, a)
	p, err := s.Sitting.Practice(ctx, s.pupil)
	require.NoError(t, err)
	require.Len(t, p.Past, 2)
	assert.False(t, p.Past[0].Right || p.Past[1].Right)
	require.NotEmpty(t, p.Memory.Weakest(1))
	assert.Equal(t, slips.MainNextMark, p.Memory.Weakest(1)[0].Slip)
	assert.Zero(t, p.Cards, "nothing is practised yet")

	require.NoError(t, s.Marking.ApplyRemark(ctx, s.anna, s.assignment, exercise.Method{Decimals: "lenient"}, false,
		"Anna", time.Now()))
	p, err = s.Sitting.Practice(ctx, s.pupil)
	require.NoError(t, err)
	assert.True(t, p.Past[0].Right, "by the new marks")
	assert.NotEmpty(t, p.Past[0].Identifiable)
	other, err := s.Sitting.Practice(ctx, s.rival)
	require.NoError(t, err)
	assert.Empty(t, other.Past)
}

// A student's Bench holds what the class's sheets show and what the own instructor shares: nobody else's, and nothing
// of a test that is not told yet.
func TestWhatStandsOnAStudentsBench(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	names := func(student int64) (out []string) {
		list, err := s.Sitting.StudentBench(ctx, student)
		require.NoError(t, err)
		for _, st := range list {
			out = append(out, st.Instrument.Name())
		}
		return out
	}
	assert.Equal(t, []string{"Twentieth"}, names(s.pupil))
	assert.NotContains(t, names(s.stranger), "Twentieth", "another class has ready ones while there is no sheet")
	assert.NotEmpty(t, names(s.stranger))

	in, err := twentieth(t).WithZeroError(length.Frac(-3, 20))
	require.NoError(t, err)
	racked := s.must(s.Rack.KeepInstrument(ctx, s.anna, 0, in))
	require.ErrorIs(t, s.Rack.Share(ctx, s.otto, racked, true), store.ErrNotFound)
	require.NoError(t, s.Rack.Share(ctx, s.anna, racked, true))
	assert.Len(t, names(s.pupil), 2)
	assert.NotContains(t, names(s.stranger), "Twentieth")
	list, err := s.Sitting.StudentBench(ctx, s.pupil)
	require.NoError(t, err)
	_, err = s.Sitting.Stand(ctx, s.stranger, list[0].Key)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.Rack.Share(ctx, s.anna, racked, false))
	assert.Len(t, names(s.pupil), 1)

	sheets, err := s.Rack.Sheets(ctx, s.anna)
	require.NoError(t, err)
	sh := sheets[0]
	sh.ID, sh.Definition.Mode = 0, exercise.Test
	sh.Definition.Release = exercise.ReleaseHand
	sh.Definition.Blocks[0].Instruments = append(sh.Definition.Blocks[0].Instruments[:0:0], in)
	test := s.must(s.Sitting.Give(ctx, s.anna, s.class, s.must(s.Rack.KeepSheet(ctx, s.anna, sh)), 1, time.Now()))
	assert.Len(t, names(s.pupil), 1, "a test keeps its instruments to itself")
	require.NoError(t, s.Marking.Release(ctx, s.anna, test, time.Now()))
	assert.Len(t, names(s.pupil), 2)
}

// Words are the instructor's to choose, and only those that can be spoken.
func TestWordsOfAClass(t *testing.T) {
	s := newSchool(t)
	ctx := t.Context()
	set := words.Set{Base: words.Laboratory, Own: map[text.Term]string{"drum": "barrel"}}
	with := func(set words.Set) func(*roster.Settings) { return func(c *roster.Settings) { c.Words = set } }
	require.ErrorContains(t, s.settle(with(words.Set{Base: "kitchen"})), "base")
	require.NoError(t, s.settle(with(set)))
	who, err := s.Roster.Student(ctx, s.pupil)
	require.NoError(t, err)
	assert.JSONEq(t, `{"base": "laboratory", "own": {"drum": "barrel"}}`, who.Words)
}
