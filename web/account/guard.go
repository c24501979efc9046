package account

import (
	"fmt"
	"sync"
	"time"

	"cavix/core/names"
	"cavix/core/text"
)

// account is whom somebody tries to be: the same however the name is spelled and whatever else is sent.
func instructorAccount(login string) string { return "i\x00" + names.Fold(login) }

func studentAccount(class int64, name string) string {
	return fmt.Sprintf("s\x00%d\x00%s", class, names.Fold(name))
}

// Bounds of guessing. A wrong passphrase is no crime: the first few cost nothing, and each further one makes the next
// wait twice as long. From many addresses together the wait stays short, so that nobody is locked out of their own
// account.
const (
	freeHere      = 5  // wrong tries of an account from one address
	freeAnywhere  = 25 // and from all addresses but browsers that have signed in before
	longestHere   = time.Minute
	longestAll    = 10 * time.Second
	forgottenWith = 30 * time.Minute // after the last wrong try
	mostGuarded   = 20_000           // accounts and addresses that are kept in mind
)

// guard counts wrong tries, and says how long to wait before the next.
type guard struct {
	mu    sync.Mutex
	wrong map[string]*wrong
	now   func() time.Time // nil is the clock
}

// wrong are the wrong tries of an account from somewhere.
type wrong struct {
	tries int
	last  time.Time
}

func (g *guard) time() time.Time {
	if g.now != nil {
		return g.now()
	}
	return time.Now()
}

// try counts a try in advance, or tells how long to wait first: tries at the same moment are not all free. It is taken
// back with right where the passphrase was.
func (g *guard) try(account, from string, known bool) (wait time.Duration) {
	g.mu.Lock()
	defer g.mu.Unlock()
	now := g.time()
	keys := keysOf(account, from, known)
	for key, b := range keys {
		wait = max(wait, g.wait(key, b, now))
	}
	if wait > 0 {
		return wait
	}
	g.forget(now)
	for key := range keys {
		w := g.wrong[key]
		if w == nil {
			w = &wrong{}
			g.wrong[key] = w
		}
		w.tries++
		w.last = now
	}
	return 0
}

// right takes back what a try has counted: the passphrase was right.
func (g *guard) right(account, from string, known bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for key, b := range keysOf(account, from, known) {
		if b.longest == longestHere {
			delete(g.wrong, key)
		} else if w := g.wrong[key]; w != nil {
			w.tries--
		}
	}
}

// takeBack takes back one try that was counted and not made: what was wrong before stays wrong.
func (g *guard) takeBack(account, from string, known bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for key := range keysOf(account, from, known) {
		if w := g.wrong[key]; w != nil && w.tries > 0 {
			w.tries--
		}
	}
}

// bound tells how many wrong tries are free, and how long the wait then grows.
type bound struct {
	free    int
	longest time.Duration
}

// keysOf returns the keys for which a try counts, with their bounds.
func keysOf(account, from string, known bool) map[string]bound {
	if known { // a browser of its own: what others try does not hold it up
		return map[string]bound{account + "\x01known " + from: {freeHere, longestHere}}
	}
	return map[string]bound{
		account + "\x01" + from: {freeHere, longestHere},
		account:                 {freeAnywhere, longestAll},
	}
}

func (g *guard) wait(key string, b bound, now time.Time) time.Duration {
	w := g.wrong[key]
	if w == nil || w.tries < b.free || now.Sub(w.last) > forgottenWith {
		return 0
	}
	pause := b.longest
	if over := w.tries - b.free; over < 10 {
		pause = min(pause, time.Second<<over)
	}
	return max(0, w.last.Add(pause).Sub(now))
}

// forget makes room, of what is long past first.
func (g *guard) forget(now time.Time) {
	if g.wrong == nil {
		g.wrong = map[string]*wrong{}
	}
	if len(g.wrong) < mostGuarded {
		return
	}
	for _, old := range []func(*wrong) bool{
		func(w *wrong) bool { return now.Sub(w.last) > forgottenWith },
		func(w *wrong) bool { return w.tries < freeHere }, // what nobody waits for yet
		func(*wrong) bool { return true },
	} {
		for key, w := range g.wrong {
			if len(g.wrong) < mostGuarded*3/4 {
				return
			}
			if old(w) {
				delete(g.wrong, key)
			}
		}
	}
}

// said is a wait in words.
func said(wait time.Duration) text.Text {
	if s := int(wait.Round(time.Second) / time.Second); s > 1 {
		return text.New("account.guard.said", "s", s)
	}
	return text.New("word.a-second")
}
