package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
)

// A tooth is measured: the addendum, the tongue set to it by moves from its start, the thickness read. What was
// worked out wrongly is paid for once, and a tongue set wrongly is told why.
func TestMeasuringATooth(t *testing.T) {
	in := pattern(t, "Gear-tooth vernier 0.02 mm", "0")
	it := &kinds.GearTooth{
		Instrument: in,
		Outside:    number(t, "108.00"),
		Pitch:      number(t, "100.00"),
		Start:      number(t, "9.00"),
		Indicated:  number(t, "6.28"),
		Ask:        []string{"addendum", "upright", "observed"},
	}
	require.NoError(t, it.Check())
	for _, tt := range []struct{ addendum, upright, observed, outcomes string }{
		{"4.00", "-2500", "6.28", "right right right"},
		{"4.00", "-2496", "6.28", "right right right"},  // within half a least count
		{"8.00", "-500", "6.28", "wrong carried right"}, // not halved, and set to that
		{"8.00", "-2500", "6.28", "wrong right right"},  // set rightly all the same
		{"4.00", "-2250", "6.28", "right wrong right"},  // a main mark too high
		{"", "-2500", "", "missing right missing"},
	} {
		r := must(it.Mark(exercise.Answer{"addendum": tt.addendum, "upright": tt.upright, "observed": tt.observed}))
		got := ""
		for _, m := range r.Fields {
			got += string(m.Outcome) + " "
		}
		assert.Equal(t, tt.outcomes+" ", got, "%+v", tt)
		e, err := it.Explain(
			exercise.Answer{"addendum": tt.addendum, "upright": tt.upright, "observed": tt.observed},
			exercise.Wording{},
		)
		require.NoError(t, err)
		assert.NotEmpty(t, e.Headline)
	}
	r := must(it.Mark(exercise.Answer{"addendum": "8.00", "upright": "-2250", "observed": "6.28"}))
	assert.EqualValues(t, "not-halved", r.Field("addendum").Slips[0])
	r = must(it.Mark(exercise.Answer{"addendum": "4.00", "upright": "-2250", "observed": "6.28"}))
	assert.EqualValues(t, "main-mark-missed", r.Field("upright").Slips[0], "read so, 4.50 is 4.00")

	fig := it.Figures()[0]
	at, moves := fig.Moved(-2500)
	assert.True(t, at.Equal(number(t, "4.00")) && moves == -2500, "it is the upright scale that moves: %s", at)
	_, moves = fig.Moved(-1_000_000)
	assert.Greater(t, moves, -100_000, "as far as the scale lets it")
	assert.True(t, fig.At.Equal(it.Indicated))

	it.Pitch = length.Int(200)
	assert.ErrorContains(t, it.Check(), "outside")
}
