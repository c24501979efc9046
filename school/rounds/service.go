// Package rounds asks a whole class a question at once: rounds, the answers to them, and the Board.
package rounds

import (
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/store"
)

// Service carries out the use cases of rounds.
type Service struct {
	store  *store.DB
	hub    *hub.Hub
	access *access.Service
	stamps Stamps
}

// New returns the service of a database.
func New(db *store.DB, h *hub.Hub, a *access.Service) *Service {
	return &Service{store: db, hub: h, access: a}
}
