package instrument_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
)

func TestUsualNumbering(t *testing.T) {
	for _, tt := range []struct {
		family   instrument.Family
		unit     length.Unit
		division string
		want     int // the numbers stand at multiples of this many divisions
	}{
		{instrument.VernierCaliper, length.Millimetre, "1", 10},
		{instrument.VernierCaliper, length.Millimetre, "0.5", 20}, // every 10 mm, as on a scale of 1 mm
		{instrument.VernierCaliper, length.Centimetre, "0.1", 10},
		{instrument.VernierCaliper, length.Centimetre, "0.05", 20},
		{instrument.VernierCaliper, length.Inch, "0.025", 4},
		{instrument.VernierCaliper, length.Inch, "1/16", 16},
		{instrument.Rule, length.Inch, "1/32", 32},
		{instrument.Rule, length.Inch, "1/10", 10},
		{instrument.Micrometer, length.Millimetre, "0.5", 10},
		{instrument.Micrometer, length.Millimetre, "1", 5},
		{instrument.Rule, length.Millimetre, "2", 5},
		{instrument.VernierCaliper, length.Millimetre, "0.9", 10}, // no round value: 9, 18, 27
		{instrument.VernierCaliper, length.Millimetre, "0.7", 10},
	} {
		typed, err := length.ReadTyped(tt.division)
		require.NoError(t, err)
		assert.Equal(t, tt.want, instrument.UsualNumbering(tt.family, tt.unit, typed.Value, typed.Fraction), "%s %s",
			tt.family, tt.division)
	}
}

// No ready instrument is misnumbered; one whose numbers grow by something else says at which mark.
func TestMisnumbered(t *testing.T) {
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		assert.Empty(t, in.Misnumbering(), p.Name)
	}
	spec := instrument.Spec{Family: instrument.Rule, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(100), NumberEvery: 10, NumberStep: length.Int(1)}}
	in, err := instrument.New(spec)
	require.NoError(t, err)
	assert.Empty(t, in.Misnumbering(), "in centimetres")
	spec.Main.NumberStep = length.Int(5)
	in, err = instrument.New(spec)
	require.NoError(t, err)
	assert.Equal(t, "The mark at 10 mm has the number 5, and every later number is wrong by the same factor",
		said(in.Misnumbering()))
}
