package figure_test

import (
	"fmt"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/figure"
)

// A gear tooth is as thick as the jaws are apart where their tips touch it, less above and more below.
func TestAToothBetweenTheJaws(t *testing.T) {
	var in *instrument.Instrument
	for _, p := range instrument.Patterns() {
		if p.Family == instrument.GearTooth {
			var err error
			in, err = instrument.New(p)
			require.NoError(t, err)
			break
		}
	}
	require.NotNil(t, in)
	wide := 0.0
	for _, thick := range []string{"2", "4.5"} {
		y, err := length.Parse(thick)
		require.NoError(t, err)
		d, err := figure.Lay(in, y, figure.Wide)
		require.NoError(t, err)
		svg := string(d.Scene(figure.Options{}).SVG("", ""))
		path := regexp.MustCompile(`class="work" d="([^"]+)"`).FindStringSubmatch(svg)
		require.NotNil(t, path, "the work is a tooth")
		var x []float64 // of the ends of its curves, on from its foot
		for _, end := range regexp.MustCompile(`(?:M|Q[-\d.]+ [-\d.]+ |H)(-?[\d.]+)`).FindAllStringSubmatch(path[1],
			-1) {
			n, err := strconv.ParseFloat(end[1], 64)
			require.NoError(t, err)
			x = append(x, n)
		}
		require.Len(t, x, 6, fmt.Sprint(path[1]))
		foot, tips, top := x[5]-x[0], x[4]-x[1], x[3]-x[2]
		assert.Greater(t, foot, tips)
		assert.Greater(t, tips, top)
		if wide > 0 {
			assert.InDelta(t, wide*4.5/2, tips, 0.1, "in the measure of the scale")
		}
		wide = tips
	}
}
