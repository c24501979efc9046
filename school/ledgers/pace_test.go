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
	card := func(n int, half int64, seen, answered time.Time) sitting.CardState {
		return sitting.CardState{Mark: sitting.Mark{N: n, Half: half, Done: !answered.IsZero()}, Seen: seen,
			Answered: answered}
	}
	test := func(handed int, half int64) sitting.AttemptRow {
		a := sitting.AttemptRow{Began: at(0), Handed: at(handed)}
		for n := range 12 {
			a.Cards = append(a.Cards, card(n+1, half, at(n), at(handed)))
		}
		return a
	}
	p := NewPace(test(12, 2))
	assert.True(t, p.TooFast)
	assert.Equal(t, 12*time.Second, p.Took)
	assert.Equal(t, time.Second, p.Cards[1])
	assert.False(t, NewPace(test(12, 0)).TooFast, "handed in empty")
	assert.False(t, NewPace(test(36, 2)).TooFast)
	typed := test(2, 2)
	for i := range typed.Cards {
		typed.Cards[i].Seen = time.Time{}
	}
	assert.Equal(t, Pace{Cards: map[int]time.Duration{}}, NewPace(typed),
		"what was done on paper took a time that nobody knows")
	p = NewPace(sitting.AttemptRow{Began: at(0), Cards: []sitting.CardState{card(1, 0, at(60), time.Time{}),
		card(2, 0, at(10), at(40)), card(4, 0, time.Time{}, at(50))}})
	assert.Equal(t, Pace{Took: 50 * time.Second, Cards: map[int]time.Duration{2: 30 * time.Second}}, p,
		"what was not seen or answered has no time")
}
