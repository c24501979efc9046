package ui

import (
	"context"
	"sync"

	"golang.org/x/sync/semaphore"
)

// Limiter bounds work that is costly: so much runs at a time, and so many wait for it, of one asker fewer, so that many
// tries from one place do not keep everybody else out. Who waits is served in the order in which they came.
type Limiter struct {
	room      *semaphore.Weighted
	most, own int // that wait, altogether and of one asker
	mu        sync.Mutex
	all       int
	of        map[string]int
}

// NewLimiter returns a limiter for so much work at a time, and so many who wait for it.
func NewLimiter(running int64, most, own int) *Limiter {
	return &Limiter{room: semaphore.NewWeighted(running), most: most, own: own, of: map[string]int{}}
}

// Do does work when it is its turn. It returns ErrBusy where too many wait, and the error of the context where it ends
// first.
func (l *Limiter) Do(ctx context.Context, asker string, work func()) error {
	if !l.room.TryAcquire(1) {
		if !l.join(asker) {
			return ErrBusy
		}
		err := l.room.Acquire(ctx, 1)
		l.leave(asker)
		if err != nil {
			return err
		}
	}
	defer l.room.Release(1)
	work()
	return nil
}

func (l *Limiter) join(asker string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.all >= l.most || l.of[asker] >= l.own {
		return false
	}
	l.all++
	l.of[asker]++
	return true
}

func (l *Limiter) leave(asker string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.all--
	if l.of[asker]--; l.of[asker] == 0 {
		delete(l.of, asker)
	}
}
