package figure_test

import (
	"bytes"
	"compress/gzip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/figure"
)

// The figure of every ready instrument comes over a poor line in at most six kilobytes.
func TestFiguresAreSmall(t *testing.T) {
	t.Parallel()
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		for _, width := range []float64{figure.Narrow, figure.Wide} {
			lay, err := figure.Lay(in, somewhere(in), width)
			require.NoError(t, err, p.Name)
			var small bytes.Buffer
			z := gzip.NewWriter(&small)
			_, err = z.Write([]byte(lay.Scene(figure.Options{}).SVG("", "")))
			require.NoError(t, err)
			require.NoError(t, z.Close())
			assert.LessOrEqual(t, small.Len(), 6<<10, p.Name)
		}
	}
}
