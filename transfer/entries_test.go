package transfer_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/transfer"
)

func TestEntries(t *testing.T) {
	fields := []exercise.Field{{Name: "main"}, {Name: "fine_line"}, {Name: "observed"}, {Name: "zero_error"},
		{Name: "corrected"}}
	for line, want := range map[string]exercise.Answer{
		"12 3 12.06 +0.06 12.00": {"main": "12", "fine_line": "3", "observed": "12.06", "zero_error": "+0.06",
			"corrected": "12.00"},
		"  12\t3 ":                 {"main": "12", "fine_line": "3"},
		"12 - 12.06 . −0.06":       {"main": "12", "observed": "12.06", "corrected": "−0.06"},
		"1 3/16; 2; 1 25/128; ; 1": {"main": "1 3/16", "fine_line": "2", "observed": "1 25/128", "corrected": "1"},
		"":                         {},
	} {
		a, err := transfer.Entries(line, fields)
		require.NoError(t, err, line)
		assert.Equal(t, want, a, line)
	}
	_, err := transfer.Entries("1 2 3 4 5 6", fields)
	assert.ErrorContains(t, err, "parts=6 fields=5")
}
