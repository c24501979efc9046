package walk_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/walk"
	"cavix/core/walk/walktest"
	"cavix/locale"
)

// hear lists what is told of an instrument, the lines of each scale.
func hear(in *instrument.Instrument, y length.Number) (out [][]string) {
	for _, s := range walk.Of(in, y) {
		var lines []string
		for _, l := range s.Lines {
			lines = append(lines, locale.Documents().Print(l))
		}
		out = append(out, lines)
	}
	return out
}

// What is told of a figure is enough to read it, at any position on the grid of every instrument: the line, and the
// mark wherever one can be seen to count.
func TestWhatIsToldCanBeRead(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(5, 8))
	read := map[instrument.Family]int{}
	for n := range 3000 {
		in := instrumenttest.Any(draws)
		if n%3 == 0 {
			in = instrumenttest.Ready(draws)
		}
		r, err := in.Read(instrumenttest.Position(draws, in))
		require.NoError(t, err)
		if r, err = in.Read(r.Observed); err != nil { // the very end
			continue
		}
		about := fmt.Sprintf("%s at %s", in.Describe(), in.Format(r.Observed))
		scales := hear(in, r.Observed)
		require.NotEmpty(t, scales, about)
		if in.Traits().Digits {
			assert.Equal(t, []string{"It shows " + exercise.Show(in.Unit().With(in.Format(r.Observed))) + "."},
				scales[0], about)
			continue
		}
		sum, sure := walktest.Observed(in, scales)
		if !sure {
			continue
		}
		read[in.Spec().Family]++
		require.True(t, sum.Equal(r.Observed), "%s: %s, from %q", about, sum, scales)
	}
	for _, f := range []instrument.Family{instrument.VernierCaliper, instrument.Micrometer, instrument.DialCaliper,
		instrument.DepthMicrometer, instrument.Protractor, instrument.AngleCircle, instrument.Spherometer} {
		assert.Greater(t, read[f], 10, f)
	}
}

// Between two lines the parts of the way are told as an eye guesses them, and no line is said to meet a mark.
func TestBetweenTwoLines(t *testing.T) {
	in := ready(t, "Micrometer 0.01 mm")
	y, _ := length.Parse("7.234")
	assert.Equal(t, []string{"between line 23 and line 24, about 4 tenths of the way"}, hear(in, y)[1])
	in = ready(t, "Caliper 0.05 mm, 20 over 39")
	y, _ = length.Parse("7.225")
	lines := strings.Join(hear(in, y)[1], "\n")
	assert.NotContains(t, lines, "meets")
	assert.Equal(t, 2, strings.Count(lines, "very close"))
	y, _ = length.Parse("999")
	assert.Empty(t, walk.Of(in, y), "off the scale")
}

func ready(t *testing.T, name string) *instrument.Instrument {
	t.Helper()
	p, ok := instrument.PatternNamed(name)
	require.True(t, ok)
	in, err := instrument.New(p)
	require.NoError(t, err)
	return in
}
