package kinds_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
)

// Of several instruments every reason against a wrong one is told, the first first; a job always has one that
// serves, and as a rule one that does not.
func TestPicking(t *testing.T) {
	with := []*instrument.Instrument{
		pattern(t, "Caliper 0.05 mm, 20 over 39", "0"),
		pattern(t, "Micrometer 0.01 mm", "0"),
		pattern(t, "Depth micrometer 0.01 mm", "0"),
		pattern(t, "Steel rule in mm", "0"),
	}
	it := &kinds.Picking{
		Unit:        length.Millimetre,
		Feature:     "outside",
		Size:        number(t, "12.5"),
		Tolerance:   number(t, "0.5"),
		Instruments: with,
	}
	require.NoError(t, it.Check())
	for choice, want := range map[string]string{"1": "", "2": "", "3": "cannot-reach", "4": "too-coarse"} {
		m := must(it.Mark(exercise.Answer{"choice": choice})).Fields[0]
		if want == "" {
			assert.Equal(t, exercise.Right, m.Outcome)
			continue
		}
		assert.EqualValues(t, want, m.Slips[0])
	}
	it.Best = "plainest"
	assert.EqualValues(t, "finer-than-needed", must(it.Mark(exercise.Answer{"choice": "2"})).Fields[0].Slips[0])
	it.Feature = "gear-tooth"
	assert.ErrorContains(t, it.Check(), "none that is suitable")

	sheet := exercise.Sheet{Blocks: []exercise.Block{block("pick", 30, "", with...)}, Dealer: exercise.Dealing}
	telling := 0
	for _, dealt := range must(sheet.Deal(kinds.All, 4)) {
		require.NoError(t, dealt.Check())
		for choice := range 4 {
			if must(dealt.Mark(exercise.Answer{"choice": []string{"1", "2", "3",
				"4"}[choice]})).Fields[0].Outcome == exercise.Wrong {
				telling++
				break
			}
		}
	}
	assert.Equal(t, 30, telling)
}

// Of angles an angle is asked, with its tolerance in degrees and minutes; angles and lengths are not mixed.
func TestPickingForAnAngle(t *testing.T) {
	pick := func(names ...string) *exercise.Sheet {
		b := exercise.Block{Kind: "pick", Cards: 4}
		for _, p := range instrument.Patterns() {
			if slices.Contains(names, p.Name) {
				b.Instruments = append(b.Instruments, must(instrument.New(p)))
			}
		}
		return &exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{b}}
	}
	angles := pick("Bevel protractor 5′", "Spectrometer circle 1′", "Circle 20″, 60 over 59")
	for _, it := range must(angles.Deal(kinds.All, 3)) {
		_, err := kinds.Parse(must(exercise.Document(it)))
		require.NoError(t, err)
		asks := said(it.Facts().About...)
		assert.Contains(t, asks, "an angle")
		assert.Regexp(t, `° \d\d′`, asks)
		assert.NotContains(t, asks, "deg")
	}
	err := pick("Bevel protractor 5′", "Height gauge 0.02 mm", "Circle 20″, 60 over 59").Check(kinds.All)
	require.ErrorContains(t, err, "all measure lengths, or all angles")
}
