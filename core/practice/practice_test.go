package practice_test

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/practice"
	"cavix/core/slips"
)

func pattern(t testing.TB, name string) *instrument.Instrument {
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
	p := practice.Past{Family: practice.FamilyOf(it), Identifiable: told, Right: r.Marks.Equal(r.Of)}
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

// student is somebody who practises.
type student struct {
	seed    uint64
	habit   exercise.Code
	often   func(card int) float64 // how often the habit shows
	guesses float64                // share of the cards on which boxes are filled in at random
	wholly  bool                   // all boxes of such a card, else one
	blocks  []exercise.Block
}

// readings are blocks of readings on a caliper and a micrometer.
func readings(t *testing.T) []exercise.Block {
	t.Helper()
	return []exercise.Block{practice.Read(pattern(t, "Caliper 0.05 mm, 20 over 39")),
		practice.Read(pattern(t, "Micrometer 0.01 mm"))}
}

// train has a student practise some cards, until after says that it is enough.
func (s student) train(t *testing.T, cards int, after func(card int, m *practice.Memory) bool) {
	t.Helper()
	draws := rand.New(rand.NewPCG(s.seed, 9))
	var m practice.Memory
	had := map[string]bool{}
	position := func(it exercise.Item) string {
		at, err := practice.Position(it)
		require.NoError(t, err)
		return at
	}
	for n := 1; n <= cards; n++ {
		c, err := m.Next(s.blocks, s.seed, time.Time{}, func(it exercise.Item) bool { return had[position(it)] })
		require.NoError(t, err)
		require.NotNil(t, c.Item)
		require.NotEmpty(t, c.Why)
		if c.Item.Kind() == "read" {
			require.False(t, had[position(c.Item)], "never the same position twice")
		}
		had[position(c.Item)] = true
		made := exercise.Student{Often: 0}
		if s.habit != "" {
			made = exercise.Student{Slips: []exercise.Code{s.habit}, Often: s.often(n)}
		}
		a, _, err := made.Answer(c.Item, draws)
		require.NoError(t, err)
		s.guess(t, c.Item, a, draws)
		r, err := c.Item.Mark(a)
		require.NoError(t, err)
		m.Take(pastOf(t, c.Item, r))
		if after(n, &m) {
			return
		}
	}
}

// guess fills some boxes in with what would be right on another card of the kind and the instrument.
func (s student) guess(t *testing.T, it exercise.Item, a exercise.Answer, draws *rand.Rand) {
	t.Helper()
	if s.guesses == 0 {
		return
	}
	i := slices.IndexFunc(s.blocks, func(b exercise.Block) bool {
		return b.Kind == it.Kind() && (len(b.Instruments) == 0 ||
			b.Instruments[0].Spec().Family == practice.FamilyOf(it))
	})
	require.GreaterOrEqual(t, i, 0)
	b := s.blocks[i]
	b.Cards = 1
	if b.Kind == "read" {
		b.Settings = map[string]string{"ask": "main fine_line observed zero_error corrected"}
	}
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{b}}
	others, err := sheet.Deal(kinds.All, draws.Uint64())
	require.NoError(t, err)
	right, _, err := exercise.Student{}.Answer(others[0], draws)
	require.NoError(t, err)
	if draws.Float64() >= s.guesses {
		return
	}
	fields := it.Fields()
	only := draws.IntN(len(fields))
	for i, f := range fields {
		if v, asked := right[f.Name]; asked && (s.wholly || i == only) {
			a[f.Name] = v
		}
	}
}

// Nearly all students with a fixed habit are found out within twelve cards: the habit is among the three slips that the
// memory calls weakest, also of those who fill in boxes at random besides.
func TestHabitsAreFound(t *testing.T) {
	t.Parallel()
	for name, guesses := range map[string]float64{"else right": 0, "else guessing": 0.3} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			students := 40
			if testing.Short() {
				students = 4
			}
			found := 0
			for i := range students {
				s := student{seed: uint64(i), habit: habits[i%len(habits)], guesses: guesses, blocks: readings(t),
					often: func(int) float64 { return 0.8 }}
				s.train(t, 12, func(_ int, m *practice.Memory) bool {
					ok := slices.ContainsFunc(m.Weakest(3),
						func(w practice.Weakness) bool { return alike(w.Slip, s.habit) })
					if ok {
						found++
					}
					return ok
				})
			}
			t.Logf("%d of %d habits found within 12 cards", found, students)
			assert.GreaterOrEqual(t, 100*found/students, 90)
		})
	}
}

// Of students who guess three boxes in ten hardly any is told of a weakness, at any of 40 cards.
func TestGuessingIsNoPattern(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("a term of practice; left out with -short")
	}
	const students = 20
	named, ended := 0, 0
	for i := range students {
		s := student{seed: uint64(5000 + i), guesses: 0.3, wholly: i%2 == 0, blocks: readings(t)}
		ever := false
		s.train(t, 40, func(n int, m *practice.Memory) bool {
			weak := len(m.Weakest(1)) > 0
			ever = ever || weak
			if n == 40 && weak {
				ended++
			}
			return false
		})
		if ever {
			named++
		}
	}
	t.Logf("of %d guessers %d were told of a weakness at one time, %d after 40 cards", students, named, ended)
	assert.LessOrEqual(t, ended, students/20)
	assert.LessOrEqual(t, named, students/10)
}

// A habit that is gone is seen to go: within fifteen cards its share has fallen by four tenths.
func TestAFadingHabitIsSeenToImprove(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("a term of practice; left out with -short")
	}
	const students = 16
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
		often := func(n int) float64 {
			if n <= 20 {
				return 1
			}
			return 0
		}
		s := student{seed: uint64(1000 + i), habit: habit, often: often, blocks: readings(t)}
		s.train(t, 35, func(n int, m *practice.Memory) bool {
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
	in := []exercise.Block{practice.Read(pattern(t, "Caliper 0.05 mm, 20 over 19"))}
	m := practice.Memory{Level: practice.Zeros, Cards: 10}
	hard, err := m.Next(in, 1, time.Time{}, nil)
	require.NoError(t, err)
	for range 2 {
		r, err := hard.Item.Mark(exercise.Answer{"main": "1"})
		require.NoError(t, err)
		m.Take(pastOf(t, hard.Item, r))
	}
	easier, err := m.Next(in, 1, time.Time{}, nil)
	require.NoError(t, err)
	assert.Less(t, len(easier.Item.Fields()), len(hard.Item.Fields()))
	assert.Equal(t, "practice.less", easier.Why.Key())
	again, err := m.Next(in, 1, time.Time{}, nil)
	require.NoError(t, err)
	assert.Equal(t, easier.Item, again.Item, "one seed, one card")
}

// Somebody who gets everything wrong is not asked for less for ever: after three such cards one shows its working, and
// then the next is on another instrument.
func TestWhoGetsAllWrongIsHelpedOtherwise(t *testing.T) {
	blocks := []exercise.Block{practice.Read(pattern(t, "Caliper 0.05 mm, 20 over 19")),
		practice.Read(pattern(t, "Micrometer 0.01 mm"))}
	m := practice.Memory{Level: practice.Mixed, Cards: 10}
	var why []string
	var families []instrument.Family
	for seed := range uint64(60) {
		next, err := m.Next(blocks, seed, time.Time{}, nil)
		require.NoError(t, err)
		why = append(why, next.Why.Key())
		families = append(families, practice.FamilyOf(next.Item))
		assert.Equal(t, next.Worked, next.Why.Key() == "practice.worked")
		p := practice.Past{Family: practice.FamilyOf(next.Item)}
		if !next.Worked {
			p.Identifiable, err = practice.Identifiable(next.Item, 0)
			require.NoError(t, err)
		}
		m.Take(p)
	}
	run, worked := 0, 0
	for i, w := range why {
		switch w {
		case "practice.less":
			run++
		case "practice.worked":
			worked++
			if i+1 < len(families) {
				assert.NotEqual(t, families[i], families[i+1], "card %d", i+1)
			}
			run = 0
		default:
			run = 0
		}
		assert.LessOrEqual(t, run, 3, why)
	}
	assert.GreaterOrEqual(t, worked, 8, why)
}
