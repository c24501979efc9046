// Package merging makes one of two records of a student, and parts them again.
package merging

import (
	"cavix/school/roster"
	"cavix/store"
)

// Service carries out the use cases of records that are merged.
type Service struct {
	store  *store.DB
	roster *roster.Service
}

// New returns the service of a database.
func New(db *store.DB, r *roster.Service) *Service { return &Service{db, r} }
