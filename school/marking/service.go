// Package marking marks sheets anew and sets an instructor's own marks.
package marking

import (
	"cavix/school/access"
	"cavix/school/sitting"
	"cavix/store"
)

// Service carries out the use cases of marking anew.
type Service struct {
	store   *store.DB
	access  *access.Service
	sitting *sitting.Service
}

// New returns the service of a database.
func New(db *store.DB, a *access.Service, s *sitting.Service) *Service {
	return &Service{store: db, access: a, sitting: s}
}
