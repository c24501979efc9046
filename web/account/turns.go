package account

import (
	"context"
	"errors"
	"net/http"
	"runtime"
	"runtime/debug"
	"sync"
	"time"

	"cavix/school/roster"
	"cavix/web/ui"
)

// Bounds of the queue of passphrases: each takes 19 MB and a few hundredths of a second of a processor. More than wait
// are told at once to come again.
const (
	mostWaiting     = 160 // altogether
	mostWaitingLane = 48  // from one address: a class that signs in at once fits in
)

// errBusy is for a passphrase that was not tried, since too many wait.
var errBusy = ui.ErrBusy

// turns has passphrases hashed a few at a time. Every address has a lane of its own, and the lanes take turns: many
// tries from one place do not hold up somebody at another. Browsers that have signed in before go before all others.
type turns struct {
	mu      sync.Mutex
	lanes   map[string][]*turn
	order   []string // lanes with somebody in them, in the order in which they are next
	waiting int
	running int
	tidy    *time.Timer // gives back what hashing took, once nobody has come for a while
}

// quiet is how long nobody has come before memory is given back to the system: some 40 MB after a class has signed in.
const quiet = 2 * time.Second

// turn is somebody who waits; go is closed when it is theirs.
type turn struct{ start chan struct{} }

// take does work when its turn has come, or tells that there are too many before it.
func (t *turns) take(ctx context.Context, lane string, known bool, work func()) error {
	if known {
		lane = "known " + lane
	}
	t.mu.Lock()
	if t.running < runtime.GOMAXPROCS(0) && t.waiting == 0 {
		t.running++
		t.mu.Unlock()
		defer t.next()
		work()
		return nil
	}
	if t.waiting >= mostWaiting && !known || len(t.lanes[lane]) >= mostWaitingLane {
		t.mu.Unlock()
		return errBusy
	}
	if t.lanes == nil {
		t.lanes = map[string][]*turn{}
	}
	me := &turn{make(chan struct{})}
	if len(t.lanes[lane]) == 0 {
		if known {
			t.order = append([]string{lane}, t.order...)
		} else {
			t.order = append(t.order, lane)
		}
	}
	t.lanes[lane] = append(t.lanes[lane], me)
	t.waiting++
	t.mu.Unlock()
	select {
	case <-me.start:
		defer t.next()
		work()
		return nil
	case <-ctx.Done():
		t.leave(lane, me)
		return ctx.Err()
	}
}

// leave gives up a place in a lane; where the turn has just come it is passed on.
func (t *turns) leave(lane string, me *turn) {
	t.mu.Lock()
	for i, other := range t.lanes[lane] {
		if other == me {
			t.lanes[lane] = append(t.lanes[lane][:i:i], t.lanes[lane][i+1:]...)
			t.waiting--
			t.mu.Unlock()
			return
		}
	}
	t.mu.Unlock()
	t.next()
}

// next passes a turn that has ended on to the next lane.
func (t *turns) next() {
	t.mu.Lock()
	defer t.mu.Unlock()
	for len(t.order) > 0 {
		lane := t.order[0]
		t.order = t.order[1:]
		wait := t.lanes[lane]
		if len(wait) == 0 {
			delete(t.lanes, lane)
			continue
		}
		first := wait[0]
		if t.lanes[lane] = wait[1:]; len(wait) > 1 {
			t.order = append(t.order, lane)
		} else {
			delete(t.lanes, lane)
		}
		t.waiting--
		close(first.start)
		return
	}
	if t.running--; t.running > 0 {
		return
	}
	if t.tidy == nil {
		t.tidy = time.AfterFunc(quiet, debug.FreeOSMemory)
	} else {
		t.tidy.Reset(quiet)
	}
}

// nobody's hash is compared when there is no such person, so that the answer takes as long.
var nobody = sync.OnceValues(func() (string, error) { return roster.HashPassphrase("nobody at all") })

// verify checks a passphrase; an empty hash is nobody's.
func (h *Handler) verify(r *http.Request, hash, passphrase string, known bool) (ok bool, err error) {
	somebody := hash != ""
	if !somebody {
		if hash, err = nobody(); err != nil {
			return false, err
		}
	}
	err = h.turns.take(r.Context(), address(r), known, func() {
		ok = roster.CheckPassphrase(hash, passphrase) &&
			somebody
	})
	return ok, err
}

// hash makes the hash of a new passphrase.
func (h *Handler) hash(r *http.Request, passphrase string) (hash string, err error) {
	waited := h.turns.take(r.Context(), address(r), false, func() { hash, err = roster.HashPassphrase(passphrase) })
	return hash, errors.Join(waited, err)
}
