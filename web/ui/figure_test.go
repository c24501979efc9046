package ui

import (
	"fmt"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// A figure that is sent as pictures is told by its pixels alone: all other markup is the same for readings next to each
// other, and so are the numbers that go to the script. Drawn, each of them tells the reading.
func TestAPictureTellsNoCoordinate(t *testing.T) {
	if testing.Short() {
		t.Skip("paints large pictures; left out with -short")
	}
	t.Parallel()
	pixels := regexp.MustCompile(`base64,[^"]*`)
	for _, parts := range []string{
		`"family":"vernier-caliper","main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier",
			"divisions":50,"spans":49}`,
		`"family":"micrometer","main":{"division":"0.5","from":"0","to":"25"},"fine":{"kind":"drum","divisions":50,
			"travel":"0.5"}`,
		`"family":"dial-caliper","main":{"division":"2","from":"0","to":"150"},"fine":{"kind":"dial","divisions":100,
			"travel":"2"}`,
	} {
		in, err := instrument.Parse(fmt.Appendf(nil,
			`{"format":"cavix/instrument","version":1,"name":"I","unit":"mm",%s,"zero_error":"0"}`, parts))
		require.NoError(t, err, parts)
		seen := func(steps int, look Looking) (markup, all string) {
			v, err := NewFigure(exercise.Figure{Instrument: in,
				At: length.Frac(431, 100).Add(in.LeastCount().MulInt(steps))}, look)
			require.NoError(t, err)
			all = fmt.Sprint(v)
			return pixels.ReplaceAllString(all, ""), all
		}
		look := Looking{ID: "x", Width: 1180, Line: -1, Pixels: true}
		one, full := seen(0, look)
		next, other := seen(1, look)
		assert.Equal(t, one, next, parts)
		assert.NotEqual(t, full, other, "and is another picture")
		assert.NotContains(t, one, "<line")
		look.Pixels = false
		one, _ = seen(0, look)
		next, _ = seen(1, look)
		assert.NotEqual(t, one, next)
		look.Pixels, look.Moves = true, true
		one, _ = seen(0, look)
		assert.NotContains(t, one, "<image", "what is moved by hand is drawn")
	}
}
