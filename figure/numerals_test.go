package figure

import (
	"math/rand/v2"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
)

// The numerals of a main scale are whole or out of sight, wherever the instrument stands, as long as one of them is
// whole.
func TestNoNumeralIsCut(t *testing.T) {
	draws := rand.New(rand.NewPCG(14, 10))
	seen := 0
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		for range 30 {
			for _, width := range []float64{Narrow, Wide, Stage} {
				d, err := Lay(in, instrumenttest.Position(draws, in), width)
				require.NoError(t, err)
				var marks Group
				right := 0.0
				switch d := d.(type) {
				case *straight:
					marks, right = d.mainScale(edgeY, 1, 17, markLengths{22, 31, 40}, 8), d.width
				case *ruler:
					marks, right = d.marks(0), d.width
				case *dial:
					marks, right = d.beamMarks(false), d.width
				case *drum:
					marks, right = d.sleeveMarks(100, false), d.width
				default:
					continue
				}
				whole, cut := 0, 0
				for _, it := range marks.Items {
					g, _ := it.(Group)
					for _, one := range g.Items {
						n := one.(Text)
						half := n.Size * digitWidth * float64(utf8.RuneCountInString(n.S)) / 2
						switch {
						case n.X+half < 0 || n.X-half > right:
						case n.X-half < 0 || n.X+half > right:
							cut++
						default:
							whole++
						}
					}
				}
				assert.True(t, cut == 0 || whole == 0, "%s at %.0f px: %d numerals are cut, %d are whole", p.Name,
					width, cut, whole)
				seen += whole
			}
		}
	}
	assert.Greater(t, seen, 5000)
}
