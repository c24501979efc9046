package instrument_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
)

// Every family has what the rest of the program asks of one: a ready instrument of its own, words, and a least count
// that is found by relations which come to it.
func TestEveryFamilyIsComplete(t *testing.T) {
	for _, f := range instrument.Families {
		spec, known := f.Family.Usual()
		require.True(t, known, f.Name)
		assert.Equal(t, f.Family, spec.Family)
		in, err := instrument.New(spec)
		require.NoError(t, err, f.Name)
		has, scale := in.Traits(), in.Scale()
		assert.Equal(t, f.Fine, in.Kind())
		assert.Equal(t, has.HasLines, scale.Term() != "", f.Name)
		assert.Equal(t, has.HasLines, !scale.FindLine().IsZero(), f.Name)
		assert.Equal(t, has.HasLines && has.AtIndex, scale.Index() != "", f.Name)
		assert.NotEmpty(t, in.ZeroStory(), f.Name)
		assert.Equal(t, has.HasLines, len(scale.Parts()) > 0, "%s: its parts have names", f.Name)
		assert.False(t, has.AtIndex && has.Coincides, f.Name)
		found := scale.Finding(in)
		if len(found.Quantities) == 0 {
			assert.False(t, has.HasMarks, "%s: what has marks has a least count to find", f.Name)
			continue
		}
		assert.NotEmpty(t, found.Hint)
		for _, r := range found.Relations {
			assert.Contains(t, found.Quantities, r.Is)
			if r.Value != nil {
				x, by := r.Value(in.Quantity)
				assert.True(t, x.Quo(by).Equal(in.Quantity(r.Is)), "%s: %s", f.Name, r.Is)
			}
		}
	}
}
