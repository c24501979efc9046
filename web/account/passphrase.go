package account

import (
	"context"
	"errors"
	"net/http"
	"runtime"
	"sync"
	"time"

	"cavix/school/roster"
	"cavix/web/ui"
)

// Bounds of passphrases that are tried: each takes 19 MB and a few hundredths of a second of a processor. More than
// wait are told at once to come again. Browsers that have signed in before wait by themselves, so that a flood of
// others does not keep a class out.
const (
	mostWaiting    = 160 // altogether
	mostWaitingOwn = 48  // from one address: a class that signs in at once fits in
)

// hashing bounds the passphrases that are tried at a time.
type hashing struct {
	others, known *ui.Limiter
	freeMemory    func() // called after an idle time; may be nil

	mu   sync.Mutex
	tidy *time.Timer
}

func newHashing(freeMemory func()) *hashing {
	running := int64(runtime.GOMAXPROCS(0))
	return &hashing{others: ui.NewLimiter(running, mostWaiting, mostWaitingOwn),
		known: ui.NewLimiter(running, mostWaiting, mostWaitingOwn), freeMemory: freeMemory}
}

// quiet is the idle time after which memory is returned to the system: some 40 MB after a class has signed in.
const quiet = 2 * time.Second

// do does work when its turn has come; it is ui.ErrBusy where too many wait.
func (h *hashing) do(ctx context.Context, address string, known bool, work func()) error {
	limiter := h.others
	if known {
		limiter = h.known
	}
	defer h.rest()
	return limiter.Do(ctx, address, work)
}

func (h *hashing) rest() {
	if h.freeMemory == nil {
		return
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.tidy == nil {
		h.tidy = time.AfterFunc(quiet, h.freeMemory)
	} else {
		h.tidy.Reset(quiet)
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
	err = h.hashing.do(r.Context(), address(r), known, func() {
		ok = roster.CheckPassphrase(hash, passphrase) &&
			somebody
	})
	return ok, err
}

// hash makes the hash of a new passphrase.
func (h *Handler) hash(r *http.Request, passphrase string) (hash string, err error) {
	waited := h.hashing.do(r.Context(), address(r), false, func() { hash, err = roster.HashPassphrase(passphrase) })
	return hash, errors.Join(waited, err)
}
