package ledgers

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"cavix/school/sitting"
)

// A test took from its beginning to handing in, practice to its last answer; a card until it was answered or the next
// one was opened. Too fast is less than anybody needs for the cards that earned marks; handing in empty is not.
func TestPace(t *testing.T) {
	at := func(s int) time.Time { return time.Unix(int64(1000+s), 0) }
	test := func(handed int, earns bool) []sitting.PaceRow {
		var cards []sitting.PaceRow
		for n := range 12 {
			cards = append(cards, sitting.PaceRow{N: n + 1, Seen: at(n), Answered: at(handed), Began: at(0),
				Handed: at(handed), Earns: earns})
		}
		return cards
	}
	p := newPace(test(12, true))
	assert.True(t, p.TooFast)
	assert.Equal(t, 12*time.Second, p.Took)
	assert.Equal(t, time.Second, p.Cards[1])
	assert.False(t, newPace(test(12, false)).TooFast, "handed in empty")
	assert.False(t, newPace(test(36, true)).TooFast)
	typed := test(2, true)
	for i := range typed {
		typed[i].Seen = time.Time{}
	}
	assert.Equal(t, Pace{Cards: map[int]time.Duration{}}, newPace(typed),
		"what was done on paper took a time that nobody knows")
	p = newPace([]sitting.PaceRow{{N: 4, Answered: at(50), Began: at(0)}, {N: 2, Seen: at(10), Answered: at(40),
		Began: at(0)}, {N: 1, Seen: at(60), Began: at(0)}})
	assert.Equal(t, Pace{Took: 50 * time.Second, Cards: map[int]time.Duration{2: 30 * time.Second}}, p,
		"what was not seen or answered has no time")
}
