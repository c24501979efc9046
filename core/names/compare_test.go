package names_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/names"
)

// Names stand as in a list on paper, in whatever order they come.
func TestNamesAreOrderedAsPeopleLookThemUp(t *testing.T) {
	want := []string{"", "Ärmel", "Arne", "Åse", "caliper", "Caliper 2", "caliper 9, old", "Caliper 10", "Émil", "Emma",
		"zeta", "Ада"}
	draws := rand.New(rand.NewPCG(1, 2))
	for range 50 {
		got := slices.Clone(want)
		draws.Shuffle(len(got), func(i, j int) { got[i], got[j] = got[j], got[i] })
		slices.SortFunc(got, names.Compare)
		assert.Equal(t, want, got)
	}
	assert.Zero(t, names.Compare("Maren", "MAREN"))
}
