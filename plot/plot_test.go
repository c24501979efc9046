package plot_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"cavix/plot"
)

// A run has a mark for every event in its order, and says in words what it shows.
func TestRun(t *testing.T) {
	var events []plot.Event
	for i := range 20 {
		events = append(events, plot.Event{Did: i%3 == 0})
	}
	s := plot.Run(events, "You took the next mark")
	svg := string(s.SVG("", ""))
	assert.Equal(t, 7, strings.Count(svg, `class="did"`))
	assert.Equal(t, 13, strings.Count(svg, `class="not"`))
	assert.Equal(t, "You took the next mark: 7 of the last 20 times that it could have been, not the last time.", s.Label)
	assert.Contains(t, plot.Run(events[:1], "It").Label, "the last time too")
	assert.NotPanics(t, func() { plot.Run(nil, "It").SVG("", "") })
}

// Columns stand between the two rules, whatever the shares, and none lies outside the picture.
func TestColumns(t *testing.T) {
	list := []plot.Column{{"2 Nov", 12, 0.5}, {"3 Nov", 1, 1}, {"4 Nov", 40, 0}, {"5 Nov", 3, 1.7}}
	s := plot.Columns(list, "Cards all right")
	svg := string(s.SVG("", ""))
	assert.Equal(t, 4, strings.Count(svg, `class="column"`))
	assert.NotContains(t, svg, `height="-`)
	assert.Contains(t, s.Label, "2 Nov 50 per cent of 12;")
	assert.NotPanics(t, func() { plot.Columns(nil, "none").SVG("", "") })
}
