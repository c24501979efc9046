package account

import (
	"context"
	"fmt"
	"runtime"
	"sync"
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

// Three hundred tries at once from one place do not hold up somebody at another, nor a browser that has signed in
// before; what is too much is told so at once.
func TestLanesTakeTurns(t *testing.T) {
	var q turns
	block := make(chan struct{})
	var first, wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		first.Go(func() { _ = q.take(t.Context(), "first", false, func() { <-block }) })
	}
	running := func() int { q.mu.Lock(); defer q.mu.Unlock(); return q.running }
	require.Eventually(t, func() bool { return running() == runtime.GOMAXPROCS(0) }, 5*time.Second, time.Millisecond)
	var mu sync.Mutex
	var order []string
	refused := 0
	enter := func(lane string, known bool) {
		err := q.take(t.Context(), lane, known, func() {
			mu.Lock()
			defer mu.Unlock()
			order = append(order, lane)
		})
		if err != nil {
			mu.Lock()
			defer mu.Unlock()
			refused++
			assert.ErrorIs(t, err, errBusy)
		}
	}
	for range 300 {
		wg.Go(func() { enter("flood", false) })
	}
	waiting := func(n int) {
		require.Eventually(t, func() bool { q.mu.Lock(); defer q.mu.Unlock(); return q.waiting == n }, 5*time.Second,
			time.Millisecond)
	}
	require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return refused == 300-mostWaitingLane },
		5*time.Second, time.Millisecond)
	wg.Go(func() { enter("teacher", false) })
	waiting(mostWaitingLane + 1)
	wg.Go(func() { enter("flood", true) })
	waiting(mostWaitingLane + 2)
	gone, cancel := context.WithCancel(t.Context())
	left := make(chan error, 1)
	go func() {
		left <- q.take(gone, "impatient", false, func() { t.Error("somebody who has gone was served") })
	}()
	waiting(mostWaitingLane + 3)
	cancel()
	assert.ErrorIs(t, <-left, context.Canceled)
	block <- struct{}{} // one of the places, so that what follows runs one after another
	wg.Wait()
	close(block)
	first.Wait()
	assert.Len(t, order, mostWaitingLane+2)
	assert.Contains(t, order[:3], "teacher", "second in turn, however many the other lane holds")
	assert.Zero(t, running())
	assert.Empty(t, q.lanes)
	assert.NoError(t, q.take(t.Context(), "after", false, func() {}))
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
