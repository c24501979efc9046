package names_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/names"
)

func TestNear(t *testing.T) {
	for _, tt := range []struct {
		a, b string
		near bool
	}{
		{"Bela S", "Bela S.", true},
		{"Béla S.", "bela s", true},
		{"S., Bela", "Bela S.", true},
		{"Bela  S.", "BelaS", true},
		{"Bela S.", "Bela T.", false}, // another initial is another student
		{"Ash W.", "Ash V.", false},
		{"Marguerite Holl", "Margerite Holl", true},
		{"Marguerite Holl", "Marguerite Hall", false}, // two families
		{"Juniper T.", "Junipor T.", true},
		{"Bela Simmon", "Bela Simon", true},
		{"Ann B.", "Anna B.", false}, // short names differ by a letter
		{"...", "", false},
	} {
		assert.Equal(t, tt.near, names.Near(tt.a, tt.b), "%s, %s", tt.a, tt.b)
		assert.Equal(t, tt.near, names.Near(tt.b, tt.a), "%s, %s", tt.b, tt.a)
	}
}
