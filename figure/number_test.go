package figure

import (
	"math"
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Coordinates are written as the shortest decimal of what they are to four places.
func TestCoordinates(t *testing.T) {
	by := rand.New(rand.NewPCG(1, 2))
	for range 20_000 {
		x := (by.Float64() - 0.5) * math.Pow(10, float64(by.IntN(9)-4))
		want := math.Round(x*1e4) / 1e4
		if want == 0 {
			want = 0 // no minus zero
		}
		assert.Equal(t, strconv.FormatFloat(want, 'f', -1, 64), string(appendTenThousandths(nil, x)), "%v", x)
	}
}
