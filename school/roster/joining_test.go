package roster_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/schooltest"
)

// So many join a class by themselves within a while, and no more. In all a class has room for a thousand.
func TestAFloodOfJoinsEnds(t *testing.T) {
	if testing.Short() {
		t.Skip("fills a class; left out with -short")
	}
	t.Parallel()
	s, ctx, now := schooltest.New(t), t.Context(), time.Now()
	class := s.Must(s.Roster.AddClass(ctx, s.Anna, "Wednesdays", ""))
	join := func(name string, at time.Time) error {
		_, err := s.Roster.Join(ctx, class, name, "hash", at)
		return err
	}
	for n := range roster.MostPeople {
		at := now.Add(time.Duration(n/roster.MostJoining) * 11 * time.Minute)
		require.NoError(t, join(fmt.Sprintf("%c%c%c", 'a'+n/676, 'a'+n/26%26, 'a'+n%26), at), n)
		if n == roster.MostJoining-1 {
			require.ErrorIs(t, join("One too many", at), roster.ErrCrowded)
		}
	}
	later := now.Add(24 * time.Hour)
	require.ErrorIs(t, join("Nobody", later), roster.ErrCrowded)
	listed := []roster.ImportedPerson{{Name: "Real One"}}
	_, err := s.Roster.Import(ctx, access.Actor{ID: s.Anna, Name: "A", At: later}, class, listed)
	var full access.Full
	require.ErrorAs(t, err, &full)
	assert.Equal(t, roster.MostPeople, full.Most)
}

// A class that is crowded lets in whoever stands on its list, and with a list nobody else without being asked.
func TestAListOpensACrowdedClass(t *testing.T) {
	s, ctx, now := schooltest.New(t), t.Context(), time.Now()
	class := s.Must(s.Roster.AddClass(ctx, s.Anna, "Wednesdays", ""))
	for n := range roster.MostJoining {
		s.Must(s.Roster.Join(ctx, class, fmt.Sprintf("Bogus %c%c", 'a'+n/26, 'a'+n%26), "hash", now))
	}
	_, err := s.Roster.Import(ctx, access.Actor{ID: s.Anna, Name: "A", At: now}, class,
		[]roster.ImportedPerson{{Name: "Real One"}})
	require.NoError(t, err)
	_, err = s.Roster.Join(ctx, class, "Real One", "hash", now)
	require.NoError(t, err)
	_, err = s.Roster.Join(ctx, class, "Somebody Later", "hash", now.Add(11*time.Minute))
	assert.ErrorIs(t, err, roster.ErrWaits)
}
