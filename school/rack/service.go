// Package rack holds what an instructor keeps: instruments, sheets, care questions, course files, the Bin.
package rack

import (
	"cavix/school/access"
	"cavix/store"
)

// Service carries out the use cases of what an instructor keeps.
type Service struct {
	store  *store.DB
	access *access.Service
}

// New returns the service of a database.
func New(db *store.DB, a *access.Service) *Service { return &Service{store: db, access: a} }
