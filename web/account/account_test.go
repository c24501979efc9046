package account

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/text"
)

// However a name is spelled, it is one account; and a name with more behind it is another.
func TestAnAccountHasOneName(t *testing.T) {
	for _, same := range []string{"MAREN", "  maren ", "ｍａｒｅｎ", "Maren"} {
		assert.Equal(t, instructorAccount("maren"), instructorAccount(same))
	}
	assert.NotEqual(t, instructorAccount("maren"), instructorAccount("mare n"))
	assert.NotEqual(t, studentAccount(1, "1 a"), studentAccount(11, "a"))
}

// The wait grows with wrong tries, is never longer than a minute, and holds up nobody elsewhere.
func TestTheWaitGrows(t *testing.T) {
	now := time.Unix(1000, 0)
	g := guard{now: func() time.Time { return now }}
	free := 0
	for g.try("a", "here", false) == 0 {
		free++
	}
	assert.Equal(t, freeHere, free)
	assert.Zero(t, g.try("a", "there", false), "the same account from elsewhere")
	assert.Zero(t, g.try("b", "here", false), "another account from here")
	assert.Zero(t, g.try("a", "here", true), "a browser that has signed in before")
	last := time.Duration(0)
	for range 12 {
		wait := g.try("a", "here", false)
		assert.GreaterOrEqual(t, wait, last)
		assert.LessOrEqual(t, wait, longestHere)
		last = wait
		now = now.Add(wait)
		assert.Zero(t, g.try("a", "here", false), "after the wait it is tried")
	}
	assert.Equal(t, longestHere, last)
	now = now.Add(last)
	require.Zero(t, g.try("a", "here", false))
	g.right("a", "here", false)
	assert.Zero(t, g.try("a", "here", false), "the right passphrase clears it")
	now = now.Add(forgottenWith + time.Minute)
	assert.Zero(t, g.try("a", "here", false))
}

// From many addresses an account is tried a few times a minute at the most; who has signed in before is not held up.
func TestManyAddressesAreOneGuesser(t *testing.T) {
	now := time.Unix(1000, 0)
	g := guard{now: func() time.Time { return now }}
	tried := 0
	for i := range 600 {
		if g.try("a", fmt.Sprint("address ", i), false) == 0 {
			tried++
		}
		now = now.Add(100 * time.Millisecond) // a minute in all
	}
	assert.Less(t, tried, freeAnywhere+12)
	assert.Zero(t, g.try("a", "home", true))
	for i := range 3 * mostGuarded {
		g.try(fmt.Sprint("name ", i), "flood", false)
	}
	assert.LessOrEqual(t, len(g.wrong), mostGuarded+2, "what is kept in mind has an end")
	assert.NotZero(t, g.try("a", "address new", false), "and the account that many try is not forgotten for it")
}

func TestWaitsAreSaid(t *testing.T) {
	assert.Equal(t, text.New("word.a-second"), said(300*time.Millisecond))
	assert.Equal(t, text.New("account.guard.said", "s", 8), said(8*time.Second))
}

// A try that was counted and never made leaves no trace, and what was wrong before stays wrong.
func TestATryThatWasNotMadeIsTakenBack(t *testing.T) {
	now := time.Unix(1000, 0)
	g := guard{now: func() time.Time { return now }}
	for range 500 {
		assert.Zero(t, g.try("a", "here", false))
		g.takeBack("a", "here", false)
	}
	for g.try("a", "here", false) == 0 {
	}
	waits := g.try("a", "here", false)
	assert.Positive(t, waits)
	now = now.Add(time.Hour / 60)
	assert.Zero(t, g.try("a", "here", false))
	g.takeBack("a", "here", false)
	assert.LessOrEqual(t, g.try("a", "here", false), waits, "no longer than before")
}
