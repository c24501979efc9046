// Package server looks after the database: checks, the audit log, whether it can be written.
package server

import (
	"cavix/store"
)

// Service carries out the use cases of a server.
type Service struct {
	store *store.DB
}

// New returns the service of a database.
func New(db *store.DB) *Service { return &Service{store: db} }
