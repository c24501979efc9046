// Package sitting gives sheets to classes and has students work on them: attempts, cards, drafts, handing in, practice,
// the Bench.
package sitting

import (
	"runtime"

	"golang.org/x/sync/semaphore"

	"cavix/school/access"
	"cavix/school/hub"
	"cavix/store"
)

// Service carries out the use cases of sheets that are given.
type Service struct {
	store   *store.DB
	hub     *hub.Hub
	access  *access.Service
	opened  openedSheets
	dealing *semaphore.Weighted // sheets that are dealt at a time: it takes all of a processor, and memory
}

// New returns the service of a database.
func New(db *store.DB, h *hub.Hub, a *access.Service) *Service {
	return &Service{store: db, hub: h, access: a, dealing: semaphore.NewWeighted(int64(2 * runtime.GOMAXPROCS(0)))}
}
