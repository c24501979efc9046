// Package ledgers works out what a class came to: marks of a term, mistakes, notices, sheets on paper.
package ledgers

import (
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/school/rack"
	"cavix/school/sitting"
	"cavix/store"
)

// Service carries out the use cases of ledgers.
type Service struct {
	store   *store.DB
	hub     *hub.Hub
	access  *access.Service
	sitting *sitting.Service
	rack    *rack.Service
}

// New returns the service of a database.
func New(db *store.DB, h *hub.Hub, a *access.Service, s *sitting.Service, r *rack.Service) *Service {
	return &Service{store: db, hub: h, access: a, sitting: s, rack: r}
}
