package roster_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/school/rack"
	"cavix/school/schooltest"
)

// People and what they keep stand in the order in which names are looked up, also part by part.
func TestListsAreOrderedAsNamesAreLookedUp(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	names := []string{"Ärmel P.", "Bench 2", "bench 10", "Zoe"}
	for i := range names {
		name := names[(i+2)%len(names)]
		s.Must(s.Roster.Join(ctx, s.Other, name, "hash", time.Now()))
		s.Must(s.Rack.KeepSheet(ctx, s.Otto, rack.Sheet{Title: name, Definition: exercise.Sheet{
			Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "read", Cards: 1,
				Instruments: []*instrument.Instrument{schooltest.Twentieth(t)}}}},
			Racked: [][]int64{{}}}))
	}
	people, err := s.Roster.Students(ctx, s.Otto, s.Other)
	require.NoError(t, err)
	var have []string
	for _, p := range people {
		if p.ID != s.Stranger {
			have = append(have, p.Name)
		}
	}
	assert.Equal(t, names, have)
	sheets, more, err := s.Rack.SheetsPart(ctx, s.Otto, rack.Part{Skip: 1, Most: 2})
	require.NoError(t, err)
	require.Len(t, sheets, 2)
	assert.True(t, more)
	assert.Equal(t, names[1:3], []string{sheets[0].Title, sheets[1].Title})
}
