// Package roster holds classes and the people in them: who teaches and learns there, how they join and sign in.
package roster

import (
	"context"

	"cavix/school/access"
	"cavix/store"
)

// Service carries out the use cases of classes and people.
type Service struct {
	store   *store.DB
	access  *access.Service
	retimer Retimer
}

// New returns the service of a database.
func New(db *store.DB, a *access.Service, r Retimer) *Service {
	return &Service{store: db, access: a, retimer: r}
}

// Retimer brings the attempts of a student that are under way to the end that they have with so many extra minutes.
type Retimer interface {
	Retime(ctx context.Context, tx *store.Tx, student int64, minutes int) error
}
