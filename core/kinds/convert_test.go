package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
)

// A conversion is asked back in its own unit, in the step's own way of writing, and shown on a display.
func TestConversions(t *testing.T) {
	for _, tt := range []struct{ value, from, to, step, answer, outcome, slip string }{
		{"11.70", "mm", "in", "0.001", "0.461", "right", ""},
		{"11.70", "mm", "in", "0.001", "0.460", "wrong", "cut-not-rounded"},
		{"11.70", "mm", "in", "0.001", "0.4610", "form", ""},
		{"11.70", "mm", "in", "0.001", "11.7 mm", "wrong", ""},
		{"11.70", "mm", "in", "0.001", "297.180", "wrong", "wrong-way"},
		{"11.70", "mm", "in", "0.001", "4.61", "wrong", "tenfold"},
		{"1 3/16", "in", "mm", "0.01", "30.16", "right", ""},
		{"-11.70", "mm", "in", "0.001", "-0.461", "right", ""},
		{"2.00", "in", "cm", "1/4", "5", "right", ""},
	} {
		it := &kinds.Conversion{Value: tt.value, From: length.Unit(tt.from), To: length.Unit(tt.to), Step: tt.step}
		require.NoError(t, it.Check())
		require.Len(t, it.Figures(), 1, tt.value)
		fig := it.Figures()[0]
		r, err := fig.Instrument.Read(fig.At)
		require.NoError(t, err)
		assert.Equal(t, tt.value, fig.Instrument.Format(r.Observed))
		m := must(it.Mark(exercise.Answer{"value": tt.answer})).Fields[0]
		assert.EqualValues(t, tt.outcome, m.Outcome, "%+v", tt)
		if tt.slip != "" {
			assert.EqualValues(t, tt.slip, m.Slips[0], "%+v", tt)
		}
	}
}
