package rack_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/refusal"
	"cavix/school/access"
	"cavix/school/schooltest"
	"cavix/store"
)

// A colleague is sent a copy, sees it, and keeps it beside what they have, or declines it. Nobody else finds it.
func TestCopiesForAColleague(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	anna := access.Actor{ID: s.Anna, Name: "Anna", At: time.Now()}
	rack, err := s.Rack.Rack(ctx, s.Anna)
	require.NoError(t, err)
	sheets, err := s.Rack.Sheets(ctx, s.Anna)
	require.NoError(t, err)
	s.Must(s.Rack.KeepInstrument(ctx, s.Otto, 0, schooltest.Twentieth(t))) // the same instrument, under the same name

	for _, login := range []string{"nobody", "anna", ""} {
		_, err = s.Rack.SendInstrument(ctx, anna, rack[0].ID, login)
		assert.Contains(t, refusal.By(err), "login", login)
	}
	_, err = s.Rack.SendInstrument(ctx, access.Actor{ID: s.Otto}, rack[0].ID, "anna")
	require.ErrorIs(t, err, store.ErrNotFound, "it is not Otto's to send")
	to, err := s.Rack.SendInstrument(ctx, anna, rack[0].ID, "OTTO")
	require.NoError(t, err)
	assert.Equal(t, "Otto", to)
	_, err = s.Rack.SendSheet(ctx, anna, sheets[0].ID, "otto")
	require.NoError(t, err)
	_, err = s.Rack.SendSheet(ctx, anna, sheets[0].ID, "otto")
	require.NoError(t, err)

	waiting, err := s.Rack.Copies(ctx, s.Otto)
	require.NoError(t, err)
	require.Len(t, waiting, 3)
	_, err = s.Rack.Copy(ctx, s.Anna, waiting[0].ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Rack.KeepCopy(ctx, s.Anna, waiting[0].ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.ErrorIs(t, s.Rack.DeclineCopy(ctx, s.Anna, waiting[0].ID), store.ErrNotFound)

	require.NoError(t, s.Rack.DeclineCopy(ctx, s.Otto, waiting[0].ID))
	kept := s.Must(s.Rack.KeepCopy(ctx, s.Otto, waiting[1].ID))
	sh, err := s.Rack.Sheet(ctx, s.Otto, kept)
	require.NoError(t, err)
	assert.Equal(t, sheets[0].Definition.Blocks[0].Cards, sh.Definition.Blocks[0].Cards)
	own, err := s.Rack.Rack(ctx, s.Otto)
	require.NoError(t, err)
	require.Len(t, own, 1, "the instrument of the sheet is there already")
	assert.Equal(t, [][]int64{{own[0].ID}}, sh.Racked)

	again := s.Must(s.Rack.KeepCopy(ctx, s.Otto, waiting[2].ID))
	in, err := s.Rack.Racked(ctx, s.Otto, again)
	require.NoError(t, err)
	assert.Equal(t, "Twentieth 2", in.Name, "what is there keeps its name")
	waiting, err = s.Rack.Copies(ctx, s.Otto)
	require.NoError(t, err)
	assert.Empty(t, waiting)

	for range 50 {
		_, err = s.Rack.SendInstrument(ctx, anna, rack[0].ID, "otto")
		require.NoError(t, err)
	}
	_, err = s.Rack.SendInstrument(ctx, anna, rack[0].ID, "otto")
	assert.Contains(t, fmt.Sprint(err), "50 copies waiting")
}
