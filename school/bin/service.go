// Package bin brings back what was removed, or removes it for good.
package bin

import "cavix/store"

// Service carries out the use cases of the Bin.
type Service struct{ store *store.DB }

// New returns the Bin of a database.
func New(db *store.DB) *Service { return &Service{db} }
