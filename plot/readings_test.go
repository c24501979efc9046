package plot_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/figure"
	"cavix/plot"
)

// within holds that everything of a scene stands inside it.
func within(t *testing.T, s *figure.Scene, about string) {
	t.Helper()
	inside := func(x, y float64) {
		assert.False(t, math.IsNaN(x) || math.IsNaN(y), about)
		assert.True(t, x >= -1 && x <= s.Width+1 && y >= -1 && y <= s.Height+1, "%s: %g, %g", about, x, y)
	}
	for _, it := range s.Items {
		switch it := it.(type) {
		case figure.Line:
			inside(it.X1, it.Y1)
			inside(it.X2, it.Y2)
		case figure.Rect:
			inside(it.X, it.Y)
			inside(it.X+it.W, it.Y+it.H)
		case figure.Circle:
			inside(it.X, it.Y)
		case figure.Text:
			inside(it.X, it.Y)
		}
	}
}

// marks counts the readings that a plot shows, plain and out.
func marks(s *figure.Scene) (plain, out int) {
	for _, it := range s.Items {
		switch it := it.(type) {
		case figure.Circle:
			if it.Class == "reading" {
				plain++
			}
		case figure.Path:
			if it.Class == "reading out" {
				out++
			}
		}
	}
	return plain, out
}

// Whatever the readings, each has its mark, in the order of its size from below, those outside the limits another one,
// and all stands inside the picture.
func TestReadingsStandWhereTheyAre(t *testing.T) {
	draws := rand.New(rand.NewPCG(4, 0x706c6f74))
	for n := range 120 {
		lower, upper := 7.79, 7.85
		if n%3 == 0 { // large numbers, small grain
			lower, upper = 1207.79, 1207.85
		}
		l := plot.Limits{Lower: &lower, Upper: &upper, LowerText: "lower", UpperText: "upper"}
		var groups []plot.Group
		var all []float64
		outside := 0
		for g := range 1 + draws.IntN(14) {
			group := plot.Group{Name: fmt.Sprint("place number ", g)}
			for range draws.IntN(6) {
				x := lower + math.Round(draws.Float64()*12-3)/100
				group.Values = append(group.Values, x)
				if all = append(all, x); x < lower-1e-9 || x > upper+1e-9 {
					outside++
				}
			}
			groups = append(groups, group)
		}
		dots := plot.Dots(said, groups, l, 0.01)
		plain, out := marks(dots)
		assert.Equal(t, []int{len(all) - outside, outside}, []int{plain, out})
		within(t, dots, "dots")
		run := plot.Sequence(said, all, l, 0.01)
		plain, out = marks(run)
		assert.Equal(t, []int{len(all) - outside, outside}, []int{plain, out})
		within(t, run, "sequence")
		within(t, plot.Deviations(said, groups, lower+0.03, l, 0.01), "deviations")
		often := plot.Histogram(said, all, l, 0.01)
		within(t, often, "histogram")
		sum := 0
		for _, it := range often.Items {
			if c, ok := it.(figure.Text); ok && c.Class == "number" {
				var n int
				_, err := fmt.Sscan(c.S, &n)
				assert.NoError(t, err)
				sum += n
			}
		}
		assert.Equal(t, len(all), sum, "the columns of a histogram hold all readings")
		readers := []plot.Series{{Name: "A", Values: []float64{1, math.NaN(), 3}},
			{Name: "B", Values: []float64{math.NaN(), math.NaN(), math.NaN()}}}
		within(t, plot.Lines(said, []string{"1", "2", "3"}, readers, 0.01, "means"), "lines")
	}
}
