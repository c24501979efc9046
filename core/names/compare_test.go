package names_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/text/language"

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

// A reader finds names where the own language has them: ñ is a letter after n in Spanish, and an n with a mark
// elsewhere.
func TestNamesAreArrangedForTheReader(t *testing.T) {
	common := []string{"Nunez", "Nuñez", "Nunoz"}
	for reader, want := range map[string][]string{"en": common, "de": common, "fr": common,
		"es": {"Nunez", "Nunoz", "Nuñez"}} {
		got := slices.Clone(common)
		slices.SortFunc(got, names.Compare)
		names.Arrange(got, language.Make(reader), func(s string) string { return s })
		assert.Equal(t, want, got, reader)
	}
}
