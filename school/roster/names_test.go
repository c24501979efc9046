package roster_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/school/schooltest"
)

func TestNamesAndPassphrases(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	_, err := s.Roster.SetUp(ctx, roster.Instructor{Login: "late"})
	assert.ErrorIs(t, err, roster.ErrSetUp)
	_, err = s.Roster.AddInstructor(ctx, roster.Instructor{Login: " ANNA "})
	assert.ErrorIs(t, err, roster.ErrLoginTaken)
	_, err = s.Roster.Join(ctx, s.Class, "wren  a.", "x", time.Now())
	assert.ErrorIs(t, err, roster.ErrHasPassphrase, "the old passphrase stands")
	require.NoError(t, s.Roster.ClearPassphrase(ctx, access.Actor{ID: s.Anna}, s.Class, s.Pupil))
	assert.Equal(t, s.Pupil, s.Must(s.Roster.Join(ctx, s.Class, "WREN A.", "new", time.Now())))
	_, err = s.Roster.Join(ctx, s.Class, "Wren A.", "newer", time.Now())
	assert.ErrorIs(t, err, roster.ErrHasPassphrase)

	hash, err := roster.HashPassphrase("skerry point")
	require.NoError(t, err)
	other, err := roster.HashPassphrase("skerry point")
	require.NoError(t, err)
	assert.NotEqual(t, hash, other, "salted")
	assert.True(t, roster.CheckPassphrase(hash, "skerry point"))
	assert.False(t, roster.CheckPassphrase(hash, "Skerry point"))
	for _, h := range []string{"", "$argon2id$v=19$m=1,t=1,p=1$x", "$a$b$c$d$e"} {
		assert.False(t, roster.CheckPassphrase(h, ""))
	}
}
