package sitting_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/schooltest"
	"cavix/school/sitting"
)

// A student practises on the class's instruments: a card stays open until it is checked, what it tells is remembered
// over a restart, and nothing of it counts for marks.
func TestPracticeRemembers(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	first, err := s.Sitting.NextCard(ctx, s.Pupil, 1)
	require.NoError(t, err)
	again, err := s.Sitting.NextCard(ctx, s.Pupil, 2)
	require.NoError(t, err)
	assert.Equal(t, first.CardRow.Item, again.CardRow.Item, "the card that is open")
	require.NoError(t, s.Sitting.KeepPractice(ctx, s.Pupil, first, exercise.Answer{"main": "7"}))
	require.ErrorIs(
		t,
		s.Sitting.KeepPractice(ctx, s.Rival, first, exercise.Answer{"main": "9"}),
		sitting.ErrOver,
		"another's",
	)

	had := map[string]bool{}
	for n := 1; n <= 8; n++ {
		c, err := s.Sitting.NextCard(ctx, s.Pupil, uint64(n))
		require.NoError(t, err)
		assert.Equal(t, n, c.N)
		assert.False(t, had[c.CardRow.Item], "another card")
		had[c.CardRow.Item] = true
		a := s.Right(c)
		x, err := length.Parse(a["main"]) // a mark too many, every time
		require.NoError(t, err)
		a["main"] = x.Add(length.Int(1)).String()
		require.NoError(t, s.Sitting.CheckPractice(ctx, s.Pupil, c, a, time.Now()))
		require.NoError(t, s.Sitting.CheckPractice(ctx, s.Pupil, c, s.Right(c), time.Now()), "twice is once")
	}
	require.NoError(t, s.DB.Close())
	s.Open()
	p, err := s.Sitting.Practice(ctx, s.Pupil)
	require.NoError(t, err)
	assert.Equal(t, 8, p.Cards)
	require.NotEmpty(t, p.Memory.Weakest(1))
	assert.Equal(t, slips.MainNextMark, p.Memory.Weakest(1)[0].Slip)
	assert.Zero(t, p.Memory.Level, "two wrong in a row ask for less")
	assert.Equal(t, "0", s.Total(), "nothing counts")
	done, err := s.Sitting.PractisedCard(ctx, s.Pupil, 3)
	require.NoError(t, err)
	assert.True(t, done.Done() && done.Result != nil)
	other, err := s.Sitting.Practice(ctx, s.Rival)
	require.NoError(t, err)
	assert.Zero(t, other.Cards)

	// A card whose working was shown says nothing of the student.
	c, err := s.Sitting.NextCard(ctx, s.Pupil, 99)
	require.NoError(t, err)
	for range 3 {
		require.NoError(t, s.Sitting.HelpPractice(ctx, s.Pupil, c))
	}
	c, err = s.Sitting.NextCard(ctx, s.Pupil, 99)
	require.NoError(t, err)
	before := p.Memory.Weakest(1)[0].Did
	require.NoError(t, s.Sitting.CheckPractice(ctx, s.Pupil, c, s.Right(c), time.Now()))
	p, err = s.Sitting.Practice(ctx, s.Pupil)
	require.NoError(t, err)
	assert.Equal(t, 9, p.Cards)
	assert.InDelta(t, before, p.Memory.Weakest(1)[0].Did, 0.3)

	require.NoError(t, s.Sitting.ChoosePractice(ctx, s.Pupil, []string{"vernier-caliper", "nonsense",
		"vernier-caliper"}, []string{"read", "nonsense"}))
	p, err = s.Sitting.Practice(ctx, s.Pupil)
	require.NoError(t, err)
	assert.Len(t, p.Chosen, 1)
	assert.Equal(t, []string{"read"}, p.OfKinds)

	// What a student has answered is told of sheets, and of practice too where the class shows each student's.
	card := s.Card(s.Pupil, 2)
	s.Submit(card, s.Right(card))
	for _, tt := range []struct {
		sight roster.PracticeView
		cards int
	}{{roster.SeesNothing, 1}, {roster.SeesSum, 1}, {roster.SeesEach, 10}} {
		require.NoError(t, s.Settle(func(c *roster.Settings) { c.Practice = tt.sight }))
		seats, err := s.Roster.Seats(ctx, s.Anna, s.Class)
		require.NoError(t, err)
		answered := map[int64]int{}
		for _, seat := range seats {
			answered[seat.Student] = seat.Cards
			assert.Equal(t, seat.Student != s.Pupil, seat.Last.IsZero())
		}
		assert.Equal(t, tt.cards, answered[s.Pupil])
		assert.Zero(t, answered[s.Rival])
	}
}

// What is known of a student comes from the cards of sheets too, and changes with their marks when a sheet is marked
// anew.
func TestSheetsTellOfAStudent(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	c := s.Card(s.Pupil, 1)
	a := s.Right(c)
	x, err := length.Parse(a["observed"])
	require.NoError(t, err)
	a["observed"] = x.String() + "0000" // too many decimals: a matter of form
	s.Submit(c, a)
	next := s.Card(s.Pupil, 2)
	a = s.Right(next)
	x, err = length.Parse(a["main"])
	require.NoError(t, err)
	a["main"] = x.Add(length.Int(1)).String()
	s.Submit(next, a)
	p, err := s.Sitting.Practice(ctx, s.Pupil)
	require.NoError(t, err)
	require.Len(t, p.Past, 2)
	assert.False(t, p.Past[0].Right || p.Past[1].Right)
	assert.Equal(t, slips.MainNextMark, p.Past[1].Did)
	assert.Empty(t, p.Memory.Weakest(1), "once is no pattern")
	assert.Zero(t, p.Cards, "nothing is practised yet")

	require.NoError(t, s.Marking.ApplyRemark(ctx, s.Anna, s.Assignment, exercise.Method{Decimals: "lenient"}, false,
		"Anna", time.Now()))
	p, err = s.Sitting.Practice(ctx, s.Pupil)
	require.NoError(t, err)
	assert.True(t, p.Past[0].Right, "by the new marks")
	assert.NotEmpty(t, p.Past[0].Identifiable)
	other, err := s.Sitting.Practice(ctx, s.Rival)
	require.NoError(t, err)
	assert.Empty(t, other.Past)
}

// Practice asks of every kind that the class was given, and readings on about every second card.
func TestPracticeAsksTheKindsOfTheClass(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	ready := slices.IndexFunc(kinds.ReadySheets, func(r kinds.Ready) bool { return r.Name == "runout" })
	require.GreaterOrEqual(t, ready, 0)
	runout, took, err := kinds.ReadySheets[ready].Compose(nil)
	require.NoError(t, err)
	sheet := s.Must(s.Rack.KeepSheet(ctx, s.Anna, rack.Sheet{Title: "Runout", Definition: runout,
		Racked: make([][]int64, len(took))}))
	s.Must(s.Sitting.Give(ctx, s.Anna, s.Class, sheet, 5, time.Now()))
	asked := map[string]int{}
	for n := 1; n <= 24; n++ {
		c, err := s.Sitting.NextCard(ctx, s.Pupil, uint64(n))
		require.NoError(t, err)
		asked[c.Item.Kind()]++
		require.NoError(t, s.Sitting.CheckPractice(ctx, s.Pupil, c, s.Right(c), time.Now()))
	}
	assert.Len(t, asked, 2)
	assert.Greater(t, asked["read"], 6)
	assert.Greater(t, asked["difference"], 4)
}
