package ui

import (
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A session is read as it was written, also one that an earlier version wrote; what a session cannot hold is refused
// when it is written.
func TestSessionsAreReadAsTheyWereWritten(t *testing.T) {
	until := time.Date(2026, 11, 26, 8, 30, 0, 123, time.UTC)
	holds := map[string]any{sessionStudent: int64(1) << 60, sessionEntry: int64(3)}
	for _, c := range []scs.Codec{SessionCodec{}, scs.GobCodec{}} {
		b, err := c.Encode(until, holds)
		require.NoError(t, err)
		deadline, values, err := SessionCodec{}.Decode(b)
		require.NoError(t, err)
		assert.True(t, until.Equal(deadline))
		assert.Equal(t, holds, values)
	}
	_, err := SessionCodec{}.Encode(until, map[string]any{"ratio": 0.5})
	assert.ErrorContains(t, err, "whole numbers and texts only")
	for _, bad := range []string{"", "{", `{"holds": {"student": "1"}}`, "\x00\x01"} {
		_, _, err := SessionCodec{}.Decode([]byte(bad))
		assert.Error(t, err, "%q", bad)
	}
}
