package practice_test

import (
	"math"
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

const day = 24 * time.Hour

// What was learned comes back after two days, then after four; made once more it is to be learned anew.
func TestWhatWasLearnedComesBack(t *testing.T) {
	in := pattern(t, "Caliper 0.05 mm, 20 over 39")
	family, habit := in.Spec().Family, slips.MainNextMark
	var m practice.Memory
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	card := func(did exercise.Code) {
		m.Take(practice.Past{Family: family, Identifiable: []exercise.Code{habit}, Did: did, Right: did == "", At: at})
	}
	due := func() []practice.Learned {
		return slices.DeleteFunc(m.Learned(), func(l practice.Learned) bool { return l.Slip != habit })
	}
	card(habit)
	for range 8 {
		card("")
	}
	assert.Empty(t, due(), "one mistake is no habit")
	card(habit)
	for range 4 {
		card("")
	}
	assert.Empty(t, due(), "not yet")
	card("")
	require.Len(t, due(), 1)
	assert.Equal(t, at.Add(2*day), due()[0].Due)

	blocks := []exercise.Block{practice.Read(pattern(t, "Micrometer 0.01 mm")), practice.Read(in)}
	for seed := range uint64(10) {
		early, err := m.Next(blocks, seed, at.Add(day), nil)
		require.NoError(t, err)
		assert.NotEqual(t, "practice.again", early.Why.Key())
		again, err := m.Next(blocks, seed, at.Add(3*day), nil)
		require.NoError(t, err)
		assert.Equal(t, "practice.again", again.Why.Key())
		told, err := kinds.All.Telling(again.Item)
		require.NoError(t, err)
		assert.True(t, told[habit])
	}
	at = at.Add(3 * day)
	card("")
	assert.Equal(t, at.Add(4*day), due()[0].Due)
	at = at.Add(day)
	card("")
	assert.Equal(t, at.Add(4*day), due()[0].Due, "met on the way: four days from there")
	at = at.Add(5 * day)
	card(habit)
	assert.Empty(t, due())
}

// learner is somebody with two habits, who learns by being told of them and forgets by not meeting them. Each habit
// shows on a share of the cards on which it can: at first on eight in ten; on a fifth less each time that one was told
// of it, on three in a hundred less where it did not show. Over days without a card that could show it, it comes back
// towards what it was, more slowly the more often it was told.
type learner struct {
	habits [2]exercise.Code
	share  [2]float64
	told   [2]int
	met    [2]int // the day
}

const atFirst = 0.8

func (l *learner) sleep(today int) {
	for i := range l.habits {
		if gap := float64(today - l.met[i]); gap > 0 {
			l.share[i] += (atFirst - l.share[i]) * (1 - math.Exp(-gap/(4*float64(1+l.told[i]))))
			l.met[i] = today
		}
	}
}

// answers a card, and says which habit showed.
func (l *learner) answer(t testing.TB, it exercise.Item, today int, draws *rand.Rand) exercise.Code {
	told, err := kinds.All.Telling(it)
	require.NoError(t, err)
	var did exercise.Code
	for i, code := range l.habits {
		if !told[code] {
			continue
		}
		l.met[i] = today
		if did == "" && draws.Float64() < l.share[i] {
			did = code
			l.told[i]++
			l.share[i] *= 0.8
		} else {
			l.share[i] *= 0.97
		}
	}
	return did
}

func (l *learner) mastered() bool { return max(l.share[0], l.share[1]) < 0.1 }

// weeks has a learner practise eight cards on each of four days a week for twelve weeks, and returns the day on which
// both habits were mastered, and how many days of the last six weeks they stayed so.
func weeks(t testing.TB, seed uint64, chosen bool) (mastered, stayed int) {
	draws := rand.New(rand.NewPCG(seed, 3))
	caliper, drum := pattern(t, "Caliper 0.05 mm, 20 over 39"), pattern(t, "Micrometer 0.01 mm")
	blocks := []exercise.Block{practice.Read(caliper), practice.Read(drum),
		practice.Read(pattern(t, "Depth gauge 0.02 mm")), practice.Read(pattern(t, "Bevel protractor 5′")),
		{Kind: "convert", Instruments: []*instrument.Instrument{caliper}},
		{Kind: "care", Instruments: []*instrument.Instrument{caliper}},
		{Kind: "least_count", Instruments: []*instrument.Instrument{caliper}},
		{Kind: "choose", Instruments: []*instrument.Instrument{drum}}}
	first := int(seed) % len(habits)
	l := learner{habits: [2]exercise.Code{habits[first], habits[(first+3)%len(habits)]},
		share: [2]float64{atFirst, atFirst}}
	var m practice.Memory
	begin := time.Date(2026, 9, 7, 9, 0, 0, 0, time.UTC)
	mastered = 84
	for today := range 84 {
		l.sleep(today)
		if today >= 42 && l.mastered() {
			stayed++
		}
		if today%7 > 3 {
			continue
		}
		now := begin.Add(time.Duration(today) * day)
		for range 8 {
			var it exercise.Item
			if chosen {
				c, err := m.Next(blocks, draws.Uint64(), now, nil)
				require.NoError(t, err)
				it = c.Item
			} else {
				b := blocks[draws.IntN(len(blocks))]
				if b.Cards = 1; b.Kind == practice.Reading {
					b.Settings = map[string]string{"ask": "main fine_line observed zero_error corrected",
						"zero": "varied"}
				}
				sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{b}}
				items, err := sheet.Deal(kinds.All, draws.Uint64())
				require.NoError(t, err)
				it = items[0]
			}
			did := l.answer(t, it, today, draws)
			told, err := practice.Identifiable(it, 0)
			require.NoError(t, err)
			m.Take(practice.Past{Family: practice.FamilyOf(it), Identifiable: told, Did: did, Right: did == "",
				At: now})
		}
		if mastered == 84 && l.mastered() {
			mastered = today
		}
	}
	return mastered, stayed
}

// BenchmarkWeeks compares practice with cards drawn by chance from the same blocks: days until two habits are mastered,
// and on how many of the last 42 of 84 days they were.
func BenchmarkWeeks(b *testing.B) {
	var days, stayed [2]int
	n := 0
	for b.Loop() {
		for i, chosen := range []bool{true, false} {
			m, s := weeks(b, uint64(n), chosen)
			days[i], stayed[i] = days[i]+m, stayed[i]+s
		}
		n++
	}
	of := float64(n)
	b.ReportMetric(float64(days[0])/of, "days")
	b.ReportMetric(float64(days[1])/of, "days-by-chance")
	b.ReportMetric(float64(stayed[0])/of, "stayed")
	b.ReportMetric(float64(stayed[1])/of, "stayed-by-chance")
	b.ReportMetric(0, "ns/op")
}
