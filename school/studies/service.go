// Package studies holds studies of gauges and their readings, and comparisons of instruments.
package studies

import (
	"cavix/school/access"
	"cavix/school/hub"
	"cavix/store"
)

// Service carries out the use cases of studies.
type Service struct {
	store  *store.DB
	hub    *hub.Hub
	access *access.Service
}

// New returns the service of a database.
func New(db *store.DB, h *hub.Hub, a *access.Service) *Service {
	return &Service{store: db, hub: h, access: a}
}
