package watch_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"cavix/core/exercise"
	"cavix/core/watch"
)

var now = time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC)

func ago(minutes float64) time.Time {
	return now.Add(-time.Duration(minutes * float64(time.Minute)))
}

// Somebody is stuck who has been on a card twice as long as most took for it; not who has only just come, who is quick
// with others meanwhile, or who has left.
func TestStuck(t *testing.T) {
	var list []watch.CardState
	for s := range int64(5) { // five have answered card 1 in two minutes
		list = append(list, watch.CardState{Student: s, Card: 1, Seen: ago(30), Answered: ago(28)})
	}
	list = append(list,
		watch.CardState{Student: 10, Card: 1, Seen: ago(5)},
		watch.CardState{Student: 11, Card: 1, Seen: ago(3.5)},
		watch.CardState{Student: 12, Card: 1, Seen: ago(90)},
		watch.CardState{Student: 13, Card: 1, Seen: ago(20)}, watch.CardState{Student: 13, Card: 2, Seen: ago(19),
			Answered: ago(1)},
		watch.CardState{Student: 14, Card: 7, Seen: ago(5)}, // nobody has answered it
		watch.CardState{Student: 15, Card: 7, Seen: ago(7)},
		watch.CardState{Student: 16, Card: 3},
	)
	stuck := watch.Stuck(list, now)
	assert.Equal(t, map[int64]watch.Wait{10: {1, 5 * time.Minute, 2 * time.Minute}, 15: {7, 7 * time.Minute, 0}}, stuck)
	assert.Empty(t, watch.Stuck(nil, now))
}

// A slip spreads that two students or more have made lately.
func TestSpreading(t *testing.T) {
	at := func(student int64, slip string, minutes float64) watch.CardState {
		return watch.CardState{Student: student, Card: 1, Answered: ago(minutes), Slip: exercise.Code(slip)}
	}
	list := []watch.CardState{at(1, "a", 2), at(2, "a", 3), at(3, "a", 50), at(1, "b", 1), at(1, "b", 2), at(1, "b", 3),
		at(4, "", 1), at(2, "c", 1), at(3, "c", 1), at(4, "c", 9)}
	got := watch.Spreading(list, ago(15))
	assert.Equal(t, []watch.Spread{{"c", []int64{2, 3, 4}, 3}, {"a", []int64{1, 2}, 2}}, got)
}
