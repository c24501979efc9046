package ui

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Of three hundred tries at once from one place few wait, so that somebody at another is soon served; what is too much
// is told so at once, and who gives up leaves no trace.
func TestLimiter(t *testing.T) {
	l := NewLimiter(1, 40, 10)
	block := make(chan struct{})
	var wg sync.WaitGroup
	begun := make(chan struct{})
	wg.Go(func() { _ = l.Do(t.Context(), "first", func() { close(begun); <-block }) })
	<-begun
	var mu sync.Mutex
	var order []string
	refused := 0
	enter := func(asker string) {
		err := l.Do(t.Context(), asker, func() {
			mu.Lock()
			defer mu.Unlock()
			order = append(order, asker)
		})
		if err != nil {
			mu.Lock()
			defer mu.Unlock()
			refused++
			assert.ErrorIs(t, err, ErrBusy)
		}
	}
	waiting := func(n int) {
		t.Helper()
		require.Eventually(t, func() bool { return l.waiting() == n }, time.Minute, time.Millisecond)
	}
	for range 300 {
		wg.Go(func() { enter("flood") })
	}
	require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return refused == 290 }, time.Minute,
		time.Millisecond)
	waiting(10)
	for i := range 60 {
		wg.Go(func() { enter(fmt.Sprint("other ", i%6)) })
	}
	waiting(40)
	require.Eventually(t, func() bool { mu.Lock(); defer mu.Unlock(); return refused == 320 }, time.Minute,
		time.Millisecond)
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	assert.ErrorIs(t, l.Do(gone, "late", func() { t.Error("somebody who has gone was served") }), ErrBusy)
	close(block)
	wg.Wait()
	assert.Len(t, order, 40)
	for _, asker := range order[:10] {
		assert.Equal(t, "flood", asker, "who came first is served first")
	}
	assert.Zero(t, l.waiting())
	assert.Empty(t, l.of)
	assert.NoError(t, l.Do(t.Context(), "after", func() {}))
}

// waiting returns how many wait.
func (l *Limiter) waiting() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all
}
