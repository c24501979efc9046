package plot_test

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/text"
	"cavix/locale"
	"cavix/plot"
)

// said prints in English.
var said = locale.English(text.Words{})

// A run has a mark for every event in its order, and says in words what it shows.
func TestRun(t *testing.T) {
	var events []plot.Event
	for i := range 20 {
		events = append(events, plot.Event{Did: i%3 == 0})
	}
	s := plot.Run(said, events, "You took the next mark")
	svg := string(s.SVG("", ""))
	assert.Equal(t, 7, strings.Count(svg, `class="did"`))
	assert.Equal(t, 13, strings.Count(svg, `class="not"`))
	assert.Equal(t, "You took the next mark: 7 of the last 20 times that it was possible, not the last time.", s.Label)
	assert.Contains(t, plot.Run(said, events[:1], "It").Label, "the last time too")
	assert.NotPanics(t, func() { plot.Run(said, nil, "It").SVG("", "") })
}

// Columns stand between the two rules, whatever the shares, and none lies outside the picture.
func TestColumns(t *testing.T) {
	list := []plot.Column{{"2 Nov", 12, 0.5}, {"3 Nov", 1, 1}, {"4 Nov", 40, 0}, {"5 Nov", 3, 1.7}}
	s := plot.Columns(said, list, "Cards all right")
	svg := string(s.SVG("", ""))
	assert.Equal(t, 4, strings.Count(svg, `class="column"`))
	assert.NotContains(t, svg, `height="-`)
	assert.Contains(t, s.Label, "2 Nov 50 % of 12;")
	assert.NotPanics(t, func() { plot.Columns(said, nil, "none").SVG("", "") })
}

// Marks of who answered, as pieces of a path.
var (
	dot      = regexp.MustCompile(`M[\d. ]+(a[-\d. ]+){2}Z`)
	triangle = regexp.MustCompile(`M[\d. ]+(L[\d. ]+){2}Z`)
)

// marked counts the marks in a drawing.
func marked(svg string, mark *regexp.Regexp) int { return len(mark.FindAllString(svg, -1)) }

// Where values differ a column is a slip, the further astray the further to the right, behind those who were right.
func TestSlipRule(t *testing.T) {
	s := plot.SlipRule(said, 30, []plot.Astray{{"next mark", 1, 4}, {"next line", 0.05, 9}, {"cm for mm", 40, 1}},
		plot.Wide)
	assert.Equal(t, "30 right; 9 next line; 4 next mark; 1 cm for mm.", s.Label)
	assert.Equal(t, 30, marked(string(s.SVG("", "")), dot))
	assert.Contains(t, plot.SlipRule(said, 0, nil, plot.Wide).Label, "Nobody")
}

// The answer rule stands in order of size, is broken only where answers lie far apart, has a mark for each who
// answered, and says all of it in words.
func TestAnswerRule(t *testing.T) {
	list := []plot.Answer{{"46.20", 46.20, 4, false, "next mark", 1}, {"45.20", 45.20, 17, true, "right", 2},
		{"45.15", 45.15, 2, false, "line 3", 3}, {"49.20", 49.20, 1, false, "", 4}}
	s := plot.AnswerRule(said, list, 0.05, plot.Large)
	svg := string(s.SVG("", ""))
	assert.Equal(t, 17, marked(svg, dot))
	assert.Equal(t, 7, marked(svg, triangle))
	assert.Equal(t, 2*2, strings.Count(svg, `class="break"`), "before 46.20 and before 49.20")
	assert.Less(t, strings.Index(svg, ">45.15<"), strings.Index(svg, ">45.20<"))
	assert.Equal(t, "2 wrote 45.15, line 3; 17 wrote 45.20, right; 4 wrote 46.20, next mark; 1 wrote 49.20.", s.Label)
	assert.Equal(t, "46.20", list[0].Text, "what was given stays in its order")

	// However many there are, nothing stands outside, the right answer is there, and nobody is left out of the words.
	var many []plot.Answer
	for i := range 60 {
		many = append(many, plot.Answer{Text: "x", At: float64(i), Count: 1 + i%7})
	}
	many[40].Right, many[40].Count = true, 300
	s = plot.AnswerRule(said, many, 1, plot.Small)
	assert.Contains(t, s.Label, "300 wrote x")
	total := 0
	for _, part := range strings.Split(strings.TrimSuffix(s.Label, "."), "; ") {
		n, err := strconv.Atoi(strings.Fields(part)[0])
		require.NoError(t, err)
		total += n
	}
	assert.Equal(t, 300+func() (n int) {
		for i := range 60 {
			if i != 40 {
				n += 1 + i%7
			}
		}
		return n
	}(), total)
	assert.Equal(t, "Nobody has answered.", plot.AnswerRule(said, nil, 1, plot.Small).Label)
}
