package limits_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/core/length"
	"cavix/core/limits"
)

// A part is good by its gauges just when its size lies within the limits, both inclusive.
func TestGaugesSayWhatTheLimitsSay(t *testing.T) {
	draws := rand.New(rand.NewPCG(1, 0x6c696d))
	for range 3000 {
		lower := length.Frac(int64(draws.IntN(2000)), 100)
		l := limits.Limits{Lower: lower, Upper: lower.Add(length.Frac(int64(draws.IntN(12)), 100)),
			Hole: draws.IntN(2) == 0}
		x := lower.Add(length.Frac(int64(draws.IntN(40)-14), 200))
		within := !x.Less(l.Lower) && !l.Upper.Less(x)
		assert.Equal(t, within, l.Good(x), "%s of %s to %s, hole %t", x, l.Lower, l.Upper, l.Hole)
	}
	// The handbook's example: bush hole 16.00 +0.03/0, a hole of 16.03.
	bush := limits.Limits{Lower: length.Int(16), Upper: length.Frac(1603, 100), Hole: true}
	assert.Equal(t, "16", bush.Go().String())
	assert.Equal(t, "16.03", bush.NoGo().String())
	assert.True(t, bush.Passes(true, bush.Upper))
	assert.False(t, bush.Passes(false, bush.Upper))
	assert.True(t, limits.Plug.Fits(true))
	assert.False(t, limits.Ring.Fits(true))
	assert.True(t, limits.Snap.Fits(false))
}
