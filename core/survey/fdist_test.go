package survey

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Where the F distribution has a closed form it is met to nine figures; elsewhere tables of critical values and the
// symmetry of its two degrees of freedom hold.
func TestFSurvival(t *testing.T) {
	for _, f := range []float64{1e-6, 0.01, 0.3, 1, 2.5, 7, 40, 900, 1e6} {
		for _, d := range []float64{1, 2, 3, 8, 17, 60, 1000, 20_000} {
			two := math.Pow(1+2*f/d, -d/2)
			assert.InDelta(t, two, fSurvival(f, 2, d), two*1e-9+1e-300, "2, %v at %v", d, f)
			for _, e := range []float64{1, 4, 9, 33, 700} {
				assert.InDelta(t, 1, fSurvival(f, d, e)+fSurvival(1/f, e, d), 1e-10, "%v, %v at %v", d, e, f)
			}
		}
		assert.InDelta(t, 1-2/math.Pi*math.Atan(math.Sqrt(f)), fSurvival(f, 1, 1), 1e-12, "1, 1 at %v", f)
	}
	for _, c := range []struct{ f, d1, d2, p float64 }{ // of printed tables
		{161.448, 1, 1, 0.05}, {4.1028, 2, 10, 0.05}, {2.7109, 5, 20, 0.05}, {4.1027, 5, 20, 0.01},
		{1.5343, 60, 60, 0.05}, {3.8415, 1, 1e7, 0.05},
	} {
		assert.InDelta(t, c.p, fSurvival(c.f, c.d1, c.d2), 2e-5, "%+v", c)
	}
	assert.Equal(t, 1.0, fSurvival(0, 3, 4))
	assert.Zero(t, fSurvival(math.Inf(1), 3, 4))
}
