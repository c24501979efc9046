package figure_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/limits"
	"cavix/figure"
)

// What a part does in a gauge is drawn and said, and nothing of its size: a drawing hangs on the kind, the end and how
// it met alone. The part is before the gauge, at its face, or within.
func TestATrialShowsHowAPartMeetsAGauge(t *testing.T) {
	seen := map[string]bool{}
	for _, kind := range []limits.Kind{limits.Ring, limits.Snap, limits.Plug} {
		for _, goes := range []bool{true, false} {
			for _, met := range []figure.Met{figure.NotTried, figure.Enters, figure.Stops} {
				sc := figure.Trial(kind, goes, met, figure.Options{})
				svg := string(sc.SVG("", ""))
				assert.False(t, seen[svg], "%s %t %d is drawn like another", kind, goes, met)
				seen[svg] = true
				assert.Contains(t, sc.Label, map[figure.Met]string{figure.NotTried: "has not been tried",
					figure.Enters: "passes", figure.Stops: "stops"}[met])
				assert.NotRegexp(t, `\d\.\d`, sc.Label)
			}
		}
	}
}

// The teeth that are measured are numbered where they are on the gear, and one is marked.
func TestTeethStandWhereTheyAre(t *testing.T) {
	for _, teeth := range []int{8, 20, 80} {
		measured := []int{1, 1 + teeth/4, 1 + teeth/2}
		sc := figure.Teeth(teeth, measured, measured[1], 2, 3, figure.Options{})
		var at [][2]float64
		ringed := 0
		for _, it := range sc.Items {
			switch it := it.(type) {
			case figure.Text:
				if it.X < 230 {
					at = append(at, [2]float64{it.X - 115, it.Y - 4.5 - 115})
				}
			case figure.Circle:
				if it.Stroke == figure.Madder {
					ringed++
					assert.Greater(t, it.X, 115.0, "a quarter round")
					assert.InDelta(t, 115, it.Y, 0.01)
				}
			}
		}
		assert.Equal(t, 1, ringed)
		for i, want := range []float64{-math.Pi / 2, 0, math.Pi / 2} {
			assert.InDelta(t, want, math.Atan2(at[i][1], at[i][0]), 1e-9, "%d teeth: number %d", teeth, measured[i])
		}
	}
}
