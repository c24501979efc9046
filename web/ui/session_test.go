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
	holds := map[string]any{sessionStudent: int64(1) << 60, sessionEntry: int64(3), "said": "50 % & \"= ∅\n"}
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
}

// A session that cannot be read, as one of a version that never was released, is that of somebody who signs in again.
func TestASessionThatCannotBeReadIsEmpty(t *testing.T) {
	for _, bad := range []string{"", "{", `{"until":"2026-11-26T08:30:00Z","holds":{"student":1}}`, "until=tomorrow",
		"until=2026-11-26T08:30:00Z&n.student=1.5", "\x00\x01"} {
		deadline, values, err := SessionCodec{}.Decode([]byte(bad))
		require.NoError(t, err, "%q", bad)
		assert.Empty(t, values, "%q", bad)
		assert.WithinDuration(t, time.Now().Add(24*time.Hour), deadline, time.Hour, "%q", bad)
	}
}
