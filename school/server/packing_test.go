package server_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/school/schooltest"
)

// Cards of an earlier version, whose documents are texts, work as they are, are packed beside what goes on, and ask
// what they asked; a damaged one is a fault of its own.
func TestCardsOfEarlierVersionsArePacked(t *testing.T) {
	s := schooltest.New(t)
	ctx := t.Context()
	var before []exercise.Item
	for n := 1; n <= 2; n++ {
		before = append(before, s.Card(s.Pupil, n).Item)
	}
	const texts = "SELECT count(*) FROM cards WHERE typeof(item) = 'text'"
	s.Count(0, texts)
	s.Count(1, "SELECT 3 * sum(length(item)) < sum(length(unpacked(item))) FROM cards")

	s.Change("UPDATE cards SET item = unpacked(item)")
	s.Change("DELETE FROM keeping")
	s.Count(4, texts)
	c := s.Card(s.Pupil, 1)
	s.Submit(c, s.Right(c))

	last := 0
	require.NoError(t, s.Server.Pack(ctx, func(done, of int) { last = done; assert.LessOrEqual(t, done, of) }))
	assert.NotZero(t, last)
	s.Count(0, texts)
	require.NoError(t, s.Server.Pack(ctx, func(int, int) { t.Error("it was packed already") }))
	for n, it := range before {
		assert.Equal(t, it, s.Card(s.Pupil, n+1).Item)
	}
	a, err := s.Server.Audit(ctx)
	require.NoError(t, err)
	assert.Empty(t, a.Faults)

	s.Change("UPDATE cards SET item = substr(item, 1, length(item) - 9) WHERE n = 2")
	a, err = s.Server.Audit(ctx)
	require.NoError(t, err)
	require.NotEmpty(t, a.Faults)
	for _, f := range a.Faults {
		assert.True(t, strings.Contains(f, "card 2 of sheet"), f)
	}
}
