package roster_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/schooltest"
)

// What cannot be is refused with every field named, and then nothing is changed.
func TestSettingsAreSavedAllOrNone(t *testing.T) {
	s := schooltest.New(t)
	err := s.Settle(func(c *roster.Settings) {
		*c = roster.Settings{Name: "Thursdays", Convention: exercise.Method{Tie: "unfavourable"},
			Words: words.Set{Base: "kitchen"}, Practice: 7, Joining: "ajar", Zone: "Atlantis/Nowhere"}
	})
	var fields []string
	for field := range refusal.By(err) {
		fields = append(fields, field)
	}
	assert.ElementsMatch(t, []string{"method.tie", "base", "practice", "joining", "zone"}, fields)

	want := roster.Settings{Name: "Thursdays", Convention: exercise.Method{ZeroTerm: "correction"},
		Words: words.Set{Base: words.Laboratory}, Practice: roster.SeesSum, Joining: roster.JoinShut, Guests: true,
		Zone: "Asia/Kolkata"}
	read := func() roster.Settings {
		c, err := s.Roster.Class(t.Context(), s.Anna, s.Class)
		require.NoError(t, err)
		got, err := roster.SettingsOf(c)
		require.NoError(t, err)
		return got
	}
	assert.Equal(t, "Mondays", read().Name)
	require.NoError(t, s.Settle(func(c *roster.Settings) { *c = want }))
	assert.Equal(t, want, read())
	log, err := s.Access.PeopleLog(t.Context(), s.Anna, s.Class, 5)
	require.NoError(t, err)
	require.Len(t, log, 1)
	assert.Equal(t, "log.nobody-new-joins-class", log[0].What.Key())
}

// A new class takes everything from an old one but its students: sheets open in the same rhythm, by the old class's
// clock also over a change of the clocks, and in the state in which they now are, unless they are gone.
func TestAClassLikeAnOldOne(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	berlin, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	require.NoError(t, s.Settle(func(c *roster.Settings) { c.Zone, c.Guests = "Europe/Berlin", true }))
	s.Must(s.Roster.AddInstructor(ctx, roster.Instructor{Login: "una", Name: "Una"}))
	anna := access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}
	require.NoError(t, s.Roster.SetRole(ctx, anna, s.Class, "una", access.Marker))

	at := func(month time.Month, day, hour int) time.Time {
		return time.Date(2026, month, day, hour, 0, 0, 0, berlin)
	}
	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	second := sheets[0]
	second.ID, second.Title = 0, "Pins again"
	gone := s.Must(s.Rack.KeepSheet(ctx, s.Anna, second))
	later := s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, gone, 6, time.Now()))
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, s.Assignment, at(time.October, 19, 9), time.Time{}))
	// after the clocks changed
	require.NoError(t, s.Sitting.SetDates(ctx, s.Anna, later, at(time.October, 26, 10), at(time.October, 26, 11)))
	require.NoError(t, s.Ledgers.SetWeights(ctx, anna, s.Class, map[int64]int{later: 3}))
	require.NoError(t, s.Rack.DropSheet(ctx, anna, gone))
	first := sheets[0]
	first.Title = "Pins, corrected"
	s.Must(s.Rack.KeepSheet(ctx, s.Anna, first))

	id, err := s.Sitting.AddClassLike(ctx, anna, "Mondays, next year", s.Class, time.Date(2027, time.March, 22, 0, 0, 0,
		0, berlin))
	require.NoError(t, err)
	read := s
	c, err := read.Roster.Class(ctx, s.Anna, id)
	require.NoError(t, err)
	assert.Equal(t, "Mondays, next year", c.Name)
	assert.Equal(t, []any{"Europe/Berlin", true, 0}, []any{c.Zone, c.Guests, c.Students})
	staff, err := read.Roster.Staff(ctx, s.Anna, id)
	require.NoError(t, err)
	require.Len(t, staff, 2)
	assert.Equal(t, roster.Colleague{ID: staff[1].ID, Login: "una", Name: "Una", Role: access.Marker}, staff[1])
	given, err := read.Sitting.Term(ctx, s.Anna, id)
	require.NoError(t, err)
	require.Len(t, given, 2)
	assert.Equal(t, []string{"Pins, corrected", "Pins again"}, []string{given[0].Title, given[1].Title})
	assert.Equal(t, []int{1, 3}, []int{given[0].Weight, given[1].Weight})
	assert.True(t, given[0].Opens.Equal(time.Date(2027, time.March, 22, 9, 0, 0, 0, berlin)), given[0].Opens)
	assert.True(t, given[0].Closes.IsZero())
	// summer time
	assert.True(t, given[1].Opens.Equal(time.Date(2027, time.March, 29, 10, 0, 0, 0, berlin)), given[1].Opens)
	assert.True(t, given[1].Closes.Equal(time.Date(2027, time.March, 29, 11, 0, 0, 0, berlin)), given[1].Closes)
	old, err := read.Sitting.Term(ctx, s.Anna, s.Class)
	require.NoError(t, err)
	for _, a := range old {
		assert.NotContains(t, []int64{given[0].Seed, given[1].Seed}, a.Seed, "the values are other ones")
	}
}

// Words are the instructor's to choose, and only those that can be spoken.
func TestWordsOfAClass(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	set := words.Set{Base: words.Laboratory, Own: map[text.Term]string{"drum": "barrel"}}
	with := func(set words.Set) func(*roster.Settings) { return func(c *roster.Settings) { c.Words = set } }
	require.ErrorContains(t, s.Settle(with(words.Set{Base: "kitchen"})), "base")
	require.NoError(t, s.Settle(with(set)))
	who, err := s.Roster.Student(ctx, s.Pupil)
	require.NoError(t, err)
	assert.JSONEq(t, `{"base": "laboratory", "own": {"drum": "barrel"}}`, who.Words)
}
