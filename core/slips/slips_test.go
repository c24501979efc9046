package slips_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/slips"
)

func ExampleAll() {
	fmt.Println(said(slips.LastLineCounted.You()))
	// Output: You counted the last line, where line 0 counts.
}

// Every slip is named once, in a code that a document can hold, and has its words: a sentence to who made it, a phrase
// for tables, and a short one.
func TestEverySlipHasItsWords(t *testing.T) {
	seen := map[exercise.Code]bool{}
	for _, s := range slips.All() {
		assert.Regexp(t, `^[a-z]+(-[a-z]+)*$`, s.Code)
		assert.False(t, seen[s.Code], "%s stands twice", s.Code)
		seen[s.Code] = true
		assert.Regexp(t, `^Your? .*\.$`, said(s.Code.You()))
		assert.Regexp(t, `^[a-z][^.!%⟦]*$`, said(s.Code.Name()))
		assert.Regexp(t, `^[^.!%⟦]{3,34}$`, said(s.Code.Short()))
	}
	assert.Greater(t, len(seen), 25)
}

// What can be asked of an instrument is what it has.
func TestWhatCanBeAsked(t *testing.T) {
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		for _, step := range slips.Steps {
			can := slips.Can(in, step)
			switch step {
			case "observed", "corrected":
				assert.True(t, can, "%s of %s", step, p.Name)
			case "fine_line", "fine":
				assert.Equal(t, in.HasFine(), can, "%s of %s", step, p.Name)
			case "finer_line", "finer":
				assert.Equal(t, in.HasFiner(), can, "%s of %s", step, p.Name)
			}
		}
	}
}
