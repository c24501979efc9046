package demo_test

import (
	"context"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/demo"
	"cavix/school"
	"cavix/school/server"
	"cavix/store"
	"cavix/store/storetest"
)

// Years that are added to the demo are sound: every mark is what the core gives, every sum that of its cards, and the
// triggers are there again.
func TestYearsAreSound(t *testing.T) {
	if testing.Short() {
		t.Skip("fills a school; left out with -short")
	}
	size := demo.Years{Years: 2, Classes: 3, Students: 4, Sheets: 3, Cards: 4}
	now := time.Date(2026, time.November, 25, 10, 20, 0, 0, time.UTC)
	said := 0
	path := filepath.Join(t.TempDir(), "school.db")
	require.NoError(t, store.Fill(t.Context(), path, func(s *store.DB) error {
		if err := demo.Fill(context.Background(), s, now); err != nil {
			return err
		}
		return demo.FillYears(context.Background(), s, size, now, func(done, of int) {
			said++
			assert.Equal(t, said, done)
			assert.Equal(t, 6, of)
		})
	}))
	assert.Equal(t, 6, said)
	s, err := store.Open(t.Context(), path)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	a, err := school.New(s).Server.Audit(t.Context(), server.Auditing{})
	require.NoError(t, err)
	assert.Empty(t, a.Faults)
	assert.Greater(t, a.Cards, 1500+size.AllCards()/2)

	maren, err := school.New(s).Roster.InstructorByLogin(t.Context(), "maren")
	require.NoError(t, err)
	classes, err := school.New(s).Roster.Classes(t.Context(), maren.ID)
	require.NoError(t, err)
	assert.Len(t, classes, 3, "the demo's, and one a year")
	one := func(query string) string { return storetest.Texts(t, s, query)[0] }
	assert.Equal(t, "3", one("SELECT count(*) FROM classes WHERE name LIKE 'Year 1,%' AND archived IS NOT NULL"))
	assert.Equal(t, "3", one("SELECT count(*) FROM classes WHERE name LIKE 'Year 2,%' AND archived IS NULL"))
	assert.Equal(t, "0", one("SELECT count(*) FROM cards WHERE answered > "+one("SELECT unixepoch('2026-11-26')")))
	assert.Equal(t, one("SELECT sum(cards) FROM tallies"), one("SELECT count(*) FROM cards WHERE half_of IS NOT NULL "+
		"AND assignment IS NOT NULL"))
	before := one("SELECT sum(done) FROM sittings")
	storetest.Exec(t, s, "UPDATE cards SET answered = NULL, half_marks = NULL, half_of = NULL WHERE id = "+
		one("SELECT max(id) FROM cards WHERE answered IS NOT NULL AND assignment IS NOT NULL"))
	assert.NotEqual(t, before, one("SELECT sum(done) FROM sittings"), "the triggers keep the sums again")
}
