// Package school composes the use cases: one service a subject, over one database.
package school

import (
	"cavix/school/access"
	"cavix/school/bin"
	"cavix/school/hub"
	"cavix/school/ledgers"
	"cavix/school/marking"
	"cavix/school/merging"
	"cavix/school/rack"
	"cavix/school/roster"
	"cavix/school/rounds"
	"cavix/school/server"
	"cavix/school/sitting"
	"cavix/school/studies"
	"cavix/store"
)

// School is every use case of a database.
type School struct {
	Hub     *hub.Hub
	Access  *access.Service
	Roster  *roster.Service
	Rack    *rack.Service
	Sitting *sitting.Service
	Marking *marking.Service
	Rounds  *rounds.Service
	Studies *studies.Service
	Ledgers *ledgers.Service
	Merging *merging.Service
	Bin     *bin.Service
	Server  *server.Service
}

// New returns the use cases of a database.
func New(db *store.DB) *School {
	s := &School{Hub: hub.NewHub(), Access: access.New(db)}
	s.Sitting = sitting.New(db, s.Hub, s.Access)
	s.Roster = roster.New(db, s.Access, s.Sitting)
	s.Rack = rack.New(db, s.Access)
	s.Marking = marking.New(db, s.Access, s.Sitting)
	s.Rounds = rounds.New(db, s.Hub, s.Access)
	s.Studies = studies.New(db, s.Hub, s.Access)
	s.Ledgers = ledgers.New(db, s.Hub, s.Access, s.Sitting, s.Rack)
	s.Merging = merging.New(db, s.Roster)
	s.Bin = bin.New(db)
	s.Server = server.New(db)
	return s
}
