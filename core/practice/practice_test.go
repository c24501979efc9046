package practice_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/practice"
	"cavix/core/slips"
)

func pattern(t *testing.T, name string) *instrument.Instrument {
	t.Helper()
	for _, p := range instrument.Patterns() {
		if p.Name == name {
			in, err := instrument.New(p)
			require.NoError(t, err)
			return in
		}
	}
	t.Fatal("no pattern ", name)
	return nil
}

// habits are slips that a student can have on calipers or screws.
var habits = []exercise.Code{slips.MainNextMark, slips.MainMarkMissed, slips.MainAtCoincidence, slips.FineLeftOut,
	slips.NeighbourLine, slips.ZeroSignFlipped, slips.ZeroNotApplied, slips.FineBackwards, slips.LabelTakenAsLine,
	slips.LineNotMultiplied}

// pastOf is what a card tells that was marked.
func pastOf(t *testing.T, it exercise.Item, r exercise.Result) practice.Past {
	t.Helper()
	told, err := practice.Identifiable(it, 0)
	require.NoError(t, err)
	in, _ := practice.At(it)
	p := practice.Past{Family: in.Spec().Family, Identifiable: told, Right: r.Marks.Equal(r.Of)}
	if len(r.Slips) > 0 && !r.Slips[0].IsPair() {
		p.Did = r.Slips[0]
	}
	return p
}

// alike reports whether a slip is the habit, or one that gives the same value.
func alike(a, b exercise.Code) bool {
	if a == b {
		return true
	}
	known := map[exercise.Code]exercise.Slip{}
	for _, s := range kinds.Slips() {
		known[s.Code] = s
	}
	return known[a].Alike(known[b])
}

// train has a student with a habit practise some cards; often is how often the habit shows at a card.
func train(t *testing.T, seed uint64, cards int, habit exercise.Code, often func(card int) float64,
	after func(card int, m *practice.Memory) bool) {
	t.Helper()
	draws := rand.New(rand.NewPCG(seed, 9))
	in := []*instrument.Instrument{pattern(t, "Caliper 0.05 mm, 20 over 39"), pattern(t, "Micrometer 0.01 mm")}
	var m practice.Memory
	had := map[string]bool{}
	for n := 1; n <= cards; n++ {
		c, err := m.Next(in, seed, func(it exercise.Item) bool {
			i, y := practice.At(it)
			return had[i.Name()+y.String()]
		})
		require.NoError(t, err)
		require.NotNil(t, c.Item)
		require.NotEmpty(t, c.Why)
		i, y := practice.At(c.Item)
		require.False(t, had[i.Name()+y.String()], "never the same position twice")
		had[i.Name()+y.String()] = true
		a, _, err := exercise.Student{Slips: []exercise.Code{habit}, Often: often(n)}.Answer(c.Item, draws)
		require.NoError(t, err)
		r, err := c.Item.Mark(a)
		require.NoError(t, err)
		m.Take(pastOf(t, c.Item, r))
		if after(n, &m) {
			return
		}
	}
}

// Of 100 students with a fixed habit nearly all are found out within twelve cards: the habit is among the three slips
// that the memory calls weakest.
func TestHabitsAreFound(t *testing.T) {
	t.Parallel()
	students := 100
	if testing.Short() {
		students = 4
	}
	found := 0
	for i := range students {
		habit := habits[i%len(habits)]
		train(t, uint64(i), 12, habit, func(int) float64 { return 0.8 }, func(_ int, m *practice.Memory) bool {
			ok := slices.ContainsFunc(m.Weakest(3), func(w practice.Weakness) bool { return alike(w.Slip, habit) })
			if ok {
				found++
			}
			return ok
		})
	}
	t.Logf("%d of %d habits found within 12 cards", found, students)
	assert.GreaterOrEqual(t, 100*found/students, 90)
}

// A habit that is gone is seen to go: within fifteen cards its share has fallen by four tenths.
func TestAFadingHabitIsSeenToImprove(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("a term of practice; left out with -short")
	}
	const students = 24
	improved := 0
	for i := range students {
		habit := habits[i%len(habits)]
		var before float64
		share := func(m *practice.Memory) float64 {
			high := 0.0
			for _, w := range m.Weakest(1000) {
				if alike(w.Slip, habit) {
					high = max(high, w.Share)
				}
			}
			return high
		}
		train(t, uint64(1000+i), 35, habit, func(n int) float64 {
			if n <= 20 {
				return 1
			}
			return 0
		}, func(n int, m *practice.Memory) bool {
			if n == 20 {
				before = share(m)
			}
			if n > 20 && share(m) < 0.6*before {
				improved++
				return true
			}
			return false
		})
	}
	t.Logf("%d of %d seen to improve within 15 cards", improved, students)
	assert.GreaterOrEqual(t, 100*improved/students, 90)
}

// After two wrong in a row a card asks for less.
func TestTwoWrongMakeItEasier(t *testing.T) {
	in := []*instrument.Instrument{pattern(t, "Caliper 0.05 mm, 20 over 19")}
	m := practice.Memory{Level: practice.Zeros, Cards: 10}
	hard, err := m.Next(in, 1, nil)
	require.NoError(t, err)
	for range 2 {
		r, err := hard.Item.Mark(exercise.Answer{"main": "1"})
		require.NoError(t, err)
		m.Take(pastOf(t, hard.Item, r))
	}
	easier, err := m.Next(in, 1, nil)
	require.NoError(t, err)
	assert.Less(t, len(easier.Item.Fields()), len(hard.Item.Fields()))
	assert.Equal(t, "practice.less", easier.Why.Key())
	again, err := m.Next(in, 1, nil)
	require.NoError(t, err)
	assert.Equal(t, easier.Item, again.Item, "one seed, one card")
}
