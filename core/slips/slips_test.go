package slips_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/slips"
)

func ExampleDid() {
	fmt.Println(slips.Did(slips.LastLineCounted))
	// Output: took the last {line} for a reading, where {line} 0 counts
}

// Every slip is named once, in a code that a document can hold and words that go on from "somebody who …".
func TestEverySlipHasItsWords(t *testing.T) {
	seen := map[string]bool{}
	for _, s := range slips.All() {
		code := string(s.Code)
		assert.Regexp(t, `^[a-z]+(-[a-z]+)*$`, code)
		assert.False(t, seen[code], "%s stands twice", code)
		seen[code] = true
		require.NotEmpty(t, s.Did, code)
		assert.Equal(t, strings.ToLower(s.Did[:1]), s.Did[:1], "%s goes on in a sentence", code)
		assert.NotRegexp(t, `[.!%]`, s.Did, code)
		assert.Equal(t, s.Did, slips.Did(s.Code))
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
